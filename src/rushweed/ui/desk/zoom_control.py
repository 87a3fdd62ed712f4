"""The zoom of the Canvas, as words that can be pressed."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from rushweed.ui.desk.canvas import Canvas
from rushweed.ui.kit.controls import HIGH, IconButton
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look


class ZoomControl(QWidget):
    """Out, the zoom now, in; a press on the number fits."""

    def __init__(self, look: Look, icons: Icons, desk: Canvas) -> None:
        super().__init__()
        self.look, self.desk = look, desk
        self.words = ""
        self.setFixedSize(83, HIGH)
        self.out = IconButton(look, icons, "minus", "Zoom out  (-)", framed=True, px=14)
        self.into = IconButton(look, icons, "plus", "Zoom in  (+)", framed=True, px=14)
        for part, x in ((self.out, 0), (self.into, 59)):
            part.setParent(self)
            part.move(x, 0)
        self.out.pressed.connect(lambda: desk.zoom_step(-1))
        self.into.pressed.connect(lambda: desk.zoom_step(1))
        self.setToolTip("Press the number to fit  (Ctrl+0)")
        desk.zoomed.connect(self._show)

    def _show(self, words: str) -> None:
        self.words = words
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.desk.zoom_fit()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(self.look.colour("rule"))
        painter.setBrush(self.look.colour("raised"))
        painter.drawRect(QRectF(20.5, 0.5, 42, 23))
        painter.setFont(self.look.mono(12))
        painter.setPen(self.look.colour("ink"))
        painter.drawText(QRectF(24, 0, 35, HIGH), Qt.AlignmentFlag.AlignCenter, self.words)
