"""Proposes grids from the pixels alone, each with its evidence in plain words.

Method (our own): along each axis every place between two px is measured three ways: how much ink runs
across it, how strongly the colours change there, and whether the columns beside it are of one colour
(a gutter). A grid is good if its lines run where little ink crosses (sheets with gaps) or where colours
change more than elsewhere (tiles without gaps), and if its half would not do as well.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.cut.grid import Grid, cut_through, grid_of, occupied
from rushweed.core.document.model import GridCut

LEAST, MOST = 4, 512  # px a side of a cell
GUTTERS = range(9)
SAMPLE = 256  # rows or columns read for colour changes
REPEATED = 128  # rows read for colours that come again
MOSTLY = 0.5  # share of ink above which repeats of colours are worth reading
UNSURE = 0.45  # a score below it is said to be a guess
LOOKED_AT = 8  # pairs of steps whose cells are looked into


class Proposal(NamedTuple):
    """A grid with how well it fits, 0..1, how many of its cells hold ink, and why."""

    cell: tuple[int, int]
    margin: tuple[int, int]
    spacing: tuple[int, int]
    columns: int
    rows: int
    score: float
    held: int
    evidence: str

    def cut(self) -> GridCut:
        return GridCut(self.cell, self.margin, self.spacing)

    def words(self) -> str:
        """Such as "16 × 16, spacing 1"."""
        text = f"{self.cell[0]} × {self.cell[1]}"
        if any(self.spacing):
            text += f", spacing {_pair(self.spacing)}"
        elif any(self.margin):
            text += f", margin {_pair(self.margin)}"
        return text


class Proposals(NamedTuple):
    """Grids, best first; `background` is the colour taken for nothing, if the sheet has no alpha."""

    grids: list[Proposal]
    background: tuple[int, int, int] | None


class _Step(NamedTuple):
    """A grid along one axis."""

    cell: int
    margin: int
    gap: int
    number: int
    score: float


class _Axis(NamedTuple):
    """What is measured along one axis; index b stands for the place between px b - 1 and b."""

    length: int
    cross: np.ndarray
    energy: np.ndarray
    clear: np.ndarray  # px columns without ink, or all of the separator's colour
    before: np.ndarray  # how many of the columns before each are clear
    again: np.ndarray  # how much more often than usual a colour comes again so many px on, 0..1
    opaque: bool


def _pair(pair: tuple[int, int]) -> str:
    return str(pair[0]) if pair[0] == pair[1] else f"{pair[0]}, {pair[1]}"


def background_of(rgba: np.ndarray) -> tuple[int, int, int] | None:
    """The one colour that fills most of the border of an opaque picture, or None."""
    border = np.concatenate((rgba[0], rgba[-1], rgba[:, 0], rgba[:, -1]))
    colours, counts = np.unique(border[:, :3], axis=0, return_counts=True)
    best = int(counts.argmax())
    if counts[best] < 0.7 * len(border):
        return None
    r, g, b = colours[best].tolist()
    return r, g, b


def ink_of(rgba: np.ndarray) -> tuple[np.ndarray, tuple[int, int, int] | None, bool]:
    """Where the art is (bool), the colour taken for nothing, and whether the sheet is opaque all over."""
    mask = rgba[..., 3] >= 8
    share = mask.mean()
    if share < 0.995:
        return mask, None, False
    colour = background_of(rgba)
    if colour is not None:
        keyed = (rgba[..., :3] != np.array(colour, np.uint8)).any(axis=-1)
        if 0.01 < keyed.mean() < 0.97:
            return keyed, colour, False
    return mask, None, True


def propose(rgba: np.ndarray, most: int = 5) -> Proposals:
    """Grids for a sheet, uint8 (height, width, 4), best first; none if nothing stands out."""
    mask, colour, opaque = ink_of(rgba)
    size = (rgba.shape[1], rgba.shape[0])
    steps = []
    for axis in (0, 1):
        measured = _measure(rgba, mask, axis, opaque)
        steps.append(_steps(measured))
    pairs = [(_fit(x, y), x, y) for x in steps[0] for y in steps[1]]
    pairs.sort(key=lambda pair: -pair[0])
    looked_at = (_judge(mask, x, y, opaque, size) for _score, x, y in pairs[:LOOKED_AT])
    found = [proposal for proposal in looked_at if proposal is not None]
    found.sort(key=lambda p: -p.score)
    kept: list[Proposal] = []
    for proposal in found:
        if all(proposal.cell != other.cell for other in kept):
            kept.append(proposal)
    return Proposals(kept[:most], colour)


def _measure(rgba: np.ndarray, mask: np.ndarray, axis: int, opaque: bool) -> _Axis:
    """Cross, energy and clear along x (axis 0) or y (axis 1)."""
    lines = mask if axis == 0 else mask.T
    colours = rgba[..., :3] if axis == 0 else rgba[..., :3].transpose(1, 0, 2)
    length = lines.shape[1]
    cross = np.zeros(length + 1)
    stride = max(lines.shape[0] // SAMPLE, 1)
    if axis == 0:
        cross[1:-1] = _column_counts(mask[:, 1:] & mask[:, :-1])
        held = _column_counts(mask)
    else:
        cross[1:-1] = np.count_nonzero(mask[1:] & mask[:-1], axis=1)
        held = np.count_nonzero(mask, axis=1)
    part = colours[::stride].astype(np.int16)
    energy = np.zeros(length + 1)
    step = np.abs(np.diff(part, axis=1)).max(axis=2)
    if not opaque:
        seen = lines[::stride]
        step = step * (seen[:, 1:] & seen[:, :-1])
    energy[1:-1] = np.minimum(step, 96).mean(axis=0)
    clear = held < 0.2 * max(float(held.mean()), 1)
    if opaque:
        spread = part.max(axis=0).astype(int) - part.min(axis=0)
        clear = spread.max(axis=1) <= 6
    full = opaque or lines.mean() > MOSTLY
    again = _again(colours[:: max(lines.shape[0] // REPEATED, 1)]) if full else np.zeros(1)
    before = np.concatenate(([0], np.cumsum(clear)))
    return _Axis(length, cross, energy, clear, before, again, opaque)


def _again(colours: np.ndarray) -> np.ndarray:
    """For each distance in px, how much more often than at its neighbours a colour comes again there.

    Tiles drawn from one texture show themselves so even where no edge can be seen between them.
    colours: uint8 (rows, length, 3). Returns float (distances,), 0..1.
    """
    codes = colours.astype(np.uint32) @ np.array([65536, 256, 1], np.uint32)
    most = min(codes.shape[1] // 2, 136)
    share = np.zeros(most + 1)
    for far in range(2, most + 1):
        share[far] = np.count_nonzero(codes[:, far:] == codes[:, :-far]) / codes[:, far:].size
    peak = np.zeros(most + 1)
    for far in range(LEAST, most - 1):
        usual = max(share[far - 2], share[far + 2], share[far - 1], share[far + 1])
        peak[far] = max((share[far] - usual) / max(1 - usual, 0.05), 0)
    return peak


def _column_counts(mask: np.ndarray) -> np.ndarray:
    """How many are set in each column of a bool array: added up in bytes, 255 rows at a time."""
    total = np.zeros(mask.shape[1], np.int64)
    data = mask.view(np.uint8)
    for start in range(0, mask.shape[0], 255):
        total += data[start : start + 255].sum(axis=0, dtype=np.uint8)
    return total


def _steps(axis: _Axis, most: int = 10) -> list[_Step]:
    """The best steps along one axis, and the whole axis as one cell: the likelier, the less a step fits."""
    found: list[_Step] = []
    for cell in range(LEAST, min(axis.length // 2, MOST) + 1):
        best = max((s for s in _with_gutters(axis, cell)), key=lambda s: s.score, default=None)
        if best is not None and best.score > 0.15:
            found.append(best)
    found = _prefer_finest(found)
    found.sort(key=lambda s: -s.score)
    likely = found[0].score if found else 0.0
    return [*found[:most], _Step(axis.length, 0, 0, 1, max(0.25, 0.95 - 0.9 * likely))]


def _with_gutters(axis: _Axis, cell: int) -> list[_Step]:
    steps = []
    for gap in GUTTERS:
        if gap and gap > cell // 2:
            break
        for margin in {0, gap} if gap else range(1):
            count = (axis.length - margin + gap) // (cell + gap)
            if count < 2 or gap and not axis.clear[margin + cell]:
                continue
            score = _gap_score(axis, cell, margin, gap, count) if gap else _line_score(axis, cell, count)
            left = axis.length - margin - count * (cell + gap) + gap
            score -= 0.25 * (left - margin > 0) * min(left / (cell + gap) + 0.3, 1)
            steps.append(_Step(cell, margin, gap, count, score))
    return steps


def _line_score(axis: _Axis, cell: int, count: int) -> float:
    """How well lines without gutters fit: little ink across, or a strong change of colour."""
    lines = np.arange(1, count) * cell
    trust = min(1.0, 0.55 + 0.15 * len(lines))
    again = min(2.2 * float(axis.again[cell]), 0.95) if cell < len(axis.again) else 0.0
    if axis.opaque:
        return max(_contrast(axis.energy, lines), again) * trust
    usual = float(axis.cross[1:-1].mean())
    if usual <= 0:
        return 0.0
    clean = 1 - min(float(axis.cross[lines].mean()) / usual, 1.0)
    change = 0.9 * _contrast(axis.energy, lines) if clean < 0.9 else 0.0
    return max(clean, change, again) * trust


def _contrast(energy: np.ndarray, lines: np.ndarray) -> float:
    """0 where colours change at the lines as everywhere, towards 1 where they change far more."""
    mean = float(energy[1:-1].mean())
    at = energy[lines]
    if mean <= 0:
        return 0.0
    ratio = float(np.median(at)) * 0.5 + float(at.mean()) * 0.5
    ratio /= mean
    return max(0.0, 1 - 1 / ratio) if ratio > 0 else 0.0


def _gap_score(axis: _Axis, cell: int, margin: int, gap: int, count: int) -> float:
    """How well gutters fit: their px are clear all along, the px beside them are not."""
    starts = margin + cell + np.arange(count - 1) * (cell + gap)
    held = float((axis.before[starts + gap] - axis.before[starts]).sum()) / (gap * (count - 1))
    if held < 0.9:
        return 0.0
    after = np.minimum(starts + gap, axis.length - 1)
    beside = int(axis.clear[starts - 1].sum()) + int(axis.clear[after].sum())
    touching = 1 - beside / (2 * (count - 1))
    if touching < 0.35:
        return 0.0
    edge = 1.0 if margin == 0 or axis.clear[:margin].all() else 0.6
    return held * (0.45 + 0.55 * touching) * edge * min(1.0, 0.6 + 0.15 * (count - 1))


def _prefer_finest(steps: list[_Step]) -> list[_Step]:
    """A step twice or three times another that fits about as well says less: the finer one goes first."""
    by_pitch = {(s.cell + s.gap, s.gap): s for s in steps}
    result = []
    for step in steps:
        pitch = step.cell + step.gap
        parts = [(pitch // k, step.gap) for k in range(2, 9) if pitch % k == 0]
        finer = any(p in by_pitch and by_pitch[p].score >= 0.86 * step.score for p in parts)
        result.append(step._replace(score=step.score * 0.8) if finer else step)
    return result


def _fit(x: _Step, y: _Step) -> float:
    """How well two steps fit together, before looking into the cells."""
    score = float(np.sqrt(max(x.score, 0.01) * max(y.score, 0.01)))
    ratio = max(x.cell, y.cell) / min(x.cell, y.cell)
    score *= 1.0 if ratio == 1 else 0.93 if ratio <= 2 else 0.8 if ratio <= 4 else 0.5
    if x.gap != y.gap and x.number > 1 and y.number > 1:
        score *= 0.85
    return score * (1.0 if x.cell % 8 == 0 and y.cell % 8 == 0 else 0.95)


def _judge(mask: np.ndarray, x: _Step, y: _Step, opaque: bool, size: tuple[int, int]) -> Proposal | None:
    """Both axes together: what the cells hold, what is left over, and the words for it."""
    if x.number == 1 and y.number == 1:
        return None
    if bool(x.gap) != bool(y.gap) and x.number > 1 and y.number > 1:
        return None
    cut = GridCut((x.cell, y.cell), (x.margin, y.margin), (x.gap, y.gap))
    grid = grid_of(cut, size)
    score = _fit(x, y)
    held = occupied(mask, grid)
    score *= 0.55 + 0.45 * float(held.mean())
    through = 0 if opaque else int(cut_through(mask, grid).sum())
    score *= 1 - 0.1 * through / max(int(held.sum()), 1)
    over = grid.left_over
    return Proposal(
        grid.cell,
        grid.margin,
        grid.spacing,
        grid.columns,
        grid.rows,
        round(min(score, 1.0), 3),
        int(held.sum()),
        _evidence(grid, through, over, opaque, score),
    )


def _evidence(grid: Grid, through: int, over: tuple[int, int], opaque: bool, score: float) -> str:
    parts = ["unsure"] if score < UNSURE else []
    if opaque:
        parts.append("an edge at its lines")
    elif through == 0:
        parts.append("no line cut")
    else:
        parts.append(f"{through} {'cell cuts' if through == 1 else 'cells cut'} art")
    if any(over):
        parts.append(f"{max(over)} px left over")
    return ", ".join(parts)
