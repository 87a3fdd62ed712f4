"""The tiles of the Tray by kind, as in a type case."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from functools import lru_cache
from typing import NamedTuple

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.document.remembered import Remembered
from rushweed.core.level.losses import tiles_by_cell
from rushweed.core.level.stamp import Stamp, from_grid
from rushweed.ui.desk.images import SheetImages, checker
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import elided, plain_tip
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.tile_images import TileImages
from rushweed.ui.session import Session

TILE, GAP, CAPTION = 32, 2, 16
FIRST_NUMBER = re.compile(r"[_\d]")

tile_counts: Remembered[Level, dict[str, int]] = Remembered(tiles_by_cell, 8)


class TileGroup(NamedTuple):
    """Tiles of one kind, in a block `rows` high."""

    name: str
    tiles: list[tuple[Sheet, Cell]]
    sets: tuple[str, ...] = ()  # ids, where the tiles stand for auto-tile sets


@lru_cache(maxsize=65_536)
def kind_of(name: str) -> str:
    """What a tile is, from its name: the part before the first number or underscore."""
    return FIRST_NUMBER.split(name, 1)[0] or name


def groups_of(tiles: list[tuple[Sheet, Cell]]) -> list[TileGroup]:
    """Tiles of one kind side by side, in the order in which the kinds first come; lone ones together."""
    kinds: defaultdict[str, list[tuple[Sheet, Cell]]] = defaultdict(list)
    for tile, kind in zip(tiles, map(kind_of, [cell.name for _sheet, cell in tiles]), strict=True):
        kinds[kind].append(tile)
    big = [TileGroup(name, members) for name, members in kinds.items() if len(members) > 1]
    lone = [members[0] for members in kinds.values() if len(members) == 1]
    return [*big, TileGroup("others", lone)] if lone else big


class Case(Keyed):
    """The compartments. Pressing takes one tile, dragging within a compartment takes many."""

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session = look, session
        self.groups: list[TileGroup] = []
        self.chosen: tuple[int, QRect] | None = None  # group, columns and rows within it
        self._start: tuple[int, QPoint] | None = None
        self._made: Stamp | None = None
        self._scroll = 0.0
        self._hover: tuple[int, int, int] | None = None
        self._checker = checker(look)
        self._images = TileImages(session, images, self.update)
        self.setMouseTracking(True)
        self.setMinimumHeight(CAPTION + TILE + 16)
        self.set_keyed("Tiles")

    def spots(self) -> list[Spot]:
        made, step = [], TILE + GAP
        for group, left in zip(self.groups, self.lefts(), strict=False):
            columns = self._columns(group)
            for index, (_sheet, cell) in enumerate(group.tiles):
                x, y = left - self._scroll + index % columns * step, CAPTION + index // columns * step
                made.append(Spot(QRectF(x, y, TILE, TILE), f"{cell.name}, {group.name}"))
        return made

    def bring_spot(self, box: QRectF) -> None:
        self._scroll += min(box.left() - 8, 0) + max(box.right() + 8 - self.width(), 0)
        self._clamp()
        self.update()

    def show_tiles(self, tiles: list[tuple[Sheet, Cell]], auto: TileGroup | None = None) -> None:
        groups = groups_of(tiles)
        if auto is not None and auto.tiles:
            groups.insert(0, auto)
        if groups != self.groups:
            self.groups = groups
            self.chosen = None
            self._clamp()
        self.update()

    @property
    def lines(self) -> int:
        return max((self.height() - CAPTION - 7) // (TILE + GAP), 1)

    def _columns(self, group: TileGroup) -> int:
        return -(-len(group.tiles) // self.lines)

    def lefts(self) -> list[float]:
        x = 8.0
        lefts: list[float] = []
        for group in self.groups:
            lefts.append(x)
            x += self._columns(group) * (TILE + GAP) + 8
        lefts.append(x)
        return lefts

    def _clamp(self) -> None:
        self._scroll = min(max(self._scroll, 0), max(self.lefts()[-1] - self.width(), 0))

    def _spot(self, x: float, y: float) -> tuple[int, int, int] | None:
        """Group, column and row under a point."""
        lefts = self.lefts()
        x += self._scroll
        line = int((y - CAPTION) // (TILE + GAP))
        for i, group in enumerate(self.groups):
            column = int((x - lefts[i]) // (TILE + GAP))
            if x >= lefts[i] and 0 <= column < self._columns(group) and 0 <= line < self.lines:
                return i, column, line
        return None

    def _tile(self, group: int, column: int, line: int) -> tuple[Sheet, Cell] | None:
        """Compartments are read row by row."""
        index = line * self._columns(self.groups[group]) + column
        tiles = self.groups[group].tiles
        return tiles[index] if index < len(tiles) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        spot = self._spot(event.position().x(), event.position().y())
        if spot is not None and self._tile(*spot) is not None:
            self._start = (spot[0], QPoint(spot[1], spot[2]))
            self._choose(spot[0], QPoint(spot[1], spot[2]))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        spot = self._spot(event.position().x(), event.position().y())
        if self._start is not None and spot is not None and spot[0] == self._start[0]:
            self._choose(spot[0], QPoint(spot[1], spot[2]))
        if spot != self._hover:
            self._hover = spot
            tile = self._tile(*spot) if spot else None
            self.setToolTip(plain_tip(f"{tile[1].name}\n{tile[0].name}{self.used(tile[1])}") if tile else "")
            self.update()

    def used(self, cell: Cell) -> str:
        """How often a tile stands in the level."""
        level = self.session.selection.level
        number = tile_counts(level).get(cell.id, 0) if level is not None else 0
        return f"\n{number:,} in {level.name}" if level is not None and number else ""

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._start = None

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.update()

    def _choose(self, group: int, end: QPoint) -> None:
        assert self._start is not None
        sets = self.groups[group].sets
        if sets and self._tile(group, end.x(), end.y()) is None:
            return
        a, b = (end, end) if sets else (self._start[1], end)
        box = QRect(
            QPoint(min(a.x(), b.x()), min(a.y(), b.y())), QPoint(max(a.x(), b.x()), max(a.y(), b.y()))
        )
        self.chosen = (group, box)
        grid: list[list[str | None]] = []
        for line in range(box.top(), box.bottom() + 1):
            found = [self._tile(group, column, line) for column in range(box.left(), box.right() + 1)]
            grid.append([t[1].id if t else None for t in found])
        self._made = from_grid(grid)
        place = box.top() * self._columns(self.groups[group]) + box.left()
        self.session.selection.choose_stamp(self._made, sets[place] if place < len(sets) else "")
        self.update()

    def choose_cell(self, cell_id: str) -> None:
        """Take one tile by its cell."""
        for i, group in enumerate(self.groups):
            for index, (_sheet, cell) in enumerate(group.tiles):
                if cell.id == cell_id and not group.sets:
                    columns = self._columns(group)
                    spot = QPoint(index % columns, index // columns)
                    self._start = (i, spot)
                    self._choose(i, spot)
                    self._start = None
                    return

    def follow(self) -> None:
        """Mark no tile when the stamp in use came from elsewhere."""
        if self.chosen is not None and self.session.selection.stamp is not self._made:
            self.chosen = None
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turn = event.angleDelta()
        self._scroll -= turn.y() or turn.x()
        self._clamp()
        self.update()

    def resizeEvent(self, event: object) -> None:
        self._clamp()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        if not self.groups:
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            words = "No sheet has tiles of this level's cell size. Cut one, or make a level from its tiles."
            painter.drawText(QRectF(8, 0, self.width(), self.height()), Qt.AlignmentFlag.AlignVCenter, words)
            return
        lefts = self.lefts()
        in_view = list(self._in_view(lefts))
        self._images.begin_with(self.groups[i].tiles[n] for i, seen in in_view for n in seen)
        for i, seen in in_view:
            group, left, columns = self.groups[i], lefts[i] - self._scroll, self._columns(self.groups[i])
            wide = columns * (TILE + GAP)
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            caption = QRectF(left, 0, wide + 4, CAPTION)
            painter.drawText(caption, Qt.AlignmentFlag.AlignVCenter, elided(painter, group.name, wide + 4))
            for index in seen:
                sheet, cell = group.tiles[index]
                x = left + index % columns * (TILE + GAP)
                y = CAPTION + index // columns * (TILE + GAP)
                box = QRectF(x, y, TILE, TILE)
                painter.setBrushOrigin(box.topLeft())
                painter.fillRect(box, self._checker)
                image = self._images.image(sheet, cell)
                if image is not None:
                    painter.drawImage(box, image)
                if group.sets:
                    self._joined_mark(painter, box)
            if self._hover is not None and self._hover[0] == i and self._tile(*self._hover):
                self._mark(painter, left, QRect(self._hover[1], self._hover[2], 1, 1), "straw")
            if self.chosen is not None and self.chosen[0] == i:
                self._mark(painter, left, self.chosen[1], "rust")
        total = lefts[-1]
        if total > self.width():
            room = self.width() - 16
            mark = max(room * self.width() / total, 24)
            painter.fillRect(QRectF(8, self.height() - 5, room, 1), look.colour("rule"))
            start = 8 + self._scroll / total * room
            painter.fillRect(QRectF(start, self.height() - 6, mark, 3), look.colour("reed"))

    def _in_view(self, lefts: list[float]) -> Iterator[tuple[int, list[int]]]:
        """The groups that are seen, and which of their tiles."""
        step = TILE + GAP
        for i, group in enumerate(self.groups):
            left, columns = lefts[i] - self._scroll, self._columns(group)
            if left > self.width() or left + columns * step < 0:
                continue
            first = max(int(-left // step), 0)
            last = min(int((self.width() - left) // step) + 1, columns)
            rows = range(0, len(group.tiles), max(columns, 1))
            yield i, [n for row in rows for n in range(row + first, min(row + last, len(group.tiles)))]

    def _joined_mark(self, painter: QPainter, box: QRectF) -> None:
        """A little cross of spokes: this tile stands for a set that joins by itself."""
        look, at = self.look, box.bottomRight() - QPointF(8, 8)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for colour, wide in (("art_casing", 4.0), ("art_straw", 2.0)):
            painter.setPen(QPen(look.colour(colour), wide, cap=Qt.PenCapStyle.RoundCap))
            for dx, dy in ((5, 0), (-5, 0), (0, 5), (0, -5)):
                painter.drawLine(at, at + QPointF(dx, dy))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _mark(self, painter: QPainter, left: float, spots: QRect, role: str) -> None:
        step = TILE + GAP
        box = QRectF(
            left + spots.left() * step,
            CAPTION + spots.top() * step,
            spots.width() * step - GAP,
            spots.height() * step - GAP,
        )
        paint_corners(
            painter, box.adjusted(-1, -1, 1, 1), 11, self.look.colour(role), self.look.colour("paper")
        )
