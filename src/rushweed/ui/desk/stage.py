"""A step of the work: what the Desk shows of it, and what the pointer and the keys do there."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QWidget

from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.scene import Scene
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.option_line import OptionLine

AnyTool = TypeVar("AnyTool", bound=Tool)


class Stage(Scene):
    """One step of the work: a scene, with tools, a card and lines. The Desk calls press, drag, release and
    hover."""

    key = ""
    title = ""
    tools: Sequence[Tool] = ()
    tool_changed = pyqtSignal()

    def __init__(self, context: Context) -> None:
        super().__init__(context.session)
        self.context = context
        self.look, self.icons, self.desk = context.look, context.icons, context.desk
        self.tool = self.tools[0].id if self.tools else ""
        self.option_line = OptionLine(self.look)
        self.proposal_line: QWidget | None = None
        self.card = QWidget()

    @property
    def active(self) -> Tool:
        """The tool in use."""
        return next(tool for tool in self.tools if tool.id == self.tool)

    def the(self, kind: type[AnyTool]) -> AnyTool:
        """The tool of a kind."""
        return next(tool for tool in self.tools if isinstance(tool, kind))

    def refresh(self) -> None:
        """Show the project and the selection as they are now."""

    def entered(self) -> None:
        """The stage has come into view."""

    def look_at_cell(self, column: int, row: int) -> None:
        """Bring a cell of the level into the middle."""
        level = self.session.selection.level
        if level is not None:
            self.desk.look_at((column + 0.5) * level.cell[0], (row + 0.5) * level.cell[1])

    # -- pointer and keys --------------------------------------------------------------------------------

    def cursor(self) -> Qt.CursorShape:
        return self.active.cursor() if self.tools else super().cursor()

    def press(self, at: DeskEvent) -> None:
        self.active.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.active.drag(at)

    def release(self, at: DeskEvent) -> None:
        self.active.release(at)

    def cancel(self) -> None:
        """What was begun is let be."""
        for tool in self.tools:
            tool.cancel()
        self.session.document.preview(None)

    def escape(self) -> None:
        self.cancel()

    def use(self, tool: str) -> None:
        if tool != self.tool:
            self.cancel()
            self.tool = tool
            self.tool_changed.emit()
            self.desk.setCursor(self.cursor())
            self.desk.update()
