"""What all tools of Cut share."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rushweed.core.document.model.cut import Cut
from rushweed.ui.stages.sheet_stage import SheetTool

if TYPE_CHECKING:
    from rushweed.ui.stages.cut.stage import CutStage


class CutTool(SheetTool):
    """`by_hand` tools give way to selecting when the sheet is cut by a rule again."""

    stage: CutStage
    by_hand = True

    def fits(self, cut: Cut | None) -> bool:
        """Whether it means anything on a sheet that is cut so."""
        return True
