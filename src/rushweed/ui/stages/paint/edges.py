"""The edges of the level, dragged from any side to grow or shrink it; everything in it stays in its place."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.level.levels import resize
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.state import PaintState

REACH = 10  # screen px outside the level in which an edge is caught


class LevelEdges:
    """For the tools that select: just outside the level its nearest edges are caught."""

    def __init__(self, state: PaintState) -> None:
        self.state, self.session = state, state.session
        self.held: tuple[int, int] | None = None  # -1 left or upper, 1 right or lower, across and down
        self._began = (0.0, 0.0)
        self._grown = (0, 0)

    def at(self, spot: QPointF) -> tuple[int, int]:
        """Which edges lie at a place of the Desk."""
        box = self.state.desk.view.rect(*self.state.content().getRect())
        if box.contains(spot) or not box.adjusted(-REACH, -REACH, REACH, REACH).contains(spot):
            return 0, 0
        across = -1 if spot.x() < box.left() else 1 if spot.x() > box.right() else 0
        down = -1 if spot.y() < box.top() else 1 if spot.y() > box.bottom() else 0
        return across, down

    def cursor(self, spot: QPointF) -> Qt.CursorShape | None:
        """The pointer over an edge; None elsewhere."""
        across, down = self.at(spot)
        if not across and not down:
            return None
        if across and down:
            same = across == down
            return Qt.CursorShape.SizeFDiagCursor if same else Qt.CursorShape.SizeBDiagCursor
        return Qt.CursorShape.SizeHorCursor if across else Qt.CursorShape.SizeVerCursor

    def press(self, at: DeskEvent) -> bool:
        """Whether an edge was caught."""
        edges = self.at(at.screen)
        self.held = edges if edges != (0, 0) else None
        self._began, self._grown = (at.x, at.y), (0, 0)
        return self.held is not None

    def _change(self, project: Project) -> Project:
        assert self.held is not None
        (across, down), (dx, dy) = self.held, self._grown
        left, right = (-dx if across < 0 else 0), (dx if across > 0 else 0)
        top, bottom = (-dy if down < 0 else 0), (dy if down > 0 else 0)
        return resize(project, self.session.selection.level_id, left, top, right, bottom)

    def drag(self, at: DeskEvent) -> None:
        level = self.session.selection.level
        if self.held is not None and level is not None:
            steps = (at.x - self._began[0]) / level.cell[0], (at.y - self._began[1]) / level.cell[1]
            self._grown = round(steps[0]) * abs(self.held[0]), round(steps[1]) * abs(self.held[1])
            self.session.document.preview(self._change if self._grown != (0, 0) else None)

    def release(self) -> None:
        if self.held is not None and self._grown != (0, 0):
            self.session.document.edit("Resize the level", self._change)
        elif self.held is not None:
            self.session.document.preview(None)
        self.held = None

    def cancel(self) -> None:
        self.held = None

    def paint(self, painter: QPainter, level: Level) -> None:
        """Short bars in the middle of each side, and the size while it is dragged."""
        look = self.state.look
        box = self.state.desk.view.rect(*self.state.content().getRect())
        middle = box.center()
        for x, y, upright in (
            (box.left() - 6, middle.y(), True), (box.right() + 6, middle.y(), True),
            (middle.x(), box.top() - 6, False), (middle.x(), box.bottom() + 6, False),
        ):  # fmt: skip
            half = QPointF(0, 12) if upright else QPointF(12, 0)
            for colour, wide in (("art_casing", 5.0), ("art_paper", 2.5)):
                painter.setPen(QPen(look.colour(colour), wide))
                painter.drawLine(QPointF(x, y) - half, QPointF(x, y) + half)
        if self.held is not None:
            words = f"{level.bounds[2]} × {level.bounds[3]} cells"
            tag(painter, look, QRectF(box).right() + 12, middle.y() - 10, words, rust=True)
