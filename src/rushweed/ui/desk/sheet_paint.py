"""Paints a sheet on the Desk: picture, waste, crop marks, selection."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen

from rushweed.core.cut.grid import (
    OPAQUE_SHARE,
    Grid,
    cut_borders,
    even_cut,
    grid_of,
    ink,
    ink_sums,
    occupied_by_sums,
)
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.cut import EvenCut
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.ui.desk.images import SheetImages, checker
from rushweed.ui.desk.marks import (
    Coverage,
    GridCover,
    corner_points,
    covered,
    cross_lines,
    crossings,
    draw_lines,
    paint_crosses,
    paint_hover,
    paint_selected,
    paint_ticks,
    paint_waste,
    rects_of,
    same_places,
)
from rushweed.ui.desk.view import View
from rushweed.ui.kit.theme import Look

WASTE = 0.74
MOST_BORDERS = 4000  # each way, drawn where they cut through art
MOST_MARKED = 600  # selected cells that get marks of their own; more get a wash


class SheetPainter:
    """What it works out from a sheet it keeps until the sheet changes."""

    def __init__(self, look: Look, stock: PixelCache, images: SheetImages) -> None:
        self.look, self._stock, self._images = look, stock, images
        self._coverage = Coverage()
        self._checker = checker(look)
        self._grid: tuple[object, Grid | None] = (None, None)
        self._corners: tuple[Grid | None, tuple[Cell, ...], np.ndarray] | None = None  # of the cells
        self._lines: tuple[object, list[QLineF]] | None = None  # the crosses at them
        self._chosen: tuple[object, np.ndarray] = (None, np.zeros((0, 4), np.int64))
        self._washed = (np.zeros((0, 4), np.int64), np.zeros((0, 0), bool))  # very many, and what they leave
        self.trial: tuple[Grid, np.ndarray] | None = None  # a grid tried out, and which places it keeps
        self._sums: tuple[object, np.ndarray] = (None, np.zeros((1, 1), np.int32))
        self._faults: tuple[object, list[QLineF]] = (None, [])
        self._ink: tuple[object, np.ndarray] = (None, np.zeros((0, 0), bool))
        self._held: tuple[Grid, tuple[Cell, ...], np.ndarray] | None = None
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

    def show_trial(self, sheet: Sheet, cut: EvenCut, least: int) -> bool:
        """Show the marks of a grid not made yet if it has more than `least` cells; returns whether it did.
        A grid that is impossible shows the last one that was not."""
        try:
            grid = grid_of(cut, sheet.source.size, sheet.name)
        except RushweedError:
            return self.trial is not None
        if grid.columns * grid.rows <= least:
            self.trial = None
            return False
        keep = np.ones((grid.rows, grid.columns), bool)
        if cut.leave_out_empty:
            keep = occupied_by_sums(self._ink_sums(sheet), grid)
        self.trial = (grid, keep)
        return True

    def take_sums(self, sheet: Sheet, sums: np.ndarray) -> None:
        """Keep the ink sums of a sheet, worked out in the background."""
        self._sums = (sheet.source, sums)

    def _ink_sums(self, sheet: Sheet) -> np.ndarray:
        if self._sums[0] != sheet.source:
            self.take_sums(sheet, ink_sums(self._ink_of(sheet)))
        return self._sums[1]

    def _ink_of(self, sheet: Sheet) -> np.ndarray:
        if self._ink[0] != sheet.source:
            self._ink = (sheet.source, ink(self._stock.pixels_or_blank(sheet)))
        return self._ink[1]

    def profile(self, sheet: Sheet) -> tuple[np.ndarray, np.ndarray]:
        """The share of opaque px in each column and in each row."""
        key = sheet.source
        if self._profile[0] != key:
            self._profile = (key, _shares(self._ink_of(sheet)))
        return self._profile[1]

    def holds(self, sheet: Sheet) -> bool:
        """Whether it is known where the ink of a sheet is."""
        return self._ink[0] == sheet.source

    def prepare(self, sheet: Sheet, pixels: np.ndarray) -> Callable[[], None]:
        mask = ink(pixels)
        shares = _shares(mask)

        def keep() -> None:
            self._ink, self._profile = (sheet.source, mask), (sheet.source, shares)

        return keep

    def kept(self, sheet: Sheet, grid: Grid) -> np.ndarray:
        """bool (rows, columns): which places of the grid are cells of the sheet; made anew only when
        some cell lies elsewhere."""
        if self._held is not None and self._held[0] == grid and same_places(self._held[1], sheet.cells):
            self._held = (grid, sheet.cells, self._held[2])
            return self._held[2]
        kept = np.zeros((grid.rows, grid.columns), bool)
        steps = np.array(grid.cell) + grid.spacing
        columns, rows = ((rects_of(sheet.cells)[:, :2] - grid.margin) // steps).T
        inside = (columns >= 0) & (columns < grid.columns) & (rows >= 0) & (rows < grid.rows)
        kept[rows[inside], columns[inside]] = True
        self._held = (grid, sheet.cells, kept)
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
        colour = self.look.colour("desk", WASTE)
        if self.trial is not None:
            grid, keep = self.trial
            cover = GridCover(grid, keep, sheet.source.size)
            paint_waste(painter, view, room, sheet.source.size, cover.part, colour)
        elif sheet.cells:
            mask = self._coverage.mask(sheet)
            paint_waste(painter, view, room, sheet.source.size, lambda ys, xs: mask[ys][:, xs], colour)

    def grid_faults(self, painter: QPainter, view: View, room: QRectF, sheet: Sheet) -> None:
        """Where a grid goes wrong: what it leaves over, hatched, and the borders that cut through art."""
        grid = self.trial[0] if self.trial is not None else self.grid(sheet)
        if grid is None or not self._images.ready:
            return
        width, height = sheet.source.size
        right, below = grid.left_over
        if not sheet.waste_accepted:
            hatch = QBrush(self.look.colour("art_straw", 0.55), Qt.BrushStyle.BDiagPattern)
            for box in ((width - right, 0, right, height), (0, height - below, width - right, below)):
                if box[2] and box[3]:
                    painter.fillRect(view.rect(*box), hatch)
        if self.trial is not None:
            return
        painter.save()
        painter.translate(view.offset)
        painter.scale(view.zoom, view.zoom)
        lines = self._cut_borders(sheet, grid)
        for colour, wide in ((self.look.colour("art_paper", 0.8), 3), (self.look.colour("art_fault"), 1)):
            pen = QPen(colour, wide)
            pen.setCosmetic(True)  # so many px of the screen at any zoom
            painter.setPen(pen)
            draw_lines(painter, lines)
        painter.restore()

    def _cut_borders(self, sheet: Sheet, grid: Grid) -> list[QLineF]:
        """The borders that cut through art, px of the sheet; none where tiles join on purpose."""
        key = (sheet.source, grid)
        if self._faults[0] != key:
            mask = self._ink_of(sheet)
            joined = np.count_nonzero(mask) > OPAQUE_SHARE * mask.size
            self._faults = (key, [] if joined else border_lines(grid, *cut_borders(mask, grid)))
        return self._faults[1]

    def crop_marks(
        self, painter: QPainter, view: View, room: QRectF, sheet: Sheet, chosen: list[Cell]
    ) -> None:
        if self.trial is not None:
            tried, keep = self.trial
            paint_crosses(painter, view, room, crossings(tried, keep), self.look.colour("mark"))
            spans = (tried.starts(0), tried.starts(1))
            paint_ticks(painter, view, spans, (sheet.source.size, tried.cell), self.look)
            return
        grid = self.grid(sheet)
        if not sheet.cells:
            return
        painter.setPen(QPen(self.look.colour("mark"), 1))
        draw_lines(painter, self._crosses(view, room, sheet, grid))
        if grid is None:
            return
        spans = (grid.starts(0), grid.starts(1))
        rects = [c.rect for c in chosen[:64]]
        paint_ticks(painter, view, spans, (sheet.source.size, grid.cell), self.look, rects)

    def _crosses(self, view: View, room: QRectF, sheet: Sheet, grid: Grid | None) -> list[QLineF]:
        """The crosses at the corners of all cells; made anew where some cell or the view lies elsewhere."""
        known = self._corners
        if known is None or known[0] != grid or not same_places(known[1], sheet.cells):
            points = corner_points(sheet) if grid is None else crossings(grid, self.kept(sheet, grid))
            self._lines = None
        else:
            points = known[2]
        self._corners = (grid, sheet.cells, points)
        key = (view.zoom, view.offset.x(), view.offset.y(), room.getRect())
        if self._lines is None or self._lines[0] != key:
            self._lines = (key, cross_lines(view, room, points))
        return self._lines[1]

    def chosen_rects(self, chosen: list[Cell]) -> np.ndarray:
        """Where the selected cells lie: int (n, 4), x, y, width, height in px."""
        if self._chosen[0] is not chosen:
            self._chosen = (chosen, rects_of(chosen))
        return self._chosen[1]

    def selection(
        self, painter: QPainter, view: View, room: QRectF, size: tuple[int, int], chosen: list[Cell],
        hover: Cell | None,
    ) -> None:  # fmt: skip
        """The marks of the selected cells of a sheet of some size, px, and of the one under the pointer."""
        if hover is not None and all(hover.id != c.id for c in chosen):
            paint_hover(painter, view, hover.rect, self.look)
        rects = self.chosen_rects(chosen)
        left, top = view.to_content(room.topLeft()).x(), view.to_content(room.topLeft()).y()
        right, below = view.to_content(room.bottomRight()).x(), view.to_content(room.bottomRight()).y()
        seen = np.flatnonzero(
            (rects[:, 0] < right) & (rects[:, 0] + rects[:, 2] > left)
            & (rects[:, 1] < below) & (rects[:, 1] + rects[:, 3] > top)
        )  # fmt: skip
        if len(seen) <= MOST_MARKED:
            for n in seen.tolist():
                paint_selected(painter, view, chosen[n].rect, self.look)
            return
        if not np.array_equal(self._washed[0], rects) or self._washed[1].shape != size[::-1]:
            self._washed = (rects, ~covered(rects, size))
        rest = self._washed[1]
        wash = self.look.colour("art_rust", 0.4)
        paint_waste(painter, view, room, size, lambda ys, xs: rest[ys][:, xs], wash)


def border_lines(grid: Grid, right: np.ndarray, below: np.ndarray) -> list[QLineF]:
    """Right and lower borders of a grid as lines, px of the sheet; bool (rows, columns) each. Those of cells
    that touch are one line."""
    lines = []
    for axis, cut in ((0, right.T), (1, below)):  # one row to each line of the grid
        ends = np.diff(np.pad(cut, ((0, 0), (1, 1))).astype(np.int8), axis=1)
        (line, first), last = np.nonzero(ends > 0), np.nonzero(ends < 0)[1] - 1
        if grid.spacing[1 - axis]:
            line, first = np.nonzero(cut)
            last = first
        across, along = grid.starts(axis)[line] + grid.cell[axis], grid.starts(1 - axis)
        begin, end = along[first], along[last] + grid.cell[1 - axis]
        placed = np.stack((across, begin, across, end) if axis == 0 else (begin, across, end, across), axis=1)
        lines += [QLineF(*four) for four in placed[:MOST_BORDERS].tolist()]
    return lines


class CellIndex:
    """Finds the cell at a place; kept until the cells change."""

    def __init__(self) -> None:
        self._cells: object = None
        self._rects: list[tuple[int, int, int, int]] = []
        self._map = np.zeros((0, 0), np.int32)

    def at(self, sheet: Sheet, x: float, y: float) -> Cell | None:
        width, height = sheet.source.size
        if not (0 <= x < width and 0 <= y < height):
            return None
        rects = self._rects if self._cells is sheet.cells else [c.rect for c in sheet.cells]
        self._cells = sheet.cells
        if rects != self._rects or self._map.shape != (height, width):
            self._rects = rects
            self._map = np.full((height, width), -1, np.int32)
            for i, cell in enumerate(sheet.cells):
                cx, cy, w, h = cell.rect
                self._map[cy : cy + h, cx : cx + w] = i
        index = int(self._map[int(y), int(x)])
        return sheet.cells[index] if index >= 0 else None

    def within(self, sheet: Sheet, box: QRectF) -> list[Cell]:
        """The cells whose middle lies in a box of sheet px."""
        return [c for c in sheet.cells if box.contains(c.rect[0] + c.rect[2] / 2, c.rect[1] + c.rect[3] / 2)]


def _shares(mask: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The share of ink in each column and each row of a bool (height, width)."""
    high, wide = mask.shape
    numbers = mask.view(np.uint8)  # added up as numbers, in half the time of a mean
    columns, rows = (numbers.sum(axis=axis, dtype=np.uint32) for axis in (0, 1))
    return columns / high, rows / wide
