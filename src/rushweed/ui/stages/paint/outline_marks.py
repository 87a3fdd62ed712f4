"""The merged outline of the level, drawn over it, with how many corners it saves and where it would catch."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.level.outline import Outline
from rushweed.core.level.outline_faults import Fault, mend, outline_faults
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.text import many
from rushweed.ui.session import later
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.paint.state import PaintState

SETTLE_MS = 150
MOST_LINES = 60_000  # that are drawn at once
MOST_FAULTS = 200  # that are marked
NOW_CELLS = 64 * 64  # of a level whose outline is worked out at once


class Drawn(NamedTuple):
    """The lines of each block (whether they are one-way, where they lie, float (n, 4), all in level px), the
    places to catch on, and what to say."""

    blocks: list[tuple[bool, QRectF, np.ndarray]]
    faults: list[Fault]
    text: str


class OutlineMarks:
    """Small levels follow at once; of large ones the outline is worked out beside the window."""

    def __init__(self, state: PaintState) -> None:
        self.state, self.session = state, state.session
        self._outline, self._level = Outline(), ""
        self.drawn = Drawn([], [], "")
        self._made_lines: dict[int, list[QLineF]] = {}
        self._for: tuple[object, ...] = ()
        self._job: Job | None = None
        self._soon = later(state, SETTLE_MS, self._work)

    def paint(self, painter: QPainter, room: QRectF, level: Level) -> None:
        project, view, look = self.session.project, self.state.desk.view, self.state.look
        key = (level, project.sheets)
        if not self._for or any(a is not b for a, b in zip(key, self._for, strict=True)):
            self._for = key
            if self._job is None:
                if level.bounds[2] * level.bounds[3] <= NOW_CELLS:
                    self._show(self._made(project, level))
                else:
                    self._soon.start()
        corner = view.to_screen(0, 0)
        painter.save()
        painter.translate(corner)
        painter.scale(view.zoom, view.zoom)
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        seen = QRectF(a, b)
        shown = [n for n, (_way, box, _edges) in enumerate(self.drawn.blocks) if box.intersects(seen)]
        if sum(len(self.drawn.blocks[n][2]) for n in shown) > MOST_LINES:
            shown = []  # a blur, and slow: the words stay
        for colour, wide in (("art_casing", 4.0), ("art_rust", 2.0)):
            for n in shown:
                one_way = self.drawn.blocks[n][0]
                pen = QPen(look.colour("art_straw" if one_way and wide < 3 else colour), wide)
                pen.setCosmetic(True)
                painter.setPen(pen)
                painter.drawLines(self._lines(n))  # type: ignore[call-overload]
        painter.restore()
        painter.setPen(QPen(look.colour("art_fault"), 2))
        for fault in self.drawn.faults[:MOST_FAULTS]:
            painter.drawEllipse(view.to_screen(*fault.at), 6, 6)
        if self.drawn.text:
            tag(painter, look, room.left() + 8, room.bottom() - 26, self.drawn.text)

    def _lines(self, n: int) -> list[QLineF]:
        """Those of a block, made when it is first seen."""
        if n not in self._made_lines:
            self._made_lines[n] = [QLineF(*edge) for edge in self.drawn.blocks[n][2].tolist()]
        return self._made_lines[n]

    def _made(self, project: Project, level: Level, job: Job | None = None) -> Drawn:
        """All there is to draw, which may take its time."""

        def tell(share: float) -> None:
            if job is not None:
                job.tell(share, "Outlining the level")

        if level.id != self._level:
            self._outline, self._level = Outline(), level.id
        outline = self._outline
        outline.update(project, level, cell_homes(project), tell)
        blocks = []
        for kind, edges in outline.edges():
            low, high = edges.reshape(-1, 2).min(0), edges.reshape(-1, 2).max(0)
            box = QRectF(QPointF(*low), QPointF(*high)).adjusted(-1, -1, 1, 1)
            blocks.append((kind.blocks_from is not None, box, edges))
        rings = outline.rings()
        faults, after = outline_faults(rings), sum(len(ring.points) for ring in rings)
        text = (
            f"outline: {many(len(rings), 'line')}, {after:,} corners instead of {outline.corners_before():,}"
        )
        if faults:
            text += f", {many(len(faults), 'place')} to catch on"
        return Drawn(blocks, faults, text)

    def _work(self) -> None:
        level, project = self.session.selection.level, self.session.project
        if level is None or not self.state.shown.merged.on or self._job is not None:
            return
        if self.session.document.gesturing:
            self._soon.start()
            return

        def done(drawn: Drawn) -> None:
            self._job = None
            self._show(drawn)
            if self._for and self._for[0] is not level:
                self._soon.start()

        def failed(error: RushweedError) -> None:
            self._job = None
            self.session.tell("fault", error.problem, error.cure)

        def work(job: Job) -> Drawn:
            return self._made(project, level, job)

        self._job = job = self.session.jobs.start("Outlining the level", work, done, failed)
        job.ended.connect(self._ended)
        self.session.working.emit(job)

    def _ended(self) -> None:
        """Also where it was cancelled: the next edit begins again."""
        self._job = None

    def _show(self, drawn: Drawn) -> None:
        self.drawn, self._made_lines = drawn, {}
        self.state.desk.update()

    def mend(self) -> None:
        """The shapes where something would catch, onto whole px."""
        level, faults = self.session.selection.level, self.drawn.faults
        if level is None or not self.state.shown.merged.on or not faults:
            self.session.tell("told", "No place to catch on is marked.", "Show the outline with Shift+H.")
            return
        self.session.document.edit("Mend the outline", lambda p: mend(p, level, faults))
