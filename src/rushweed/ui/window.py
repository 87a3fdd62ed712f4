"""The window: one open project. It makes the stages, shows them, and lets its parts follow the session."""

from __future__ import annotations

import importlib
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QSettings, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QMainWindow, QWidget

from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.closing import may_close
from rushweed.ui.commands.command import Commands
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import FocusRing
from rushweed.ui.kit.motion import keep_still
from rushweed.ui.kit.screen import KeepsToScreen, fit_screen
from rushweed.ui.kit.theme import Look
from rushweed.ui.layout import Layout
from rushweed.ui.projects import Projects
from rushweed.ui.session import STAGES, TITLES, Session

if TYPE_CHECKING:
    from rushweed.ui.commands.finder import Finder
    from rushweed.ui.first_hour import FirstHour
    from rushweed.ui.opened import Opened
    from rushweed.ui.panels.both_sides import BothSidesBoard
    from rushweed.ui.panels.earlier import EarlierSaves
    from rushweed.ui.session.autosave import Autosave
    from rushweed.ui.session.outside import Outside
    from rushweed.ui.session.watch import Watch


class Window(QMainWindow):
    """One open project. `wants_project` asks the application to open another one."""

    wants_project = pyqtSignal(object)
    finder: Finder  # this and the following: see later_parts
    autosave: Autosave
    earlier: EarlierSaves
    opened: Opened
    first_hour: FirstHour
    watch: Watch
    outside: Outside
    both_sides: BothSidesBoard

    def __init__(self, session: Session, look: Look, icons: Icons, settings: QSettings) -> None:
        super().__init__()
        self.session, self.look, self.icons, self.settings = session, look, icons, settings
        self.setWindowTitle(f"{session.project.name} - Rushweed")
        self.setAcceptDrops(True)
        self.parts = Layout(session, look, icons, settings)
        self._stages: dict[str, Stage] = {}
        self._completed = False
        self.projects = Projects(self)
        self._name_parts()
        self.setCentralWidget(self.parts)
        self.setMinimumSize(960, 600)
        self.commands = Commands(self, lambda: session.stage)
        self._connect()
        self._restore()
        self._show_stage(session.stage)
        self._changed()
        self.desk.setFocus()
        self.ring = FocusRing(self, look)
        KeepsToScreen(self)
        self.desk.painted.connect(lambda: QTimer.singleShot(30, self._go_on))

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

    def stage(self, key: str) -> Stage:
        """A stage, made when it is first wanted, so that the window opens with only the one it shows."""
        made = self._stages.get(key)
        if made is None:
            module = importlib.import_module(f"rushweed.ui.stages.{key}.stage")
            made = getattr(module, f"{TITLES[key]}Stage")(self.session, self.look, self.icons)
            assert isinstance(made, Stage)
            made.desk, made.preferences = self.desk, self.settings
            made.build()
            self._stages[key] = made
            self.parts.add_pages(made)
        return made

    @property
    def stages(self) -> dict[str, Stage]:
        """All stages, in order."""
        return {key: self.stage(key) for key in STAGES}

    def _go_on(self) -> None:
        """Make one more of the other stages, so that the window is never still for long; at last the rest."""
        if self._completed or not self.isVisible():
            return
        missing = next((key for key in STAGES if key not in self._stages), None)
        if missing is None:
            self.complete()
        else:
            self.stage(missing)
            QTimer.singleShot(1, self._go_on)

    def complete(self) -> None:
        """What can wait until the window is on screen: the other stages, the commands, the findings."""
        if not self._completed:
            self._completed = True
            from rushweed.ui.later_parts import add_boards, watch_outside

            add_boards(self)
            self.session.read(self._first_shown(self.session.stage), self._show_art, on_desk=True)
            watch_outside(self)
            self.session.checker.look_at(self.session.selection.sheet_id or "")
            self.session.checker.find_soon()
            if self.settings.value("tray_aside", False, bool):
                self.parts.move_tray()

    def turn_to(self, stage: str) -> None:
        """Show a stage once the pictures it needs are at hand."""
        self.session.bring(self._first_shown(stage), partial(self.session.go, stage))

    def _first_shown(self, stage: str) -> list[Sheet]:
        """The sheets whose pictures a stage shows first."""
        level, sheet = self.session.selection.level, self.session.selection.sheet
        if stage in ("paint", "walk") and level is not None:
            from rushweed.core.level.edit import sheets_shown

            return sheets_shown(self.session.project, level)
        return [sheet] if sheet is not None else []

    def _show_art(self) -> None:
        """The pictures are at hand: until now everything was clear."""
        self.desk.images.ready = True
        self._repaint()
        self._refresh_stage()
        self.proof.refresh()
        self.stage(self.session.stage).entered()

    # -- what goes with what ----------------------------------------------------------------------------

    def _name_parts(self) -> None:
        """The parts of the layout are the window's own."""
        laid = self.parts
        self.desk, self.rail, self.tool_column = laid.desk, laid.rail, laid.tool_column
        self.notice, self.recovery, self.findings = laid.notice, laid.recovery, laid.findings
        self.shelf, self.strip, self.tray, self.timeline = laid.shelf, laid.strip, laid.tray, laid.timeline
        self.walk_log, self.proof = laid.walk_log, laid.proof

    def _connect(self) -> None:
        session = self.session
        self.rail.tabs.chosen.connect(self.turn_to)
        self.rail.undo.pressed.connect(session.document.undo)
        self.rail.redo.pressed.connect(session.document.redo)
        for button in (self.rail.undo, self.rail.redo):
            button.pressed_aside.connect(lambda: self.opened.open_edits())
        self.rail.finder.pressed.connect(self.open_finder)
        self.rail.plate.pressed.connect(self.projects.open_menu)
        self.shelf.wants_pictures.connect(lambda: self.commands.run_id("gather.add"))
        self.shelf.wants_level.connect(lambda: self.commands.run_id("paint.new"))
        self.shelf.states_changed.connect(self.rail.tabs.show_states)
        session.document.settling.connect(self._settle)
        session.staged.connect(self._show_stage)
        session.spotted.connect(lambda x, y: self.stage(session.stage).look_at_cell(x, y))
        self.tray.wants_other_side.connect(self.parts.move_tray)
        self.tray.wants_level.connect(lambda: self.commands.run_id("paint.new"))
        session.document.changed.connect(lambda _o, _n: self._changed())
        session.selection.focused.connect(self._refresh_stage)
        session.told.connect(self.notice.show_notice)
        session.asked.connect(self.notice.ask_first)
        session.working.connect(self.notice.watch)
        session.saver.saved.connect(self._saved)
        self.findings.running.share_changed.connect(lambda _share: self._saved())
        self.look.changed.connect(self._repaint)
        self.shelf.refresh()

    def _settle(self) -> None:
        """Let a field that is being typed in finish: what was typed counts."""
        field = QApplication.focusWidget()
        if isinstance(field, QLineEdit) and self.isAncestorOf(field):
            field.clearFocus()

    def _repaint(self) -> None:
        for part in self.findChildren(QWidget):
            part.update()

    # -- commands --------------------------------------------------------------------------------------

    def open_finder(self) -> None:
        corner = self.rail.finder.mapTo(self, self.rail.finder.rect().bottomRight())
        self.finder.open(corner.x() + 1, corner.y() + 3)

    def use_theme(self, theme: str) -> None:
        self.look.set_theme(theme)
        self.settings.setValue("theme", theme)

    # -- following the session ---------------------------------------------------------------------------

    def _show_stage(self, key: str) -> None:
        stage = self.stage(key)
        self.parts.show_stage(stage)
        stage.refresh()
        if self._completed:
            stage.entered()
        if stage.strip == "tray":
            self.tray.refresh()
        elif stage.strip == "timeline":
            self.timeline.refresh()
        elif stage.strip == "cells":
            self.strip.refresh()
        self.proof.refresh()

    def _refresh_stage(self) -> None:
        self.stage(self.session.stage).refresh()
        self.desk.zoomed.emit(self.desk.view.words())

    def _changed(self) -> None:
        self._refresh_stage()
        if not self.session.document.gesturing:
            self._saved()
            if self._completed:
                self.first_hour.show()

    def _saved(self) -> None:
        history = self.session.document.history
        self.rail.show_history(history.undo_label, history.redo_label)
        mark = "*" if self.session.saver.unsaved else ""
        share = self.findings.running.share
        far = f"{share:.0%} - " if share > 0 else ""
        self.setWindowTitle(f"{far}{mark}{self.session.project.name} - Rushweed")

    # -- opening, dropping, closing ------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        data = event.mimeData()
        urls = data.urls() if data is not None else []
        self.take_in([Path(url.toLocalFile()) for url in urls if url.isLocalFile()])
        event.acceptProposedAction()

    def take_in(self, paths: list[Path]) -> None:
        """Pictures and folders that were dropped, or that the window was opened with."""
        from rushweed.ui.stages.gather.stage import GatherStage

        gather = self.stage("gather")
        assert isinstance(gather, GatherStage)
        gather.bringing.bring(paths)

    def _restore(self) -> None:
        """Place, size and edges as they were left."""
        self.parts.restore()
        shape = self.settings.value("window")
        if shape is not None:
            self.restoreGeometry(shape)
        else:
            self.resize(1280, 800)
        fit_screen(self)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if not may_close(self):
            event.ignore()
            return
        self.parts.remember()
        self.settings.setValue("window", self.saveGeometry())
        self.stage(self.session.stage).left()
        if self._completed:
            self.autosave.stop()
            self.outside.stop()
            self.watch.stop()
        self._completed = True  # nothing more is begun for a window that has gone
        self.session.checker.stop()
        self.session.jobs.finish()
        self.session.folder.unlock()
        self.session.document.read_only = True  # the folder may be another window's from here on
        event.accept()
