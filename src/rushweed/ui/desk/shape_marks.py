"""Shapes coded by pattern first, colour second: hatch, comb and dots."""

from __future__ import annotations

import math
from collections.abc import Iterable

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from rushweed.core.document.model import Shape, Side
from rushweed.core.shape.primitives import corners
from rushweed.ui.desk.marks import draw_lines
from rushweed.ui.desk.view import View
from rushweed.ui.theme import Look

Placed = tuple[Shape, float, float]  # a shape and the px of its cell's top left


class ShapeMarks:
    """Paints any number of shapes; those of one role are filled and outlined in one go."""

    def __init__(self, look: Look) -> None:
        self.look = look
        self._hatch: QPixmap | None = None
        self._dots: QPixmap | None = None

    def _hatch_brush(self) -> QPixmap:
        if self._hatch is None:
            self._hatch = _pattern(12)
            painter = QPainter(self._hatch)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for shift, colour in (
                (1.2, self.look.colour("art_casing", 0.5)),
                (0, self.look.colour("art_solid", 0.62)),
            ):
                painter.setPen(QPen(colour, 1))
                for start in (-12, 0, 12):
                    painter.drawLine(QLineF(start + shift, 12 + 0.5, start + 12 + shift, 0.5))
            painter.end()
        return self._hatch

    def _dot_brush(self) -> QPixmap:
        if self._dots is None:
            self._dots = _pattern(24)
            painter = QPainter(self._dots)
            for x, y in ((5, 5), (17, 17)):
                painter.fillRect(x - 1, y - 1, 4, 4, self.look.colour("art_casing", 0.5))
                painter.fillRect(x, y, 2, 2, self.look.colour("art_sensor"))
            painter.end()
        return self._dots

    def paint(self, painter: QPainter, view: View, shapes: Iterable[Placed]) -> None:
        """Draw shapes given with their cell's place, in sheet or level px."""
        paths = {role: QPainterPath() for role in ("solid", "one-way", "sensor")}
        combs: list[QLineF] = []
        for shape, x, y in shapes:
            ring = QPolygonF([view.to_screen(x + px, y + py) for px, py in corners(shape)])
            path = paths[shape.role]
            path.addPolygon(ring)
            path.closeSubpath()
            if shape.role == "one-way":
                combs += comb(ring, shape.stops)
        origin = QPointF(view.offset.x() % 24, view.offset.y() % 24)
        painter.save()
        painter.setBrushOrigin(origin)
        painter.fillPath(paths["solid"], QBrush(self._hatch_brush()))
        painter.fillPath(paths["sensor"], QBrush(self._dot_brush()))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        casing = self.look.colour("art_casing", 0.82)
        self._outline(painter, paths["solid"], self.look.colour("art_solid"), casing, 1)
        if combs:
            painter.setPen(QPen(casing, 4, cap=Qt.PenCapStyle.FlatCap))
            draw_lines(painter, combs)
            painter.setPen(QPen(self.look.colour("art_oneway"), 2, cap=Qt.PenCapStyle.FlatCap))
            draw_lines(painter, combs)
        self._outline(painter, paths["one-way"], self.look.colour("art_oneway"), casing, 2)
        if not paths["sensor"].isEmpty():
            painter.setPen(QPen(casing, 1))
            painter.drawPath(paths["sensor"])
            for wide, colour in ((5, casing), (3, self.look.colour("art_sensor"))):
                pen = QPen(colour, wide, cap=Qt.PenCapStyle.FlatCap)
                pen.setDashPattern([wide / wide, (12 - wide) / wide])
                pen.setDashOffset(-(5 - wide) / 2 / wide)
                painter.setPen(pen)
                painter.drawPath(paths["sensor"])
        painter.restore()

    @staticmethod
    def _outline(painter: QPainter, path: QPainterPath, line: QColor, casing: QColor, wide: float) -> None:
        if not path.isEmpty():
            join = Qt.PenJoinStyle.MiterJoin
            painter.setPen(QPen(casing, wide + 2, join=join))
            painter.drawPath(path)
            painter.setPen(QPen(line, wide, join=join))
            painter.drawPath(path)

    def paint_merged(self, painter: QPainter, view: View, shapes: Iterable[Placed]) -> None:
        """As `paint`, but solid shapes that share a whole edge read as one: a bold outline around them
        and hatch only in a band along it."""
        solid, rest = QPainterPath(), []
        edges: dict[tuple[float, float, float, float], int] = {}
        for shape, x, y in shapes:
            if shape.role != "solid":
                rest.append((shape, x, y))
                continue
            points = [(x + px, y + py) for px, py in corners(shape)]
            solid.addPolygon(QPolygonF([view.to_screen(*p) for p in points]))
            solid.closeSubpath()
            for (ax, ay), (bx, by) in zip(points, (*points[1:], points[0]), strict=True):
                if edges.pop((bx, by, ax, ay), None) is None:
                    edges[ax, ay, bx, by] = 1
        lines = [QLineF(view.to_screen(ax, ay), view.to_screen(bx, by)) for ax, ay, bx, by in edges]
        painter.save()
        painter.setClipPath(solid, Qt.ClipOperation.IntersectClip)
        painter.setBrushOrigin(QPointF(view.offset.x() % 12, view.offset.y() % 12))
        painter.setPen(QPen(QBrush(self._hatch_brush()), 28, cap=Qt.PenCapStyle.SquareCap))
        draw_lines(painter, lines)
        painter.restore()
        for colour, wide in ((self.look.colour("art_casing", 0.82), 4), (self.look.colour("art_solid"), 2)):
            painter.setPen(QPen(colour, wide, cap=Qt.PenCapStyle.SquareCap))
            draw_lines(painter, lines)
        self.paint(painter, view, rest)

    def sample(self, painter: QPainter, box: QRectF, role: str) -> None:
        """A small picture of a role for buttons and heads."""
        ink = self.look.colour("ink")
        painter.save()
        painter.setClipRect(box)
        if role == "solid":
            painter.setPen(QPen(ink, 1))
            x = box.left() - box.height()
            while x < box.right():
                painter.drawLine(QLineF(x, box.bottom(), x + box.height(), box.top()))
                x += 5
        elif role == "one-way":
            painter.setPen(QPen(ink, 1))
            x = box.left() + 3.5
            while x < box.right():
                painter.drawLine(QLineF(x, box.center().y(), x, box.bottom() - 1))
                x += 4
        else:
            y = box.top() + 3
            odd = False
            while y < box.bottom() - 2:
                x = box.left() + (5 if odd else 3)
                while x < box.right() - 2:
                    painter.fillRect(QRectF(x, y, 2, 2), ink)
                    x += 5
                y += 4
                odd = not odd
        painter.setClipping(False)
        style = Qt.PenStyle.DotLine if role == "sensor" else Qt.PenStyle.SolidLine
        painter.setPen(QPen(ink, 1 if role != "one-way" else 1.5, style))
        frame = box.adjusted(0.5, 0.5, -0.5, -0.5)
        if role == "one-way":
            frame = frame.adjusted(0, 0, 0, -frame.height() / 2)
        painter.drawRect(frame)
        painter.restore()


