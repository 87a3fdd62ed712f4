"""Thumbnails of sheets, animations and levels, drawn one at a time while the window is idle."""

from __future__ import annotations

from collections import OrderedDict
from functools import partial

import numpy as np
from PyQt6.QtCore import QObject, QRectF, QSize, pyqtSignal
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.edit import sheets_shown
from rushweed.ui.desk.images import SheetImages, checker, image_of
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session, later
from rushweed.ui.session.level_pictures import Wanted

Part = Sheet | Level | Animation
THUMB = 24  # px a side


class Thumbs(QObject):
    """Those that were drawn; `drawn` tells of another, by its part's id."""

    drawn = pyqtSignal(str)

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
        """Draw one thumbnail, where large pictures have to be read for it when that is done, then let the
        window breathe."""
        part_id = self._wanted.pop(0)
        part = self._part(part_id)
        if part is not None:
            self.session.read(self._shown_by(part), partial(self._draw, part_id))
        if self._wanted:
            self._idle.start()

    def _part(self, part_id: str) -> Part | None:
        project = self.session.project
        parts: list[Part] = [*project.sheets, *project.levels, *project.animations]
        return next((p for p in parts if p.id == part_id), None)

    def _shown_by(self, part: Part) -> list[Sheet]:
        """The sheets whose pictures a thumbnail is made from."""
        if isinstance(part, Sheet):
            return [part]
        if isinstance(part, Level):
            return sheets_shown(self.session.project, part)
        found = self.session.cells_by_id.get(part.frames[0].cell) if part.frames else None
        return [found[0]] if found is not None else []

    def _draw(self, part_id: str) -> None:
        part = self._part(part_id)
        if part is None:
            return  # it went while its pictures were read
        if isinstance(part, Sheet):
            image = self._sheet_thumb(part)
        elif isinstance(part, Animation):
            image = self._animation_thumb(part)
        else:
            self._draw_level(part)
            return
        self._keep(part, self._key(part), image)

    def _keep(self, part: Part, key: tuple[object, object], image: QImage) -> None:
        self._thumbs[part.id] = (key, image)
        while len(self._thumbs) > 600:
            self._thumbs.popitem(last=False)
        self.drawn.emit(part.id)

    def _sheet_thumb(self, sheet: Sheet) -> QImage:
        width, height = sheet.source.size
        if sheet.cells:
            x, y, w, h = sheet.cells[0].rect
            wide = min(w, h) if w > 48 else max(min(w, h, 24), 8)
            part = (x + (w - wide) // 2, y, wide, wide)
        elif width > 64:  # what lies upper left
            side = max(min(width, height) * 2 // 3, 1)
            part = (0, 0, side, side)
        else:
            side = min(24, width, height)
            part = (0, 0, side, side)
        return self._thumb_of(sheet, part, QRectF(0, 0, THUMB, THUMB))

    def _animation_thumb(self, animation: Animation) -> QImage:
        found = self.session.cells_by_id.get(animation.frames[0].cell) if animation.frames else None
        if found is None:
            return self._blank
        sheet, cell = found
        w, h = cell.rect[2:]
        scale = min(THUMB / w, THUMB / h, 2)
        box = QRectF((THUMB - w * scale) / 2, (THUMB - h * scale) / 2, w * scale, h * scale)
        return self._thumb_of(sheet, cell.rect, box)

    def _thumb_of(self, sheet: Sheet, part: tuple[int, int, int, int], box: QRectF) -> QImage:
        """A part of a sheet, px, drawn in a box of the thumbnail; of a large one some px stand for all, so
        that no image of the whole sheet is made for it."""
        x, y, w, h = part
        step = max(min(w, h) // (2 * THUMB), 1)
        image = image_of(self.session.stock.pixels_or_blank(sheet)[y : y + h : step, x : x + w : step])
        thumb = QImage(THUMB, THUMB, QImage.Format.Format_ARGB32_Premultiplied)
        painter = QPainter(thumb)
        painter.fillRect(0, 0, THUMB, THUMB, checker(self.look, 6))
        painter.drawImage(box, image)
        painter.end()
        return thumb

    def _draw_level(self, level: Level) -> None:
        """What stands around its start, made beside the window."""
        key, x, y = self._key(level), round(level.start[0]) - 36, round(level.start[1]) - 48
        wanted = Wanted(self.session.project, level, (x, y, 72, 72))

        def then(pixels: np.ndarray) -> None:
            self._keep(level, key, image_of(pixels).scaled(QSize(THUMB, THUMB)))

        self.session.level_pictures.draw(f"thumbnail of {level.id}", wanted, then)
