"""Selecting cells of the layer: to move, copy, mirror, turn or erase them. Taking some as a stamp."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from rushweed.core.document.model.project import Project
from rushweed.core.level.edit import erase, rearrange_region, take
from rushweed.core.level.stamp import from_level
from rushweed.core.level.wide import Selected, inside_outline, move_selected, rectangle_of, same_tiles
from rushweed.core.walk.walkers import units_of
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.stamp_line import How
from rushweed.ui.stages.paint.tools.tool import PaintTool, Place

MOST_MARKED = 4000  # cells of a selection that is no rectangle: beyond them only its frame is drawn


class Selecting(PaintTool):
    """What is selected belongs to all tools, so that another way of selecting goes on with it."""

    marks_cell = False
    chooses = True
    _moving = False

    @property
    def chosen(self) -> Selected | None:
        return self.state.chosen

    @property
    def selects(self) -> bool:
        return self.chosen is not None

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        assert self.began is not None
        self._moving = self.chosen is not None and self.chosen.holds(*self.began)
        if not self._moving:
            self.state.chosen = None
            self.begin(at)

    def begin(self, at: DeskEvent) -> None:
        """A new selection begins."""

    def drag(self, at: DeskEvent) -> None:
        chosen, ids = self.chosen, self.ids
        if self.began is not None and self._moving and chosen is not None:
            cell = self.state.cell(at)
            dx, dy = cell[0] - self.began[0], cell[1] - self.began[1]
            self.session.document.preview(lambda p: move_selected(p, *ids, chosen, (dx, dy), at.ctrl))

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        dx, dy = end[0] - start[0], end[1] - start[1]
        if self._moving:
            self._moving = False
            if dx or dy:
                self._move(dx, dy, at.ctrl)
            return
        self.state.chosen = self.selection(start, end, at)

    def selection(self, start: Place, end: Place, at: DeskEvent) -> Selected | None:
        """What the drag selects."""
        raise NotImplementedError

    def _move(self, dx: int, dy: int, copy: bool = False) -> None:
        chosen, ids, words = self.chosen, self.ids, "Copy an area" if copy else "Move an area"
        assert chosen is not None
        if self.session.document.edit(words, lambda p: move_selected(p, *ids, chosen, (dx, dy), copy)):
            self.state.chosen = chosen.moved(dx, dy)

    def step(self, dx: int, dy: int) -> bool:
        if self.chosen is None:
            return False
        self._move(dx, dy)
        return True

    def cancel(self) -> None:
        super().cancel()
        self._moving, self.state.chosen = False, None

    def rearrange(self, how: How) -> bool:
        """All of the rectangle around what is selected."""
        if self.chosen is None:
            return False
        area, ids = self.chosen.area, self.ids
        made = area

        def change(project: Project) -> Project:
            nonlocal made
            project, made = rearrange_region(project, *ids, area, how)
            return project

        if self.session.document.edit(f"{how.capitalize()} an area", change):
            self.state.chosen = rectangle_of(*made)
            self.state.desk.update()
        return True

    def remove(self) -> None:
        chosen, ids = self.chosen, self.ids
        if chosen is not None:
            self.session.document.edit(
                f"Erase an area of {self.layer_name}", lambda p: erase(p, *ids, chosen.spots())
            )

    def paint(self, painter: QPainter, room: QRectF) -> None:
        level, look, chosen = self.session.selection.level, self.state.look, self.chosen
        if chosen is None or level is None:
            return
        (cw, ch), (x, y, columns, rows) = level.cell, chosen.area
        view = self.state.desk.view
        box = view.rect(x * cw, y * ch, columns * cw, rows * ch)
        paint_corners(painter, box, 16, look.colour("art_rust"), look.colour("art_paper"))
        for colour, style in (
            (look.colour("art_casing", 0.8), Qt.PenStyle.SolidLine),
            (look.colour("art_paper"), Qt.PenStyle.DashLine),
        ):  # fmt: skip
            painter.setPen(QPen(colour, 1, style))
            if chosen.whole:
                painter.drawRect(box)
            elif chosen.mask.sum() <= MOST_MARKED:
                painter.drawPath(self._border(chosen, cw, ch))
        number = int(chosen.mask.sum())
        words = f"{columns} × {rows} cells" if chosen.whole else f"{number} cells"
        ppu = units_of(self.session.project, level)
        words += f"  {columns * cw} × {rows * ch} px  {columns * cw / ppu:.4g} × {rows * ch / ppu:.4g} u"
        tag(painter, look, box.left(), box.top() - 20, words)

    def _border(self, chosen: Selected, cw: int, ch: int) -> QPainterPath:
        """The line around the selected cells."""
        view, path = self.state.desk.view, QPainterPath()
        padded = np.pad(chosen.mask, 1)
        for across in (True, False):
            edges = padded[1:-1, 1:] != padded[1:-1, :-1] if across else padded[1:, 1:-1] != padded[:-1, 1:-1]
            for row, column in np.argwhere(edges):
                x, y = (chosen.left + int(column)) * cw, (chosen.top + int(row)) * ch
                path.moveTo(view.to_screen(x, y))
                path.lineTo(view.to_screen(x, y + ch) if across else view.to_screen(x + cw, y))
        return path


class SelectArea(Selecting):
    id, words, icon, key = "point", "Select an area", "selection", "V"
    help = "Drag an area, Alt selects all alike; drag inside to move, Ctrl copies"
    spans = True

    def selection(self, start: Place, end: Place, at: DeskEvent) -> Selected | None:
        level, layer = self.session.selection.level, self.session.selection.layer
        if at.alt and level is not None and layer is not None:
            return same_tiles(level, layer, *end)
        (x0, y0), (x1, y1) = start, end
        return rectangle_of(min(x0, x1), min(y0, y1), abs(x1 - x0) + 1, abs(y1 - y0) + 1)


class SelectOutline(Selecting):
    id, words, icon, key = "outline", "Select by an outline", "scribble-loop", "O"
    help = "Draw around the cells; drag inside to move, Ctrl copies"
    _points: list[QPointF] = []

    def begin(self, at: DeskEvent) -> None:
        self._points = [QPointF(at.x, at.y)]

    def drag(self, at: DeskEvent) -> None:
        super().drag(at)
        if not self._moving and self._points:
            self._points.append(QPointF(at.x, at.y))

    def selection(self, start: Place, end: Place, at: DeskEvent) -> Selected | None:
        level, points = self.session.selection.level, self._points
        self._points = []
        if level is None:
            return None
        return inside_outline([(p.x() / level.cell[0], p.y() / level.cell[1]) for p in points])

    def cancel(self) -> None:
        super().cancel()
        self._points = []

    def paint(self, painter: QPainter, room: QRectF) -> None:
        super().paint(painter, room)
        if len(self._points) > 1:
            line = QPolygonF([self.state.desk.view.to_screen(p.x(), p.y()) for p in self._points])
            for colour, wide in (("art_casing", 3.0), ("art_rust", 1.5)):
                painter.setPen(QPen(self.state.look.colour(colour), wide))
                painter.drawPolyline(line)


class TakeStamp(PaintTool):
    id, words, icon, key, group = "take", "Take a stamp", "eyedropper", "K", 2
    help = "Drag over the level to make a stamp of it; Shift takes all layers that are shown"
    spans = True

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        (x0, y0), (x1, y1) = start, end
        area = (min(x0, x1), min(y0, y1), abs(x1 - x0) + 1, abs(y1 - y0) + 1)
        if self.state.stamp_line.take_all_layers(area) if at.shift else self.take(start, end):
            self.state.tool_wanted.emit("brush")

    def take(self, start: Place, end: Place) -> bool:
        """Make a stamp of some cells; whether there is anything in them."""
        level = self.session.selection.level
        if level is None:
            return False
        if self.session.selection.layer is None:
            self.session.tell(
                "told", "The layer in use holds no tiles.", "Choose a layer of tiles, or add one."
            )
            return False
        left, top = min(start[0], end[0]), min(start[1], end[1])
        size = (abs(end[0] - start[0]) + 1, abs(end[1] - start[1]) + 1)
        stamp = from_level(level.table, take(self.session.project, *self.ids, (left, top, *size)))
        if not stamp.cells:
            self.session.tell(
                "told", f"There is nothing on {self.layer_name} there.", "Choose another layer or place."
            )
            return False
        self.session.selection.choose_stamp(stamp)
        return True
