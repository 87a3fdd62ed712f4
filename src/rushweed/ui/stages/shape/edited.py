"""The one shape that is worked on, with its grips."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.document.model.shape import Polygon, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.drag import grips
from rushweed.core.shape.primitives import bounds, corners, crossings
from rushweed.core.tune.units import plain
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.shape_marks import diamond
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.shape.vertices import edge_middles, paint_crossings


def grips_of(context: Context, cell: Cell, shape: Shape) -> list[tuple[str, QPointF]]:
    """The grips of a shape on screen, by name."""
    x, y = cell.rect[:2]
    return [(name, context.desk.view.to_screen(x + px, y + py)) for name, (px, py) in grips(shape).items()]


def paint_edited(
    painter: QPainter, context: Context, cell: Cell, shape: Shape, reshapes: bool, held: bool
) -> None:
    """The outline in rust with its corners as diamonds, and the size told in px and units."""
    view, look = context.desk.view, context.look
    x, y = cell.rect[0], cell.rect[1]
    ring = QPolygonF([view.to_screen(x + px, y + py) for px, py in corners(shape)])
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(look.colour("art_paper"), 4))
    painter.drawPolygon(ring)
    crossed = isinstance(shape, Polygon) and bool(crossings(shape.points))
    painter.setPen(QPen(look.colour("art_fault" if crossed else "art_rust"), 2))
    painter.drawPolygon(ring)
    for _edge, px, py in edge_middles(shape) if reshapes else ():
        middle = view.to_screen(x + px, y + py)
        diamond(painter, middle, 4, look.colour("art_paper"), look.colour("art_rust"), 1)
    if isinstance(shape, Polygon):
        paint_crossings(painter, context, cell, shape.points)
    for _name, at in grips_of(context, cell, shape):
        diamond(painter, at, 6, look.colour("art_paper"), look.colour("art_ink"), 1.5)
    painter.restore()
    left, top, right, bottom = bounds(shape)
    sheet = context.session.selection.sheet
    ppu = sheet.tune.ppu if sheet else 1
    w, h = right - left, bottom - top
    text = f"{plain(w, 2)} × {plain(h, 2)} px  {w / ppu:.2f} × {h / ppu:.2f} u"
    at = view.to_screen(x + left, y + top)
    tag(painter, look, at.x(), max(at.y() - 24, context.desk.room.top() + 2), text, rust=held)
