"""Fields in which one of several is chosen."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PyQt6.QtWidgets import QComboBox, QListView, QSizePolicy, QWidget

from rushweed.ui.kit.controls import HIGH
from rushweed.ui.kit.keyed import Spot
from rushweed.ui.kit.theme import Look


class ChoiceRow(QWidget):
    """A few choices in one frame; the chosen one is raised with a line of reed at its foot."""

    edited = pyqtSignal(str)

    def __init__(
        self, look: Look, choices: Sequence[tuple[str, str]], paint_icon: Callable[..., None] | None = None
    ) -> None:
        super().__init__()
        self.look, self.choices = look, list(choices)
        self._value: str | None = choices[0][0]
        self._hover = -1
        self._paint_icon = paint_icon  # (painter, rect, key): drawn before the words
        self.setProperty("says", ", ".join(words for _key, words in choices))
        self.setFixedHeight(HIGH)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    @property
    def value(self) -> str | None:
        return self._value

    def show_value(self, value: str | None) -> None:
        if value != self._value:
            self._value = value
            self.setAccessibleDescription(dict(self.choices).get(value or "", ""))
            self.update()

    def _widths(self) -> list[float]:
        metrics = QFontMetricsF(self.look.font(12, True))
        icon = 26 if self._paint_icon else 0
        return [round(metrics.horizontalAdvance(words)) + 16 + icon for _key, words in self.choices]

    def sizeHint(self) -> QSize:
        return QSize(int(sum(self._widths())) + 1, HIGH)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def _at(self, x: float) -> int:
        left = 0.0
        for i, width in enumerate(self._widths()):
            if left <= x < left + width:
                return i
            left += width
        return -1

    def choose(self, index: int) -> None:
        key = self.choices[index][0]
        if key != self._value:
            self.show_value(key)
            self.edited.emit(key)

    def spots(self) -> list[Spot]:
        """Each choice, for who cannot see them."""
        made, left = [], 0.0
        for (_key, words), width in zip(self.choices, self._widths(), strict=True):
            made.append(Spot(QRectF(left, 0, width, self.height()), words))
            left += width
        return made

    def first_spot(self) -> int:
        return next((n for n, (key, _words) in enumerate(self.choices) if key == self._value), -1)

    def press_spot(self, number: int) -> None:
        self.choose(number)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = self._at(event.position().x())
        if index >= 0:
            self.choose(index)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = self._at(event.position().x())
        if index != self._hover:
            self._hover = index
            self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hover = -1
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        keys = [k for k, _w in self.choices]
        now = keys.index(self._value) if self._value in keys else 0
        self.choose((now + step) % len(keys))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.setPen(look.colour("reed" if self.hasFocus() else "rule"))
        painter.drawRoundedRect(frame, 3, 3)
        left = 0.0
        for i, ((key, words), width) in enumerate(zip(self.choices, self._widths(), strict=True)):
            box = QRectF(left, 0, width, self.height())
            chosen = key == self._value
            if chosen:
                painter.fillRect(box.adjusted(1, 1, 0, -1), look.colour("raised"))
                painter.fillRect(QRectF(left + 1, self.height() - 3, width - 1, 2), look.colour("reed"))
            elif i == self._hover:
                painter.fillRect(box.adjusted(1, 1, 0, -1), look.colour("straw_wash"))
            if i:
                painter.fillRect(QRectF(left, 1, 1, self.height() - 2), look.colour("rule"))
            painter.setFont(look.font(12, chosen))
            painter.setPen(look.colour("reed" if chosen else "ink"))
            text = box
            if self._paint_icon:
                self._paint_icon(painter, QRectF(left + 8, 5, 20, 14), key)
                text = box.adjusted(28, 0, 0, 0)
            painter.drawText(text, Qt.AlignmentFlag.AlignCenter, words)
            left += width


class PickBox(QComboBox):
    """A list to choose one of, with a caret; `picked` speaks only when a person chooses."""

    picked = pyqtSignal(str)

    def __init__(self, look: Look, choices: Sequence[str]) -> None:
        super().__init__()
        self.look = look
        rows = self.view()
        assert isinstance(rows, QListView)
        rows.setUniformItemSizes(True)  # else a theme measures each of hundreds of names
        self.addItems(list(choices))
        self.setFixedHeight(HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.activated.connect(lambda index: self.picked.emit(self.itemText(index)))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.look.colour("quiet"), 1.5))
        x, y = self.width() - 14, self.height() / 2 - 2
        painter.drawPolyline(QPolygonF([QPointF(x - 4, y), QPointF(x, y + 4), QPointF(x + 4, y)]))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        event.ignore()  # turning the wheel over a card scrolls, it never changes a value
