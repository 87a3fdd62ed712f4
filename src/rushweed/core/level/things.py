"""Things placed freely in a level: cells or animations, on whole px, moving along a path if they have one."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import chain
from operator import is_
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.animate.play import frame_at, place_on
from rushweed.core.document.edit import cell_homes, level_of, put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id
from rushweed.core.document.model.animation import Animation, Path
from rushweed.core.document.model.level import Level, Thing
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet

MOST_LEVELS = 8  # whose things are remembered as they stand
MOST_AREAS = 16  # of a level, in which is remembered what is seen
EVERYWHERE = (-math.inf, -math.inf, math.inf, math.inf)
EVEN = 1e-9  # px within which a place counts as the next whole px

Area = tuple[float, float, float, float]  # left, top, width, height, level px
Quad = tuple[tuple[float, float], tuple[float, float], tuple[float, float], tuple[float, float]]


def whole_px(value: float) -> int:
    """The nearest whole px, of two the one further right or down: moving by whole px never changes which."""
    return math.floor(value + 0.5)


def stands_plain(thing: Thing) -> bool:
    """Whether a thing is neither turned nor scaled."""
    return thing.turn % 360 == 0 and thing.scale == (1, 1)


class Shown(NamedTuple):
    """A thing at one moment: the cell it shows, and the level px of that cell's top left as long as it is
    neither scaled nor turned. `foot` is where its pivot stands."""

    thing: Thing
    sheet: Sheet
    cell: Cell
    left: float
    top: float
    foot: tuple[float, float]

    @property
    def plain(self) -> bool:
        """Whether it is drawn px for px, at most mirrored."""
        return stands_plain(self.thing)

    def matrix(self) -> tuple[float, float, float, float, float, float]:
        """From px of the cell's art to level px, (a, b, c, d, e, f): x' = a x + b y + e, y' = c x + d y + f.
        Mirrored and scaled first, then turned, about the pivot; drawn px for px it stands on whole px."""
        mirror = -1 if self.thing.mirrored else 1
        wide = self.cell.rect[2]
        if self.plain:
            left, top = whole_px(self.left), whole_px(self.top)
            return (mirror, 0, 0, 1, left + (wide if mirror < 0 else 0), top)
        turn = math.radians(self.thing.turn)
        cos, sin = math.cos(turn), math.sin(turn)
        sx, sy = self.thing.scale[0] * mirror, self.thing.scale[1]
        px, py = self.cell.pivot[0] - self.cell.shift[0], self.cell.pivot[1] - self.cell.shift[1]
        a, b, c, d = cos * sx, -sin * sy, sin * sx, cos * sy
        return (a, b, c, d, self.foot[0] - a * px - b * py, self.foot[1] - c * px - d * py)

    def corners(self) -> Quad:
        """The corners of its cell, level px, clockwise from what was its top left."""
        a, b, c, d, e, f = self.matrix()
        w, h = self.cell.rect[2:]
        top_left, top_right = (e, f), (a * w + e, c * w + f)
        return top_left, top_right, (a * w + b * h + e, c * w + d * h + f), (b * h + e, d * h + f)

    def box(self) -> tuple[float, float, float, float]:
        """Left, top, width, height of all it covers, level px."""
        if self.plain:
            return whole_px(self.left), whole_px(self.top), *self.cell.rect[2:]
        xs, ys = zip(*self.corners(), strict=True)
        return min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)


def shown_at(
    thing: Thing, cells: dict[str, tuple[Sheet, Cell]], project: Project, ms: float = 0.0
) -> Shown | None:
    """What a thing shows `ms` after the level began, or None if its cell or animation is gone."""
    cell_id, path = thing.shows, thing.path
    if cell_id not in cells:
        animation = next((a for a in project.animations if a.id == thing.shows), None)
        if animation is None or not animation.frames:
            return None
        cell_id = animation.frames[frame_at(animation, ms)].cell
        path = path or animation.path
    found = cells.get(cell_id)
    if found is None:
        return None
    sheet, cell = found
    moved = place_on(path, ms) if path is not None else (0.0, 0.0)
    across = cell.pivot[0] - cell.shift[0]
    if thing.mirrored:
        across = cell.rect[2] - across
    left = thing.at[0] + moved[0] - across
    top = thing.at[1] + moved[1] - cell.pivot[1] + cell.shift[1]
    return Shown(thing, sheet, cell, left, top, (thing.at[0] + moved[0], thing.at[1] + moved[1]))


class PlacedThings:
    """All things of a level as they stand when it begins: of each whether it changes as time goes on or as it
    is pushed, and what it may cover, float (n, 4): left, top, right, bottom, level px."""

    def __init__(self, project: Project, things: tuple[Thing, ...], before: PlacedThings | None) -> None:
        """What `before` knows of things that are the same is taken over."""
        self._project, self._cells = project, cell_homes(project)
        self.things = things
        self._shown: list[Shown | None] = [None] * len(things)
        self._seen: dict[Area, list[int]] = {}
        self.moves, self.boxes = np.empty(len(things), bool), np.empty((len(things), 4))
        new = np.arange(len(things))
        if before is not None:
            old = _places_before(before.things, things)
            new, kept = np.flatnonzero(old < 0), old[old >= 0]
            self.moves[old >= 0], self.boxes[old >= 0] = before.moves[kept], before.boxes[kept]
            self._shown = [before._shown[n] if n >= 0 else None for n in old.tolist()]
        if len(new):
            self._look_at(new)

    def _look_at(self, numbers: np.ndarray) -> None:
        """Of some things whether they move, and what they cover and a px more: what they are moved by is
        rounded where it is drawn."""
        things = [self.things[n] for n in numbers.tolist()]
        shows = [thing.shows for thing in things]
        kinds = {cell_id: k for k, cell_id in enumerate(dict.fromkeys(shows))}
        kind = np.array([kinds[cell_id] for cell_id in shows])
        moves = ~np.array([cell_id in self._cells for cell_id in kinds])[kind]
        moves |= [thing.path is not None or thing.motion == "pushed" for thing in things]
        # Of each cell how far left of the pivot it begins, plain and mirrored, how far above, and its size.
        before, beyond, above, wide, high = np.array([self._size(cell_id) for cell_id in kinds])[kind].T
        at = np.fromiter(chain.from_iterable(thing.at for thing in things), float, 2 * len(things))
        x, y = at.reshape(-1, 2).T
        left = np.floor(x - np.where([thing.mirrored for thing in things], beyond, before) + 0.5)
        top = np.floor(y - above + 0.5)
        boxes = np.stack((left, top, left + wide, top + high), axis=1)
        other = np.flatnonzero([not stands_plain(thing) for thing in things])
        boxes[other] = _boxes_around(
            [things[n] for n in other.tolist()], *(part[other] for part in (before, above, wide, high))
        )
        boxes += (-1, -1, 1, 1)
        boxes[moves] = EVERYWHERE
        self.moves[numbers], self.boxes[numbers] = moves, boxes

    def _size(self, cell_id: str) -> tuple[float, float, float, int, int]:
        if cell_id not in self._cells:
            return 0, 0, 0, 0, 0
        cell = self._cells[cell_id][1]
        (wide, high), across = cell.rect[2:], cell.pivot[0] - cell.shift[0]
        return across, wide - across, cell.pivot[1] - cell.shift[1], wide, high

    def shown(self, n: int) -> Shown | None:
        """What one shows, or None if that is gone."""
        if self._shown[n] is None:
            self._shown[n] = shown_at(self.things[n], self._cells, self._project)
        return self._shown[n]

    def within(self, area: Area) -> list[int]:
        """Those that may be seen in a part of the level, in their order."""
        found = self._seen.get(area)  # several layers ask for the same
        if found is None:
            left, top, right, bottom = self.boxes.T
            x, y, wide, high = area
            held = (left <= x + wide) & (right >= x) & (top <= y + high) & (bottom >= y)
            if len(self._seen) >= MOST_AREAS:
                self._seen.clear()
            found = self._seen[area] = np.flatnonzero(held).tolist()
        return found


def _boxes_around(
    things: list[Thing], px: np.ndarray, py: np.ndarray, wide: np.ndarray, high: np.ndarray
) -> np.ndarray:
    """What turned and scaled things cover, float (n, 4): left, top, right, bottom, level px. Their cells
    reach `px` left of and `py` above the pivot, and have a size; see `Shown.matrix`."""
    turn = np.radians([thing.turn for thing in things])
    foot = np.array([thing.at for thing in things]).reshape(-1, 2)
    scale = np.array([thing.scale for thing in things]).reshape(-1, 2)
    mirror = np.where([thing.mirrored for thing in things], -1, 1)
    x = np.stack((-px, wide - px))[:, None] * scale[:, 0] * mirror  # of the two sides, scaled
    y = np.stack((-py, high - py)) * scale[:, 1]
    across, down = x * np.cos(turn) - y * np.sin(turn), x * np.sin(turn) + y * np.cos(turn)
    corners = np.stack((across, down), axis=-1).reshape(4, -1, 2)
    return np.hstack((foot + corners.min(axis=0), foot + corners.max(axis=0)))


def _places_before(before: tuple[Thing, ...], things: tuple[Thing, ...]) -> np.ndarray:
    """Where in `before` each of some things stood, -1 for those that are others; int (n,)."""
    if len(before) == len(things):  # none came or went: hardly ever has their order changed
        same = np.fromiter(map(is_, before, things), bool, len(things))
        return np.where(same, np.arange(len(things)), -1)
    known = {id(thing): n for n, thing in enumerate(before)}
    return np.array([known.get(id(thing), -1) for thing in things], np.intp)


_placed: dict[str, tuple[tuple[Sheet, ...], tuple[Animation, ...], PlacedThings]] = {}  # by level


def placed_things(project: Project, level: Level) -> PlacedThings:
    """The things of a level as they stand; what is known of those that are the same is kept."""
    sheets, animations, known = _placed.get(level.id, ((), (), None))
    if known is not None and (sheets is not project.sheets or animations is not project.animations):
        known = None
    if known is not None and known.things is level.things:
        return known
    made = PlacedThings(project, level.things, known)
    if len(_placed) >= MOST_LEVELS:
        _placed.clear()
    _placed[level.id] = (project.sheets, project.animations, made)
    return made


def changed_box(before: PlacedThings, now: PlacedThings) -> tuple[float, float, float, float] | None:
    """What things may cover, before or now, in which two versions of a level differ: left, top, right,
    bottom, level px; None where all are the same, in the same order."""
    old, new = before.things, now.things
    if old is new:
        return None
    short = min(len(old), len(new))
    first = next((n for n in range(short) if old[n] is not new[n]), short)
    last = next((n for n in range(short - first) if old[-1 - n] is not new[-1 - n]), short - first)
    boxes = [before.boxes[first : len(old) - last], now.boxes[first : len(new) - last]]
    if len(old) == len(new):  # of those between the first and the last some may be the same
        differ = [old[n] is not new[n] for n in range(first, len(old) - last)]
        boxes = [part[differ] for part in boxes]
    both = np.concatenate(boxes)
    if not len(both):
        return None
    left, top = both[:, :2].min(axis=0).tolist()
    right, bottom = both[:, 2:].max(axis=0).tolist()
    return left, top, right, bottom


def things_over(
    project: Project, level: Level, layer_id: str, ms: float = 0.0, area: Area | None = None
) -> Iterator[Shown]:
    """What is drawn in front of a layer, in a part of the level if one is given; things whose layer is gone
    stand in front of the nearest one."""
    if not level.things:
        return
    ids = {layer.id for layer in level.layers}
    last = level.layers[-1].id if level.layers else ""
    cells, placed = cell_homes(project), placed_things(project, level)
    for n in range(len(level.things)) if area is None else placed.within(area):
        thing = level.things[n]
        if (thing.layer if thing.layer in ids else last) == layer_id:
            moves = ms != 0 and placed.moves[n]
            shown = shown_at(thing, cells, project, ms) if moves else placed.shown(n)
            if shown is not None:
                yield shown


def thing_under(project: Project, level: Level, x: float, y: float, ms: float = 0.0) -> Thing | None:
    """The thing at a place of the level, px; of several the one placed last."""
    cells, placed = cell_homes(project), placed_things(project, level)
    for n in reversed(placed.within((x, y, 0, 0))):
        thing = level.things[n]
        shown = shown_at(thing, cells, project, ms) if placed.moves[n] else placed.shown(n)
        if shown is not None and _holds(shown, x, y):
            return thing
    return None


def _holds(shown: Shown, x: float, y: float) -> bool:
    """Whether a place, level px, lies in the cell as the thing shows it: a px is found where it is drawn."""
    a, b, c, d, e, f = shown.matrix()
    share = a * d - b * c
    x, y = x - e, y - f
    u, v = (d * x - b * y) / share, (a * y - c * x) / share
    u, v = math.floor(u + EVEN), math.floor(v + EVEN)
    return 0 <= u < shown.cell.rect[2] and 0 <= v < shown.cell.rect[3]


def place_thing(
    project: Project,
    level_id: str,
    shows: str,
    at: tuple[float, float],
    layer_id: str,
    path: Path | None = None,
) -> tuple[Project, str]:
    """Put a cell or an animation into a level; returns the new thing's id too."""
    level = level_of(project, level_id)
    known = any(a.id == shows for a in project.animations) or shows in cell_homes(project)
    if not known:
        raise EditError("There is nothing chosen to be placed.", "Choose a tile in the Tray or an animation.")
    if all(layer.id != layer_id for layer in level.layers):
        raise EditError(f"{level.name} has no layer to place it on.", "Add a layer first.")
    thing = Thing(new_id(), shows, at, layer_id, path=path)
    return put_level(project, replace(level, things=(*level.things, thing))), thing.id


def change_thing(project: Project, level_id: str, thing: Thing) -> Project:
    """Put a thing in the place of the one with its id."""
    level = level_of(project, level_id)
    things = tuple(thing if t.id == thing.id else t for t in level.things)
    return put_level(project, replace(level, things=things))


def remove_thing(project: Project, level_id: str, thing_id: str) -> Project:
    """Take a thing out."""
    level = level_of(project, level_id)
    return put_level(project, replace(level, things=tuple(t for t in level.things if t.id != thing_id)))
