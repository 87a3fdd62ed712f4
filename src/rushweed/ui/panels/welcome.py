"""What stands on the Desk while the Shelf is empty: three ways to begin, and the projects of late."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from rushweed.ui.kit.controls import Rule, button, emptied, label, plain_tip, row
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look

WIDE = 380
MOST_RECENT = 5  # shown here; more are kept


class Welcome(QFrame):
    """Lies over the Desk, in its middle. Pictures may be dropped on it as anywhere."""

    wants_pictures = pyqtSignal()
    wants_folder = pyqtSignal()
    wants_demo = pyqtSignal()
    wants_project = pyqtSignal(Path)

    def __init__(self, look: Look, icons: Icons, desk: QWidget) -> None:
        super().__init__(desk)
        self.look, self.icons = look, icons
        self.setObjectName("board")
        self.setFixedWidth(WIDE)
        self.setCursor(Qt.CursorShape.ArrowCursor)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(8)
        box.addWidget(label("Three ways to begin", "head"))
        self.buttons = []
        for words, about, signal in (
            (
                "Add pictures ...",
                "or drop them anywhere: sheets, tilesets, single frames",
                self.wants_pictures,
            ),
            ("Take a folder ...", "all of its pictures, with a cut proposed for each", self.wants_folder),
            ("Open Tidelamp", "a small game, drawn and painted, to look around in", self.wants_demo),
        ):
            press = button(words)
            press.setFixedWidth(128)
            press.clicked.connect(signal)
            self.buttons.append(press)
            says = QLabel(about)
            says.setWordWrap(True)
            says.setProperty("role", "quiet")
            line = QWidget()
            line.setLayout(row(press, says))
            box.addWidget(line)
        self._late = QWidget()
        self._late_box = QVBoxLayout(self._late)
        self._late_box.setContentsMargins(0, 8, 0, 0)
        self._late_box.setSpacing(4)
        box.addWidget(self._late)
        look.dress(self)
        desk.installEventFilter(self)

    def show_recent(self, paths: list[Path]) -> None:
        emptied(self._late_box)
        self._late.setVisible(bool(paths))
        if paths:
            self._late_box.addWidget(Rule(self.look))
            self._late_box.addWidget(label("Of late", "head"))
        for path in paths[:MOST_RECENT]:
            press = button(path.name)
            press.setFixedWidth(128)
            press.setToolTip(plain_tip(str(path)))
            press.clicked.connect(lambda _c=False, path=path: self.wants_project.emit(path))
            where = label(str(path.parent), "quiet")
            where.setMinimumWidth(1)
            line = QWidget()
            line.setLayout(row(press, where))
            self._late_box.addWidget(line)
        self._place()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self._place()
        return super().eventFilter(watched, event)

    def _place(self) -> None:
        desk = self.parentWidget()
        if desk is not None:
            layout = self.layout()
            assert layout is not None
            layout.activate()
            self.setFixedHeight(layout.totalHeightForWidth(WIDE))
            self.move(
                max((desk.width() - self.width()) // 2, 0), max((desk.height() - self.height()) // 2, 0)
            )
