"""Which cut to take first: the surest grid, the pieces, or the whole picture."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.cut.islands import pieces, propose_join
from rushweed.core.cut.propose import UNSURE, Proposal, ink_of, propose
from rushweed.core.document.errors import CutError
from rushweed.core.document.model import CountCut, Cut, PiecesCut

DOUBTED = 0.65  # a grid below it gives way to pieces if its cells would hold several each


class Choices(NamedTuple):
    """Grids, best first, and how many pieces there are at which join distance (0 pieces: opaque)."""

    grids: list[Proposal]
    join: int
    pieces: int
    background: tuple[int, int, int] | None

    @property
    def pieces_first(self) -> bool:
        """Whether the sheet looks more like free-form pieces than like a grid."""
        if self.pieces < 2:
            return False
        if not self.grids or self.grids[0].score < UNSURE:
            return True
        return self.grids[0].score < DOUBTED and self.pieces > 1.8 * self.grids[0].held

    @property
    def best(self) -> Cut:
        """The one cut to take when nobody is asked."""
        if self.pieces_first:
            return PiecesCut(self.join)
        if self.grids and self.grids[0].score >= UNSURE:
            return self.grids[0].cut()
        return CountCut(1, 1)


def choices(rgba: np.ndarray) -> Choices:
    """What can be done with a sheet, uint8 (height, width, 4)."""
    found = propose(rgba)
    mask, _colour, opaque = ink_of(rgba)
    if opaque:
        return Choices(found.grids, 0, 0, found.background)
    try:
        join = propose_join(mask)
        return Choices(found.grids, join, len(pieces(mask, join)), found.background)
    except CutError:
        return Choices(found.grids, 0, 0, found.background)
