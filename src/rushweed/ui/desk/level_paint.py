"""Paints a level: each chunk of a layer is an image, and a stroke touches only the cells it changed."""

from __future__ import annotations

import math
from collections import OrderedDict
from itertools import groupby
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QTransform

from rushweed.core.animate.play import frame_at
from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.base import Colour
from rushweed.core.document.model.level import CHUNK, BackdropLayer, Chunk, Level, PictureLayer, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.chunks import chunk_at
from rushweed.core.level.render import PICTURE, TileSet, tinted
from rushweed.core.level.scene import (
    Draw,
    DrawnPicture,
    DrawnTiles,
    DrawnWalker,
    Standing,
    StandingTile,
    draws,
)
from rushweed.core.level.things import Shown, whole_px
from rushweed.core.pixels.cache import PixelCache
from rushweed.ui.desk.draw_cell import both_tints, draw_cell, lies_flat, moved_view, starts
from rushweed.ui.desk.images import SheetImages, image_of
from rushweed.ui.desk.level_blocks import Allowance, BlockImages, blocks_in
from rushweed.ui.desk.view import View

MOST_TINTED = 512  # images of tinted art that are kept
LEAST_TURN = 0.5  # degrees of a pushed thing that show
FADED = 0.3  # of the layers that do not stand out
ENLARGED = tuple(range(2, 65))  # zooms at which px stay whole


class DrawnFigure(NamedTuple):
    """Somebody in a level: an image, the place of his feet, level px, and where those are in the image."""

    image: QImage
    feet: tuple[float, float]
    origin: tuple[float, float]


