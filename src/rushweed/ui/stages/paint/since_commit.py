"""What changed in the level since the last commit, over the level as it is painted."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model import Level, Project
from rushweed.core.level.compare import compare, level_changes
from rushweed.core.store.folder import Folder
from rushweed.core.store.revision import export_revision
from rushweed.ui.session.jobs import Job

if TYPE_CHECKING:
    from rushweed.ui.stages.paint.stage import PaintStage

REVISION = "HEAD"
SHOWN = 3  # differences that are told in words
MOST_MARKED = 3000  # cells: more are told by a frame around all


class SinceCommit(QObject):
    """Reads the last commit once when it is switched on; then compares as one paints."""

    def __init__(self, stage: PaintStage) -> None:
        super().__init__()
        self.stage, self.session = stage, stage.session
        self.base: Project | None = None
        self._found: tuple[Level, tuple[int, int, np.ndarray]] | None = None

    def switch(self, on: bool) -> None:
        self.base = self._found = None
        self.stage.desk.update()
        if not on:
            return
        path = self.session.folder.path

        def work(_job: Job) -> Project:
            with tempfile.TemporaryDirectory(prefix="rushweed-commit-") as scratch:
                return Folder(export_revision(path, REVISION, Path(scratch))).open()

        self.session.working.emit(
            self.session.jobs.start("Reading the last commit", work, self._read, self._refused)
        )

    def _read(self, base: Project) -> None:
        if not self.stage.since.on:
            return
        self.base = base
        found = compare(base, self.session.project)
        words = "; ".join(d.text() for d in found[:SHOWN])
        more = f" and {len(found) - SHOWN} more" if len(found) > SHOWN else ""
        self.session.tell(
            "told",
            f"Since the last commit: {words}{more}." if found else "Nothing changed since the last commit.",
        )
        self.stage.desk.update()

    def _refused(self, error: RushweedError) -> None:
        self.stage.since.show_value(False)
        self.session.tell("fault", error.problem, error.cure)

    def changes(self, level: Level) -> tuple[int, int, np.ndarray] | None:
        """Where the level differs from the last commit; None where that is not known."""
        if self.base is None:
            return None
        old = next((v for v in self.base.levels if v.id == level.id), None)
        if old is None:
            return None
        if self._found is None or self._found[0] is not level:
            if self.session.document.gesturing and self._found is not None:
                return self._found[1]
            self._found = (level, level_changes(old, level))
        return self._found[1]

    def paint(self, painter: QPainter, level: Level) -> None:
        found = self.changes(level)
        if found is None or not found[2].any():
            return
        left, top, mask = found
        look, view, (cw, ch) = self.stage.look, self.stage.desk.view, level.cell
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
