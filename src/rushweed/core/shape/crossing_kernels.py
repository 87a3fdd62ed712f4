"""Whether outlines cross, touch or lie wrongly in one another, compiled; `simplify.crossing` says it
exactly."""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import A1, B1, I8, NONE, PAIR, compiled

FOUR = types.UniTuple(types.int64, 4)  # type: ignore[no-untyped-call]
FLAGS, POINTS = types.boolean[::1], types.int32[:, ::1]
LOOKED_AT = 2000  # points of a tile: each is held against each


@compiled(I8(POINTS, I8, I8, I8))
def _side(points: np.ndarray, a: int, b: int, p: int) -> int:
    """Twice the area of the triangle, positive if p is to the right of a to b on screen."""
    ax, ay = np.int64(points[a, 0]), np.int64(points[a, 1])
    return int((points[b, 0] - ax) * (points[p, 1] - ay) - (points[b, 1] - ay) * (points[p, 0] - ax))


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


@compiled(FOUR(POINTS, I8, I8))
def _box(points: np.ndarray, begin: int, end: int) -> tuple[int, int, int, int]:
    """Left, right, top and bottom of a ring."""
    left = right = points[begin, 0]
    top = bottom = points[begin, 1]
    for n in range(begin + 1, end):
        left, right = min(left, points[n, 0]), max(right, points[n, 0])
        top, bottom = min(top, points[n, 1]), max(bottom, points[n, 1])
    return left, right, top, bottom


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


@compiled(B1(POINTS, PAIR, PAIR))
def _lie_apart(points: np.ndarray, one: tuple[int, int], other: tuple[int, int]) -> bool:
    """Whether the boxes around two rings have no point in common."""
    low_x, high_x, low_y, high_y = _box(points, one[0], one[1])
    left, right, top, bottom = _box(points, other[0], other[1])
    return bool(high_x < left or low_x > right or high_y < top or low_y > bottom)


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
            if _lie_apart(points, (begin, end), (start, stop)):
                continue
            for a in range(begin, end):
                b = a + 1 if a + 1 < end else begin
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
