"""Paints a level: each chunk of a layer is an image, and a stroke touches only the cells it changed."""

from __future__ import annotations

import time
from collections import OrderedDict

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.animate.play import frame_at
from rushweed.core.document.edit import cells_by_id
from rushweed.core.document.model import (
    CHUNK,
    Animation,
    BackdropLayer,
    Cell,
    Chunk,
    Level,
    Project,
    Sheet,
    TileLayer,
)
from rushweed.core.level.chunks import chunk_at
from rushweed.core.level.render import TileSet, backdrop_shift
from rushweed.core.level.things import Shown, things_over
from rushweed.core.pixels.stock import Stock
from rushweed.ui.desk.images import SheetImages, image_of
from rushweed.ui.desk.view import View

FRESH = 6  # chunks that are drawn anew each time; more only while there is time,
FRESH_S = 0.02  # so that the window never stands still
MOST_BYTES = 384 * 1024 * 1024
PATCH = 64  # more changed cells than this are drawn anew with their chunk


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


class LevelPainter:
    """Keeps the images of one level's chunks; drops them when tiles change their pixels."""

    def __init__(self, stock: Stock, sheets: SheetImages) -> None:
        self._stock, self._sheets = stock, sheets
        self._images: OrderedDict[tuple[str, int, int, int, frozenset[int]], tuple[Chunk, QImage]] = (
            OrderedDict()
        )
        self._fresh, self._until, self.unfinished = 0, 0.0, False
        self._bytes = 0
        self._made_for: tuple[object, ...] = ()
        self._tiles: TileSet | None = None
        self._by_id: tuple[object, dict[str, tuple[Sheet, Cell]]] = (None, {})
        self.ms = 0.0  # the time at which moving things are shown

    def prepare(self, project: Project, level: Level) -> TileSet:
        """Make ready for a version of a level; only a new table or new cells cost anything."""
        key = (level.id, level.table, project.sheets)
        if self._tiles is None or key != self._made_for and not self._same_art(project, level):
            self._images.clear()
            self._bytes = 0
            self._tiles = TileSet(project, level, self._stock.pixels_or_blank)
        elif key[1:] != self._made_for[1:] and self._tiles.table != level.table:
            self._tiles = TileSet(project, level, self._stock.pixels_or_blank)
        self._made_for = key
        return self._tiles

    def _same_art(self, project: Project, level: Level) -> bool:
        """Whether only shapes, names or a longer table changed: what is drawn stays right."""
        if not self._made_for or self._made_for[0] != level.id:
            return False
        old_table, old_sheets = self._made_for[1], self._made_for[2]
        assert isinstance(old_table, tuple) and isinstance(old_sheets, tuple)
        if level.table[: len(old_table)] != old_table:
            return False
        if old_sheets is project.sheets:
            return True
        old = {s.id: s for s in old_sheets}
        for sheet in project.sheets:
            before = old.get(sheet.id)
            if before is sheet:
                continue
            if before is None or before.source != sheet.source or len(before.cells) != len(sheet.cells):
                return False
            pairs = zip(before.cells, sheet.cells, strict=True)
            if any((a.rect, a.id, a.shift) != (b.rect, b.id, b.shift) for a, b in pairs):
                return False
        return len(old) == len(project.sheets)

    def paint(self, painter: QPainter, view: View, room: QRectF, project: Project, level: Level) -> None:
        """Draw all layers that are shown, from far to near, inside `room` (screen px). Where much of it is
        not drawn yet, some is left for the next time, and `unfinished` says so."""
        self._fresh, self._until, self.unfinished = 0, time.perf_counter() + FRESH_S, False
        tiles = self.prepare(project, level)
        for layer in level.layers:
            if not layer.shown or layer.opacity_percent <= 0:
                continue
            painter.setOpacity(layer.opacity_percent / 100)
            if isinstance(layer, TileLayer):
                self._layer(painter, view, room, project, level, layer, tiles)
            else:
                self._backdrop(painter, view, room, project, level, layer)
            for shown in things_over(project, level, layer.id, self.ms, self._cells(project, level)):
                self._thing(painter, view, room, shown)
        painter.setOpacity(1)

    def _cells(self, project: Project, level: Level) -> dict[str, tuple[Sheet, Cell]]:
        """Every cell with its sheet, for levels that hold things; kept until a sheet changes."""
        if level.things and self._by_id[0] is not project.sheets:
            self._by_id = (project.sheets, cells_by_id(project))
        return self._by_id[1]

    def _thing(self, painter: QPainter, view: View, room: QRectF, shown: Shown) -> None:
        x, y, w, h = shown.cell.rect
        target = view.rect(round(shown.left), round(shown.top), w, h)
        if not target.intersects(room):
            return
        image = self._sheets.image(shown.sheet)
        if shown.thing.mirrored:
            image = image.copy(x, y, w, h).mirrored(True, False)
            x = y = 0
        painter.drawImage(target, image, QRectF(x, y, w, h))

    def _layer(
        self, painter: QPainter, view: View, room: QRectF, project: Project, level: Level, layer: TileLayer,
        tiles: TileSet,
    ) -> None:  # fmt: skip
        wide, high = level.cell[0] * CHUNK, level.cell[1] * CHUNK
        playing = self._playing(project, level)
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        data = layer.tiles
        shrink = 0
        while view.zoom * (2 << shrink) <= 1 and min(level.cell) >> (shrink + 1) >= 1:
            shrink += 1
        for cy in range(
            max(int(a.y() // high), data.top), min(int(b.y() // high), data.top + data.rows - 1) + 1
        ):
            for cx in range(
                max(int(a.x() // wide), data.left), min(int(b.x() // wide), data.left + data.columns - 1) + 1
            ):
                chunk = chunk_at(data, cx, cy)
                if chunk is not None:
                    image = self._image(layer.id, cx, cy, shrink, chunk, tiles, frozenset(playing))
                    if image is None:
                        continue
                    self._draw(painter, view, room, image, cx * wide, cy * high, wide, high)
                    if playing:
                        self._play(painter, view, room, project, level, chunk, (cx, cy), playing)

    @staticmethod
    def _draw(
        painter: QPainter,
        view: View,
        room: QRectF,
        image: QImage,
        x: float,
        y: float,
        wide: float,
        high: float,
    ) -> None:
        """The part of an image that is in the room; whole source px, so that nothing shifts."""
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        scale = image.width() / wide
        x0, y0 = max(int((a.x() - x) * scale) - 1, 0), max(int((a.y() - y) * scale) - 1, 0)
        x1 = min(int((b.x() - x) * scale) + 2, image.width())
        y1 = min(int((b.y() - y) * scale) + 2, image.height())
        if x1 > x0 and y1 > y0:
            target = view.rect(x + x0 / scale, y + y0 / scale, (x1 - x0) / scale, (y1 - y0) / scale)
            painter.drawImage(target, image, QRectF(x0, y0, x1 - x0, y1 - y0))

    def _playing(self, project: Project, level: Level) -> dict[int, Animation]:
        """The table indices of tiles that play, while things move."""
        if self.ms <= 0:
            return {}
        places = {cell: i + 1 for i, cell in enumerate(level.table)}
        found = (a for a in project.animations if a.tile and a.frames and a.frames[0].cell in places)
        return {places[a.frames[0].cell]: a for a in found}

    def _play(
        self, painter: QPainter, view: View, room: QRectF, project: Project, level: Level, chunk: Chunk,
        at: tuple[int, int], playing: dict[int, Animation],
    ) -> None:  # fmt: skip
        """Draw the playing tiles of a chunk that are in the room, each by the frame of the moment."""
        if self._by_id[0] is not project.sheets:
            self._by_id = (project.sheets, cells_by_id(project))
        index, cw, ch = chunk.cells >> 3, *level.cell
        for number, animation in playing.items():
            found = self._by_id[1].get(animation.frames[frame_at(animation, self.ms)].cell)
            if found is None:
                continue
            sheet, cell = found
            image = self._sheets.image(sheet)
            for row, column in zip(*np.nonzero(index == number), strict=True):
                x, y = (at[0] * CHUNK + int(column)) * cw, (at[1] * CHUNK + int(row)) * ch
                target = view.rect(x, y, cw, ch)
                if not target.intersects(room):
                    continue
                turn = int(chunk.cells[row, column]) & 7
                painter.save()
                painter.translate(target.center())
                painter.rotate(90 * (turn & 3))
                painter.scale(-1 if turn & 4 else 1, 1)
                box = QRectF(-target.width() / 2, -target.height() / 2, target.width(), target.height())
                draw_cell(painter, box, image, cell)
                painter.restore()

    def _image(
        self, layer: str, cx: int, cy: int, shrink: int, chunk: Chunk, tiles: TileSet,
        left_out: frozenset[int] = frozenset(),
    ) -> QImage | None:  # fmt: skip
        """The picture of a chunk; one that is out of date, or None, where enough was drawn this time."""
        key = (layer, cx, cy, shrink, left_out)
        known = self._images.get(key)
        if known is not None and known[0] is chunk:
            self._images.move_to_end(key)
            return known[1]
        self._fresh += 1
        if self._fresh > FRESH and time.perf_counter() > self._until:
            self.unfinished = True
            return None if known is None else known[1]
        patch = known is not None and shrink == 0 and not left_out
        image = self._patched(known, chunk, tiles) if patch and known is not None else None
        if image is None:
            cells = chunk.cells
            if left_out:
                cells = np.where(np.isin(cells >> 3, list(left_out)), np.uint32(0), cells)
            pixels = tiles.picture(cells)
            for _ in range(shrink):
                h, w = pixels.shape[:2]
                pixels = pixels[: h // 2 * 2, : w // 2 * 2].reshape(h // 2, 2, w // 2, 2, 4)[:, 0, :, 0]
            image = image_of(pixels)
        if known is not None:
            self._bytes -= known[1].sizeInBytes()
        self._images[key] = (chunk, image)
        self._images.move_to_end(key)
        self._bytes += image.sizeInBytes()
        while self._bytes > MOST_BYTES and len(self._images) > 1:
            _key, (_chunk, dropped) = self._images.popitem(last=False)
            self._bytes -= dropped.sizeInBytes()
        return image

    @staticmethod
    def _patched(known: tuple[Chunk, QImage], chunk: Chunk, tiles: TileSet) -> QImage | None:
        """The old image with only the changed cells drawn again, or None if they are many."""
        changed = np.argwhere(known[0].cells != chunk.cells)
        if len(changed) > PATCH:
            return None
        image = known[1]  # ours alone: drawn in place
        painter = QPainter(image)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
        wide, high = tiles.cell
        for row, column in changed:
            tile = image_of(tiles.tile(int(chunk.cells[row, column])))
            painter.drawImage(QPointF(float(column * wide), float(row * high)), tile)
        painter.end()
        return image

    def _backdrop(
        self,
        painter: QPainter,
        view: View,
        room: QRectF,
        project: Project,
        level: Level,
        layer: BackdropLayer,
    ) -> None:
        sheet = next((s for s in project.sheets if s.id == layer.sheet), None)
        if sheet is None:
            return
        image = self._sheets.image(sheet)
        middle = view.to_content(room.center())
        x, y = backdrop_shift(layer, level, (middle.x(), middle.y()))
        x, y = round(x), round(y)
        left, right = view.to_content(room.topLeft()).x(), view.to_content(room.bottomRight()).x()
        first = x + (left - x) // image.width() * image.width() if layer.repeat else x
        while True:
            self._draw(painter, view, room, image, first, y, image.width(), image.height())
            first += image.width()
            if not layer.repeat or first > right:
                break
