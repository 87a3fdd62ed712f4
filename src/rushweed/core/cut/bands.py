"""Strips stacked on one sheet, each with cells of its own, which no one grid explains."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from rushweed.core.cut.axis_features import AXIS_FEATURES, axis_features, spots_of
from rushweed.core.cut.candidates import candidates
from rushweed.core.cut.match_cells import Rect
from rushweed.core.cut.measure import connected_parts, measure
from rushweed.core.ranking import chances, model

MOST = 40  # strips that are looked at
NEAR = 1  # px by which its cells may differ and still tell the same strip
LIKELY = 0.5  # chance of such cells from which a strip counts as one
SMALLEST = 4  # px of its height


class Band(NamedTuple):
    """One strip: x, y, w, h of it in px, the width of its cells, what lies before and between them, and how
    likely that is right, to a px."""

    rect: Rect
    cell: int
    margin: int
    gap: int
    chance: float

    def cells(self, mask: np.ndarray) -> list[Rect]:
        """The cells of the strip that hold art: x, y, w, h in sheet px."""
        x, y, w, h = self.rect
        starts = range(x + self.margin, x + w - self.cell + 1, self.cell + self.gap)
        return [(a, y, self.cell, h) for a in starts if mask[y : y + h, a : a + self.cell].any()]


def find_bands(
    rgba: np.ndarray, mask: np.ndarray, keyed: bool, tell: Callable[[float], object] = float
) -> list[Band]:
    """The strips of a sheet, uint8 (height, width, 4), top to bottom; none if its rows are alike, run into
    one another, or are no strips. mask: bool (height, width), where art is. `tell` gets how far it is, 0..1.
    """
    runs = _runs(np.asarray(mask.any(axis=1)))
    if not 2 <= len(runs) <= MOST:
        return []
    ranker, found = model("grid_axis", AXIS_FEATURES), []
    for n, (top, bottom) in enumerate(runs):
        tell(n / len(runs))
        if bottom - top < SMALLEST:
            return []
        part, held = rgba[top:bottom], mask[top:bottom]
        axis = measure(part, held, connected_parts(held), 0, False, keyed)
        steps = candidates(axis)
        if not steps:
            return []
        scores = ranker.scores(axis_features(axis, steps))
        likely = chances(scores)
        best = steps[int(np.argmax(scores))]
        share = float(sum(p for p, s in zip(likely, steps, strict=True) if abs(s.cell - best.cell) <= NEAR))
        if share < LIKELY or spots_of(axis, best)[0] < 2:
            return []
        rect = (0, top, rgba.shape[1], bottom - top)
        found.append(Band(rect, best.cell, best.margin, best.gap, round(share, 4)))
    differ = len({band.cell for band in found}) > 1 or len({band.rect[3] for band in found}) > 2
    return found if differ else []


def _runs(inked: np.ndarray) -> list[tuple[int, int]]:
    """Where rows with art begin and end."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], inked.astype(np.int8), [0]))))
    return [(int(a), int(b)) for a, b in edges.reshape(-1, 2)]
