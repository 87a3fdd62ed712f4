"""Tune: pixels per unit, filter, pivots, compression and nine-slice, for any number of sheets at once."""

from __future__ import annotations

import math
from functools import partial
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QStackedWidget

from rushweed.core.document.model import Cell, Sheet
from rushweed.core.tune import recipe as recipes
from rushweed.core.tune.codec.compress import EXACT
from rushweed.core.tune.edit import PLACES, set_pivot_px, tune_sheets
from rushweed.core.tune.units import plain
from rushweed.ui.commands.command import Command
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import paint_corners, paint_plumbs
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.controls import Check, button, label, tag
from rushweed.ui.kit.fields import ChoiceRow, NumbersField
from rushweed.ui.kit.text import many, shared
from rushweed.ui.stages.sheet_stage import POINT, SheetStage
from rushweed.ui.stages.tune.nine import NineCard, NineGuides
from rushweed.ui.stages.tune.recipes import RecipeCard, RecipeLine
from rushweed.ui.stages.tune.texture import TextureCard
from rushweed.ui.stages.tune.units import SNAPS, UnitsCard


class TuneStage(SheetStage):
    key, title = "tune", "Tune"
    tools = (
        POINT,
        Tool("pivot", "Pivot", "map-pin-line", "P", "Drag the plumb mark; it moves in all selected cells", 1),
        Tool("nine", "Nine-slice", "frame-corners", "N", "Drag the guides; Shift moves both of a pair", 1),
        Tool("texture", "Texture", "stack", "X", "Compression with its faults on the Desk, gutter, pages", 2),
        Tool("recipes", "Recipes", "book-open", "R", "Settings with a name that sheets follow", 2),
    )

    def build(self) -> None:
        self._ppu = NumbersField(1, "px", 0.001, 4096, whole=False, look=self.look)
        self._ppu.setFixedWidth(76)
        self._ppu.setToolTip("How many px make one unit of the game")
        self._ppu.edited.connect(lambda v: self.tune("Set pixels per unit", ppu=v[0]))
        self.session.document.follow(self._ppu)
        self._one = button("One cell = one unit")
        self._one.clicked.connect(self.one_unit)
        self._filter = ChoiceRow(self.look, [("nearest", "Nearest"), ("linear", "Linear")])
        self._filter.edited.connect(lambda v: self.tune(f"Filter to {v}", filter=v))
        self._mipmaps = Check(self.look, self.icons, "Mipmaps")
        self._mipmaps.setToolTip("Smaller copies that are read when the art is drawn small")
        self._mipmaps.edited.connect(lambda on: self.tune("Mipmaps", mipmaps=on))
        self.option_line.fill(
            label("1 u ="), self._ppu, self._one, 8, label("Filter"), self._filter, 8, self._mipmaps, None
        )
        self.units, self.nine = UnitsCard(self), NineCard(self)
        self.texture, self.recipes = TextureCard(self), RecipeCard(self)
        self._pages = QStackedWidget()
        self._cards: dict[str, NineCard | TextureCard | RecipeCard] = {
            "nine": self.nine,
            "texture": self.texture,
            "recipes": self.recipes,
        }
        for card in (self.units, self.nine, self.texture, self.recipes):
            self._pages.addWidget(scrolled(card))
        self.card = self._pages
        self.line = RecipeLine(self)
        self.proposal_line = self.line
        self.guides = NineGuides(self, self.nine)
        self.session.textures.ready.connect(self._costs_ready)
        self._grab: Cell | None = None
        self._target: tuple[float, float] | None = None

    def refresh(self) -> None:
        sheet, sheets = self.session.selection.sheet, self.session.selection.sheets
        self.option_line.setEnabled(sheet is not None)
        self._ppu.show_value(shared([s.tune.ppu for s in sheets]))
        filters = {s.tune.filter for s in sheets}
        self._filter.show_value(filters.pop() if len(filters) == 1 else None)
        mipmaps = {s.tune.mipmaps for s in sheets}
        self._mipmaps.show_value(mipmaps.pop() if len(mipmaps) == 1 else None)
        self._one.setEnabled(bool(self.subject()))
        self.line.refresh()
        self._card().refresh()

    def _card(self) -> UnitsCard | NineCard | TextureCard | RecipeCard:
        return self._cards.get(self.tool, self.units)

    def entered(self) -> None:
        self._show_card()

    def use(self, tool: str) -> None:
        super().use(tool)
        self._show_card()

    def _show_card(self) -> None:
        cards = [self.units, self.nine, self.texture, self.recipes]
        self._pages.setCurrentIndex(cards.index(self._card()))
        self.session.proofs_nine = self.tool == "nine" and self.session.stage == "tune"
        self.session.selection.focused.emit()

    def _costs_ready(self) -> None:
        if self.session.stage == "tune" and self.tool == "texture":
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

        def change(project):  # type: ignore[no-untyped-def]
            project, one = recipes.save(project, sheet.id)
            made.append(one.id)
            return recipes.give(project, self.session.selection.sheet_ids, one.id)

        self.session.document.edit(f"Recipe from {sheet.name}", change)
        if made:
            self.recipes.open = made[-1]
            self.use("recipes")

    # -- dragging the plumb mark -------------------------------------------------------------------------

    def _plumb_at(self, at: DeskEvent) -> Cell | None:
        """The selected or hovered cell whose plumb mark is under the pointer, while marks are shown."""
        if self.tool not in ("point", "pivot"):
            return None
        view = self.desk.view
        for cell in [*self.session.selection.cells, *([self.hovered] if self.hovered else [])]:
            tip = view.to_screen(cell.rect[0] + cell.pivot[0], cell.rect[1] + cell.pivot[1])
            if abs(tip.x() - at.screen.x()) < 9 and -18 < at.screen.y() - tip.y() < 8:
                return cell
        return None

    def press(self, at: DeskEvent) -> None:
        if self.tool == "nine" and self.guides.press(at):
            return
        cell = self._plumb_at(at)
        if cell is None and self.tool == "pivot":
            cell = self.cell_under(at)
            if cell is not None and cell.id not in self.session.selection.cell_ids:
                self.session.selection.choose_cells((cell.id,))
        if cell is None:
            super().press(at)
            return
        self._grab = cell
        if self.tool == "pivot":
            self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        if self.guides.held is not None:
            self.guides.drag(at)
            return
        if self._grab is None:
            super().drag(at)
            return
        step = SNAPS[self.units.snap.value or "px"]
        x = math.floor((at.x - self._grab.rect[0]) / step + 0.5) * step
        y = math.floor((at.y - self._grab.rect[1]) / step + 0.5) * step
        x = min(max(x, -self._grab.rect[2]), 2 * self._grab.rect[2])
        y = min(max(y, -self._grab.rect[3]), 2 * self._grab.rect[3])
        self._target = (x, y)
        ids = self._dragged()
        self.session.document.preview(lambda p: set_pivot_px(p, ids, x, y))

    def _dragged(self) -> tuple[str, ...]:
        assert self._grab is not None
        ids = self.session.selection.cell_ids
        return ids if self._grab.id in ids else (self._grab.id,)

    def release(self, at: DeskEvent) -> None:
        if self.guides.held is not None:
            self.guides.release()
            return
        if self._grab is None:
            super().release(at)
            return
        if self._target is not None:
            ids, (x, y) = self._dragged(), self._target
            self.session.document.edit(
                f"Move the pivot of {many(len(ids), 'cell')}", lambda p: set_pivot_px(p, ids, x, y)
            )
        self._grab, self._target = None, None

    def cancel(self) -> None:
        self._grab, self._target = None, None
        self.guides.cancel()
        super().cancel()

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ClosedHandCursor if self._grab else super().cursor()

    # -- painting --------------------------------------------------------------------------------------

    def paint_art_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        if self.tool == "texture":
            self._words = self.texture.paint_errors(painter, self.desk.view, sheet)

    _words = ""

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        if self.tool == "texture":
            self._paint_worst(painter, sheet)
            return
        if self.tool == "nine":
            self.guides.paint(painter, room, sheet)
            return
        view = self.desk.view
        chosen = set(self.session.selection.cell_ids)
        near = self.hovered.id if self.hovered else ""
        every = len(sheet.cells) <= 400 and (sheet.cells[0].rect[3] if sheet.cells else 0) * view.zoom >= 40
        marks: dict[bool, list[tuple[QPointF, float]]] = {False: [], True: []}
        for cell in sheet.cells:
            mine = cell.id in chosen
            if not (mine or every or cell.id == near):
                continue
            x, y, w, h = cell.rect
            box = view.rect(x, y, w, h)
            if not box.adjusted(-40, -40, 40, 40).intersects(room):
                continue
            tip = view.to_screen(x + cell.pivot[0], y + cell.pivot[1])
            marks[mine].append((tip, box.top() if mine else max(box.top(), tip.y() - 22)))
        for mine, found in marks.items():
            paint_plumbs(painter, found, self.look, mine)
        last = self.session.selection.cell
        if last is not None:
            self._unit_box(painter, sheet, last)

    def _paint_worst(self, painter: QPainter, sheet: Sheet) -> None:
        """Marks about the worst block, where it can be placed on the sheet, and what the map shows."""
        cost = self.session.textures.cost(sheet, self.texture.shown())
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
        tag(painter, self.look, room.left() + 8, room.bottom() - 26, self._words)

    def _unit_box(self, painter: QPainter, sheet: Sheet, cell: Cell) -> None:
        """A box of one unit from the cell's lower left, with the size and pivot told."""
        view, side = self.desk.view, sheet.tune.ppu
        x, y, w, h = cell.rect
        box = view.rect(x, y + h - side, side, side)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.look.colour("art_casing", 0.6), 3))
        painter.drawRect(box)
        painter.setPen(QPen(self.look.colour("art_straw"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)
        tag(painter, self.look, box.left() + 4, box.bottom() - 20, "1 u")
        tip = view.to_screen(x + cell.pivot[0], y + cell.pivot[1])
        words = f"{plain(cell.pivot[0], 1)}, {plain(cell.pivot[1], 1)} px"
        room = self.desk.room
        at = QPointF(min(tip.x() + 10, room.right() - 90), min(tip.y() + 4, room.bottom() - 20))
        tag(painter, self.look, at.x(), at.y(), words, rust=True)

    def commands(self) -> list[Command]:
        def cut() -> str:
            return "" if self.subject() else "The sheet has no cells yet."

        def chosen() -> str:
            return "" if self.session.selection.cell else "No cell is selected."

        def sheet() -> str:
            return "" if self.session.selection.sheet else "There is no sheet."

        def nine() -> str:
            return "" if self.nine.cells() else "Select the cells that are to be stretched."

        return [
            Command("tune.one", "One cell = one unit", (), "Set pixels per unit to the height of a cell.",
                    self.one_unit, cut, ("tune",), "Tune"),
            Command("tune.all", "Give all cells this pivot", (), "As a share of each cell's size.",
                    self.units.give_all, chosen, ("tune",), "Tune"),
            Command("tune.feet", "Pivots from the feet", (), "Under the lowest ink of each cell.",
                    self.units.from_feet, cut, ("tune",), "Tune"),
            Command("tune.nine", "Nine-slice from the pixels", (), "Where most rows and columns are alike.",
                    self.nine.from_pixels, nine, ("tune",), "Tune"),
            Command("tune.pad", "Pad the texture as it needs", (), "To multiples of 4 or powers of two.",
                    self.texture.pad_to_fit, sheet, ("tune",), "Tune"),
            Command("tune.recipe", "Keep these settings as a recipe", (), "Sheets can follow it.",
                    self.save_recipe, sheet, ("tune",), "Tune"),
            *(
                Command(f"tune.recipe.{one.id}", f"Recipe: {one.name}", (), "For the selected sheets.",
                        partial(self.give_recipe, one.id), sheet, ("tune",), "Tune")
                for one in recipes.OURS
            ),
            *(
                Command(f"tune.pivot.{name.replace(' ', '_')}", f"Pivot at the {name}", (key,),
                        "For the selected cells, or all.", partial(self.units.place, name), cut, ("tune",),
                        "Tune")
                for name, key in zip(PLACES, ("7", "8", "9", "4", "5", "6", "1", "2", "3"), strict=True)
            ),
        ]  # fmt: skip
