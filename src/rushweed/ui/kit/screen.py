"""Windows and the screen they are on."""

from __future__ import annotations

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QWidget

TITLE_BAR = 40  # px above the window that a desktop needs for its own bar


def fit_screen(window: QWidget) -> None:
    """Never larger than what the screen has free, nor beyond its edges."""
    screen = window.screen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    room = screen.availableGeometry()
    wide, high = min(window.width(), room.width()), min(window.height(), room.height() - TITLE_BAR)
    window.setMinimumSize(min(window.minimumWidth(), wide), min(window.minimumHeight(), high))
    window.resize(wide, high)
    x = max(min(window.x(), room.right() + 1 - wide), room.left())
    y = max(min(window.y(), room.bottom() + 1 - high), room.top())
    if window.pos() != QPoint(x, y):
        window.move(x, y)
