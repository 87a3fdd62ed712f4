"""Findings about walking a level: what cannot be reached, and where one catches. They take a search."""

from __future__ import annotations

from collections.abc import Callable

from rushweed.core.document.edit import level_of
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.level.outline_faults import Fault, mend
from rushweed.core.walk.catches import Catch, catches
from rushweed.core.walk.reach import reach
from rushweed.core.walk.reached import Reach
from rushweed.core.walk.walkers import walker_of
from rushweed.core.walk.world import World

MOST = 20  # of each sort that are told


def of_level(
    project: Project, level: Level, tell: Callable[[float, str], None] = lambda share, words: None
) -> tuple[Reach, list[Finding]]:
    """What a level's walker reaches, and the findings about it. Raises EditError where nobody can walk."""
    world = World()
    world.update(project, level, walker_of(level).group, None, lambda _share: tell(0.0, "the level"))
    found = reach(world, tell)
    return found, [*_missed(level, found), *_caught(project, level, catches(world))]


def of_levels(project: Project) -> list[Finding]:
    """The findings of every level that can be walked."""
    found: list[Finding] = []
    for level in project.levels:
        try:
            found += of_level(project, level)[1]
        except RushweedError:
            continue  # nothing to walk on
    return found


def _missed(level: Level, found: Reach) -> list[Finding]:
    """Things and sensors nobody can touch."""
    return [
        Finding("never-reached", "hint",
                f"{level.name}: the {m.kind} {m.name} at {m.spot[0]}, {m.spot[1]} cannot be reached.",
                Place("walk", level=level.id, spot=m.spot))
        for m in found.missed[:MOST]
    ]  # fmt: skip


def _caught(project: Project, level: Level, caught: list[Catch]) -> list[Finding]:
    """Places where a walk catches, with the cure where points between px are the cause."""
    if not caught:
        return []
    faults = [Fault(c.kind, c.at) for c in caught]
    cure: Fix | None = Fix("Mend the shapes", lambda p: mend(p, level_of(p, level.id), faults))
    try:
        mend(project, level, faults)
    except RushweedError:
        cure = None
    made = []
    for catch in caught[:MOST]:
        spot = (int(catch.at[0] // level.cell[0]), int(catch.at[1] // level.cell[1]))
        text = (
            f"{level.name}: a {catch.kind} that is hardly seen at {spot[0]}, {spot[1]} catches whoever walks."
        )
        made.append(Finding("catches", "hint", text, Place("walk", level=level.id, spot=spot), cure))
    return made
