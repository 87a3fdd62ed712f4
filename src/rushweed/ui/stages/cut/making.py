"""Cuts and edits of cells as they are tried and made: what they would lose is asked first."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.cut.edit import cut_sheet
from rushweed.core.document.model.cut import CountCut, Cut, GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.losses import loss_words, lost
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.text import many
from rushweed.ui.session.beside import worked_out

LIVE_CELLS = 1200  # up to so many cells everything follows while a number is typed; beyond it, the marks
AT_ONCE = 4 << 20  # px of the sheets that are cut without leaving the window's thread


class CutMaking(QObject):
    """Tries and makes the cuts of the sheets that are selected."""

    made = pyqtSignal(object, object)  # a sheet, and the grid it was cut by
    let_be = pyqtSignal()  # a cut that would lose something is not made

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.session, self.desk = context.session, context.desk

    def try_cut(self, cut: Cut) -> None:
        """Show a cut that is not made yet: everything follows, or only the marks where cells are many."""
        sheet = self.session.selection.sheet
        if sheet is not None and isinstance(cut, (GridCut, CountCut)):
            shown = self.desk.sheet_painter.show_trial(sheet, cut, LIVE_CELLS)
            if shown:
                self.desk.update()
                return
        self.session.document.preview(partial(self._cut_all, sheets=self.session.selection.sheets, cut=cut))

    def end_trial(self) -> None:
        self.desk.sheet_painter.trial = None
        self.desk.update()

    def cut_before(self) -> Cut | None:
        """The cut of the sheet without the preview."""
        sheets = self.session.document.history.project.sheets
        return next((s.cut for s in sheets if s.id == self.session.selection.sheet_id), None)

    def _cut_all(self, project: Project, sheets: list[Sheet], cut: Cut) -> Project:
        for sheet in sheets:
            project = cut_sheet(project, sheet.id, cut, self.session.stock.pixels(sheet))
        return project

    def take(self, cut: Cut, words: str = "") -> None:
        """Cut every sheet selected; what that would lose is told first."""
        sheets = self.session.selection.sheets
        names = sheets[0].name if len(sheets) == 1 else many(len(sheets), "sheet")
        words = words or f"Cut {names}"
        pixels = sum(s.source.size[0] * s.source.size[1] for s in sheets)

        def make(change: Callable[[Project], Project]) -> None:
            self.attempt(words, change)
            if len(sheets) == 1 and isinstance(cut, GridCut) and self.cut_before() == cut:
                self.made.emit(sheets[0], cut)

        worked_out(
            self.session, words, partial(self._cut_all, sheets=sheets, cut=cut), make, pixels > AT_ONCE
        )

    def attempt(self, words: str, change: Callable[[Project], Project]) -> None:
        """Make an edit that may lose cells: if it does, show it and ask before it happens."""
        session = self.session
        self.desk.sheet_painter.trial = None
        before = session.document.history.project
        if not session.document.preview(change):
            session.document.preview(None)
            return
        after = session.project

        def make(project: Project) -> Project:
            return after if project is before else change(project)

        losses = lost(before, after)
        if not losses:
            session.document.edit(words, make)
            return

        def keep() -> None:
            session.document.preview(None)
            self.let_be.emit()

        session.ask(
            loss_words(losses),
            [("Cut anyway", lambda: session.document.edit(words, make)), ("Cancel", keep)],
            keep,
        )

    def edit_choosing(self, words: str, change: Callable[[Project], tuple[Project, tuple[str, ...]]]) -> None:
        """Make an edit and select the cells it names."""
        made: tuple[str, ...] = ()

        def run(project: Project) -> Project:
            nonlocal made
            project, made = change(project)
            return project

        if self.session.document.edit(words, run):
            self.session.selection.choose_cells(made)
