"""The search of ETC2, compiled: two halves, each with a base colour and a table of steps."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, B1, I8, NONE, compiled
from rushweed.core.tune.codec.etc2_terms import (
    FAR,
    FOUR,
    HALF_BEST,
    HALF_TRIES,
    PX,
    SEEN,
    SIDE,
    SIDE_SEEN,
    SQUARE,
    SUM,
    TABLE,
    THREE,
    TRIED,
    WANTED,
)
from rushweed.core.tune.codec.line_kernels import F4, HALF, HUGE, TINY, TWO, WHITE, WORK, ZERO, grown


@compiled(F4(WORK))
def sum_far(work: np.ndarray) -> np.float32:
    """The sum of FAR, always in the same order."""
    a = (work[FAR, 0] + work[FAR, 1]) + (work[FAR, 2] + work[FAR, 3])
    b = (work[FAR, 4] + work[FAR, 5]) + (work[FAR, 6] + work[FAR, 7])
    c = (work[FAR, 8] + work[FAR, 9]) + (work[FAR, 10] + work[FAR, 11])
    d = (work[FAR, 12] + work[FAR, 13]) + (work[FAR, 14] + work[FAR, 15])
    return (a + b) + (c + d)


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
def try_halves(work: np.ndarray, kept: np.ndarray, shades: np.ndarray, best: np.float32) -> np.float32:
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
