"""The search of BC1 and BC3, compiled: a line through the colours, every arrangement of few, alpha's steps.

The rows of `work` are those of line_kernels; what belongs to few colours stands in `few`.
"""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import B1, I8, NONE, compiled
from rushweed.core.tune.codec.bc_alpha_kernels import code_alpha, put_bits
from rushweed.core.tune.codec.bc_terms import (
    BLOCKS,
    CODED,
    COLOUR,
    FEW_BEST,
    FEW_PLACE,
    FEW_TRIED,
    HEAVY,
    LEAST,
    MOST_FEW,
    NEAR,
    ROUNDS,
    SOLID,
    TABLES,
    WAY,
    Tables,
)
from rushweed.core.tune.codec.line_kernels import (
    AWAY,
    BEST_ENDS,
    BEST_PLACE,
    F4,
    HALF,
    HIDDEN,
    HUGE,
    MASK,
    ONE,
    PALETTE,
    PLACE,
    PX,
    SEEN,
    STEPS,
    SUMS,
    TRIED,
    WANTED,
    WEIGHT,
    WHITE,
    WORK,
    ZERO,
    add_up,
    best_ends,
    error_of,
    find_axis,
    grown,
    nearest,
    spread_along,
)


@compiled(I8(I8))
def bits_of(channel: int) -> int:
    """How many bits red (0), green (1) or blue (2) has."""
    return 6 if channel == 1 else 5


@compiled(I8(I8, I8, I8, I8))
def _step(a: int, b: int, place: int, places: int) -> int:
    """The value at a place between two of 8 bits, as a decoder makes it."""
    if place == 0:
        return a
    if place == places - 1:
        return b
    if places == 3:
        return (a + b) // 2
    return (2 * a + b) // 3 if place == 1 else (a + 2 * b) // 3


@compiled(NONE(WORK))
def _round(work: np.ndarray) -> None:
    """TRIED: the stored ends on either side of WANTED that err least; channels do not depend on each
    other."""
    for c in range(3):
        bits = bits_of(c)
        top = (1 << bits) - 1
        a0 = min(int(np.floor(work[WANTED, c] * np.float32(top) / WHITE)), top - 1)
        b0 = min(int(np.floor(work[WANTED, 4 + c] * np.float32(top) / WHITE)), top - 1)
        least = HUGE
        for k in range(4):
            a, b = a0 + (k & 1), b0 + (k >> 1)
            error = error_of(work, c, np.float32(grown(a, bits)), np.float32(grown(b, bits)))
            if error < least:
                least = error
                work[TRIED, c], work[TRIED, 4 + c] = np.float32(a), np.float32(b)


@compiled(NONE(WORK, I8))
def _fill_palette(work: np.ndarray, places: int) -> None:
    for c in range(3):
        bits = bits_of(c)
        a, b = grown(int(work[TRIED, c]), bits), grown(int(work[TRIED, 4 + c]), bits)
        for k in range(places):
            work[PALETTE + c, k] = np.float32(_step(a, b, k, places))


@compiled(F4(WORK, I8))
def _fit_line(work: np.ndarray, places: int) -> np.float32:
    """BEST_ENDS, BEST_PLACE and the error of a line with so many places."""
    find_axis(work, 0, 3, WEIGHT)
    for k in range(places):
        work[STEPS, k] = np.float32(k) / np.float32(places - 1)
    spread_along(work, 0, 3, places)
    best = HUGE
    for _number in range(ROUNDS):
        add_up(work, 0, 3)
        best_ends(work, 0, 3)
        _round(work)
        _fill_palette(work, places)
        error = nearest(work, 0, 3, places)
        if error >= best - LEAST:
            break
        best = error
        for p in range(16):
            work[BEST_ENDS, p], work[BEST_PLACE, p] = work[TRIED, p], work[PLACE, p]
        if error == ZERO:
            break
    return best


@compiled(I8(WORK, WORK))
def _find_few(work: np.ndarray, few: np.ndarray) -> int:
    """COLOUR and HEAVY of the different colours of the masked px, and which each is into AWAY; returns how
    many there are, at most one more than MOST_FEW."""
    count = 0
    for p in range(16):
        if work[MASK, p] == ZERO:
            continue
        which = -1
        for k in range(count):
            same = work[PX, p] == few[COLOUR, k] and work[PX + 1, p] == few[COLOUR + 1, k]
            if same and work[PX + 2, p] == few[COLOUR + 2, k]:
                which = k
                break
        if which < 0:
            if count == MOST_FEW:
                return MOST_FEW + 1
            which = count
            for c in range(3):
                few[COLOUR + c, which] = work[PX + c, p]
            few[HEAVY, which] = ZERO
            count += 1
        few[HEAVY, which] += work[WEIGHT, p]
        work[AWAY, p] = np.float32(which)
    return count


