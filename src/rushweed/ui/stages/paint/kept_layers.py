"""The level and its shapes, each as one picture on the Desk: a stroke draws anew only what it touched."""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
from PyQt6.QtCore import QRect, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter

from rushweed.core.document.model.level import CHUNK, Level, TileLayer
from rushweed.core.level.chunks import changed_chunks, chunk_at
from rushweed.core.level.things import PlacedThings, changed_box, placed_things
from rushweed.ui.desk.images import checker
from rushweed.ui.desk.kept_picture import KeptPicture, Place, Turns
from rushweed.ui.desk.laid_shapes import placed_shapes
from rushweed.ui.desk.level_blocks import Allowance
from rushweed.ui.desk.level_paint import Onto
from rushweed.ui.session import later
from rushweed.ui.stages.paint.state import PaintState

MOST_EXACT = 64  # changed chunks in which is looked for the very cells
MOST_IN_STRIP, MOST_LAYERS = 200, 6  # things that are drawn at a time, and layers
AT_ONCE = 1500  # cells whose shapes are drawn in one go, as are those that a pan brings into sight;
MOST_SHAPED = 500  # of more so many at a time
REACH = 20  # screen px that a shape's marks reach beyond its edge: half its band, slanted


class KeptLayer:
    """A picture of a level that is kept for as long as `made_of`, things compared by identity, and `like`,
    compared by what they are, stay the same; where only tiles differ, or things, their part of it is drawn
    anew."""

    def __init__(self, state: PaintState, turns: Turns, opaque: bool) -> None:
        self.state, self._turns, self._opaque = state, turns, opaque
        self._level: Level | None = None
        self._made_of: tuple[object, ...] = ()
        self._like: tuple[object, ...] = ()
        self._go_on = later(state.desk, 0, lambda: state.desk.update(self._lacking()))

    @cached_property
    def picture(self) -> KeptPicture:
        """Made when it is first drawn, and gone with the Desk."""
        ground = self.state.look.colour("desk") if self._opaque else None
        return KeptPicture(self._draw, self._is_current, ground, self._turns, self.begin, self.strips)

    def paint(self, painter: QPainter, room: QRectF, level: Level, waits: bool = False) -> None:
        """Draw it inside `room`, screen px; what `waits` is not drawn anew where that takes long."""
        same, before = self._is_made_of_the_same(level), self._level
        self._level, self._made_of, self._like = level, self.made_of(level), self.like(level)
        stale: QRectF | None = None
        if same and before is not None:
            stale = self.changed(before, level)
        self.picture.bring(self._place(), stale, self.slides(level), waits)
        self.picture.paint(painter, room)
        if self.is_left:
            self._go_on.start()

    @property
    def is_left(self) -> bool:
        """Whether some of what is in sight is left for the next turns of the event loop."""
        return not self._lacking().isEmpty()

    def _lacking(self) -> QRect:
        """Around what is left to be drawn, screen px."""
        return self.picture.lacking(self.state.desk.room.toAlignedRect())

    def _place(self) -> Place:
        desk, view = self.state.desk, self.state.desk.view
        return Place(desk.room.toAlignedRect(), desk.devicePixelRatioF(), view.zoom, +view.offset)

    def _is_made_of_the_same(self, level: Level) -> bool:
        pairs = zip(self.made_of(level), self._made_of, strict=False)
        return bool(self._made_of) and all(a is b for a, b in pairs) and self.like(level) == self._like

    def _is_current(self, place: Place) -> bool:
        """Whether what it shows at a place is what the Desk shows now."""
        session, level = self.state.session, self._level
        if level is None or session.stage != "paint" or session.selection.level is not level:
            return False
        return place == self._place() and self._is_made_of_the_same(level)

    def around(self, cells: QRect) -> QRectF:
        """What cells cover of it, screen px."""
        if cells.isNull():
            return QRectF()
        level = self._level
        assert level is not None
        (cw, ch), reach = level.cell, REACH
        box = self.state.desk.view.rect(
            cells.x() * cw, cells.y() * ch, cells.width() * cw, cells.height() * ch
        )
        return box.adjusted(-reach, -reach, reach, reach)

    def changed(self, before: Level, level: Level) -> QRectF | None:
        """Where two versions of the level differ, screen px; None for everywhere."""
        return self.around(changed_cells(before, level))

    def begin(self) -> None:
        """In this turn of the window some of it is drawn, perhaps in several parts."""

    def strips(self, part: QRectF) -> int:
        """Into how many strips a part is cut so that none takes long."""
        return 1

    def made_of(self, level: Level) -> tuple[object, ...]:
        raise NotImplementedError

    def like(self, level: Level) -> tuple[object, ...]:
        raise NotImplementedError

    def slides(self, level: Level) -> bool:
        """Whether it is the same wherever it is moved to."""
        return True

    def _draw(self, painter: QPainter, part: QRectF) -> bool:
        """Whether all of it was drawn."""
        raise NotImplementedError


