"""Outlines within a number of vertices.

Method (our own): the least tolerance that keeps the number is found by halving. Where no tolerance does,
because a simpler outline would cross itself, vertices are taken out of the simplest one found, those first
that change its area least, as long as it stays a simple polygon with its holes inside.
"""

from __future__ import annotations

import heapq

import numpy as np

from rushweed.core.document.errors import EditError
from rushweed.core.shape.trace import Outline, Ring, Traced, trace_masks, trace_outline

LEAST = 3  # vertices of a ring


def trace_vertices(alpha: np.ndarray, vertices: int, threshold: int = 128, each: bool = False) -> Traced:
    """The outline of one tile with at most so many vertices, over all its parts and holes together, or with
    `each` for every part with its holes by itself; as near to the border as that allows.

    alpha: uint8 (height, width); threshold: 1..255, at or above is solid. Raises EditError if nothing is
    solid or if three vertices a ring are more than that.
    """
    exact = trace_outline(alpha, threshold)
    counts = [LEAST * (1 + len(outline.holes)) for outline in exact.outlines]
    least = max(counts) if each else sum(counts)
    if vertices < least:
        raise EditError(f"{vertices} vertices are too few for its parts.", f"Use at least {least}.")
    if _used(exact, each) <= vertices:
        return exact
    mask = np.asarray(alpha) >= threshold
    low, high = 0.0, float(max(mask.shape))
    best = trace_masks([mask], high)[0]
    for _ in range(24):
        middle = (low + high) / 2
        found = trace_masks([mask], middle)[0]
        if _used(found, each) <= vertices:
            best, high = found, middle
        else:
            low = middle
            if _used(found, each) < _used(best, each):
                best = found
    return best if _used(best, each) <= vertices else _fewer(best, exact, vertices, each)


def _used(traced: Traced, each: bool) -> int:
    """How many vertices count against the number."""
    counts = [sum(len(ring) for ring in (o.outer, *o.holes)) for o in traced.outlines]
    return max(counts, default=0) if each else sum(counts)


def _fewer(traced: Traced, exact: Traced, vertices: int, each: bool) -> Traced:
    """The same outlines with vertices taken out until they keep the number."""
    parts = [[o.outer, *o.holes] for o in traced.outlines]
    groups = [[n] for n in range(len(parts))] if each else [list(range(len(parts)))]
    for group in groups:
        while sum(len(ring) for n in group for ring in parts[n]) > vertices:
            if not _take_one(parts, group) and not _shrink_one(parts, group):
                raise EditError(
                    f"Its outline cannot be told in {vertices} vertices without crossing itself.", "Use more."
                )
    made = tuple(Outline(rings[0], tuple(rings[1:])) for rings in parts)
    return Traced(made, _farthest(made, exact))


def _take_one(parts: list[list[Ring]], group: list[int]) -> bool:
    """Take the vertex out that changes the area least and leaves all simple; False if there is none."""
    queue = []
    for n in group:
        for r, ring in enumerate(parts[n]):
            if len(ring) <= LEAST:
                continue
            before, after = np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0)
            one, two = ring - before, after - before
            size = np.abs(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0])
            queue += [(float(size[v]), n, r, v) for v in range(len(ring))]
    heapq.heapify(queue)
    while queue:
        _size, n, r, v = heapq.heappop(queue)
        old = parts[n][r]
        parts[n][r] = np.delete(old, v, axis=0)
        if _simple(parts[n], [rings for m, rings in enumerate(parts) if m != n]):
            return True
        parts[n][r] = old
    return False


def _shrink_one(parts: list[list[Ring]], group: list[int]) -> bool:
    """Put a triangle inside it in place of a hole, or of a part without holes; False if none is left."""
    rings = [
        (n, r) for n in group for r in range(len(parts[n]))
        if len(parts[n][r]) > LEAST and (r > 0 or len(parts[n]) == 1)
    ]  # fmt: skip
    if not rings:
        return False
    n, r = min(rings, key=lambda at: len(parts[at[0]][at[1]]))
    parts[n][r] = _triangle_in(parts[n][r])
    return True


def _triangle_in(ring: Ring) -> Ring:
    """The largest triangle of a ring's triangulation, turning as the ring does."""
    from shapely import Polygon, constrained_delaunay_triangles

    found = max(constrained_delaunay_triangles(Polygon(ring)).geoms, key=lambda triangle: triangle.area)
    made = np.array(found.exterior.coords)[:LEAST]
    return made if _turns(made) == _turns(ring) else made[::-1].copy()


def _turns(ring: Ring) -> bool:
    """Which way round a ring goes."""
    x, y = ring[:, 0].astype(float), ring[:, 1].astype(float)
    return bool((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() > 0)


def _simple(rings: list[Ring], others: list[list[Ring]]) -> bool:
    """Whether a part does not cross itself, has its holes inside and no other part."""
    from shapely import Polygon

    part = Polygon(rings[0], rings[1:])
    if not part.is_valid or part.area <= 0:
        return False
    return all(part.intersection(Polygon(o[0], o[1:])).area <= 0 for o in others)


def _farthest(made: tuple[Outline, ...], exact: Traced) -> float:
    """How far the outlines are from the exact border at most, px."""
    from shapely import MultiLineString, hausdorff_distance

    def lines(outlines: tuple[Outline, ...]) -> MultiLineString:
        rings = [ring for o in outlines for ring in (o.outer, *o.holes)]
        return MultiLineString([np.concatenate((ring, ring[:1])).tolist() for ring in rings])

    return float(hausdorff_distance(lines(made), lines(exact.outlines), densify=0.25))
