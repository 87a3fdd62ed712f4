"""Drawing boxes and circles by a drag within a cell."""

from __future__ import annotations

import math

from PyQt6.QtGui import QPainter

from rushweed.core.document.model.shape import Box, Circle, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.edit import add_shape
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.stages.shape.edited import paint_edited
from rushweed.ui.stages.shape.tools.tool import ShapeTool

Point = tuple[float, float]  # cell px


class DrawForm(ShapeTool):
    """What it draws goes from where it was pressed to the pointer."""

    _cell: Cell | None = None
    _start: Point = (0.0, 0.0)
    _shape: Shape | None = None

    def drawn(self, start: Point, end: Point, even: bool) -> Shape | None:
        """The shape of a drag, if it has an inside; `even` where Shift is held."""
        raise NotImplementedError

    @property
    def ghost(self) -> tuple[Cell, Shape] | None:
        return (self._cell, self._shape) if self._cell is not None and self._shape is not None else None

    def press(self, at: DeskEvent) -> None:
        cell = self.pointer.cell_under(at)
        if cell is not None:
            self.session.selection.choose_cells((cell.id,))
            self._cell, self._start, self._shape = cell, self.roles.snapped_in(cell, at), None

    def drag(self, at: DeskEvent) -> None:
        if self._cell is not None:
            self._shape = self.drawn(self._start, self.roles.snapped_in(self._cell, at), at.shift)

    def release(self, at: DeskEvent) -> None:
        cell, shape = self._cell, self._shape
        self.cancel()
        if cell is None or shape is None:
            return
        number, form = len(cell.shapes), type(shape).__name__.lower()
        if self.session.document.edit(
            f"Draw a {form} in {cell.name}", lambda p: add_shape(p, [cell.id], shape)
        ):
            self.session.selection.choose_cells((cell.id,), number)

    def cancel(self) -> None:
        self._cell, self._shape = None, None

    def paint_over(self, painter: QPainter) -> None:
        if self.ghost is not None:
            paint_edited(painter, self.context, *self.ghost, self.reshapes, self.grabs)


class DrawBox(DrawForm):
    id, words, icon, key = "box", "Box", "rectangle", "B"
    help = "Drag a box in a cell; Shift makes it square"

    def drawn(self, start: Point, end: Point, even: bool) -> Shape | None:
        (x0, y0), (x1, y1) = start, end
        if even:
            side = max(abs(x1 - x0), abs(y1 - y0))
            x1, y1 = x0 + side * (1 if x1 >= x0 else -1), y0 + side * (1 if y1 >= y0 else -1)
        if x1 == x0 or y1 == y0:
            return None
        return Box(min(x0, x1), min(y0, y1), abs(x1 - x0), abs(y1 - y0), *self.roles.role_now())


class DrawCircle(DrawForm):
    id, words, icon, key = "circle", "Circle", "circle", "C"
    help = "Drag from its middle outwards"

    def drawn(self, start: Point, end: Point, even: bool) -> Shape | None:
        """Its radius is on whole or half px as the snap is."""
        radius = math.hypot(end[0] - start[0], end[1] - start[1])
        step = {"px": 1.0, "half": 0.5}.get(self.roles.snap_now(), 0.0)
        radius = round(radius / step) * step if step else round(radius, 3)
        return Circle(*start, radius, *self.roles.role_now()) if radius > 0 else None
