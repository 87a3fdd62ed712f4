"""The search of ETC2, compiled: two halves, two colours with shades, a plane, and alpha.

Everything about the block at hand stands in `work`, an array of rows of 16 float32 with the names below: one
value a px as the format counts them (down the columns), unless said otherwise. Words of 64 bits stand as two
of 32 in `kept`.
"""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, B1, I8, NONE, PAIR, compiled
from rushweed.core.tune.codec.line_kernels import (
    F4,
    HALF,
    HIDDEN,
    HUGE,
    ONE,
    TINY,
    TWO,
    WHITE,
    WORK,
    ZERO,
    grown,
)

BLOCKS = types.Array(types.uint8, 3, "C", readonly=True)  # (n, 16, 4)
CODED = types.uint8[:, ::1]
TABLE = types.Array(types.float32, 2, "C", readonly=True)

PX = 0  # four rows: red, green, blue, alpha
SEEN = 4  # how much the colour of a px counts
SIDE = 5  # three rows: the colours of the half at hand, in the first 8
SIDE_SEEN = 8
TRIED = 9  # what is nearest in the palette at hand
BEST = 10  # the same in the best so far
FAR = 11
PALETTE = 12  # three rows, a value a shade
GROUP = 15  # three rows: colours by number, of the two groups and where they begin
SUM = 18  # the sum of the channels away from a base, and of their squares
SQUARE = 19
WANTED = 20  # a base colour
HALF_BEST = 21  # four rows, of half and width: base at 0, table at 3, error at 4, places from 8
ACROSS = 25  # how far each px is right of the origin, in four px, and below it
DOWN = 26
ROWS = 27

THREE, FOUR = np.float32(3), np.float32(4)
HALF_TRIES = 4
GROUP_ROUNDS = 3
WORTH = np.float32(40)  # an error below which two colours with shades are not tried
PLAIN_TABLE = 13  # with a step of nothing at place 4, which is all that plain alpha needs
SHIFTS = (0, -1, 1)


@compiled(F4(WORK))
def _total(work: np.ndarray) -> np.float32:
    """The sum of FAR, always in the same order."""
    a = (work[FAR, 0] + work[FAR, 1]) + (work[FAR, 2] + work[FAR, 3])
    b = (work[FAR, 4] + work[FAR, 5]) + (work[FAR, 6] + work[FAR, 7])
    c = (work[FAR, 8] + work[FAR, 9]) + (work[FAR, 10] + work[FAR, 11])
    d = (work[FAR, 12] + work[FAR, 13]) + (work[FAR, 14] + work[FAR, 15])
    return (a + b) + (c + d)


# -- two halves --------------------------------------------------------------------------------------------


@compiled(I8(I8, I8))
def _px_of(flip: int, at: int) -> int:
    """Which px comes at a place where one half follows the other: side by side (0) or one above the other
    (1)."""
    if flip == 0:
        return at
    return (at % 8) // 2 * 4 + 2 * (at // 8) + at % 2


