"""A step of the work: what the Desk shows of it, and what the pointer and the keys do there."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QWidget

from rushweed.ui.desk.scene import Scene
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.option_line import OptionLine
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session

if TYPE_CHECKING:
    from rushweed.ui.desk.canvas import Desk
    from rushweed.ui.desk.event import DeskEvent


AnyTool = TypeVar("AnyTool", bound=Tool)


class Stage(Scene):
    """One step of the work: a scene, with tools, a card and lines. The Desk calls press, drag, release and
    hover."""

    key = ""
    title = ""
    tools: Sequence[Tool] = ()
    tool_changed = pyqtSignal()

    def __init__(self, session: Session, look: Look, icons: Icons) -> None:
        super().__init__(session)
        self.look, self.icons = look, icons
        self.desk: Desk
        self.preferences: QSettings  # of the person, for all projects
        self.tool = self.tools[0].id if self.tools else ""
        self.option_line = OptionLine(look)
        self.proposal_line: QWidget | None = None
        self.card = QWidget()

    @property
    def active(self) -> Tool:
        """The tool in use."""
        return next(tool for tool in self.tools if tool.id == self.tool)

    def the(self, kind: type[AnyTool]) -> AnyTool:
        """The tool of a kind."""
        return next(tool for tool in self.tools if isinstance(tool, kind))

    def build(self) -> None:
        """Make the option line and the card; called once, when the Desk is there."""

    def refresh(self) -> None:
        """Show the project and the selection as they are now."""

    def entered(self) -> None:
        """The stage has come into view."""

    def left(self) -> None:
        """Another stage takes its place."""

    def look_at_cell(self, column: int, row: int) -> None:
        """Bring a cell of the level into the middle."""
        level = self.session.selection.level
        if level is not None:
            self.desk.look_at((column + 0.5) * level.cell[0], (row + 0.5) * level.cell[1])

    # -- pointer and keys --------------------------------------------------------------------------------

    def cursor(self) -> Qt.CursorShape:
        return self.active.cursor() if self.tools else Qt.CursorShape.ArrowCursor

    def press(self, at: DeskEvent) -> None:
        self.active.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.active.drag(at)

    def release(self, at: DeskEvent) -> None:
        self.active.release(at)

    def hover(self, at: DeskEvent) -> None: ...

    def leave(self) -> None: ...

    def cancel(self) -> None:
        """What was begun is let be."""
        for tool in self.tools:
            tool.cancel()
        self.session.document.preview(None)

    def escape(self) -> None:
        """Escape was pressed."""
        self.cancel()

    def key_pressed(self, event: QKeyEvent) -> bool:
        return False

    def takes_key(self, event: QKeyEvent) -> bool:
        """Whether a key is the Desk's now, whatever command it calls elsewhere."""
        return False

    def key_released(self, event: QKeyEvent) -> None: ...

    def focus_lost(self) -> None: ...

    def use(self, tool: str) -> None:
        if tool != self.tool:
            self.cancel()
            self.tool = tool
            self.tool_changed.emit()
            self.desk.setCursor(self.cursor())
            self.desk.update()
