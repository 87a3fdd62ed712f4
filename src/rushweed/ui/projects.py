"""Other projects: chosen in a dialog, or from those opened of late; and the menu of the project's plate."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QFileDialog, QMenu

from rushweed.ui.kit.controls import plain_tip
from rushweed.ui.window_frame import WindowFrame

MENU = (
    ("file.new", "file.open", "file.demo", "file.save", "file.recovered"),
    ("gather.add", "gather.unused", "paint.new", "ship.ship"),
    ("view.settings", "view.theme", "view.find", "view.guide"),
)  # commands, by group


class Projects:
    """Asks which project is wanted; the window asks the application to open it."""

    def __init__(self, window: WindowFrame) -> None:
        self._window = window
        self.of_late: Callable[[], list[Path]] | None = None  # the application says which

    def choose_project(self) -> None:
        """One that is there."""
        self._choose("open", "Open a project folder")

    def choose_new(self) -> None:
        """A place for a new one."""
        self._choose("new", "Choose an empty folder for the new project")

    def choose_demo(self) -> None:
        """A place for the demo."""
        self._choose("demo", "Choose an empty folder for the demo")

    def _choose(self, what: str, title: str) -> None:
        name = QFileDialog.getExistingDirectory(self._window, title)
        if name:
            self._window.wants_project.emit((what, Path(name)))

    def recent(self) -> list[Path]:
        """The projects opened of late, the last first."""
        return self.of_late() if self.of_late is not None else []

    def open_menu(self, at: QPointF) -> None:
        """The commonest commands, at a point of the plate."""
        window = self._window
        menu = QMenu(window)
        menu.setStyleSheet(window.look.rules())
        for group in MENU:
            for command_id in group:
                row = window.commands.row(command_id)
                action = QAction(row.words, menu)
                if row.keys:
                    action.setShortcut(QKeySequence(row.keys[0]))
                    action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
                action.setEnabled(not row.needs())
                action.triggered.connect(lambda _c=False, r=row: window.commands.run(r))
                menu.addAction(action)
            if "file.open" in group:
                menu.addMenu(self._recent_menu(menu))
            menu.addSeparator()
        menu.exec(window.rail.plate.mapToGlobal(at.toPoint()))

    def _recent_menu(self, menu: QMenu) -> QMenu:
        window = self._window
        made = QMenu("Open of late", menu)
        made.setStyleSheet(window.look.rules())
        made.setToolTipsVisible(True)
        for path in self.recent():
            action = QAction(path.name.replace("&", "&&"), made)
            action.setToolTip(plain_tip(str(path)))
            action.setEnabled(path != window.session.folder.path.absolute())
            action.triggered.connect(lambda _c=False, path=path: window.wants_project.emit(("open", path)))
            made.addAction(action)
        made.setEnabled(not made.isEmpty())
        return made
