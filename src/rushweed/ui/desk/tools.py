"""The tools of the stage: a short column on the Desk's left edge, each with the letter of its key."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.controls import IconButton, Rule, emptied
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look


class ToolColumn(QWidget):
    """Shows the tools of one stage after another."""

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.setFixedWidth(40)
        self.buttons: dict[str, IconButton] = {}
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(4, 4, 4, 4)
        self._layout.setSpacing(4)
        self._rules: list[int] = []
        self._stage: Stage | None = None

    def show_stage(self, stage: Stage) -> None:
        if self._stage is not None:
            self._stage.tool_changed.disconnect(self._active)
        self._stage = stage
        emptied(self._layout)
        self.buttons = {}
        group = None
        for tool in stage.tools:
            if group is not None and tool.group != group:
                self._layout.addWidget(Rule(self.look))
            group = tool.group
            tip = f"{tool.words}  ({tool.key})\n{tool.help}"
            made = IconButton(self.look, self.icons, tool.icon, tip, 32, letter=tool.key, px=19)
            made.pressed.connect(lambda t=tool.id: stage.use(t))
            self.buttons[tool.id] = made
            self._layout.addWidget(made)
        self._layout.addStretch(1)
        stage.tool_changed.connect(self._active)
        self._active()

    def _active(self) -> None:
        if self._stage is not None:
            for key, made in self.buttons.items():
                made.show_active(key == self._stage.tool)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.look.colour("paper"))
        painter.fillRect(QRectF(39, 0, 1, self.height()), self.look.colour("rule"))
