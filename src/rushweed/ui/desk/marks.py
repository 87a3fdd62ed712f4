"""Crop marks, selections and the dimmed waste of a sheet, all in screen px whatever the zoom."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Sequence

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from rushweed.core.cut.grid import Grid
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.desk.paths import points_path
from rushweed.ui.desk.view import View
from rushweed.ui.kit.theme import Look

MOST_SMOOTH = 400  # plumb marks that are drawn with smooth edges
MOST_CROSSES = 4000
MOST_PLUMBS, PLUMB_PX = 2000, 12  # plumb marks of which one is drawn in each square of so many px
MOST_ROWS = 4  # rectangles to a row from which rows are drawn whole


def draw_lines(painter: QPainter, lines: list[QLineF]) -> None:
    """Many lines in one call; the stubs of PyQt6 know the call only by an array of their own."""
    painter.drawLines(lines)  # type: ignore[call-overload]


class Coverage:
    """Which pixels of a sheet lie in a cell, kept until the cells change."""

    def __init__(self) -> None:
        self._cells: tuple[Cell, ...] | None = None
        self._mask = np.zeros((0, 0), bool)

    def mask(self, sheet: Sheet) -> np.ndarray:
        fits = self._mask.shape == sheet.source.size[::-1]
        if fits and same_places(self._cells, sheet.cells):
            self._cells = sheet.cells
        else:
            self._mask = covered(rects_of(sheet.cells), sheet.source.size)
            self._cells = sheet.cells
        return self._mask


_known: deque[tuple[tuple[Cell, ...], np.ndarray]] = deque(maxlen=4)  # several ask for the same cells,
_compared: list[object] = []  # or whether the same two lie alike


def rects_of(cells: Sequence[Cell]) -> np.ndarray:
    """x, y, width, height of cells, px of the sheet: int (n, 4), not to be written to."""
    made = next((rects for known, rects in _known if known is cells), None)
    if made is not None:
        return made
    made = next((rects for known, rects in _known if same_places(known, cells)), None)
    if made is None:
        made = np.array([cell.rect for cell in cells], np.int64).reshape(-1, 4)
        made.setflags(write=False)
    if isinstance(cells, tuple):
        _known.appendleft((cells, made))
    return made


def covered(rects: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """bool (height, width): which px of a picture lie in a rectangle. Those between the same rows are drawn
    as one wherever that is less work than each by itself."""
    width, height = size
    mask = np.zeros((height, width), bool)
    rows, row_of = np.unique((rects[:, 1] << 32) + rects[:, 3], return_inverse=True)
    if len(rows) * MOST_ROWS > len(rects):
        for x, y, w, h in rects.tolist():
            mask[y : y + h, x : x + w] = True
        return mask
    ends = np.zeros((len(rows), width + 1), np.int32)
    lefts, rights = (x.clip(0, width) for x in (rects[:, 0], rects[:, 0] + rects[:, 2]))
    np.add.at(ends, (row_of, lefts), 1)
    np.add.at(ends, (row_of, rights), -1)
    for code, line in zip(rows.tolist(), np.cumsum(ends[:, :-1], axis=1) > 0, strict=True):
        y, h = divmod(code, 1 << 32)
        mask[y : y + h] |= line
    return mask


def same_places(old: Sequence[Cell] | None, new: Sequence[Cell]) -> bool:
    """Whether cells lie where others did: an edit of names, pivots or shapes moves none of them."""
    if old is new:
        return True
    if old is None or len(old) != len(new):
        return False
    if not _compared or _compared[0] is not old or _compared[1] is not new:
        _compared[:] = old, new, [cell.rect for cell in old] == [cell.rect for cell in new]
    return bool(_compared[2])


class GridCover:
    """Which pixels of a sheet lie in a cell of a grid, without drawing every cell."""

    def __init__(self, grid: Grid, keep: np.ndarray, size: tuple[int, int]) -> None:
        self._keep = np.pad(keep, ((0, 1), (0, 1)))  # one place more that is never covered
        self._place = []
        for axis in (0, 1):
            count = keep.shape[1 - axis]
            at = np.arange(size[axis]) - grid.margin[axis]
            index, inside = np.divmod(at, grid.cell[axis] + grid.spacing[axis])
            covered = (at >= 0) & (index < count) & (inside < grid.cell[axis])
            self._place.append(np.where(covered, index, count))

    def part(self, ys: slice, xs: slice) -> np.ndarray:
        """bool (rows, columns) of the pixels in two slices."""
        return np.asarray(self._keep[self._place[1][ys]][:, self._place[0][xs]])


def paint_waste(
    painter: QPainter,
    view: View,
    room: QRectF,
    size: tuple[int, int],
    covered: Callable[[slice, slice], np.ndarray],
    colour: QColor,
) -> None:
    """Dim what no cell covers; `covered` gives, for a slice of rows and one of columns, which px are."""
    width, height = size
    a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
    x0, y0 = max(int(a.x()), 0), max(int(a.y()), 0)
    x1, y1 = min(int(b.x()) + 2, width), min(int(b.y()) + 2, height)
    if x1 <= x0 or y1 <= y0:
        return
    stride = max(int(1 / view.zoom), 1)
    part = covered(slice(y0, y1, stride), slice(x0, x1, stride))
    alpha = colour.alphaF()
    red, green, blue = (int(v * alpha) for v in (colour.red(), colour.green(), colour.blue()))
    tint = np.uint32((colour.alpha() << 24) | (red << 16) | (green << 8) | blue)
    pixels = np.ascontiguousarray(np.where(part, np.uint32(0), tint))
    image = QImage(
        pixels.data, part.shape[1], part.shape[0], part.shape[1] * 4,  # type: ignore[call-overload]
        QImage.Format.Format_ARGB32_Premultiplied,
    )  # fmt: skip
    box = view.rect(x0, y0, part.shape[1] * stride, part.shape[0] * stride)
    painter.drawImage(box, image)


def crossings(grid: Grid, kept: np.ndarray) -> np.ndarray:
    """Where crop marks stand, in sheet px: float (n, 2). `kept` is bool (rows, columns)."""
    around = np.zeros((grid.rows + 1, grid.columns + 1), bool)
    for dy in (0, 1):
        for dx in (0, 1):
            around[dy : dy + grid.rows, dx : dx + grid.columns] |= kept
    ys, xs = np.nonzero(around)
    half = np.array(grid.spacing) / 2
    px = grid.margin[0] + xs * (grid.cell[0] + grid.spacing[0]) - half[0]
    py = grid.margin[1] + ys * (grid.cell[1] + grid.spacing[1]) - half[1]
    return np.stack((px, py), axis=1)


def corner_points(sheet: Sheet) -> np.ndarray:
    """The corners of cells that lie on no grid, in sheet px: float (n, 2)."""
    rects = rects_of(sheet.cells).astype(float)
    x, y, right, below = rects[:, 0], rects[:, 1], rects[:, 0] + rects[:, 2], rects[:, 1] + rects[:, 3]
    return np.concatenate([np.stack(p, axis=1) for p in ((x, y), (right, y), (x, below), (right, below))])


def paint_crosses(painter: QPainter, view: View, room: QRectF, points: np.ndarray, colour: QColor) -> None:
    """A cross in each gutter crossing: arms of 6 px, 8 from x6 up; thinned out when they would touch."""
    painter.setPen(QPen(colour, 1))
    draw_lines(painter, cross_lines(view, room, points))


def cross_lines(view: View, room: QRectF, points: np.ndarray) -> list[QLineF]:
    """The arms of crosses at some points of the content, float (n, 2) px, where they lie on the screen."""
    arm = 8.0 if view.zoom >= 6 else 6.0
    x = points[:, 0] * view.zoom + view.offset.x()
    y = points[:, 1] * view.zoom + view.offset.y()
    seen = (
        (x > room.left() - arm)
        & (x < room.right() + arm)
        & (y > room.top() - arm)
        & (y < room.bottom() + arm)
    )
    x, y = np.floor(x[seen]) + 0.5, np.floor(y[seen]) + 0.5
    if len(x) > MOST_CROSSES:  # too dense to see: one for every so many screen px
        shown = one_in_each(np.stack((x, y), axis=1), 10)
        x, y = x[shown], y[shown]
    if len(x) > 1:
        steps = np.diff(np.sort(x))
        gap = float(steps[steps > 0].min(initial=99.0))
        arm = min(arm, max(gap // 3, 1))
    lines = []
    for px, py in zip(x.tolist(), y.tolist(), strict=True):
        lines.append(QLineF(px - arm, py, px + arm, py))
        lines.append(QLineF(px, py - arm, px, py + arm))
    return lines


def one_in_each(points: np.ndarray, px: int) -> np.ndarray:
    """The places among points, float (n, 2), of one in each square of so many px that holds any."""
    columns, rows = (points // px).T
    return np.unique(columns * 65_536 + rows, return_index=True)[1]


def paint_ticks(
    painter: QPainter,
    view: View,
    spans: tuple[np.ndarray, np.ndarray],
    sizes: tuple[tuple[int, int], tuple[int, int]],
    look: Look,
    chosen: Iterable[tuple[int, int, int, int]] = (),
) -> None:
    """Ticks outside the sheet at every cell start and end, those of chosen cells in rust; the sizes are those
    of the sheet and of a cell."""
    far, (size, cell) = view.zoom >= 6, sizes
    box = view.rect(0, 0, *size)
    above, right = box.top() - (4 if far else 8), box.right() + (6 if far else 8)
    below, left = box.bottom() + 8, box.left() - 8
    marked_x = {v for x, _y, w, _h in chosen for v in (x, x + w)}
    marked_y = {v for _x, y, _w, h in chosen for v in (y, y + h)}
    for axis, starts in enumerate(spans):
        if cell[axis] * view.zoom < 6:
            continue
        plain: list[QLineF] = []
        marked: list[QLineF] = []
        for value in np.concatenate((starts, starts + cell[axis])).tolist():
            into = marked if value in (marked_x if axis == 0 else marked_y) else plain
            if axis == 0:
                x = int(value * view.zoom + view.offset.x()) + 0.5
                into += [QLineF(x, above - 10, x, above), QLineF(x, below, x, below + 10)]
            else:
                y = int(value * view.zoom + view.offset.y()) + 0.5
                into += [QLineF(left - 10, y, left, y), QLineF(right, y, right + 10, y)]
        painter.setPen(QPen(look.colour("mark"), 1))
        draw_lines(painter, plain)
        painter.setPen(QPen(look.colour("art_rust"), 2))
        draw_lines(painter, marked)


def paint_corners(
    painter: QPainter,
    box: QRectF,
    arm: float,
    line: QColor,
    casing: QColor,
    widths: tuple[float, float] = (2, 4),
) -> None:
    """L marks at the four corners of a box, a line on a wider casing: how wide each is."""
    arm = min(arm, box.width() / 2, box.height() / 2) if box.width() > 4 else arm
    lines = []
    for x, sx in ((box.left(), 1), (box.right(), -1)):
        for y, sy in ((box.top(), 1), (box.bottom(), -1)):
            corner = QPointF(x, y)
            lines += [QLineF(corner, QPointF(x + sx * arm, y)), QLineF(corner, QPointF(x, y + sy * arm))]
    for colour, wide in ((casing, widths[1]), (line, widths[0])):
        painter.setPen(QPen(colour, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap))
        draw_lines(painter, lines)


def paint_selected(painter: QPainter, view: View, rect: tuple[int, int, int, int], look: Look) -> None:
    """The rust marks of a selected cell, standing in its gutter."""
    box = view.rect(*rect).adjusted(-1, -1, 1, 1)
    arm = 25.0 if view.zoom >= 6 else 21.0
    arm = min(arm, box.width() * 0.32)
    paint_corners(painter, box, arm, look.colour("art_rust"), look.colour("art_paper"))


def paint_hover(painter: QPainter, view: View, rect: tuple[int, int, int, int], look: Look) -> None:
    box = view.rect(*rect).adjusted(-1, -1, 1, 1)
    arm = min(14.0, box.width() * 0.25)
    paint_corners(painter, box, arm, look.colour("art_straw"), look.colour("art_casing", 0.55))


def paint_plumb(painter: QPainter, at: QPointF, top: float, look: Look, active: bool = False) -> None:
    """The plumb mark of a pivot: a hairline down from `top` to a small triangle whose tip is the point."""
    paint_plumbs(painter, np.array([[at.x(), at.y()]]), np.array([top]), look, active)


def paint_plumbs(
    painter: QPainter, tips: np.ndarray, tops: np.ndarray, look: Look, active: bool = False
) -> None:
    """Any number of plumb marks at once: their points, float (n, 2), and the heights their hairlines begin
    at, (n,), screen px. Of very many that lie close together some are drawn."""
    if len(tips) > MOST_PLUMBS:
        shown = one_in_each(tips, PLUMB_PX)
        tips, tops = tips[shown], tops[shown]
    half = 5 if active else 4
    x, y = tips.T
    ends = np.stack((x, np.minimum(tops, y - 18), x, y - 8), axis=1)
    lines = [QLineF(*four) for four in ends.tolist()]
    corners = np.stack((x - half, y - 9, x + half, y - 9, x, y), axis=1).reshape(-1, 2)
    path = points_path(corners, np.full(len(tips), 3))
    colour = look.colour("art_rust" if active else "art_ink")
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, len(tips) <= MOST_SMOOTH)
    for shade, wide in ((look.colour("art_paper", 0.55), 3), (colour, 1)):
        painter.setPen(QPen(shade, wide))
        draw_lines(painter, lines)
    painter.setPen(QPen(look.colour("art_paper"), 1.5 if len(tips) <= MOST_SMOOTH else 1))
    painter.setBrush(colour)
    painter.drawPath(path)
    painter.restore()
