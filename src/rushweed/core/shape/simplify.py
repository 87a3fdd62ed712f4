"""Rings with fewer vertices, as near to the border as is asked, and whether any of them cross."""

from __future__ import annotations

import numpy as np

from rushweed.core.ready import kernels
from rushweed.core.shape.rings import KERNELS, Rings, taken


def simplified(rings: Rings, limit: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Drop vertices while the border stays within `limit` px: points, starts, the error of each ring.

    Source: D. Douglas and T. Peucker, Algorithms for the reduction of the number of points (1973), with the
    distance to the line's stretch, on all rings at once.
    """
    starts, count = rings.starts, len(rings.tiles)
    error = np.zeros(count)
    if not count or limit <= 0:
        return rings.points, starts, error
    loops = kernels(KERNELS)
    if loops is not None:
        keep = np.zeros(len(rings.points), bool)
        loops.simplify(rings.points, starts, limit, keep, error, np.empty(2 * len(keep) + 8, np.int64))
        return rings.points[keep], _kept_starts(keep, starts), error
    ring = np.repeat(np.arange(count), np.diff(starts))
    first, ends = starts[:-1], starts[1:]
    points = rings.points.astype(np.float64)
    away = ((points - points[first[ring]]) ** 2).sum(axis=1)
    far = _first_of(np.flatnonzero(away == np.maximum.reduceat(away, first)[ring]), ring)
    keep = np.zeros(len(ring), bool)
    keep[first] = keep[far] = True
    a = np.concatenate((first, far))
    b = np.concatenate((far, ends))  # the end of a ring stands for its first point
    of = np.concatenate((np.arange(count), np.arange(count)))
    while True:
        inner = b - a > 1
        a, b, of = a[inner], b[inner], of[inner]
        if not a.size:
            break
        size = b - a - 1
        offset = np.cumsum(size) - size
        seg = np.repeat(np.arange(len(a)), size)
        index = np.arange(int(size.sum())) + (a + 1 - offset)[seg]
        away = _distances(points, index, a, np.where(b == ends[of], first[of], b), seg)
        most = np.maximum.reduceat(away, offset)
        split = most > limit + 1e-9
        np.maximum.at(error, of[~split], most[~split])
        hit = np.flatnonzero((away == most[seg]) & split[seg])
        middle = index[_first_of(hit, seg)]
        keep[middle] = True
        a, b, of = (
            np.concatenate((a[split], middle)), np.concatenate((middle, b[split])),
            np.concatenate((of[split], of[split])),
        )  # fmt: skip
    _thicken(points, rings, keep, ring, far)
    return rings.points[keep], _kept_starts(keep, starts), error


def _kept_starts(keep: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """Where the rings begin once only some of their points are kept."""
    return np.concatenate(([0], np.cumsum(np.add.reduceat(keep, starts[:-1], dtype=np.int64))))


def _first_of(hit: np.ndarray, group: np.ndarray) -> np.ndarray:
    """The first of the places in `hit` (ascending) in each group."""
    owner = group[hit]
    return np.asarray(hit[np.concatenate(([True], owner[1:] != owner[:-1]))]) if hit.size else hit


def _thicken(points: np.ndarray, rings: Rings, keep: np.ndarray, ring: np.ndarray, far: np.ndarray) -> None:
    """Give rings that shrank to a line the vertex farthest from it, so that they have an inside."""
    thin = np.add.reduceat(keep, rings.starts[:-1], dtype=np.int64) < 3
    index = np.flatnonzero(thin[ring])
    if index.size:
        away = _distances(points, index, rings.starts[:-1], far, ring[index])
        most = np.zeros(len(thin))
        np.maximum.at(most, ring[index], away)
        keep[index[_first_of(np.flatnonzero(away == most[ring[index]]), ring[index])]] = True


def _distances(
    points: np.ndarray, index: np.ndarray, start: np.ndarray, stop: np.ndarray, seg: np.ndarray
) -> np.ndarray:
    """How far points[index] are from their stretches, points[start[seg]] to points[stop[seg]]."""
    x, y = points[:, 0], points[:, 1]
    x0, y0 = x[start], y[start]
    dx, dy = x[stop] - x0, y[stop] - y0
    length = dx * dx + dy * dy
    inverse = 1 / np.where(length > 0, length, 1)
    lx, ly = dx[seg], dy[seg]
    tx, ty = x[index] - x0[seg], y[index] - y0[seg]
    share = np.clip((tx * lx + ty * ly) * inverse[seg], 0, 1)
    tx -= share * lx
    ty -= share * ly
    return np.asarray(np.sqrt(tx * tx + ty * ty))


def crossing(points: np.ndarray, starts: np.ndarray, rings: Rings, count: int) -> np.ndarray:
    """Which tiles have an outline that crosses itself, its holes, or another part: bool (tiles,)."""
    wrong = np.zeros(count, bool)
    loops = kernels("rushweed.core.shape.crossing_kernels")
    if loops is not None and len(rings.tiles):  # most are seen at once to be sound
        by_tile = np.argsort(rings.tiles, kind="stable")
        bounds = np.searchsorted(rings.tiles[by_tile], np.arange(count + 1))
        sound = np.zeros(count, bool)
        owner = np.zeros(rings.parts.max() + 1, np.int64)
        owner[rings.parts[rings.outer]] = np.flatnonzero(rings.outer)  # the outer ring of each part
        loops.find_sound(points, starts, by_tile, bounds, owner[rings.parts], sound)
        unsure = np.flatnonzero(~sound[rings.tiles])
        rings = taken(rings._replace(points=points, starts=starts), unsure)
        points, starts = rings.points, rings.starts
    if not len(rings.tiles):
        return wrong
    import shapely  # late: it takes long to import

    lengths = np.diff(starts)
    outer = rings.outer
    made = shapely.linearrings(points.astype(float), indices=np.repeat(np.arange(len(lengths)), lengths))
    order = np.lexsort((~outer, rings.parts, rings.tiles))
    shells = order[outer[order]]
    part = np.cumsum(outer[order]) - 1  # a part's outer ring comes first, then its holes
    polygons = shapely.polygons(made[order], indices=part)
    tiles, first = rings.tiles[shells], np.arange(len(shells))
    wholes = shapely.multipolygons(polygons[first], indices=np.unique(tiles, return_inverse=True)[1])
    wrong[np.unique(tiles)] = ~shapely.is_valid(wholes)
    return wrong
