"""Edits of animations: which frames, in which order, for how long, and what the game calls them."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence

from msgspec.structs import replace

from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import natural_key, new_id, unique_name
from rushweed.core.document.model.animation import Animation, Frame, Play, State
from rushweed.core.document.model.animation import Path as MovePath
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.document.rows import row_lines

MOST_MS = 3_600_000
STEM = re.compile(r"^(.*?)[ _.-]*\d*$")


def animation_of(project: Project, animation_id: str) -> Animation:
    """The animation with that id; raises EditError if the project has none."""
    for animation in project.animations:
        if animation.id == animation_id:
            return animation
    raise EditError(f"The project has no animation {animation_id!r}.", "Choose one from the Shelf.")


def put_animation(project: Project, animation: Animation) -> Project:
    """The project with an animation in place of the one of its id."""
    animations = tuple(animation if a.id == animation.id else a for a in project.animations)
    return replace(project, animations=animations)


def stem_of(name: str) -> str:
    """What the names of frames share: `walk` for `walk_03`."""
    match = STEM.match(name)
    return (match[1] if match else name) or name


def animate(project: Project, cell_ids: Sequence[str], name: str = "", ms: int = 100) -> tuple[Project, str]:
    """A new animation of some cells in the order given; returns its id too. Without a name it is called by
    what the cells' names share. Raises EditError without cells."""
    names = {c.id: c.name for sheet in project.sheets for c in sheet.cells}
    chosen = [i for i in cell_ids if i in names]
    if not chosen:
        raise EditError("An animation needs frames.", "Select cells on the Desk or in the Strip.")
    wanted = name.strip() or stem_of(names[chosen[0]])
    made = Animation(
        new_id(),
        unique_name(wanted, (a.name for a in project.animations)),
        tuple(Frame(cell, ms) for cell in chosen),
    )
    return replace(project, animations=(*project.animations, made)), made.id


def animate_rows(project: Project, sheet_id: str, ms: int = 100) -> tuple[Project, tuple[str, ...]]:
    """One animation for each row of a sheet with two cells or more, of a sheet in one column one of all;
    returns their ids too."""
    sheet = sheet_of(project, sheet_id)
    by_rect = {cell.rect: cell for cell in sheet.cells}
    made: list[str] = []
    lines = row_lines(list(by_rect))
    if len({rect[0] for rect in by_rect}) == 1:
        lines = [[rect for line in lines for rect in line]]
    for line in lines:
        if len(line) > 1:
            project, one = animate(project, [by_rect[rect].id for rect in line], ms=ms)
            made.append(one)
    if not made:
        raise EditError(f"{sheet.name} has no row of two cells or more.", "Select the frames instead.")
    return project, tuple(made)


def animate_stems(project: Project, sheet_id: str, ms: int = 100) -> tuple[Project, tuple[str, ...]]:
    """One animation for each stem that names of two cells or more share, in natural order of the names;
    returns their ids too."""
    sheet = sheet_of(project, sheet_id)
    stems: dict[str, list[Cell]] = {}
    for cell in sorted(sheet.cells, key=lambda c: natural_key(c.name)):
        if cell.name != stem_of(cell.name):
            stems.setdefault(stem_of(cell.name), []).append(cell)
    made: list[str] = []
    for stem, cells in sorted(stems.items(), key=lambda item: natural_key(item[0])):
        if len(cells) > 1:
            project, one = animate(project, [c.id for c in cells], stem, ms)
            made.append(one)
    if not made:
        raise EditError(f"No names on {sheet.name} share a stem, such as walk_0, walk_1.", "Name the cells.")
    return project, tuple(made)


def rename_animation(project: Project, animation_id: str, name: str) -> Project:
    """Give an animation a name, made unique. Raises EditError for an empty one."""
    animation = animation_of(project, animation_id)
    if not name.strip():
        raise EditError("An animation needs a name.", "Type at least one letter.")
    free = unique_name(name.strip(), (a.name for a in project.animations if a.id != animation_id))
    return put_animation(project, replace(animation, name=free))


def remove_animation(project: Project, animation_id: str) -> Project:
    """Take an animation away; states that showed it show nothing until they are given another."""
    animation_of(project, animation_id)
    project = replace(project, animations=tuple(a for a in project.animations if a.id != animation_id))
    for sheet in project.sheets:
        if any(s.animation == animation_id for s in sheet.states):
            states = tuple(
                replace(s, animation="") if s.animation == animation_id else s for s in sheet.states
            )
            project = put_sheet(project, replace(sheet, states=states))
    return project


def copy_animation(project: Project, animation_id: str) -> tuple[Project, str]:
    """The same frames once more under another name; returns the new id too."""
    animation = animation_of(project, animation_id)
    name = unique_name(animation.name, (a.name for a in project.animations))
    copy = replace(animation, id=new_id(), name=name)
    return replace(project, animations=(*project.animations, copy)), copy.id


def set_play(project: Project, animation_id: str, play: Play) -> Project:
    """Set how an animation runs: once, round and round, or there and back."""
    return put_animation(project, replace(animation_of(project, animation_id), play=play))


