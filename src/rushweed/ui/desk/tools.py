"""The tools of the stage: a short column on the Desk's left edge, each with the letter of its key."""

from __future__ import annotations

from functools import partial
from itertools import groupby

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QWidget

from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.controls import IconButton
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look

SIDE, GAP, BETWEEN = 32, 4, 9  # px of a tool, from one to the next, and from one group to the next


class ToolColumn(QWidget):
    """Shows the tools of one stage after another; in two columns where the Desk is too low for one."""

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self._made: dict[Stage, dict[str, IconButton]] = {}
        self.buttons: dict[str, IconButton] = {}  # of the stage that is shown, by tool
        self._groups: list[list[IconButton]] = []
        self._lines: list[int] = []  # y of what parts the groups
        self._stage: Stage | None = None
        self.setFixedWidth(SIDE + 2 * GAP)

    def minimumSizeHint(self) -> QSize:
        return QSize(self.width(), 0)

    def add_stage(self, stage: Stage) -> None:
        """Make the buttons of a stage, which is not shown yet."""
        made = self._made[stage] = {}
        for tool in stage.tools:
            tip = f"{tool.words}  ({tool.key})\n{tool.help}"
            one = made[tool.id] = IconButton(self.look, self.icons, tool.icon, tip, px=19)
            one.letter = tool.key
            one.setFixedSize(SIDE, SIDE)
            one.hide()
            one.setParent(self)
            one.pressed.connect(partial(stage.use, tool.id))

    def show_stage(self, stage: Stage) -> None:
        """Show the tools of a stage that was added."""
        if self._stage is not None:
            self._stage.tool_changed.disconnect(self._active)
        for old in self.buttons.values():
            old.hide()
        self._stage, self.buttons = stage, self._made[stage]
        groups = groupby(stage.tools, lambda tool: tool.group)
        self._groups = [[self.buttons[tool.id] for tool in tools] for _group, tools in groups]
        for one in self.buttons.values():
            one.show()
        stage.tool_changed.connect(self._active)
        self._lay_out()
        self._active()

    def _lay_out(self) -> None:
        """Each group in one column or two, whichever all of them fit in."""
        high = GAP + sum(len(group) * (SIDE + GAP) + BETWEEN for group in self._groups) - BETWEEN
        across = 1 if high <= self.height() or not self.isVisible() else 2
        self.setFixedWidth(across * (SIDE + GAP) + GAP)
        y, self._lines = GAP, []
        for number, group in enumerate(self._groups):
            if number:
                self._lines.append(y + BETWEEN // 2 - GAP // 2)
                y += BETWEEN - GAP
            for n, made in enumerate(group):
                made.move(GAP + n % across * (SIDE + GAP), y + n // across * (SIDE + GAP))
            y += -(-len(group) // across) * (SIDE + GAP)
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if event is not None and event.size().height() != event.oldSize().height():
            self._lay_out()

    def _active(self) -> None:
        if self._stage is not None:
            for key, made in self.buttons.items():
                made.show_active(key == self._stage.tool)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.look.colour("paper"))
        for y in self._lines:
            painter.fillRect(QRectF(GAP, y, self.width() - 2 * GAP, 1), self.look.colour("rule"))
        painter.fillRect(QRectF(self.width() - 1, 0, 1, self.height()), self.look.colour("rule"))
