"""The alpha of BC3, compiled: two ends, with four or six steps between them."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import I8, NONE, compiled
from rushweed.core.tune.codec.bc_terms import ALPHA_PLACES, CODED, ROUNDS
from rushweed.core.tune.codec.line_kernels import (
    BEST_ENDS,
    BEST_PLACE,
    F4,
    HALF,
    HUGE,
    MASK,
    ONE,
    PALETTE,
    PLACE,
    PX,
    STEPS,
    WANTED,
    WHITE,
    WORK,
    ZERO,
    add_up,
    best_ends,
    nearest,
)


@compiled(NONE(CODED, I8, I8, I8, I8))
def put_bits(out: np.ndarray, row: int, at: int, value: int, count: int) -> None:
    """Write the bytes of a number, the lowest first."""
    for k in range(count):
        out[row, at + k] = (value >> (8 * k)) & 255


@compiled(F4(WORK, F4, F4, I8))
def _fit_alpha(work: np.ndarray, first: np.float32, last: np.float32, steps: int) -> np.float32:
    """BEST_ENDS at 3 and 7, BEST_PLACE and the error of alpha with so many even steps between two ends, found
    from where they begin; with six also places of 0 and 255."""
    for k in range(ALPHA_PLACES):
        work[STEPS, k] = min(np.float32(k) / np.float32(steps - 1), ONE)
    best = HUGE
    for _number in range(ROUNDS):
        a, b = int(np.floor(first + HALF)), int(np.floor(last + HALF))
        if (a < b) == (steps == 8):
            a, b = b, a
        if steps == 8 and a == b:
            a, b = (a + 1, b) if a < 255 else (a, b - 1)
        for k in range(steps):
            work[PALETTE + 3, k] = np.float32(((steps - 1 - k) * a + k * b) // (steps - 1))
        if steps == 6:
            work[PALETTE + 3, 6], work[PALETTE + 3, 7] = ZERO, WHITE
        for p in range(16):
            work[MASK, p] = ONE
        error = nearest(work, 3, 1, ALPHA_PLACES)
        if error >= best:
            break
        best = error
        work[BEST_ENDS, 3], work[BEST_ENDS, 7] = np.float32(a), np.float32(b)
        for p in range(16):
            work[BEST_PLACE, p] = work[PLACE, p]
            work[MASK, p] = ONE if work[PLACE, p] < np.float32(steps) else ZERO
        if error == ZERO:
            break
        add_up(work, 3, 1)
        best_ends(work, 3, 1)
        first, last = work[WANTED, 3], work[WANTED, 7]
    return best


@compiled(NONE(WORK, CODED, I8, I8, I8))
def _write_alpha(work: np.ndarray, out: np.ndarray, row: int, at: int, steps: int) -> None:
    out[row, at], out[row, at + 1] = int(work[BEST_ENDS, 3]), int(work[BEST_ENDS, 7])
    for half in range(2):
        bits = 0
        for k in range(8):
            place = int(work[BEST_PLACE, 8 * half + k])
            if place < steps:
                place = 0 if place == 0 else (1 if place == steps - 1 else place + 1)
            bits |= place << (3 * k)
        put_bits(out, row, at + 2 + 3 * half, bits, 3)


@compiled(NONE(WORK, CODED, I8, I8))
def code_alpha(work: np.ndarray, out: np.ndarray, row: int, at: int) -> None:
    """The eight bytes of alpha: the better of eight steps, and six with 0 and 255."""
    low, high, inner_low, inner_high = WHITE, ZERO, WHITE, ZERO
    for p in range(16):
        value = work[PX + 3, p]
        low, high = min(low, value), max(high, value)
        if ZERO < value < WHITE:
            inner_low, inner_high = min(inner_low, value), max(inner_high, value)
    error = _fit_alpha(work, high, low, 8)
    _write_alpha(work, out, row, at, 8)
    if error > ZERO:
        if inner_low > inner_high:
            inner_low, inner_high = ZERO, ZERO
        if _fit_alpha(work, inner_low, inner_high, 6) < error:
            _write_alpha(work, out, row, at, 6)
