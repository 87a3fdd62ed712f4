"""Tune: pixels per unit, filter, pivots, compression and nine-slice, for any number of sheets at once."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStackedWidget

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.tune import recipe as recipes
from rushweed.core.tune.edit import tune_sheets
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Check, button, label
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import many, shared
from rushweed.ui.stages.sheet_stage import SheetStage
from rushweed.ui.stages.tune.nine import NineCard
from rushweed.ui.stages.tune.recipes import RecipeCard, RecipeLine
from rushweed.ui.stages.tune.texture import TextureCard
from rushweed.ui.stages.tune.tools.nine import NineGuides
from rushweed.ui.stages.tune.tools.plumb import SelectCells, SetPivot
from rushweed.ui.stages.tune.tools.shown import ShowRecipes, ShowTexture
from rushweed.ui.stages.tune.tools.tool import TuneTool
from rushweed.ui.stages.tune.units import UnitsCard


class TuneStage(SheetStage):
    key, title = "tune", "Tune"
    TOOLS = (SelectCells, SetPivot, NineGuides, ShowTexture, ShowRecipes)

    @property
    def active(self) -> TuneTool:
        tool = super().active
        assert isinstance(tool, TuneTool)
        return tool

    def build(self) -> None:
        self.ppu = NumbersField(1, "px", Numbers(0.001, 4096, False), self.look)
        self.ppu.setFixedWidth(76)
        self.ppu.setToolTip("How many px make one unit of the game")
        self.ppu.edited.connect(lambda v: self.tune("Set pixels per unit", ppu=v[0]))
        self.session.document.follow(self.ppu)
        self._one = button("One cell = one unit")
        self._one.clicked.connect(self.one_unit)
        self.filter = ChoiceRow(self.look, [("nearest", "Nearest"), ("linear", "Linear")])
        self.filter.edited.connect(lambda v: self.tune(f"Filter to {v}", filter=v))
        self.mipmaps = Check(self.look, self.icons, "Mipmaps")
        self.mipmaps.setToolTip("Smaller copies that are read when the art is drawn small")
        self.mipmaps.edited.connect(lambda on: self.tune("Mipmaps", mipmaps=on))
        self.option_line.fill(
            label("1 u ="), self.ppu, self._one, 8, label("Filter"), self.filter, 8, self.mipmaps, None
        )
        self.units, self.nine = UnitsCard(self), NineCard(self)
        self.texture, self.recipes = TextureCard(self), RecipeCard(self)
        self._pages = QStackedWidget()
        for card in (self.units, self.nine, self.texture, self.recipes):
            self._pages.addWidget(scrolled(card))
        self.card = self._pages
        self.line = RecipeLine(self)
        self.proposal_line = self.line
        self.session.textures.ready.connect(self._costs_ready)

    def refresh(self) -> None:
        sheet, sheets = self.session.selection.sheet, self.session.selection.sheets
        self.option_line.setEnabled(sheet is not None)
        self.ppu.show_value(shared([s.tune.ppu for s in sheets]))
        filters = {s.tune.filter for s in sheets}
        self.filter.show_value(filters.pop() if len(filters) == 1 else None)
        mipmaps = {s.tune.mipmaps for s in sheets}
        self.mipmaps.show_value(mipmaps.pop() if len(mipmaps) == 1 else None)
        self._one.setEnabled(bool(self.subject()))
        self.line.refresh()
        self.active.card().refresh()

    def entered(self) -> None:
        self._show_card()

    def use(self, tool: str) -> None:
        super().use(tool)
        self._show_card()

    def _show_card(self) -> None:
        cards = [self.units, self.nine, self.texture, self.recipes]
        self._pages.setCurrentIndex(cards.index(self.active.card()))
        self.session.proofs_nine = self.active.card() is self.nine and self.session.stage == self.key
        self.session.selection.focused.emit()

    def _costs_ready(self) -> None:
        if self.session.stage == self.key and self.active.card() is self.texture:
            self.texture.refresh()
            self.desk.update()

    def subject(self) -> list[Cell]:
        """The selected cells, or all of every selected sheet when none is."""
        return self.session.selection.cells or [c for s in self.session.selection.sheets for c in s.cells]

    # -- editing ---------------------------------------------------------------------------------------

    def tune(self, words: str, **fields: Any) -> None:
        ids = list(self.session.selection.sheet_ids)
        typed = {"ppu", "gutter", "limit"} & set(fields)
        self.session.document.edit(
            f"{words} of {many(len(ids), 'sheet')}",
            lambda p: tune_sheets(p, ids, **fields),
            (tuple(fields), tuple(ids)) if typed else None,
        )

    def one_unit(self) -> None:
        cells = self.subject()
        if cells:
            self.tune("One cell is one unit:", ppu=float(cells[0].rect[3]))
            self.session.document.seal()

    def give_recipe(self, recipe_id: str) -> None:
        ids = list(self.session.selection.sheet_ids)
        one = recipes.recipe_of(self.session.project, recipe_id)
        name = one.name if one else "recipe"
        self.session.document.edit(
            f"{name} for {many(len(ids), 'sheet')}", lambda p: recipes.give(p, ids, recipe_id)
        )

    def save_recipe(self) -> None:
        """Keep the settings of the sheet as a recipe, and show it to be named."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        made: list[str] = []

        def change(project: Project) -> Project:
            project, one = recipes.save(project, sheet.id)
            made.append(one.id)
            return recipes.give(project, self.session.selection.sheet_ids, one.id)

        self.session.document.edit(f"Recipe from {sheet.name}", change)
        if made:
            self.recipes.open = made[-1]
            self.use(ShowRecipes.id)

    # -- painting --------------------------------------------------------------------------------------

    def paint_art_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        self.active.paint_under(painter, sheet)

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        self.active.paint(painter, room)
