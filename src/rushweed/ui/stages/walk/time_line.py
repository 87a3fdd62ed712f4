"""The time line under the picture: what happened when, and a diamond for now, to be dragged."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.walk.terms import LONGEST_S, STEPS
from rushweed.ui.kit.theme import Look
from rushweed.ui.stages.walk.play import Play

HIGH = 26
MARKS = {"jumped": ("ink", 8), "fell": ("fault", 10), "crushed": ("fault", 10), "entered": ("straw_deep", 5)}
LEAST_S = 10  # that the line stands for, however short the walk


class TimeLine:
    """Draws the last minute of a walk and turns places on it into steps."""

    def __init__(self, look: Look, play: Play) -> None:
        self.look, self.play = look, play
        self.box = QRectF()

    def _bar(self) -> tuple[float, float]:
        return self.box.left() + 66, self.box.right() - 80

    def _span(self) -> tuple[int, int]:
        """The steps at its two ends."""
        walk = self.play.walk
        assert walk is not None
        first = walk.kept_from()
        return first, max(walk.step, first + LEAST_S * STEPS)

    def step_at(self, x: float) -> int:
        (left, right), (first, last) = self._bar(), self._span()
        return round(first + (x - left) / max(right - left, 1) * (last - first))

    def x_of(self, step: int) -> float:
        (left, right), (first, last) = self._bar(), self._span()
        return left + (step - first) / max(last - first, 1) * (right - left)

    def paint(self, painter: QPainter, box: QRectF) -> None:
        self.box = box
        walk, look = self.play.walk, self.look
        if walk is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.fillRect(box, look.colour("paper"))
        painter.setPen(look.colour("rule"))
        painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
        middle = round(box.center().y()) + 0.5
        left, right = self._bar()
        now = self.x_of(walk.step)
        for colour, a, b in (("rule_deep", left, right), ("reed", left, now)):
            painter.fillRect(QRectF(a, middle - 1.5, max(b - a, 0), 3), look.colour(colour))
        for event in walk.events:
            if event.kind in MARKS and event.step >= walk.kept_from():
                role, half = MARKS[event.kind]
                painter.fillRect(
                    QRectF(round(self.x_of(event.step)), middle - half, 1.5, half * 2), look.colour(role)
                )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(look.colour("paper"), 1))
        painter.setBrush(look.colour("rust"))
        painter.drawPolygon(
            QPolygonF(
                [
                    QPointF(now, middle - 8),
                    QPointF(now + 6, middle),
                    QPointF(now, middle + 8),
                    QPointF(now - 6, middle),
                ]
            )
        )
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setFont(look.mono(11))
        painter.setPen(look.colour("quiet"))
        seconds = (walk.step - walk.kept_from()) / STEPS
        flags = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(box.left() + 8, box.top(), 60, box.height()), flags, f"{seconds:.1f} s")
        painter.drawText(QRectF(right + 12, box.top(), 64, box.height()), flags, f"{LONGEST_S} s kept")