@compiled(F4(WORK, TABLE, I8, I8))
def _best_table(work: np.ndarray, shades: np.ndarray, first: int, last: int) -> np.float32:
    """The table of shades that errs least around the base of 8 bits in WANTED 4 to 6: into WANTED 8, the
    places into TRIED; returns the error."""
    eight = work.shape[1] // 2  # not a constant, so that the loops are not unrolled but done at once
    low = min(work[WANTED, 4], work[WANTED, 5], work[WANTED, 6])
    high = max(work[WANTED, 4], work[WANTED, 5], work[WANTED, 6])
    r, g, b = work[WANTED, 4], work[WANTED, 5], work[WANTED, 6]
    for p in range(eight):
        dr, dg, db = work[SIDE, p] - r, work[SIDE + 1, p] - g, work[SIDE + 2, p] - b
        work[SUM, p] = TWO * (dr + dg + db)
        work[SQUARE, p] = dr * dr + dg * dg + db * db
    best, table = HUGE, first
    for number in range(first, last + 1):
        large = shades[number, 1]
        if low >= large and high + large <= WHITE:
            s0, s1 = shades[number, 0], shades[number, 1]
            c0, c1 = THREE * s0 * s0, THREE * s1 * s1
            for p in range(eight):
                away = abs(work[SUM, p])
                work[FAR, p] = min(c0 - s0 * away, c1 - s1 * away)
            for p in range(eight):
                work[FAR, p] = (work[FAR, p] + work[SQUARE, p]) * work[SIDE_SEEN, p]
        else:
            for p in range(eight):
                work[FAR, p] = HUGE
            for k in range(4):
                shade = shades[number, k]
                cr = min(max(r + shade, ZERO), WHITE)
                cg = min(max(g + shade, ZERO), WHITE)
                cb = min(max(b + shade, ZERO), WHITE)
                for p in range(eight):
                    dr, dg, db = (work[SIDE, p] - cr, work[SIDE + 1, p] - cg, work[SIDE + 2, p] - cb)
                    far = (dr * dr + dg * dg + db * db) * work[SIDE_SEEN, p]
                    work[FAR, p] = min(far, work[FAR, p])
        error = ((work[FAR, 0] + work[FAR, 1]) + (work[FAR, 2] + work[FAR, 3])) + (
            (work[FAR, 4] + work[FAR, 5]) + (work[FAR, 6] + work[FAR, 7])
        )
        if error < best:
            best, table = error, number
    work[WANTED, 8] = np.float32(table)
    for p in range(eight):
        work[FAR, p] = HUGE
    for k in range(4):
        shade, place = shades[table, k], np.float32(k)
        cr = min(max(r + shade, ZERO), WHITE)
        cg = min(max(g + shade, ZERO), WHITE)
        cb = min(max(b + shade, ZERO), WHITE)
        for p in range(eight):
            dr, dg, db = work[SIDE, p] - cr, work[SIDE + 1, p] - cg, work[SIDE + 2, p] - cb
            far = dr * dr + dg * dg + db * db
            closer = far < work[FAR, p]
            work[TRIED, p] = place if closer else work[TRIED, p]
            work[FAR, p] = far if closer else work[FAR, p]
    return best


@compiled(NONE(WORK, I8, I8))
def _take_half(work: np.ndarray, flip: int, half: int) -> None:
    for k in range(8):
        at = _px_of(flip, 8 * half + k)
        for c in range(3):
            work[SIDE + c, k] = work[PX + c, at]
        work[SIDE_SEEN, k] = work[SEEN, at]


@compiled(NONE(WORK, I8, I8, I8, I8, TABLE))
def _fit_half(work: np.ndarray, flip: int, half: int, bits: int, kept: int, shades: np.ndarray) -> None:
    """The best base colour of so many bits, table and places of one half, into a row: about its mean, at the
    mean that the shades found would leave, and a step either way in brightness."""
    _take_half(work, flip, half)
    top = np.float32((1 << bits) - 1)
    heavy = TINY
    for p in range(8):
        heavy += work[SIDE_SEEN, p]
    for c in range(3):
        total = ZERO
        for p in range(8):
            total += work[SIDE + c, p] * work[SIDE_SEEN, p]
        work[WANTED, c] = total / heavy
    work[kept, 4] = HUGE
    for attempt in range(HALF_TRIES):
        for c in range(3):
            base = min(max(np.floor(work[WANTED, c] * top / WHITE + HALF), ZERO), top)
            work[WANTED, 12 + c] = base
            work[WANTED, 4 + c] = np.float32(grown(int(base), bits))
        near = int(work[kept, 3])  # of another try a table beside the one found is enough
        first, last = (max(near - 1, 0), min(near + 1, 7)) if attempt else (0, 7)
        error = _best_table(work, shades, first, last)
        if error < work[kept, 4]:
            for c in range(3):
                work[kept, c] = work[WANTED, 12 + c]
            work[kept, 3], work[kept, 4] = work[WANTED, 8], error
            for p in range(8):
                work[kept, 8 + p] = work[TRIED, p]
        if work[kept, 4] == ZERO:
            break
        table = int(work[kept, 3])
        up = ZERO if attempt % 2 == 0 else np.float32(128) / top
        if attempt == 3:
            up = -up
        for c in range(3):
            total = ZERO
            for p in range(8):
                total += (work[SIDE + c, p] - shades[table, int(work[kept, 8 + p])]) * work[SIDE_SEEN, p]
            work[WANTED, c] = total / heavy + up


