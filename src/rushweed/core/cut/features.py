"""What speaks for a grid, as numbers: of a step along one axis, and of two steps together.

The models that weigh them are in weights.json (see ranking.py); names and order here are theirs.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from rushweed.core.cut.candidates import Step
from rushweed.core.cut.measure import AxisMeasure

AXIS_FEATURES = (
    "differ", "differ_peak", "differ_half", "differ_third", "differ_double", "differ_best", "equal",
    "equal_peak", "equal_double", "columns", "columns_peak", "mask", "mask_peak", "mask_half", "mask_third",
    "mask_best", "mask_first", "differ_first", "equal_first", "edge", "edge_odd", "edge_third", "edge_half",
    "edge_local", "edge_phase", "edge_clear", "inner", "inner_half", "alpha", "alpha_odd", "alpha_phase",
    "alpha_clear", "cross", "cross_odd", "cross_half", "cross_phase", "cross_clear", "uncut", "less_cut",
    "centred", "divides", "content", "left_over", "one", "one_plain", "idle", "two", "many", "small",
    "whole", "square", "eights", "gap", "gap_clear", "gap_clean", "gap_contrast",
    "gap_margin", "gap_split", "gap_divides", "margin",
)  # fmt: skip
PAIR_FEATURES = (
    "x", "y", "least", "below_x", "below_y", "square_plain", "ratio", "double", "same_gap",
    "one_gap", "same_margin", "cells", "whole_axis", "far", "held", "alone", "unbroken", "isolated",
)  # fmt: skip


def axis_features(axis: AxisMeasure, steps: Sequence[Step]) -> np.ndarray:
    """What speaks for each step: float (steps, AXIS_FEATURES)."""
    known = _Axis(axis)
    return np.array([known.features(step) for step in steps]).reshape(-1, len(AXIS_FEATURES))


def spots_of(axis: AxisMeasure, step: Step) -> tuple[int, bool]:
    """How many cells a step has, and whether it is the whole axis."""
    count = max((axis.length - step.margin + step.gap) // (step.cell + step.gap), 1)
    whole = count == 1 and step.cell + step.margin + step.gap >= axis.length
    return count, whole or step.cell == axis.length


def _log_ratio(a: float, b: float) -> float:
    """How much larger a is than b, by its logarithm, -3..3; where b is small neither says much."""
    return min(max(math.log((a + 0.02 * b + 1e-9) / (b * 1.02 + 1e-9)), -3.0), 3.0)


def _bound(value: float, low: float, high: float) -> float:
    return min(max(float(value), low), high)


def _from_four(values: np.ndarray, else_: float) -> np.ndarray:
    """Values over distances, of which those below four px say nothing."""
    return np.concatenate((np.full(min(4, len(values)), else_), values[4:]))


def _mean(values: np.ndarray) -> float:
    """As `values.mean()`, of which most of the time would be spent before it begins."""
    return float(np.add.reduce(values)) / len(values)


def _deviation(values: np.ndarray) -> float:
    """As `values.std()`."""
    away = values - _mean(values)
    return math.sqrt(_mean(away * away))


class _Axis:
    """One axis, with what all its steps are compared to."""

    def __init__(self, axis: AxisMeasure) -> None:
        self.axis = axis
        inner = slice(1, -1)
        self.edge = _mean(axis.edge[inner]) + 1e-3 if axis.length > 1 else 1e-3
        self.inner = _mean(axis.inner[inner]) + 1e-3 if axis.length > 1 else 1e-3
        self.alpha = _mean(axis.alpha_edge[inner]) + 1e-4 if axis.length > 1 else 1e-4
        self.cross = _mean(axis.cross[inner]) + 1e-4 if axis.length > 1 else 1e-4
        edge = axis.edge
        self.local = np.zeros(axis.length + 1)
        self.local[inner] = (edge[inner] >= np.maximum(edge[:-2], edge[2:])) & (edge[inner] > 1.2 * self.edge)
        self.usual_local = _mean(self.local[inner]) if axis.length > 1 else 0.0
        far = max(int(axis.length * 0.6), 6)
        low, mask_low = axis.differ[4:far], axis.mask_differ[4:far]
        self.least = float(low.min()) if low.size else 1.0
        self.mask_least = float(mask_low.min()) if mask_low.size else 1.0
        self.before = {
            "differ": np.minimum.accumulate(_from_four(axis.differ, 1.0)),
            "mask": np.minimum.accumulate(_from_four(axis.mask_differ, 1.0)),
            "equal": np.maximum.accumulate(_from_four(axis.equal, 0.0)),
        }
        self.begin: np.ndarray = axis.parts[:, 0]
        self.end: np.ndarray = axis.parts[:, 1]
        self.weight: np.ndarray = axis.parts[:, 2]
        self.wide = self.end - self.begin
        self.total = float(self.weight.sum()) + 1e-6

    def features(self, step: Step) -> list[float]:
        axis, (cell, margin, gap) = self.axis, step
        pitch, length = cell + gap, axis.length
        count, whole = spots_of(axis, step)
        found: dict[str, float] = {}
        if not whole and pitch < length:
            self._again(found, pitch)
        if not whole and count > 1:
            self._lines(found, step, count)
            if pitch <= length // 2:
                self._phases(found, step)
        self._parts(found, step, whole)
        left = length - margin - (count * pitch - gap)
        covered = margin + count * pitch - gap
        span = axis.content[1] - axis.content[0]
        found["divides"] = float(left in (0, margin))
        found["content"] = float(span % pitch in (0, cell) or axis.content[1] == covered)
        found["left_over"] = -left / pitch if left > 0 else 0.0
        found["one_plain"] = float(count == 1 and not whole and not gap)
        found["one"], found["two"] = float(count == 1 and not whole), float(count == 2)
        found["many"], found["small"] = math.log(count), float(cell < 8)
        found["whole"], found["eights"] = float(whole), float(cell % 8 == 0)
        found["square"] = float(axis.across in (pitch, cell))
        found["margin"] = float(margin > 0 and not gap)
        if gap:
            self._gaps(found, step, count)
        return [found.get(name, 0.0) for name in AXIS_FEATURES]

    def _again(self, found: dict[str, float], pitch: int) -> None:
        """How the picture comes again at a distance, beside half, a third and double of it."""
        axis, length = self.axis, self.axis.length

        def at(values: np.ndarray, far: int, else_: float) -> float:
            return float(values[far]) if 1 <= far < length else else_

        for name, values in (("differ", axis.differ), ("mask", axis.mask_differ)):
            here = at(values, pitch, 1.0)
            near = (at(values, pitch - 1, 1.0) + at(values, pitch + 1, 1.0)) / 2
            next_ = (at(values, pitch - 2, 1.0) + at(values, pitch + 2, 1.0)) / 2
            found[name] = 1 - min(here, 1.5)
            found[f"{name}_peak"] = _bound(max(near, 0.9 * next_) - here, -0.5, 1)
            half, third = at(values, pitch // 2, 1.0) - here, at(values, pitch // 3, 1.0) - here
            found[f"{name}_half"] = 0.15 if pitch % 2 else _bound(half, -0.5, 1)
            found[f"{name}_third"] = 0.1 if pitch % 3 else _bound(third, -0.5, 1)
        here = at(axis.differ, pitch, 1.0)
        inside = 2 * pitch < 0.9 * length
        found["differ_double"] = _bound(here - at(axis.differ, 2 * pitch, 1.0), -0.5, 0.5) if inside else 0.0
        shorter = max(int(pitch * 0.95) - 1, 0)
        found["differ_first"] = _bound(self.before["differ"][shorter] - here, -0.5, 0.5)
        found["mask_first"] = _bound(
            self.before["mask"][shorter] - at(axis.mask_differ, pitch, 1.0), -0.5, 0.5
        )
        found["equal_first"] = _bound(at(axis.equal, pitch, 0.0) - self.before["equal"][shorter], -0.3, 0.4)
        found["mask_best"] = _bound(3 * (self.mask_least - at(axis.mask_differ, pitch, 1.0)), -1, 0) + 1
        found["differ_best"] = _bound(3 * (self.least - here), -1, 0) + 1
        equal = at(axis.equal, pitch, 0.0)
        near = (at(axis.equal, pitch - 1, 0.0) + at(axis.equal, pitch + 1, 0.0)) / 2
        next_ = (at(axis.equal, pitch - 2, 0.0) + at(axis.equal, pitch + 2, 0.0)) / 2
        found["equal"], found["equal_peak"] = equal, _bound(equal - max(near, next_), -0.3, 0.6)
        found["equal_double"] = _bound(at(axis.equal, 2 * pitch, 0.0) - equal, -0.3, 0.5) if inside else 0.0
        columns = at(axis.columns, pitch, 0.0)
        beside = max(at(axis.columns, pitch - 1, 0.0), at(axis.columns, pitch + 1, 0.0))
        found["columns"], found["columns_peak"] = columns, _bound(columns - beside, -0.3, 1)

    def _lines(self, found: dict[str, float], step: Step, count: int) -> None:
        """Edges and ink at the inner lines, beside everywhere and beside the middles of the cells."""
        axis, (cell, margin, gap) = self.axis, step
        pitch = cell + gap
        starts = slice(margin + pitch, margin + (count - 1) * pitch + 1, pitch)
        edge, inner, alpha, cross = (v[starts] for v in (axis.edge, axis.inner, axis.alpha_edge, axis.cross))
        if gap:
            ends = slice(margin + cell, margin + cell + (count - 2) * pitch + 1, pitch)
            edge, inner = (edge + axis.edge[ends]) / 2, (inner + axis.inner[ends]) / 2
            alpha = (alpha + axis.alpha_edge[ends]) / 2
            cross = np.minimum(cross, axis.cross[ends])
        found["edge"] = _log_ratio(_mean(edge), self.edge)
        found["inner"] = _log_ratio(_mean(inner), self.inner)
        found["alpha"] = _log_ratio(_mean(alpha), self.alpha)
        found["cross"] = -_log_ratio(_mean(cross), self.cross)
        shown = max(found["edge"], found["inner"], found["alpha"], found["cross"])
        found["idle"] = 1 - _bound(shown / 0.5, 0, 1)
        found["edge_local"] = _mean(self.local[starts]) - self.usual_local
        if count >= 4:
            odd, even = _mean(edge[::2]), _mean(edge[1::2])
            found["edge_odd"] = min(_log_ratio(odd + 0.01, even + 0.01), 0.3)
            odd, even = _mean(alpha[::2]), _mean(alpha[1::2])
            found["alpha_odd"] = min(_log_ratio(odd + 1e-4, even + 1e-4), 0.3)
            found["cross_odd"] = _bound(_mean(cross[1::2]) - _mean(cross[::2]), -1, 0.1)
        if count >= 6:
            third = _mean(edge[2::3])
            rest = (float(edge.sum()) - float(edge[2::3].sum())) / (len(edge) - len(edge[2::3]))
            found["edge_third"] = min(_log_ratio(rest + 0.01, third + 0.01), 0.3)
        if cell >= 8:
            middles = slice(margin + cell // 2, margin + cell // 2 + (count - 1) * pitch + 1, pitch)
            half, inner_half = _mean(axis.edge[middles]), _mean(axis.inner[middles])
            found["edge_half"] = _log_ratio(_mean(edge) + 1e-3, half + 1e-3)
            found["inner_half"] = _log_ratio(_mean(inner) + 1e-3, inner_half + 1e-3)
            found["cross_half"] = _bound(_mean(axis.cross[middles]) - _mean(cross), -1, 1)

    def _phases(self, found: dict[str, float], step: Step) -> None:
        """The lines beside all other places of the cell, laid on one another."""
        axis, (cell, margin, gap) = self.axis, step
        pitch = cell + gap
        count = axis.length // pitch

        def folded(values: np.ndarray) -> np.ndarray:
            return np.asarray(np.add.reduce(values[: count * pitch].reshape(count, pitch)) / count)

        lines = [margin % pitch, (margin + cell) % pitch] if gap else [margin % pitch]
        others = np.ones(pitch, bool)
        for line in lines:
            others[[(line - 1) % pitch, line, (line + 1) % pitch]] = False
        if gap:
            others[(margin + cell + np.arange(gap + 1)) % pitch] = False
        if not others.any():
            return
        edge, alpha, cross = folded(axis.edge), folded(axis.alpha_edge), folded(axis.cross)
        at = _mean(edge[lines]), _mean(alpha[lines]), _mean(cross[lines])
        found["edge_phase"] = _bound((edge[lines[0]] - _mean(edge)) / (_deviation(edge) + 1e-3) / 3, -1, 2)
        found["alpha_phase"] = _bound((at[1] - _mean(alpha)) / (_deviation(alpha) + 1e-4) / 3, -1, 2)
        found["cross_phase"] = _bound((_mean(cross) - at[2]) / (_deviation(cross) + 1e-3) / 3, -1, 2)
        found["edge_clear"] = _log_ratio(float(at[0]), float(edge[others].max()) + 1e-3)
        found["alpha_clear"] = _log_ratio(float(at[1]), float(alpha[others].max()) + 1e-4)
        found["cross_clear"] = _bound(cross[others].min() - at[2], -1, 0.3)

    def _parts(self, found: dict[str, float], step: Step, whole: bool) -> None:
        """Connected parts that the lines cut, beside as many as chance would, and those in the middle."""
        if not len(self.wide):
            return
        cell, margin, gap = step
        pitch = cell + gap
        chance = float((self.weight * np.minimum((self.wide - 1) / pitch, 1)).sum()) / self.total
        if whole:
            found["less_cut"] = _bound(chance, -1, 1)
            return
        place = self.end - 1 - margin
        cut = np.floor((self.begin - margin) / pitch) != np.floor(place / pitch)
        cut |= (place % pitch >= cell) & (self.wide > gap)
        share = float((self.weight * cut).sum()) / self.total
        found["uncut"], found["less_cut"] = -share, _bound(chance - share, -1, 1)
        fitting = (self.wide >= 0.3 * cell) & (self.wide <= 1.05 * cell)
        if fitting.any():
            middle = ((self.begin + self.end) / 2 - margin) % pitch / cell
            off = np.minimum(np.abs(middle[fitting] - 0.5), 0.5)
            found["centred"] = 0.25 - float(np.average(off, weights=self.weight[fitting]))

    def _gaps(self, found: dict[str, float], step: Step, count: int) -> None:
        """Whether the px of the gaps look like separators, and the px beside them do not; and whether they
        rather are room around what the cells hold: part of it before the first, or pitches all along."""
        axis, (cell, margin, gap) = self.axis, step
        pitch = cell + gap
        found["gap"] = 1.0
        found["gap_margin"] = 1.0 if margin == gap else 0.5 if margin == 0 else 0.0
        found["gap_split"] = float(0 < margin < gap)
        found["gap_divides"] = float(axis.length % pitch == 0)
        first = margin + cell
        stops = [slice(first + i, first + (count - 1) * pitch + i, pitch) for i in range(gap)]
        values = [axis.separator[s] for s in stops] if count > 1 else [axis.separator[:margin]]
        whole = [axis.clean[s] for s in stops] if count > 1 else [axis.clean[:margin]]
        inside, clean = np.concatenate(values), np.concatenate(whole)
        clear = _mean(inside) if inside.size else 0.0
        found["gap_clean"] = float((clean >= 0.97).mean()) if clean.size else 0.0
        last = min(margin + cell - 1, axis.length - 1)
        beside = np.concatenate((axis.separator[margin::pitch], axis.separator[last::pitch]))
        found["gap_clear"], found["gap_contrast"] = clear, clear - _mean(beside)


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

    whole = ink(left, top, right, bottom)
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
