"""What all tools of Tune share."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtGui import QPainter

from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.stages.sheet_stage import SheetTool
from rushweed.ui.stages.tune.nine import NineCard
from rushweed.ui.stages.tune.recipes import RecipeCard
from rushweed.ui.stages.tune.texture import TextureCard
from rushweed.ui.stages.tune.units import UnitsCard

if TYPE_CHECKING:
    from rushweed.ui.stages.tune.stage import TuneStage


class TuneTool(SheetTool):
    """Each brings a card of its own."""

    stage: TuneStage

    def card(self) -> UnitsCard | NineCard | TextureCard | RecipeCard:
        return self.stage.units

    def paint_under(self, painter: QPainter, sheet: Sheet) -> None:
        """What it draws on the art, under all marks."""
