"""The search of BC7, compiled: modes in turn, subsets ranked by what no line could follow, bits written.

The rows of `work` are those of line_kernels; the tables are given, so that their source stays in one place.
"""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, A2, B1, I8, NONE, compiled
from rushweed.core.tune.codec.bc7_bits_kernels import write
from rushweed.core.tune.codec.bc7_line_kernels import fit_line
from rushweed.core.tune.codec.bc7_rank_kernels import rank_partitions
from rushweed.core.tune.codec.bc7_terms import (
    ALONG,
    ALPHA,
    ALPHA_ENDS,
    ALPHA_PLACE,
    BETWEEN,
    BLOCKS,
    CHOICE,
    CODED,
    COLOUR,
    COLOUR_PLACE,
    ENDS,
    EXACT,
    FEW,
    HEAD,
    LEAST,
    LEFT,
    MASKS,
    NO_PARITY,
    PAIR_OF_MASKS,
    PARITY,
    PARTITION,
    PARTITIONS,
    PARTS,
    PLACES,
    RANK,
    READ_TABLE,
    SECOND,
    SHARES,
    SUBSETS,
    TRIED_ALPHA,
    TRIED_ENDS,
    TRIED_PLACE,
    WORTH,
)
from rushweed.core.tune.codec.line_kernels import (
    BEST_ENDS,
    BEST_PLACE,
    F4,
    HIDDEN,
    HUGE,
    MASK,
    ONE,
    PX,
    SEEN,
    WEIGHT,
    WHITE,
    WORK,
    ZERO,
)


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
        write(kept, words, modes, parts, anchors)
        for k in range(4):
            for b in range(4):
                out[n, 4 * k + b] = (words[k] >> (8 * b)) & 255