class Onto(NamedTuple):
    """What is drawn on: a painter, the view that turns level px into screen px, the part that is drawn,
    screen px, and where the middle of the whole picture is, if that is another than the part's."""

    painter: QPainter
    view: View
    room: QRectF
    middle: QPointF | None = None

    def seen(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of the part, level px."""
        a, b = self.view.to_content(self.room.topLeft()), self.view.to_content(self.room.bottomRight())
        return a.x(), a.y(), b.x(), b.y()


class _Shown(NamedTuple):
    """What is drawn: a level of a project, its tiles, and which of its table play."""

    project: Project
    level: Level
    tiles: TileSet
    playing: dict[int, Animation]


class LevelPainter:
    """Keeps the images of one level's chunks, in blocks; drops them when tiles change their pixels."""

    def __init__(self, stock: PixelCache, sheets: SheetImages) -> None:
        self._stock, self._sheets = stock, sheets
        self._blocks = BlockImages()
        self._flat = QImage()  # room to lay layers over each other
        self._made_for: tuple[object, ...] = ()
        self._tiles: TileSet | None = None
        self._tinted: OrderedDict[tuple[object, ...], QImage] = OrderedDict()
        self._images: dict[str, QImage] = {}  # of sheets, in one painting
        self._single: dict[tuple[object, ...], QImage] = {}
        self.ms = 0.0  # the time at which moving things are shown
        self.alone = ""  # the id of the layer that stands out, the others faded
        self.picture = PICTURE  # px of the game's picture
        self.walker: DrawnFigure | None = None
        self.snaps = True  # the walker stands on whole px
        self.pushed: dict[str, tuple[float, float, float]] = {}  # where things are by now, and turned how far

    @property
    def unfinished(self) -> bool:
        """Whether some of the level is left to be drawn the next time."""
        return self._blocks.unfinished

    def moves(self, project: Project, level: Level) -> bool:
        """Whether something in a level moves by itself as time goes on."""
        if self.ms <= 0:
            return False
        drifts = any(isinstance(x, BackdropLayer) and x.drift != (0, 0) for x in level.layers)
        played = {a.id for a in project.animations}
        goes = any(thing.path is not None or thing.shows in played for thing in level.things)
        return drifts or goes or bool(self._playing(project, level))

    def prepare(self, project: Project, level: Level) -> TileSet:
        """Make ready for a version of a level; only a new table or new cells cost anything."""
        key = (level.id, level.table, project.sheets, level.cell)
        if self._tiles is None or key != self._made_for and not self._same_art(project, level):
            self._blocks.clear()
            self._single.clear()
            self._tiles = TileSet(project, level, self._stock.pixels_or_blank)
        elif key[1:] != self._made_for[1:] and self._tiles.table != level.table:
            self._single.clear()
            self._tiles = TileSet(project, level, self._stock.pixels_or_blank)
        self._made_for = key
        return self._tiles

    def _same_art(self, project: Project, level: Level) -> bool:
        """Whether only shapes, names or a longer table changed: what is drawn stays right."""
        if not self._made_for or (self._made_for[0], self._made_for[3]) != (level.id, level.cell):
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

    def paint(self, onto: Onto, project: Project, level: Level, allowance: Allowance | None = None) -> None:
        """Draw all that is shown, from far to near. What the allowance of this turn leaves to be drawn is
        left for the next, and `unfinished` says so."""
        self._blocks.begin(allowance or Allowance())
        self._images.clear()
        view = onto.view
        shown = _Shown(project, level, self.prepare(project, level), self._playing(project, level))
        left, top, right, bottom = onto.seen()
        area = (left, top, right - left, bottom - top)
        middle = view.to_content(onto.room.center() if onto.middle is None else onto.middle)
        walker = self.walker.feet if self.walker is not None else None
        drawn = draws(project, level, area, self.ms, walker, (middle.x(), middle.y()))
        for is_tiles, some in groupby(drawn, lies_flat):
            group = list(some)
            if is_tiles and len(group) > 1 and view.zoom in ENLARGED and not shown.playing:
                self._draw_flat(onto, shown, group)
            else:
                self._draw_all(onto, shown, group)
        onto.painter.setOpacity(1)

    def _draw_flat(self, onto: Onto, shown: _Shown, group: list[Draw]) -> None:
        """Lay tile layers over each other at their own size, and enlarge that once."""
        painter, (x0, y0, x1, y1) = onto.painter, onto.seen()
        left, top = math.floor(x0), math.floor(y0)
        wide, high = math.ceil(x1) - left, math.ceil(y1) - top
        image = self._flat
        if image.width() < wide or image.height() < high:
            image = self._flat = QImage(wide, high, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        small = View()
        small.zoom, small.offset = 1.0, QPointF(-left, -top)
        inner = QPainter(image)
        self._draw_all(Onto(inner, small, QRectF(0, 0, wide, high)), shown, group)
        inner.end()
        painter.setOpacity(1)
        painter.drawImage(onto.view.rect(left, top, wide, high), image, QRectF(0, 0, wide, high))

    def _draw_all(self, onto: Onto, shown: _Shown, group: list[Draw]) -> None:
        painter, view = onto.painter, onto.view
        for draw in group:
            if isinstance(draw, DrawnWalker):
                self._figure(painter, view)
                continue
            layer = draw.layer
            share = 1.0 if self.alone in ("", layer.id) else FADED
            painter.setOpacity(layer.opacity_percent / 100 * share)
            match draw:
                case DrawnTiles(layer, shift, left_out):
                    self._layer(onto._replace(view=moved_view(view, shift)), shown, layer, left_out)
                case DrawnPicture(layer, at):
                    self._picture(onto, shown.project, layer, at)
                case Standing(layer, thing, shift):
                    self._thing(onto, self._where_pushed(thing), shift, layer.tint)
                case StandingTile():
                    self._standing(onto, shown, draw)

    def _thing(self, onto: Onto, shown: Shown, shift: tuple[float, float], tint: Colour | None) -> None:
        painter, view, room, (x, y, w, h) = *onto[:3], shown.cell.rect
        left, top, wide, high = shown.box()
        dx, dy = whole_px(shift[0]), whole_px(shift[1])
        target = view.rect(left + dx, top + dy, wide, high)
        if not target.intersects(room):
            return
        sheet = shown.sheet
        image = self._images.get(sheet.id)
        if image is None:
            image = self._images[sheet.id] = self._sheets.image(sheet)
        both = both_tints(tint, shown.thing.tint)
        if both is not None:
            image, x, y = self._tinted_part(sheet, image, (x, y, w, h), both), 0, 0
        if shown.plain and not shown.thing.mirrored:
            painter.drawImage(target, image, QRectF(x, y, w, h))
            return
        a, b, c, d, e, f = shown.matrix()
        zoom, at = view.zoom, view.to_screen(e + dx, f + dy)
        painter.save()
        painter.setTransform(QTransform(a * zoom, c * zoom, b * zoom, d * zoom, at.x(), at.y()), combine=True)
        painter.drawImage(QRectF(0, 0, w, h), image, QRectF(x, y, w, h))
        painter.restore()

    def _where_pushed(self, shown: Shown) -> Shown:
        """A thing where it was pushed to; one that hardly turned is drawn px for px."""
        place = self.pushed.get(shown.thing.id)
        if place is None:
            return shown
        x, y, turn = place
        dx, dy = x - shown.foot[0], y - shown.foot[1]
        turned = shown.thing.turn + (turn if abs(turn) >= LEAST_TURN else 0)
        thing = replace(shown.thing, turn=turned)
        return shown._replace(thing=thing, left=shown.left + dx, top=shown.top + dy, foot=(x, y))

    def _tinted_part(
        self, sheet: Sheet, image: QImage, rect: tuple[int, int, int, int], tint: Colour
    ) -> QImage:
        """A part of a sheet's image with its colours multiplied, kept for the next time."""
        key = (image.cacheKey(), rect, tint)
        known = self._tinted.get(key)
        if known is None:
            while len(self._tinted) >= MOST_TINTED:
                self._tinted.popitem(last=False)
            x, y, w, h = rect
            pixels = self._stock.pixels_or_blank(sheet)[y : y + h, x : x + w]
            known = self._tinted[key] = image_of(np.ascontiguousarray(tinted(pixels, tint)))
        return known

    def _figure(self, painter: QPainter, view: View) -> None:
        assert self.walker is not None
        image, feet, origin = self.walker
        x, y = feet[0] - origin[0], feet[1] - origin[1]
        if self.snaps:
            x, y = whole_px(x), whole_px(y)
        painter.setOpacity(1)
        painter.drawImage(view.rect(x, y, image.width(), image.height()), image)

    def _standing(self, onto: Onto, shown: _Shown, tile: StandingTile) -> None:
        """One tile by itself, as it stands or as it plays."""
        painter, view, room, value, tint = *onto[:3], tile.value, tile.layer.tint
        target = view.rect(whole_px(tile.at[0]), whole_px(tile.at[1]), *shown.level.cell)
        if not target.intersects(room):
            return
        if value >> 3 in shown.playing:
            self._playing_tile(painter, target, shown.project, shown.playing[value >> 3], value & 7)
            return
        key = (value, tint)
        if key not in self._single:
            if len(self._single) > MOST_TINTED:
                self._single.clear()
            self._single[key] = image_of(np.ascontiguousarray(tinted(shown.tiles.tile(value), tint)))
        painter.drawImage(target, self._single[key])

    def _layer(self, onto: Onto, shown: _Shown, layer: TileLayer, standing: frozenset[int]) -> None:
        painter, view, level, playing = *onto[:2], shown.level, shown.playing
        wide, high = level.cell[0] * CHUNK, level.cell[1] * CHUNK
        seen, data, left_out = onto.seen(), layer.tiles, frozenset(playing) | standing
        shrink = 0
        while view.zoom * (2 << shrink) <= 1 and min(level.cell) >> (shrink + 1) >= 1:
            shrink += 1
        moving = {n: a for n, a in playing.items() if n not in standing}
        columns = range(
            max(int(seen[0] // wide), data.left), min(int(seen[2] // wide), data.left + data.columns - 1) + 1
        )
        rows = range(
            max(int(seen[1] // high), data.top), min(int(seen[3] // high), data.top + data.rows - 1) + 1
        )
        for block in blocks_in(data, columns, rows, level.cell, shrink):
            x, y, w, h = block.area(level.cell)
            if x < seen[2] and y < seen[3] and x + w > seen[0] and y + h > seen[1]:
                image = self._blocks.image(layer, block, shrink, shown.tiles, left_out)
                if image is not None:
                    self._draw(painter, view, seen, image, (x, y, w, h))
        if moving:
            for at in ((cx, cy) for cy in rows for cx in columns):
                chunk = chunk_at(data, *at)
                if chunk is not None:
                    self._play(onto, shown._replace(playing=moving), chunk, at)

    @staticmethod
    def _draw(
        painter: QPainter, view: View, seen: tuple[float, float, float, float], image: QImage,
        area: tuple[float, float, float, float],
    ) -> None:  # fmt: skip
        """The part of an image that is seen (left, top, right, bottom, level px); whole source px, so that
        nothing shifts. `area`: x, y, width, height of the image, level px."""
        (left, top, right, bottom), (x, y, wide, high) = seen, area
        is_in = x >= left and y >= top and x + wide <= right and y + high <= bottom
        if is_in or view.zoom < 1:  # drawn smaller, a part would be taken from other px than the whole
            painter.drawImage(view.rect(x, y, wide, high), image)
            return
        scale = image.width() / wide
        x0, y0 = max(int((left - x) * scale) - 1, 0), max(int((top - y) * scale) - 1, 0)
        x1 = min(int((right - x) * scale) + 2, image.width())
        y1 = min(int((bottom - y) * scale) + 2, image.height())
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

    def _play(self, onto: Onto, shown: _Shown, chunk: Chunk, at: tuple[int, int]) -> None:
        """Draw the playing tiles of a chunk that are in the room, each by the frame of the moment."""
        index, cw, ch = chunk.cells >> 3, *shown.level.cell
        for number, animation in shown.playing.items():
            for row, column in zip(*np.nonzero(index == number), strict=True):
                x, y = (at[0] * CHUNK + int(column)) * cw, (at[1] * CHUNK + int(row)) * ch
                target = onto.view.rect(x, y, cw, ch)
                if target.intersects(onto.room):
                    turn = int(chunk.cells[row, column]) & 7
                    self._playing_tile(onto.painter, target, shown.project, animation, turn)

    def _playing_tile(
        self, painter: QPainter, target: QRectF, project: Project, animation: Animation, turn: int
    ) -> None:
        """A tile by its frame of the moment."""
        found = cell_homes(project).get(animation.frames[frame_at(animation, self.ms)].cell)
        if found is None:
            return
        sheet, cell = found
        painter.save()
        painter.translate(target.center())
        painter.rotate(90 * (turn & 3))
        painter.scale(-1 if turn & 4 else 1, 1)
        box = QRectF(-target.width() / 2, -target.height() / 2, target.width(), target.height())
        draw_cell(painter, box, self._sheets.image(sheet), cell)
        painter.restore()

    def _picture(
        self, onto: Onto, project: Project, layer: BackdropLayer | PictureLayer, at: tuple[float, float]
    ) -> None:
        """A backdrop or picture with its top left at `at`, level px, repeated as it says."""
        sheet = next((s for s in project.sheets if s.id == layer.sheet), None)
        if sheet is None:
            return
        image = self._sheets.image(sheet)
        if layer.tint is not None:
            image = self._tinted_part(sheet, image, (0, 0, image.width(), image.height()), layer.tint)
        wide, high, repeats = image.width(), image.height(), (False, False)
        if isinstance(layer, BackdropLayer):
            repeats = (layer.repeat, layer.repeat_y)
            if layer.stretch:
                wide, high = self.picture
        seen = onto.seen()
        xs = starts(whole_px(at[0]), wide, seen[0], seen[2], repeats[0])
        ys = starts(whole_px(at[1]), high, seen[1], seen[3], repeats[1])
        for x in xs:
            for y in ys:
                self._draw(onto.painter, onto.view, seen, image, (x, y, wide, high))
