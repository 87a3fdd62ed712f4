"""Selecting an area of the layer: to move, copy, mirror, turn or erase it. Taking one as a stamp."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.model import Project
from rushweed.core.level.brush import rectangle
from rushweed.core.level.edit import erase, move_region, rearrange_region, take
from rushweed.core.level.stamp import from_level
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.tools.tool import How, PaintTool, Place


class SelectArea(PaintTool):
    id, words, icon, key = "point", "Select an area", "selection", "V"
    help = "Drag an area; drag inside it to move, Ctrl copies"
    spans, marks_cell = True, False
    area: tuple[int, int, int, int] | None = None  # selected: left, top, columns, rows
    _moving = False

    @property
    def selects(self) -> bool:
        return self.area is not None

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        assert self.began is not None
        self._moving = self.area is not None and _inside(self.area, self.began)
        if not self._moving:
            self.area = None

    def drag(self, at: DeskEvent) -> None:
        if self.began is not None and self._moving and self.area is not None:
            cell, area, ids = self.stage.cell(at), self.area, self.ids
            dx, dy = cell[0] - self.began[0], cell[1] - self.began[1]
            self.session.document.preview(lambda p: move_region(p, *ids, area, dx, dy, at.ctrl))

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        dx, dy = end[0] - start[0], end[1] - start[1]
        if self._moving and self.area is not None:
            self._moving = False
            if dx or dy:
                self._move(dx, dy, at.ctrl)
            return
        self.area = (min(start[0], end[0]), min(start[1], end[1]), abs(dx) + 1, abs(dy) + 1)

    def _move(self, dx: int, dy: int, copy: bool = False) -> None:
        assert self.area is not None
        area, ids, words = self.area, self.ids, "Copy an area" if copy else "Move an area"
        if self.session.document.edit(words, lambda p: move_region(p, *ids, area, dx, dy, copy)):
            self.area = (area[0] + dx, area[1] + dy, area[2], area[3])

    def step(self, dx: int, dy: int) -> bool:
        if self.area is None:
            return False
        self._move(dx, dy)
        return True

    def cancel(self) -> None:
        super().cancel()
        self._moving, self.area = False, None

    def rearrange(self, how: How) -> bool:
        if self.area is None:
            return False
        area, ids, made = self.area, self.ids, self.area

        def change(project: Project) -> Project:
            nonlocal made
            project, made = rearrange_region(project, *ids, area, how)
            return project

        if self.session.document.edit(f"{how.capitalize()} an area", change):
            self.area = made
            self.stage.desk.update()
        return True

    def remove(self) -> None:
        if self.area is not None:
            (x, y, columns, rows), ids = self.area, self.ids
            spots = rectangle(x, y, x + columns - 1, y + rows - 1)
            self.session.document.edit(f"Erase an area of {self.layer_name}", lambda p: erase(p, *ids, spots))

    def paint(self, painter: QPainter, room: QRectF) -> None:
        level, look = self.session.selection.level, self.stage.look
        if self.area is None or level is None:
            return
        (cw, ch), (x, y, columns, rows) = level.cell, self.area
        box = self.stage.desk.view.rect(x * cw, y * ch, columns * cw, rows * ch)
        paint_corners(painter, box, 16, look.colour("art_rust"), look.colour("art_paper"))
        painter.setPen(QPen(look.colour("art_paper", 0.8), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)
        tag(painter, look, box.left(), box.top() - 20, f"{columns} × {rows} cells")


class TakeStamp(PaintTool):
    id, words, icon, key, group = "take", "Take a stamp", "eyedropper", "K", 2
    help = "Drag over the level to make a stamp of it"
    spans = True

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        if self.take(start, end):
            self.stage.use("brush")

    def take(self, start: Place, end: Place) -> bool:
        """Make a stamp of some cells; whether there is anything in them."""
        level = self.session.selection.level
        if level is None:
            return False
        left, top = min(start[0], end[0]), min(start[1], end[1])
        size = (abs(end[0] - start[0]) + 1, abs(end[1] - start[1]) + 1)
        stamp = from_level(level.table, take(self.session.project, *self.ids, left, top, *size))
        if not stamp.cells:
            self.session.tell(
                "told", f"There is nothing on {self.layer_name} there.", "Choose another layer or place."
            )
            return False
        self.session.selection.choose_stamp(stamp)
        return True


def _inside(area: tuple[int, int, int, int], cell: Place) -> bool:
    x, y, columns, rows = area
    return x <= cell[0] < x + columns and y <= cell[1] < y + rows
