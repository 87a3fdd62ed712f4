"""The steps of fitting a line through the colours of a block, compiled: axis, best ends, nearest places.

Everything about the block at hand stands in `work`, an array of rows of 16 float32 with the names below: one
value a px, unless said otherwise.
"""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import I8, NONE, compiled

F4 = types.float32
WORK = types.float32[:, ::1]

PX = 0  # four rows: red, green, blue, alpha
MASK = 4  # 1 where a px belongs to the line, else 0
SEEN = 5  # how much the colour of a px counts
WEIGHT = 6  # both together
SHARE = 7  # how far along the line its place lies, 0 to 1
FAR = 8  # its squared distance from the nearest place
PLACE = 9  # the nearest place
PALETTE = 10  # four rows: the channels of up to 16 places
SUMS = 14  # the squared error of both ends, see `add_up`
MEAN = 15  # of each channel
AXIS = 16  # the direction, by channel
SPREAD = 17  # the covariance, 4 x 4
WANTED = 18  # the ends that err least: the first's channels, the last's from 4
TRIED = 19  # stored ends like WANTED, their lowest bits at 8 and 9
CHOSEN = 20  # the same, of the best of those tried
BEST_ENDS = 21  # of the best line so far
BEST_PLACE = 22
STEPS = 23  # the share of each place
AWAY = 24  # four rows: how far each px is from MEAN
HEAVY = 28  # four rows: the same by its weight
AROUND = 32  # two rows: stored values next to WANTED in one channel, by their lowest bit
PAIRS = 34  # four rows: the ends by the lowest bits of both
ROWS = 38

ZERO, ONE, HALF, TWO = np.float32(0), np.float32(1), np.float32(0.5), np.float32(2)
TINY = np.float32(1e-12)
HUGE = np.float32(3e38)
WHITE = np.float32(255)
HIDDEN = np.float32(0.25)  # how much the colour of a px counts that cannot be seen, beside one that is
AXIS_TURNS = 4


@compiled(I8(I8, I8))
def grown(value: int, bits: int) -> int:
    """`bits` wide values to 8 bits, as a card does: the upper bits once more below."""
    return (value << (8 - bits)) | (value >> (2 * bits - 8))


@compiled(F4(WORK, I8, I8))
def dot(work: np.ndarray, i: int, j: int) -> np.float32:
    """The sum of the products of two rows, always added in the same order."""
    a = work[i, 0] * work[j, 0] + work[i, 8] * work[j, 8]
    b = work[i, 1] * work[j, 1] + work[i, 9] * work[j, 9]
    c = work[i, 2] * work[j, 2] + work[i, 10] * work[j, 10]
    d = work[i, 3] * work[j, 3] + work[i, 11] * work[j, 11]
    e = work[i, 4] * work[j, 4] + work[i, 12] * work[j, 12]
    f = work[i, 5] * work[j, 5] + work[i, 13] * work[j, 13]
    g = work[i, 6] * work[j, 6] + work[i, 14] * work[j, 14]
    h = work[i, 7] * work[j, 7] + work[i, 15] * work[j, 15]
    return ((a + e) + (b + f)) + ((c + g) + (d + h))


@compiled(NONE(WORK, I8, I8))
def _turn(work: np.ndarray, first: int, last: int) -> None:
    """AXIS once through the covariance."""
    for c in range(first, last):
        value = ZERO
        for j in range(first, last):
            value += work[SPREAD, 4 * c + j] * work[AXIS, j]
        work[TRIED, c] = value
    for c in range(first, last):
        work[AXIS, c] = work[TRIED, c]


