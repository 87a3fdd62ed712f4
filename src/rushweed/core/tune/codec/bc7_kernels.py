"""The search of BC7, compiled: modes in turn, subsets ranked by what no line could follow, bits written.

The rows of `work` are those of line_kernels; the tables are given, so that their source stays in one place.
"""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, B1, I8, NONE, compiled
from rushweed.core.tune.codec.line_kernels import (
    AROUND,
    BEST_ENDS,
    BEST_PLACE,
    CHOSEN,
    F4,
    HALF,
    HIDDEN,
    HUGE,
    MASK,
    ONE,
    PAIRS,
    PALETTE,
    PLACE,
    PX,
    SEEN,
    STEPS,
    SUMS,
    TINY,
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

BLOCKS = types.Array(types.uint8, 3, "C", readonly=True)  # (n, 16, 4)
CODED = types.uint8[:, ::1]  # (n, 16)
SHARES = types.Array(types.float32, 2, "C", readonly=True)

# The parity of a mode: none; a lowest bit of each end; one of both ends of a subset.
NO_PARITY, OF_END, OF_SUBSET = 0, 1, 2
# Columns of the table of modes.
SUBSETS, PARTITION, ROTATION, CHOICE, COLOUR, ALPHA, PARITY, PLACES, SECOND = range(9)
ROUNDS = 2
LEAST = np.float32(1e-3)  # what is gained by less is not worth another coding
EXACT = np.float32(0.5)
FEW = np.float32(8)  # times what a line leaves is less than the error where steps, not lines, are to blame
WORTH = np.float32(160)  # an error below which the modes that seldom help are not tried


# Rows of `kept`, the best coding of a block so far (int64, 16 wide): mode, partition, rotation, choice at 0
# to 3; a row of ends for each subset (channels of the first end, of the last from 4, parities at 8 and 9),
# one of those of alpha on its own, the places, and alpha's; what is being tried; whose px are meant.
HEAD, ENDS, ALPHA_ENDS, COLOUR_PLACE, ALPHA_PLACE = 0, 1, 4, 5, 6
TRIED_ENDS, TRIED_ALPHA, TRIED_PLACE, BELONGS, KEPT = 7, 10, 11, 12, 13


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


@compiled(NONE(WORK, I8, I8, I8, I8, I8, I8, SHARES))
def _fill_palette(
    work: np.ndarray, first: int, count: int, colour: int, alpha: int, parity: int, bits: int,
    shares: np.ndarray,
) -> None:  # fmt: skip
    p0, p1 = int(work[CHOSEN, 8]), int(work[CHOSEN, 9])
    for c in range(first, first + count):
        wide = alpha if c == 3 else colour
        a = _shown(int(work[CHOSEN, c]), wide, parity != NO_PARITY, p0)
        b = _shown(int(work[CHOSEN, 4 + c]), wide, parity != NO_PARITY, p1)
        low, step = np.float32(64 * a + 32), np.float32(b - a)
        for k in range(1 << bits):
            work[PALETTE + c, k] = np.floor((low + step * shares[bits, k]) / np.float32(64))


@compiled(F4(WORK, I8, I8, I8, I8, I8, I8, SHARES, F4, B1))
def fit_line(
    work: np.ndarray, first: int, count: int, colour: int, alpha: int, parity: int, bits: int,
    shares: np.ndarray, limit: np.float32, opaque: bool,
) -> np.float32:  # fmt: skip
    """BEST_ENDS and BEST_PLACE of the line through the masked px, and its error; or HUGE, and nothing else,
    where no line could err less than `limit`.

    colour, alpha: bits of the ends as stored; bits: of the places; shares: by bits and place, in 64ths.
    """
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
        _fill_palette(work, first, count, colour, alpha, parity, bits, shares)
        error = nearest(work, first, count, places)
        if error >= best - LEAST:
            break
        best = error
        for p in range(16):
            work[BEST_ENDS, p], work[BEST_PLACE, p] = work[CHOSEN, p], work[PLACE, p]
        if error <= EXACT:
            break
    return best


# -- which subsets -----------------------------------------------------------------------------------------

# Rows of `rank`, one value a partition of 64: the sums over its px of the weight, of each channel, and of the
# products of two channels; the same of all px; their spread in all channels; the direction; it once turned;
# what lines leave. Then, one value a px: what is summed.
COUNT, SUM, PRODUCT, REST, WHOLE, ROOM, TURNED, LEFT, FEATURES = 0, 1, 5, 15, 30, 31, 35, 39, 40
ALONG, RANKS = 55, 56
RANK = types.float32[:, ::1]
MASKS = types.Array(types.float32, 3, "C", readonly=True)  # (subset, px, partition)
MIDDLE = np.float32(128)
PARTITIONS = 64
TURNS = 3
BETWEEN = np.float32(1 / 49)  # of a spread, what eight even steps leave of it


@compiled(I8(WORK, RANK, I8))
def _fill_features(work: np.ndarray, rank: np.ndarray, channels: int) -> int:
    """FEATURES of every px, and their sums into all of REST; returns how many there are."""
    for p in range(16):
        rank[FEATURES, p] = work[SEEN, p] if channels == 3 else ONE
    row = FEATURES + PRODUCT
    for i in range(channels):
        for p in range(16):
            rank[FEATURES + SUM + i, p] = (work[PX + i, p] - MIDDLE) * rank[FEATURES, p]
        for j in range(i, channels):
            for p in range(16):
                rank[row, p] = rank[FEATURES + SUM + i, p] * (work[PX + j, p] - MIDDLE)
            row += 1
    for part in range(row - FEATURES):
        total = ZERO
        for p in range(16):
            total += rank[FEATURES + part, p]
        for k in range(PARTITIONS):
            rank[REST + part, k] = total
    return row - FEATURES


@compiled(NONE(RANK, MASKS, I8, I8))
def _sum_features(rank: np.ndarray, masks: np.ndarray, subset: int, parts: int) -> None:
    """The sums of FEATURES over a subset of each partition, taken from REST."""
    for part in range(parts):
        for k in range(PARTITIONS):
            rank[part, k] = ZERO
        for p in range(0, 16, 4):
            a, b = rank[FEATURES + part, p], rank[FEATURES + part, p + 1]
            c, d = rank[FEATURES + part, p + 2], rank[FEATURES + part, p + 3]
            for k in range(PARTITIONS):
                rank[part, k] += (a * masks[subset, p, k] + b * masks[subset, p + 1, k]) + (
                    c * masks[subset, p + 2, k] + d * masks[subset, p + 3, k]
                )
        for k in range(PARTITIONS):
            rank[REST + part, k] -= rank[part, k]


@compiled(NONE(RANK, I8))
def _turn(rank: np.ndarray, channels: int) -> None:
    """TURNED: the covariance times the direction."""
    for i in range(channels):
        for k in range(PARTITIONS):
            rank[TURNED + i, k] = ZERO
        for j in range(channels):
            low, high = min(i, j), max(i, j)
            row = PRODUCT + low * channels - low * (low - 1) // 2 + high - low
            for k in range(PARTITIONS):
                rank[TURNED + i, k] += rank[row, k] * rank[ROOM + j, k]


@compiled(NONE(RANK, I8))
def _add_left(rank: np.ndarray, channels: int) -> None:
    """Turn the sums of a subset into covariances and add to LEFT what is not along their main axis, to ALONG
    what is."""
    for k in range(PARTITIONS):
        rank[COUNT, k] = ONE / max(rank[COUNT, k], TINY)
        rank[WHOLE, k] = TINY
    row = PRODUCT
    for i in range(channels):
        for k in range(PARTITIONS):
            rank[WHOLE, k] += rank[row, k] - rank[SUM + i, k] * rank[SUM + i, k] * rank[COUNT, k]
        for j in range(i, channels):
            for k in range(PARTITIONS):
                rank[row, k] -= rank[SUM + i, k] * rank[SUM + j, k] * rank[COUNT, k]
            row += 1
    for k in range(PARTITIONS):
        rank[COUNT, k] = ONE / max(rank[WHOLE, k], ONE)
    for each in range(PRODUCT, row):
        for k in range(PARTITIONS):
            rank[each, k] *= rank[COUNT, k]
    for k in range(PARTITIONS):  # begin with the covariances of the channel that spreads most
        most, spread = 0, -ONE
        for i in range(channels):
            own = rank[PRODUCT + i * channels - i * (i - 1) // 2, k]
            if own > spread:
                most, spread = i, own
        for i in range(channels):
            low, high = min(i, most), max(i, most)
            rank[ROOM + i, k] = rank[PRODUCT + low * channels - low * (low - 1) // 2 + high - low, k]
    for _number in range(TURNS):
        _turn(rank, channels)
        for i in range(channels):
            for k in range(PARTITIONS):
                rank[ROOM + i, k] = rank[TURNED + i, k]
    _turn(rank, channels)
    for k in range(PARTITIONS):
        rank[COUNT, k] = ZERO
        rank[SUM, k] = TINY
    for i in range(channels):
        for k in range(PARTITIONS):
            rank[COUNT, k] += rank[ROOM + i, k] * rank[TURNED + i, k]
            rank[SUM, k] += rank[ROOM + i, k] * rank[ROOM + i, k]
    for k in range(PARTITIONS):
        along = rank[WHOLE, k] * (rank[COUNT, k] / rank[SUM, k])
        rank[LEFT, k] += max(rank[WHOLE, k] - along, ZERO)
        rank[ALONG, k] += max(along, ZERO)


@compiled(NONE(WORK, RANK, MASKS, I8, I8))
def rank_partitions(
    work: np.ndarray, rank: np.ndarray, masks: np.ndarray, subsets: int, channels: int
) -> None:
    """LEFT of every partition: the squared error that a line for each of its subsets would leave; ALONG: the
    spread along these lines."""
    parts = _fill_features(work, rank, channels)
    for k in range(PARTITIONS):
        rank[LEFT, k] = rank[ALONG, k] = ZERO
    for subset in range(subsets - 1):
        _sum_features(rank, masks, subset, parts)
        _add_left(rank, channels)
    for part in range(parts):
        for k in range(PARTITIONS):
            rank[part, k] = rank[REST + part, k]
    _add_left(rank, channels)


# -- one block ---------------------------------------------------------------------------------------------

READ_TABLE = types.Array(types.int64, 2, "C", readonly=True)
PARTS = types.Array(types.int64, 3, "C", readonly=True)  # (subsets - 1, partition, px)
PAIR_OF_MASKS = types.UniTuple(MASKS, 2)


@compiled(NONE(WORK, A2, I8, I8))
def _keep_line(work: np.ndarray, kept: np.ndarray, ends: int, place: int) -> None:
    """The fitted line into rows of `kept`; of the places those that belong to it."""
    for p in range(16):
        kept[ends, p] = int(work[BEST_ENDS, p])
        if work[MASK, p] > ZERO:
            kept[place, p] = int(work[BEST_PLACE, p])


@compiled(NONE(A2, I8, I8, I8, I8))
def _keep_head(kept: np.ndarray, mode: int, partition: int, rotation: int, choice: int) -> None:
    kept[HEAD, 0], kept[HEAD, 1], kept[HEAD, 2], kept[HEAD, 3] = mode, partition, rotation, choice


@compiled(F4(WORK, A2, READ_TABLE, SHARES, I8, I8, I8, B1, F4))
def _one_subset(
    work: np.ndarray, kept: np.ndarray, modes: np.ndarray, shares: np.ndarray, mode: int, rotation: int,
    choice: int, opaque: bool, best: np.float32,
) -> np.float32:  # fmt: skip
    """Try a mode of one subset; returns the error of the best coding, in `kept`."""
    for p in range(16):
        work[MASK, p] = ONE
        work[WEIGHT, p] = work[SEEN, p]
    spec = modes[mode]
    if spec[SECOND] == 0:
        error = fit_line(
            work, 0, 4, spec[COLOUR], spec[ALPHA], spec[PARITY], spec[PLACES], shares, best, opaque
        )
        if error < best - LEAST:
            _keep_line(work, kept, ENDS, COLOUR_PLACE)
            _keep_head(kept, mode, 0, 0, 0)
            return error
        return best
    alpha_bits, colour_bits = spec[SECOND], spec[PLACES]
    if choice:
        alpha_bits, colour_bits = colour_bits, alpha_bits
    alone = fit_line(work, 3, 1, spec[COLOUR], spec[ALPHA], NO_PARITY, alpha_bits, shares, best, opaque)
    if alone >= best:
        return best
    _keep_line(work, kept, TRIED_ALPHA, TRIED_PLACE)
    error = fit_line(
        work, 0, 3, spec[COLOUR], spec[ALPHA], NO_PARITY, colour_bits, shares, best - alone, opaque
    )
    if error + alone < best - LEAST:
        _keep_line(work, kept, ENDS, COLOUR_PLACE)
        for p in range(16):
            kept[ALPHA_ENDS, p], kept[ALPHA_PLACE, p] = kept[TRIED_ALPHA, p], kept[TRIED_PLACE, p]
        _keep_head(kept, mode, 0, rotation, choice)
        return error + alone
    return best


@compiled(F4(WORK, A2, READ_TABLE, SHARES, PARTS, I8, I8, B1, F4))
def _subsets(
    work: np.ndarray, kept: np.ndarray, modes: np.ndarray, shares: np.ndarray, parts: np.ndarray, mode: int,
    partition: int, opaque: bool, best: np.float32,
) -> np.float32:  # fmt: skip
    """Try a mode of two or three subsets; returns the error of the best coding, in `kept`."""
    spec = modes[mode]
    count = 4 if spec[ALPHA] else 3
    total = ZERO
    for subset in range(spec[SUBSETS]):
        for p in range(16):
            work[MASK, p] = ONE if parts[spec[SUBSETS] - 1, partition, p] == subset else ZERO
            work[WEIGHT, p] = work[MASK, p] * work[SEEN, p]
        total += fit_line(
            work,
            0,
            count,
            spec[COLOUR],
            spec[ALPHA],
            spec[PARITY],
            spec[PLACES],
            shares,
            best - total,
            opaque,
        )
        if total >= best - LEAST:
            return best
        _keep_line(work, kept, TRIED_ENDS + subset, TRIED_PLACE)
    for p in range(16):
        kept[COLOUR_PLACE, p] = kept[TRIED_PLACE, p]
        for subset in range(spec[SUBSETS]):
            kept[ENDS + subset, p] = kept[TRIED_ENDS + subset, p]
    _keep_head(kept, mode, partition, 0, 0)
    return total


@compiled(NONE(WORK))
def _weigh(work: np.ndarray) -> None:
    """SEEN: by alpha squared, as the squared error is when it is drawn; what is hidden decides between
    equals."""
    for p in range(16):
        alpha = work[PX + 3, p] / WHITE
        work[SEEN, p] = max(alpha * alpha, HIDDEN)


@compiled(NONE(WORK, I8))
def _exchange(work: np.ndarray, rotation: int) -> None:
    """Exchange alpha with the channel of a rotation; twice is as before."""
    for p in range(16):
        other = work[PX + rotation - 1, p]
        work[PX + rotation - 1, p] = work[PX + 3, p]
        work[PX + 3, p] = other


@compiled(F4(WORK, RANK, A2, READ_TABLE, SHARES, PARTS, MASKS, I8, I8, B1, F4))
def _best_partition(
    work: np.ndarray, rank: np.ndarray, kept: np.ndarray, modes: np.ndarray, shares: np.ndarray,
    parts: np.ndarray, masks: np.ndarray, first_mode: int, last_mode: int, opaque: bool, best: np.float32,
) -> np.float32:  # fmt: skip
    """Try two modes of as many subsets (or one, twice named) with the partition that promises most."""
    rank_partitions(work, rank, masks, modes[first_mode, SUBSETS], 4 if modes[first_mode, ALPHA] else 3)
    first = 0  # where least is off the lines
    for k in range(1, PARTITIONS):
        if rank[LEFT, k] < rank[LEFT, first]:
            first = k
    second = third = 1 if first == 0 else 0  # with what falls between the steps of the lines, as of greys
    least = less = HUGE
    for k in range(PARTITIONS):
        whole = rank[LEFT, k] + rank[ALONG, k] * BETWEEN
        if k != first and whole < least:
            third, less, second, least = second, least, k, whole
        elif k != first and whole < less:
            third, less = k, whole
    for which in (first, second, third):
        if opaque and rank[LEFT, which] * (ONE if which == first else FEW) >= best:
            continue
        if which < 1 << modes[first_mode, PARTITION]:
            best = _subsets(work, kept, modes, shares, parts, first_mode, which, opaque, best)
        if last_mode != first_mode and best > EXACT and which < 1 << modes[last_mode, PARTITION]:
            best = _subsets(work, kept, modes, shares, parts, last_mode, which, opaque, best)
    return best


@compiled(F4(WORK, RANK, A2, READ_TABLE, SHARES, PARTS, PAIR_OF_MASKS, B1))
def _search(
    work: np.ndarray, rank: np.ndarray, kept: np.ndarray, modes: np.ndarray, shares: np.ndarray,
    parts: np.ndarray, masks: tuple[np.ndarray, np.ndarray], opaque: bool,
) -> np.float32:  # fmt: skip
    """The best coding of the block in `work`, into `kept`; its error."""
    best = _one_subset(work, kept, modes, shares, 6, 0, 0, opaque, HUGE)
    for mode in (5, 4):
        if mode == 4 and opaque:
            continue
        for rotation in range(4):
            if best <= (WORTH if rotation and opaque else EXACT):
                break
            if rotation:
                _exchange(work, rotation)
                for p in range(16):
                    work[SEEN, p] = ONE  # alpha counts in full wherever it stands
            for choice in range(2 if modes[mode, CHOICE] else 1):
                best = _one_subset(work, kept, modes, shares, mode, rotation, choice, opaque, best)
            if rotation:
                _exchange(work, rotation)
                _weigh(work)
    if best <= EXACT:
        return best
    if not opaque:
        return _best_partition(work, rank, kept, modes, shares, parts, masks[0], 7, 7, False, best)
    best = _best_partition(work, rank, kept, modes, shares, parts, masks[0], 1, 3, True, best)
    if best > WORTH:
        best = _best_partition(work, rank, kept, modes, shares, parts, masks[1], 2, 0, True, best)
    return best


@compiled(B1(WORK, A2))
def _flat(work: np.ndarray, kept: np.ndarray) -> bool:
    """Code a block of one colour, which mode 5 holds exactly: its ends of 7 bits are chosen so that a place
    between them is the colour. Whether it is one."""
    for p in range(1, 16):
        for c in range(4):
            if work[PX + c, p] != work[PX + c, 0]:
                return False
    _keep_head(kept, 5, 0, 0, 0)
    for c in range(3):
        value = int(work[PX + c, 0])
        for near in range(-2, 3):
            for other in range(-3, 4):
                a = min(max((value >> 1) + near, 0), 127)
                b = min(max(a + other, 0), 127)
                between = (43 * (a << 1 | a >> 6) + 21 * (b << 1 | b >> 6) + 32) >> 6
                if between == value:
                    kept[ENDS, c], kept[ENDS, 4 + c] = a, b
    for p in range(16):
        kept[COLOUR_PLACE, p], kept[ALPHA_PLACE, p] = 1, 0
    kept[ALPHA_ENDS, 3] = kept[ALPHA_ENDS, 7] = int(work[PX + 3, 0])
    return True


# -- bits --------------------------------------------------------------------------------------------------


@compiled(I8(A1, I8, I8, I8))
def put(words: np.ndarray, at: int, value: int, width: int) -> int:
    """Write so many bits of a value into words of 32, lowest first; returns where the next begin."""
    word, low = at >> 5, at & 31
    words[word] |= (value << low) & 0xFFFFFFFF
    if low + width > 32:
        words[word + 1] |= value >> (32 - low)
    return at + width


@compiled(NONE(A2, I8, I8, I8, I8))
def _turn_to_anchor(kept: np.ndarray, ends: int, places: int, anchor: int, bits: int) -> None:
    """Exchange the ends of a subset where the anchor's place would need its highest bit. BELONGS says
    which px are its own."""
    top = (1 << bits) - 1
    if kept[places, anchor] <= top >> 1:
        return
    for c in range(4):
        other = kept[ends, c]
        kept[ends, c] = kept[ends, 4 + c]
        kept[ends, 4 + c] = other
    other = kept[ends, 8]
    kept[ends, 8] = kept[ends, 9]
    kept[ends, 9] = other
    for p in range(16):
        if kept[BELONGS, p]:
            kept[places, p] = top - kept[places, p]


@compiled(NONE(A2, A1, READ_TABLE, PARTS, PARTS))
def _write(
    kept: np.ndarray, words: np.ndarray, modes: np.ndarray, parts: np.ndarray, anchors: np.ndarray
) -> None:
    """The 128 bits of the coding in `kept`, into four words of 32."""
    for k in range(4):
        words[k] = 0
    mode, partition, rotation, choice = kept[HEAD, 0], kept[HEAD, 1], kept[HEAD, 2], kept[HEAD, 3]
    spec = modes[mode]
    subsets = spec[SUBSETS]
    own_alpha = spec[SECOND] > 0
    colour_bits = spec[SECOND] if choice else spec[PLACES]
    alpha_bits = spec[PLACES] if choice else spec[SECOND]
    for subset in range(subsets):
        for p in range(16):
            kept[BELONGS, p] = 1 if parts[subsets - 1, partition, p] == subset else 0
        _turn_to_anchor(
            kept, ENDS + subset, COLOUR_PLACE, anchors[subsets - 1, partition, subset], colour_bits
        )
    if own_alpha:
        for p in range(16):
            kept[BELONGS, p] = 1
        _turn_to_anchor(kept, ALPHA_ENDS, ALPHA_PLACE, 0, alpha_bits)
    at = put(words, 0, 1 << mode, mode + 1)
    at = put(words, at, partition, spec[PARTITION])
    at = put(words, at, rotation, spec[ROTATION])
    at = put(words, at, choice, spec[CHOICE])
    for channel in range(4):
        width = spec[ALPHA] if channel == 3 else spec[COLOUR]
        for subset in range(subsets if width else 0):
            row = ALPHA_ENDS if own_alpha and channel == 3 else ENDS + subset
            at = put(words, at, kept[row, channel], width)
            at = put(words, at, kept[row, 4 + channel], width)
    for subset in range(subsets):
        if spec[PARITY] != NO_PARITY:
            at = put(words, at, kept[ENDS + subset, 8], 1)
        if spec[PARITY] == OF_END:
            at = put(words, at, kept[ENDS + subset, 9], 1)
    for turn in range(2 if own_alpha else 1):
        row = ALPHA_PLACE if turn != choice else COLOUR_PLACE
        width = spec[SECOND] if turn else spec[PLACES]
        for p in range(16):
            anchored = False
            for subset in range(subsets):
                anchored = anchored or anchors[subsets - 1, partition, subset] == p
            at = put(words, at, kept[row, p], width - 1 if anchored else width)


@compiled(NONE(BLOCKS, CODED, WORK, RANK, A2, A1, READ_TABLE, SHARES, PARTS, PARTS, PAIR_OF_MASKS))
def code_bc7(
    blocks: np.ndarray, out: np.ndarray, work: np.ndarray, rank: np.ndarray, kept: np.ndarray,
    words: np.ndarray, modes: np.ndarray, shares: np.ndarray, parts: np.ndarray, anchors: np.ndarray,
    masks: tuple[np.ndarray, np.ndarray],
) -> None:  # fmt: skip
    """Code blocks uint8 (n, 16, 4) into uint8 (n, 16).

    The others are room to work in and tables:

    modes: int64 (8, 9), a row as the columns above; shares: float32 (5, 16), 64ths by bits and place; parts:
    int64 (3, 64, 16), the subset of each px by subsets - 1 and partition; anchors: int64 (3, 64, 3); masks:
    of two and of three subsets float32 (subsets, 16, 64), 1 where a px belongs to one.
    """
    for n in range(blocks.shape[0]):
        opaque = True
        for p in range(16):
            for c in range(4):
                work[PX + c, p] = np.float32(blocks[n, p, c])
            opaque = opaque and blocks[n, p, 3] == 255
        if not _flat(work, kept):
            _weigh(work)
            _search(work, rank, kept, modes, shares, parts, masks, opaque)
        _write(kept, words, modes, parts, anchors)
        for k in range(4):
            for b in range(4):
                out[n, 4 * k + b] = (words[k] >> (8 * b)) & 255
