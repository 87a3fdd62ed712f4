"""The tiles as the artist laid them out: whole sheets side by side, rectangles dragged over any cells."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections import Counter
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QScrollArea

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.stamp import Stamp, from_grid
from rushweed.ui.desk.images import SheetImages, checker
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import elided, plain_tip
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.arriving import Arriving
from rushweed.ui.session import Session

CAPTION, GAP = 16, 12
ZOOMS = (0.25, 0.5, 1, 2, 3, 4)
TILE = 32  # px that a tile takes about, until somebody chooses another size


class Laid(NamedTuple):
    """A sheet with its cells by column and row: int (rows, columns), place in its cells or -1. `x`, `y` are
    the px of the picture where columns and rows begin."""

    sheet: Sheet
    places: np.ndarray
    x: list[int]
    y: list[int]


def laid_out(sheet: Sheet, size: tuple[int, int]) -> Laid | None:
    """The cells of one size by where they stand on the sheet; None if there are none. Cells left out leave
    their place empty."""
    held = [(n, c) for n, c in enumerate(sheet.cells) if c.rect[2:] == size]
    if not held:
        return None
    lines = [_lines([c.rect[axis] for _n, c in held], size[axis]) for axis in (0, 1)]
    places = np.full((len(lines[1]), len(lines[0])), -1)
    for n, cell in held:
        places[_nearest(lines[1], cell.rect[1]), _nearest(lines[0], cell.rect[0])] = n
    return Laid(sheet, places, lines[0], lines[1])


def commonest_size(sheet: Sheet) -> tuple[int, int]:
    """The size that most cells of a sheet have, px."""
    counted = Counter((c.rect[2], c.rect[3]) for c in sheet.cells)
    return counted.most_common(1)[0][0] if counted else (0, 0)


def _lines(starts: list[int], side: int) -> list[int]:
    """Where columns (or rows) begin: those that are there, and as many between as fit."""
    known = sorted(set(starts))
    steps = [b - a for a, b in zip(known, known[1:], strict=False) if b - a >= side]
    step = min(steps, default=side)
    made = [known[0]]
    for start in known[1:]:
        while start - made[-1] >= 2 * step:
            made.append(made[-1] + step)
        if start - made[-1] >= side:
            made.append(start)
    return made


def _nearest(lines: list[int], at: int) -> int:
    """The place of the line, of some in order, that is nearest; of two equally near ones the first."""
    after = bisect_left(lines, at)
    if after == 0:
        return 0
    return after if after < len(lines) and lines[after] - at < at - lines[after - 1] else after - 1


class SheetCase(QScrollArea):
    """Scrolls over all sheets; Ctrl and the wheel change how large they are."""

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.pictures = _Pictures(look, session, images)
        self.setWidget(self.pictures)
        self.setFrameShape(QScrollArea.Shape.NoFrame)

    def show_sheets(self, sheets: list[Sheet], size: tuple[int, int] | None, found: frozenset[str]) -> None:
        """The sheets that have cells of a size, or with None all, each by its commonest; with `found` only
        those cells are strong."""
        laid = [laid_out(sheet, size or commonest_size(sheet)) for sheet in sheets]
        self.pictures.show_laid([one for one in laid if one is not None], found)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        viewport = self.viewport()
        if viewport is not None:
            self.pictures.set_room(viewport.width())

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1 if event.angleDelta().y() > 0 else -1)
        else:
            super().wheelEvent(event)

    def zoom_by(self, by: int) -> None:
        place = ZOOMS.index(self.pictures.zoom) + by
        self.pictures.set_zoom(ZOOMS[min(max(place, 0), len(ZOOMS) - 1)])


class _Pictures(Keyed):
    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session = look, session
        self._arriving = Arriving(session, images, self.update)
        self.laid: list[Laid] = []
        self.zoom: float = 2
        self._zoomed = False  # whether somebody chose it
        self.room = 400  # px that are seen side by side
        self.found: frozenset[str] = frozenset()
        self._start: tuple[int, int, int] | None = None  # sheet, column, row
        self._chosen: tuple[int, QRect] | None = None
        self._hover: tuple[int, int, int] | None = None
        self._made: Stamp | None = None
        self.setMouseTracking(True)
        self.set_keyed("Tiles as on the sheet")

    def spots(self) -> list[Spot]:
        made = []
        for one, box in zip(self.laid, self.boxes(), strict=True):
            for cell in one.sheet.cells:
                x, y, w, h = (v * self.zoom for v in cell.rect)
                made.append(Spot(QRectF(box.left() + x, box.top() + y, w, h), cell.name))
        return made

    def show_laid(self, laid: list[Laid], found: frozenset[str]) -> None:
        if [one.sheet for one in laid] != [one.sheet for one in self.laid]:
            self._chosen = self._hover = None
        self.laid, self.found = laid, found
        if laid and not self._zoomed:
            side = max(commonest_size(laid[0].sheet))
            self.zoom = min(ZOOMS, key=lambda zoom: abs(math.log(zoom * side / TILE)))
        self._lay_out()

    def set_room(self, room: int) -> None:
        """Sheets go on in the next line where they would be out of sight."""
        self.room = room
        self._lay_out()

    def set_zoom(self, zoom: float) -> None:
        self.zoom, self._zoomed = zoom, True
        self._lay_out()

    def _lay_out(self) -> None:
        boxes = self.boxes()
        wide = int(max((box.right() for box in boxes), default=200)) + 8
        high = int(max((box.bottom() for box in boxes), default=40)) + 8
        self.resize(QSize(wide, high))
        self.update()

    def boxes(self) -> list[QRectF]:
        """Where each sheet's picture is drawn."""
        x, y, lowest, made = 8.0, float(CAPTION), 0.0, list[QRectF]()
        for one in self.laid:
            wide, high = (side * self.zoom for side in one.sheet.source.size)
            if made and x + wide > self.room:
                x, y = 8.0, lowest + CAPTION + GAP
            made.append(QRectF(x, y, wide, high))
            x, lowest = x + wide + GAP, max(lowest, y + high)
        return made

    def spot(self, x: float, y: float) -> tuple[int, int, int] | None:
        """Sheet, column and row under a point, also where the cell was left out."""
        for n, (one, box) in enumerate(zip(self.laid, self.boxes(), strict=True)):
            if not box.contains(x, y):
                continue
            px, py = (x - box.left()) / self.zoom, (y - box.top()) / self.zoom
            column = int(np.searchsorted(one.x, px, "right")) - 1
            row = int(np.searchsorted(one.y, py, "right")) - 1
            return (n, max(column, 0), max(row, 0))
        return None

    def cell(self, spot: tuple[int, int, int]) -> Cell | None:
        one = self.laid[spot[0]]
        place = int(one.places[spot[2], spot[1]])
        return one.sheet.cells[place] if place >= 0 else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._start = self.spot(event.position().x(), event.position().y())
        if self._start is not None:
            self._choose(self._start)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        spot = self.spot(event.position().x(), event.position().y())
        if self._start is not None and spot is not None and spot[0] == self._start[0]:
            self._choose(spot)
        if spot != self._hover:
            self._hover = spot
            cell = self.cell(spot) if spot is not None else None
            self.setToolTip(
                plain_tip(f"{cell.name}\n{self.laid[spot[0]].sheet.name}") if cell and spot else ""
            )
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._start = None

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.update()

    def _choose(self, end: tuple[int, int, int]) -> None:
        assert self._start is not None
        (n, x0, y0), (_n, x1, y1) = self._start, end
        box = QRect(min(x0, x1), min(y0, y1), abs(x1 - x0) + 1, abs(y1 - y0) + 1)
        self._chosen = (n, box)
        grid: list[list[str | None]] = []
        for row in range(box.top(), box.bottom() + 1):
            cells = [self.cell((n, column, row)) for column in range(box.left(), box.right() + 1)]
            grid.append([cell.id if cell else None for cell in cells])
        self._made = from_grid(grid)
        self.session.selection.choose_stamp(self._made if self._made.cells else None)
        self.update()

    def follow(self) -> None:
        """Mark nothing when the stamp in use came from elsewhere."""
        if self._chosen is not None and self.session.selection.stamp is not self._made:
            self._chosen = None
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        if not self.laid:
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            painter.drawText(QRectF(8, 8, 600, 24), "No sheet has tiles of this level's cell size.")
            return
        assert event is not None
        part = QRectF(event.rect())
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.zoom < 1)
        placed = enumerate(zip(self.laid, self.boxes(), strict=True))
        in_view = [(n, *p) for n, p in placed if p[1].adjusted(0, -CAPTION, 0, 0).intersects(part)]
        self._arriving.begin(one.sheet for _n, one, _box in in_view)
        for n, one, box in in_view:
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            name = elided(painter, one.sheet.name, box.width())
            caption = QRectF(box.left(), box.top() - CAPTION, box.width(), CAPTION)
            painter.drawText(caption, Qt.AlignmentFlag.AlignVCenter, name)
            painter.setBrushOrigin(box.topLeft())
            painter.fillRect(box, checker(look))
            image = self._arriving.image(one.sheet)
            if image is not None:
                painter.drawImage(box, image)
            if self.found:
                self._fade(painter, one, box)
            under = None if self._hover is None else (self._hover[0], QRect(*self._hover[1:], 1, 1))
            for marked, role in ((under, "straw"), (self._chosen, "rust")):
                if marked is not None and marked[0] == n:
                    spots = marked[1]
                    paint_corners(
                        painter, self.place(n, spots).adjusted(-1, -1, 1, 1), 11, look.colour(role),
                        look.colour("paper"),
                    )  # fmt: skip

    def _fade(self, painter: QPainter, one: Laid, box: QRectF) -> None:
        """What was not looked for becomes faint."""
        colour = self.look.colour("paper", 0.75)
        for place, cell in enumerate(one.sheet.cells):
            if cell.id not in self.found and place in one.places:
                x, y, w, h = cell.rect
                z = self.zoom
                painter.fillRect(QRectF(box.left() + x * z, box.top() + y * z, w * z, h * z), colour)

    def place(self, n: int, spots: QRect) -> QRectF:
        """Where columns and rows of a sheet are drawn."""
        one, box, z = self.laid[n], self.boxes()[n], self.zoom
        w, h = next(c.rect[2:] for i, c in enumerate(one.sheet.cells) if i in one.places)
        left, top = one.x[spots.left()], one.y[spots.top()]
        right, bottom = one.x[spots.right()] + w, one.y[spots.bottom()] + h
        return QRectF(box.left() + left * z, box.top() + top * z, (right - left) * z, (bottom - top) * z)
