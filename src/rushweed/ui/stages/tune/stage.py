"""Tune: pixels per unit, filter, pivots, compression and nine-slice, for any number of sheets at once."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStackedWidget

from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Check, button, label
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import shared
from rushweed.ui.stages.sheet_stage import SheetStage
from rushweed.ui.stages.tune.nine import NineCard
from rushweed.ui.stages.tune.recipes import RecipeCard, RecipeLine
from rushweed.ui.stages.tune.texture import TextureCard
from rushweed.ui.stages.tune.tools.nine import NineGuides
from rushweed.ui.stages.tune.tools.plumb import SelectCells, SetPivot
from rushweed.ui.stages.tune.tools.shown import ShowRecipes, ShowTexture
from rushweed.ui.stages.tune.tools.tool import TuneTool
from rushweed.ui.stages.tune.tuning import Tuning
from rushweed.ui.stages.tune.units import UnitsCard


class TuneStage(SheetStage):
    key, title = "tune", "Tune"

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.tuning = Tuning(self.session)
        self.tuning.kept.connect(self._recipe_kept)
        self._make_options()
        self.units, self.nine = UnitsCard(context, self.tuning), NineCard(context)
        self.texture, self.recipes = TextureCard(context, self.tuning), RecipeCard(context, self.tuning)
        self._pages = QStackedWidget()
        for card in (self.units, self.nine, self.texture, self.recipes):
            self._pages.addWidget(scrolled(card))
        self.card = self._pages
        self.line = RecipeLine(context, self.tuning)
        self.proposal_line = self.line
        pointer = self.pointer
        self.tools = [SelectCells(pointer, self.units), SetPivot(pointer, self.units),
                      NineGuides(pointer, self.nine), ShowTexture(pointer, self.texture),
                      ShowRecipes(pointer, self.units, self.recipes)]  # fmt: skip
        self.tool = SelectCells.id
        self.session.textures.ready.connect(self._costs_ready)

    @property
    def active(self) -> TuneTool:
        tool = super().active
        assert isinstance(tool, TuneTool)
        return tool

    def _make_options(self) -> None:
        self.ppu = NumbersField(1, "px", Numbers(0.001, 4096, False), self.look)
        self.ppu.setFixedWidth(76)
        self.ppu.setToolTip("How many px make one unit of the game")
        self.ppu.edited.connect(lambda v: self.tuning.tune("Set pixels per unit", ppu=v[0]))
        self.session.document.follow(self.ppu)
        self.one = button("One cell = one unit")
        self.one.clicked.connect(self.tuning.one_unit)
        self.filter = ChoiceRow(self.look, [("nearest", "Nearest"), ("linear", "Linear")])
        self.filter.edited.connect(lambda v: self.tuning.tune(f"Filter to {v}", filter=v))
        self.mipmaps = Check(self.look, self.icons, "Mipmaps")
        self.mipmaps.setToolTip("Smaller copies that are read when the art is drawn small")
        self.mipmaps.edited.connect(lambda on: self.tuning.tune("Mipmaps", mipmaps=on))
        self.option_line.fill(
            label("1 u ="), self.ppu, self.one, 8, label("Filter"), self.filter, 8, self.mipmaps, None
        )

    def refresh(self) -> None:
        sheet, sheets = self.session.selection.sheet, self.session.selection.sheets
        self.option_line.setEnabled(sheet is not None)
        self.ppu.show_value(shared([s.tune.ppu for s in sheets]))
        filters = {s.tune.filter for s in sheets}
        self.filter.show_value(filters.pop() if len(filters) == 1 else None)
        mipmaps = {s.tune.mipmaps for s in sheets}
        self.mipmaps.show_value(mipmaps.pop() if len(mipmaps) == 1 else None)
        self.one.setEnabled(bool(self.tuning.subject()))
        self.line.refresh()
        self.active.card.refresh()

    def entered(self) -> None:
        self._show_card()

    def use(self, tool: str) -> None:
        super().use(tool)
        self._show_card()

    def _show_card(self) -> None:
        cards = [self.units, self.nine, self.texture, self.recipes]
        self._pages.setCurrentIndex(cards.index(self.active.card))
        self.session.proofs_nine = self.active.card is self.nine and self.session.stage == self.key
        self.session.selection.focused.emit()

    def _costs_ready(self) -> None:
        if self.session.stage == self.key and self.active.card is self.texture:
            self.texture.refresh()
            self.desk.update()

    def _recipe_kept(self, recipe_id: str) -> None:
        """Show it, to be named."""
        self.recipes.open = recipe_id
        self.use(ShowRecipes.id)

    # -- painting --------------------------------------------------------------------------------------

    def paint_art_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        self.active.paint_under(painter, sheet)

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        self.active.paint(painter, room)
