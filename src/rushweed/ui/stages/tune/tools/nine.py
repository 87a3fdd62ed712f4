"""The guides of a nine-slice, dragged on the cells."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.model.sheet import Cell
from rushweed.core.tune.nine import MARGINS, set_margins, thirds
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.text import many
from rushweed.ui.session.gesture import Edit
from rushweed.ui.stages.sheet_pointer import SheetPointer
from rushweed.ui.stages.tune.nine import OPPOSITE, NineCard
from rushweed.ui.stages.tune.tools.tool import TuneTool

GRAB = 6  # screen px within which a guide is caught


class NineGuides(TuneTool):
    """The guides on the Desk: four lines through each chosen cell."""

    id, words, icon, key = "nine", "Nine-slice", "frame-corners", "N"
    help = "Drag the guides; Shift moves both of a pair"
    group = 1

    def __init__(self, pointer: SheetPointer, card: NineCard) -> None:
        super().__init__(pointer, card)
        self._cells = card.cells
        self._held: tuple[Cell, str] | None = None
        self._wanted: dict[str, int] | None = None

    def _guide_at(self, event: DeskEvent) -> tuple[Cell, str] | None:
        """The guide under the pointer: its cell and margin."""
        best: tuple[float, Cell, str] | None = None
        for cell in self._cells():
            box = self.desk.view.rect(*cell.rect)
            if not box.adjusted(-12, -12, 12, 12).contains(event.screen):
                continue
            for name, line in self._lines(cell).items():
                upright = name in ("left", "right")
                gap = abs(event.screen.x() - line.x1() if upright else event.screen.y() - line.y1())
                if gap <= GRAB and (best is None or gap < best[0]):
                    best = gap, cell, name
        return (best[1], best[2]) if best else None

    def press(self, at: DeskEvent) -> None:
        self._held = self._guide_at(at)
        if self._held is None:
            super().press(at)

    def drag(self, at: DeskEvent) -> None:
        if self._held is None:
            super().drag(at)
            return
        cell, name = self._held
        x, y, w, h = cell.rect
        place = {"left": at.x - x, "right": x + w - at.x, "top": at.y - y, "bottom": y + h - at.y}
        stretch = cell.stretch or thirds(cell)
        side = w if name in ("left", "right") else h
        both = at.shift
        most = side // 2 if both else side - getattr(stretch, OPPOSITE[name])
        value = min(max(round(place[name]), 0), most)
        wanted = {name: value, OPPOSITE[name]: value} if both else {name: value}
        self._wanted = {m: wanted.get(m, getattr(stretch, m)) for m in MARGINS}
        self.session.document.preview(self._change())

    def release(self, at: DeskEvent) -> None:
        if self._held is None:
            super().release(at)
        elif self._wanted is not None:
            ids = self._ids()
            self.session.document.edit(f"Nine-slice of {many(len(ids), 'cell')}", self._change())
        self._held = self._wanted = None

    def cancel(self) -> None:
        self._held = self._wanted = None

    def _ids(self) -> list[str]:
        return [c.id for c in self._cells()]

    def _change(self) -> Edit:
        ids, wanted = self._ids(), dict(self._wanted or {})
        return lambda p: set_margins(p, ids, **wanted)

    def _lines(self, cell: Cell) -> dict[str, QLineF]:
        view, stretch = self.desk.view, cell.stretch or thirds(cell)
        x, y, w, h = cell.rect
        a, b = view.to_screen(x, y), view.to_screen(x + w, y + h)
        left, right = (view.to_screen(v, 0).x() for v in (x + stretch.left, x + w - stretch.right))
        top, bottom = (view.to_screen(0, v).y() for v in (y + stretch.top, y + h - stretch.bottom))
        return {
            "left": QLineF(left, a.y() - 10, left, b.y() + 10), "right": QLineF(right, a.y() - 10, right,
            b.y() + 10),
            "top": QLineF(a.x() - 10, top, b.x() + 10, top), "bottom": QLineF(a.x() - 10, bottom, b.x() + 10,
            bottom),
        }  # fmt: skip

    def paint(self, painter: QPainter, room: QRectF) -> None:
        look = self.look
        for cell in self._cells():
            if not self.desk.view.rect(*cell.rect).intersects(room):
                continue
            set_ = cell.stretch is not None
            for name, line in self._lines(cell).items():
                mine = self._held is not None and self._held[1] == name
                painter.setPen(QPen(look.colour("art_casing", 0.7), 3))
                painter.drawLine(line)
                style = Qt.PenStyle.SolidLine if set_ else Qt.PenStyle.DashLine
                painter.setPen(QPen(look.colour("art_rust" if mine else "art_straw"), 1, style))
                painter.drawLine(line)
                if mine or len(self._cells()) == 1:
                    stretch = cell.stretch or thirds(cell)
                    at = self._tag_at(name, line)
                    tag(painter, look, at.x(), at.y(), f"{getattr(stretch, name)} px", rust=mine)

    @staticmethod
    def _tag_at(name: str, line: QLineF) -> QPointF:
        if name == "left":
            return QPointF(line.x1() - 46, line.y1() - 8)
        if name == "right":
            return QPointF(line.x1() + 6, line.y1() - 8)
        return QPointF(line.x2() + 4, line.y2() - 8)
