"""The search of ETC2, compiled: a plane, alpha, and all kinds of block in turn.

Words of 64 bits stand as two of 32 in `kept`; `work` is that of etc2_terms.
"""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, A2, I8, NONE, PAIR, compiled
from rushweed.core.tune.codec.etc2_bits_kernels import in_range, out_of_range
from rushweed.core.tune.codec.etc2_half_kernels import sum_far, try_halves
from rushweed.core.tune.codec.etc2_shade_kernels import try_shades
from rushweed.core.tune.codec.etc2_terms import (
    ACROSS,
    BEST,
    BLOCKS,
    CODED,
    DOWN,
    FAR,
    FOUR,
    PLAIN_TABLE,
    PX,
    SEEN,
    SHIFTS,
    SIDE,
    TABLE,
    TABLES,
    TRIED,
    WORTH,
    Tables,
)
from rushweed.core.tune.codec.line_kernels import F4, HALF, HIDDEN, HUGE, WHITE, WORK, ZERO, grown


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
    return sum_far(work)


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
    high = out_of_range(high, 2)
    return in_range(in_range(high, 0), 1), low


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
    total = sum_far(work)
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


@compiled(NONE(BLOCKS, CODED, WORK, A1, A2, TABLES))
def code_etc2(
    blocks: np.ndarray, out: np.ndarray, work: np.ndarray, kept: np.ndarray, corners: np.ndarray,
    tables: Tables,
) -> None:  # fmt: skip
    """Code blocks uint8 (n, 16, 4), px by row, into uint8 (n, 16). `work`, `kept` (4,) and `corners` (3, 3)
    are room to work in."""
    for n in range(blocks.shape[0]):
        for p in range(16):
            at = p % 4 * 4 + p // 4
            for c in range(4):
                work[PX + c, p] = np.float32(blocks[n, at, c])
            alpha = work[PX + 3, p] / WHITE
            work[SEEN, p] = max(alpha * alpha, HIDDEN)
        best = _fit_plane(work, corners, tables.plane)
        kept[0], kept[1] = _plane_word(corners)
        if best > ZERO:
            best = try_halves(work, kept, tables.shades, best)
        if best > WORTH:
            best = try_shades(work, kept, tables.distances, best)
        _code_alpha(work, kept, tables.alpha)
        for word in range(4):
            value = kept[(word + 2) % 4]
            for b in range(4):
                out[n, 4 * word + b] = (value >> (24 - 8 * b)) & 255
