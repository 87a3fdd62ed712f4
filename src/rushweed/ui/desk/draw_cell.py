"""Small things of drawing levels: a cell in a box, where repeats begin, two tints in one."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model.base import Colour
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.scene import Draw, DrawnTiles
from rushweed.core.level.things import whole_px
from rushweed.ui.desk.view import View


def draw_cell(painter: QPainter, box: QRectF, image: QImage, cell: Cell) -> None:
    """Draw a cell of a sheet's image into a box as a tile stands in a level: shifted, within its box."""
    if cell.shift == (0, 0):
        painter.drawImage(box, image, QRectF(*cell.rect))
        return
    painter.save()
    painter.setClipRect(box, Qt.ClipOperation.IntersectClip)
    dx, dy = cell.shift[0] * box.width() / cell.rect[2], cell.shift[1] * box.height() / cell.rect[3]
    painter.drawImage(box.translated(dx, dy), image, QRectF(*cell.rect))
    painter.restore()


def lies_flat(draw: Draw) -> bool:
    return isinstance(draw, DrawnTiles)


def starts(at: int, side: int, low: float, high: float, repeats: bool) -> list[int]:
    """Where copies of a side in px begin so that they cover low..high; or only the one at `at`."""
    if not repeats:
        return [at]
    first = at + math.floor((low - at) / side) * side
    return list(range(first, math.ceil(high) + 1, side))


def moved_view(view: View, shift: tuple[float, float]) -> View:
    """The view of a layer that is moved by whole px."""
    if shift == (0, 0):
        return view
    moved = View()
    moved.zoom = view.zoom
    moved.offset = view.offset + QPointF(whole_px(shift[0]) * view.zoom, whole_px(shift[1]) * view.zoom)
    return moved


def both_tints(one: Colour | None, two: Colour | None) -> Colour | None:
    """Both tints in one."""
    if one is None or two is None:
        return one or two
    red, green, blue = ((a * b + 127) // 255 for a, b in zip(one, two, strict=True))
    return red, green, blue
