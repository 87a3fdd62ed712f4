"""Which cut to take first: the surest grid, the pieces, or the whole picture."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.cut.grid import grid_of
from rushweed.core.cut.islands import pieces, propose_join
from rushweed.core.cut.propose import UNSURE, Proposal, ink_of, propose
from rushweed.core.document.errors import CutError
from rushweed.core.document.model import CountCut, Cut, PiecesCut

ANYWHERE = 0.8  # of the ink that usually runs across a line: a grid that cuts so much divides nothing
DOUBTED = 0.65  # a grid below it gives way to pieces if its cells would hold several each


class Choices(NamedTuple):
    """Grids, best first, and how many pieces there are at which join distance (0 pieces: opaque). `through`
    is how much ink runs across the lines of the best grid, of what runs across any line."""

    grids: list[Proposal]
    join: int
    pieces: int
    background: tuple[int, int, int] | None
    through: float = 0.0

    @property
    def pieces_first(self) -> bool:
        """Whether the sheet looks more like free-form pieces than like a grid."""
        if self.pieces < 2:
            return False
        if not self.grids or self.grids[0].score < UNSURE:
            return True
        return self.grids[0].score < DOUBTED and self.pieces > 1.8 * self.grids[0].held

    @property
    def single(self) -> bool:
        """Whether it looks like one picture: all hangs together, and the best grid cuts it like any other."""
        return self.pieces == 1 and (not self.grids or self.through > ANYWHERE)

    @property
    def best(self) -> Cut:
        """The one cut to take when nobody is asked."""
        if self.single:
            return CountCut(1, 1)
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
        through = _through(mask, found.grids[0]) if found.grids else 0.0
        return Choices(found.grids, join, len(pieces(mask, join)), found.background, through)
    except CutError:
        return Choices(found.grids, 0, 0, found.background)


def _through(mask: np.ndarray, best: Proposal) -> float:
    """How much ink runs across the inner lines of a grid, of what runs across any line; the worse way."""
    grid = grid_of(best.cut(), (mask.shape[1], mask.shape[0]))
    shares = [0.0]
    for axis, lines in ((0, mask), (1, mask.T)):
        across = np.count_nonzero(lines[:, 1:] & lines[:, :-1], axis=0)
        inner = grid.starts(axis)[1:] - 1
        if inner.size and across.any():
            shares.append(float(across[inner].mean() / across.mean()))
    return max(shares)
