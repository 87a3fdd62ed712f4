"""The nine places of a pivot: a list for the card, a board of nine for Tune."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent

from rushweed.core.tune.edit import PLACES
from rushweed.ui.kit.choices import PickBox
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.theme import Look


class PlaceBox(PickBox):
    """The nine places by name."""

    def __init__(self, look: Look) -> None:
        super().__init__(look, list(PLACES))

    def show_value(self, name: str | None, mixed: bool = False) -> None:
        self.setPlaceholderText("mixed" if mixed else "own place" if self.isEnabled() else "–")
        self.setCurrentIndex(list(PLACES).index(name) if name else -1)


class PlaceBoard(Keyed):
    """Nine squares to press, the chosen one in rust."""

    edited = pyqtSignal(str)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self._value: str | None = None
        self._hover = -1
        self.setFixedSize(84, 84)
        self.setMouseTracking(True)
        self.setToolTip("Where the pivot stands in each cell")
        self.set_keyed("Pivot")

    def spots(self) -> list[Spot]:
        return [Spot(QRectF(i % 3 * 28, i // 3 * 28, 28, 28), name) for i, name in enumerate(PLACES)]

    def first_spot(self) -> int:
        return list(PLACES).index(self._value) if self._value else 4

    def show_value(self, name: str | None) -> None:
        if name != self._value:
            self._value = name
            self.update()

    def _at(self, event: QMouseEvent) -> int:
        column, line = int(event.position().x() // 28), int(event.position().y() // 28)
        return line * 3 + column if 0 <= column < 3 and 0 <= line < 3 else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = self._at(event)
        if index >= 0 and self.isEnabled():
            self.edited.emit(list(PLACES)[index])

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._hover = self._at(event)
        if self._hover >= 0:
            self.setToolTip(f"Pivot at the {list(PLACES)[self._hover]}")
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.setPen(look.colour("rule"))
        painter.setBrush(look.colour("raised"))
        painter.drawRect(QRectF(14.5, 14.5, 55, 55))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, name in enumerate(PLACES):
            centre = QRectF(i % 3 * 28, i // 3 * 28, 28, 28).center()
            chosen = name == self._value
            size = 6 if chosen else 4
            role = "rust" if chosen else "straw_deep" if i == self._hover else "quiet"
            painter.setPen(look.colour("paper"))
            painter.setBrush(look.colour(role if self.isEnabled() else "rule_deep"))
            box = QRectF(centre.x() - size, centre.y() - size, size * 2, size * 2)
            painter.drawEllipse(box) if chosen else painter.drawRect(box)