def set_path(project: Project, animation_id: str, path: MovePath | None) -> Project:
    """Let what shows the animation move along a path, or stand still. Raises EditError for a time below 1."""
    if path is not None and not 1 <= path.ms <= MOST_MS:
        raise EditError(f"A path cannot take {path.ms} ms.", "Use 1 ms to an hour.")
    return put_animation(project, replace(animation_of(project, animation_id), path=path))


def set_ms(project: Project, animation_id: str, ms: int, frames: Collection[int] = ()) -> Project:
    """How long frames are shown, by place in the animation; all of them if none is named."""
    if not 1 <= ms <= MOST_MS:
        raise EditError(f"A frame cannot last {ms} ms.", "Use 1 ms to an hour.")
    animation = animation_of(project, animation_id)
    changed = tuple(
        replace(f, ms=ms) if not frames or n in frames else f for n, f in enumerate(animation.frames)
    )
    return put_animation(project, replace(animation, frames=changed))


def set_rate(project: Project, animation_id: str, frames_per_second: float) -> Project:
    """One frame rate for all frames: whole ms that add up to it without drifting."""
    if not 0.1 <= frames_per_second <= 1000:
        raise EditError(f"{frames_per_second:g} frames per second cannot be shown.", "Use 0.1 to 1000.")
    animation = animation_of(project, animation_id)
    ends = [round(1000 * (n + 1) / frames_per_second) for n in range(len(animation.frames))]
    times = [max(b - a, 1) for a, b in zip([0, *ends], ends, strict=False)]
    frames = tuple(replace(f, ms=ms) for f, ms in zip(animation.frames, times, strict=True))
    return put_animation(project, replace(animation, frames=frames))


def rate_of(animation: Animation) -> float | None:
    """The frame rate if all frames last alike (to the ms), else None."""
    times = [f.ms for f in animation.frames]
    if not times or max(times) - min(times) > 1:
        return None
    return round(1000 * len(times) / sum(times), 2)


def insert_frames(project: Project, animation_id: str, at: int, cell_ids: Sequence[str]) -> Project:
    """Put cells into an animation before place `at`; a cell may stand in it several times."""
    animation = animation_of(project, animation_id)
    at = min(max(at, 0), len(animation.frames))
    near = animation.frames[at - 1].ms if animation.frames else 100
    fresh = tuple(Frame(cell, near) for cell in cell_ids)
    frames = (*animation.frames[:at], *fresh, *animation.frames[at:])
    return put_animation(project, replace(animation, frames=frames))


def remove_frames(project: Project, animation_id: str, places: Collection[int]) -> Project:
    """Take the frames at some places out; their cells stay."""
    animation = animation_of(project, animation_id)
    left = tuple(f for n, f in enumerate(animation.frames) if n not in places)
    return put_animation(project, replace(animation, frames=left))


def move_frames(project: Project, animation_id: str, places: Collection[int], to: int) -> Project:
    """Move frames, in their order, so that they stand before the frame now at place `to`."""
    animation = animation_of(project, animation_id)
    chosen = set(places)
    before = [f for n, f in enumerate(animation.frames) if n not in chosen and n < to]
    after = [f for n, f in enumerate(animation.frames) if n not in chosen and n >= to]
    moving = [f for n, f in enumerate(animation.frames) if n in chosen]
    frames = (*before, *moving, *after)
    return (
        project if frames == animation.frames else put_animation(project, replace(animation, frames=frames))
    )


def reverse_frames(project: Project, animation_id: str) -> Project:
    """Turn the order of the frames round."""
    animation = animation_of(project, animation_id)
    return put_animation(project, replace(animation, frames=tuple(reversed(animation.frames))))


# -- what the game calls them ----------------------------------------------------------------------------


def home_of(project: Project, animation: Animation) -> Sheet | None:
    """The sheet of the first frame: whose states the animation can be given to."""
    if not animation.frames:
        return None
    first = animation.frames[0].cell
    return next((s for s in project.sheets if any(c.id == first for c in s.cells)), None)


def set_state(project: Project, sheet_id: str, name: str, animation_id: str = "") -> Project:
    """Give a state of a sheet an animation; a state that is new is added at the end."""
    sheet, word = sheet_of(project, sheet_id), name.strip()
    if not word:
        raise EditError("A state needs a name.", "Type the game's word, such as idle.")
    if animation_id:
        animation_of(project, animation_id)
    fresh = State(word, animation_id)
    known = any(s.name == word for s in sheet.states)
    states = tuple(fresh if s.name == word else s for s in sheet.states) if known else (*sheet.states, fresh)
    return project if states == sheet.states else put_sheet(project, replace(sheet, states=states))


def remove_state(project: Project, sheet_id: str, name: str) -> Project:
    """Take a state off a sheet; its animation stays."""
    sheet = sheet_of(project, sheet_id)
    return put_sheet(project, replace(sheet, states=tuple(s for s in sheet.states if s.name != name)))


def make_default(project: Project, sheet_id: str, name: str) -> Project:
    """Put a state first: what the game shows when nothing else is asked."""
    sheet = sheet_of(project, sheet_id)
    states = tuple(sorted(sheet.states, key=lambda s: s.name != name))
    return project if states == sheet.states else put_sheet(project, replace(sheet, states=states))
