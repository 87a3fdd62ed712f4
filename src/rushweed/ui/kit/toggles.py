"""Things to switch on and off, gathered under one button."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QObject, QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QMenu, QSizePolicy

from rushweed.ui.kit.controls import HIGH, Pressable
from rushweed.ui.kit.theme import Look


class Toggle(QObject):
    """One of them; `edited` speaks when a person switches it. `key` is the key that does so as well."""

    edited = pyqtSignal(bool)

    def __init__(self, words: str, on: bool = False, key: str = "", help: str = "") -> None:
        super().__init__()
        self.words, self.on, self.key, self.help = words, on, key, help

    def show_value(self, on: bool) -> None:
        self.on = on

    def toggle(self) -> None:
        self.on = not self.on
        self.edited.emit(self.on)


class DropButton(Pressable):
    """Words with a hook that says that something opens below."""

    def __init__(self, look: Look, words: str) -> None:
        super().__init__()
        self.look = look
        self.setFixedHeight(HIGH)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.show_words(words)

    def show_words(self, words: str) -> None:
        self.words = words
        self.setAccessibleName(words)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(int(QFontMetricsF(self.look.font(12)).horizontalAdvance(self.words)) + 34, HIGH)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(look.colour("reed" if self.hasFocus() else "rule_deep"))
        painter.setBrush(look.colour("raised"))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 3, 3)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("ink"))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(8, 0, self.width() - 24, self.height()), middle, self.words)
        painter.setPen(QPen(look.colour("quiet"), 1.5))
        x, y = self.width() - 14, self.height() / 2 - 2
        painter.drawPolyline(QPolygonF([QPointF(x - 4, y), QPointF(x, y + 4), QPointF(x + 4, y)]))


class ToggleButton(DropButton):
    """Opens a list of toggles, each with a tick where it is on."""

    def __init__(self, look: Look, words: str, toggles: Sequence[Toggle]) -> None:
        super().__init__(look, words)
        self.toggles = toggles
        self.fill: Callable[[], Sequence[Toggle]] | None = None  # the toggles as they are when it is opened
        self.setToolTip("What is shown beside the tiles")
        self.pressed.connect(self.open)

    def menu(self) -> QMenu:
        if self.fill is not None:
            self.toggles = self.fill()
        made = QMenu(self)
        made.setStyleSheet(self.look.rules())
        made.setToolTipsVisible(True)
        for toggle in self.toggles:
            action = QAction(f"{toggle.words}\t{toggle.key}" if toggle.key else toggle.words, made)
            action.setCheckable(True)
            action.setChecked(toggle.on)
            action.setToolTip(toggle.help)
            action.triggered.connect(toggle.toggle)
            made.addAction(action)
        return made

    def open(self) -> None:
        self.menu().exec(self.mapToGlobal(QPoint(0, self.height())))
