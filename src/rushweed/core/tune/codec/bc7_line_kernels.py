"""A line of BC7, compiled: its ends as the modes store them, lowest bits tried together."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import B1, I8, NONE, PAIR, compiled
from rushweed.core.tune.codec.bc7_terms import EXACT, LEAST, NO_PARITY, OF_SUBSET, ROUNDS, SHARES, STORED
from rushweed.core.tune.codec.line_kernels import (
    AROUND,
    BEST_ENDS,
    BEST_PLACE,
    CHOSEN,
    F4,
    HALF,
    HUGE,
    MASK,
    PAIRS,
    PALETTE,
    PLACE,
    STEPS,
    SUMS,
    TRIED,
    TWO,
    WANTED,
    WEIGHT,
    WHITE,
    WORK,
    ZERO,
    add_up,
    best_ends,
    find_axis,
    grown,
    nearest,
    spread_along,
)


@compiled(I8(F4, I8, B1, I8))
def _below(value: np.float32, bits: int, parity: bool, low: int) -> int:
    """The stored value next below one of 0..255, so that there is one above."""
    top = (1 << bits) - 1
    if parity:
        whole = np.float32(2 * top + 1)
        return min(max(int(np.floor((value * whole / WHITE - np.float32(low)) * HALF)), 0), top - 1)
    return min(max(int(np.floor(value * np.float32(top) / WHITE)), 0), top - 1)


@compiled(I8(I8, I8, B1, I8))
def _shown(stored: int, bits: int, parity: bool, low: int) -> int:
    """The value of 8 bits that a stored one stands for."""
    return grown((stored << 1) | low, bits + 1) if parity else grown(stored, bits)


@compiled(NONE(WORK, I8, I8, B1, I8))
def _prepare_ends(work: np.ndarray, c: int, bits: int, parity: bool, low: int) -> None:
    """Of one channel with one lowest bit: the two stored values on either side of both ends of WANTED, the
    values they stand for, and their own part of the error, into AROUND: of the first end at 0, of the last at
    8; stored values at 0 and 1, shown at 2 and 3, errors at 4 and 5."""
    at = 4 if c == 3 else 0
    for end in range(2):
        below = _below(work[WANTED, 4 * end + c], bits, parity, low)
        own, cross = work[SUMS, at + 2 * end], TWO * work[SUMS, 8 + 4 * end + c]
        for k in range(2):
            value = np.float32(_shown(below + k, bits, parity, low))
            work[AROUND + low, 8 * end + k] = np.float32(below + k)
            work[AROUND + low, 8 * end + 2 + k] = value
            work[AROUND + low, 8 * end + 4 + k] = value * (own * value - cross)


@compiled(F4(WORK, I8, I8, I8))
def _round_channel(work: np.ndarray, c: int, p0: int, p1: int) -> np.float32:
    """TRIED of one channel: the best of the values in AROUND, and its error but for a constant."""
    least, best = HUGE, 0
    cross = TWO * work[SUMS, 5 if c == 3 else 1]
    for k in range(4):
        i, j = k & 1, 8 + (k >> 1)
        both = cross * work[AROUND + p0, 2 + i] * work[AROUND + p1, 2 + j]
        error = work[AROUND + p0, 4 + i] + work[AROUND + p1, 4 + j] + both
        if error < least:
            least, best = error, k
    work[TRIED, c], work[TRIED, 4 + c] = work[AROUND + p0, best & 1], work[AROUND + p1, 8 + (best >> 1)]
    return least


@compiled(NONE(WORK, I8, I8, I8, I8, I8))
def _round(work: np.ndarray, first: int, count: int, colour: int, alpha: int, parity: int) -> None:
    """CHOSEN: stored ends next to WANTED with the parity that errs least."""
    pairs = 1 if parity == NO_PARITY else 4
    for pair in range(4):
        work[PAIRS + pair, 15] = ZERO
    for c in range(first, first + count):
        for low in range(1 if parity == NO_PARITY else 2):
            _prepare_ends(work, c, alpha if c == 3 else colour, parity != NO_PARITY, low)
        for pair in range(pairs):
            work[PAIRS + pair, 15] += _round_channel(work, c, pair & 1, pair >> 1)
            work[PAIRS + pair, c], work[PAIRS + pair, 4 + c] = work[TRIED, c], work[TRIED, 4 + c]
    best = 0
    for pair in range(1, pairs):
        if parity == OF_SUBSET and pair != 3:
            continue
        if work[PAIRS + pair, 15] < work[PAIRS + best, 15]:
            best = pair
    for k in range(8):
        work[CHOSEN, k] = work[PAIRS + best, k]
    work[CHOSEN, 8], work[CHOSEN, 9] = np.float32(best & 1), np.float32(best >> 1)


@compiled(NONE(WORK, PAIR, STORED, SHARES))
def _fill_palette(
    work: np.ndarray, channels: tuple[int, int], stored: tuple[int, int, int, int], shares: np.ndarray
) -> None:
    (first, count), (colour, alpha, parity, bits) = channels, stored
    p0, p1 = int(work[CHOSEN, 8]), int(work[CHOSEN, 9])
    for c in range(first, first + count):
        wide = alpha if c == 3 else colour
        a = _shown(int(work[CHOSEN, c]), wide, parity != NO_PARITY, p0)
        b = _shown(int(work[CHOSEN, 4 + c]), wide, parity != NO_PARITY, p1)
        low, step = np.float32(64 * a + 32), np.float32(b - a)
        for k in range(1 << bits):
            work[PALETTE + c, k] = np.floor((low + step * shares[bits, k]) / np.float32(64))


@compiled(F4(WORK, PAIR, STORED, SHARES, F4, B1))
def fit_line(
    work: np.ndarray, channels: tuple[int, int], stored: tuple[int, int, int, int], shares: np.ndarray,
    limit: np.float32, opaque: bool,
) -> np.float32:  # fmt: skip
    """BEST_ENDS and BEST_PLACE of the line through the masked px, and its error; or HUGE, and nothing else,
    where no line could err less than `limit`.

    channels: the first, and how many; stored: bits of a colour and of alpha at the ends, their parity, bits
    of the places; shares: by bits and place, in 64ths.
    """
    (first, count), (colour, alpha, parity, bits) = channels, stored
    # Where alpha counts more than the colour of its px, what is left says nothing sure.
    left = find_axis(work, first, count, MASK if count == 4 else WEIGHT)
    if left >= limit and (count < 4 or opaque):
        return HUGE
    places = 1 << bits
    for k in range(places):
        work[STEPS, k] = shares[bits, k] / np.float32(64)
    spread_along(work, first, count, places)
    best = HUGE
    for _number in range(ROUNDS):
        add_up(work, first, count)
        best_ends(work, first, count)
        _round(work, first, count, colour, alpha, parity)
        _fill_palette(work, channels, stored, shares)
        error = nearest(work, first, count, places)
        if error >= best - LEAST:
            break
        best = error
        for p in range(16):
            work[BEST_ENDS, p], work[BEST_PLACE, p] = work[CHOSEN, p], work[PLACE, p]
        if error <= EXACT:
            break
    return best