def comb(ring: QPolygonF, stops: Side) -> list[QLineF]:
    """Comb ticks of 7 px, 8 apart, hanging from the side opposite the one that stops."""
    box = ring.boundingRect()
    lines: list[QLineF] = []
    if stops in ("top", "bottom"):
        y = box.bottom() if stops == "top" else box.top()
        reach = 7 if stops == "top" else -7
        x = float(math.ceil((box.left() + 3) / 8) * 8)
        while x < box.right() - 1:
            lines.append(QLineF(x, y, x, y + reach))
            x += 8
    else:
        x = box.right() if stops == "left" else box.left()
        reach = 7 if stops == "left" else -7
        y = float(math.ceil((box.top() + 3) / 8) * 8)
        while y < box.bottom() - 1:
            lines.append(QLineF(x, y, x + reach, y))
            y += 8
    return lines


def diamond(
    painter: QPainter, at: QPointF, radius: float, fill: QColor, edge: QColor, wide: float = 2
) -> None:
    painter.setPen(QPen(edge, wide))
    painter.setBrush(fill)
    painter.drawPolygon(
        at + QPointF(0, -radius), at + QPointF(radius, 0), at + QPointF(0, radius), at + QPointF(-radius, 0)
    )


def _pattern(side: int) -> QPixmap:
    pixmap = QPixmap(side, side)
    pixmap.fill(Qt.GlobalColor.transparent)
    return pixmap
