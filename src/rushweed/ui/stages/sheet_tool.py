"""A tool of a stage that shows a sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

from rushweed.ui.desk.tool import Tool
from rushweed.ui.stages.select_cells import SelectCells

if TYPE_CHECKING:
    from rushweed.ui.desk.event import DeskEvent
    from rushweed.ui.stages.sheet_stage import SheetStage


class SheetTool(Tool):
    """Where it does nothing of its own with the pointer, cells are selected."""

    def __init__(self, stage: SheetStage) -> None:
        super().__init__()
        self.stage, self.session = stage, stage.session

    def taken(self) -> None:
        """It comes into use."""

    def press(self, at: DeskEvent) -> None:
        self.stage.selecting.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.stage.selecting.drag(at)

    def release(self, at: DeskEvent) -> None:
        self.stage.selecting.release(at)

    def hover(self, at: DeskEvent) -> None:
        """The pointer is somewhere else."""

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Whether a key meant anything here."""
        return False


class Point(SheetTool):
    id, words, icon, key, help = (
        SelectCells.id, SelectCells.words, SelectCells.icon, SelectCells.key, SelectCells.help,
    )  # fmt: skip

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ArrowCursor
