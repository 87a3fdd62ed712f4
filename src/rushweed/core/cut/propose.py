"""Proposes grids from the pixels alone, each with its chance and its evidence in plain words.

Method (our own): along each axis every step that is worth a look is described by what speaks for it
(axis_features.py), and ranked by one small model, shared by both axes; the best steps of both are paired, and
the pairs ranked by another that also looks into their cells (pair_features.py). The models were trained on
real sheets and made-up ones (bench/train.py).
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np

from rushweed.core.cut.axis_features import AXIS_FEATURES, axis_features, spots_of
from rushweed.core.cut.candidates import Step, candidates
from rushweed.core.cut.grid import MOST_CELLS, Grid, cut_through, grid_of, ink_sums, occupied_by_sums
from rushweed.core.cut.measure import AxisMeasure, connected_parts, measure
from rushweed.core.cut.pair_features import PAIR_FEATURES, pair_features
from rushweed.core.document.model.cut import GridCut
from rushweed.core.pixels.key import likely_key
from rushweed.core.pixels.markers import marker_rows
from rushweed.core.ranking import chances, model

STEPS = 40  # of each axis that are paired
PAIRS = 60  # that are looked into
CLEAR = 0.005  # share of clear px from which a picture has transparency of its own
SURE, UNSURE = 0.98, 0.6  # chances from which a grid is said to be sure, and below which to be a guess
GRID_FEATURES = (*PAIR_FEATURES, *AXIS_FEATURES)


class Proposal(NamedTuple):
    """A grid with the chance that its cell is right, how many of its cells hold ink, and why. `features` are
    what the last model weighed."""

    cell: tuple[int, int]
    margin: tuple[int, int]
    spacing: tuple[int, int]
    columns: int
    rows: int
    score: float
    held: int
    evidence: str
    features: tuple[float, ...] = ()

    def cut(self) -> GridCut:
        """The proposal as a cut that a sheet can be given."""
        return GridCut(self.cell, self.margin, self.spacing)

    @property
    def named_features(self) -> dict[str, float]:
        """What the ranking weighed, by name."""
        return dict(zip(GRID_FEATURES, self.features, strict=False))

    def words(self) -> str:
        """Such as "16 × 16, spacing 1"."""
        text = f"{self.cell[0]} × {self.cell[1]}"
        if any(self.spacing):
            text += f", spacing {_pair(self.spacing)}"
        elif any(self.margin):
            text += f", margin {_pair(self.margin)}"
        return text


class Proposals(NamedTuple):
    """Grids, best first; `background` is the colour taken for nothing, if the sheet has no alpha. `strength`
    is the score of the best before it is set in proportion to the others."""

    grids: list[Proposal]
    background: tuple[int, int, int] | None
    strength: float = 0.0


class Examined(NamedTuple):
    """What a sheet shows: where art is, the colour taken for nothing, whether nothing is known to be clear,
    its connected parts (see `connected_parts`) and what was measured along both axes."""

    mask: np.ndarray
    background: tuple[int, int, int] | None
    opaque: bool
    parts: np.ndarray
    axes: tuple[AxisMeasure, AxisMeasure]


def _pair(pair: tuple[int, int]) -> str:
    return str(pair[0]) if pair[0] == pair[1] else f"{pair[0]}, {pair[1]}"


def ink_of(rgba: np.ndarray) -> tuple[np.ndarray, tuple[int, int, int] | None, bool]:
    """Where the art is (bool), the colour taken for nothing, and whether nothing is known to be clear.

    Rows of marks at the edge are no art. The one answer that grids, pieces and the key colour share.
    """
    mask = rgba[..., 3] >= 8
    background = None
    opaque = bool(1 - np.count_nonzero(mask) / mask.size <= CLEAR)
    if opaque:
        key = likely_key(rgba)
        if key is not None:
            away = np.abs(rgba[..., :3].astype(np.int16) - np.array(key.colour, np.int16)).max(axis=-1)
            keyed = away > key.tolerance
            if 0.005 < keyed.mean() < 0.99:
                mask, background, opaque = keyed, key.colour, False
    above, below = marker_rows(rgba)
    if above or below:
        mask[:above] = False
        mask[mask.shape[0] - below :] = False
    return mask, background, opaque


def examine(rgba: np.ndarray) -> Examined:
    """Look at a sheet, uint8 (height, width, 4), in all the ways that proposals need."""
    mask, background, opaque = ink_of(rgba)
    parts = np.zeros((0, 5)) if opaque else connected_parts(mask)
    keyed = background is not None
    with ThreadPoolExecutor(2) as pool:
        axes = tuple(pool.map(lambda axis: measure(rgba, mask, parts, axis, opaque, keyed), (0, 1)))
    return Examined(mask, background, opaque, parts, axes)  # type: ignore[arg-type]


def propose(rgba: np.ndarray, most: int = 5, seen: Examined | None = None) -> Proposals:
    """Grids for a sheet, uint8 (height, width, 4), best first; none if it is too small to have one. `seen`
    is the sheet examined, if it has been."""
    seen = seen or examine(rgba)
    ranker = model("grid_axis", AXIS_FEATURES)
    with ThreadPoolExecutor(2) as pool:
        adding_up = pool.submit(ink_sums, seen.mask)
        steps = [candidates(axis) for axis in seen.axes]
        values = [axis_features(axis, found) for axis, found in zip(seen.axes, steps, strict=True)]
        scores = [ranker.scores(v) for v in values]
        pairs = likely_pairs(seen.axes, steps, scores)
        sums = adding_up.result()
    if not pairs:
        return Proposals([], seen.background)
    described = describe_pairs(seen, steps, scores, values, pairs, sums)
    judged = model("grid_pair", GRID_FEATURES)
    strength = judged.scores(described)
    likely = chances(strength)
    order = np.argsort(-strength, kind="stable").tolist()
    cells = [(steps[0][i].cell, steps[1][j].cell) for i, j in pairs]
    found: list[Proposal] = []
    for n in order:
        if len(found) < most and all(cells[n] != other.cell for other in found):
            share = float(sum(likely[k] for k in order if cells[k] == cells[n]))
            x, y = steps[0][pairs[n][0]], steps[1][pairs[n][1]]
            found.append(_proposal(seen, sums, x, y, share, described[n]))
    return Proposals(found, seen.background, float(strength[order[0]]))


def likely_pairs(
    axes: tuple[AxisMeasure, AxisMeasure], steps: list[list[Step]], scores: list[np.ndarray]
) -> list[tuple[int, int]]:
    """The pairs of steps, by their places, that are worth looking into; never both axes whole, nor more cells
    than a sheet may have."""
    best = [np.argsort(-s, kind="stable")[:STEPS] for s in scores]
    sides = [np.array([steps[a][i].cell for i in best[a]]) for a in (0, 1)]
    counts = [np.array([spots_of(axes[a], steps[a][i])[0] for i in best[a]]) for a in (0, 1)]
    worth = scores[0][best[0]][:, None] + scores[1][best[1]][None]
    worth = worth + 2.0 * (sides[0][:, None] == sides[1][None])
    cells = counts[0][:, None] * counts[1][None]
    worth[(cells == 1) | (cells > MOST_CELLS)] = -np.inf
    order = np.argsort(-worth, axis=None, kind="stable")[:PAIRS]
    rows, columns = np.unravel_index(order, worth.shape)
    return [
        (int(best[0][r]), int(best[1][c]))
        for r, c in zip(rows, columns, strict=True)
        if np.isfinite(worth[r, c])
    ]


def describe_pairs(
    seen: Examined, steps: list[list[Step]], scores: list[np.ndarray], values: list[np.ndarray],
    pairs: list[tuple[int, int]], sums: np.ndarray,
) -> np.ndarray:  # fmt: skip
    """What the last model weighs for each pair: float (pairs, GRID_FEATURES)."""
    together = pair_features(
        seen.axes, [(steps[0][i], steps[1][j]) for i, j in pairs],
        [(float(scores[0][i]), float(scores[1][j])) for i, j in pairs],
        (float(scores[0].max()), float(scores[1].max())), seen.parts, sums,
    )  # fmt: skip
    both = np.array([values[0][i] + values[1][j] for i, j in pairs])
    return np.column_stack((together, both))


def _proposal(
    seen: Examined, sums: np.ndarray, x: Step, y: Step, share: float, described: np.ndarray
) -> Proposal:
    cut = GridCut((x.cell, y.cell), (x.margin, y.margin), (x.gap, y.gap))
    size = (seen.mask.shape[1], seen.mask.shape[0])
    grid = grid_of(cut, size)
    held = int(occupied_by_sums(sums, grid).sum())
    through = 0 if seen.opaque else int(cut_through(seen.mask, grid).sum())
    named = dict(zip(GRID_FEATURES, described.tolist(), strict=True))
    return Proposal(
        grid.cell, grid.margin, grid.spacing, grid.columns, grid.rows, round(min(share, 1.0), 3), held,
        _evidence(grid, through, seen.opaque, share, named), tuple(round(v, 4) for v in described.tolist()),
    )  # fmt: skip


def _evidence(grid: Grid, through: int, opaque: bool, share: float, named: dict[str, float]) -> str:
    """What decided, in plain words: how sure it is, what the lines meet, what comes again, what is left."""
    parts = ["unsure"] if share < UNSURE else ["sure"] if share >= SURE else []
    if any(grid.spacing):
        parts.append(
            "lines drawn between the cells" if named["gap_clear"] > 0.7 else "gaps between the cells"
        )
    if not opaque and not (through and any(grid.spacing)):
        cuts = f"{through} {'cell cuts' if through == 1 else 'cells cut'} art"
        parts.append("no line cuts art" if through == 0 else cuts)
    elif named["edge"] > 0.3 or named["inner"] > 0.3:
        parts.append("colours change at its lines")
    if named["equal_peak"] > 0.1 or named["columns_peak"] > 0.1 or named["differ_first"] > 0.15:
        parts.append("the art comes again from cell to cell")
    elif named["centred"] > 0.3:
        parts.append("art in the middle of its cells")
    over = max(grid.left_over)
    parts.append(f"{over} px left over" if over else "nothing left over")
    return ", ".join(parts[:4])
