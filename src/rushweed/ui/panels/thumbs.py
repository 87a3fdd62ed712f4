"""Thumbnails of sheets, animations and levels, drawn one at a time while the window is idle."""

from __future__ import annotations

from collections import OrderedDict

from PyQt6.QtCore import QObject, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk.images import SheetImages, checker, image_of
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session, later

Part = Sheet | Level | Animation
THUMB = 24  # px a side


class Thumbs(QObject):
    """Those that were drawn; `drawn` tells of another."""

    drawn = pyqtSignal()

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session, self.images = look, session, images
        self._thumbs: OrderedDict[str, tuple[tuple[object, object], QImage]] = OrderedDict()
        self._wanted: list[str] = []
        self._idle = later(self, 10, self._draw_wanted)
        self._blank = QImage(THUMB, THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        self._blank.fill(look.colour("rule"))

    def of(self, part: Part) -> QImage:
        """The thumbnail as last drawn; a new one is drawn when the window is idle."""
        key = self._key(part)
        known = self._thumbs.get(part.id)
        if known is None or not all(a is b or a == b for a, b in zip(known[0], key, strict=True)):
            if part.id not in self._wanted:
                self._wanted.append(part.id)
            if self.images.ready:
                self._idle.start()
        return known[1] if known else self._blank

    def _key(self, part: Part) -> tuple[object, object]:
        """What its thumbnail depends on."""
        if isinstance(part, Sheet):
            return part.source, part.cells[:1]
        return part, self.session.project.sheets  # levels and animations show the art of sheets

    def _draw_wanted(self) -> None:
        """Draw one thumbnail, then let the window breathe."""
        part_id = self._wanted.pop(0)
        project = self.session.project
        parts: list[Part] = [*project.sheets, *project.levels, *project.animations]
        part = next((p for p in parts if p.id == part_id), None)
        if isinstance(part, Sheet):
            self._thumbs[part.id] = (self._key(part), self._sheet_thumb(part))
        elif isinstance(part, Animation):
            self._thumbs[part.id] = (self._key(part), self._animation_thumb(part))
        elif part is not None:
            self._thumbs[part.id] = (self._key(part), self._level_thumb(part))
        while len(self._thumbs) > 600:
            self._thumbs.popitem(last=False)
        if self._wanted:
            self._idle.start()
        self.drawn.emit()

    def _sheet_thumb(self, sheet: Sheet) -> QImage:
        thumb = QImage(THUMB, THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(thumb)
        painter.fillRect(0, 0, THUMB, THUMB, checker(self.look, 6))
        image = self.images.image(sheet)
        side = min(24, image.width(), image.height())
        if sheet.cells:
            x, y, w, h = sheet.cells[0].rect
            wide = max(min(w, h, 24), 8)
            if w > 48:
                wide = min(w, h)
            painter.drawImage(QRectF(0, 0, THUMB, THUMB), image, QRectF(x + (w - wide) // 2, y, wide, wide))
        elif image.width() > 64:
            scaled = image.scaled(QSize(48, 48), Qt.AspectRatioMode.KeepAspectRatioByExpanding)
            painter.drawImage(QRectF(0, 0, THUMB, THUMB), scaled, QRectF(0, 0, 32, 32))
        else:
            painter.drawImage(QRectF(0, 0, THUMB, THUMB), image, QRectF(0, 0, side, side))
        painter.end()
        return thumb

    def _animation_thumb(self, animation: Animation) -> QImage:
        thumb = QImage(THUMB, THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(thumb)
        painter.fillRect(0, 0, THUMB, THUMB, checker(self.look, 6))
        found = self.session.cells_by_id.get(animation.frames[0].cell) if animation.frames else None
        if found is not None:
            sheet, cell = found
            w, h = cell.rect[2:]
            scale = min(THUMB / w, THUMB / h, 2)
            box = QRectF((THUMB - w * scale) / 2, (THUMB - h * scale) / 2, w * scale, h * scale)
            painter.drawImage(box, self.images.image(sheet), QRectF(*cell.rect))
        painter.end()
        return thumb

    def _level_thumb(self, level: Level) -> QImage:
        from rushweed.core.level.render import level_picture

        x, y = round(level.start[0]) - 36, round(level.start[1]) - 48
        pixels = level_picture(
            self.session.project, level, self.session.stock.pixels_or_blank, (x, y, 72, 72)
        )
        return image_of(pixels).scaled(QSize(THUMB, THUMB))
