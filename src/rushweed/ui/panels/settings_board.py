"""What a person sets once for all projects, in one place."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from rushweed.ui.kit.controls import Check, label, row
from rushweed.ui.kit.fields import ChoiceRow, TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import THEMES, Look

WIDE, LABELS = 420, 112
EDITOR = "editor"  # the command that opens a picture; empty: what the desktop has for it


class SettingsBoard(QFrame):
    """Lies over the window until something else is pressed. Every change holds at once."""

    theme_chosen = pyqtSignal(str)
    saves_pressed = pyqtSignal()
    tray_pressed = pyqtSignal()
    steps_pressed = pyqtSignal(bool)

    def __init__(self, look: Look, icons: Icons, settings: QSettings, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.look, self.settings = look, settings
        self.setObjectName("board")
        self.setFixedWidth(WIDE)
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 12, 16, 16)
        box.setSpacing(8)
        box.addWidget(label("Settings", "head"))
        self.theme = ChoiceRow(look, [(name, name.capitalize()) for name in THEMES])
        self.theme.edited.connect(self.theme_chosen)
        self.saves = Check(look, icons, "by itself, every two minutes")
        self.saves.edited.connect(lambda _on: self.saves_pressed.emit())
        self.editor = TextField("what the desktop has for pictures", mono=True)
        self.editor.edited.connect(lambda words: settings.setValue(EDITOR, words.strip()))
        self.tray = Check(look, icons, "in a column beside the Desk")
        self.tray.edited.connect(lambda _on: self.tray_pressed.emit())
        self.steps = Check(look, icons, "shown on the Desk")
        self.steps.edited.connect(self.steps_pressed)
        for words, part in (
            ("Theme", self.theme), ("Saves", self.saves), ("Pictures open in", self.editor),
            ("The Tray", self.tray), ("First steps", self.steps),
        ):  # fmt: skip
            name = label(words)
            name.setFixedWidth(LABELS)
            line = QWidget()
            line.setFixedHeight(26)
            line.setLayout(row(name, part) if part is self.editor else row(name, part, None))
            box.addWidget(line)

    def show_values(self, saves: bool, tray: bool, steps: bool) -> None:
        self.theme.show_value(self.look.theme)
        self.editor.show_value(str(self.settings.value(EDITOR, "") or ""))
        for check, on in ((self.saves, saves), (self.tray, tray), (self.steps, steps)):
            check.show_value(on)

    def open(self, under: QWidget) -> None:
        self.setStyleSheet(self.look.rules())
        self.adjustSize()
        self.move(under.mapToGlobal(QPoint(8, under.height() + 2)))
        self.show()
        self.theme.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)
