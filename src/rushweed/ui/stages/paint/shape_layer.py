"""The shapes of a level as one picture over the Desk: a stroke draws anew only what it touched."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model.level import CHUNK, Level, TileLayer
from rushweed.core.level.chunks import changed_chunks, chunk_at
from rushweed.ui.desk.shape_marks import Laid, placed_shapes

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
        self._offset = (0.0, 0.0)
        self._spare: QImage | None = None  # what the image is moved into

    def _blank(self, ratio: float) -> QImage:
        image = QImage(self.stage.desk.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(ratio)
        image.fill(Qt.GlobalColor.transparent)
        return image

    def _slide(self, level: Level, offset: tuple[float, float], ratio: float) -> bool:
        """Where the view was moved by whole px and nothing else changed: what stays in view is moved along,
        and only what comes into view is drawn. Whether that could be done."""
        dx, dy = offset[0] - self._offset[0], offset[1] - self._offset[1]
        room = self.stage.desk.room
        whole = dx == round(dx) and dy == round(dy) and ratio == round(ratio)
        if not whole or level is not self._level or abs(dx) >= room.width() or abs(dy) >= room.height():
            return False
        old, spare = self._image, self._spare  # all of the spare one is drawn over
        same = spare is not None and spare.size() == old.size() and spare.devicePixelRatio() == ratio
        self._image = spare if spare is not None and same else self._blank(ratio)
        self._spare = old
        painter = QPainter(self._image)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
        painter.setClipRect(room)
        painter.drawImage(QPointF(dx, dy), old)
        painter.end()
        seen = room.translated(dx, dy).intersected(room)  # what was drawn already
        if dx:
            left = room.left() if dx > 0 else seen.right()
            self._draw(level, QRectF(left, room.top(), abs(dx), room.height()))
        if dy:
            top = room.top() if dy > 0 else seen.bottom()
            self._draw(level, QRectF(room.left(), top, room.width(), abs(dy)))
        return True

    def paint(self, painter: QPainter, room: QRectF, level: Level) -> None:
        """Draw the shapes inside `room`, screen px."""
        desk, view = self.stage.desk, self.stage.desk.view
        ratio = desk.devicePixelRatioF()
        place = (level.id, view.zoom, desk.width(), desk.height(), ratio)
        layers = tuple(
            (x.id, x.shown, x.offset, isinstance(x, TileLayer) and x.collides) for x in level.layers
        )
        key = (place, layers, self.stage.session.project.sheets)
        offset = view.offset.x(), view.offset.y()
        if (
            self._level is None
            or self._key[:2] != key[:2]
            or self._key[2] is not key[2]
            or offset != self._offset
            and not self._slide(level, offset, ratio)
        ):
            self._image = self._blank(ratio)
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
        self._key, self._level, self._offset = key, level, offset
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

    def _placed(self, level: Level, part: QRectF) -> list[Laid]:
        """The shapes of the tiles in and next to a part, screen px."""
        view = self.stage.desk.view
        wide = part.adjusted(-REACH, -REACH, REACH, REACH)
        a, b = view.to_content(wide.topLeft()), view.to_content(wide.bottomRight())
        return placed_shapes(level, self.stage.session.cells_by_id, (a.x(), a.y(), b.x(), b.y()))


def changed_box(one: TileLayer, two: TileLayer, cx: int, cy: int) -> QRect:
    """The cells of one chunk in which two versions of a layer differ."""
    p, q = chunk_at(one.tiles, cx, cy), chunk_at(two.tiles, cx, cy)
    empty = np.zeros((CHUNK, CHUNK), np.uint32)
    ys, xs = np.nonzero((p.cells if p else empty) != (q.cells if q else empty))
    if not xs.size:
        return QRect()
    left, top = int(xs.min()), int(ys.min())
    return QRect(cx * CHUNK + left, cy * CHUNK + top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)
