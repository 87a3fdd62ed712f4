"""Work on many things at once: moved, copied, set, aligned, spread, ordered, scattered; edges that meet."""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import Any, Literal, NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import cell_homes, layer_of, level_of, put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id
from rushweed.core.document.limits import LEAST_SCALE, MOST_SCALE
from rushweed.core.document.model.level import Level, Thing
from rushweed.core.document.model.project import Project
from rushweed.core.level.things import shown_at

Box = tuple[float, float, float, float]  # left, top, right, bottom, level px
Side = Literal["left", "centre", "right", "top", "middle", "bottom"]
NEAR = 4.0  # px within which edges meet
MOST_SCATTERED = 5000  # things by one stroke


class Meeting(NamedTuple):
    """How far to move so that edges meet, and the lines on which they do: upright (x, from, to) and level."""

    dx: float
    dy: float
    upright: tuple[tuple[float, float, float], ...]
    level: tuple[tuple[float, float, float], ...]


def boxes_of(project: Project, level: Level) -> dict[str, Box]:
    """What each thing covers, by its id; none for those whose art is gone."""
    cells = cell_homes(project)
    made = {}
    for thing in level.things:
        shown = shown_at(thing, cells, project)
        if shown is not None:
            x, y, w, h = shown.box()
            made[thing.id] = (x, y, x + w, y + h)
    return made


def things_in(project: Project, level: Level, box: Box) -> tuple[str, ...]:
    """The things that touch a rectangle, in their order."""
    left, top, right, bottom = box
    held = boxes_of(project, level)
    return tuple(
        i for i, (x0, y0, x1, y1) in held.items() if x0 < right and x1 > left and y0 < bottom and y1 > top
    )


def meeting(box: Box, others: Collection[Box], near: float = NEAR) -> Meeting:
    """The least move by which an edge or the middle of a box meets that of another, each way by itself."""
    moves: list[float] = []
    for axis in (0, 1):
        steps = [theirs - own for other in others for own, theirs in _pairs(box, other, axis)]
        best = min(steps, key=abs, default=math.inf)
        moves.append(best if abs(best) <= near else 0.0)
    dx, dy = moves
    moved = (box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy)
    lines: list[tuple[tuple[float, float, float], ...]] = []
    for axis in (0, 1):
        found: dict[float, tuple[float, float]] = {}
        across = 1 - axis
        for other in others:
            for own, theirs in _pairs(moved, other, axis):
                if abs(own - theirs) < 1e-6:
                    low, high = found.get(own, (moved[across], moved[across + 2]))
                    found[own] = (min(low, other[across]), max(high, other[across + 2]))
        lines.append(tuple((at, low, high) for at, (low, high) in sorted(found.items())))
    return Meeting(dx, dy, lines[0], lines[1])


def _pairs(box: Box, other: Box, axis: int) -> list[tuple[float, float]]:
    """What may meet along an axis: edges with edges, the middle with the middle."""
    low, high = box[axis], box[axis + 2]
    first, last = other[axis], other[axis + 2]
    return [
        (low, first), (low, last), (high, first), (high, last), ((low + high) / 2, (first + last) / 2),
    ]  # fmt: skip


def _with(project: Project, level: Level, made: dict[str, Thing]) -> Project:
    """What was made in place of the things with its ids; the same project where that changes nothing."""
    pairs = [(t, made.get(t.id, t)) for t in level.things]
    if all(new is old or new == old for old, new in pairs):
        return project
    return put_level(project, replace(level, things=tuple(old if new == old else new for old, new in pairs)))


def _chosen(level: Level, thing_ids: Collection[str]) -> list[Thing]:
    wanted = frozenset(thing_ids)
    return [t for t in level.things if t.id in wanted]


def change_things(project: Project, level_id: str, thing_ids: Collection[str], **fields: Any) -> Project:
    """Set fields of things, such as `turn` or `tint`. Raises EditError for a scale that cannot be."""
    level = level_of(project, level_id)
    unknown = next((n for n in fields if n not in Thing.__struct_fields__ or n == "id"), None)
    if unknown is not None:
        raise EditError(f"A thing has no {unknown}.", "Choose another field.")
    for share in fields.get("scale") or ():
        if not LEAST_SCALE <= share <= MOST_SCALE:
            raise EditError(f"A thing cannot be scaled by {share:g}.", "Use 1/16 to 16 times.")
    return _with(project, level, {t.id: replace(t, **fields) for t in _chosen(level, thing_ids)})


