"""Every grid along one axis that is worth a look: a missing one cannot be ranked."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.cut.measure import AxisMeasure
from rushweed.core.cut.spaced import Spaced

LEAST, MOST = 4, 1024  # px of a cell
MOST_GAP = 8
ACCEPTED = 0.55  # share of a separator's px that must be there: drawn lines stop where a sheet is empty
CONTRAST = 0.05  # by how much its columns must stand out from those beside them
FILLED = 0.85  # of an axis, at most, is art where a sheet was filled up to a round size
KEPT = 260  # steps that are looked at closely


class Step(NamedTuple):
    """A grid along one axis: cells of `cell` px, the first after `margin` px, `gap` px between them."""

    cell: int
    margin: int = 0
    gap: int = 0


def candidates(axis: AxisMeasure) -> list[Step]:
    """The steps to be ranked, the whole axis as one cell first; each once."""
    found = [Step(axis.length), *_framed(axis)]
    found += _plain(axis)
    first, span = axis.content[0], axis.content[1] - axis.content[0]
    if span < axis.length:
        # Bare room around one row belongs to its cells; much of it at the end fills a sheet up.
        least = 1 if first == 0 and span <= FILLED * axis.length else 2
        found += [Step(span // n, first) for n in range(least, 65) if span % n == 0 and span // n >= LEAST]
    for signal in axis.signals:
        found += _gapped(axis.length, signal)
    fits = (step for step in found if LEAST <= step.cell <= axis.length - step.margin)
    return list(dict.fromkeys(fits))


def _plain(axis: AxisMeasure) -> list[Step]:
    """Steps without gaps: all of them on a small axis, else the likelier ones by what is cheap to know."""
    length = axis.length
    cells = np.arange(LEAST, min(length // 2, MOST) + 1)
    if len(cells) > KEPT:
        lines = Spaced(cells, cells, (length - 1) // cells)
        at_lines = lines.mean(axis.edge[lines.places] - 8 * axis.cross[lines.places])
        usual = at_lines.std() + 1e-6
        worth = (at_lines - at_lines.mean()) / usual
        worth += 2 * (1 - axis.differ[cells]) + 2 * axis.equal[cells] + 2 * axis.columns[cells]
        worth += np.where(length % cells == 0, np.inf, 0.5 * (cells % 8 == 0))
        cells = np.sort(cells[np.argsort(-worth, kind="stable")[:KEPT]])
    return [Step(int(c)) for c in cells]


def _framed(axis: AxisMeasure) -> list[Step]:
    """The whole axis less a line drawn at both ends, or at one."""
    hot, length = axis.drawn, axis.length
    found = []
    for wide in range(1, 5):
        if length <= 2 * wide + LEAST:
            break
        first, last = bool(hot[:wide].all()), bool(hot[length - wide :].all())
        if first and last:
            found.append(Step(length - 2 * wide, wide, wide))
        if last and not hot[0]:
            found.append(Step(length - wide, 0, wide))
        if first and not hot[length - 1]:
            found.append(Step(length - wide, wide, wide))
    return found


def _gapped(length: int, signal: np.ndarray) -> list[Step]:
    """Steps whose gaps are where a separator's signal comes again, folded at every pitch."""
    folds = []
    for pitch in _pitches(length, signal):
        count = length // pitch
        fold = np.add.reduce(signal[: count * pitch].reshape(count, pitch))
        rest = length - count * pitch
        fold[:rest] += signal[count * pitch :]
        fold[:rest] /= count + 1
        fold[rest:] /= count
        if np.maximum.reduce(fold) >= ACCEPTED:
            folds.append(fold)
    return _runs(folds) if folds else []


def _pitches(length: int, signal: np.ndarray) -> list[int]:
    """The distances at which the signal comes again no less than at the distances beside them."""
    from scipy import fft

    size = fft.next_fast_len(2 * length, real=True)
    waves = fft.rfft(signal - signal.mean(), size)
    common = fft.irfft(np.abs(waves) ** 2, size)[:length] / np.maximum(length - np.arange(length), 1)
    pitches = np.arange(LEAST + 1, min(length - 1, MOST + MOST_GAP))
    slack = 1e-9 + 0.02 * abs(float(common[0]))
    keep = (common[pitches] >= common[pitches - 1] - slack) & (common[pitches] >= common[pitches + 1] - slack)
    return [int(p) for p in pitches[keep & (-(-length // pitches) >= 2)]]


def _runs(folds: list[np.ndarray]) -> list[Step]:
    """The gaps of folded signals, one of each pitch: runs that stand out from the columns on both sides, the
    clearest few of each pitch."""
    pitch = np.array([len(fold) for fold in folds])
    room = MOST_GAP + 1  # each fold goes on at both ends, as what it was folded from does
    around = np.concatenate([fold[np.arange(-room, len(fold) + room) % len(fold)] for fold in folds])
    row_of = np.repeat(np.arange(len(folds)), pitch + 2 * room)
    place = np.arange(len(around)) - (np.cumsum(pitch + 2 * room) - pitch - room)[row_of]
    mean = np.array([float(fold.mean()) for fold in folds])
    found: list[tuple[int, float, Step]] = []
    rises = np.flatnonzero((around[1:] - around[:-1] >= CONTRAST) & (around[1:] >= ACCEPTED)) + 1
    starts = rises[(place[rises] >= 0) & (place[rises] < pitch[row_of[rises]])]
    lowest = around[starts]
    for gap in range(1, MOST_GAP + 1):
        if gap > 1:
            lowest = np.minimum(lowest, around[starts + gap - 1])
        goes_on = (lowest >= ACCEPTED) & (gap <= pitch[row_of[starts]] - LEAST)
        starts, lowest = starts[goes_on], lowest[goes_on]
        stands = lowest - np.maximum(around[starts - 1], around[starts + gap])
        order = np.lexsort((starts, -stands, row_of[starts]))
        order = order[stands[order] >= CONTRAST]
        row = row_of[starts[order]]
        best = np.ones(len(row), bool)  # two of each pitch
        best[2:] = row[2:] != row[:-2]
        at, row = order[best], row[best]
        worth = stands[at] + 0.3 * (lowest[at] - mean[row])
        after = (place[starts[at]] + gap) % pitch[row]
        steps = zip((pitch[row] - gap).tolist(), after.tolist(), strict=True)
        found += [
            (r, -w, Step(cell, margin, gap))
            for r, w, (cell, margin) in zip(row.tolist(), worth.tolist(), steps, strict=True)
        ]
    found.sort()
    return [step for n, (r, _worth, step) in enumerate(found) if n < 3 or found[n - 3][0] != r]
