"""Sheets of strips whose cells differ: which strips are found, and what cells they have."""

from __future__ import annotations

import numpy as np
import pytest

from bench.kinds import STACKED, draw
from rushweed.core.cut.bands import find_bands
from rushweed.core.cut.propose import examine


@pytest.mark.parametrize("seed", [0, 1, 2, 3, 4, 6, 7, 8, 9, 10, 11])
def test_the_strips_of_a_stacked_sheet_are_found(seed: int) -> None:
    drawn = draw(STACKED, seed)
    seen = examine(drawn.rgba)
    found = find_bands(drawn.rgba, seen.mask, seen.background is not None)
    assert len(found) == drawn.pieces
    cells = [rect for band in found for rect in band.cells(seen.mask)]
    height, width = seen.mask.shape
    held = np.zeros((height, width), int)
    for x, y, w, h in cells:
        assert 0 <= x < x + w <= width and 0 <= y < y + h <= height
        held[y : y + h, x : x + w] += 1
    assert held.max() == 1, "no two cells overlap"
    assert (held[seen.mask] == 1).mean() > 0.95, "nearly all ink lies in a cell"


def test_a_sheet_without_ink_has_no_strips() -> None:
    empty = np.zeros((48, 64, 4), np.uint8)
    assert find_bands(empty, np.zeros((48, 64), bool), False) == []
