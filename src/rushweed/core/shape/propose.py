"""Shapes for the tiles that have none: from their twins, from a common shape that fits, or traced."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.model.shape import Box, Polygon, Role, Shape, Side
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.convex import convex_parts
from rushweed.core.shape.primitives import COMMON, common, corners, is_whole
from rushweed.core.shape.trace import Traced, trace_masks
from rushweed.core.shape.twins import Twins, oriented_shape

SOLID = 128  # alpha from which a px is solid
TRIED = 4  # tiles with shapes that are compared with one without, of each kind of twin
CLOSE = 0.06  # share of a tile's px by which a common shape may differ from them
TOLERANCE = 1.0  # px


class Proposed(NamedTuple):
    """Shapes for a cell, and why: "twin of deck_left, mirrored or turned", "full", or "traced"."""

    cell: str
    shapes: tuple[Shape, ...]
    why: str
    from_twin: bool


def propose_shapes(
    cells: Iterable[Cell], rgba: np.ndarray, only: Collection[str] = (), tolerance: float = TOLERANCE
) -> list[Proposed]:
    """Shapes for the cells of a sheet that have none, uint8 (height, width, 4); clear cells get none.

    `only` limits it to some cells. A twin with shapes counts more than the pixels.
    """
    listed = list(cells)
    tiles = [rgba[y : y + h, x : x + w] for x, y, w, h in (c.rect for c in listed)]
    wanted = [n for n, c in enumerate(listed) if not c.shapes and (not only or c.id in only)]
    twins = Twins(tiles)
    twins.only([n for n, c in enumerate(listed) if c.shapes])
    made: list[Proposed] = []
    rest: list[int] = []
    for n in wanted:
        others = (twins.twin(n, m) for m in twins.of(n, TRIED))
        twin = next((t for t in others if t is not None), None)
        if twin is None:
            rest.append(n)
            continue
        other = listed[twin.of]
        size = (other.rect[2], other.rect[3])
        shapes = tuple(oriented_shape(s, twin.orientation, size) for s in other.shapes)
        kind = "" if twin.kind == "same" else f", {twin.kind}"
        made.append(Proposed(listed[n].id, shapes, f"twin of {other.name}{kind}", True))
    masks = [tiles[n][..., 3] >= SOLID for n in rest]
    traced = trace_masks(masks, tolerance) if rest else []
    for n, mask, outline in zip(rest, masks, traced, strict=True):
        if mask.any():
            shape, why = _fitting(mask, outline)
            made.append(Proposed(listed[n].id, shape, why, False))
    order = {c.id: n for n, c in enumerate(listed)}
    return sorted(made, key=lambda p: order[p.cell])


def _fitting(mask: np.ndarray, outline: Traced) -> tuple[tuple[Shape, ...], str]:
    """A common shape on whole px if one differs from the mask in few px only, else the outline."""
    height, width = mask.shape
    names, masks = _common_masks(width, height)
    if names:
        away = np.count_nonzero(masks != mask, axis=(1, 2))
        best = int(np.argmin(away))
        if away[best] <= CLOSE * mask.size:
            return (common(names[best], (width, height)),), names[best]
    return shapes_of(outline), "traced"


@lru_cache(maxsize=64)
def _common_masks(width: int, height: int) -> tuple[tuple[str, ...], np.ndarray]:
    """The common shapes on whole px in a cell of that size, and their px: bool (n, height, width)."""
    ys, xs = np.mgrid[:height, :width] + 0.5
    shapes = {name: common(name, (width, height)) for name in COMMON}
    whole = {name: shape for name, shape in shapes.items() if is_whole(shape)}
    masks = [_inside(shape, xs, ys) for shape in whole.values()]
    return tuple(whole), np.array(masks, bool).reshape(-1, height, width)


def _inside(shape: Shape, xs: np.ndarray, ys: np.ndarray) -> np.ndarray:
    """Which places lie in a shape, by the even-odd rule."""
    inside = np.zeros(xs.shape, bool)
    ring = corners(shape)
    for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0]), strict=True):
        if y0 != y1:
            crosses = (y0 > ys) != (y1 > ys)
            inside ^= crosses & (xs < (x1 - x0) * (ys - y0) / (y1 - y0) + x0)
    return inside


def shapes_of(
    traced: Traced, convex: bool = False, role: Role = "solid", blocks_from: Side = "top"
) -> tuple[Shape, ...]:
    """The outlines as shapes of a cell: polygons, boxes where they are upright rectangles. Parts with holes,
    and all of them if `convex`, come as convex parts."""
    made: list[Shape] = []
    for outline in traced.outlines:
        outer = [(float(x), float(y)) for x, y in outline.outer.tolist()]
        if convex or outline.holes:
            rings = convex_parts(outer, [hole.tolist() for hole in outline.holes])
        else:
            rings = [outer]
        made += [_shape(tuple(ring)) for ring in rings]
    return tuple(replace(shape, role=role, blocks_from=blocks_from) for shape in made)


def _shape(ring: tuple[tuple[float, float], ...]) -> Shape:
    xs, ys = {x for x, _y in ring}, {y for _x, y in ring}
    if len(ring) == 4 and len(xs) == 2 and len(ys) == 2:
        return Box(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))
    return Polygon(ring)
