"""Outlines followed and simplified, compiled; trace.py says what these are and holds their plain form, which
gives the same."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numba import types

from rushweed.core.compiled import A1, I8, NONE, compiled

U1, F8 = types.uint8, types.float64
SOLID, EDGES = types.uint8[:, ::1], types.int32[:, ::1]
FLAGS = types.boolean[::1]
TABLE = types.Array(types.int64, 2, "C", readonly=True)
POINTS, REALS = types.int32[:, ::1], types.float64[::1]


class Corners(NamedTuple):
    """The corners of all borders, int32 (corners,)."""

    xs: np.ndarray
    ys: np.ndarray
    kinds: np.ndarray  # which of the px around are solid
    twins: np.ndarray  # the other one of a saddle, or -1
    follows: np.ndarray  # the next along the border


class Walked(NamedTuple):
    """Corners ring by ring."""

    order: np.ndarray  # int32 (corners,)
    starts: np.ndarray  # int64 (rings + 1,), where in `order` each ring begins
    apart: np.ndarray  # bool (rings,), of one that touched itself: each side of a saddle is a ring of its own


class Parts(NamedTuple):
    """To which part each ring belongs."""

    outer: np.ndarray  # bool (rings,), whether it is the outermost of its part
    of: np.ndarray  # int64 (rings,), the outermost one


NUMBERS = types.int32[::1]
CORNERS = types.NamedUniTuple(NUMBERS, 5, Corners)
WALKED = types.NamedTuple((NUMBERS, A1, FLAGS), Walked)
PARTS = types.NamedTuple((FLAGS, A1), Parts)

# -- following the border --------------------------------------------------------------------------------


# Which px around a vertex are solid: 1 upper left, 2 upper right, 4 lower left, 8 lower right. The patterns
# with which no border turns there: a bit for each.
STRAIGHT = sum(1 << around for around in (0, 3, 5, 10, 12, 15))


@compiled(I8(SOLID, I8, I8), inside=True)
def _right_of(solid: np.ndarray, y: int, x: int) -> int:
    """The two px at the right of a vertex; halved, they are those at the left of the next."""
    return int(2 * solid[y, x + 1] + 8 * solid[y + 1, x + 1])


@compiled(I8(SOLID))
def count_corners(solid: np.ndarray) -> int:
    """How many corners there are, uint8 (height, width) of 0 and 1; a saddle is two."""
    count = 0
    for y in range(solid.shape[0] - 1):
        left = _right_of(solid, y, -1) >> 1
        for x in range(solid.shape[1] - 1):
            right = _right_of(solid, y, x)
            around = left + right
            left = right >> 1
            if not STRAIGHT >> around & 1:
                count += 2 if around in (6, 9) else 1
    return count


@compiled(I8(TABLE, CORNERS, NUMBERS, I8, I8), inside=True)
def _join(turns: np.ndarray, corners: Corners, above: np.ndarray, before: int, at: int) -> int:
    """Join a corner that is no saddle to those its runs lead to; returns the corner whose run leads on to the
    right, as far as is known."""
    kinds, follows, x = corners.kinds, corners.follows, corners.xs[at]
    kind = kinds[at]
    if turns[kind, 0] == 1:
        before = at
    else:
        if turns[kind, 2] == 1:
            follows[at] = before
        if turns[kinds[before], 2] == 1:
            follows[before] = at
    if turns[kind, 1] == 1:
        above[x] = at
    else:
        if turns[kind, 2] == 0:
            follows[at] = above[x]
        if turns[kinds[above[x]], 2] == 0:
            follows[above[x]] = at
    return before


@compiled(NONE(SOLID, TABLE, CORNERS, NUMBERS))
def find_corners(solid: np.ndarray, turns: np.ndarray, corners: Corners, above: np.ndarray) -> None:
    """The corners row by row, of a saddle the one whose run leads left first. `above` (width,) is room to
    work in: the corner of each column whose run leads down to where we are."""
    xs, ys, kinds, twins, follows = corners.xs, corners.ys, corners.kinds, corners.twins, corners.follows
    count, before = 0, 0
    for y in range(solid.shape[0] - 1):
        left = _right_of(solid, y, -1) >> 1
        for x in range(solid.shape[1] - 1):
            right = _right_of(solid, y, x)
            around = left + right
            left = right >> 1
            if STRAIGHT >> around & 1:
                continue
            xs[count], ys[count], kinds[count], twins[count] = x, y, around, -1
            if around not in (6, 9):
                before = _join(turns, corners, above, before, count)
                count += 1
                continue
            halves = 2
            xs[count + 1], ys[count + 1] = x, y
            twins[count], twins[count + 1] = count + 1, count
            kinds[count] = 1 if around == 9 else 4
            kinds[count + 1] = 8 if around == 9 else 2
            for half in range(halves):
                at = count + half
                if turns[kinds[at], 0] == 1:
                    before = at
                    continue
                if turns[kinds[at], 2] == 1:
                    follows[at] = before
                if turns[kinds[before], 2] == 1:
                    follows[before] = at
            for half in range(halves):
                at = count + half if around != 6 else count + 1 - half  # the run that leads up goes first
                if turns[kinds[at], 1] == 1:
                    above[x] = at
                    continue
                if turns[kinds[at], 2] == 0:
                    follows[at] = above[x]
                if turns[kinds[above[x]], 2] == 0:
                    follows[above[x]] = at
            count += halves


@compiled(I8(CORNERS, WALKED, FLAGS, NUMBERS, NUMBERS))
def walk_rings(corners: Corners, walked: Walked, seen: np.ndarray, held: np.ndarray, path: np.ndarray) -> int:
    """The corners ring by ring, as they are met first; returns how many rings there are. `seen`, `held`,
    `path` are room to work in."""
    follows, twins = corners.follows, corners.twins
    order, starts, apart = walked.order, walked.starts, walked.apart
    rings, filled = 0, 0
    starts[0] = 0
    for first in range(follows.shape[0]):
        if seen[first]:
            continue
        length, touches, corner = 0, False, first
        while True:
            seen[corner] = True
            path[length] = corner
            held[corner] = first  # its ring, for now
            length += 1
            corner = follows[corner]
            if corner == first:
                break
        for n in range(length):
            twin = twins[path[n]]
            touches = touches or (twin >= 0 and seen[twin] and held[twin] == first)
        if not touches:
            for n in range(length):
                order[filled + n] = path[n]
            filled += length
            apart[rings] = False
            rings += 1
            starts[rings] = filled
            continue
        for n in range(length):
            held[path[n]] = -1
        length, corner = 0, first
        while True:
            twin = twins[corner]
            if twin >= 0:
                at = held[twin]
                if 0 <= at < length and path[at] == twin:
                    for n in range(at, length):
                        order[filled + n - at] = path[n]
                    filled += length - at
                    apart[rings] = True
                    rings += 1
                    starts[rings] = filled
                    length = at
                held[corner] = length
            path[length] = corner
            length += 1
            corner = follows[corner]
            if corner == first:
                break
        for n in range(length):
            order[filled + n] = path[n]
        filled += length
        apart[rings] = True
        rings += 1
        starts[rings] = filled
    return rings


@compiled(NONE(CORNERS, WALKED, FLAGS))
def find_outer(corners: Corners, walked: Walked, outer: np.ndarray) -> None:
    """Which rings bound a part from outside: those that go clockwise on screen."""
    xs, ys, order, starts = corners.xs, corners.ys, walked.order, walked.starts
    for ring in range(outer.shape[0]):
        last, twice = order[starts[ring + 1] - 1], 0
        for n in range(starts[ring], starts[ring + 1]):
            corner = order[n]
            twice += np.int64(xs[last]) * ys[corner] - np.int64(xs[corner]) * ys[last]
            last = corner
        outer[ring] = twice > 0


@compiled(NONE(POINTS, A1, A1, POINTS, A1))
def take_rings(
    points: np.ndarray, starts: np.ndarray, wanted: np.ndarray, out: np.ndarray, begins: np.ndarray
) -> None:
    """The points of some rings, by their numbers, in that order, and where each begins (one more at the
    end)."""
    filled = 0
    for n in range(wanted.shape[0]):
        begins[n] = filled
        for k in range(starts[wanted[n]], starts[wanted[n] + 1]):
            out[filled, 0], out[filled, 1] = points[k, 0], points[k, 1]
            filled += 1
    begins[wanted.shape[0]] = filled


@compiled(NONE(CORNERS, WALKED, A1, I8, POINTS, A1))
def lay_out(
    corners: Corners, walked: Walked, wanted: np.ndarray, pitch: int, points: np.ndarray, begins: np.ndarray
) -> None:
    """The places of the corners of some rings, in that order, px of their tile of which one stands each
    `pitch` px below the other; and where each ring begins."""
    xs, ys, order, starts = corners.xs, corners.ys, walked.order, walked.starts
    filled = 0
    for n in range(wanted.shape[0]):
        begins[n] = filled
        ring = wanted[n]
        top = ys[order[starts[ring]]] // pitch * pitch
        for k in range(starts[ring], starts[ring + 1]):
            points[filled, 0], points[filled, 1] = xs[order[k]], ys[order[k]] - top
            filled += 1
    begins[wanted.shape[0]] = filled


@compiled(NONE(SOLID, TABLE, CORNERS, WALKED, PARTS, EDGES))
def find_parts(
    solid: np.ndarray, inside: np.ndarray, corners: Corners, walked: Walked, found: Parts, edges: np.ndarray
) -> None:
    """For each ring the outer ring of the solid part it bounds. From a hole's highest, leftmost corner the
    part reaches left to another of its rings, which begins higher or farther left; so on to the outer one.
    `edges`, as large as `solid`, is room: which ring runs along the left of each px."""
    xs, ys, kinds, order, starts = corners.xs, corners.ys, corners.kinds, walked.order, walked.starts
    outer, parts = found
    rings = parts.shape[0]
    for ring in range(rings):
        begin, end = starts[ring], starts[ring + 1]
        for n in range(begin, end):
            one, other = order[n], order[n + 1 if n + 1 < end else begin]
            if xs[one] == xs[other]:
                for y in range(min(ys[one], ys[other]), max(ys[one], ys[other])):
                    edges[y + 1, xs[one] + 1] = ring
    for ring in range(rings):
        parts[ring] = ring
        if outer[ring]:
            continue
        highest = order[starts[ring]]
        for n in range(starts[ring], starts[ring + 1]):
            highest = min(highest, order[n])
        y, x = ys[highest] + inside[kinds[highest], 1], xs[highest] + inside[kinds[highest], 0]
        while solid[y, x - 1]:
            x -= 1
        parts[ring] = edges[y, x]
    for ring in range(rings):
        part = parts[ring]
        while not outer[part]:
            part = parts[part]
        parts[ring] = part


# -- simplifying -----------------------------------------------------------------------------------------


@compiled(F8(POINTS, I8, I8, I8))
def _away(points: np.ndarray, index: int, start: int, stop: int) -> float:
    """How far a point is from the stretch between two others."""
    x0, y0 = float(points[start, 0]), float(points[start, 1])
    dx, dy = points[stop, 0] - x0, points[stop, 1] - y0
    length = dx * dx + dy * dy
    inverse = 1.0 / length if length > 0 else 1.0
    tx, ty = points[index, 0] - x0, points[index, 1] - y0
    share = min(max((tx * dx + ty * dy) * inverse, 0.0), 1.0)
    tx -= share * dx
    ty -= share * dy
    return math.sqrt(tx * tx + ty * ty)


@compiled(NONE(POINTS, A1, F8, FLAGS, REALS, A1))
def simplify(
    points: np.ndarray, starts: np.ndarray, limit: float, keep: np.ndarray, error: np.ndarray,
    waiting: np.ndarray,
) -> None:  # fmt: skip
    """Which points of each ring stay while the border is within `limit` px, and how far it is at most.
    `waiting`, two for each point and some, is room: the stretches that are to be looked at."""
    for ring in range(error.shape[0]):
        first, end = starts[ring], starts[ring + 1]
        far, most = first, -1
        for n in range(first, end):
            dx, dy = points[n, 0] - points[first, 0], points[n, 1] - points[first, 1]
            if dx * dx + dy * dy > most:
                far, most = n, dx * dx + dy * dy
        keep[first], keep[far] = True, True
        kept = 2
        waiting[0], waiting[1], waiting[2], waiting[3] = first, far, far, end
        depth = 2
        while depth:
            depth -= 1
            a, b = waiting[2 * depth], waiting[2 * depth + 1]
            if b - a < 2:
                continue
            middle, farthest = a, -1.0
            for n in range(a + 1, b):
                away = _away(points, n, a, first if b == end else b)
                if away > farthest:
                    middle, farthest = n, away
            if farthest > limit + 1e-9:
                keep[middle] = True
                kept += 1
                waiting[2 * depth], waiting[2 * depth + 1] = a, middle
                waiting[2 * depth + 2], waiting[2 * depth + 3] = middle, b
                depth += 2
            else:
                error[ring] = max(error[ring], farthest)
        if kept < 3:  # it shrank to a line: the point farthest from it gives it an inside
            middle, farthest = first, -1.0
            for n in range(first, end):
                away = _away(points, n, first, far)
                if away > farthest:
                    middle, farthest = n, away
            keep[middle] = True
