"""The window: rail, Shelf, Desk, Strip or Tray, Proof, Card, findings, in edges that can be dragged."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.commands.command import Commands
from rushweed.ui.commands.finder import Finder
from rushweed.ui.desk.canvas import Desk
from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.tools import ToolColumn
from rushweed.ui.desk.zoom_control import ZoomControl
from rushweed.ui.kit.controls import Splitter, plain_tip
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import FocusRing
from rushweed.ui.kit.motion import keep_still
from rushweed.ui.kit.theme import THEMES, Look
from rushweed.ui.opened import Opened
from rushweed.ui.panels.both_sides import BothSidesBoard
from rushweed.ui.panels.earlier import EarlierSaves
from rushweed.ui.panels.findings_bar import FindingsBar
from rushweed.ui.panels.first_steps import FirstSteps
from rushweed.ui.panels.notice import NoticeStrip
from rushweed.ui.panels.proof import Proof
from rushweed.ui.panels.rail import Rail
from rushweed.ui.panels.recovery import RecoveryStrip
from rushweed.ui.panels.shelf import Shelf
from rushweed.ui.panels.strip import Strip
from rushweed.ui.panels.timeline import Timeline
from rushweed.ui.panels.tray import Tray
from rushweed.ui.panels.walk_log import WalkLog
from rushweed.ui.panels.welcome import Welcome
from rushweed.ui.session import STAGES, TITLES, Session
from rushweed.ui.session.autosave import Autosave
from rushweed.ui.session.outside import Outside
from rushweed.ui.session.watch import Watch
from rushweed.ui.window_commands import window_commands

TRAY_ASIDE = 300  # px of the Tray in a column of its own
TITLE_BAR = 40  # px above the window that a desktop needs for its own bar


class Window(QMainWindow):
    """One open project. `wants_project` asks the application to open another one."""

    wants_project = pyqtSignal(object)

    def __init__(self, session: Session, look: Look, icons: Icons, settings: QSettings) -> None:
        super().__init__()
        self.session, self.look, self.icons, self.settings = session, look, icons, settings
        self.setWindowTitle(f"{session.project.name} - Rushweed")
        self.setAcceptDrops(True)
        self.desk = Desk(look, icons, session)
        self._stages: dict[str, Stage] = {}
        self._completed = False
        self.projects_of_late: Callable[[], list[Path]] | None = None
        self._make_panels()
        self._lay_out()
        self.commands = Commands(self, lambda: session.stage)
        self._connect()
        self._restore()
        self._show_stage(session.stage)
        self._changed()
        self.desk.setFocus()
        self.ring = FocusRing(self, look)
        self.desk.painted.connect(lambda: QTimer.singleShot(30, self.complete))

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
            pages = (made.option_line, made.card, made.proposal_line)
            for stack, page in zip((self._options, self._cards, self._proposals), pages, strict=True):
                if page is not None:
                    stack.addWidget(page)
                    self.look.dress(page)
        return made

    @property
    def stages(self) -> dict[str, Stage]:
        """All stages, in order."""
        return {key: self.stage(key) for key in STAGES}

    def complete(self) -> None:
        """What can wait until the window is on screen: the other stages, the commands, the findings."""
        if not self._completed:
            self._completed = True
            self.finder = Finder(self.look, self.commands, self)
            self.autosave = Autosave(self.session, self.settings)
            self.earlier = EarlierSaves(self.session, self)
            self.opened = Opened(self)
            self._add_first_hour()
            for part in (self.finder, self.earlier, self.opened.edits):
                self.look.dress(part)
            self._add_commands()
            self.session.read(self._first_shown(self.session.stage), self._show_art)
            self.watch = Watch(self.session)
            self.outside = Outside(self.session)
            self.both_sides = BothSidesBoard(self.look, self.session, self)
            self.outside.asked.connect(self.both_sides.ask)
            self.findings.wants_all.connect(self.opened.open_findings)
            self.session.checker.look_at(self.session.selection.sheet_id or "")
            self.session.checker.find_soon()
            if self.settings.value("tray_aside", False, bool):
                self.move_tray()

    def turn_to(self, stage: str) -> None:
        """Show a stage once the pictures it needs are at hand."""
        self.session.bring(self._first_shown(stage), partial(self.session.go, stage))

    def _first_shown(self, stage: str) -> list[Sheet]:
        """The sheets whose pictures a stage shows first."""
        level, sheet = self.session.selection.level, self.session.selection.sheet
        if stage in ("paint", "walk") and level is not None:
            from rushweed.core.level.edit import sheets_used

            return sheets_used(self.session.project, level)
        return [sheet] if sheet is not None else []

    def _show_art(self) -> None:
        """The pictures are at hand: until now everything was clear."""
        self.desk.images.ready = True
        self._repaint()
        self._refresh_stage()
        self.proof.refresh()
        self.stage(self.session.stage).entered()

    def _add_first_hour(self) -> None:
        """What a newcomer is shown on the Desk."""
        self.welcome = Welcome(self.look, self.icons, self.desk)
        self.welcome.wants_pictures.connect(lambda: self.commands.run_id("gather.add"))
        self.welcome.wants_folder.connect(lambda: self.commands.run_id("gather.folder"))
        self.welcome.wants_demo.connect(self.choose_demo)
        self.welcome.wants_project.connect(lambda path: self.wants_project.emit(("open", path)))
        self.first_steps = FirstSteps(self.look, self.icons, self.session, self.settings, self.desk)
        if self.settings.value("first_steps", "") == "open":
            self.first_steps.begin()
        self._show_welcome()

    def _show_welcome(self) -> None:
        """Ways to begin, as long as there is nothing on the Shelf."""
        project = self.session.project
        empty = not project.sheets and not project.levels and not self.session.document.read_only
        if empty and self.welcome.isHidden():
            now = self.session.folder.path.absolute()
            late = [path for path in self.recent() if path != now]
            self.welcome.show_recent(late)
            if self.settings.value("first_steps", "") == "":
                self.first_steps.begin()
        self.welcome.setVisible(empty)
        self.desk.tells_empty = not empty

    # -- layout ----------------------------------------------------------------------------------------

    def _make_panels(self) -> None:
        look, icons, session = self.look, self.icons, self.session
        self.rail = Rail(look, icons, list(TITLES.items()))
        self.notice = NoticeStrip(look, icons)
        self.recovery = RecoveryStrip(look, icons, session)
        self.shelf = Shelf(look, icons, session, self.desk.images)
        self.strip = Strip(look, session, self.desk.images)
        self.tray = Tray(look, icons, session, self.desk.images)
        self.proof = Proof(look, icons, session)
        self.findings = FindingsBar(look, icons, session)
        self.tool_column = ToolColumn(look, icons)
        self._options, self._proposals, self._cards = QStackedWidget(), QStackedWidget(), QStackedWidget()
        self._under = QStackedWidget()
        self._under.addWidget(self.strip)
        self._under.addWidget(self.tray)
        self.timeline = Timeline(look, session, self.desk.images)
        self._under.addWidget(self.timeline)
        self.walk_log = WalkLog(look, session)
        self._under.addWidget(self.walk_log)

    def _lay_out(self) -> None:
        options = QWidget()
        options.setFixedHeight(40)
        line = QHBoxLayout(options)
        line.setContentsMargins(8, 8, 8, 8)
        line.setSpacing(8)
        line.addWidget(self._options, 1)
        zoom = ZoomControl(self.look, self.icons, self.desk)
        line.addWidget(zoom)
        self._proposals.setFixedHeight(32)
        for lines in (self._options, self._proposals):
            lines.setMinimumWidth(1)
            lines.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        bench = QWidget()
        bench_line = QHBoxLayout(bench)
        bench_line.setContentsMargins(0, 0, 0, 0)
        bench_line.setSpacing(0)
        bench_line.addWidget(self.tool_column)
        bench_line.addWidget(self.desk, 1)
        top = QWidget()
        column = QVBoxLayout(top)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(options)
        column.addWidget(self._proposals)
        column.addWidget(bench, 1)
        self.middle = self._splitter(Qt.Orientation.Vertical, top, self._under, sizes=(608, 120))
        self.right = self._splitter(Qt.Orientation.Vertical, self.proof, self._cards, sizes=(208, 520))
        self.across = self._splitter(
            Qt.Orientation.Horizontal, self.shelf, self.middle, self.right, sizes=(167, 840, 271)
        )
        self.across.setStretchFactor(1, 1)
        self.middle.setStretchFactor(0, 1)
        self.right.setStretchFactor(1, 1)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for above in (self.rail, self.recovery, self.notice):
            column.addWidget(above)
        column.addWidget(self.across, 1)
        column.addWidget(self.findings)
        panels = (self.shelf, self.strip, self.tray, self.timeline, self.walk_log, self.proof, self.findings)
        for part in (self.rail, self.recovery, self.notice, self.tool_column, zoom, *panels):
            self.look.dress(part)
        self.setCentralWidget(whole)
        self.setMinimumSize(960, 600)

    def _splitter(self, way: Qt.Orientation, *parts: QWidget, sizes: tuple[int, ...]) -> QSplitter:
        made = Splitter(self.look, way)
        made.setHandleWidth(1)
        made.setChildrenCollapsible(False)
        for part in parts:
            made.addWidget(part)
        made.setSizes(list(sizes))
        return made

    def _connect(self) -> None:
        session = self.session
        self.rail.tabs.chosen.connect(self.turn_to)
        self.rail.undo.pressed.connect(session.document.undo)
        self.rail.redo.pressed.connect(session.document.redo)
        for button in (self.rail.undo, self.rail.redo):
            button.pressed_aside.connect(lambda: self.opened.open_edits())
        self.rail.finder.pressed.connect(self.open_finder)
        self.rail.plate.pressed.connect(self._menu)
        self.shelf.wants_pictures.connect(lambda: self.commands.run_id("gather.add"))
        self.shelf.wants_level.connect(lambda: self.commands.run_id("paint.new"))
        self.shelf.states_changed.connect(self.rail.tabs.show_states)
        session.document.settling.connect(self._settle)
        session.staged.connect(self._show_stage)
        session.spotted.connect(lambda x, y: self.stage(session.stage).look_at_cell(x, y))
        self.tray.wants_other_side.connect(self.move_tray)
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

    @property
    def tray_is_aside(self) -> bool:
        """Whether the Tray stands in a column of its own."""
        return self.across.indexOf(self.tray) >= 0

    def move_tray(self) -> None:
        """The Tray to a column at the right of the Desk, or back below it."""
        aside = not self.tray_is_aside
        if aside:
            self._under.removeWidget(self.tray)
            self.across.insertWidget(2, self.tray)
            self.tray.setMinimumWidth(200)
            shelf, middle, *_rest, right = self.across.sizes()
            self.across.setSizes([shelf, max(middle - TRAY_ASIDE, 240), TRAY_ASIDE, right])
        else:
            self._under.insertWidget(1, self.tray)
        self.settings.setValue("tray_aside", aside)
        self._show_under(self.stage(self.session.stage))

    def _show_under(self, stage: Stage) -> None:
        """What stands below the Desk: the cells, the tiles, or the frames."""
        aside = self.tray_is_aside
        self.tray.setVisible(stage.strip == "tray")
        self._under.setVisible(not (aside and stage.strip == "tray"))
        shown = {"tray": self.tray, "timeline": self.timeline, "log": self.walk_log}.get(
            stage.strip, self.strip
        )
        if not (aside and shown is self.tray):
            self._under.setCurrentWidget(shown)

    def _settle(self) -> None:
        """Let a field that is being typed in finish: what was typed counts."""
        field = QApplication.focusWidget()
        if isinstance(field, QLineEdit) and self.isAncestorOf(field):
            field.clearFocus()

    def _repaint(self) -> None:
        for part in self.findChildren(QWidget):
            part.update()

    # -- commands --------------------------------------------------------------------------------------

    def _add_commands(self) -> None:
        stages = self.stages
        self.commands.add(window_commands(self))
        for key, stage in stages.items():
            of_the_stage = importlib.import_module(f"rushweed.ui.stages.{key}.commands")
            self.commands.add(of_the_stage.commands(stage))

    def _menu(self, at: QPointF) -> None:
        menu = QMenu(self)
        menu.setStyleSheet(self.look.rules())
        for group in (
            ("file.new", "file.open", "file.demo", "file.save", "file.recovered"),
            ("gather.add", "gather.unused", "paint.new", "ship.ship"),
            ("view.settings", "view.theme", "view.find", "view.guide"),
        ):
            for command_id in group:
                row = self.commands.row(command_id)
                action = QAction(row.words, menu)
                if row.keys:
                    action.setShortcut(QKeySequence(row.keys[0]))
                    action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
                action.setEnabled(not row.needs())
                action.triggered.connect(lambda _c=False, r=row: self.commands.run(r))
                menu.addAction(action)
            if "file.open" in group:
                menu.addMenu(self._recent_menu(menu))
            menu.addSeparator()
        menu.exec(self.rail.plate.mapToGlobal(at.toPoint()))

    def recent(self) -> list[Path]:
        """The projects opened of late, the last first; the application says which."""
        return self.projects_of_late() if self.projects_of_late is not None else []

    def _recent_menu(self, menu: QMenu) -> QMenu:
        made = QMenu("Open of late", menu)
        made.setStyleSheet(self.look.rules())
        made.setToolTipsVisible(True)
        for path in self.recent():
            action = QAction(path.name.replace("&", "&&"), made)
            action.setToolTip(plain_tip(str(path)))
            action.setEnabled(path != self.session.folder.path.absolute())
            action.triggered.connect(lambda _c=False, path=path: self.wants_project.emit(("open", path)))
            made.addAction(action)
        made.setEnabled(not made.isEmpty())
        return made

    def open_finder(self) -> None:
        corner = self.rail.finder.mapTo(self, self.rail.finder.rect().bottomRight())
        self.finder.open(corner.x() + 1, corner.y() + 3)

    def select_all(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            self.session.selection.choose_cells(tuple(c.id for c in sheet.cells))

    def rename_cell(self) -> None:
        cell = self.session.selection.cell
        if cell is not None and not self.strip.film.edit_name(cell):
            self.session.tell(
                "told",
                f"The Strip shows frames, and {cell.name} is none of them.",
                "Press Cells in the Strip first.",
            )

    def same_cut(self) -> None:
        from rushweed.ui.stages.cut.stage import CutStage

        sheet, cut = self.session.selection.sheet, self.stage("cut")
        assert isinstance(cut, CutStage)
        if sheet is not None and sheet.cut is not None:
            cut.take(sheet.cut)

    def next_theme(self) -> None:
        names = list(THEMES)
        self.use_theme(names[(names.index(self.look.theme) + 1) % len(names)])

    def use_theme(self, theme: str) -> None:
        self.look.set_theme(theme)
        self.settings.setValue("theme", theme)

    # -- following the session ---------------------------------------------------------------------------

    def _show_stage(self, key: str) -> None:
        stage = self.stage(key)
        self.rail.tabs.show_stage(key)
        self._options.setCurrentWidget(stage.option_line)
        self._cards.setCurrentWidget(stage.card)
        if stage.proposal_line is not None:
            self._proposals.setCurrentWidget(stage.proposal_line)
        self._proposals.setVisible(stage.proposal_line is not None)
        self._show_under(stage)
        self.desk.show_stage(stage)
        self.tool_column.show_stage(stage)
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
                self._show_welcome()

    def _saved(self) -> None:
        history = self.session.document.history
        self.rail.show_history(history.undo_label, history.redo_label)
        mark = "*" if self.session.saver.unsaved else ""
        share = self.findings.running.share
        far = f"{share:.0%} - " if share > 0 else ""
        self.setWindowTitle(f"{far}{mark}{self.session.project.name} - Rushweed")

    # -- opening, dropping, closing ------------------------------------------------------------------------

    def choose_project(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Open a project folder")
        if name:
            self.wants_project.emit(("open", Path(name)))

    def choose_new(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Choose an empty folder for the new project")
        if name:
            self.wants_project.emit(("new", Path(name)))

    def choose_demo(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Choose an empty folder for the demo")
        if name:
            self.wants_project.emit(("demo", Path(name)))

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
        """Panel edges as they were left."""
        for name, splitter in (("across", self.across), ("middle", self.middle), ("right", self.right)):
            state = self.settings.value(f"edges/{name}")
            if state is not None:
                splitter.restoreState(state)
        self.proof.controls.restore(self.settings)
        self.shelf.list.folded = set(self.settings.value("folded", [], list))
        self.shelf.list.relayout()
        self.shelf.list.folded_changed.connect(
            lambda: self.settings.setValue("folded", sorted(self.shelf.list.folded))
        )
        shape = self.settings.value("window")
        if shape is not None:
            self.restoreGeometry(shape)
        else:
            self.resize(1280, 800)
        self._fit_screen()

    def _fit_screen(self) -> None:
        """Never larger than what the screen has free, nor beyond its edges."""
        screen = self.screen()
        if screen is None or self.isMaximized() or self.isFullScreen():
            return
        room = screen.availableGeometry()
        wide, high = min(self.width(), room.width()), min(self.height(), room.height() - TITLE_BAR)
        self.setMinimumSize(min(self.minimumWidth(), wide), min(self.minimumHeight(), high))
        self.resize(wide, high)
        x = max(min(self.x(), room.right() + 1 - wide), room.left())
        y = max(min(self.y(), room.bottom() + 1 - high), room.top())
        if self.pos() != QPoint(x, y):
            self.move(x, y)

    def _remember(self) -> None:
        for name, splitter in (("across", self.across), ("middle", self.middle), ("right", self.right)):
            self.settings.setValue(f"edges/{name}", splitter.saveState())
        self.proof.controls.remember(self.settings)
        self.settings.setValue("window", self.saveGeometry())

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if self.session.saver.unsaved and not self.session.document.read_only and not self._ask_to_save():
            event.ignore()
            return
        self._remember()
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

    def _ask_to_save(self) -> bool:
        """Save, leave the edits or stay; returns whether the window may close."""
        box = QMessageBox(self)
        box.setStyleSheet(self.look.rules())
        box.setWindowTitle("Rushweed")
        box.setText(f"{self.session.project.name} has edits that are not saved.")
        save = box.addButton("Save and close", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Close without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is save:
            self.session.saver.save()
            self.session.jobs.finish()
            return self._on_disk()
        if box.clickedButton() is leave:
            self.session.jobs.finish()
            try:
                self.session.saver.leave_unsaved()
            except RushweedError as error:
                self.session.tell("fault", error.problem, error.cure)
                return False
            return True
        return False

    def _on_disk(self) -> bool:
        """Whether the save that was waited for went well; its signals may still be under way."""
        QApplication.processEvents()
        return not self.session.saver.unsaved
