"""Plumb marks, dragged by their tips: of selected cells, or of any with the tool for pivots."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.tune.edit import set_pivot_px
from rushweed.core.tune.units import plain
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.marks import paint_plumbs, rects_of
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.text import many
from rushweed.ui.stages.sheet_pointer import Point, SheetPointer
from rushweed.ui.stages.tune.recipes import RecipeCard
from rushweed.ui.stages.tune.tools.tool import TuneTool
from rushweed.ui.stages.tune.units import SNAPS, UnitsCard


class Plumbs(TuneTool):
    """Plumb marks are shown, and those of cells that are selected or hovered can be dragged."""

    def __init__(self, pointer: SheetPointer, units: UnitsCard, card: RecipeCard | None = None) -> None:
        super().__init__(pointer, card or units)
        self._snap = units.snap
        self._grab: Cell | None = None
        self._target: tuple[float, float] | None = None

    def caught(self, at: DeskEvent) -> Cell | None:
        """The cell whose plumb mark a press would take hold of."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return None
        rects, pivots, mine = self._placed(sheet)
        x, y = ((rects[:, :2] + pivots - (at.x, at.y)) * self.desk.view.zoom).T  # from the pointer, screen px
        near = (abs(x) < 9) & (y > -8) & (y < 18)
        if (near & mine).any():
            return sheet.cells[int(np.argmax(near & mine))]
        hovered = self.pointer.hovered
        lies = near & (rects == hovered.rect).all(axis=1) if hovered is not None else near[:0]
        return hovered if lies.any() else None

    def press(self, at: DeskEvent) -> None:
        self._grab = self.caught(at)
        if self._grab is None:
            super().press(at)

    def drag(self, at: DeskEvent) -> None:
        if self._grab is None:
            super().drag(at)
            return
        step = SNAPS[self._snap.value or "px"]
        left, top, w, h = self._grab.rect
        x = math.floor((at.x - left) / step + 0.5) * step
        y = math.floor((at.y - top) / step + 0.5) * step
        x, y = min(max(x, -w), 2 * w), min(max(y, -h), 2 * h)
        self._target = (x, y)
        ids = self._dragged()
        self.session.document.preview(lambda p: set_pivot_px(p, ids, x, y))

    def _dragged(self) -> tuple[str, ...]:
        assert self._grab is not None
        ids = self.session.selection.cell_ids
        return ids if self._grab.id in ids else (self._grab.id,)

    def release(self, at: DeskEvent) -> None:
        if self._grab is None:
            super().release(at)
        elif self._target is not None:
            ids, (x, y) = self._dragged(), self._target
            self.session.document.edit(
                f"Move the pivot of {many(len(ids), 'cell')}", lambda p: set_pivot_px(p, ids, x, y)
            )
        self.cancel()

    def cancel(self) -> None:
        self._grab, self._target = None, None

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ClosedHandCursor if self._grab else super().cursor()

    def paint(self, painter: QPainter, room: QRectF) -> None:
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        view, (rects, pivots, mine) = self.desk.view, self._placed(sheet)
        every = len(sheet.cells) <= 400 and (sheet.cells[0].rect[3] if sheet.cells else 0) * view.zoom >= 40
        hovered = self.pointer.hovered
        wanted = mine | every
        if hovered is not None:
            wanted |= (rects == hovered.rect).all(axis=1)
        offset = np.array((view.offset.x(), view.offset.y()))
        boxes = np.concatenate((rects[:, :2], rects[:, :2] + rects[:, 2:]), axis=1) * view.zoom
        left, top, right, below = (boxes + np.tile(offset, 2)).T
        wanted &= (left - 40 < room.right()) & (right + 40 > room.left())
        wanted &= (top - 40 < room.bottom()) & (below + 40 > room.top())
        tips = (rects[:, :2] + pivots) * view.zoom + offset
        for chosen in (False, True):
            these = wanted & (mine == chosen)
            tops = top if chosen else np.maximum(top, tips[:, 1] - 22)
            paint_plumbs(painter, tips[these], tops[these], self.look, chosen)
        last = self.session.selection.cell
        if last is not None:
            self._unit_box(painter, sheet, last)

    def _placed(self, sheet: Sheet) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Where its cells lie, their pivots in px, and which are selected; kept until any of it changes."""
        key = (sheet.cells, self.session.selection.cell_ids)
        if self._kept is None or any(a is not b for a, b in zip(self._kept[0], key, strict=True)):
            chosen = set(key[1])
            pivots = np.array([cell.pivot for cell in sheet.cells], float).reshape(-1, 2)
            mine = np.array([cell.id in chosen for cell in sheet.cells], bool)
            self._kept = key, (rects_of(sheet.cells), pivots, mine)
        return self._kept[1]

    _kept: tuple[tuple[object, object], tuple[np.ndarray, np.ndarray, np.ndarray]] | None = None

    def _unit_box(self, painter: QPainter, sheet: Sheet, cell: Cell) -> None:
        """A box of one unit from the cell's lower left, with the size and pivot told."""
        view, side = self.desk.view, sheet.tune.ppu
        x, y, w, h = cell.rect
        box = view.rect(x, y + h - side, side, side)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.look.colour("art_casing", 0.6), 3))
        painter.drawRect(box)
        painter.setPen(QPen(self.look.colour("art_straw"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)
        tag(painter, self.look, box.left() + 4, box.bottom() - 20, "1 u")
        tip = view.to_screen(x + cell.pivot[0], y + cell.pivot[1])
        words = f"{plain(cell.pivot[0], 1)}, {plain(cell.pivot[1], 1)} px"
        room = self.desk.room
        at = QPointF(min(tip.x() + 10, room.right() - 90), min(tip.y() + 4, room.bottom() - 20))
        tag(painter, self.look, at.x(), at.y(), words, rust=True)


class SelectCells(Plumbs):
    id, words, icon, key, help = Point.id, Point.words, Point.icon, Point.key, Point.help

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ClosedHandCursor if self._grab else Qt.CursorShape.ArrowCursor


class SetPivot(Plumbs):
    """A press anywhere in a cell puts the pivot there."""

    id, words, icon, key = "pivot", "Pivot", "map-pin-line", "P"
    help = "Drag the plumb mark; it moves in all selected cells"
    group = 1

    def caught(self, at: DeskEvent) -> Cell | None:
        return super().caught(at) or self.pointer.cell_under(at)

    def press(self, at: DeskEvent) -> None:
        by_its_mark = super().caught(at) is not None
        super().press(at)
        cell = self._grab
        if cell is None:
            return
        if not by_its_mark and cell.id not in self.session.selection.cell_ids:
            self.session.selection.choose_cells((cell.id,))
        self.drag(at)
