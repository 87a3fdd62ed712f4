"""What a person sets once for all projects, in one place."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Check, button, label, row
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import THEMES, Look

WIDE, LABELS = 520, 124
SIZES = (80, 100, 125, 150, 200)  # per cent of everything that is not art
EDITOR = "editor"  # the command that opens a picture; empty: what the desktop has for it


class SettingsBoard(QFrame):
    """Lies over the window until something else is pressed. Every change holds at once."""

    theme_chosen = pyqtSignal(str)
    saves_pressed = pyqtSignal()
    tray_pressed = pyqtSignal()
    steps_pressed = pyqtSignal(bool)
    still_pressed = pyqtSignal(bool)
    anew_pressed = pyqtSignal()

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
        self.scale = ChoiceRow(look, [(str(size), f"{size} %") for size in SIZES])
        self.scale.edited.connect(self._set_size)
        self.anew = button("Start anew")
        self.anew.setToolTip("The size holds from the next start")
        self.anew.clicked.connect(self.anew_pressed)
        self.still = Check(look, icons, "nothing moves by itself")
        self.still.edited.connect(self.still_pressed)
        self.saves = Check(look, icons, "by itself, every two minutes")
        self.saves.edited.connect(lambda _on: self.saves_pressed.emit())
        self.editor = TextField("what the desktop has for pictures", mono=True)
        self.editor.edited.connect(lambda words: settings.setValue(EDITOR, words.strip()))
        self.tray = Check(look, icons, "in a column beside the Desk")
        self.tray.edited.connect(lambda _on: self.tray_pressed.emit())
        self.steps = Check(look, icons, "shown on the Desk")
        self.steps.edited.connect(self.steps_pressed)
        for words, part in (
            ("Theme", self.theme), ("Text and controls", self.scale), ("Motion", self.still),
            ("Saves", self.saves), ("Pictures open in", self.editor), ("The Tray", self.tray),
            ("First steps", self.steps),
        ):  # fmt: skip
            name = label(words)
            name.setFixedWidth(LABELS)
            line = QWidget()
            line.setFixedHeight(26)
            after = self.anew if part is self.scale else None
            line.setLayout(row(name, part) if part is self.editor else row(name, part, after))
            box.addWidget(line)

    def _set_size(self, size: str) -> None:
        self.settings.setValue("size", int(size))
        self._show_size()

    def _show_size(self) -> None:
        wanted = str(self.settings.value("size", 100))
        self.scale.show_value(wanted if wanted in map(str, SIZES) else None)
        self.anew.setVisible(wanted != str(self.settings.value("size_now", 100)))

    def show_values(self, saves: bool, tray: bool, steps: bool) -> None:
        self.theme.show_value(self.look.theme)
        self._show_size()
        self.still.show_value(self.settings.value("still", False, bool))
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
