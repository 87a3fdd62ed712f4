"""The frame of the window: one open project, the parts of its layout, and its stages."""

from __future__ import annotations

import importlib
from functools import partial

from PyQt6.QtCore import QEvent, QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QMainWindow, QWidget

from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.commands.command import Commands
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import FocusRing
from rushweed.ui.kit.motion import keep_still
from rushweed.ui.kit.screen import SMALLEST, KeepsToScreen
from rushweed.ui.kit.theme import Look
from rushweed.ui.layout import Layout
from rushweed.ui.session import STAGES, TITLES, Session


class WindowFrame(QMainWindow):
    """What the window's boards, menus and commands stand on. `wants_project` asks the application to open
    another one."""

    wants_project = pyqtSignal(object)

    def __init__(
        self, session: Session, look: Look, icons: Icons, settings: QSettings, shell: QWidget | None = None
    ) -> None:
        """In a shell it is a part of that; else it stands on the screen by itself."""
        super().__init__(shell)
        if shell is not None:
            self.setWindowFlags(Qt.WindowType.Widget)
        self.session, self.look, self.icons, self.settings = session, look, icons, settings
        self.setWindowTitle(f"{session.project.name} - Rushweed")
        self.setAcceptDrops(True)
        self.parts = Layout(session, look, icons, settings)
        self._name_parts()
        self.context = Context(session, look, icons, self.desk, settings)
        self._stages: dict[str, Stage] = {}
        self.setCentralWidget(self.parts)
        self.commands = Commands(self, lambda: session.stage)
        self.ring = FocusRing(self, look)
        if shell is None:
            self.setMinimumSize(*SMALLEST)
            KeepsToScreen(self)

    @property
    def on_screen(self) -> QWidget:
        """The window on the screen: itself, or what it is shown in."""
        return self.window() or self

    def _name_parts(self) -> None:
        """The parts of the layout are the window's own."""
        laid = self.parts
        self.desk, self.rail, self.tool_column = laid.desk, laid.rail, laid.tool_column
        self.notice, self.recovery, self.findings = laid.notice, laid.recovery, laid.findings
        self.shelf, self.strip, self.tray, self.timeline = laid.shelf, laid.strip, laid.tray, laid.timeline
        self.walk_log, self.proof = laid.walk_log, laid.proof

    def event(self, event: QEvent | None) -> bool:
        """Only after Tab is it shown what has the keys: the focus also goes on where a part is hidden."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            self.ring.by_tab = event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
        return super().event(event)

    def keep_still(self, still: bool) -> None:
        """Nothing moves that nobody started: no blinking caret, no sliding menus, a Proof at rest."""
        self.settings.setValue("still", still)
        keep_still(still)
        if still:
            self.proof.rest()

    def use_theme(self, theme: str) -> None:
        self.look.set_theme(theme)
        self.settings.setValue("theme", theme)

    # -- stages ------------------------------------------------------------------------------------------

    def stage(self, key: str) -> Stage:
        """A stage, made when it is first wanted, so that the window opens with only the one it shows."""
        made = self._stages.get(key)
        if made is None:
            module = importlib.import_module(f"rushweed.ui.stages.{key}.stage")
            made = getattr(module, f"{TITLES[key]}Stage")(self.context)
            assert isinstance(made, Stage)
            self._stages[key] = made
            self.parts.add_pages(made)
        return made

    @property
    def stages(self) -> dict[str, Stage]:
        """All stages, in order."""
        return {key: self.stage(key) for key in STAGES}

    def turn_to(self, stage: str) -> None:
        """Show a stage once the pictures it needs are at hand."""
        self.session.bring(self.first_shown(stage), partial(self.session.go, stage))

    def first_shown(self, stage: str) -> list[Sheet]:
        """The sheets whose pictures a stage shows first."""
        level, sheet = self.session.selection.level, self.session.selection.sheet
        if stage in ("paint", "walk") and level is not None:
            from rushweed.core.level.edit import sheets_shown

            return sheets_shown(self.session.project, level)
        return [sheet] if sheet is not None else []
