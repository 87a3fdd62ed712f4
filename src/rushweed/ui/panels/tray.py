"""The Tray: the tiles at hand, from any number of sheets, like a printer's type case."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QShowEvent, QWheelEvent
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.document.remembered import Remembered
from rushweed.core.level.levels import is_empty
from rushweed.core.level.losses import tiles_by_cell
from rushweed.core.level.stamp import Stamp, from_grid
from rushweed.ui.desk.images import SheetImages, checker
from rushweed.ui.desk.level_paint import draw_cell
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import Chip, IconButton, elided, emptied, label, plain_tip
from rushweed.ui.kit.fields import ChoiceRow, TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.kept_case import KeptCase
from rushweed.ui.panels.sheet_case import SheetCase, commonest_size
from rushweed.ui.session import Session

TILE, GAP, CAPTION = 32, 2, 16
MOST_OTHERS = 2  # sheets of other sizes that are offered
ROOM_FOR_WORDS, ROOM_FOR_CHIPS, ROOM_TO_FIND = 1000, 760, 480  # px


tile_counts: Remembered[Level, dict[str, int]] = Remembered(tiles_by_cell, 8)


class Group(NamedTuple):
    """Tiles of one kind, in a block `rows` high."""

    name: str
    tiles: list[tuple[Sheet, Cell]]
    sets: tuple[str, ...] = ()  # ids, where the tiles stand for auto-tile sets


@lru_cache(maxsize=65_536)
def kind_of(name: str) -> str:
    """What a tile is, from its name: the part before the first number or underscore."""
    return re.split(r"[_\d]", name, maxsplit=1)[0] or name


def groups_of(tiles: list[tuple[Sheet, Cell]]) -> list[Group]:
    """Tiles of one kind side by side, in the order in which the kinds first come; lone ones together."""
    kinds: dict[str, list[tuple[Sheet, Cell]]] = {}
    for sheet, cell in tiles:
        kinds.setdefault(kind_of(cell.name), []).append((sheet, cell))
    big = [Group(name, members) for name, members in kinds.items() if len(members) > 1]
    lone = [members[0] for members in kinds.values() if len(members) == 1]
    return [*big, Group("others", lone)] if lone else big


class Case(Keyed):
    """The compartments. Pressing takes one tile, dragging within a compartment takes many."""

    def __init__(self, look: Look, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session, self.images = look, session, images
        self.groups: list[Group] = []
        self._chosen: tuple[int, QRect] | None = None  # group, columns and rows within it
        self._start: tuple[int, QPoint] | None = None
        self._made: Stamp | None = None
        self._scroll = 0.0
        self._hover: tuple[int, int, int] | None = None
        self._checker = checker(look)
        self.setMouseTracking(True)
        self.setMinimumHeight(CAPTION + TILE + 16)
        self.set_keyed("Tiles")

    def spots(self) -> list[Spot]:
        made, step = [], TILE + GAP
        for group, left in zip(self.groups, self._lefts(), strict=False):
            columns = self._columns(group)
            for index, (_sheet, cell) in enumerate(group.tiles):
                x, y = left - self._scroll + index % columns * step, CAPTION + index // columns * step
                made.append(Spot(QRectF(x, y, TILE, TILE), f"{cell.name}, {group.name}"))
        return made

    def bring_spot(self, box: QRectF) -> None:
        self._scroll += min(box.left() - 8, 0) + max(box.right() + 8 - self.width(), 0)
        self._clamp()
        self.update()

    def show_tiles(self, tiles: list[tuple[Sheet, Cell]], auto: Group | None = None) -> None:
        groups = groups_of(tiles)
        if auto is not None and auto.tiles:
            groups.insert(0, auto)
        if groups != self.groups:
            self.groups = groups
            self._chosen = None
            self._clamp()
        self.update()

    @property
    def lines(self) -> int:
        return max((self.height() - CAPTION - 7) // (TILE + GAP), 1)

    def _columns(self, group: Group) -> int:
        return -(-len(group.tiles) // self.lines)

    def _lefts(self) -> list[float]:
        x = 8.0
        lefts: list[float] = []
        for group in self.groups:
            lefts.append(x)
            x += self._columns(group) * (TILE + GAP) + 8
        lefts.append(x)
        return lefts

    def _clamp(self) -> None:
        self._scroll = min(max(self._scroll, 0), max(self._lefts()[-1] - self.width(), 0))

    def _spot(self, x: float, y: float) -> tuple[int, int, int] | None:
        """Group, column and row under a point."""
        lefts = self._lefts()
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
            self.setToolTip(plain_tip(f"{tile[1].name}\n{tile[0].name}{self._used(tile[1])}") if tile else "")
            self.update()

    def _used(self, cell: Cell) -> str:
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
        self._chosen = (group, box)
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
        if self._chosen is not None and self.session.selection.stamp is not self._made:
            self._chosen = None
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
        lefts = self._lefts()
        for i, group in enumerate(self.groups):
            left, columns = lefts[i] - self._scroll, self._columns(group)
            wide = columns * (TILE + GAP)
            if left > self.width() or left + wide < 0:
                continue
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            caption = QRectF(left, 0, wide + 4, CAPTION)
            painter.drawText(caption, Qt.AlignmentFlag.AlignVCenter, elided(painter, group.name, wide + 4))
            first = max(int(-left // (TILE + GAP)), 0)
            last = min(int((self.width() - left) // (TILE + GAP)) + 1, columns)
            seen = (n for n in range(len(group.tiles)) if first <= n % columns < last)
            for index in seen:
                sheet, cell = group.tiles[index]
                x = left + index % columns * (TILE + GAP)
                y = CAPTION + index // columns * (TILE + GAP)
                box = QRectF(x, y, TILE, TILE)
                painter.setBrushOrigin(box.topLeft())
                painter.fillRect(box, self._checker)
                draw_cell(painter, box, self.images.image(sheet), cell)
                if group.sets:
                    self._joined_mark(painter, box)
            if self._hover is not None and self._hover[0] == i and self._tile(*self._hover):
                self._mark(painter, left, QRect(self._hover[1], self._hover[2], 1, 1), "straw")
            if self._chosen is not None and self._chosen[0] == i:
                self._mark(painter, left, self._chosen[1], "rust")
        total = lefts[-1]
        if total > self.width():
            room = self.width() - 16
            mark = max(room * self.width() / total, 24)
            painter.fillRect(QRectF(8, self.height() - 5, room, 1), look.colour("rule"))
            start = 8 + self._scroll / total * room
            painter.fillRect(QRectF(start, self.height() - 6, mark, 3), look.colour("reed"))

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


class Tray(QWidget):
    """Head with the sheets to show and a field to find a tile, then the case."""

    wants_other_side = pyqtSignal()
    wants_level = pyqtSignal()  # of the cell size of the sheet shown

    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.look, self.session = look, session
        self._hidden: set[str] = set()
        self._shown: tuple[object, ...] | None = None
        self._what = label("", "quiet")
        self._chips = QHBoxLayout()
        self._chips.setSpacing(6)
        self._key: object = None
        self._find = TextField("Find a tile")
        self._find.setFixedWidth(120)
        self._find.textChanged.connect(lambda _t: self.refresh())
        self.way = ChoiceRow(look, [("kind", "Kinds"), ("sheet", "Sheets"), ("kept", "Kept")])
        self.way.setAccessibleName("What the Tray shows")
        self._find.setAccessibleName("Find a tile")
        self.way.setToolTip("Tiles by kind, as the artist laid them out, or the stamps that are kept")
        self.way.edited.connect(self.show_way)
        self._larger = IconButton(look, icons, "plus", "Larger  (Ctrl and the wheel)", px=13)
        self._smaller = IconButton(look, icons, "minus", "Smaller", px=13)
        self._larger.pressed.connect(lambda: self.sheets.zoom_by(1))
        self._smaller.pressed.connect(lambda: self.sheets.zoom_by(-1))
        self.aside = IconButton(look, icons, "columns", "Put the Tray at the right, or below", px=15)
        self.aside.pressed.connect(self.wants_other_side)
        self._head = QWidget()
        self._head.setFixedHeight(28)
        self._head.setMinimumWidth(1)
        self._head.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        line = QHBoxLayout(self._head)
        line.setContentsMargins(8, 2, 8, 2)
        line.setSpacing(8)
        for part in (label("Tray", "head"), self.way, self._what):
            line.addWidget(part)
        line.addLayout(self._chips)
        line.addStretch(1)
        for tool in (self._smaller, self._larger, self._find, self.aside):
            line.addWidget(tool)
        self.case = Case(look, session, images)
        self.sheets, self.kept = SheetCase(look, session, images), KeptCase(look, session)
        self._cases = QStackedWidget()
        for case in (self.case, self.sheets, self.kept):
            self._cases.addWidget(case)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._head)
        box.addWidget(self._cases, 1)
        session.document.changed.connect(lambda _o, _n: self.refresh())
        session.selection.focused.connect(self.refresh)
        session.selection.focused.connect(self.case.follow)
        session.selection.focused.connect(self.sheets.pictures.follow)
        self.show_way("kind")

    def show_way(self, way: str) -> None:
        """The tiles by kind, as on their sheets, or the kept stamps."""
        self.way.show_value(way)
        self._cases.setCurrentIndex(("kind", "sheet", "kept").index(way))
        for part in (self._larger, self._smaller):
            part.setVisible(way == "sheet")
        self._shown = None
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Where there is no room, the chips of the sheets and the word on what is shown give way."""
        self._what.setVisible(self.width() > ROOM_FOR_WORDS)
        self._show_chips_if_room()
        self._find.setVisible(self.width() > ROOM_TO_FIND)

    def _show_chips_if_room(self) -> None:
        for n in range(self._chips.count()):
            item = self._chips.itemAt(n)
            chip = item.widget() if item is not None else None
            if chip is not None:
                chip.setVisible(self.width() > ROOM_FOR_CHIPS)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show the tiles there are, if anybody sees them."""
        if not self.isVisible():
            return
        level = self.session.selection.level
        size = level.cell if level is not None and not is_empty(level) else None  # an empty one takes any
        self.kept.stamps.refresh()
        shown = (
            self.session.project.sheets,
            self.session.project.autosets,
            size,
            frozenset(self._hidden),
            self._find.text(),
        )
        if self._shown is not None and all(a is b or a == b for a, b in zip(shown, self._shown, strict=True)):
            return
        self._shown = shown
        project = self.session.project
        sheets = [s for s in project.sheets if any(size in (None, c.rect[2:]) for c in s.cells)]
        sheets = [s for s in sheets if len(s.cells) > 1 or size is not None]
        others = [s for s in project.sheets if len(s.cells) > 1 and s not in sheets] if size else []
        key = (tuple((s.id, s.name) for s in (*sheets, *others)), frozenset(self._hidden), size)
        if key != self._key:
            self._key = key
            self._show_chips(sheets, others)
        words = self._find.text().casefold()
        tiles = [(s, c) for s in sheets if s.id not in self._hidden for c in s.cells]
        if size is not None:
            tiles = [(s, c) for s, c in tiles if c.rect[2:] == size]
        if words:
            tiles = [(s, c) for s, c in tiles if words in c.name.casefold()]
        self._what.setText(f"{many(len(tiles), 'tile')} of {many(len(sheets) - len(self._hidden), 'sheet')}")
        self.case.show_tiles(tiles, self._auto(size, words))
        if self.way.value == "sheet":
            visible = [s for s in sheets if s.id not in self._hidden]
            found = frozenset(c.id for _s, c in tiles) if words else frozenset()
            self.sheets.show_sheets(visible, size, found)

    def _auto(self, size: tuple[int, int] | None, words: str) -> Group:
        """The auto-tile sets of this cell size, each by its tile that joins most."""
        cells = self.session.cells_by_id
        tiles, ids = [], []
        for autoset in self.session.project.autosets:
            parts = sorted(autoset.tiles, key=lambda p: -p.joins.bit_count())
            found = next((cells[p.cell] for p in parts if p.cell in cells), None)
            if found is not None and size in (None, found[1].rect[2:]) and words in autoset.name.casefold():
                tiles.append(found)
                ids.append(autoset.id)
        return Group("auto-tile", tiles, tuple(ids))

    def _show_chips(self, sheets: list[Sheet], others: list[Sheet]) -> None:
        emptied(self._chips)
        for sheet in sheets[:6]:
            chip = Chip(self.look, sheet.name, "", sheet.id not in self._hidden, "Show or hide its tiles")
            chip.pressed.connect(lambda i=sheet.id: self._toggle(i))
            self._chips.addWidget(chip)
        for sheet in others[:MOST_OTHERS]:
            words = "{} × {}".format(*commonest_size(sheet))
            chip = Chip(self.look, sheet.name, words, False, "Its tiles have another size: press to be asked")
            chip.pressed.connect(lambda one=sheet: self._ask(one))
            self._chips.addWidget(chip)
        self._show_chips_if_room()

    def _ask(self, sheet: Sheet) -> None:
        """Tiles of another size do not fit into the level: what then?"""
        level = self.session.selection.level
        if level is None:
            return
        wide, high = commonest_size(sheet)
        cells = "{} × {}".format(*level.cell)
        text = f"{sheet.name} has tiles of {wide} × {high} px, {level.name} cells of {cells}."
        self.session.ask(text, [("Make a level for them", lambda: self._make_level(sheet))], lambda: None)

    def _make_level(self, sheet: Sheet) -> None:
        self.session.selection.choose_sheet(sheet.id)
        self.wants_level.emit()

    def _toggle(self, sheet_id: str) -> None:
        self._hidden ^= {sheet_id}
        self.refresh()
