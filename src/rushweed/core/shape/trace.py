"""Outlines from the pixels: the exact border with its holes, simplified within a guaranteed tolerance.

Method (our own, on whole arrays): a border turns only at vertices whose four px are not paired. Every such
corner has one run across and one down; sorted along rows and columns, corners that share a run stand next to
one another. Following the runs gives the rings of any number of tiles at once.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import EditError

Ring = np.ndarray  # (n, 2) points, cell px, x right, y down

# For each pattern of solid px around a vertex (1 upper left, 2 upper right, 4 lower left, 8 lower right):
# whether its run across leads right, its run down leads down, and the border leaves along the run across.
TURNS = {
    1: (0, 0, 1), 2: (1, 0, 0), 4: (0, 1, 0), 8: (1, 1, 1),
    14: (0, 0, 0), 13: (1, 0, 1), 11: (0, 1, 1), 7: (1, 1, 0),
}  # fmt: skip


BATCH_PX = 32 * 1024 * 1024
CORNER = np.zeros(16, bool)  # patterns at which a border turns
CORNER[[*TURNS, 9, 6]] = True
TURN_TABLE = np.zeros((16, 3), np.int64)
INSIDE = np.zeros((16, 2), np.int64)  # which px beside such a vertex is solid: one right, one down
for _kind, _turn in TURNS.items():
    TURN_TABLE[_kind] = _turn
for _kind, _px in {2: (1, 0), 4: (0, 1), 8: (1, 1), 14: (1, 0), 7: (1, 0)}.items():
    INSIDE[_kind] = _px


class Outline(NamedTuple):
    """One solid part: its outer ring, clockwise on screen, and the rings of its holes, the other way."""

    outer: Ring
    holes: tuple[Ring, ...]


class Traced(NamedTuple):
    """The outlines of one tile and how far they are from the border at most, px."""

    outlines: tuple[Outline, ...]
    error: float

    @property
    def vertices(self) -> int:
        return sum(len(ring) for o in self.outlines for ring in (o.outer, *o.holes))


class _Rings(NamedTuple):
    """Rings of many tiles one after another: points int32 (n, 2), where each begins, its tile, its part."""

    points: np.ndarray
    starts: np.ndarray
    tiles: np.ndarray
    parts: np.ndarray


def trace_outline(alpha: np.ndarray, threshold: int = 128, tolerance: float = 0.0) -> Traced:
    """Follow the border of the opaque pixels of one tile, exactly on pixel edges, then simplify it.

    alpha: uint8 (height, width); threshold: 1..255, at or above is solid. The outline's largest distance from
    the border is at most `tolerance` px, and is told. Raises EditError if nothing is solid.
    """
    mask = np.asarray(alpha) >= threshold
    if not mask.any():
        raise EditError("Nothing in it is solid.", "Use a lower threshold, or draw the shape.")
    return trace_masks([mask], tolerance)[0]


def trace_masks(masks: Sequence[np.ndarray], tolerance: float = 0.0) -> list[Traced]:
    """The outlines of many tiles at once, bool (height, width) each; an empty one has none.

    Where simplifying would make an outline cross itself or another, that tile is simplified less.
    """
    made: list[Traced] = [Traced((), 0.0)] * len(masks)
    for places in _batches(masks):
        found = _trace_batch([masks[n] for n in places], tolerance)
        for n, traced in zip(places, found, strict=True):
            made[n] = traced
    return made


def _batches(masks: Sequence[np.ndarray]) -> list[list[int]]:
    """Places of masks to be traced together: of about one size, and not too many px at a time."""
    order = sorted(range(len(masks)), key=lambda n: masks[n].shape)
    batches: list[list[int]] = []
    high = wide = 0
    for n in order:
        h, w = masks[n].shape
        alike = batches and h <= 2 * high and w <= 2 * wide and wide <= 2 * w
        if not alike or (len(batches[-1]) + 1) * (max(h, high) + 1) * max(w, wide) > BATCH_PX:
            batches.append([])
            high, wide = h, w
        batches[-1].append(n)
        high, wide = max(high, h), max(wide, w)
    return batches


def _trace_batch(masks: Sequence[np.ndarray], tolerance: float) -> list[Traced]:
    rings = _rings_of(masks)
    count = len(masks)
    limit = float(tolerance)
    points, starts, error = _simplified(rings, limit)
    made = _gathered(points, starts, rings, error, count)
    halvings = 0
    while limit > 0:
        wrong = _crossing(points, starts, rings, count)
        if not wrong.any():
            break
        halvings += 1
        limit = limit / 2 if halvings < 6 else 0.0
        rings = _chosen(rings, wrong[rings.tiles])
        points, starts, error = _simplified(rings, limit)
        again = _gathered(points, starts, rings, error, count)
        for tile in np.flatnonzero(wrong).tolist():
            made[tile] = again[tile]
    return made


# -- following the border --------------------------------------------------------------------------------


def _rings_of(masks: Sequence[np.ndarray]) -> _Rings:
    from scipy import ndimage  # late: it takes a third of a second to import

    height, width = max(m.shape[0] for m in masks), max(m.shape[1] for m in masks)
    pitch = height + 1
    solid = np.zeros((len(masks) * pitch + 2, width + 2), bool)
    for n, mask in enumerate(masks):
        solid[n * pitch + 1 : n * pitch + 1 + mask.shape[0], 1 : 1 + mask.shape[1]] = mask
    labels, _count = ndimage.label(solid)
    bits = solid.view(np.uint8)
    code = bits[:-1, :-1] | bits[:-1, 1:] << 1 | bits[1:, :-1] << 2 | bits[1:, 1:] << 3
    ys, xs = np.nonzero(CORNER[code])
    kinds = code[ys, xs].astype(np.int64)
    crossed = (kinds == 9) | (kinds == 6)
    if crossed.any():  # a saddle is two corners; the one whose run leads left goes first
        twice = np.repeat(np.arange(len(kinds)), np.where(crossed, 2, 1))
        first = np.concatenate(([True], twice[1:] != twice[:-1]))
        ys, xs, kinds, crossed = ys[twice], xs[twice], kinds[twice], crossed[twice]
        nine = kinds == 9
        kinds = np.where(crossed & nine, np.where(first, 1, 8), kinds)
        kinds = np.where(crossed & ~nine, np.where(first, 4, 2), kinds)
    order, starts = _walked(_following(xs, ys, kinds), np.flatnonzero(crossed)[::2])
    heads = order[starts[:-1]]
    points = np.stack((xs[order], ys[order] % pitch), axis=1).astype(np.int32)
    aside, under = INSIDE[kinds[heads]].T
    parts = labels[ys[heads] + under, xs[heads] + aside]
    return _Rings(points, starts, ys[heads] // pitch, parts)


def _following(xs: np.ndarray, ys: np.ndarray, kinds: np.ndarray) -> np.ndarray:
    """For each corner the next one along the border. Corners are given row by row."""
    right, down, across = (TURN_TABLE[kinds, i] for i in range(3))
    follows = np.empty(len(xs), np.int64)
    rows = np.arange(len(xs))
    wrong = (right[:-1] > right[1:]) & (xs[:-1] == xs[1:]) & (ys[:-1] == ys[1:])
    _swap(rows, np.flatnonzero(wrong))
    columns = np.argsort(xs.astype(np.uint16), kind="stable")
    one, two = columns[:-1], columns[1:]
    _swap(columns, np.flatnonzero((down[one] > down[two]) & (xs[one] == xs[two]) & (ys[one] == ys[two])))
    for order, leaves in ((rows, across == 1), (columns, across == 0)):
        partner = np.empty(len(xs), np.int64)
        partner[order[0::2]], partner[order[1::2]] = order[1::2], order[0::2]
        follows[leaves] = partner[leaves]
    return follows


def _swap(order: np.ndarray, at: np.ndarray) -> None:
    """Exchange each place with the one after it."""
    order[at], order[at + 1] = order[at + 1].copy(), order[at].copy()


def _walked(follows: np.ndarray, saddles: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The corners ring by ring and where the rings begin (one more at the end).

    The two corners of a saddle stand at a place of `saddles` and after it. A ring that has both touches
    itself there and is walked by itself; all others are walked at once, one step of each at a time.
    """
    if not len(follows):
        return np.zeros(0, np.int64), np.zeros(1, np.int64)
    ring = _ring_of(follows)
    count = int(ring.max()) + 1
    first = np.empty(count, np.int64)
    first[ring[::-1]] = np.arange(len(follows) - 1, -1, -1)  # the last written, the smallest, stays
    touching = np.zeros(count, bool)
    touching[ring[saddles[ring[saddles] == ring[saddles + 1]]]] = True
    length = np.bincount(ring, minlength=count)
    plain = np.flatnonzero(~touching)
    plain = plain[np.argsort(-length[plain], kind="stable")]
    sizes = length[plain]
    ends = np.cumsum(sizes)
    order = np.empty(int(ends[-1]) if len(ends) else 0, np.int64)
    place, at = ends - sizes, first[plain].copy()
    live = len(plain)
    for step in range(int(sizes[0]) if live else 0):
        while live and sizes[live - 1] <= step:
            live = int(np.searchsorted(-sizes, -step, side="left"))
        order[place[:live] + step] = at[:live]
        at[:live] = follows[at[:live]]
    rest, rest_starts = _walked_apart(follows, saddles, first[touching])
    starts = np.concatenate(([0], ends, rest_starts[1:] + len(order)))
    return np.concatenate((order, rest)), starts