@compiled(F4(WORK, I8, I8, I8))
def find_axis(work: np.ndarray, first: int, count: int, weights: int) -> np.float32:
    """MEAN and AXIS of the px in `count` channels from the first: the direction in which they spread most, by
    power iteration on their covariance. Returns the squared error that any line leaves. weights: a row, MASK
    or WEIGHT."""
    last = first + count
    share = ONE / max(dot(work, weights, MASK), TINY)
    whole, most = ZERO, first
    for c in range(first, last):
        mean = dot(work, weights, PX + c) * share
        work[MEAN, c] = mean
        for p in range(16):
            away = work[PX + c, p] - mean
            work[AWAY + c, p] = away
            work[HEAVY + c, p] = away * work[weights, p]
        own = dot(work, HEAVY + c, AWAY + c)
        work[SPREAD, 5 * c] = own
        whole += own
        if own > work[SPREAD, 5 * most]:
            most = c
    if count == 1:
        work[AXIS, first] = ONE
        return ZERO
    scale = ONE / max(whole, TINY)
    for i in range(first, last):
        work[SPREAD, 5 * i] *= scale
        for j in range(i + 1, last):
            spread = dot(work, HEAVY + i, AWAY + j) * scale
            work[SPREAD, 4 * i + j], work[SPREAD, 4 * j + i] = spread, spread
    for c in range(first, last):
        work[AXIS, c] = work[SPREAD, 4 * most + c]
    for _number in range(AXIS_TURNS):
        _turn(work, first, last)
    length = ZERO
    for c in range(first, last):
        length += work[AXIS, c] * work[AXIS, c]
    length = ONE / max(np.sqrt(length), TINY)
    for c in range(first, last):
        work[AXIS, c] *= length
    along = ZERO
    for c in range(first, last):
        for j in range(first, last):
            along += work[SPREAD, 4 * c + j] * work[AXIS, c] * work[AXIS, j]
    return max(whole * (ONE - along), ZERO)


@compiled(NONE(WORK, I8, I8, I8))
def spread_along(work: np.ndarray, first: int, count: int, places: int) -> None:
    """PLACE of each px: the nearest of so many even steps between the outermost px along AXIS."""
    low, high = HUGE, -HUGE
    for p in range(16):
        value = ZERO
        for c in range(first, first + count):
            value += work[AWAY + c, p] * work[AXIS, c]
        work[FAR, p] = value
        if work[MASK, p] > ZERO:
            low, high = min(low, value), max(high, value)
    step = np.float32(places - 1) / max(high - low, TINY)
    top = np.float32(places - 1)
    for p in range(16):
        work[PLACE, p] = min(max(np.floor((work[FAR, p] - low) * step + HALF), ZERO), top)


@compiled(NONE(WORK, I8, I8))
def add_up(work: np.ndarray, first: int, count: int) -> None:
    """SUMS from PLACE: of the squared error aa a^2 + 2 ab a b + bb b^2 - 2 (ax a + bx b) of the ends a and b
    of a line the parts aa, ab, bb at 0 to 2, for alpha at 4 to 6, ax by channel from 8 and bx from 12."""
    for p in range(16):
        work[SHARE, p] = work[STEPS, int(work[PLACE, p])]
    for at in (0, 4):
        start, end = (max(first, 3), first + count) if at else (first, min(first + count, 3))
        if start >= end:
            continue
        counts = MASK if at else WEIGHT
        for p in range(16):
            work[HEAVY, p] = work[counts, p] * work[SHARE, p]
            work[HEAVY + 1, p] = work[counts, p] - work[HEAVY, p]
        work[SUMS, at + 2] = dot(work, HEAVY, SHARE)
        ab = dot(work, HEAVY + 1, SHARE)
        work[SUMS, at + 1] = ab
        work[SUMS, at] = dot(work, HEAVY + 1, MASK) - ab
        for c in range(start, end):
            work[SUMS, 8 + c] = dot(work, HEAVY + 1, PX + c)
            work[SUMS, 12 + c] = dot(work, HEAVY, PX + c)


