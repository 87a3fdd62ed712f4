"""What all tools of Tune share."""

from __future__ import annotations

from PyQt6.QtGui import QPainter

from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.stages.sheet_pointer import SheetPointer, SheetTool
from rushweed.ui.stages.tune.nine import NineCard
from rushweed.ui.stages.tune.recipes import RecipeCard
from rushweed.ui.stages.tune.texture import TextureCard
from rushweed.ui.stages.tune.units import UnitsCard


class TuneTool(SheetTool):
    """Each brings a card of its own."""

    def __init__(self, pointer: SheetPointer, card: UnitsCard | NineCard | TextureCard | RecipeCard) -> None:
        super().__init__(pointer)
        self.card = card

    def paint_under(self, painter: QPainter, sheet: Sheet) -> None:
        """What it draws on the art, under all marks."""
