"""The search of BC7, compiled: which subsets leave least, ranked by what no line could follow."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import I8, NONE, compiled
from rushweed.core.tune.codec.bc7_terms import (
    ALONG,
    COUNT,
    FEATURES,
    LEFT,
    MASKS,
    MIDDLE,
    PARTITIONS,
    PRODUCT,
    RANK,
    REST,
    ROOM,
    SUM,
    TURNED,
    TURNS,
    WHOLE,
)
from rushweed.core.tune.codec.line_kernels import ONE, PX, SEEN, TINY, WORK, ZERO


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
