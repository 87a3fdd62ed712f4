"""What speaks for two steps together, one along each axis, as numbers.

The model that weighs them is in weights.json (see ranking.py); names and order here are its own.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from rushweed.core.cut.axis_features import spots_of
from rushweed.core.cut.candidates import Step
from rushweed.core.cut.measure import AxisMeasure

PAIR_FEATURES = (
    "x", "y", "least", "below_x", "below_y", "square_plain", "ratio", "double", "same_gap",
    "one_gap", "same_margin", "cells", "whole_axis", "far", "held", "alone", "unbroken", "isolated",
)  # fmt: skip


def pair_features(
    axes: tuple[AxisMeasure, AxisMeasure],
    pairs: Sequence[tuple[Step, Step]],
    scores: Sequence[tuple[float, float]],
    highest: tuple[float, float],
    parts: np.ndarray,
    sums: np.ndarray,
) -> np.ndarray:
    """What speaks for two steps together: float (pairs, PAIR_FEATURES). Whether cells are square says
    nothing where there are gaps, which say more.

    scores: those of both steps, `highest` the best of each axis. parts: float (n, 5) of `connected_parts`;
    sums: int32 (height + 1, width + 1), how much ink lies left of and above each place.
    """
    rows = []
    for (x, y), (score_x, score_y) in zip(pairs, scores, strict=True):
        (across, whole_x), (down, whole_y) = spots_of(axes[0], x), spots_of(axes[1], y)
        ratio = abs(math.log(x.cell / y.cell))
        below = score_x - highest[0], score_y - highest[1]
        gaps = x.gap > 0, y.gap > 0
        rows.append([
            score_x, score_y, min(below), *below, float(x.cell == y.cell and not any(gaps)),
            0.0 if any(gaps) else min(ratio, 2.0),
            float(abs(ratio - math.log(2)) < 0.01), float(x.gap == y.gap and gaps[0]),
            float(gaps[0] != gaps[1] and not (whole_x or whole_y)), float(x.margin == y.margin),
            math.log(across * down), float(whole_x or whole_y), float(ratio > 1.2 and not any(gaps)),
            *_inside(x, y, across, down, parts, sums),
        ])  # fmt: skip
    return np.array(rows, float).reshape(-1, len(PAIR_FEATURES))


def _inside(
    x: Step, y: Step, across: int, down: int, parts: np.ndarray, sums: np.ndarray
) -> tuple[float, float, float, float]:
    """Shares of the cells that hold ink; how near to one part each holds; parts (by weight) that no line
    cuts; and cells with ink whose rim is clear."""
    height, width = sums.shape[0] - 1, sums.shape[1] - 1
    left = x.margin + np.arange(across) * (x.cell + x.gap)
    top = y.margin + np.arange(down) * (y.cell + y.gap)
    right, bottom = np.minimum(left + x.cell, width), np.minimum(top + y.cell, height)

    def ink(l: np.ndarray, t: np.ndarray, r: np.ndarray, b: np.ndarray) -> np.ndarray:  # noqa: E741
        made: np.ndarray = sums[np.ix_(b, r)] - sums[np.ix_(t, r)] - sums[np.ix_(b, l)] + sums[np.ix_(t, l)]
        return made

    if x.gap or y.gap:
        whole = ink(left, top, right, bottom)
    else:  # each line is looked up once, as neighbours share it
        corners = sums[np.ix_(np.append(top, bottom[-1]), np.append(left, right[-1]))]
        whole = np.diff(np.diff(corners, axis=0), axis=1)
    held = whole > 0
    share = float(held.mean())
    core = ink(np.minimum(left + 1, right), np.minimum(top + 1, bottom), np.maximum(right - 1, left),
               np.maximum(bottom - 1, top))  # fmt: skip
    isolated = float((held & (core == whole)).sum() / max(held.sum(), 1))
    if not len(parts):
        return share, 0.0, 0.0, isolated
    weight = np.sqrt(parts[:, 4])
    column = np.floor((parts[:, 0] - x.margin) / (x.cell + x.gap))
    row = np.floor((parts[:, 1] - y.margin) / (y.cell + y.gap))
    cut = column != np.floor((parts[:, 2] - 1 - x.margin) / (x.cell + x.gap))
    cut |= row != np.floor((parts[:, 3] - 1 - y.margin) / (y.cell + y.gap))
    uncut = 1 - float((weight * cut).sum() / weight.sum())
    big = parts[:, 4] >= 0.1 * np.median(parts[: max(len(parts) // 2, 1), 4])
    each = float(big.sum()) / max(int(held.sum()), 1)
    return share, -abs(math.log(max(each, 1e-3))), uncut, isolated
