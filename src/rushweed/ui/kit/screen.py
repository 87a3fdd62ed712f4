"""Windows and the screen they are on."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QPoint, QSettings, QTimer
from PyQt6.QtGui import QScreen
from PyQt6.QtWidgets import QWidget

SMALLEST, USUAL = (960, 600), (1280, 800)  # px of a window
TITLE_BAR = 40  # px above the window that a desktop needs for its own bar
AFTER_MS = 400  # a window that is dragged to another screen is let be while it is on its way


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


def place_window(window: QWidget, saved: QSettings) -> None:
    """Place and size as they were left."""
    shape = saved.value("window")
    if shape is not None:
        window.restoreGeometry(shape)
    else:
        window.resize(*USUAL)
    fit_screen(window)


class KeepsToScreen(QObject):
    """Fits a window again when it came to another screen, or when its screen changed."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._screen: QScreen | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(AFTER_MS)
        self._soon.timeout.connect(lambda: fit_screen(window))
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Show:
            handle = self._window.windowHandle()
            if handle is not None:
                self._window.removeEventFilter(self)
                handle.screenChanged.connect(self._moved)
                self._follow()
        return super().eventFilter(watched, event)

    def _follow(self) -> None:
        if self._screen is not None and not sip.isdeleted(self._screen):  # one that is unplugged goes
            self._screen.availableGeometryChanged.disconnect(self._changed)
        self._screen = self._window.screen()
        if self._screen is not None:
            self._screen.availableGeometryChanged.connect(self._changed)

    def _moved(self) -> None:
        self._follow()
        self._changed()

    def _changed(self) -> None:
        self._soon.start()
