"""Drawing a polygon point by point."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF

from rushweed.core.document.model.shape import Polygon
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.edit import add_shape
from rushweed.core.shape.primitives import crossings
from rushweed.core.tune.units import plain
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.shape_marks import diamond
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.shape.tools.tool import ShapeHands, ShapeTool
from rushweed.ui.stages.shape.vertices import paint_crossings

NEAR = 7  # screen px within which the first point is caught


class DrawRing(ShapeTool):
    """A ring being drawn: its cell and points, and where the next one would be, cell px."""

    id, words, icon, key = "ring", "Polygon", "polygon", "N"
    help = "Press point by point; Enter or the first point closes, Backspace takes one back"

    def __init__(self, hands: ShapeHands) -> None:
        super().__init__(hands)
        self.cell: Cell | None = None
        self.points: list[tuple[float, float]] = []
        self._next: tuple[float, float] | None = None

    def press(self, at: DeskEvent) -> None:
        """Put a point; on the first one again it closes."""
        if self.cell is None:
            cell = self.pointer.cell_under(at)
            if cell is None:
                return
            self.session.selection.choose_cells((cell.id,))
            self.cell, self.points = cell, []
        point = self.roles.snapped_in(self.cell, at)
        if len(self.points) > 2 and self._is_first(at):
            self.close()
        elif not self.points or point != self.points[-1]:
            self.points.append(point)
        self._next = point

    def _is_first(self, at: DeskEvent) -> bool:
        assert self.cell is not None
        x, y = self.cell.rect[:2]
        first = self.desk.view.to_screen(x + self.points[0][0], y + self.points[0][1])
        return abs(first.x() - at.screen.x()) <= NEAR and abs(first.y() - at.screen.y()) <= NEAR

    def hover(self, at: DeskEvent) -> None:
        cell = self.cell or self.pointer.cell_under(at)
        self._next = self.roles.snapped_in(cell, at) if cell is not None else None

    def close(self) -> None:
        """Make the ring a shape of its cell; with fewer than three points nothing is made."""
        cell, points = self.cell, tuple(self.points)
        self.cancel()
        if cell is None or len(points) < 3:
            return
        role, side = self.roles.role_now()
        shape = Polygon(points, role, side)
        number = len(cell.shapes)
        if self.session.document.edit(
            f"Draw a polygon in {cell.name}", lambda p: add_shape(p, [cell.id], shape)
        ):
            self.session.selection.choose_cells((cell.id,), number)

    def back(self) -> None:
        """Take the last point back."""
        if self.points:
            self.points.pop()
        if not self.points:
            self.cell = None

    def cancel(self) -> None:
        self.cell, self.points = None, []

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Enter closes, Backspace takes the last point back; Escape is told by the Desk."""
        if self.cell is None:
            return False
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.close()
        elif event.key() == Qt.Key.Key_Backspace:
            self.back()
        else:
            return False
        self.desk.update()
        return True

    def paint_over(self, painter: QPainter) -> None:
        """The ring so far, the next point as a target, and where edges cross."""
        view, look = self.desk.view, self.look
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        cell = self.cell
        if cell is not None and self.points:
            x, y = cell.rect[:2]
            points = [*self.points, *([self._next] if self._next and self._next != self.points[-1] else [])]
            ring = QPolygonF([view.to_screen(x + px, y + py) for px, py in points])
            crossing = len(points) > 3 and bool(crossings(tuple(points)))
            for colour, wide in ((look.colour("art_paper"), 4), (look.colour("art_rust"), 2)):
                if wide == 2 and crossing:
                    colour = look.colour("art_fault")
                painter.setPen(QPen(colour, wide))
                painter.drawPolyline(ring)
            if len(points) > 2:
                painter.setPen(QPen(look.colour("art_rust"), 1, Qt.PenStyle.DashLine))
                painter.drawLine(ring[len(points) - 1], ring[0])
            for n, (px, py) in enumerate(self.points):
                at = view.to_screen(x + px, y + py)
                diamond(
                    painter, at, 7 if n == 0 else 5, look.colour("art_paper"), look.colour("art_ink"), 1.5
                )
            paint_crossings(painter, self.context, cell, tuple(points))
        elif self._next is not None and self.pointer.hovered is not None:
            cell = self.pointer.hovered
        if self._next is not None and cell is not None:
            at = view.to_screen(cell.rect[0] + self._next[0], cell.rect[1] + self._next[1])
            painter.setPen(QPen(look.colour("art_casing", 0.8), 3))
            painter.drawEllipse(at, 5, 5)
            painter.setPen(QPen(look.colour("art_straw"), 1.5))
            painter.drawEllipse(at, 5, 5)
            words = f"{plain(self._next[0], 2)}, {plain(self._next[1], 2)}"
            tag(painter, look, at.x() + 10, at.y() + 8, words, rust=True)
        painter.restore()
