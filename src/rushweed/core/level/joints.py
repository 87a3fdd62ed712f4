"""Where the shapes of tiles that stand side by side nearly meet: a step or a slot so slight that it is hardly
seen, but catches whoever walks.

Looked for by table, not by place: each tile has a height at its left and right border, and these are compared
for all neighbours of a layer at once.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.level import CHUNK, Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Shape
from rushweed.core.level.chunks import region, used_values
from rushweed.core.shape.primitives import corners
from rushweed.core.shape.twins import oriented_shape

SLIGHT = 2.0  # px up to which a step or a slot is more likely a slip than a shape
MOST_PAIRED = 512  # values that are held against each other before their places are looked at
LEAST = 1 / 64  # px: what is less cannot be told from nothing


class Joint(NamedTuple):
    """Two cells, by id, that stand side by side `times` times, the first of them at `spot`, with a step or a
    slot of `px` between their shapes."""

    left: str
    right: str
    what: str
    px: float
    spot: tuple[int, int]
    times: int


class _Borders(NamedTuple):
    """Of each value of a layer's cells: the heights, px from the cell's top, at which its shapes begin at
    the left and right border, and how far from a border they stay; NaN where they do not reach or have no
    such slot."""

    left: np.ndarray
    right: np.ndarray
    left_slot: np.ndarray
    right_slot: np.ndarray
    shaped: np.ndarray


def joints(project: Project, level: Level) -> list[Joint]:
    """All pairs of neighbours that nearly meet, the commonest first."""
    layers = [x for x in level.layers if isinstance(x, TileLayer) and x.collides and x.tiles.chunks]
    if not layers:
        return []
    area = _area(layers)
    if area is None:
        return []
    borders = _borders(project, level, layers)
    if not _any_near(borders):
        return []
    held = [region(layer.tiles, *area) for layer in layers]
    shaped = [borders.shaped[grid] for grid in held]
    count = np.stack(shaped).sum(axis=0)
    free = np.ones_like(count, bool)  # nothing stands on top
    free[1:] = count[:-1] == 0
    alone = (count == 1) & free
    both = alone[:, :-1] & alone[:, 1:]
    made: dict[tuple[str, str, str], Joint] = {}
    for grid, own in zip(held, shaped, strict=True):
        one, two = grid[:, :-1], grid[:, 1:]
        pairs = both & own[:, :-1] & own[:, 1:]
        for what, px in zip(("step", "slot"), _between(borders, one, two), strict=True):
            rows, columns = np.nonzero(pairs & (px >= LEAST) & (px <= SLIGHT))
            for y, x in zip(rows.tolist(), columns.tolist(), strict=True):
                key = (level.table[(one[y, x] >> 3) - 1], level.table[(two[y, x] >> 3) - 1], what)
                known = made.get(key)
                spot = (x + 1 + area[0], y + area[1])
                times = known.times + 1 if known else 1
                made[key] = known._replace(times=times) if known else Joint(*key, float(px[y, x]), spot, 1)
    return sorted(made.values(), key=lambda joint: -joint.times)


def _between(borders: _Borders, one: np.ndarray, two: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """How high the step and how wide the slot is between values on the left and values on the right, px."""
    step = np.abs(borders.right[one] - borders.left[two])
    slot = borders.right_slot[one] + borders.left_slot[two]
    slot[np.isnan(borders.left[one]) | np.isnan(borders.right[two])] = np.nan  # things, not ground
    return step, slot


def _any_near(borders: _Borders) -> bool:
    """Whether any two values would nearly meet if they stood side by side: mostly none do."""
    shaped = np.flatnonzero(borders.shaped)
    if len(shaped) > MOST_PAIRED:
        return True
    one, two = np.broadcast_arrays(shaped[:, None], shaped[None, :])
    return any(bool(((px >= LEAST) & (px <= SLIGHT)).any()) for px in _between(borders, one, two))


def _area(layers: list[TileLayer]) -> tuple[int, int, int, int] | None:
    """Left, top, columns and rows, in cells, of what holds all chunks."""
    spans = [layer.tiles for layer in layers if layer.tiles.columns and layer.tiles.rows]
    if not spans:
        return None
    left, top = min(t.left for t in spans), min(t.top for t in spans)
    right = max(t.left + t.columns for t in spans)
    bottom = max(t.top + t.rows for t in spans)
    return left * CHUNK, top * CHUNK, (right - left) * CHUNK, (bottom - top) * CHUNK


def _borders(project: Project, level: Level, layers: list[TileLayer]) -> _Borders:
    homes = cell_homes(project)
    most = max(((len(level.table) + 1) * 8, *(int(used_values(x.tiles).max(initial=0)) + 1 for x in layers)))
    left, right, left_slot, right_slot = (np.full(most, np.nan) for _ in range(4))
    shaped = np.zeros(most, bool)
    used = {int(value) for layer in layers for value in used_values(layer.tiles)}
    for value in used:
        number, turn = value >> 3, value & 7
        if not 0 < number <= len(level.table) or level.table[number - 1] not in homes:
            continue
        if turn & 1 and level.cell[0] != level.cell[1]:
            continue
        shapes = [s for s in homes[level.table[number - 1]][1].shapes if _carries(s)]
        if not shapes:
            continue
        shaped[value] = True
        rings = [corners(oriented_shape(s, turn, level.cell) if turn else s) for s in shapes]
        wide = level.cell[0]
        left[value], right[value] = _height_at(rings, 0), _height_at(rings, wide)
        first = min(x for ring in rings for x, _y in ring)
        last = max(x for ring in rings for x, _y in ring)
        left_slot[value] = first if 0 <= first <= SLIGHT else np.nan
        right_slot[value] = wide - last if 0 <= wide - last <= SLIGHT else np.nan
    return _Borders(left, right, left_slot, right_slot, shaped)


def _carries(shape: Shape) -> bool:
    return shape.role == "solid" or (shape.role == "one-way" and shape.blocks_from == "top")


def _height_at(rings: list[tuple[tuple[float, float], ...]], x: float) -> float:
    """The highest point of some rings on an upright line; NaN where none reaches it."""
    found = [y for ring in rings for px, y in ring if px == x]
    for ring in rings:
        for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0]), strict=True):
            if min(x0, x1) < x < max(x0, x1):
                found.append(y0 + (y1 - y0) * (x - x0) / (x1 - x0))
    return min(found, default=math.nan)
