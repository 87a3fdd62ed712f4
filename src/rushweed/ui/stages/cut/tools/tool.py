"""What all tools of Cut share."""

from __future__ import annotations

from typing import NamedTuple

from rushweed.core.document.model.cut import Cut
from rushweed.ui.stages.cut.by_hand import ByHand
from rushweed.ui.stages.cut.making import CutMaking
from rushweed.ui.stages.sheet_pointer import SheetPointer, SheetTool


class CutHands(NamedTuple):
    """What the tools work with."""

    pointer: SheetPointer
    making: CutMaking
    by_hand: ByHand


class CutTool(SheetTool):
    """`gives_way` to selecting when the sheet is cut by a rule again."""

    gives_way = True

    def __init__(self, hands: CutHands) -> None:
        super().__init__(hands.pointer)
        self.making, self.by_hand = hands.making, hands.by_hand

    def fits(self, cut: Cut | None) -> bool:
        """Whether it means anything on a sheet that is cut so."""
        return True
