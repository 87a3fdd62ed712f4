"""The shapes of a level as one picture over the Desk: a stroke draws anew only what it touched."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model import CHUNK, Level, TileLayer
from rushweed.core.level.chunks import changed_chunks, chunk_at, region
from rushweed.core.shape.primitives import mirrored, turned
from rushweed.ui.desk.shape_marks import Placed

if TYPE_CHECKING:
    from rushweed.ui.stages.paint.stage import PaintStage

REACH = 15  # screen px that a shape's marks reach beyond its edge


class ShapeLayer:
    """Kept for one view of one level, whole until the view, a shape or the set of layers changes."""

    def __init__(self, stage: PaintStage) -> None:
        self.stage = stage
        self._image = QImage()
        self._key: tuple[object, ...] = ()
        self._level: Level | None = None

    def paint(self, painter: QPainter, room: QRectF, level: Level) -> None:
        """Draw the shapes inside `room`, screen px."""
        desk, view = self.stage.desk, self.stage.desk.view
        ratio = desk.devicePixelRatioF()
        place = (level.id, view.zoom, view.offset.x(), view.offset.y(), desk.width(), desk.height(), ratio)
        key = (place, tuple((x.id, x.shown) for x in level.layers), self.stage.session.project.sheets)
        if self._level is None or self._key[:2] != key[:2] or self._key[2] is not key[2]:
            self._image = QImage(desk.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            self._image.setDevicePixelRatio(ratio)
            self._image.fill(Qt.GlobalColor.transparent)
            self._draw(level, desk.room)
        elif self._level is not level:
            changed = self._changed(self._level, level)
            if not changed.isNull():
                cw, ch = level.cell
                box = view.rect(
                    changed.x() * cw, changed.y() * ch, changed.width() * cw, changed.height() * ch
                )
                part = box.adjusted(-REACH, -REACH, REACH, REACH)
                self._draw(level, part.intersected(desk.room))
        self._key, self._level = key, level
        source = QRectF(room.x() * ratio, room.y() * ratio, room.width() * ratio, room.height() * ratio)
        painter.drawImage(room, self._image, source)

    def _changed(self, old: Level, new: Level) -> QRect:
        """The cells in which two versions differ."""
        boxes = QRect()
        for one, two in zip(old.layers, new.layers, strict=True):
            if one is not two and isinstance(one, TileLayer) and isinstance(two, TileLayer):
                for cx, cy in changed_chunks(one.tiles, two.tiles):
                    boxes = boxes.united(changed_box(one, two, cx, cy))
        return boxes

    def _draw(self, level: Level, part: QRectF) -> None:
        if part.isEmpty():
            return
        painter = QPainter(self._image)
        painter.setClipRect(part)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
        painter.fillRect(part, Qt.GlobalColor.transparent)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceOver)
        self.stage.marks.paint_merged(painter, self.stage.desk.view, self._placed(level, part))
        painter.end()

    def _placed(self, level: Level, part: QRectF) -> list[Placed]:
        """The shapes of the tiles in and next to a part, turned as the tiles are."""
        view, (cw, ch) = self.stage.desk.view, level.cell
        wide = part.adjusted(-REACH, -REACH, REACH, REACH)
        a, b = view.to_content(wide.topLeft()), view.to_content(wide.bottomRight())
        x0, y0 = int(a.x() // cw), int(a.y() // ch)
        columns, rows = int(b.x() // cw) - x0 + 1, int(b.y() // ch) - y0 + 1
        known = self.stage.session.cells_by_id
        shapes = [known[c][1].shapes if c in known else () for c in level.table]
        found: list[Placed] = []
        for layer in level.layers:
            if not isinstance(layer, TileLayer) or not layer.shown:
                continue
            cells = region(layer.tiles, x0, y0, columns, rows)
            for j, i in zip(*np.nonzero(cells), strict=True):
                value = int(cells[j, i])
                index = (value >> 3) - 1
                for shape in shapes[index] if index < len(shapes) else ():
                    if value & 4:
                        shape = mirrored(shape, cw)
                    for _ in range(value & 3):
                        shape = turned(shape, (cw, ch))
                    found.append((shape, (x0 + int(i)) * cw, (y0 + int(j)) * ch))
        return found


def changed_box(one: TileLayer, two: TileLayer, cx: int, cy: int) -> QRect:
    """The cells of one chunk in which two versions of a layer differ."""
    p, q = chunk_at(one.tiles, cx, cy), chunk_at(two.tiles, cx, cy)
    empty = np.zeros((CHUNK, CHUNK), np.uint32)
    ys, xs = np.nonzero((p.cells if p else empty) != (q.cells if q else empty))
    if not xs.size:
        return QRect()
    left, top = int(xs.min()), int(ys.min())
    return QRect(cx * CHUNK + left, cy * CHUNK + top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)
