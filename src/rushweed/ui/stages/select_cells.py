"""Selecting cells of the sheet that is shown: press one, drag over many, walk over them with the arrows."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen

from rushweed.core.document.model.sheet import Cell
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.tool import Tool

ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
LEAST_BAND = 4  # screen px that a rubber band has


class SelectCells(Tool):
    """What the pointer does where no other tool is meant."""

    id, words, icon, key = "point", "Select", "cursor", "V"
    help = "Select cells; drag a box for many, Ctrl adds"

    def __init__(self, context: Context, cell_under: Callable[[DeskEvent], Cell | None]) -> None:
        super().__init__()
        self.context, self.session, self._cell_under = context, context.session, cell_under
        self._band: tuple[QPointF, QPointF] | None = None  # rubber band, sheet px
        self.anchor: str | None = None  # the cell from which a drag takes all up to the pointer

    def press(self, at: DeskEvent) -> None:
        cell = self._cell_under(at)
        if cell is None:
            if not at.ctrl:
                self.session.selection.choose_cells(())
            self._band = (QPointF(at.x, at.y), QPointF(at.x, at.y))
            return
        self.pick(cell, at.ctrl, at.shift)
        self._band = None
        if not (at.ctrl or at.shift):
            self.anchor = cell.id

    def pick(self, cell: Cell, add: bool, span: bool) -> None:
        """Select a cell; `add` toggles it, `span` takes all from the last to it."""
        ids = self.session.selection.cell_ids
        sheet = self.session.selection.sheet
        if span and ids and sheet:
            order = [c.id for c in sheet.cells]
            a, b = order.index(ids[-1]) if ids[-1] in order else 0, order.index(cell.id)
            chosen = order[min(a, b) : max(a, b) + 1]
            self.session.selection.choose_cells((*(i for i in chosen if i != ids[-1]), ids[-1]))
        elif add:
            rest = tuple(i for i in ids if i != cell.id)
            self.session.selection.choose_cells(rest if cell.id in ids else (*rest, cell.id))
        else:
            self.session.selection.choose_cells((cell.id,))

    def drag(self, at: DeskEvent) -> None:
        if self._band is not None:
            self._band = (self._band[0], QPointF(at.x, at.y))
        elif self.anchor is not None:
            cell, sheet = self._cell_under(at), self.session.selection.sheet
            start = next((c for c in sheet.cells if c.id == self.anchor), None) if sheet else None
            if cell is not None and start is not None and sheet is not None and cell is not start:
                (ax, ay, aw, ah), (bx, by, bw, bh) = start.rect, cell.rect
                box = QRectF(min(ax, bx), min(ay, by), 0, 0)
                box.setRight(max(ax + aw, bx + bw))
                box.setBottom(max(ay + ah, by + bh))
                inside = self.context.desk.cell_index.within(sheet, box)
                self.session.selection.choose_cells(tuple(c.id for c in inside))

    def release(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        if self._band is not None and sheet is not None:
            box, zoom = QRectF(*self._band).normalized(), self.context.desk.view.zoom
            if box.width() * zoom > LEAST_BAND or box.height() * zoom > LEAST_BAND:
                inside = tuple(c.id for c in self.context.desk.cell_index.within(sheet, box))
                before = self.session.selection.cell_ids if at.ctrl else ()
                self.session.selection.choose_cells((*before, *(i for i in inside if i not in before)))
        self.cancel()

    def cancel(self) -> None:
        self._band, self.anchor = None, None

    def paint(self, painter: QPainter, room: QRectF) -> None:
        if self._band is None:
            return
        view, look = self.context.desk.view, self.context.look
        box = QRectF(*(view.to_screen(at.x(), at.y()) for at in self._band)).normalized()
        painter.fillRect(box, look.colour("art_straw", 0.18))
        painter.setPen(QPen(look.colour("art_ink"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Arrows walk over the cells; Shift extends."""
        step = ARROWS.get(Qt.Key(event.key()))
        sheet, now = self.session.selection.sheet, self.session.selection.cell
        if step is None or sheet is None or not sheet.cells:
            return False
        target = self._beside(now, sheet.cells, step) if now is not None else sheet.cells[0]
        if target is None:
            return True
        kept: tuple[str, ...] = ()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            kept = tuple(i for i in self.session.selection.cell_ids if i != target.id)
        self.session.selection.choose_cells((*kept, target.id))
        return True

    @staticmethod
    def _beside(now: Cell, cells: tuple[Cell, ...], step: tuple[int, int]) -> Cell | None:
        """The nearest cell that lies that way."""
        x, y, w, h = now.rect
        near = [
            c for c in cells
            if (c.rect[0] - x) * step[0] > 0 and abs(c.rect[1] - y) < h
            or (c.rect[1] - y) * step[1] > 0 and abs(c.rect[0] - x) < w
        ]  # fmt: skip
        return min(near, key=lambda c: abs(c.rect[0] - x) + abs(c.rect[1] - y), default=None)
