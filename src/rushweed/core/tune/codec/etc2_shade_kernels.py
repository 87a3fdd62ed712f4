"""The search of ETC2, compiled: two colours, with shades of one or of both."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, I8, NONE, compiled
from rushweed.core.tune.codec.etc2_bits_kernels import in_range, out_of_range, places_word
from rushweed.core.tune.codec.etc2_half_kernels import sum_far
from rushweed.core.tune.codec.etc2_terms import (
    BEST,
    FAR,
    GROUP,
    GROUP_ROUNDS,
    PALETTE,
    PX,
    SEEN,
    SIDE,
    TABLE,
    THREE,
    TRIED,
)
from rushweed.core.tune.codec.line_kernels import F4, HALF, HUGE, ONE, TINY, WHITE, WORK, ZERO


@compiled(NONE(WORK, I8, F4, F4, F4))
def _put_colour(work: np.ndarray, number: int, r: np.float32, g: np.float32, b: np.float32) -> None:
    work[GROUP, number], work[GROUP + 1, number], work[GROUP + 2, number] = r, g, b


@compiled(I8(WORK, F4, F4, F4))
def _farthest(work: np.ndarray, r: np.float32, g: np.float32, b: np.float32) -> int:
    """The px whose colour is farthest from one, by what it counts."""
    most, which = -ONE, 0
    for p in range(16):
        dr, dg, db = work[PX, p] - r, work[PX + 1, p] - g, work[PX + 2, p] - b
        far = (dr * dr + dg * dg + db * db) * work[SEEN, p]
        if far > most:
            most, which = far, p
    return which


@compiled(NONE(WORK, I8))
def _find_groups(work: np.ndarray, start: int) -> None:
    """The middles of two groups of colours, into GROUP 0 and 1: begun at the two ends of the longest line
    (0), or at the mean and the colour farthest from it (1)."""
    heavy = TINY
    for p in range(16):
        heavy += work[SEEN, p]
    for c in range(3):
        total = ZERO
        for p in range(16):
            total += work[PX + c, p] * work[SEEN, p]
        work[GROUP + c, 0] = total / heavy
    one = _farthest(work, work[GROUP, 0], work[GROUP + 1, 0], work[GROUP + 2, 0])
    r, g, b = work[PX, one], work[PX + 1, one], work[PX + 2, one]
    _put_colour(work, 1, r, g, b)
    if start == 0:
        other = _farthest(work, r, g, b)
        _put_colour(work, 0, r, g, b)
        _put_colour(work, 1, work[PX, other], work[PX + 1, other], work[PX + 2, other])
    for _number in range(GROUP_ROUNDS):
        for group in range(2):
            work[GROUP, 4 + group] = ZERO
            for c in range(3):
                work[GROUP + c, 2 + group] = ZERO
        for p in range(16):
            near = ZERO
            for c in range(3):
                a, b = work[PX + c, p] - work[GROUP + c, 0], work[PX + c, p] - work[GROUP + c, 1]
                near += a * a - b * b
            group = 0 if near <= ZERO else 1
            work[GROUP, 4 + group] += work[SEEN, p]
            for c in range(3):
                work[GROUP + c, 2 + group] += work[SEEN, p] * work[PX + c, p]
        for group in range(2):
            if work[GROUP, 4 + group] > ZERO:
                for c in range(3):
                    work[GROUP + c, group] = work[GROUP + c, 2 + group] / work[GROUP, 4 + group]


@compiled(F4(WORK, F4))
def _shade_error(work: np.ndarray, best: np.float32) -> np.float32:
    """The error of the four colours in PALETTE; where it is less than `best`, the places stand in BEST."""
    for k in range(4):
        for c in range(3):
            work[PALETTE + c, k] = min(max(work[PALETTE + c, k], ZERO), WHITE)
    for p in range(16):
        work[FAR, p] = HUGE
    for k in range(4):
        r, g, b, place = work[PALETTE, k], work[PALETTE + 1, k], work[PALETTE + 2, k], np.float32(k)
        for p in range(16):
            dr, dg, db = work[PX, p] - r, work[PX + 1, p] - g, work[PX + 2, p] - b
            far = (dr * dr + dg * dg + db * db) * work[SEEN, p]
            closer = far < work[FAR, p]
            work[TRIED, p] = place if closer else work[TRIED, p]
            work[FAR, p] = far if closer else work[FAR, p]
    total = sum_far(work)
    if total < best:
        for p in range(16):
            work[BEST, p] = work[TRIED, p]
    return total


@compiled(I8(WORK, I8))
def _four_bits(work: np.ndarray, number: int) -> int:
    """A colour of GROUP in 4 bits a channel, red highest."""
    out = 0
    for c in range(3):
        value = int(np.floor(work[GROUP + c, number] / np.float32(17) + HALF))
        out = (out << 4) | min(max(value, 0), 15)
    return out


@compiled(F4(I8, I8))
def _channel(colour: int, c: int) -> np.float32:
    """Of a colour in 4 bits a channel, in 8 bits."""
    return np.float32(17 * ((colour >> (8 - 4 * c)) & 15))


@compiled(F4(WORK, A1, TABLE, I8, I8, F4))
def _try_t(
    work: np.ndarray, kept: np.ndarray, distances: np.ndarray, one: int, two: int, best: np.float32
) -> np.float32:
    """One colour alone, and another with a shade on either side."""
    for number in range(8):
        distance = distances[0, number]
        for c in range(3):
            a, b = _channel(one, c), _channel(two, c)
            work[PALETTE + c, 0], work[PALETTE + c, 1] = a, b + distance
            work[PALETTE + c, 2], work[PALETTE + c, 3] = b, b - distance
        error = _shade_error(work, best)
        if error < best:
            best = error
            r1, rest = one >> 8, one & 255
            high = ((r1 >> 2) << 27) | ((r1 & 3) << 24) | (rest << 16) | (two << 4)
            high |= ((number >> 1) << 2) | (number & 1) | 2
            kept[0], kept[1] = out_of_range(high, 0), places_word(work)
    return best


@compiled(F4(WORK, A1, TABLE, I8, I8, F4))
def _try_h(
    work: np.ndarray, kept: np.ndarray, distances: np.ndarray, one: int, two: int, best: np.float32
) -> np.float32:
    """Two colours, each a shade up and down. The lowest bit of the distance is told by their order."""
    for number in range(8):
        odd = (number & 1) == 1
        if one == two and not odd:
            continue
        a, b = (two, one) if (one >= two) != odd else (one, two)
        distance = distances[0, number]
        for c in range(3):
            first, last = _channel(a, c), _channel(b, c)
            work[PALETTE + c, 0], work[PALETTE + c, 1] = first + distance, first - distance
            work[PALETTE + c, 2], work[PALETTE + c, 3] = last + distance, last - distance
        error = _shade_error(work, best)
        if error < best:
            best = error
            r1, g1, b1 = a >> 8, (a >> 4) & 15, a & 15
            high = (
                (r1 << 27)
                | ((g1 >> 1) << 24)
                | ((g1 & 1) << 20)
                | ((b1 >> 3) << 19)
                | (((b1 >> 1) & 3) << 16)
            )
            high |= ((b1 & 1) << 15) | (b << 3) | ((number >> 2) << 2) | ((number >> 1) & 1) | 2
            high = in_range(out_of_range(high, 1), 0)
            kept[0], kept[1] = high, places_word(work)
    return best


@compiled(NONE(WORK, I8, I8))
def _away_from(work: np.ndarray, colour: int, row: int) -> None:
    """How far each px is from a colour of 4 bits a channel, squared, into a row, and into the next what of it
    no shade can mend."""
    r, g, b = _channel(colour, 0), _channel(colour, 1), _channel(colour, 2)
    for p in range(16):
        dr, dg, db = work[PX, p] - r, work[PX + 1, p] - g, work[PX + 2, p] - b
        grey = dr + dg + db
        far = dr * dr + dg * dg + db * db
        work[row, p] = far
        work[row + 1, p] = far - grey * grey / THREE


@compiled(F4(WORK, I8, I8))
def _at_least(work: np.ndarray, i: int, j: int) -> np.float32:
    """The weighted sum of the less of two rows."""
    for p in range(16):
        work[FAR, p] = min(work[i, p], work[j, p]) * work[SEEN, p]
    return sum_far(work)


@compiled(F4(WORK, A1, TABLE, F4))
def try_shades(work: np.ndarray, kept: np.ndarray, distances: np.ndarray, best: np.float32) -> np.float32:
    """Two colours with shades of one or of both; where they err less than `best`, their word is kept. What no
    shade can mend is left out beforehand."""
    for start in range(2):
        _find_groups(work, start)
        one, two = _four_bits(work, 0), _four_bits(work, 1)
        _away_from(work, one, SIDE)
        _away_from(work, two, SIDE + 2)
        alone, other = _at_least(work, SIDE, SIDE + 3), _at_least(work, SIDE + 2, SIDE + 1)
        both = _at_least(work, SIDE + 1, SIDE + 3)
        if alone < best:
            best = _try_t(work, kept, distances, one, two, best)
        if other < best:
            best = _try_t(work, kept, distances, two, one, best)
        if both < best:
            best = _try_h(work, kept, distances, one, two, best)
    return best