@compiled(NONE(WORK, I8, I8))
def best_ends(work: np.ndarray, first: int, count: int) -> None:
    """WANTED from SUMS, within 0..255; one point if all px lie at one place."""
    for c in range(first, first + count):
        at = 4 if c == 3 else 0
        aa, ab, bb = work[SUMS, at], work[SUMS, at + 1], work[SUMS, at + 2]
        ax, bx = work[SUMS, 8 + c], work[SUMS, 12 + c]
        det = aa * bb - ab * ab
        if det < np.float32(1e-4) * max(aa * bb, np.float32(1e-6)):
            a = (ax + bx) / max(aa + TWO * ab + bb, TINY)
            b = a
        else:
            a, b = (bb * ax - ab * bx) / det, (aa * bx - ab * ax) / det
        work[WANTED, c] = min(max(a, ZERO), WHITE)
        work[WANTED, 4 + c] = min(max(b, ZERO), WHITE)


@compiled(F4(WORK, I8, F4, F4))
def error_of(work: np.ndarray, channel: int, a: np.float32, b: np.float32) -> np.float32:
    """The squared error of two ends in one channel, but for a constant, by SUMS."""
    at = 4 if channel == 3 else 0
    first = a * (work[SUMS, at] * a + TWO * (work[SUMS, at + 1] * b - work[SUMS, 8 + channel]))
    return first + b * (work[SUMS, at + 2] * b - TWO * work[SUMS, 12 + channel])


@compiled(NONE(WORK, I8))
def _nearest_of_four(work: np.ndarray, places: int) -> None:
    for k in range(places):
        r, g, b, a = work[PALETTE, k], work[PALETTE + 1, k], work[PALETTE + 2, k], work[PALETTE + 3, k]
        place = np.float32(k)
        for p in range(16):
            dr, dg, db, da = work[PX, p] - r, work[PX + 1, p] - g, work[PX + 2, p] - b, work[PX + 3, p] - a
            far = (dr * dr + dg * dg + db * db) * work[SEEN, p] + da * da
            closer = far < work[FAR, p]
            work[PLACE, p] = place if closer else work[PLACE, p]
            work[FAR, p] = far if closer else work[FAR, p]


@compiled(NONE(WORK, I8))
def _nearest_of_three(work: np.ndarray, places: int) -> None:
    for k in range(places):
        r, g, b = work[PALETTE, k], work[PALETTE + 1, k], work[PALETTE + 2, k]
        place = np.float32(k)
        for p in range(16):
            dr, dg, db = work[PX, p] - r, work[PX + 1, p] - g, work[PX + 2, p] - b
            far = (dr * dr + dg * dg + db * db) * work[SEEN, p]
            closer = far < work[FAR, p]
            work[PLACE, p] = place if closer else work[PLACE, p]
            work[FAR, p] = far if closer else work[FAR, p]


@compiled(NONE(WORK, I8, I8))
def _nearest_of_one(work: np.ndarray, channel: int, places: int) -> None:
    for k in range(places):
        value, place = work[PALETTE + channel, k], np.float32(k)
        for p in range(16):
            gap = work[PX + channel, p] - value
            far = gap * gap if channel == 3 else gap * gap * work[SEEN, p]
            closer = far < work[FAR, p]
            work[PLACE, p] = place if closer else work[PLACE, p]
            work[FAR, p] = far if closer else work[FAR, p]


@compiled(F4(WORK, I8, I8, I8))
def nearest(work: np.ndarray, first: int, count: int, places: int) -> np.float32:
    """PLACE and FAR of each px in PALETTE, and the weighted squared error."""
    for p in range(16):
        work[FAR, p] = HUGE
        work[PLACE, p] = ZERO
    if count == 4:
        _nearest_of_four(work, places)
    elif count == 3:
        _nearest_of_three(work, places)
    else:
        _nearest_of_one(work, first, places)
    for p in range(16):
        work[SHARE, p] = work[FAR, p] * work[MASK, p]
    return dot(work, SHARE, MASK)