class LevelLayer(KeptLayer):
    """All that a level shows, on its ground."""

    def __init__(self, state: PaintState, turns: Turns) -> None:
        super().__init__(state, turns, True)
        self._theme = ""
        self._checker = checker(state.look)
        self._allowance = Allowance()
        self._before = self._placed = PlacedThings(state.session.project, (), None)

    def begin(self) -> None:
        self._allowance = Allowance()

    def made_of(self, level: Level) -> tuple[object, ...]:
        project = self.state.session.project
        return project.sheets, project.animations

    def like(self, level: Level) -> tuple[object, ...]:
        pen, figure = self.state.desk.level_painter, self.state.desk.level_painter.walker
        walker = None if figure is None else (figure.image.cacheKey(), figure.feet, figure.origin)
        layers = tuple(_but_tiles(layer) for layer in level.layers)
        rest = (level.id, level.bounds, level.cell, level.order, level.start, layers)
        return rest, walker, pen.alone, pen.picture, self.state.desk.images.ready, self.state.look.theme

    def changed(self, before: Level, level: Level) -> QRectF | None:
        """What moves with its layer is drawn elsewhere than where it lies."""
        tiles, box = super().changed(before, level), changed_box(self._before, self._placed)
        if box is None and tiles is not None and tiles.isEmpty():
            return tiles
        pairs = zip(before.layers, level.layers, strict=True)
        touched = level.layers if box is not None else [new for old, new in pairs if new is not old]
        if any(layer.keeps_up != (1, 1) or layer.offset != (0, 0) for layer in touched):
            return None
        if box is None or tiles is None:
            return tiles
        left, top, right, bottom = box
        if not all(map(math.isfinite, box)):
            return None
        moved = self.state.desk.view.rect(left, top, right - left, bottom - top)
        return tiles.united(moved.adjusted(-2, -2, 2, 2))

    def strips(self, part: QRectF) -> int:
        a, b = (self.state.desk.view.to_content(at) for at in (part.topLeft(), part.bottomRight()))
        seen = self._placed.within((a.x(), a.y(), b.x() - a.x(), b.y() - a.y()))
        level = self._level
        assert level is not None
        return 1 + len(seen) // MOST_IN_STRIP + len(level.layers) // MOST_LAYERS

    def slides(self, level: Level) -> bool:
        return all(layer.keeps_up == (1, 1) for layer in level.layers)

    def paint(self, painter: QPainter, room: QRectF, level: Level, waits: bool = False) -> None:
        theme, pen = self.state.look.theme, self.state.desk.level_painter
        self._before, self._placed = self._placed, placed_things(self.state.session.project, level)
        if theme != self._theme:
            self._theme, self._checker = theme, checker(self.state.look)
            self.picture.ground = self.state.look.colour("desk")
        ratio = self.state.desk.devicePixelRatioF()
        if pen.moves(self.state.session.project, level) or ratio != round(ratio):
            self._level = level
            self.picture.forget()
            self.begin()
            painter.save()
            if not self._draw(painter, room):
                QTimer.singleShot(0, self.state.desk.update)
            painter.restore()
            return
        super().paint(painter, room, level, waits)

    def _draw(self, painter: QPainter, part: QRectF) -> bool:
        desk, view, level = self.state.desk, self.state.desk.view, self._level
        assert level is not None
        ground = view.rect(*self.state.content().getRect())
        painter.setClipRect(ground.intersected(part), Qt.ClipOperation.IntersectClip)
        painter.setBrushOrigin(ground.topLeft())
        painter.fillRect(ground.intersected(part), self._checker)
        onto = Onto(painter, view, part, desk.room.center())  # what is far moves with the middle
        desk.level_painter.paint(onto, self.state.session.project, level, self._allowance)
        return not desk.level_painter.unfinished


