"""A tool: what the pointer and the keys do on the Desk while it is in use."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from rushweed.ui.desk.event import DeskEvent


class Tool:
    """One kind of gesture. `key` calls it, `help` explains it in a sentence, `group` puts a rule between
    kinds in the tool column."""

    id = ""
    words = ""
    icon = ""
    key = ""
    help = ""
    group = 0

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.CrossCursor

    def press(self, at: DeskEvent) -> None: ...

    def drag(self, at: DeskEvent) -> None: ...

    def release(self, at: DeskEvent) -> None: ...

    def cancel(self) -> None:
        """Escape, or another tool: what was begun is let be."""

    def step(self, dx: int, dy: int) -> bool:
        """An arrow key; whether it meant anything here."""
        return False

    def paint(self, painter: QPainter, room: QRectF) -> None:
        """Its marks, over everything."""