def _ring_of(follows: np.ndarray) -> np.ndarray:
    """The number of the ring that each corner is of."""
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import connected_components

    count = len(follows)
    graph = csr_array((np.ones(count, np.int8), follows, np.arange(count + 1)), shape=(count, count))
    return np.asarray(connected_components(graph, connection="strong")[1])


def _walked_apart(
    follows: np.ndarray, saddles: np.ndarray, firsts: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """As `_walked`, for rings that touch themselves: what lies between the two corners of a saddle is a ring
    of its own, a hole that touches at a point, so that every ring is simple."""
    twins = {int(s): int(s) + 1 for s in saddles} | {int(s) + 1: int(s) for s in saddles}
    order: list[int] = []
    starts = [0]
    for first in firsts.tolist():
        held: dict[int, int] = {}  # place in the path of the saddle corners passed
        path: list[int] = []
        corner = first
        while True:
            twin = twins.get(corner)
            if twin is not None:
                at = held.get(twin, -1)
                if 0 <= at < len(path) and path[at] == twin:
                    order += path[at:]
                    starts.append(len(order))
                    del path[at:]
                held[corner] = len(path)
            path.append(corner)
            corner = int(follows[corner])
            if corner == first:
                break
        order += path
        starts.append(len(order))
    return np.array(order, np.int64), np.array(starts, np.int64)


def _chosen(rings: _Rings, keep: np.ndarray) -> _Rings:
    """Some of the rings, by a bool for each."""
    lengths = np.diff(rings.starts)
    starts = np.concatenate(([0], np.cumsum(lengths[keep])))
    return _Rings(rings.points[np.repeat(keep, lengths)], starts, rings.tiles[keep], rings.parts[keep])


# -- simplifying -----------------------------------------------------------------------------------------


def _simplified(rings: _Rings, limit: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Drop vertices while the border stays within `limit` px: points, starts, the error of each ring.

    Source: D. Douglas and T. Peucker, Algorithms for the reduction of the number of points (1973), with the
    distance to the line's stretch, on all rings at once.
    """
    starts, count = rings.starts, len(rings.tiles)
    error = np.zeros(count)
    if not count or limit <= 0:
        return rings.points, starts, error
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
    kept = np.concatenate(([0], np.cumsum(np.add.reduceat(keep, first, dtype=np.int64))))
    return rings.points[keep], kept, error


def _first_of(hit: np.ndarray, group: np.ndarray) -> np.ndarray:
    """The first of the places in `hit` (ascending) in each group."""
    owner = group[hit]
    return np.asarray(hit[np.concatenate(([True], owner[1:] != owner[:-1]))]) if hit.size else hit


def _thicken(points: np.ndarray, rings: _Rings, keep: np.ndarray, ring: np.ndarray, far: np.ndarray) -> None:
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


def _crossing(points: np.ndarray, starts: np.ndarray, rings: _Rings, count: int) -> np.ndarray:
    """Which tiles have an outline that crosses itself, its holes, or another part: bool (tiles,)."""
    import shapely  # late: it takes long to import

    wrong = np.zeros(count, bool)
    if not len(rings.tiles):
        return wrong
    lengths = np.diff(starts)
    outer = _areas(rings) > 0
    made = shapely.linearrings(points.astype(float), indices=np.repeat(np.arange(len(lengths)), lengths))
    order = np.lexsort((~outer, rings.parts, rings.tiles))
    shells = order[outer[order]]
    part = np.cumsum(outer[order]) - 1  # a part's outer ring comes first, then its holes
    polygons = shapely.polygons(made[order], indices=part)
    tiles, first = rings.tiles[shells], np.arange(len(shells))
    wholes = shapely.multipolygons(polygons[first], indices=np.unique(tiles, return_inverse=True)[1])
    wrong[np.unique(tiles)] = ~shapely.is_valid(wholes)
    return wrong


def _areas(rings: _Rings) -> np.ndarray:
    """The exact areas of the rings, positive where clockwise on screen."""
    points, starts = rings.points.astype(np.int64), rings.starts
    following = np.arange(1, len(points) + 1)
    following[starts[1:] - 1] = starts[:-1]
    twice = points[:, 0] * points[following, 1] - points[following, 0] * points[:, 1]
    return np.add.reduceat(twice, starts[:-1]) / 2 if len(starts) > 1 else np.zeros(0)


def _gathered(
    points: np.ndarray, starts: np.ndarray, rings: _Rings, error: np.ndarray, count: int
) -> list[Traced]:
    """The rings sorted into parts with their holes, tile by tile."""
    outlines: list[list[Outline]] = [[] for _ in range(count)]
    errors = np.zeros(count)
    if len(rings.tiles):
        np.maximum.at(errors, rings.tiles, error)
        outer = (_areas(rings) > 0).tolist()
        bounds, parts, tiles = starts.tolist(), rings.parts.tolist(), rings.tiles.tolist()
        holes: dict[int, list[np.ndarray]] = {}
        for n, is_outer in enumerate(outer):
            if not is_outer:
                holes.setdefault(parts[n], []).append(points[bounds[n] : bounds[n + 1]])
        for n, is_outer in enumerate(outer):
            if is_outer:
                inside = tuple(holes.get(parts[n], ()))
                outlines[tiles[n]].append(Outline(points[bounds[n] : bounds[n + 1]], inside))
    return [Traced(tuple(found), far) for found, far in zip(outlines, errors.tolist(), strict=True)]
