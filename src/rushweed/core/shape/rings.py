"""The exact borders of tiles as rings, with their holes.

Method (our own, on whole arrays): a border turns only at vertices whose four px are not paired. Every such
corner has one run across and one down; sorted along rows and columns, corners that share a run stand next to
one another. Following the runs gives the rings of any number of tiles at once. Loops in kernels.py do the
same where they are loaded; what is here stands for them until then.
"""

from __future__ import annotations

from collections.abc import Sequence
from types import ModuleType
from typing import NamedTuple

import numpy as np

from rushweed.core.ready import kernels

KERNELS = "rushweed.core.shape.kernels"

# For each pattern of solid px around a vertex (1 upper left, 2 upper right, 4 lower left, 8 lower right):
# whether its run across leads right, its run down leads down, and the border leaves along the run across.
TURNS = {
    1: (0, 0, 1), 2: (1, 0, 0), 4: (0, 1, 0), 8: (1, 1, 1),
    14: (0, 0, 0), 13: (1, 0, 1), 11: (0, 1, 1), 7: (1, 1, 0),
}  # fmt: skip


CORNER = np.zeros(16, bool)  # patterns at which a border turns
CORNER[[*TURNS, 9, 6]] = True
TURN_TABLE = np.zeros((16, 3), np.int64)
INSIDE = np.zeros((16, 2), np.int64)  # which px beside such a vertex is solid: one right, one down
for _kind, _turn in TURNS.items():
    TURN_TABLE[_kind] = _turn
for _kind, _px in {2: (1, 0), 4: (0, 1), 8: (1, 1), 14: (1, 0), 7: (1, 0)}.items():
    INSIDE[_kind] = _px


class Rings(NamedTuple):
    """Rings of many tiles one after another: points int32 (n, 2), where each begins, its tile, its part, and
    whether it is the part's outer one."""

    points: np.ndarray
    starts: np.ndarray
    tiles: np.ndarray
    parts: np.ndarray
    outer: np.ndarray


def rings_of(masks: Sequence[np.ndarray]) -> Rings:
    """All rings of several masks, bool (height, width) each, in px on their edges."""
    height, width = max(m.shape[0] for m in masks), max(m.shape[1] for m in masks)
    pitch = height + 1
    solid = np.zeros((len(masks) * pitch + 2, width + 2), bool)
    if all(mask.shape == (height, width) for mask in masks):
        solid[1:-1].reshape(len(masks), pitch, width + 2)[:, :-1, 1:-1] = masks
    else:
        for n, mask in enumerate(masks):
            solid[n * pitch + 1 : n * pitch + 1 + mask.shape[0], 1 : 1 + mask.shape[1]] = mask
    loops = kernels(KERNELS)
    return _plain_rings(solid, pitch) if loops is None else _compiled_rings(loops, solid, pitch)


def _compiled_rings(loops: ModuleType, solid: np.ndarray, pitch: int) -> Rings:
    """The rings of tiles under each other, bool (count * pitch + 2, width + 2)."""
    bits = solid.view(np.uint8)
    count = loops.count_corners(bits)
    *columns, order, held, path = np.empty((8, count), np.int32)
    corners = loops.Corners(*columns)
    loops.find_corners(bits, TURN_TABLE, corners, np.empty(bits.shape[1], np.int32))
    walked = loops.Walked(order, np.empty(count + 1, np.int64), np.empty(count, bool))
    found = loops.walk_rings(corners, walked, np.zeros(count, bool), held, path)
    starts, apart = walked.starts[: found + 1], walked.apart[:found]
    parts, outer = np.empty(found, np.int64), np.empty(found, bool)
    loops.find_outer(corners, walked, outer)
    loops.find_parts(bits, INSIDE, corners, walked, loops.Parts(outer, parts), np.empty(bits.shape, np.int32))
    wanted = np.lexsort((np.where(apart, 0, -np.diff(starts)), apart))
    points, begins = np.empty((count, 2), np.int32), np.empty(found + 1, np.int64)
    loops.lay_out(corners, walked, wanted, pitch, points, begins)
    tiles = corners.ys[order[starts[:-1]]] // pitch
    return Rings(points, begins, tiles[wanted], parts[wanted], outer[wanted])


def _plain_rings(solid: np.ndarray, pitch: int) -> Rings:
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
    return Rings(points, starts, ys[heads] // pitch, parts, areas(points, starts) > 0)


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


def taken(rings: Rings, wanted: np.ndarray) -> Rings:
    """Some of the rings, by their numbers, in that order."""
    lengths = np.diff(rings.starts)[wanted]
    loops = kernels(KERNELS)
    if loops is None:
        starts = np.concatenate(([0], np.cumsum(lengths)))
        index = np.arange(starts[-1]) + np.repeat(rings.starts[wanted] - starts[:-1], lengths)
        points = rings.points[index]
    else:
        points, starts = np.empty((lengths.sum(), 2), np.int32), np.empty(len(wanted) + 1, np.int64)
        loops.take_rings(rings.points, rings.starts, wanted, points, starts)
    return Rings(points, starts, rings.tiles[wanted], rings.parts[wanted], rings.outer[wanted])


def areas(points: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """The exact areas of rings, positive where clockwise on screen."""
    points = points.astype(np.int64)
    following = np.arange(1, len(points) + 1)
    following[starts[1:] - 1] = starts[:-1]
    twice = points[:, 0] * points[following, 1] - points[following, 0] * points[:, 1]
    return np.add.reduceat(twice, starts[:-1]) / 2 if len(starts) > 1 else np.zeros(0)
