"""The window: one open project. It shows its stages and lets its parts follow the session."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget

from rushweed.ui.closing import may_close
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.screen import place_window
from rushweed.ui.kit.theme import Look
from rushweed.ui.projects import Projects
from rushweed.ui.session import STAGES, Session
from rushweed.ui.window_frame import WindowFrame

if TYPE_CHECKING:
    from rushweed.ui.later_parts import LaterParts


class Window(WindowFrame):
    """One open project, and what goes with what in it."""

    later: LaterParts  # once it is on screen

    def __init__(
        self, session: Session, look: Look, icons: Icons, settings: QSettings, shell: QWidget | None = None
    ) -> None:
        super().__init__(session, look, icons, settings, shell)
        self._completed = False
        self.projects = Projects(self)
        self._connect()
        self._restore()
        self._show_stage(session.stage)
        self._changed()
        self.desk.setFocus()
        self.desk.painted.connect(lambda: QTimer.singleShot(30, self._go_on))

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
            from rushweed.ui.later_parts import LaterParts
            from rushweed.ui.window_commands import all_commands

            self.later = LaterParts(self, self.projects)
            self.commands.add(all_commands(self, self.later))
            self.session.read(self.first_shown(self.session.stage), self._show_art, on_desk=True)
            self.later.watch_outside()
            self.session.checker.look_at(self.session.selection.sheet_id or "")
            self.session.checker.find_soon()
            if self.settings.value("tray_aside", False, bool):
                self.parts.move_tray()

    def _show_art(self) -> None:
        """The pictures are at hand: until now everything was clear."""
        self.desk.images.ready = True
        self._repaint()
        self._refresh_stage()
        self.proof.refresh()
        self.stage(self.session.stage).entered()

    # -- what goes with what ----------------------------------------------------------------------------

    def _connect(self) -> None:
        session = self.session
        self.rail.tabs.chosen.connect(self.turn_to)
        self.rail.undo.pressed.connect(session.document.undo)
        self.rail.redo.pressed.connect(session.document.redo)
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
        self.desk.wait_a_turn()
        for part in self.findChildren(QWidget):
            if part.isVisible():
                part.update()

    # -- following the session ---------------------------------------------------------------------------

    def _show_stage(self, key: str) -> None:
        stage = self.stage(key)
        self.parts.show_stage(stage)
        stage.refresh()
        if self._completed:
            stage.entered()

    def _refresh_stage(self) -> None:
        self.stage(self.session.stage).refresh()
        self.desk.zoomed.emit(self.desk.view.words())

    def _changed(self) -> None:
        self._refresh_stage()
        if not self.session.document.gesturing:
            self._saved()
            if self._completed:
                self.later.first_hour.show()

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
        if self.isWindow():
            place_window(self, self.settings)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if not may_close(self):
            event.ignore()
            return
        self.parts.remember()
        self.settings.setValue("window", self.on_screen.saveGeometry())
        self.stage(self.session.stage).left()
        if self._completed:
            self.later.stop()
        self._completed = True  # nothing more is begun for a window that has gone
        self.session.checker.stop()
        self.session.jobs.close()
        self.session.folder.unlock()
        self.session.document.read_only = True  # the folder may be another window's from here on
        event.accept()
        if not self.isWindow():
            self.on_screen.close()