@compiled(B1(WORK, I8, I8, TABLE))
def _hold_difference(work: np.ndarray, first: int, last: int, shades: np.ndarray) -> bool:
    """Bring the base of the second half within what a difference of 3 bits reaches from the first's; returns
    whether it was there."""
    held = True
    for c in range(3):
        step = work[last, c] - work[first, c]
        if step < -FOUR or step > THREE:
            held = False
            step = min(max(step, -FOUR), THREE)
            work[last, c] = min(max(work[first, c] + step, ZERO), np.float32(31))
    if held:
        return True
    for c in range(3):
        work[WANTED, 4 + c] = np.float32(grown(int(work[last, c]), 5))
    work[last, 4] = _best_table(work, shades, 0, 7)
    work[last, 3] = work[WANTED, 8]
    for p in range(8):
        work[last, 8 + p] = work[TRIED, p]
    return False


@compiled(NONE(A1, WORK, I8, I8, I8, I8))
def _keep_halves(kept: np.ndarray, work: np.ndarray, first: int, last: int, bits: int, flip: int) -> None:
    """The word of two halves."""
    high = (int(work[first, 3]) << 5) | (int(work[last, 3]) << 2) | (int(bits == 5) << 1) | flip
    for c in range(3):
        a, b = int(work[first, c]), int(work[last, c])
        byte = (a << 4) | b if bits == 4 else (a << 3) | ((b - a) & 7)
        high |= byte << (24 - 8 * c)
    low = 0
    for k in range(16):
        row, p = (first, k) if k < 8 else (last, k - 8)
        place, at = int(work[row, 8 + p]), _px_of(flip, k)
        low |= ((place >> 1) << (at + 16)) | ((place & 1) << at)
    kept[0], kept[1] = high, low


@compiled(F4(WORK, A1, TABLE, F4))
def _try_halves(work: np.ndarray, kept: np.ndarray, shades: np.ndarray, best: np.float32) -> np.float32:
    """Two halves, each with a base colour, of 5 bits and a difference of 3 or of 4 bits apart, and a table of
    shades; where they err less than `best`, their word is kept."""
    for flip in range(2):
        apart = False
        for bits in (5, 4):
            if bits == 4 and not apart:
                break
            first, last = HALF_BEST, HALF_BEST + 1
            _fit_half(work, flip, 0, bits, first, shades)
            if work[first, 4] >= best:
                continue
            _fit_half(work, flip, 1, bits, last, shades)
            if bits == 5 and not _hold_difference(work, first, last, shades):
                apart = True
            error = work[first, 4] + work[last, 4]
            if error < best:
                best = error
                _keep_halves(kept, work, first, last, bits, flip)
            if best == ZERO:
                return best
    return best


# -- bits that choose a mode ---------------------------------------------------------------------------------


@compiled(I8(I8, I8))
def _out_of_range(high: int, channel: int) -> int:
    """Set the free bits of a channel's byte (5 to 7 and 2) so that base and difference leave 0..31."""
    byte = (high >> (24 - 8 * channel)) & 0b00011011
    free = 0b11100000 if (byte >> 3) + (byte & 3) >= 4 else 0b00000100
    return high | (free << (24 - 8 * channel))


@compiled(I8(I8, I8))
def _in_range(high: int, channel: int) -> int:
    """Set the highest bit of a channel's byte where base and difference would leave 0..31 without it."""
    byte = (high >> (24 - 8 * channel)) & 255
    step = byte & 7
    value = (byte >> 3) + (step - 8 if step > 3 else step)
    return high if 0 <= value <= 31 else high | (1 << (31 - 8 * channel))


