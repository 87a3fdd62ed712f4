"""Paints a sheet on the Desk: picture, waste, crop marks, selection."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QLineF, QRectF
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.cut.grid import Grid, even_cut, grid_of, ink
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model import Cell, Sheet
from rushweed.core.pixels.stock import Stock
from rushweed.ui.desk.images import SheetImages, checker
from rushweed.ui.desk.marks import (
    Coverage,
    corner_points,
    crossings,
    draw_lines,
    paint_crosses,
    paint_hover,
    paint_selected,
    paint_ticks,
    paint_waste,
)
from rushweed.ui.desk.view import View
from rushweed.ui.theme import Look

WASTE = 0.74


class SheetPainter:
    """What it works out from a sheet it keeps until the sheet changes."""

    def __init__(self, look: Look, stock: Stock, images: SheetImages) -> None:
        self.look, self._stock, self._images = look, stock, images
        self._coverage = Coverage()
        self._checker = checker(look)
        self._grid: tuple[object, Grid | None] = (None, None)
        self._kept: tuple[object, np.ndarray] = (None, np.zeros((0, 2)))
        self._profile: tuple[object, tuple[np.ndarray, np.ndarray]] = (None, (np.zeros(0), np.zeros(0)))
        look.changed.connect(self._renew)

    def _renew(self) -> None:
        self._checker = checker(self.look)

    def grid(self, sheet: Sheet) -> Grid | None:
        key = (sheet.cut, sheet.source)
        if self._grid[0] != key:
            grid = None
            cut = even_cut(sheet)
            if cut is not None:
                try:
                    grid = grid_of(cut, sheet.source.size, sheet.name)
                except RushweedError:
                    grid = None
            self._grid = (key, grid)
        return self._grid[1]

    def profile(self, sheet: Sheet) -> tuple[np.ndarray, np.ndarray]:
        """The share of opaque px in each column and in each row."""
        key = sheet.source
        if self._profile[0] != key:
            mask = ink(self._stock.pixels_or_blank(sheet))
            self._profile = (key, (mask.mean(axis=0), mask.mean(axis=1)))
        return self._profile[1]

    def kept(self, sheet: Sheet, grid: Grid) -> np.ndarray:
        """bool (rows, columns): which places of the grid are cells of the sheet."""
        kept = np.zeros((grid.rows, grid.columns), bool)
        for cell in sheet.cells:
            column = (cell.rect[0] - grid.margin[0]) // (grid.cell[0] + grid.spacing[0])
            row = (cell.rect[1] - grid.margin[1]) // (grid.cell[1] + grid.spacing[1])
            if 0 <= column < grid.columns and 0 <= row < grid.rows:
                kept[row, column] = True
        return kept

    def picture(self, painter: QPainter, view: View, room: QRectF, sheet: Sheet) -> None:
        """The checker and the art on it, each px whole."""
        width, height = sheet.source.size
        box = view.rect(0, 0, width, height)
        seen = box.intersected(room)
        if seen.isEmpty():
            return
        painter.setBrushOrigin(box.topLeft())
        painter.fillRect(seen, self._checker)
        a, b = view.to_content(seen.topLeft()), view.to_content(seen.bottomRight())
        x0, y0 = max(int(a.x()), 0), max(int(a.y()), 0)
        x1, y1 = min(int(b.x()) + 1, width), min(int(b.y()) + 1, height)
        image = self._images.image(sheet)
        painter.drawImage(view.rect(x0, y0, x1 - x0, y1 - y0), image, QRectF(x0, y0, x1 - x0, y1 - y0))

    def pixel_grid(self, painter: QPainter, view: View, room: QRectF, content: QRectF) -> None:
        """Faint lines between the px of some content, from 8x up."""
        if view.zoom < 8:
            return
        box = view.rect(content.x(), content.y(), content.width(), content.height()).intersected(room)
        a, b = view.to_content(box.topLeft()), view.to_content(box.bottomRight())
        painter.setPen(QPen(self.look.colour("art_ink", 0.16), 1))
        lines = []
        for x in range(int(a.x() // 1), int(b.x() // 1) + 1):
            px = int(view.to_screen(x, 0).x()) + 0.5
            lines.append(QLineF(px, box.top(), px, box.bottom()))
        for y in range(int(a.y() // 1), int(b.y() // 1) + 1):
            py = int(view.to_screen(0, y).y()) + 0.5
            lines.append(QLineF(box.left(), py, box.right(), py))
        draw_lines(painter, lines)

    def waste(self, painter: QPainter, view: View, room: QRectF, sheet: Sheet) -> None:
        if sheet.cells:
            colour = self.look.colour("desk", WASTE)
            paint_waste(painter, view, room, self._coverage.mask(sheet), colour)

    def crop_marks(
        self, painter: QPainter, view: View, room: QRectF, sheet: Sheet, chosen: list[Cell]
    ) -> None:
        grid = self.grid(sheet)
        if not sheet.cells:
            return
        if self._kept[0] is not sheet.cells:
            points = corner_points(sheet) if grid is None else crossings(grid, self.kept(sheet, grid))
            self._kept = (sheet.cells, points)
        paint_crosses(painter, view, room, self._kept[1], self.look.colour("mark"))
        if grid is None:
            return
        spans = (grid.starts(0), grid.starts(1))
        rects = [c.rect for c in chosen[:64]]
        paint_ticks(painter, view, sheet.source.size, spans, grid.cell, self.look, rects)

    def selection(
        self, painter: QPainter, view: View, room: QRectF, chosen: list[Cell], hover: Cell | None
    ) -> None:
        ids = {c.id for c in chosen}
        if hover is not None and hover.id not in ids:
            paint_hover(painter, view, hover.rect, self.look)
        for cell in chosen:
            if view.rect(*cell.rect).intersects(room):
                paint_selected(painter, view, cell.rect, self.look)


class CellIndex:
    """Finds the cell at a place; kept until the cells change."""

    def __init__(self) -> None:
        self._cells: object = None
        self._map = np.zeros((0, 0), np.int32)

    def at(self, sheet: Sheet, x: float, y: float) -> Cell | None:
        width, height = sheet.source.size
        if not (0 <= x < width and 0 <= y < height):
            return None
        if self._cells is not sheet.cells:
            self._cells = sheet.cells
            self._map = np.full((height, width), -1, np.int32)
            for i, cell in enumerate(sheet.cells):
                cx, cy, w, h = cell.rect
                self._map[cy : cy + h, cx : cx + w] = i
        index = int(self._map[int(y), int(x)])
        return sheet.cells[index] if index >= 0 else None

    def within(self, sheet: Sheet, box: QRectF) -> list[Cell]:
        """The cells whose middle lies in a box of sheet px."""
        return [c for c in sheet.cells if box.contains(c.rect[0] + c.rect[2] / 2, c.rect[1] + c.rect[3] / 2)]
