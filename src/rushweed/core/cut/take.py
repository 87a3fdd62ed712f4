"""Which cut to take first: the surest grid, the pieces, or the whole picture."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from rushweed.core.cut.bands import Band, find_bands
from rushweed.core.cut.islands import pieces, propose_join, usual_ink
from rushweed.core.cut.match_cells import Rect
from rushweed.core.cut.propose import SURE, Examined, Proposal, Proposals, examine, propose
from rushweed.core.document.errors import CutError
from rushweed.core.document.model.cut import CountCut, Cut, HandCut, PiecesCut
from rushweed.core.ranking import chance, model

OF_GRID = (
    "whole", "held", "alone", "unbroken", "isolated", "cross", "edge", "differ", "equal", "columns",
    "divides", "gap", "square_plain", "eights",
)  # fmt: skip
LONGEST_WORD = 30  # letters of a lettering; a type has more
DOUBTFUL = 0.75  # chance of the best cut below which others are shown beside it
EXPLAINED = 0.8  # chance of the best grid from which no strips are looked for
KIND_FEATURES = (
    "first", "strength", "cells", *OF_GRID, "best_equal", "best_differ", "parts", "parts_per_cell", "alike",
    "few_parts", "ink", "opaque", "keyed", "side", "small", "strip", "colours", "line", "word",
)  # fmt: skip


class Choices(NamedTuple):
    """Grids, best first, and how many pieces there are at which join distance (0 pieces: opaque). `of_grid`
    is the chance that the sheet is cut by a grid, `of_pieces` that it is cut into pieces if not. `bands` are
    strips with cells of their own, where no one grid explains the sheet, and `band_cells` their cells."""

    grids: list[Proposal]
    join: int
    pieces: int
    background: tuple[int, int, int] | None
    of_grid: float = 0.0
    of_pieces: float = 0.0
    bands: tuple[Band, ...] = ()
    band_cells: tuple[Rect, ...] = ()

    @property
    def single(self) -> bool:
        """Whether it looks like one picture."""
        return isinstance(self.best, CountCut)

    @property
    def pieces_first(self) -> bool:
        """Whether the sheet looks more like free-form pieces than like a grid."""
        return isinstance(self.best, PiecesCut)

    @property
    def chance(self) -> float:
        """How likely the best cut is right: what the sheet is, and how it is cut."""
        if self.pieces_first:
            return (1 - self.of_grid) * self.of_pieces
        if self.single:
            return (1 - self.of_grid) * (1 - self.of_pieces)
        return self.of_grid * self.grids[0].score

    @property
    def sure(self) -> bool:
        """Whether the best cut may be taken without asking."""
        return self.chance >= SURE

    @property
    def doubtful(self) -> bool:
        """Whether a person had better look at several cuts."""
        return self.chance < DOUBTFUL

    @property
    def best(self) -> Cut:
        """The one cut to take when nobody is asked."""
        of_pieces = (1 - self.of_grid) * self.of_pieces
        alone = 1 - self.of_grid - of_pieces
        if self.grids and self.of_grid >= max(of_pieces, alone):
            return self.grids[0].cut()
        if self.pieces > 1 and of_pieces >= alone:
            return PiecesCut(self.join)
        return CountCut(1, 1)

    def ranked(self, most: int = 5) -> list[Ranked]:
        """All ways to cut, the best first, each with its chance."""
        not_grid = 1 - self.of_grid
        ways = [Ranked(g.cut(), g.words(), g.evidence, self.of_grid * g.score) for g in self.grids]
        if self.pieces > 1:
            words = f"small parts join within {self.join} px" if self.join else "each by itself"
            ways.append(
                Ranked(PiecesCut(self.join), f"{self.pieces} pieces", words, not_grid * self.of_pieces)
            )
        if self.bands:
            chance = min(float(np.mean([b.chance for b in self.bands])), 1 - ways[0].chance if ways else 1.0)
            words = f"{len(self.bands)} strips"
            evidence = (
                f"{len(self.band_cells)} cells of {len({b.cell for b in self.bands})} widths, row by row"
            )
            ways.append(Ranked(HandCut(), words, evidence, 0.9 * chance, self.band_cells))
        alone = not_grid * (1 - self.of_pieces)
        ways.append(Ranked(CountCut(1, 1), "One picture", "not cut at all", alone))
        best = self.best
        ways.sort(key=lambda way: (way.cut != best, -way.chance))
        return ways[:most]


class Ranked(NamedTuple):
    """One way to cut a sheet: in words, why, and how likely it is right; `rects` are its cells where the cut
    itself does not say them."""

    cut: Cut
    words: str
    evidence: str
    chance: float
    rects: tuple[Rect, ...] = ()


def choices(rgba: np.ndarray, tell: Callable[[float], object] = float) -> Choices:
    """What can be done with a sheet, uint8 (height, width, 4). `tell` gets how far it is, 0..1, and may end
    it by raising."""
    seen = examine(rgba)
    tell(0.3)
    found = propose(rgba, seen=seen)
    tell(0.6)
    join = count = 0
    if not seen.opaque:
        try:
            join = propose_join(seen.mask)
            count = len(pieces(seen.mask, join))
        except CutError:
            join = count = 0
    values = kind_features(rgba, seen, found)
    of_grid = chance(float(model("kind_grid", KIND_FEATURES).scores(values)[0])) if found.grids else 0.0
    of_pieces = chance(float(model("kind_pieces", KIND_FEATURES).scores(values)[0])) if count > 1 else 0.0
    bands: list[Band] = []
    if not seen.opaque and not (found.grids and of_grid * found.grids[0].score > EXPLAINED):
        bands = find_bands(rgba, seen.mask, seen.background is not None, lambda part: tell(0.6 + 0.4 * part))
    cells = tuple(rect for band in bands for rect in band.cells(seen.mask))
    return Choices(
        found.grids,
        join,
        count,
        found.background,
        round(of_grid, 4),
        round(of_pieces, 4),
        tuple(bands),
        cells,
    )


def sheet_chance(rgba: np.ndarray) -> float:
    """How likely a picture, uint8 (height, width, 4), is a sheet of many cells or pieces, and not one."""
    found = choices(rgba)
    return found.of_grid + (1 - found.of_grid) * found.of_pieces


def kind_features(rgba: np.ndarray, seen: Examined, found: Proposals) -> np.ndarray:
    """What tells grids, free-form pieces and single pictures apart: float (1, KIND_FEATURES)."""
    best = found.grids[0] if found.grids else None
    named = best.named_features if best is not None else {}
    height, width = seen.mask.shape
    area = seen.parts[:, 4]
    large = area[area >= 0.1 * usual_ink(area)] if len(area) else area
    spread = float(large.std() / large.mean()) if len(large) else 0.0
    cells = best.held if best is not None else 1
    count = best.columns * best.rows if best is not None else 1
    equal = max(
        (float(a.equal[4 : max(int(a.length * 0.6), 5)].max(initial=0)) for a in seen.axes), default=0
    )
    differ = min(
        (float(a.differ[4 : max(int(a.length * 0.6), 5)].min(initial=1)) for a in seen.axes), default=1
    )
    line, word = lettering(seen.parts[area >= 0.1 * usual_ink(area)]) if len(area) else (0.0, 0.0)
    step = max(int(math.sqrt(width * height / 40_000)), 1)
    sample = np.ascontiguousarray(rgba[::step, ::step]).view(np.uint32).ravel()
    values = {
        "first": best.score if best is not None else 0.0, "strength": found.strength,
        "cells": math.log(count), "best_equal": equal, "best_differ": 1 - differ,
        "parts": math.log(len(large) + 1), "parts_per_cell": math.log((len(large) + 1) / (cells + 1)),
        "alike": min(spread, 3.0), "few_parts": float(len(large) <= 1), "ink": float(seen.mask.mean()),
        "opaque": float(seen.opaque), "keyed": float(seen.background is not None),
        "side": math.log(max(width, height)), "small": float(max(width, height) <= 64),
        "strip": abs(math.log(width / height)), "colours": math.log(len(np.unique(sample)) + 1),
        "line": line, "word": word,
    }  # fmt: skip
    for name in OF_GRID:
        values[name] = named.get(name, 0.0)
    return np.array([[values[name] for name in KIND_FEATURES]])


def lettering(parts: np.ndarray) -> tuple[float, float]:
    """How far parts, left, top, right, bottom and more, (n, 4 or more), stand on one line, and how far they
    stand as close on it as the letters of a word do: 0..1 each."""
    if len(parts) < 3:
        return 0.0, 0.0
    left, top, right, bottom = parts[np.argsort(parts[:, 0], kind="stable"), :4].T
    middle = float(np.median((top + bottom) / 2))
    line = float(np.mean((top <= middle) & (middle <= bottom)))
    gap = float(np.median(left[1:] - right[:-1])) / max(float(np.median(bottom - top)), 1.0)
    close = min(max(1 - gap, 0.0), 1.0) if line > 0.9 and len(parts) <= LONGEST_WORD else 0.0
    return line, close
