"""Outlines followed, simplified and looked through, compiled; trace.py says what these are and holds their
plain form, which gives the same."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numba import types

from rushweed.core.compiled import A1, B1, I8, NONE, PAIR, compiled

U1, F8 = types.uint8, types.float64
SOLID, EDGES = types.uint8[:, ::1], types.int32[:, ::1]
FLAGS = types.boolean[::1]
TABLE = types.Array(types.int64, 2, "C", readonly=True)
POINTS, REALS = types.int32[:, ::1], types.float64[::1]
LOOKED_AT = 2000  # points of a tile: each is held against each


class Corners(NamedTuple):
    """The corners of all borders, int64 (corners,)."""

    xs: np.ndarray
    ys: np.ndarray
    kinds: np.ndarray  # which of the px around are solid
    twins: np.ndarray  # the other one of a saddle, or -1
    follows: np.ndarray  # the next along the border


class Walked(NamedTuple):
    """Corners ring by ring."""

    order: np.ndarray  # int64 (corners,)
    starts: np.ndarray  # int64 (rings + 1,), where in `order` each ring begins
    apart: np.ndarray  # bool (rings,), of one that touched itself: each side of a saddle is a ring of its own


class Parts(NamedTuple):
    """To which part each ring belongs."""

    outer: np.ndarray  # bool (rings,), whether it is the outermost of its part
    of: np.ndarray  # int64 (rings,), the outermost one


CORNERS = types.NamedUniTuple(A1, 5, Corners)
WALKED = types.NamedTuple((A1, A1, FLAGS), Walked)
PARTS = types.NamedTuple((FLAGS, A1), Parts)

# -- following the border --------------------------------------------------------------------------------


@compiled(I8(SOLID, I8, I8))
def _around(solid: np.ndarray, y: int, x: int) -> int:
    """Which of the four px around a vertex are solid: 1 upper left, 2 upper right, 4 lower left, 8 right."""
    return solid[y, x] + 2 * solid[y, x + 1] + 4 * solid[y + 1, x] + 8 * solid[y + 1, x + 1]


@compiled(B1(I8))
def _turns(around: int) -> bool:
    """Whether a border turns at such a vertex."""
    return around not in (0, 3, 5, 10, 12, 15)


@compiled(I8(SOLID))
def count_corners(solid: np.ndarray) -> int:
    """How many corners there are, uint8 (height, width) of 0 and 1; a saddle is two."""
    count = 0
    for y in range(solid.shape[0] - 1):
        for x in range(solid.shape[1] - 1):
            around = _around(solid, y, x)
            if _turns(around):
                count += 2 if around in (6, 9) else 1
    return count


@compiled(NONE(SOLID, TABLE, CORNERS, A1))
def find_corners(solid: np.ndarray, turns: np.ndarray, corners: Corners, above: np.ndarray) -> None:
    """The corners row by row, of a saddle the one whose run leads left first. `above` (width,) is room to
    work in: the corner of each column whose run leads down to where we are."""
    xs, ys, kinds, twins, follows = corners.xs, corners.ys, corners.kinds, corners.twins, corners.follows
    count, before = 0, 0
    for y in range(solid.shape[0] - 1):
        for x in range(solid.shape[1] - 1):
            around = _around(solid, y, x)
            if not _turns(around):
                continue
            halves = 2 if around in (6, 9) else 1
            for half in range(halves):
                at = count + half
                xs[at], ys[at], kinds[at], twins[at] = x, y, around, -1
            if halves == 2:
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


@compiled(I8(CORNERS, WALKED, FLAGS, A1, A1))
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


# -- whether they cross ----------------------------------------------------------------------------------


@compiled(I8(POINTS, I8, I8, I8))
def _side(points: np.ndarray, a: int, b: int, p: int) -> int:
    """Twice the area of the triangle, positive if p is to the right of a to b on screen."""
    ax, ay = np.int64(points[a, 0]), np.int64(points[a, 1])
    return (points[b, 0] - ax) * (points[p, 1] - ay) - (points[b, 1] - ay) * (points[p, 0] - ax)


@compiled(B1(POINTS, I8, I8, I8, I8))
def _meet(points: np.ndarray, a: int, b: int, c: int, d: int) -> bool:
    """Whether two stretches whose boxes meet have a point in common."""
    one, two = _side(points, a, b, c), _side(points, a, b, d)
    if (one > 0 and two > 0) or (one < 0 and two < 0):
        return False
    one, two = _side(points, c, d, a), _side(points, c, d, b)
    return not ((one > 0 and two > 0) or (one < 0 and two < 0))


@compiled(B1(POINTS, PAIR, I8, I8, PAIR))
def _meets_any(
    points: np.ndarray, stretch: tuple[int, int], first: int, last: int, ring: tuple[int, int]
) -> bool:
    """Whether a stretch from point to point meets one that begins at first..last - 1 of a ring, which is told
    by where it begins and the next one does."""
    (a, b), (begin, end) = stretch, ring
    ax, ay, bx, by = points[a, 0], points[a, 1], points[b, 0], points[b, 1]
    left, right, top, bottom = min(ax, bx), max(ax, bx), min(ay, by), max(ay, by)
    if first >= last:
        return False
    cx, cy = points[first, 0], points[first, 1]
    for c in range(first, last):
        d = c + 1 if c + 1 < end else begin
        dx, dy = points[d, 0], points[d, 1]
        apart = (cx < left and dx < left) or (cx > right and dx > right)
        apart = apart or (cy < top and dy < top) or (cy > bottom and dy > bottom)
        if not apart and _meet(points, a, b, c, d):
            return True
        cx, cy = dx, dy
    return False


@compiled(B1(POINTS, I8, I8, I8))
def _within(points: np.ndarray, begin: int, end: int, p: int) -> bool:
    """Whether a point that is not on a ring is inside it."""
    inside = False
    for n in range(begin, end):
        m = n + 1 if n + 1 < end else begin
        if (points[n, 1] > points[p, 1]) != (points[m, 1] > points[p, 1]):
            right = _side(points, n, m, p) < 0
            inside ^= right if points[m, 1] > points[n, 1] else not right
    return inside


@compiled(B1(POINTS, A1, A1))
def _touch(points: np.ndarray, starts: np.ndarray, rings: np.ndarray) -> bool:
    """Whether any two stretches of some rings meet, but for neighbours at the point they share."""
    for i in range(rings.shape[0]):
        begin, end = starts[rings[i]], starts[rings[i] + 1]
        if end - begin < 3:
            return True
        for a in range(begin, end):
            b = a + 1 if a + 1 < end else begin
            after = b + 1 if b + 1 < end else begin
            if _side(points, a, b, after) == 0:
                return True  # straight on, or back: looked at elsewhere
            if _meets_any(points, (a, b), a + 2, end if a > begin else end - 1, (begin, end)):
                return True
            for j in range(i + 1, rings.shape[0]):
                start, stop = starts[rings[j]], starts[rings[j] + 1]
                if _meets_any(points, (a, b), start, stop, (start, stop)):
                    return True
    return False


@compiled(B1(POINTS, A1, A1, A1))
def _nested(points: np.ndarray, starts: np.ndarray, rings: np.ndarray, parts: np.ndarray) -> bool:
    """Whether rings that do not touch lie in one another as they should: a hole in its own outer ring and in
    no other hole of it, and no ring in another part but in a hole of that."""
    for i in range(rings.shape[0]):
        ring, p = rings[i], starts[rings[i]]
        for j in range(rings.shape[0]):
            part = rings[j]
            if parts[part] != part or part == ring:
                continue
            within = _within(points, starts[part], starts[part + 1], p)
            in_hole = False
            for k in range(rings.shape[0]):
                hole = rings[k]
                if hole not in (part, ring) and parts[hole] == part:
                    in_hole |= _within(points, starts[hole], starts[hole + 1], p)
            if parts[ring] == part:
                if not within or in_hole:
                    return False
            elif within and not in_hole:
                return False
    return True


@compiled(NONE(POINTS, A1, A1, A1, A1, FLAGS))
def find_sound(
    points: np.ndarray, starts: np.ndarray, by_tile: np.ndarray, bounds: np.ndarray, parts: np.ndarray,
    sound: np.ndarray,
) -> None:  # fmt: skip
    """Which tiles have outlines that surely neither cross nor touch and lie in one another as they should.
    The rings of a tile are by_tile[bounds[n]:bounds[n + 1]]; one of very many points is not looked at."""
    for n in range(sound.shape[0]):
        rings = by_tile[bounds[n] : bounds[n + 1]]
        count = 0
        for ring in rings:
            count += starts[ring + 1] - starts[ring]
        if count <= LOOKED_AT:
            sound[n] = not _touch(points, starts, rings) and _nested(points, starts, rings, parts)
