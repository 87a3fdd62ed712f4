"""The card of Shape: the common shapes to press, and the shapes of one cell."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.primitives import COMMON
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.theme import Look


class CommonBoard(Keyed):
    """The common shapes as small pictures to press."""

    edited = pyqtSignal(str)
    SIDE, ACROSS = 27, 9

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.chosen = "full"
        self._hover = -1
        rows = -(-len(COMMON) // self.ACROSS)
        self.setFixedSize(self.ACROSS * self.SIDE, rows * self.SIDE)
        self.setMouseTracking(True)
        self.set_keyed("Common shapes")

    def spots(self) -> list[Spot]:
        side, across = self.SIDE, self.ACROSS
        boxes = (QRectF(i % across * side, i // across * side, side, side) for i in range(len(COMMON)))
        return [Spot(box, name) for box, name in zip(boxes, COMMON, strict=True)]

    def first_spot(self) -> int:
        return list(COMMON).index(self.chosen)

    def _at(self, event: QMouseEvent) -> int:
        column, line = int(event.position().x() // self.SIDE), int(event.position().y() // self.SIDE)
        index = line * self.ACROSS + column
        return index if 0 <= column < self.ACROSS and 0 <= index < len(COMMON) else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = self._at(event)
        if index >= 0:
            self.chosen = list(COMMON)[index]
            self.update()
            self.edited.emit(self.chosen)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._hover = self._at(event)
        if self._hover >= 0:
            name = list(COMMON)[self._hover]
            key = f"  ({self._hover + 1})" if self._hover < 9 else ""
            self.setToolTip(f"{name.capitalize()}{key}\nGive it to the selected cells")
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        for i, (name, points) in enumerate(COMMON.items()):
            box = QRectF(i % self.ACROSS * self.SIDE, i // self.ACROSS * self.SIDE, self.SIDE, self.SIDE)
            inner = box.adjusted(5, 5, -5, -5)
            if i == self._hover:
                painter.fillRect(box.adjusted(1, 1, -1, -1), look.colour("straw_wash"))
            painter.setPen(look.colour("rule"))
            painter.setBrush(look.colour("raised"))
            painter.drawRect(inner)
            ring = QPolygonF(
                [QPointF(inner.x() + x * inner.width(), inner.y() + y * inner.height()) for x, y in points]
            )
            rust = name == self.chosen
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(look.colour("rust" if rust else "ink"), 1.5))
            painter.setBrush(look.colour("rust_wash" if rust else "rule_deep"))
            painter.drawPolygon(ring)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def sizeHint(self) -> QSize:
        return self.size()


class ShapeList(Keyed):
    """The shapes of one cell, each with its pattern; a press selects."""

    chosen = pyqtSignal(int)
    ROW = 24

    def __init__(self, look: Look, marks: ShapeMarks) -> None:
        super().__init__()
        self.look, self.marks = look, marks
        self.cell: Cell | None = None
        self._index: int | None = None
        self.setFixedHeight(self.ROW)
        self.set_keyed("Shapes of the cell")

    def spots(self) -> list[Spot]:
        shapes = self.cell.shapes if self.cell is not None else ()
        boxes = (QRectF(0, i * self.ROW, self.width(), self.ROW) for i in range(len(shapes)))
        return [Spot(b, f"{type(s).__name__}, {s.role}") for b, s in zip(boxes, shapes, strict=True)]

    def first_spot(self) -> int:
        return self._index or 0

    def show_cell(self, cell: Cell | None, index: int | None) -> None:
        self.cell, self._index = cell, index
        self.setFixedHeight(max(len(cell.shapes) if cell else 0, 1) * self.ROW)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = int(event.position().y() // self.ROW)
        if self.cell is not None and 0 <= index < len(self.cell.shapes):
            self.chosen.emit(index)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.setFont(look.font(12))
        if self.cell is None or not self.cell.shapes:
            painter.setPen(look.colour("quiet"))
            words = "no shape yet: press one above" if self.cell else "select one cell to see its shapes"
            painter.drawText(QRectF(0, 0, self.width(), self.ROW), left, words)
            return
        for i, shape in enumerate(self.cell.shapes):
            box = QRectF(0, i * self.ROW, self.width(), self.ROW)
            now = i == (self._index or 0)
            if now:
                painter.fillRect(box, look.colour("raised"))
                painter.fillRect(QRectF(0, box.top(), 3, self.ROW), look.colour("rust"))
            self.marks.sample(painter, QRectF(10, box.top() + 5, 20, 14), shape.role)
            painter.setPen(look.colour("ink"))
            painter.setFont(look.font(12, now))
            form = type(shape).__name__
            tail = f", blocks from the {shape.blocks_from}" if shape.role == "one-way" else ""
            painter.drawText(box.adjusted(38, 0, 0, 0), left, f"{form}, {shape.role}{tail}")
