"""What the Desk shows: its content, its rulers, words about the place under the pointer, and what pointer
and keys do there."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band
from rushweed.ui.session import Session


class Scene(QObject):
    """Content px are those of a sheet, a level or a board of pages; the view says where on screen."""

    ruler_unit = "px"
    strip = "cells"  # what stands under the Desk: cells, tray, timeline or log

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    def view_key(self) -> str:
        """Names what is shown, or is empty when there is nothing."""
        return ""

    def content(self) -> QRectF:
        """The room that all of it takes, content px."""
        return QRectF(0, 0, 1, 1)

    def pointer_step(self) -> tuple[float, float]:
        """How far the pointer that keys move goes at once, content px: a cell in a level, else one px."""
        level = self.session.selection.level if self.strip in ("tray", "log") else None
        return level.cell if level is not None else (1, 1)

    def empty_words(self) -> tuple[str, str]:
        """What stands on the Desk while there is nothing: a head and what to do."""
        return "", ""

    def paint(self, painter: QPainter, room: QRectF) -> None:
        """Draw it; only what is in a part of the Desk, screen px, has to be."""

    @property
    def unfinished(self) -> bool:
        """Whether some of what is in sight is left for the next turns of the event loop."""
        return False

    def ruler(self, band: Band) -> None:
        """Draw the ticks of one ruler."""

    def describe(self, at: DeskEvent) -> str:
        """What is under the pointer."""
        return ""

    def dirty(self, old: object, new: object) -> QRectF | None:
        """The part of the Desk an edit changes, screen px, or None for all of it."""
        return None

    def hover_region(self) -> QRectF | None:
        """The part of the Desk the last pointer move changes, or None for all of it."""
        return None

    def left(self) -> None:
        """Another scene takes its place."""

    # -- pointer and keys --------------------------------------------------------------------------------

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ArrowCursor

    def press(self, at: DeskEvent) -> None: ...

    def drag(self, at: DeskEvent) -> None: ...

    def release(self, at: DeskEvent) -> None: ...

    def hover(self, at: DeskEvent) -> None: ...

    def leave(self) -> None:
        """The pointer has left the Desk."""

    def escape(self) -> None:
        """Escape was pressed."""

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Whether a key meant anything here."""
        return False

    def takes_key(self, event: QKeyEvent) -> bool:
        """Whether a key is the Desk's now, whatever command it calls elsewhere."""
        return False

    def key_released(self, event: QKeyEvent) -> None: ...

    def focus_lost(self) -> None: ...
