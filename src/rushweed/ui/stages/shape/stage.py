"""Shape: where tiles are solid, one-way or felt; one move for many tiles."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStackedWidget

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.marks import Coverage, paint_waste, rects_of, same_places
from rushweed.ui.desk.rulers import Band, inside_cell
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.controls import tag
from rushweed.ui.session.later import later
from rushweed.ui.stages.shape.auto import AutoCard
from rushweed.ui.stages.shape.card import ShapeCard
from rushweed.ui.stages.shape.editing import ShapeEditing
from rushweed.ui.stages.shape.role_line import RoleLine
from rushweed.ui.stages.shape.tools.brushes import Erase, GiveRole, GiveShape
from rushweed.ui.stages.shape.tools.forms import DrawBox, DrawCircle
from rushweed.ui.stages.shape.tools.joins import JoinBrush
from rushweed.ui.stages.shape.tools.point import PointShapes
from rushweed.ui.stages.shape.tools.ring import DrawRing
from rushweed.ui.stages.shape.tools.tool import ShapeHands, ShapeTool
from rushweed.ui.stages.shape.tools.traits import TraitBrush
from rushweed.ui.stages.shape.traits import TraitCard
from rushweed.ui.stages.sheet_stage import SheetStage

UNSHAPED = 0.68


class ShapeStage(SheetStage):
    key, title = "shape", "Shape"
    dims_waste = False

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.marks = ShapeMarks(self.look)
        self._rest = later(self.desk, 0, self._make_rest)
        self._shaped = Coverage()
        self.roles = RoleLine(context, self.marks)
        self.roles.dim.edited.connect(lambda _v: self.desk.update())
        self.roles.chosen.connect(self._role_chosen)
        self.option_line.fill(*self.roles.parts)
        self.editing = ShapeEditing(self.session, self.roles)
        self.editing.readied.connect(self._readied)
        self.main = ShapeCard(context, self.editing, self.marks)
        self.board, self.pixels = self.main.board, self.main.pixels
        self.traits, self.auto = TraitCard(context), AutoCard(context)
        self._pages = QStackedWidget()
        for page in (self.main, self.traits, self.auto):
            self._pages.addWidget(scrolled(page))
        self.card = self._pages
        hands = ShapeHands(self.pointer, self.roles, self.editing)
        self.tools = [
            PointShapes(hands, self.pixels), DrawBox(hands), DrawCircle(hands), DrawRing(hands),
            GiveShape(hands, self.board), GiveRole(hands), Erase(hands), TraitBrush(hands, self.traits),
            JoinBrush(hands, self.auto),
        ]  # fmt: skip
        self.tool = PointShapes.id

    @property
    def active(self) -> ShapeTool:
        tool = super().active
        assert isinstance(tool, ShapeTool)
        return tool

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        sheet, cells, cell = (
            self.session.selection.sheet,
            self.session.selection.cells,
            self.session.selection.cell,
        )
        self.option_line.setEnabled(sheet is not None)
        self.active.refresh_page()
        shapes = [s for c in cells for s in c.shapes]
        if self.session.selection.shape_index is not None and cell is not None:
            shapes = [cell.shapes[self.session.selection.shape_index]]
        self.roles.refresh(shapes)
        self.main.refresh(shapes)

    def paint_art_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        view = self.desk.view
        if self.roles.dim.on and sheet.cells and self.active.dims:
            shaped = replace(sheet, cells=tuple(c for c in sheet.cells if c.shapes))
            key = self._shaped_key
            if key is None or key[0] is not sheet.cells:
                self._shaped_key = (sheet.cells, self._shaped.mask(shaped) if shaped.cells else None)
            mask = self._shaped_key[1] if self._shaped_key else None
            if mask is not None:
                paint_waste(
                    painter, view, room, sheet.source.size, lambda ys, xs: mask[ys][:, xs],
                    self.look.colour("desk", UNSHAPED),
                )  # fmt: skip
        if self.active.shows_shapes:
            if not self.marks.paint_cells(painter, view, self._seen(sheet, room), sheet.cells):
                self._rest.start()

    def _make_rest(self) -> None:
        if self.marks.make_rest():
            self.desk.update()
        else:
            self._rest.start()

    _shaped_key: tuple | None = None

    def _seen(self, sheet: Sheet, room: QRectF) -> list[Cell]:
        """The cells with shapes that are in the room."""
        view = self.desk.view
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        left, top, right, bottom = a.x(), a.y(), b.x(), b.y()
        key = (sheet.cells, left, top, right, bottom)
        if self._seen_key is None or self._seen_key[0] is not key[0] or self._seen_key[1:] != key[1:]:
            if not same_places(self._placed[0], sheet.cells):
                self._placed = (sheet.cells, rects_of(sheet.cells))
            x, y, w, h = self._placed[1].T
            inside = np.flatnonzero((x < right) & (y < bottom) & (x + w > left) & (y + h > top))
            self._seen_key = key
            self._seen_cells = [cell for n in inside.tolist() if (cell := sheet.cells[n]).shapes]
        return self._seen_cells

    _placed: tuple[tuple[Cell, ...] | None, np.ndarray] = (None, np.zeros((0, 4)))  # where its cells lie
    _seen_key: tuple | None = None
    _seen_cells: list[Cell] = []

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        tool = self.active
        if tool.page:
            tool.paint(painter, room)
            return
        self.pixels.paint(painter, room, sheet)
        tool.paint_over(painter)
        cells = self.session.selection.cells
        if len(cells) == 1 and not cells[0].shapes and tool.ghost is None:
            (x, y, w, h), view = cells[0].rect, self.desk.view
            corner = view.to_screen(x, y + h)
            if w * view.zoom > 60:
                tag(painter, self.look, corner.x() + 4, corner.y() - 20, "no shape")

    def ruler(self, band: Band) -> None:
        super().ruler(band)
        cell = self.session.selection.cell
        if (
            cell is not None
            and len(self.session.selection.cells) == 1
            and cell.rect[2] * self.desk.view.zoom > 60
        ):
            band.painter.fillRect(
                band.box(band.at(cell.rect[band.axis]), cell.rect[band.axis + 2] * self.desk.view.zoom),
                self.look.colour("paper"),
            )
            inside_cell(band, cell.rect)

    def describe(self, at: DeskEvent) -> str:
        cell = self.pointer.cell_under(at)
        text = super().describe(at)
        if cell is None:
            return text
        x, y = at.x - cell.rect[0], at.y - cell.rect[1]
        return f"in the cell {int(x)}, {int(y)} px   {text.split('   ', 2)[-1]}"

    # -- pointer ---------------------------------------------------------------------------------------

    def use(self, tool: str) -> None:
        super().use(tool)
        self._pages.setCurrentIndex(self.active.page)
        self.refresh()

    # -- editing ---------------------------------------------------------------------------------------

    def _role_chosen(self) -> None:
        self.editing.give_role()
        self.refresh()

    def _readied(self, name: str) -> None:
        """A common shape was chosen; where no cell is selected it is brushed."""
        self.board.chosen = name
        self.board.update()
        if not self.session.selection.cell_ids and self.active.reshapes:
            self.use(GiveShape.id)