class ShapeLayer(KeptLayer):
    """The shapes of its tiles."""

    def __init__(self, state: PaintState, turns: Turns) -> None:
        super().__init__(state, turns, False)

    def made_of(self, level: Level) -> tuple[object, ...]:
        return (self.state.session.project.sheets,)

    def like(self, level: Level) -> tuple[object, ...]:
        tiles = (x.collides if isinstance(x, TileLayer) else None for x in level.layers)
        shown = tuple((x.id, x.shown, x.offset) for x in level.layers)
        return level.id, shown, tuple(tiles), self.state.look.theme

    def strips(self, part: QRectF) -> int:
        level = self._level
        assert level is not None
        (cw, ch), zoom = level.cell, self.state.desk.view.zoom
        cells = int(part.width() * part.height() / (cw * ch * zoom * zoom))
        return 1 + cells // MOST_SHAPED if cells > AT_ONCE else 1

    def _draw(self, painter: QPainter, part: QRectF) -> bool:
        view, level = self.state.desk.view, self._level
        assert level is not None
        wide = part.adjusted(-REACH, -REACH, REACH, REACH)
        a, b = view.to_content(wide.topLeft()), view.to_content(wide.bottomRight())
        placed = placed_shapes(level, self.state.session.cells_by_id, (a.x(), a.y(), b.x(), b.y()))
        self.state.marks.paint_merged(painter, view, placed)
        return True


_last: list[tuple[Level, Level, QRect]] = []  # several ask one after another for the same two versions


def changed_cells(old: Level, new: Level) -> QRect:
    """The cells in which the tiles of two versions of a level differ that have the same layers."""
    if not _last or _last[0][0] is not old or _last[0][1] is not new:
        _last[:] = [(old, new, _changed_cells(old, new))]
    return QRect(_last[0][2])


def _changed_cells(old: Level, new: Level) -> QRect:
    boxes = QRect()
    for one, two in zip(old.layers, new.layers, strict=True):
        if one is not two and isinstance(one, TileLayer) and isinstance(two, TileLayer):
            changed = list(changed_chunks(one.tiles, two.tiles))
            exact = len(changed) <= MOST_EXACT
            for cx, cy in changed:
                whole = QRect(cx * CHUNK, cy * CHUNK, CHUNK, CHUNK)
                boxes = boxes.united(_changed_box(one, two, cx, cy) if exact else whole)
    return boxes


def drawn_alike(one: TileLayer, two: TileLayer) -> bool:
    """Whether two versions of a layer are drawn alike but for their tiles."""
    return _but_tiles(one) == _but_tiles(two)


def _but_tiles(layer: object) -> tuple[object, ...]:
    """What a layer is drawn by, but for its tiles."""
    fields = layer.__struct_fields__  # type: ignore[attr-defined]
    return (type(layer), *(getattr(layer, f) for f in fields if f not in ("name", "locked", "tiles")))


def _changed_box(one: TileLayer, two: TileLayer, cx: int, cy: int) -> QRect:
    """The cells of one chunk in which two versions of a layer differ."""
    p, q = chunk_at(one.tiles, cx, cy), chunk_at(two.tiles, cx, cy)
    empty = np.zeros((CHUNK, CHUNK), np.uint32)
    ys, xs = np.nonzero((p.cells if p else empty) != (q.cells if q else empty))
    if not xs.size:
        return QRect()
    left, top = int(xs.min()), int(ys.min())
    return QRect(cx * CHUNK + left, cy * CHUNK + top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)
