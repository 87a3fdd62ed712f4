"""What speaks for a grid along one axis, as numbers, for all its steps at once.

The model that weighs them is in weights.json (see ranking.py); names and order here are its own.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from rushweed.core.cut.candidates import Step
from rushweed.core.cut.measure import AxisMeasure
from rushweed.core.cut.spaced import Spaced

AXIS_FEATURES = (
    "differ", "differ_peak", "differ_half", "differ_third", "differ_double", "differ_best", "equal",
    "equal_peak", "equal_double", "columns", "columns_peak", "mask", "mask_peak", "mask_half", "mask_third",
    "mask_best", "mask_first", "differ_first", "equal_first", "edge", "edge_odd", "edge_third", "edge_half",
    "edge_local", "edge_phase", "edge_clear", "inner", "inner_half", "alpha", "alpha_odd", "alpha_phase",
    "alpha_clear", "cross", "cross_odd", "cross_half", "cross_phase", "cross_clear", "uncut", "less_cut",
    "centred", "divides", "content", "left_over", "one", "one_plain", "idle", "two", "many", "small",
    "whole", "square", "eights", "gap", "gap_clear", "gap_clean", "gap_contrast",
    "gap_margin", "gap_split", "gap_divides", "gap_drawn", "margin",
)  # fmt: skip
PARTS_AT_ONCE = 200_000  # parts times steps that are compared in one go, which bounds the memory


def spots_of(axis: AxisMeasure, step: Step) -> tuple[int, bool]:
    """How many cells a step has, and whether it is the whole axis."""
    count = max((axis.length - step.margin + step.gap) // (step.cell + step.gap), 1)
    whole = count == 1 and step.cell + step.margin + step.gap >= axis.length
    return count, whole or step.cell == axis.length


def axis_features(axis: AxisMeasure, steps: Sequence[Step]) -> np.ndarray:
    """What speaks for each step: float (steps, AXIS_FEATURES)."""
    found = _Steps(axis, steps).features()
    return np.column_stack([found[name] for name in AXIS_FEATURES])


def _log_ratio(a: np.ndarray, b: np.ndarray | float) -> np.ndarray:
    """How much larger a is than b, by its logarithm, -3..3; where b is small neither says much."""
    return np.clip(np.log((a + 0.02 * b + 1e-9) / (b * 1.02 + 1e-9)), -3.0, 3.0)


def _from_four(values: np.ndarray, else_: float) -> np.ndarray:
    """Values over distances, of which those below four px say nothing."""
    return np.concatenate((np.full(min(4, len(values)), else_), values[4:]))


class _Steps:
    """All steps of an axis; features are added to `found`, float (steps,) each, 0 where one says nothing."""

    def __init__(self, axis: AxisMeasure, steps: Sequence[Step]) -> None:
        self.axis = axis
        self.cell, self.margin, self.gap = np.array(steps, np.int64).reshape(-1, 3).T
        self.pitch = self.cell + self.gap
        self.count = np.maximum((axis.length - self.margin + self.gap) // self.pitch, 1)
        filled = (self.count == 1) & (self.cell + self.margin + self.gap >= axis.length)
        self.whole = filled | (self.cell == axis.length)
        self.found = {name: np.zeros(len(steps)) for name in AXIS_FEATURES}

    def features(self) -> dict[str, np.ndarray]:
        self._shape()
        self._again(np.flatnonzero(~self.whole & (self.pitch < self.axis.length)))
        self._lines(np.flatnonzero(~self.whole & (self.count > 1)))
        folded = ~self.whole & (self.count > 1) & (self.pitch <= self.axis.length // 2)
        self._phases(np.flatnonzero(folded))
        # Of parts that begin and end alike only how much they weigh together counts.
        spans, of = np.unique(self.axis.parts[:, :2], axis=0, return_inverse=True)
        if len(spans):
            parts = np.column_stack((spans, np.bincount(of.ravel(), self.axis.parts[:, 2])))
            at_once = max(PARTS_AT_ONCE // len(parts), 1)
            for n in range(0, len(self.cell), at_once):
                self._parts(np.arange(n, min(n + at_once, len(self.cell))), parts)
        self._gaps(np.flatnonzero(self.gap > 0))
        return self.found

    def _shape(self) -> None:
        """What follows from the numbers alone."""
        found, axis = self.found, self.axis
        covered = self.margin + self.count * self.pitch - self.gap
        left = axis.length - covered
        span = axis.content[1] - axis.content[0]
        found["divides"][:] = (left == 0) | (left == self.margin)
        fills = (span % self.pitch == 0) | (span % self.pitch == self.cell)
        found["content"][:] = fills | (axis.content[1] == covered)
        found["left_over"][:] = np.where(left > 0, -left / self.pitch, 0.0)
        one = (self.count == 1) & ~self.whole
        found["one"][:], found["one_plain"][:] = one, one & (self.gap == 0)
        found["two"][:], found["many"][:] = self.count == 2, np.log(self.count)
        found["small"][:], found["eights"][:] = self.cell < 8, self.cell % 8 == 0
        found["whole"][:] = self.whole
        found["square"][:] = (axis.across == self.pitch) | (axis.across == self.cell)
        found["margin"][:] = (self.margin > 0) & (self.gap == 0)

    def _again(self, which: np.ndarray) -> None:
        """How the picture comes again at a distance, beside half, a third and double of it."""
        axis, length, found = self.axis, self.axis.length, self.found
        pitch = self.pitch[which]

        def at(values: np.ndarray, far: np.ndarray, else_: float) -> np.ndarray:
            inside = (far >= 1) & (far < length)
            return np.asarray(np.where(inside, values[np.where(inside, far, 0)], else_))

        def beside(values: np.ndarray, far: int, else_: float) -> np.ndarray:
            return np.asarray((at(values, pitch - far, else_) + at(values, pitch + far, else_)) / 2)

        def least(values: np.ndarray) -> float:
            inside = values[4 : max(int(length * 0.6), 6)]
            return float(inside.min()) if inside.size else 1.0

        inside, shorter = 2 * pitch < 0.9 * length, np.maximum((pitch * 0.95).astype(np.int64) - 1, 0)
        for name, values in (("differ", axis.differ), ("mask", axis.mask_differ)):
            here = at(values, pitch, 1.0)
            found[name][which] = 1 - np.minimum(here, 1.5)
            peak = np.maximum(beside(values, 1, 1.0), 0.9 * beside(values, 2, 1.0)) - here
            found[f"{name}_peak"][which] = np.clip(peak, -0.5, 1)
            for word, by, usual in (("half", 2, 0.15), ("third", 3, 0.1)):
                part = np.clip(at(values, pitch // by, 1.0) - here, -0.5, 1)
                found[f"{name}_{word}"][which] = np.where(pitch % by, usual, part)
            before = np.minimum.accumulate(_from_four(values, 1.0))[shorter]
            found[f"{name}_first"][which] = np.clip(before - here, -0.5, 0.5)
            found[f"{name}_best"][which] = np.clip(3 * (least(values) - here), -1, 0) + 1
        here = at(axis.differ, pitch, 1.0)
        double = np.clip(here - at(axis.differ, 2 * pitch, 1.0), -0.5, 0.5)
        found["differ_double"][which] = np.where(inside, double, 0.0)
        equal = at(axis.equal, pitch, 0.0)
        before = np.maximum.accumulate(_from_four(axis.equal, 0.0))[shorter]
        found["equal"][which], found["equal_first"][which] = equal, np.clip(equal - before, -0.3, 0.4)
        near = np.maximum(beside(axis.equal, 1, 0.0), beside(axis.equal, 2, 0.0))
        found["equal_peak"][which] = np.clip(equal - near, -0.3, 0.6)
        double = np.clip(at(axis.equal, 2 * pitch, 0.0) - equal, -0.3, 0.5)
        found["equal_double"][which] = np.where(inside, double, 0.0)
        columns = at(axis.columns, pitch, 0.0)
        near = np.maximum(at(axis.columns, pitch - 1, 0.0), at(axis.columns, pitch + 1, 0.0))
        found["columns"][which], found["columns_peak"][which] = columns, np.clip(columns - near, -0.3, 1)

    def _lines(self, which: np.ndarray) -> None:
        """Edges and ink at the inner lines, beside everywhere and beside the middles of the cells."""
        if not len(which):
            return
        axis, found = self.axis, self.found
        margin, pitch, count, cell = (v[which] for v in (self.margin, self.pitch, self.count, self.cell))
        lines = Spaced(margin + pitch, pitch, count - 1)
        starts, ends = lines.places, lines.places - self.gap[which][lines.of]  # the same without gaps
        signals = {"edge": axis.edge, "inner": axis.inner, "alpha": axis.alpha_edge}
        at = {name: (signal[starts] + signal[ends]) / 2 for name, signal in signals.items()}
        at["cross"] = np.minimum(axis.cross[starts], axis.cross[ends])
        inner = slice(1, -1)
        usual = {name: float(signal[inner].mean()) for name, signal in signals.items()}
        usual["edge"], usual["inner"] = usual["edge"] + 1e-3, usual["inner"] + 1e-3
        usual["alpha"], usual["cross"] = usual["alpha"] + 1e-4, float(axis.cross[inner].mean()) + 1e-4
        mean = {name: lines.mean(values) for name, values in at.items()}
        shown = np.full(len(which), -np.inf)
        for name in at:
            ratio = _log_ratio(mean[name], usual[name])
            found[name][which] = -ratio if name == "cross" else ratio
            shown = np.maximum(shown, found[name][which])
        found["idle"][which] = 1 - np.clip(shown / 0.5, 0, 1)
        local = np.zeros(axis.length + 1)
        edge = axis.edge
        local[inner] = (edge[inner] >= np.maximum(edge[:-2], edge[2:])) & (edge[inner] > 1.2 * usual["edge"])
        found["edge_local"][which] = lines.mean(local[starts]) - float(local[inner].mean())
        odd, even = lines.turn % 2 == 0, lines.turn % 2 == 1
        for name, least in (("edge", 0.01), ("alpha", 1e-4)):
            ratio = _log_ratio(lines.mean(at[name], odd) + least, lines.mean(at[name], even) + least)
            found[f"{name}_odd"][which] = np.where(count >= 4, np.minimum(ratio, 0.3), 0.0)
        off = np.clip(lines.mean(at["cross"], even) - lines.mean(at["cross"], odd), -1, 0.1)
        found["cross_odd"][which] = np.where(count >= 4, off, 0.0)
        third = lines.turn % 3 == 2
        ratio = _log_ratio(lines.mean(at["edge"], ~third) + 0.01, lines.mean(at["edge"], third) + 0.01)
        found["edge_third"][which] = np.where(count >= 6, np.minimum(ratio, 0.3), 0.0)
        wide = cell >= 8
        middles = Spaced(margin + cell // 2, pitch, count)
        for name in ("edge", "inner"):
            half = middles.mean(signals[name][middles.places])
            ratio = _log_ratio(mean[name] + 1e-3, half + 1e-3)
            found[f"{name}_half"][which] = np.where(wide, ratio, 0.0)
        off = np.clip(middles.mean(axis.cross[middles.places]) - mean["cross"], -1, 1)
        found["cross_half"][which] = np.where(wide, off, 0.0)

    def _phases(self, which: np.ndarray) -> None:
        """The lines beside all other places of the cell, laid on one another."""
        axis = self.axis
        signals = np.stack((axis.edge, axis.alpha_edge, axis.cross))
        order = which[np.argsort(self.pitch[which], kind="stable")]
        pitches, first, counts = np.unique(self.pitch[order], return_index=True, return_counts=True)
        known = np.zeros((3, 5, len(order)))  # at the first line, at the lines, mean, deviation, elsewhere
        used = np.zeros(len(order), bool)
        for pitch, begin, end in zip(pitches.tolist(), first, first + counts, strict=True):
            count = axis.length // pitch
            fold = signals[:, : count * pitch].reshape(3, count, pitch).sum(axis=1) / count
            known[:, 2, begin:end], known[:, 3, begin:end] = (
                fold.mean(axis=1)[:, None],
                fold.std(axis=1)[:, None],
            )
            twice = np.concatenate((fold, fold), axis=1)
            for n in range(begin, end):
                gap, margin = int(self.gap[order[n]]), int(self.margin[order[n]])
                others = pitch - gap - 3
                if others < 1:
                    continue
                used[n] = True
                here, there = margin % pitch, (margin - gap) % pitch
                known[:, 0, n] = fold[:, here]
                known[:, 1, n] = (fold[:, here] + fold[:, there]) / 2
                start = (margin + 2) % pitch
                rest = twice[:, start : start + others]
                known[:2, 4, n], known[2, 4, n] = rest[:2].max(axis=1), rest[2].min()
        order, (edge, alpha, cross) = order[used], known[:, :, used]
        found = self.found
        found["edge_phase"][order] = np.clip((edge[0] - edge[2]) / (edge[3] + 1e-3) / 3, -1, 2)
        found["alpha_phase"][order] = np.clip((alpha[1] - alpha[2]) / (alpha[3] + 1e-4) / 3, -1, 2)
        found["cross_phase"][order] = np.clip((cross[2] - cross[1]) / (cross[3] + 1e-3) / 3, -1, 2)
        found["edge_clear"][order] = _log_ratio(edge[1], edge[4] + 1e-3)
        found["alpha_clear"][order] = _log_ratio(alpha[1], alpha[4] + 1e-4)
        found["cross_clear"][order] = np.clip(cross[4] - cross[1], -1, 0.3)

    def _parts(self, which: np.ndarray, parts: np.ndarray) -> None:
        """Connected parts that the lines cut, beside as many as chance would, and those in the middle. parts:
        where they begin and end, and how much they weigh, float (n, 3)."""
        begin, end, weight = parts.T
        wide, total = end - begin, float(weight.sum()) + 1e-6
        cell, margin, gap, pitch = (v[which, None] for v in (self.cell, self.margin, self.gap, self.pitch))
        whole, found = self.whole[which], self.found
        chance = np.minimum((wide - 1) / pitch, 1) @ weight / total
        last = end - 1 - margin
        turn = np.floor(last / pitch)
        cut = np.floor((begin - margin) / pitch) != turn
        cut |= (last - turn * pitch >= cell) & (wide > gap)
        share = np.where(whole, 0.0, cut @ weight / total)
        found["uncut"][which], found["less_cut"][which] = -share, np.clip(chance - share, -1, 1)
        fitting = ((wide >= 0.3 * cell) & (wide <= 1.05 * cell)) * weight
        middle = (begin + end) / 2 - margin
        middle -= np.floor(middle / pitch) * pitch
        off = (np.minimum(np.abs(middle / cell - 0.5), 0.5) * fitting).sum(axis=1)
        of = fitting.sum(axis=1)
        found["centred"][which] = np.where((of > 0) & ~whole, 0.25 - off / np.maximum(of, 1e-9), 0.0)

    def _gaps(self, which: np.ndarray) -> None:
        """Whether the px of the gaps look like separators, and the px beside them do not; whether they are
        the lines that are drawn, all of them; and whether they rather are room around what the cells hold:
        part of it before the first, or pitches all along."""
        axis, found, length = self.axis, self.found, self.axis.length
        cell, margin, gap = self.cell[which], self.margin[which], self.gap[which]
        pitch, count = self.pitch[which], self.count[which]
        found["gap"][which] = 1.0
        found["gap_margin"][which] = np.where(margin == gap, 1.0, np.where(margin == 0, 0.5, 0.0))
        found["gap_split"][which] = (margin > 0) & (margin < gap)
        found["gap_divides"][which] = length % pitch == 0
        lone = count == 1  # then the margin is all that can be seen of them
        px = Spaced(np.zeros_like(gap), np.ones_like(gap), np.where(lone, margin, gap * (count - 1)))
        within, turn = gap[px.of], px.turn
        places = (margin + cell)[px.of] + turn // within * pitch[px.of] + turn % within
        places = np.where(lone[px.of], turn, places)
        clear = px.mean(axis.separator[places])
        found["gap_clear"][which] = clear
        found["gap_clean"][which] = px.mean((axis.clean[places] >= 0.97).astype(float))
        lines = axis.drawn.sum()
        if lines:
            up_to = np.concatenate(([0], np.cumsum(axis.drawn)))
            end = np.minimum(margin + count * pitch - gap, length)
            outside = (
                up_to[np.where(margin <= gap, margin, 0)] + up_to[np.minimum(end + gap, length)] - up_to[end]
            )
            drawn = px.mean(axis.drawn[places].astype(float))
            found["gap_drawn"][which] = drawn * (np.where(lone, 0, drawn * px.count) + outside) / lines
        last = np.minimum(margin + cell - 1, length - 1)
        sums, counts = np.zeros(len(which)), np.zeros(len(which))
        for first in (margin, last):
            beside = Spaced(first, pitch, -(-(length - first) // pitch))
            sums += beside.mean(axis.separator[beside.places]) * beside.count
            counts += beside.count
        found["gap_contrast"][which] = clear - sums / np.maximum(counts, 1)
