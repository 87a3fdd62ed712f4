"""The search of BC7, compiled: modes in turn, subsets ranked by what no line could follow, bits written.

The rows of `work` are those of line_kernels; the tables are given, so that their source stays in one place.
"""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A2, B1, I8, NONE, PAIR, TRIPLE, compiled
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
    PARITY,
    PARTITION,
    PARTITIONS,
    PLACES,
    ROOM_TYPE,
    SECOND,
    SUBSETS,
    TABLES,
    TRIED_ALPHA,
    TRIED_ENDS,
    TRIED_PLACE,
    WORTH,
    Room,
    Tables,
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


@compiled(F4(ROOM_TYPE, TABLES, TRIPLE, B1, F4))
def _one_subset(
    room: Room, tables: Tables, tried: tuple[int, int, int], opaque: bool, best: np.float32
) -> np.float32:
    """Try a mode of one subset (its number, rotation and choice); returns the error of the best coding, which
    is in `kept`."""
    work, kept, shares = room.work, room.kept, tables.shares
    mode, rotation, choice = tried
    for p in range(16):
        work[MASK, p] = ONE
        work[WEIGHT, p] = work[SEEN, p]
    spec = tables.modes[mode]
    if spec[SECOND] == 0:
        stored = (spec[COLOUR], spec[ALPHA], spec[PARITY], spec[PLACES])
        error = fit_line(work, (0, 4), stored, shares, best, opaque)
        if error < best - LEAST:
            _keep_line(work, kept, ENDS, COLOUR_PLACE)
            _keep_head(kept, mode, 0, 0, 0)
            return error
        return best
    alpha_bits, colour_bits = spec[SECOND], spec[PLACES]
    if choice:
        alpha_bits, colour_bits = colour_bits, alpha_bits
    stored = (spec[COLOUR], spec[ALPHA], NO_PARITY, alpha_bits)
    alone = fit_line(work, (3, 1), stored, shares, best, opaque)
    if alone >= best:
        return best
    _keep_line(work, kept, TRIED_ALPHA, TRIED_PLACE)
    stored = (spec[COLOUR], spec[ALPHA], NO_PARITY, colour_bits)
    error = fit_line(work, (0, 3), stored, shares, best - alone, opaque)
    if error + alone < best - LEAST:
        _keep_line(work, kept, ENDS, COLOUR_PLACE)
        for p in range(16):
            kept[ALPHA_ENDS, p], kept[ALPHA_PLACE, p] = kept[TRIED_ALPHA, p], kept[TRIED_PLACE, p]
        _keep_head(kept, mode, 0, rotation, choice)
        return error + alone
    return best


@compiled(F4(ROOM_TYPE, TABLES, I8, I8, B1, F4))
def _subsets(
    room: Room, tables: Tables, mode: int, partition: int, opaque: bool, best: np.float32
) -> np.float32:
    """Try a mode of two or three subsets; returns the error of the best coding, which is in `kept`."""
    work, kept, parts = room.work, room.kept, tables.parts
    spec = tables.modes[mode]
    count = 4 if spec[ALPHA] else 3
    total = ZERO
    for subset in range(spec[SUBSETS]):
        for p in range(16):
            work[MASK, p] = ONE if parts[spec[SUBSETS] - 1, partition, p] == subset else ZERO
            work[WEIGHT, p] = work[MASK, p] * work[SEEN, p]
        stored = (spec[COLOUR], spec[ALPHA], spec[PARITY], spec[PLACES])
        total += fit_line(work, (0, count), stored, tables.shares, best - total, opaque)
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


@compiled(F4(ROOM_TYPE, TABLES, MASKS, PAIR, B1, F4))
def _best_partition(
    room: Room, tables: Tables, masks: np.ndarray, pair: tuple[int, int], opaque: bool, best: np.float32
) -> np.float32:
    """Try two modes of as many subsets (or one, twice named) with the partition that promises most."""
    (first_mode, last_mode), modes, rank = pair, tables.modes, room.rank
    rank_partitions(room.work, rank, masks, modes[first_mode, SUBSETS], 4 if modes[first_mode, ALPHA] else 3)
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
            best = _subsets(room, tables, first_mode, which, opaque, best)
        if last_mode != first_mode and best > EXACT and which < 1 << modes[last_mode, PARTITION]:
            best = _subsets(room, tables, last_mode, which, opaque, best)
    return best


@compiled(F4(ROOM_TYPE, TABLES, B1))
def _search(room: Room, tables: Tables, opaque: bool) -> np.float32:
    """The best coding of the block in `work`, into `kept`; its error."""
    work = room.work
    best = _one_subset(room, tables, (6, 0, 0), opaque, HUGE)
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
            for choice in range(2 if tables.modes[mode, CHOICE] else 1):
                best = _one_subset(room, tables, (mode, rotation, choice), opaque, best)
            if rotation:
                _exchange(work, rotation)
                _weigh(work)
    if best <= EXACT:
        return best
    if not opaque:
        return _best_partition(room, tables, tables.two, (7, 7), False, best)
    best = _best_partition(room, tables, tables.two, (1, 3), True, best)
    if best > WORTH:
        best = _best_partition(room, tables, tables.three, (2, 0), True, best)
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


@compiled(NONE(BLOCKS, CODED, ROOM_TYPE, TABLES))
def code_bc7(blocks: np.ndarray, out: np.ndarray, room: Room, tables: Tables) -> None:
    """Code blocks uint8 (n, 16, 4) into uint8 (n, 16)."""
    work, kept, words = room.work, room.kept, room.words
    for n in range(blocks.shape[0]):
        opaque = True
        for p in range(16):
            for c in range(4):
                work[PX + c, p] = np.float32(blocks[n, p, c])
            opaque = opaque and blocks[n, p, 3] == 255
        if not _flat(work, kept):
            _weigh(work)
            _search(room, tables, opaque)
        write(kept, words, tables.modes, tables.parts, tables.anchors)
        for k in range(4):
            for b in range(4):
                out[n, 4 * k + b] = (words[k] >> (8 * b)) & 255
