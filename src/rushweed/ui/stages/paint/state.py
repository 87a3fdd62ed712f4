"""What the tools, the marks and the commands of Paint share."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QRectF, pyqtSignal

from rushweed.core.level.caution import Caution
from rushweed.core.level.wide import Selected
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.stages.paint.shown import Shown
from rushweed.ui.stages.paint.stamp_line import StampLine


class PaintState(QObject):
    """Where the pointer is, what is selected, how the stamp is laid and what is shown."""

    tool_wanted = pyqtSignal(str)
    layer_wanted = pyqtSignal(str)  # to be shown
    chosen_changed = pyqtSignal()  # other things, or another room

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.session, self.look, self.icons = context.session, context.look, context.icons
        self.desk = context.desk
        self.shown, self.stamp_line = Shown(context), StampLine(context)
        self.marks = ShapeMarks(self.look)
        self.tool_id = ""  # of the tool in use
        self.at: tuple[int, int] | None = None  # cell under the pointer
        self.warned: Caution | None = None
        self.chosen: Selected | None = None  # cells of the layer in use
        self.room_id = ""  # of the room that is worked on
        self.every = 1  # cells between the lines of the grid

    def content(self) -> QRectF:
        """The room that the level takes, level px."""
        level = self.session.selection.level
        if level is None:
            return QRectF(0, 0, 1, 1)
        (x, y, columns, rows), (cw, ch) = level.bounds, level.cell
        return QRectF(x * cw, y * ch, columns * cw, rows * ch)

    def cell(self, at: DeskEvent) -> tuple[int, int]:
        """The column and row under the pointer."""
        level = self.session.selection.level
        assert level is not None
        return int(at.x // level.cell[0]), int(at.y // level.cell[1])

    def choose_room(self, room_id: str) -> None:
        """Work on a room."""
        self.room_id = room_id
        self.chosen_changed.emit()
        self.desk.update()