@compiled(F4(WORK, WORK, WAY, I8, I8, F4))
def _try_way(
    work: np.ndarray, few: np.ndarray, way: np.ndarray, count: int, places: int, best: np.float32
) -> np.float32:
    """The error of one arrangement of `count` colours, its ends into FEW_TRIED; HUGE where it cannot be less
    than `best`."""
    aa = ab = bb = ZERO
    for k in range(count):
        share = np.float32(way[k]) / np.float32(places - 1)
        rest, heavy = ONE - share, few[HEAVY, k]
        aa += heavy * rest * rest
        ab += heavy * rest * share
        bb += heavy * share * share
    work[SUMS, 0], work[SUMS, 1], work[SUMS, 2] = aa, ab, bb
    whole = ZERO
    for c in range(3):
        ax = bx = ZERO
        for k in range(count):
            share = np.float32(way[k]) / np.float32(places - 1)
            sums = few[HEAVY, k] * few[COLOUR + c, k]
            whole += sums * few[COLOUR + c, k]
            bx += sums * share
            ax += sums * (ONE - share)
        work[SUMS, 8 + c], work[SUMS, 12 + c] = ax, bx
    # No ends are better than the best without limits: where those are worse, nothing is to be won.
    det = aa * bb - ab * ab
    if count > 2 and det > np.float32(1e-4) * aa * bb:
        for c in range(3):
            ax, bx = work[SUMS, 8 + c], work[SUMS, 12 + c]
            whole -= (bb * ax * ax - np.float32(2) * ab * ax * bx + aa * bx * bx) / det
        if whole >= np.float32(0.98) * best - HALF:
            return HUGE
    best_ends(work, 0, 3)
    total = ZERO
    for c in range(3):
        bits = bits_of(c)
        top = (1 << bits) - 1
        a0 = int(np.floor(work[WANTED, c] * np.float32(top) / WHITE + HALF))
        b0 = int(np.floor(work[WANTED, 4 + c] * np.float32(top) / WHITE + HALF))
        least = HUGE
        for n in range(NEAR.shape[0]):
            a, b = min(max(a0 + NEAR[n, 0], 0), top), min(max(b0 + NEAR[n, 1], 0), top)
            wide_a, wide_b, error = grown(a, bits), grown(b, bits), ZERO
            for k in range(count):
                gap = np.float32(_step(wide_a, wide_b, way[k], places)) - few[COLOUR + c, k]
                error += gap * gap * few[HEAVY, k]
            if error < least:
                least = error
                few[FEW_TRIED, c], few[FEW_TRIED, 4 + c] = np.float32(a), np.float32(b)
            if error == ZERO:
                break
        total += least
        if total >= best:
            return HUGE
    return total


@compiled(F4(WORK, WORK, TABLES, I8, I8, F4))
def _fit_few(
    work: np.ndarray, few: np.ndarray, tables: Tables, count: int, places: int, best: np.float32
) -> np.float32:
    """The least error of `count` colours in every arrangement if less than `best`, then into BEST_ENDS and
    BEST_PLACE."""
    found, ways, singles = False, tables.ways, tables.singles
    if count == 1:
        error = ZERO
        for c in range(3):
            value, bits = int(few[COLOUR + c, 0]), bits_of(c)
            a, b = singles[4 - places, c, value, 0], singles[4 - places, c, value, 1]
            gap = np.float32(_step(grown(a, bits), grown(b, bits), 1, places)) - few[COLOUR + c, 0]
            error += gap * gap * few[HEAVY, 0]
            few[FEW_BEST, c], few[FEW_BEST, 4 + c] = np.float32(a), np.float32(b)
        few[FEW_PLACE, 0] = ONE
        if error < best:
            best, found = error, True
    else:
        kind = 3 * (4 - places) + count - 2
        for way in range(ways.shape[1]):
            if ways[kind, way, 0] < 0 or best == ZERO:
                break
            error = _try_way(work, few, ways[kind, way], count, places, best)
            if error < best:
                best, found = error, True
                for k in range(8):
                    few[FEW_BEST, k] = few[FEW_TRIED, k]
                for k in range(count):
                    few[FEW_PLACE, k] = np.float32(ways[kind, way, k])
    if found:
        for k in range(8):
            work[BEST_ENDS, k] = few[FEW_BEST, k]
        for p in range(16):
            if work[MASK, p] > ZERO:
                work[BEST_PLACE, p] = few[FEW_PLACE, int(work[AWAY, p])]
    return best


