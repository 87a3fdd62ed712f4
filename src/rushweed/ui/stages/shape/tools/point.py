"""Choosing cells and shapes, and dragging a shape, its sides, corners and vertices."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter

from rushweed.core.document.model.shape import Polygon, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.drag import dragged
from rushweed.core.shape.edit import put_shape
from rushweed.core.shape.primitives import contains
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.stages.shape.edited import grips_of, paint_edited
from rushweed.ui.stages.shape.pixels import FromPixels
from rushweed.ui.stages.shape.tools.tool import ShapeHands, ShapeTool
from rushweed.ui.stages.shape.vertices import edge_middles, insert_vertex, remove_vertex
from rushweed.ui.stages.sheet_pointer import Point

GRAB = 8  # screen px within which a handle is caught
Held = tuple[Cell, int, str]  # a cell, the number of its shape, the name of a grip or "body"


class PointShapes(ShapeTool):
    id, words, icon, key = Point.id, Point.words, Point.icon, Point.key
    help = "Select cells and shapes; drag a shape or its corners, Alt keeps the centre"
    group = 0
    reshapes = True

    def __init__(self, hands: ShapeHands, pixels: FromPixels) -> None:
        super().__init__(hands)
        self._pixels = pixels
        self._held: Held | None = None
        self._start = (0.0, 0.0)

    @property
    def grabs(self) -> bool:
        return self._held is not None

    def press(self, at: DeskEvent) -> None:
        self._start = (at.x, at.y)
        if self._press_vertex(at):
            return
        cell, selecting = self.pointer.cell_under(at), self.pointer.selecting
        if cell is not None and self._pixels.take_one(cell):
            return
        caught = None if at.ctrl or at.shift else self._caught(at)
        if caught is None:
            super().press(at)
            return
        already = self.session.selection.cell_ids == (caught[0].id,)
        self.session.selection.choose_cells((caught[0].id,), caught[1])
        selecting.anchor = caught[0].id if caught[2] == "body" and not already else None
        self._held = caught if already else None

    def _press_vertex(self, at: DeskEvent) -> bool:
        """On the selected polygon: a press mid edge adds a vertex, Ctrl and a press on one removes it."""
        cell, shape = self.session.selection.cell, self.editing.shape()
        if cell is None or not isinstance(shape, Polygon):
            return False
        index, (x, y) = self.session.selection.shape_index or 0, cell.rect[:2]
        for name, spot in grips_of(self.context, cell, shape):
            if _near(spot, at):
                if at.ctrl:
                    remove_vertex(self.session, cell, index, int(name))
                return at.ctrl
        for edge, px, py in edge_middles(shape):
            if _near(self.desk.view.to_screen(x + px, y + py), at):
                insert_vertex(self.session, cell, index, edge, (px, py))
                now = self.session.selection.cell
                self._held = (now, index, str(edge + 1)) if now is not None else None
                return True
        return False

    def _caught(self, at: DeskEvent) -> Held | None:
        """The handle or body of a shape under the pointer; the selected shape goes first."""
        cell, shape = self.session.selection.cell, self.editing.shape()
        if cell is not None and shape is not None:
            for name, spot in grips_of(self.context, cell, shape):
                if _near(spot, at):
                    return cell, self.session.selection.shape_index or 0, name
        under = self.pointer.cell_under(at)
        if under is not None:
            x, y = at.x - under.rect[0], at.y - under.rect[1]
            for index in reversed(range(len(under.shapes))):
                if contains(under.shapes[index], x, y):
                    return under, index, "body"
        return None

    def drag(self, at: DeskEvent) -> None:
        if self._held is None:
            super().drag(at)
            return
        cell, index, grip = self._held
        shape = self._dragged(cell, index, grip, at)
        self.session.document.preview(lambda p: put_shape(p, cell.id, index, shape))

    def _dragged(self, cell: Cell, index: int, grip: str, at: DeskEvent) -> Shape:
        x, y, w, h = cell.rect
        start, to = (self._start[0] - x, self._start[1] - y), (at.x - x, at.y - y)
        return dragged(cell.shapes[index], grip, (start, to), (w, h), self.roles.snap_now(), at.alt)

    def release(self, at: DeskEvent) -> None:
        held, self._held = self._held, None
        if held is None:
            super().release(at)
        elif (at.x, at.y) == self._start:
            self.session.document.preview(None)
        else:
            cell, index, grip = held
            shape = self._dragged(cell, index, grip, at)
            words = "Move" if grip == "body" else "Reshape"
            self.session.document.edit(
                f"{words} a shape of {cell.name}", lambda p: put_shape(p, cell.id, index, shape)
            )

    def cancel(self) -> None:
        self._held = None

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ArrowCursor

    def paint_over(self, painter: QPainter) -> None:
        cell, shape = self.session.selection.cell, self.editing.shape()
        if cell is not None and shape is not None:
            paint_edited(painter, self.context, cell, shape, self.reshapes, self.grabs)


def _near(spot: QPointF, at: DeskEvent) -> bool:
    return abs(spot.x() - at.screen.x()) <= GRAB and abs(spot.y() - at.screen.y()) <= GRAB
