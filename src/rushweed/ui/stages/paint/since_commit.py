"""What changed in the level since the last commit, over the level as it is painted."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.level.compare import Difference, changed_in, compare
from rushweed.core.store.folder import Folder
from rushweed.core.store.revision import export_revision
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.paint.state import PaintState

REVISION = "HEAD"
SHOWN = 3  # differences that are told in words
MOST_MARKED = 3000  # cells: more are told by a frame around all


class SinceCommit(QObject):
    """Reads the last commit once when it is switched on; then compares as one paints."""

    def __init__(self, state: PaintState) -> None:
        super().__init__()
        self.state, self.session = state, state.session
        self.base: Project | None = None

    def switch(self, on: bool) -> None:
        self.base = None
        self.state.desk.update()
        if not on:
            return
        path, project = self.session.folder.path, self.session.project

        def work(_job: Job) -> tuple[Project, list[Difference]]:
            with tempfile.TemporaryDirectory(prefix="rushweed-commit-") as scratch:
                base = Folder(export_revision(path, REVISION, Path(scratch))).open()
            return base, compare(base, project)

        self.session.working.emit(
            self.session.jobs.start("Reading the last commit", work, self._read, self._refused)
        )

    def _read(self, read: tuple[Project, list[Difference]]) -> None:
        if not self.state.shown.since.on:
            return
        self.base, found = read
        words = "; ".join(d.text() for d in found[:SHOWN])
        more = f" and {len(found) - SHOWN} more" if len(found) > SHOWN else ""
        self.session.tell(
            "told",
            f"Since the last commit: {words}{more}." if found else "Nothing changed since the last commit.",
        )
        self.state.desk.update()

    def _refused(self, error: RushweedError) -> None:
        self.state.shown.since.show_value(False)
        self.session.tell("fault", error.problem, error.cure)

    def changes(self, level: Level) -> tuple[int, int, np.ndarray] | None:
        """Where the level, as far as it is in view, differs from the last commit: the first column and row,
        and bool (rows, columns); None where that is not known."""
        old = next((v for v in self.base.levels if v.id == level.id), None) if self.base is not None else None
        if old is None:
            return None
        desk, (cw, ch) = self.state.desk, level.cell
        a, b = desk.view.to_content(desk.room.topLeft()), desk.view.to_content(desk.room.bottomRight())
        left, top = max(int(a.x() // cw), level.bounds[0]), max(int(a.y() // ch), level.bounds[1])
        right = min(int(b.x() // cw) + 1, level.bounds[0] + level.bounds[2])
        bottom = min(int(b.y() // ch) + 1, level.bounds[1] + level.bounds[3])
        if right <= left or bottom <= top:
            return None
        return left, top, changed_in(old, level, (left, top, right - left, bottom - top))

    def paint(self, painter: QPainter, level: Level) -> None:
        found = self.changes(level)
        if found is None or not found[2].any():
            return
        left, top, mask = found
        look, view, (cw, ch) = self.state.look, self.state.desk.view, level.cell
        painter.setBrush(Qt.BrushStyle.NoBrush)
        spots = np.argwhere(mask)
        boxes = [view.rect((left + int(c)) * cw, (top + int(r)) * ch, cw, ch) for r, c in spots[:MOST_MARKED]]
        if len(spots) > MOST_MARKED:
            (r0, c0), (r1, c1) = spots.min(0), spots.max(0)
            area = ((left + int(c0)) * cw, (top + int(r0)) * ch, int(c1 - c0 + 1) * cw, int(r1 - r0 + 1) * ch)
            boxes = [view.rect(*area)]
        fill = look.colour("art_straw", 0.28)
        for box in boxes:
            painter.fillRect(box, fill)
        painter.setPen(QPen(look.colour("art_straw"), 1.5, Qt.PenStyle.DotLine))
        for box in boxes:
            painter.drawRect(box.adjusted(1, 1, -1, -1))