@compiled(F4(WORK, WORK, TABLES, I8))
def _fit(work: np.ndarray, few: np.ndarray, tables: Tables, places: int) -> np.float32:
    """BEST_ENDS, BEST_PLACE and the error, by a line and, of few colours, in every arrangement."""
    count = _find_few(work, few)
    best = HUGE
    if count > 2:
        best = _fit_line(work, places)
        if best > ZERO and count <= places:
            _find_few(work, few)  # the line used its room
    if count <= places and best > ZERO:
        best = _fit_few(work, few, tables, count, places, best)
    return best


@compiled(NONE(WORK, CODED, I8, I8, I8))
def _write_colour(work: np.ndarray, out: np.ndarray, row: int, at: int, places: int) -> None:
    """The eight bytes of BEST_ENDS and BEST_PLACE; what is not masked becomes clear. The order of the ends
    says how many places there are."""
    first = (int(work[BEST_ENDS, 0]) << 11) | (int(work[BEST_ENDS, 1]) << 5) | int(work[BEST_ENDS, 2])
    last = (int(work[BEST_ENDS, 4]) << 11) | (int(work[BEST_ENDS, 5]) << 5) | int(work[BEST_ENDS, 6])
    swap = first < last if places == 4 else first > last
    if swap:
        first, last = last, first
    bits = 0
    for p in range(16):
        place = int(work[BEST_PLACE, p])
        if swap:
            place = places - 1 - place
        index = 0 if place == 0 else (1 if place == places - 1 else place + 1)
        if places == 4 and first == last:
            index = 0
        if work[MASK, p] == ZERO:
            index = 3
        bits |= index << (2 * p)
    put_bits(out, row, at, first, 2)
    put_bits(out, row, at + 2, last, 2)
    put_bits(out, row, at + 4, bits, 4)


@compiled(NONE(BLOCKS, I8, WORK, B1))
def _load(blocks: np.ndarray, n: int, work: np.ndarray, hard: bool) -> None:
    """PX, MASK, SEEN and WEIGHT of a block. `hard`: alpha is there or not, and what is clear has no
    colour."""
    for p in range(16):
        for c in range(4):
            work[PX + c, p] = np.float32(blocks[n, p, c])
        alpha = work[PX + 3, p] / WHITE
        work[MASK, p] = ZERO if hard and blocks[n, p, 3] < SOLID else ONE
        work[SEEN, p] = ONE if hard else max(alpha * alpha, HIDDEN)
        work[WEIGHT, p] = work[MASK, p] * work[SEEN, p]


@compiled(NONE(BLOCKS, CODED, WORK, WORK, TABLES))
def code_bc1(blocks: np.ndarray, out: np.ndarray, work: np.ndarray, few: np.ndarray, tables: Tables) -> None:
    """Code blocks uint8 (n, 16, 4) into uint8 (n, 8). `work` and `few` are room to work in."""
    for n in range(blocks.shape[0]):
        _load(blocks, n, work, True)
        holes = False
        for p in range(16):
            holes = holes or work[MASK, p] == ZERO
        if holes:
            _fit(work, few, tables, 3)
            _write_colour(work, out, n, 0, 3)
            continue
        error = _fit(work, few, tables, 4)
        _write_colour(work, out, n, 0, 4)
        if error > ZERO:
            count = _find_few(work, few)
            if count <= 3 and _fit_few(work, few, tables, count, 3, error) < error:
                _write_colour(work, out, n, 0, 3)


@compiled(NONE(BLOCKS, CODED, WORK, WORK, TABLES))
def code_bc3(blocks: np.ndarray, out: np.ndarray, work: np.ndarray, few: np.ndarray, tables: Tables) -> None:
    """Code blocks uint8 (n, 16, 4) into uint8 (n, 16): alpha with steps of its own, then colour as in BC1
    with four places."""
    for n in range(blocks.shape[0]):
        _load(blocks, n, work, False)
        _fit(work, few, tables, 4)
        _write_colour(work, out, n, 8, 4)
        code_alpha(work, out, n, 0)
