"""The window as it stands on the screen, at once; the rest of it comes in when that is loaded."""

from __future__ import annotations

import time

from PyQt6.QtCore import QRectF, QSettings
from PyQt6.QtGui import QCloseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QApplication, QMainWindow

from rushweed.ui.kit.mark import paint_mark, paint_name
from rushweed.ui.kit.screen import SMALLEST, KeepsToScreen, place_window
from rushweed.ui.kit.theme import Look

PATIENCE_S = 0.5  # that a screen is waited for
LEFT, RIGHT, TOP, FOOT = 167, 272, 40, 32  # px of the columns and lines around the Desk, as they usually are


class Shell(QMainWindow):
    """Shows the mark and where the boards will lie, then the window that is put into it."""

    def __init__(self, look: Look, saved: QSettings) -> None:
        super().__init__()
        self.look = look
        self._inside: QMainWindow | None = None
        self._painted = False
        self.setWindowTitle("Rushweed")
        self.setMinimumSize(*SMALLEST)
        place_window(self, saved)
        KeepsToScreen(self)

    def show_at_once(self, app: QApplication) -> None:
        """Show it and let it be painted, however much is yet to be loaded."""
        self.show()
        end = time.monotonic() + PATIENCE_S
        while not self._painted and time.monotonic() < end:
            app.processEvents()

    def take(self, window: QMainWindow) -> None:
        """Show a window, made as a part of this one, in it."""
        self._inside = window
        self.setWindowTitle(window.windowTitle())
        window.windowTitleChanged.connect(self.setWindowTitle)
        focus = window.focusWidget()
        self.setCentralWidget(window)
        window.show()
        if focus is not None:
            focus.setFocus()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._inside is not None:
            return
        look, painter, wide, high = self.look, QPainter(self), self.width(), self.height()
        painter.fillRect(self.rect(), look.colour("paper"))
        paint_mark(painter, look, 8, 8)
        paint_name(painter, look)
        deep = high - TOP - FOOT
        across = ((0, TOP - 1, wide, 1), (0, high - FOOT, wide, 1))
        for x, y, w, h in (*across, (LEFT, TOP, 1, deep), (wide - RIGHT, TOP, 1, deep)):
            painter.fillRect(QRectF(x, y, w, h), look.colour("rule"))
        painter.end()
        self._painted = True

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """What is shown in it says whether it may close."""
        assert event is not None
        inside = self._inside
        event.setAccepted(inside is None or inside.isHidden() or inside.close())
