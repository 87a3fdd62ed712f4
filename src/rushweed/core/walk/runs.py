"""Runs: the keys of a walk, kept with the level, and whether they still arrive."""

from __future__ import annotations

from msgspec.structs import replace

from rushweed.core.document.edit import level_of, put_level
from rushweed.core.document.errors import EditError, NothingSolidError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.limits import check_run
from rushweed.core.document.model.level import Level, Run
from rushweed.core.document.model.project import Project
from rushweed.core.walk.held_keys import keys_of
from rushweed.core.walk.record import Walk
from rushweed.core.walk.world import World, free_place

NEAR = 0.5  # cells from its end at which a run has arrived


def replay(world: World, run: Run) -> Walk:
    """Walk a run. Raises EditError if it is of another level, or begins inside something solid."""
    if run.level != world.level.id:
        raise EditError(
            f"Run {run.name} belongs to another level than {world.level.name}.", "Choose its level."
        )
    check_run(run)
    walk = begin(world, run.start)
    for keys in keys_of(run):
        walk.advance(keys)
    return walk


def begin(world: World, feet: tuple[float, float] | None = None, still: bool = False) -> Walk:
    """A walk from a place, or the level's start. Raises EditError where nothing is solid, or no room."""
    walk = Walk(world, feet, still)
    level = world.level
    if not len(world.grid.edges) and not world.movers and level.view == "side":
        raise NothingSolidError(
            f"Nothing in {level.name} is solid: one would fall.",
            "Give its tiles shapes in Shape, or see it from above.",
        )
    if not free_place(world, walk.start, walk.body[2:]):
        x, y = walk.start
        spot = f"{x / walk.ppu:.1f}, {y / walk.ppu:.1f}"
        raise EditError(
            f"The walker of {level.name} does not fit at {spot}: something solid is there.",
            "Put the start elsewhere (tool Start in Paint), or make the body smaller.",
        )
    return walk


def arrives(walk: Walk, run: Run) -> bool:
    """Whether a walk ends where the run did when it was made, within half a cell."""
    if run.end is None:
        return True
    cw, ch = walk.world.level.cell
    x, y = walk.feet
    return abs(x - run.end[0]) <= NEAR * cw and abs(y - run.end[1]) <= NEAR * ch


def keep_run(project: Project, level_id: str, run: Run) -> tuple[Project, str]:
    """Keep a run with its level; returns its id too. Raises EditError for one that cannot be walked."""
    level = level_of(project, level_id)
    check_run(run)
    name = unique_name(run.name.strip() or "run", (r.name for r in level.runs))
    made = replace(run, id=new_id(), name=name, level=level_id)
    return put_level(project, replace(level, runs=(*level.runs, made))), made.id


def change_run(
    project: Project, level_id: str, run_id: str, name: str | None = None, must: bool | None = None
) -> Project:
    """Rename a run, or say whether it must arrive. Raises EditError if it is gone or the name is taken."""
    level = level_of(project, level_id)
    old = run_of(level, run_id)
    made = replace(
        old, name=old.name if name is None else name.strip(), must=old.must if must is None else must
    )
    if not made.name or any(r.name == made.name for r in level.runs if r.id != run_id):
        raise EditError(f"A run cannot be called {made.name!r}.", "Use a name that no other has.")
    runs = tuple(made if r.id == run_id else r for r in level.runs)
    return project if made == old else put_level(project, replace(level, runs=runs))


def remove_run(project: Project, level_id: str, run_id: str) -> Project:
    """Take a run out of a level. Raises EditError if it has none with that id."""
    level = level_of(project, level_id)
    run_of(level, run_id)
    return put_level(project, replace(level, runs=tuple(r for r in level.runs if r.id != run_id)))


def run_of(level: Level, run_id: str) -> Run:
    """Raises EditError if the level has none with that id."""
    found = next((r for r in level.runs if r.id == run_id), None)
    if found is None:
        raise EditError("That run is gone.", "Choose another.")
    return found
