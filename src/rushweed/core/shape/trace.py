"""Outlines from the pixels: the exact border with its holes, simplified within a guaranteed tolerance.

Method (our own, on whole arrays): a border turns only at vertices whose four px are not paired. Every such
corner has one run across and one down; sorted along rows and columns, corners that share a run stand next to
one another. Following the runs gives the rings of any number of tiles at once. Loops in kernels.py do the
same where they are loaded; what is here stands for them until then.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from types import ModuleType
from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import EditError
from rushweed.core.ready import kernels
from rushweed.core.uncollected import uncollected

KERNELS = "rushweed.core.shape.kernels"
Ring = np.ndarray  # (n, 2) points, cell px, x right, y down

# For each pattern of solid px around a vertex (1 upper left, 2 upper right, 4 lower left, 8 lower right):
# whether its run across leads right, its run down leads down, and the border leaves along the run across.
TURNS = {
    1: (0, 0, 1), 2: (1, 0, 0), 4: (0, 1, 0), 8: (1, 1, 1),
    14: (0, 0, 0), 13: (1, 0, 1), 11: (0, 1, 1), 7: (1, 1, 0),
}  # fmt: skip


BATCH_PX = 32 * 1024 * 1024  # traced together
LEAST_TILES = 500  # that are worth a thread
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
    """Rings of many tiles one after another: points int32 (n, 2), where each begins, its tile, its part, and
    whether it is the part's outer one."""

    points: np.ndarray
    starts: np.ndarray
    tiles: np.ndarray
    parts: np.ndarray
    outer: np.ndarray


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
    threads = 1 if kernels(KERNELS) is None else os.cpu_count() or 1
    with uncollected(), ThreadPoolExecutor(threads) as pool:
        batches = _batches(masks, BATCH_PX // threads, max(-(-len(masks) // threads), LEAST_TILES))
        traced_by_batch = pool.map(lambda batch: _trace_batch([masks[n] for n in batch], tolerance), batches)
        for places, found in zip(batches, traced_by_batch, strict=True):
            for n, traced in found.items():
                made[places[n]] = traced
    return made


def _batches(masks: Sequence[np.ndarray], most_px: int, most: int) -> list[list[int]]:
    """Places of masks to be traced together: of about one size, and not too many px or masks at a time."""
    by_shape: dict[tuple[int, ...], list[int]] = {}
    for n, mask in enumerate(masks):
        by_shape.setdefault(mask.shape, []).append(n)
    batches: list[list[int]] = []
    high = wide = 0
    for (h, w), places in sorted(by_shape.items()):
        while places:
            alike = batches and h <= 2 * high and w <= 2 * wide and wide <= 2 * w
            each = (max(h, high) + 1) * max(w, wide) if alike else (h + 1) * w
            room = min(most, max(most_px // each, 1)) - (len(batches[-1]) if alike else 0)
            if not alike or room < 1:
                batches.append([])
                high, wide = h, w
                room = min(most, max(most_px // ((h + 1) * w), 1))
            batches[-1] += places[:room]
            places = places[room:]
            high, wide = max(high, h), max(wide, w)
    return batches


def _trace_batch(masks: Sequence[np.ndarray], tolerance: float) -> dict[int, Traced]:
    """The outlines of the tiles that are not empty, by their places."""
    rings = _rings_of(masks)
    limit = float(tolerance)
    made: dict[int, Traced] = {}
    halvings = 0
    while True:
        points, starts, error = _simplified(rings, limit)
        wrong = _crossing(points, starts, rings, len(masks)) if limit > 0 else np.zeros(len(masks), bool)
        made |= _gathered(points, starts, rings, error, ~wrong)
        if not wrong.any():
            return made
        halvings += 1
        limit = limit / 2 if halvings < 6 else 0.0
        rings = _taken(rings, np.flatnonzero(wrong[rings.tiles]))


# -- following the border --------------------------------------------------------------------------------


def _rings_of(masks: Sequence[np.ndarray]) -> _Rings:
    height, width = max(m.shape[0] for m in masks), max(m.shape[1] for m in masks)
    pitch = height + 1
    solid = np.zeros((len(masks) * pitch + 2, width + 2), bool)
    for n, mask in enumerate(masks):
        solid[n * pitch + 1 : n * pitch + 1 + mask.shape[0], 1 : 1 + mask.shape[1]] = mask
    loops = kernels(KERNELS)
    return _plain_rings(solid, pitch) if loops is None else _compiled_rings(loops, solid, pitch)


def _compiled_rings(loops: ModuleType, solid: np.ndarray, pitch: int) -> _Rings:
    """The rings of tiles under each other, bool (count * pitch + 2, width + 2)."""
    bits = solid.view(np.uint8)
    count = loops.count_corners(bits)
    xs, ys, kinds, twins, follows, order, held, path = np.empty((8, count), np.int64)
    loops.find_corners(bits, TURN_TABLE, xs, ys, kinds, twins, follows, np.empty(bits.shape[1], np.int64))
    starts, apart = np.empty(count + 1, np.int64), np.empty(count, bool)
    found = loops.walk_rings(follows, twins, order, starts, apart, np.zeros(count, bool), held, path)
    starts = starts[: found + 1]
    where = np.stack((xs[order], ys[order]), axis=1).astype(np.int32)
    outer = _areas(where, starts) > 0
    parts = np.empty(found, np.int64)
    edges = np.empty(bits.shape, np.int32)
    loops.find_parts(bits, INSIDE, xs, ys, kinds, order, starts, outer, edges, parts)
    points, tiles = where, where[starts[:-1], 1] // pitch
    points[:, 1] %= pitch
    lengths = np.diff(starts)
    wanted = np.lexsort((np.where(apart[:found], 0, -lengths), apart[:found]))
    return _taken(_Rings(points, starts, tiles, parts, outer), wanted)


def _plain_rings(solid: np.ndarray, pitch: int) -> _Rings:
    from scipy import ndimage  # late: it takes a third of a second to import

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
    return _Rings(points, starts, ys[heads] // pitch, parts, _areas(points, starts) > 0)


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
    plain = plain[np.lexsort((first[plain], -length[plain]))]
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
    rest, rest_starts = _walked_apart(follows, saddles, np.sort(first[touching]))
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


def _taken(rings: _Rings, wanted: np.ndarray) -> _Rings:
    """Some of the rings, by their numbers, in that order."""
    lengths = np.diff(rings.starts)[wanted]
    starts = np.concatenate(([0], np.cumsum(lengths)))
    index = np.arange(starts[-1]) + np.repeat(rings.starts[wanted] - starts[:-1], lengths)
    return _Rings(rings.points[index], starts, rings.tiles[wanted], rings.parts[wanted], rings.outer[wanted])


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
    wrong = np.zeros(count, bool)
    loops = kernels(KERNELS)
    if loops is not None and len(rings.tiles):  # most are seen at once to be sound
        by_tile = np.argsort(rings.tiles, kind="stable")
        bounds = np.searchsorted(rings.tiles[by_tile], np.arange(count + 1))
        sound = np.zeros(count, bool)
        _ids, alike = np.unique(rings.parts, return_inverse=True)
        owner = np.empty(len(alike), np.int64)
        owner[alike[rings.outer]] = np.flatnonzero(rings.outer)  # the outer ring of each part
        loops.find_sound(points, starts, by_tile, bounds, owner[alike], sound)
        unsure = np.flatnonzero(~sound[rings.tiles])
        rings = _taken(rings._replace(points=points, starts=starts), unsure)
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


def _areas(points: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """The exact areas of rings, positive where clockwise on screen."""
    points = points.astype(np.int64)
    following = np.arange(1, len(points) + 1)
    following[starts[1:] - 1] = starts[:-1]
    twice = points[:, 0] * points[following, 1] - points[following, 0] * points[:, 1]
    return np.add.reduceat(twice, starts[:-1]) / 2 if len(starts) > 1 else np.zeros(0)


def _gathered(
    points: np.ndarray, starts: np.ndarray, rings: _Rings, error: np.ndarray, wanted: np.ndarray
) -> dict[int, Traced]:
    """The rings of some tiles, a bool for each, sorted into parts with their holes, tile by tile."""
    if not len(rings.tiles):
        return {}
    errors = np.zeros(len(wanted))
    np.maximum.at(errors, rings.tiles, error)
    pieces = [points[a:b] for a, b in pairwise(starts.tolist())]
    parts = rings.parts.tolist()
    holes: dict[int, tuple[Ring, ...]] = {}
    for n in np.flatnonzero(~rings.outer).tolist():
        holes[parts[n]] = (*holes.get(parts[n], ()), pieces[n])
    outer = np.flatnonzero(rings.outer & wanted[rings.tiles])
    outer = outer[np.argsort(rings.tiles[outer], kind="stable")]
    found = [Outline(pieces[n], holes.get(parts[n], ())) for n in outer.tolist()]
    tiles, begins = np.unique(rings.tiles[outer], return_index=True)
    ranges = pairwise((*begins.tolist(), len(found)))
    return {
        tile: Traced(tuple(found[a:b]), far)
        for tile, far, (a, b) in zip(tiles.tolist(), errors[tiles].tolist(), ranges, strict=True)
    }
