"""A measuring tape: cells, units and px between two places of the level, and whether he can jump it."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.walk.jump import leap
from rushweed.core.walk.walkers import body_of, units_of, walker_of
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.tools.tool import PaintTool


class Measure(PaintTool):
    id, words, icon, key, group = "tape", "Measuring tape", "ruler", "I", 2
    help = "Drag from one place to another; Shift keeps it straight"
    marks_cell = False
    ends: tuple[tuple[float, float], tuple[float, float]] | None = None

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        self.ends = (round(at.x), round(at.y)), (round(at.x), round(at.y))

    def drag(self, at: DeskEvent) -> None:
        if self.ends is not None and self.began is not None:
            x, y = round(at.x), round(at.y)
            (x0, y0), _end = self.ends
            if at.shift:
                x, y = (x, round(y0)) if abs(x - x0) >= abs(y - y0) else (round(x0), y)
            self.ends = self.ends[0], (x, y)
            self.state.desk.update()

    def release(self, at: DeskEvent) -> None:
        self.drag(at)
        super().release(at)

    def cancel(self) -> None:
        super().cancel()
        self.ends = None

    def text(self) -> str:
        """What it tells, across and down, then straight."""
        level = self.session.selection.level
        if self.ends is None or level is None:
            return ""
        (x0, y0), (x1, y1) = self.ends
        dx, dy, ppu = abs(x1 - x0), abs(y1 - y0), units_of(self.session.project, level)
        text = f"{dx / level.cell[0]:.4g} × {dy / level.cell[1]:.4g} cells"
        text += f"   {dx / ppu:.4g} × {dy / ppu:.4g} u   {math.hypot(dx, dy):.4g} px"
        if level.view == "side" and dx >= level.cell[0] / 2:
            walker, project = walker_of(level), self.session.project
            wide = body_of(project, walker, ppu)[2] / ppu
            text += f"   {leap(walker, wide, dx / ppu, (y0 - y1) / ppu).text}"
        return text

    def paint(self, painter: QPainter, room: QRectF) -> None:
        if self.ends is None:
            return
        look, view = self.state.look, self.state.desk.view
        a, b = (view.to_screen(*end) for end in self.ends)
        for colour, wide in (("art_casing", 4.0), ("art_straw", 2.0)):
            painter.setPen(QPen(look.colour(colour), wide))
            painter.drawLine(a, b)
            for end in (a, b):
                painter.drawLine(end - QPointF(0, 5), end + QPointF(0, 5))
        tag(painter, look, b.x() + 10, b.y() - 24, self.text(), rust=True)
