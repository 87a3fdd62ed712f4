"""The mark and the name of the program, as they stand at the upper left of the window."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from rushweed.ui.kit.theme import Look


def paint_mark(painter: QPainter, look: Look, x: float, y: float) -> None:
    """Three rushes over a line of rust, 24 px."""
    for dx, top, high in ((5, 5, 13), (11, 1, 17), (17, 7, 11)):
        painter.fillRect(QRectF(x + dx, y + top, 3, high), look.colour("reed"))
    painter.fillRect(QRectF(x + 10, y + 3, 5, 7), look.colour("ink"))
    painter.fillRect(QRectF(x, y + 20, 24, 2), look.colour("rust"))


def paint_name(painter: QPainter, look: Look) -> None:
    """The name beside the mark, in a line of 40 px."""
    painter.setFont(look.font(16, True))
    painter.setPen(look.colour("ink"))
    left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
    painter.drawText(QRectF(40, 0, 110, 40), left, "Rushweed")