def move_things(project: Project, level_id: str, thing_ids: Collection[str], dx: float, dy: float) -> Project:
    """Move things by level px."""
    level = level_of(project, level_id)
    held = _chosen(level, thing_ids)
    return _with(project, level, {t.id: replace(t, at=(t.at[0] + dx, t.at[1] + dy)) for t in held})


def rearrange_things(
    project: Project, level_id: str, thing_ids: Collection[str], how: Literal["mirror", "flip", "turn"]
) -> Project:
    """Each is mirrored, or turned a quarter, where it stands; upside down is mirrored and half turned."""

    def made(thing: Thing) -> Thing:
        turn = (thing.turn + {"mirror": 0.0, "flip": 180.0, "turn": 90.0}[how]) % 360
        mirrored = thing.mirrored != (how in ("mirror", "flip"))
        return replace(thing, turn=thing.turn if how == "mirror" else turn, mirrored=mirrored)

    level = level_of(project, level_id)
    return _with(project, level, {t.id: made(t) for t in _chosen(level, thing_ids)})


def copy_things(
    project: Project, level_id: str, thing_ids: Collection[str], dx: float, dy: float
) -> tuple[Project, tuple[str, ...]]:
    """Copies of things, moved by px; returns their ids too."""
    level = level_of(project, level_id)
    held = _chosen(level, thing_ids)
    copies = tuple(replace(t, id=new_id(), at=(t.at[0] + dx, t.at[1] + dy)) for t in held)
    if not copies:
        raise EditError("No thing is selected.", "Press one first.")
    made = put_level(project, replace(level, things=(*level.things, *copies)))
    return made, tuple(t.id for t in copies)


def remove_things(project: Project, level_id: str, thing_ids: Collection[str]) -> Project:
    """Take things out."""
    level, gone = level_of(project, level_id), frozenset(thing_ids)
    things = tuple(t for t in level.things if t.id not in gone)
    return project if len(things) == len(level.things) else put_level(project, replace(level, things=things))


def align_things(project: Project, level_id: str, thing_ids: Collection[str], side: Side) -> Project:
    """Bring a side of things onto the line of the outermost one, or their middles onto the common one."""
    if side not in ("left", "centre", "right", "top", "middle", "bottom"):
        raise EditError(
            f"Things cannot be aligned at {side!r}.", "Use left, centre, right, top, middle, bottom."
        )
    level = level_of(project, level_id)
    wanted = frozenset(thing_ids)
    boxes = {i: box for i, box in boxes_of(project, level).items() if i in wanted}
    if len(boxes) < 2:
        raise EditError("Fewer than two things are selected.", "Select more with Shift.")
    axis = 0 if side in ("left", "centre", "right") else 1
    low, high = min(b[axis] for b in boxes.values()), max(b[axis + 2] for b in boxes.values())
    made = {}
    for thing in level.things:
        if thing.id in boxes:
            box = boxes[thing.id]
            step = {
                "left": low - box[axis], "top": low - box[axis], "right": high - box[axis + 2],
                "bottom": high - box[axis + 2],
            }.get(side, (low + high - box[axis] - box[axis + 2]) / 2)  # fmt: skip
            made[thing.id] = _moved(thing, axis, step)
    return _with(project, level, made)


def spread_things(
    project: Project, level_id: str, thing_ids: Collection[str], across: bool = True
) -> Project:
    """Even gaps between things, from the first to the last, across or down. Raises EditError for fewer than
    three."""
    level, wanted = level_of(project, level_id), frozenset(thing_ids)
    axis = 0 if across else 1
    boxes = sorted(
        ((i, b) for i, b in boxes_of(project, level).items() if i in wanted),
        key=lambda one: one[1][axis] + one[1][axis + 2],
    )
    if len(boxes) < 3:
        raise EditError("Fewer than three things are selected.", "Select more with Shift.")
    room = boxes[-1][1][axis + 2] - boxes[0][1][axis]
    gap = (room - sum(b[axis + 2] - b[axis] for _i, b in boxes)) / (len(boxes) - 1)
    at, steps = boxes[0][1][axis], {}
    for i, box in boxes:
        steps[i] = at - box[axis]
        at += box[axis + 2] - box[axis] + gap
    return _with(project, level, {t.id: _moved(t, axis, steps[t.id]) for t in level.things if t.id in steps})


