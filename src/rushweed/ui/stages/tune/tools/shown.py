"""Tools that show a card and what belongs to it, and leave the pointer to selecting."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from rushweed.core.document.model.sheet import Sheet
from rushweed.core.tune.codec.compress import EXACT
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.sheet_pointer import SheetPointer
from rushweed.ui.stages.tune.texture import TextureCard
from rushweed.ui.stages.tune.tools.plumb import Plumbs
from rushweed.ui.stages.tune.tools.tool import TuneTool


class ShowTexture(TuneTool):
    """The faults of a compression on the Desk."""

    id, words, icon, key = "texture", "Texture", "stack", "X"
    help = "Compression with its faults on the Desk, gutter, pages"
    group = 2

    def __init__(self, pointer: SheetPointer, card: TextureCard) -> None:
        super().__init__(pointer, card)
        self._texture = card
        self.verdict = ""

    def paint_under(self, painter: QPainter, sheet: Sheet) -> None:
        self.verdict = self._texture.paint_errors(painter, self.desk.view, sheet)

    def paint(self, painter: QPainter, room: QRectF) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            self._paint_worst(painter, sheet)

    def _paint_worst(self, painter: QPainter, sheet: Sheet) -> None:
        """Marks about the worst block, where it can be placed on the sheet, and what the map shows."""
        cost = self.session.textures.cost(sheet, self._texture.shown())
        room = self.desk.room
        if cost is not None and cost.spoiled.psnr < EXACT and not sheet.tune.gutter:
            x, y = cost.spoiled.worst
            box = self.desk.view.rect(x, y, 4, 4).adjusted(-3, -3, 3, 3)
            paint_corners(painter, box, 8, self.look.colour("art_rust"), self.look.colour("art_paper"))
            tag(
                painter,
                self.look,
                box.right() + 6,
                box.top() - 4,
                f"worst: {cost.spoiled.worst_psnr:.1f} dB",
                True,
            )
        tag(painter, self.look, room.left() + 8, room.bottom() - 26, self.verdict)


class ShowRecipes(Plumbs):
    id, words, icon, key = "recipes", "Recipes", "book-open", "R"
    help = "Settings with a name that sheets follow"
    group = 2

    def caught(self, at: DeskEvent) -> None:
        """Plumb marks are only shown."""
