"""The shapes that lie in a part of a level: which, where, and what edges are left where they touch."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.shape import Shape
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.chunks import region
from rushweed.core.shape.twins import oriented_shape

Laid = tuple[Shape, np.ndarray]  # a shape and all places of its cells, float (n, 2) px
MIX = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], np.uint64)  # odd, at random


def placed_shapes(
    level: Level, cells: dict[str, tuple[Sheet, Cell]], area: tuple[float, float, float, float]
) -> list[Laid]:
    """The shapes of the tiles that count in an area (left, top, right, bottom, level px), turned as the tiles
    are; what several layers hold alike comes once."""
    (left, top, right, bottom), (cw, ch) = area, level.cell
    columns, rows = int((right - left) // cw) + 2, int((bottom - top) // ch) + 2
    known: dict[Shape, Shape] = {}  # so that what is alike is one, of whichever tile
    lying: dict[int, list[Shape]] = {}  # the shapes of each value, turned
    found: dict[int, tuple[Shape, list[np.ndarray]]] = {}
    for layer in level.layers:
        if not isinstance(layer, TileLayer) or not layer.shown or not layer.collides:
            continue
        dx, dy = layer.offset
        x0, y0 = int((left - dx) // cw), int((top - dy) // ch)
        held = region(layer.tiles, x0, y0, columns, rows)
        values = held.ravel()
        order = np.argsort(values)
        values = values[order]
        places = np.empty((len(order), 2))
        places[:, 0], places[:, 1] = (x0 + order % columns) * cw + dx, (y0 + order // columns) * ch + dy
        mine: dict[int, list[np.ndarray]] = {}
        ends = [*(np.flatnonzero(values[1:] != values[:-1]) + 1).tolist(), len(values)]
        for value, start, end in zip(values[[e - 1 for e in ends]].tolist(), [0, *ends], ends, strict=False):
            if value not in lying:
                index = (value >> 3) - 1
                cell = cells.get(level.table[index]) if 0 <= index < len(level.table) else None
                turned = [oriented_shape(s, value & 7, (cw, ch)) for s in (cell[1].shapes if cell else ())]
                lying[value] = [known.setdefault(shape, shape) for shape in turned]
            for shape in lying[value]:
                mine.setdefault(id(shape), []).append(places[start:end])
                found.setdefault(id(shape), (shape, []))
        for shape_id, parts in mine.items():
            found[shape_id][1].append(np.concatenate(parts))
    return [(shape, _each_once(places)) for shape, places in found.values()]


def _each_once(places: list[np.ndarray]) -> np.ndarray:
    """The places of several layers, float (n, 2) each, as one without those that come again."""
    if len(places) == 1:
        return places[0]
    pairs = np.unique(
        np.concatenate(places).view(np.complex128)
    )  # as one number each: sorted in half the time
    return pairs.view(np.float64).reshape(-1, 2)


def outer_edges(rings: Iterable[np.ndarray]) -> np.ndarray:
    """The edges of rings, float (n, corners, 2) each, less those that two of them share, one each way: float
    (n, 4), from x, y to x, y."""
    edges = [np.concatenate((ring, np.roll(ring, -1, axis=1)), axis=2).reshape(-1, 4) for ring in rings]
    found = np.concatenate(edges or [np.zeros((0, 4))])
    if not len(found):
        return found
    ends = np.rint(found * 1024).astype(np.int64).astype(np.uint64)
    one = ends[:, 0] * MIX[0] + ends[:, 1] * MIX[1]
    other = ends[:, 2] * MIX[0] + ends[:, 3] * MIX[1]
    there, back = one * MIX[2] + other, other * MIX[2] + one
    values, first = np.unique(there, return_index=True)
    at = np.searchsorted(values, back[first]).clip(max=len(values) - 1)
    return np.asarray(found[first[values[at] != back[first]]])