@compiled(I8(WORK))
def _places_word(work: np.ndarray) -> int:
    """The places in BEST as the low word."""
    low = 0
    for p in range(16):
        place = int(work[BEST, p])
        low |= ((place >> 1) << (p + 16)) | ((place & 1) << p)
    return low


# -- a plane -------------------------------------------------------------------------------------------------


@compiled(F4(WORK, I8, I8, I8, I8, I8))
def _plane_error(work: np.ndarray, c: int, bits: int, o: int, h: int, v: int) -> np.float32:
    """The weighted squared error of one channel, in SIDE, of a plane through stored corners: the origin, four
    px right of it, four px below."""
    base = np.float32(grown(o, bits))
    right, down = np.float32(grown(h, bits)) - base, np.float32(grown(v, bits)) - base
    base += HALF
    for p in range(16):
        value = np.floor(base + (work[ACROSS, p] * right + work[DOWN, p] * down))
        gap = work[SIDE, p] - min(max(value, ZERO), WHITE)
        work[FAR, p] = gap * gap * work[SEEN, p]
    return _total(work)


@compiled(F4(WORK, A2, TABLE))
def _fit_plane(work: np.ndarray, corners: np.ndarray, solved: np.ndarray) -> np.float32:
    """Stored corners (corner, channel) of the plane that errs least, and its error: least squares, then each
    corner a step either way. `solved` (3, 16) gives the corners from the px."""
    total = ZERO
    for p in range(16):
        work[ACROSS, p], work[DOWN, p] = np.float32(p // 4) / FOUR, np.float32(p % 4) / FOUR
    for c in range(3):
        for p in range(16):
            work[SIDE, p] = work[PX + c, p]
        bits = 7 if c == 1 else 6
        top = (1 << bits) - 1
        for corner in range(3):
            value = ZERO
            for p in range(16):
                value += solved[corner, p] * work[PX + c, p]
            whole = int(np.floor(value * np.float32(top) / WHITE + HALF))
            corners[corner, c] = min(max(whole, 0), top)
        best = _plane_error(work, c, bits, corners[0, c], corners[1, c], corners[2, c])
        for corner in range(3):
            for step in (-1, 1):
                old = corners[corner, c]
                corners[corner, c] = min(max(old + step, 0), top)
                error = _plane_error(work, c, bits, corners[0, c], corners[1, c], corners[2, c])
                if error < best:
                    best = error
                else:
                    corners[corner, c] = old
        total += best
    return total


@compiled(PAIR(A2))
def _plane_word(corners: np.ndarray) -> tuple[int, int]:
    """The word of a plane: bits in between are set so that blue, as a difference, leaves its range, and red
    and green do not."""
    ro, go, bo = corners[0, 0], corners[0, 1], corners[0, 2]
    rh, gh, bh = corners[1, 0], corners[1, 1], corners[1, 2]
    rv, gv, bv = corners[2, 0], corners[2, 1], corners[2, 2]
    high = (ro << 25) | ((go >> 6) << 24) | ((go & 63) << 17) | ((bo >> 5) << 16) | (((bo >> 3) & 3) << 11)
    high |= ((bo & 7) << 7) | ((rh >> 1) << 2) | 2 | (rh & 1)
    low = (gh << 25) | (bh << 19) | (rv << 13) | (gv << 6) | bv
    high = _out_of_range(high, 2)
    return _in_range(_in_range(high, 0), 1), low


# -- two colours, with shades of one or of both --------------------------------------------------------------


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
    total = _total(work)
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
            kept[0], kept[1] = _out_of_range(high, 0), _places_word(work)
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
            high = _in_range(_out_of_range(high, 1), 0)
            kept[0], kept[1] = high, _places_word(work)
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
    return _total(work)


@compiled(F4(WORK, A1, TABLE, F4))
def _try_shades(work: np.ndarray, kept: np.ndarray, distances: np.ndarray, best: np.float32) -> np.float32:
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


# -- alpha -------------------------------------------------------------------------------------------------


@compiled(F4(WORK, TABLE, I8, F4, F4, F4))
def _steps_error(
    work: np.ndarray, steps: np.ndarray, table: int, base: np.float32, times: np.float32, best: np.float32
) -> np.float32:
    """The squared error of alpha around a base; where it is less than `best`, the places stand in BEST."""
    for p in range(16):
        work[FAR, p] = HUGE
    for k in range(8):
        value, place = min(max(base + times * steps[table, k], ZERO), WHITE), np.float32(k)
        for p in range(16):
            gap = work[PX + 3, p] - value
            far = gap * gap
            closer = far < work[FAR, p]
            work[TRIED, p] = place if closer else work[TRIED, p]
            work[FAR, p] = far if closer else work[FAR, p]
    total = _total(work)
    if total < best:
        for p in range(16):
            work[BEST, p] = work[TRIED, p]
    return total


@compiled(NONE(WORK, A1, TABLE))
def _code_alpha(work: np.ndarray, kept: np.ndarray, steps: np.ndarray) -> None:
    """Base, multiplier, table and places of alpha into `kept` 2 and 3."""
    low, high = WHITE, ZERO
    for p in range(16):
        low, high = min(low, work[PX + 3, p]), max(high, work[PX + 3, p])
    base, times, table = int(low), 1, PLAIN_TABLE
    if low == high:
        for p in range(16):
            work[BEST, p] = FOUR
    else:
        best = HUGE
        for number in range(16):
            bottom, top = steps[number, 3], steps[number, 7]
            middle = int(np.floor((high - low) / (top - bottom) + HALF))
            for more in range(-1, 3):
                by = min(max(middle + more, 1), 15)
                # What lies beyond the steps at both ends errs at least so much, wherever the base is.
                gap = max(high - low - np.float32(by) * (top - bottom), ZERO)
                if gap * gap * HALF >= best:
                    continue
                centre = int(np.floor((low + high - np.float32(by) * (top + bottom)) * HALF + HALF))
                first = HUGE
                for turn in range(3):
                    if turn and first > FOUR * best:
                        break
                    start = min(max(centre + SHIFTS[turn] * max(by // 2, 1), 0), 255)
                    error = _steps_error(work, steps, number, np.float32(start), np.float32(by), best)
                    first = min(first, error)
                    if error < best:
                        best, base, times, table = error, start, by, number
                if best == ZERO:
                    break
            if best == ZERO:
                break
    bits = 0
    for p in range(16):
        bits = (bits << 3) | int(work[BEST, p])
    kept[2], kept[3] = (base << 24) | (times << 20) | (table << 16) | (bits >> 32), bits & 0xFFFFFFFF


# -- blocks ------------------------------------------------------------------------------------------------


@compiled(NONE(BLOCKS, CODED, WORK, A1, A2, TABLE, TABLE, TABLE, TABLE))
def code_etc2(
    blocks: np.ndarray, out: np.ndarray, work: np.ndarray, kept: np.ndarray, corners: np.ndarray,
    shades: np.ndarray, distances: np.ndarray, steps: np.ndarray, solved: np.ndarray,
) -> None:  # fmt: skip
    """Code blocks uint8 (n, 16, 4), px by row, into uint8 (n, 16). The others are room to work in and tables,
    float32: the shades (8, 4), the distances (1, 8), alpha's steps (16, 8), and what gives the corners of a
    plane from its px (3, 16)."""
    for n in range(blocks.shape[0]):
        for p in range(16):
            at = p % 4 * 4 + p // 4
            for c in range(4):
                work[PX + c, p] = np.float32(blocks[n, at, c])
            alpha = work[PX + 3, p] / WHITE
            work[SEEN, p] = max(alpha * alpha, HIDDEN)
        best = _fit_plane(work, corners, solved)
        kept[0], kept[1] = _plane_word(corners)
        if best > ZERO:
            best = _try_halves(work, kept, shades, best)
        if best > WORTH:
            best = _try_shades(work, kept, distances, best)
        _code_alpha(work, kept, steps)
        for word in range(4):
            value = kept[(word + 2) % 4]
            for b in range(4):
                out[n, 4 * word + b] = (value >> (24 - 8 * b)) & 255