def _moved(thing: Thing, axis: int, step: float) -> Thing:
    """Along one axis, by whole px."""
    step = float(round(step))
    return replace(thing, at=(thing.at[0] + step * (axis == 0), thing.at[1] + step * (axis == 1)))


def order_things(project: Project, level_id: str, thing_ids: Collection[str], nearer: bool) -> Project:
    """Put things in front of all others of their layer, or behind them."""
    level = level_of(project, level_id)
    chosen, wanted = _chosen(level, thing_ids), frozenset(thing_ids)
    others = [t for t in level.things if t.id not in wanted]
    things = tuple((*others, *chosen) if nearer else (*chosen, *others))
    return project if things == level.things else put_level(project, replace(level, things=things))


class Chance(NamedTuple):
    """How things are scattered: the seed, how many per cent of them are mirrored, and how often each of the
    cells comes, all alike where nothing is said."""

    seed: int = 0
    mirror_percent: float = 50
    weights: tuple[float, ...] = ()


def scatter_things(
    project: Project,
    level_id: str,
    layer_id: str,
    cell_ids: tuple[str, ...],
    spots: tuple[tuple[float, float], ...],
    by: Chance,
) -> Project:
    """Place cells by chance at places, level px. The same seed gives the same."""
    level = level_of(project, level_id)
    layer_of(level, layer_id)
    known = cell_homes(project)
    if not cell_ids or any(cell not in known for cell in cell_ids):
        raise EditError("There is nothing to scatter.", "Press some tiles in the Tray.")
    if len(spots) > MOST_SCATTERED:
        raise EditError(f"{len(spots):,} things are too many for one stroke.", "Scatter fewer.")
    if not 0 <= by.mirror_percent <= 100:
        raise EditError(f"{by.mirror_percent:g} % cannot be mirrored.", "Use 0 to 100 %.")
    if not all(math.isfinite(x) and math.isfinite(y) for x, y in spots):
        raise EditError("A thing cannot be scattered nowhere.", "Use places in the level.")
    rng = np.random.default_rng(abs(by.seed))
    weights = by.weights if len(by.weights) == len(cell_ids) else (1.0,) * len(cell_ids)
    share = np.array(weights, float)
    if not np.isfinite(share).all() or share.min() < 0 or share.sum() <= 0:
        raise EditError("Those weights cannot be.", "Use numbers above 0.")
    picks = rng.choice(len(cell_ids), size=len(spots), p=share / share.sum())
    mirrored = rng.random(len(spots)) * 100 < by.mirror_percent
    made = tuple(
        Thing(new_id(), cell_ids[int(n)], (float(round(x)), float(round(y))), layer_id, mirrored=bool(m))
        for n, m, (x, y) in zip(picks, mirrored, spots, strict=True)
    )
    return put_level(project, replace(level, things=(*level.things, *made))) if made else project


def scattered_spots(
    x: float, y: float, radius: float, density: float, cell: tuple[int, int], seed: int
) -> tuple[tuple[float, float], ...]:
    """Places by chance in a circle, px: on average `density` for each cell's area."""
    rng = np.random.default_rng(abs(seed))
    number = rng.poisson(density * math.pi * radius**2 / (cell[0] * cell[1]))
    away = radius * np.sqrt(rng.random(number))
    turn = rng.random(number) * 2 * math.pi
    spots = np.stack((x + away * np.cos(turn), y + away * np.sin(turn)), axis=1)
    return tuple((float(a), float(b)) for a, b in np.rint(spots))


def whole_scales(project: Project, level_id: str, thing_ids: Collection[str]) -> Project:
    """Draw things a whole number of times as large as their art, the nearest to what they are."""
    level = level_of(project, level_id)
    wanted = set(thing_ids)
    made = {
        t.id: replace(t, scale=(float(max(round(t.scale[0]), 1)), float(max(round(t.scale[1]), 1))))
        for t in level.things
        if t.id in wanted
    }
    return _with(project, level, made)
