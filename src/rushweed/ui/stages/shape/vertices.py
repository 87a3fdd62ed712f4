"""The vertices of a polygon that is there, and where its edges cross."""

from __future__ import annotations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.shape import Polygon, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.drag import with_vertex, without_vertex
from rushweed.core.shape.edit import put_shape
from rushweed.core.shape.primitives import crossings
from rushweed.ui.desk.context import Context
from rushweed.ui.session import Session


def edge_middles(shape: Shape) -> list[tuple[int, float, float]]:
    """For each edge of a polygon its number and its middle, cell px: where a vertex can be added."""
    if not isinstance(shape, Polygon):
        return []
    points = shape.points
    return [
        (n, (a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        for n, (a, b) in enumerate(zip(points, (*points[1:], points[0]), strict=True))
    ]


def insert_vertex(session: Session, cell: Cell, index: int, edge: int, at: tuple[float, float]) -> None:
    shape = cell.shapes[index]
    assert isinstance(shape, Polygon)
    more = with_vertex(shape, edge, at)
    session.document.edit(f"Add a vertex to {cell.name}", lambda p: put_shape(p, cell.id, index, more))


def remove_vertex(session: Session, cell: Cell, index: int, vertex: int) -> None:
    shape = cell.shapes[index]
    assert isinstance(shape, Polygon)
    try:
        fewer = without_vertex(shape, vertex)
    except RushweedError as error:
        session.tell("fault", error.problem, error.cure)
        return
    session.document.edit(f"Remove a vertex of {cell.name}", lambda p: put_shape(p, cell.id, index, fewer))


def paint_crossings(
    painter: QPainter, context: Context, cell: Cell, points: tuple[tuple[float, float], ...]
) -> None:
    """A cross where edges of a ring cross one another."""
    view, look = context.desk.view, context.look
    if len(points) < 4:
        return
    for px, py in crossings(points):
        at = view.to_screen(cell.rect[0] + px, cell.rect[1] + py)
        for colour, wide in ((look.colour("art_paper"), 5), (look.colour("art_fault"), 2.5)):
            painter.setPen(QPen(colour, wide))
            painter.drawLine(at + QPointF(-7, -7), at + QPointF(7, 7))
            painter.drawLine(at + QPointF(-7, 7), at + QPointF(7, -7))
