"""Drawing cells, and moving and resizing those that are selected."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen

from rushweed.core.cut import hand
from rushweed.core.cut.match_cells import Rect
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.text import many
from rushweed.ui.stages.cut.tools.tool import CutTool
from rushweed.ui.stages.select_cells import ARROWS

NEAR = 6  # screen px within which an edge is caught
SHAPES = {
    "l": Qt.CursorShape.SizeHorCursor, "r": Qt.CursorShape.SizeHorCursor,
    "t": Qt.CursorShape.SizeVerCursor, "b": Qt.CursorShape.SizeVerCursor,
    "lt": Qt.CursorShape.SizeFDiagCursor, "rb": Qt.CursorShape.SizeFDiagCursor,
    "rt": Qt.CursorShape.SizeBDiagCursor, "lb": Qt.CursorShape.SizeBDiagCursor,
}  # fmt: skip


class DrawCells(CutTool):
    """While the pointer is down the project is a preview."""

    id, words, icon, key = "box", "Draw and move cells", "bounding-box", "B"
    help = "Drag a new cell, or one that is selected by its inside or its edges; arrows nudge it"
    group = 1
    _start: tuple[float, float] | None = None
    _drawn: Rect | None = None
    _sides: str | None = None  # the edges caught, "" for the whole cell
    _moved = (0, 0)

    def press(self, at: DeskEvent) -> None:
        self._start, self._moved, self._drawn = (at.x, at.y), (0, 0), None
        self._sides = self.sides(at)
        cell = self.pointer.cell_under(at)
        if self._sides is None and cell is not None:
            self.pointer.selecting.pick(cell, at.ctrl, at.shift)
            if cell.id in self.session.selection.cell_ids:
                self._sides = ""
            else:
                self._start = None

    def drag(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        if self._start is None or sheet is None:
            return
        dx, dy = round(at.x - self._start[0]), round(at.y - self._start[1])
        if self._sides is not None:
            if at.shift and self._sides == "":  # one direction only
                dx, dy = (dx, 0) if abs(dx) >= abs(dy) else (0, dy)
            self._moved = (dx, dy)
            self.session.document.preview(self._change(sheet, self._sides))
        else:
            x0, x1 = sorted((round(self._start[0]), round(at.x)))
            y0, y1 = sorted((round(self._start[1]), round(at.y)))
            self._drawn = (x0, y0, x1 - x0, y1 - y0)

    def release(self, at: DeskEvent) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        start, drawn, sides = self._start, self._drawn, self._sides
        self._start = self._drawn = self._sides = None
        if sheet is None or start is None:
            return
        if drawn is not None:
            if drawn[2] and drawn[3]:
                self.making.edit_choosing("Draw a cell", partial(_draw, sheet_id=sheet.id, rect=drawn))
        elif sides is not None and self._moved != (0, 0):
            words = "Resize" if sides else "Move"
            self.session.document.edit(f"{words} {many(len(ids), 'cell')}", self._change(sheet, sides))
        elif sides is None and not at.ctrl:
            self.session.selection.choose_cells(())

    def cancel(self) -> None:
        self._start = self._drawn = self._sides = None

    def _change(self, sheet: Sheet, sides: str) -> Callable[[Project], Project]:
        (dx, dy), ids = self._moved, set(self.session.selection.cell_ids)
        if sides:
            return partial(hand.drag_edges, sheet_id=sheet.id, cell_ids=ids, sides=sides, dx=dx, dy=dy)
        return partial(hand.move_cells, sheet_id=sheet.id, cell_ids=ids, dx=dx, dy=dy)

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Arrows nudge the cells by a px, with Shift by ten; with Ctrl their far edges."""
        step = ARROWS.get(Qt.Key(event.key()))
        if step is None or not self.session.selection.cells:
            return False
        far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        sides = "rb" if event.modifiers() & Qt.KeyboardModifier.ControlModifier else ""
        self.by_hand.nudge(step[0] * far, step[1] * far, sides)
        return True

    def cursor(self) -> Qt.CursorShape:
        at = self.pointer.at
        if at is None:
            return Qt.CursorShape.CrossCursor
        sides = self._sides if self._start is not None else self.sides(at)
        if sides:
            return SHAPES[sides]
        over = sides == "" or self.pointer.cell_under(at) is not None
        return Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.CrossCursor

    def sides(self, at: DeskEvent) -> str | None:
        """The edges of a selected cell under the pointer, "" for its inside, None for no such cell."""
        zoom = self.desk.view.zoom
        near = NEAR / zoom
        for cell in reversed(self.session.selection.cells):
            x, y, w, h = cell.rect
            if not (x - near <= at.x <= x + w + near and y - near <= at.y <= y + h + near):
                continue
            reach = min(near, w / 3), min(near, h / 3)  # a small cell keeps an inside to move it by
            sides = "l" if at.x < x + reach[0] else "r" if at.x > x + w - reach[0] else ""
            sides += "t" if at.y < y + reach[1] else "b" if at.y > y + h - reach[1] else ""
            return sides
        return None

    def paint(self, painter: QPainter, room: QRectF) -> None:
        view, look, cells = self.desk.view, self.look, self.session.selection.cells
        if self._drawn is not None:
            box = view.rect(*self._drawn)
            paint_corners(painter, box, 14, look.colour("art_rust"), look.colour("art_paper"))
            painter.setPen(QPen(look.colour("art_rust"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            words = f"{self._drawn[2]} × {self._drawn[3]} px"
            tag(painter, look, box.right() + 6, box.bottom() + 6, words, rust=True)
        for cell in cells[:64]:
            self._paint_grips(painter, view.rect(*cell.rect))
        if self._start is not None and self._sides is not None and cells and self._moved != (0, 0):
            x, y, w, h = cells[0].rect
            words = f"{x}, {y}" if self._sides == "" else f"{w} × {h} px"
            box = view.rect(x, y, w, h)
            tag(painter, look, box.right() + 6, box.bottom() + 6, words, rust=True)

    def _paint_grips(self, painter: QPainter, box: QRectF) -> None:
        """A short bar on each edge to take hold of."""
        look = self.look
        if box.width() < 24 or box.height() < 24:
            return
        box = box.adjusted(-1, -1, 1, 1)
        middle = box.center()
        bars = [
            QLineF(middle.x() - 5, box.top(), middle.x() + 5, box.top()),
            QLineF(middle.x() - 5, box.bottom(), middle.x() + 5, box.bottom()),
            QLineF(box.left(), middle.y() - 5, box.left(), middle.y() + 5),
            QLineF(box.right(), middle.y() - 5, box.right(), middle.y() + 5),
        ]
        for colour, wide in ((look.colour("art_paper"), 6), (look.colour("art_rust"), 3)):
            painter.setPen(QPen(colour, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap))
            for bar in bars:
                painter.drawLine(bar)


def _draw(project: Project, sheet_id: str, rect: Rect) -> tuple[Project, tuple[str, ...]]:
    project, made = hand.draw_cell(project, sheet_id, rect)
    return project, (made,)
