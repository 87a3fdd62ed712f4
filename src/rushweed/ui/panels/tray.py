"""The Tray: the tiles at hand, from any number of sheets, like a printer's type case."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.levels import is_empty
from rushweed.ui.desk.images import SheetImages
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Chip, IconButton, emptied, label
from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import Toggle, ToggleButton
from rushweed.ui.panels.kept_case import KeptCase
from rushweed.ui.panels.panel import Panel
from rushweed.ui.panels.sheet_case import SheetCase, commonest_size
from rushweed.ui.panels.tile_case import Case, TileGroup
from rushweed.ui.session import Session, later

MOST_OTHERS = 2  # sheets of other sizes that are offered
MANY, SHOWN_MS = 1000, 120  # cells that take so long to put in order that the stage is shown and drawn first
ROOM_FOR_WORDS, ROOM_FOR_ONE_LINE = 1000, 480  # px
MOST_CHIPS = 6  # sheets that have one each
FIND = 120  # px of the field to find a tile in


class Tray(Panel):
    """Head with the sheets to show and a field to find a tile, then the case."""

    topics = frozenset({"sheets", "autosets", "stamps", "levels", "selection"})

    wants_other_side = pyqtSignal()
    wants_level = pyqtSignal()  # of the cell size of the sheet shown

    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__(session)
        self.look = look
        self._hidden: set[str] = set()
        self._shown: tuple[object, ...] | None = None
        self._what = label("", "quiet")
        self.chips = QHBoxLayout()
        self.chips.setSpacing(6)
        self._key: object = None
        self._later = later(self, SHOWN_MS, self.refresh)
        self.find_field = TextField("Find a tile")
        self.find_field.setFixedWidth(FIND)
        self.find_field.textChanged.connect(lambda _t: self.refresh())
        self.way = ChoiceRow(look, [("kind", "Kinds"), ("sheet", "Sheets"), ("kept", "Kept")])
        self.way.setAccessibleName("What the Tray shows")
        self.find_field.setAccessibleName("Find a tile")
        self.way.setToolTip("Tiles by kind, as the artist laid them out, or the stamps that are kept")
        self.way.edited.connect(self.show_way)
        self._larger = IconButton(look, icons, "plus", "Larger  (Ctrl and the wheel)", px=13)
        self._smaller = IconButton(look, icons, "minus", "Smaller", px=13)
        self._larger.pressed.connect(lambda: self.sheets.zoom_by(1))
        self._smaller.pressed.connect(lambda: self.sheets.zoom_by(-1))
        self.aside = IconButton(look, icons, "columns", "Put the Tray at the right, or below", px=15)
        self.aside.pressed.connect(self.wants_other_side)
        self.which = ToggleButton(look, "Sheets", ())
        self.which.setToolTip("Show or hide the tiles of sheets")
        self.which.fill = self._toggles
        self._offered: list[Sheet] = []  # of the level's cell size, or of any
        self._others: list[Sheet] = []
        self._head, line = _line()
        self._name = label("Tray", "head")
        for part in (self._name, self.way, self._what):
            line.addWidget(part)
        line.addLayout(self.chips)
        line.addStretch(1)
        for tool in (self.which, self._smaller, self._larger, self.find_field, self.aside):
            line.addWidget(tool)
        self.second_line, _rest = _line()  # where there is no room in the first
        self.second_line.hide()
        self.case = Case(look, session, images)
        self.sheets, self.kept = SheetCase(look, session, images), KeptCase(look, session)
        self._cases = QStackedWidget()
        for case in (self.case, self.sheets, self.kept):
            self._cases.addWidget(case)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self._head)
        box.addWidget(self.second_line)
        box.addWidget(self._cases, 1)
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
        """Where there is no room, the word on what is shown gives way, a list takes the place of the chips,
        and a narrow Tray has a second line."""
        self._what.setVisible(self.width() > ROOM_FOR_WORDS)
        narrow = self.width() < ROOM_FOR_ONE_LINE
        if narrow != self.second_line.isVisibleTo(self):
            self.second_line.setVisible(narrow)
            first, second = self._head.layout(), self.second_line.layout()
            assert isinstance(first, QHBoxLayout) and isinstance(second, QHBoxLayout)
            if narrow:
                second.addWidget(self.which)
                second.addWidget(self.find_field, 1)
            else:
                first.insertWidget(first.indexOf(self._smaller), self.which)
                first.insertWidget(first.indexOf(self.aside), self.find_field)
            self.find_field.setMinimumWidth(FIND)
            self.find_field.setMaximumWidth(4 * FIND if narrow else FIND)
        self._show_chips_if_room()

    def _show_chips_if_room(self) -> None:
        items = (self.chips.itemAt(n) for n in range(self.chips.count()))
        chips = [chip for item in items if item is not None and (chip := item.widget()) is not None]
        others = (self._name, self.way, self._what, self._smaller, self._larger, self.aside)
        taken = sum(one.sizeHint().width() + 8 for one in others if one.isVisibleTo(self)) + FIND + 16
        wanted = sum(chip.minimumSizeHint().width() + 6 for chip in chips)
        fits = len(self._offered) <= MOST_CHIPS and taken + wanted <= self.width()
        for chip in chips:
            chip.setVisible(fits)
        self.which.setVisible(not fits and len(self._offered) + len(self._others) > 1)

    def come_into_sight(self) -> None:
        if len(self.session.cells_by_id) > MANY:
            self._later.start()
        else:
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
            self.find_field.text(),
        )
        if self._shown is not None and all(a is b or a == b for a, b in zip(shown, self._shown, strict=True)):
            return
        self._shown = shown
        project = self.session.project
        sheets = [s for s in project.sheets if any(size in (None, c.rect[2:]) for c in s.cells)]
        sheets = [s for s in sheets if len(s.cells) > 1 or size is not None]
        fitting = {s.id for s in sheets}
        others = [s for s in project.sheets if len(s.cells) > 1 and s.id not in fitting] if size else []
        key = (tuple((s.id, s.name) for s in (*sheets, *others)), frozenset(self._hidden), size)
        if key != self._key:
            self._key = key
            self._show_chips(sheets, others)
        words = self.find_field.text().casefold()
        tiles = [
            (s, c)
            for s in sheets
            if s.id not in self._hidden
            for c in s.cells
            if size is None or c.rect[2:] == size
        ]
        if words:
            tiles = [(s, c) for s, c in tiles if words in c.name.casefold()]
        self._what.setText(f"{many(len(tiles), 'tile')} of {many(len(sheets) - len(self._hidden), 'sheet')}")
        self.case.show_tiles(tiles, self._auto(size, words))
        if self.way.value == "sheet":
            visible = [s for s in sheets if s.id not in self._hidden]
            found = frozenset(c.id for _s, c in tiles) if words else frozenset()
            self.sheets.show_sheets(visible, size, found)

    def _auto(self, size: tuple[int, int] | None, words: str) -> TileGroup:
        """The auto-tile sets of this cell size, each by its tile that joins most."""
        cells = self.session.cells_by_id
        tiles, ids = [], []
        for autoset in self.session.project.autosets:
            parts = sorted(autoset.tiles, key=lambda p: -p.joins.bit_count())
            found = next((cells[p.cell] for p in parts if p.cell in cells), None)
            if found is not None and size in (None, found[1].rect[2:]) and words in autoset.name.casefold():
                tiles.append(found)
                ids.append(autoset.id)
        return TileGroup("auto-tile", tiles, tuple(ids))

    def _show_chips(self, sheets: list[Sheet], others: list[Sheet]) -> None:
        emptied(self.chips)
        self._offered, self._others = sheets, others
        shown = sum(sheet.id not in self._hidden for sheet in sheets)
        self.which.show_words(f"{shown} of {many(len(sheets), 'sheet')}")
        for sheet in sheets[:MOST_CHIPS]:
            chip = Chip(self.look, sheet.name, "", sheet.id not in self._hidden, "Show or hide its tiles")
            chip.pressed.connect(lambda i=sheet.id: self.toggle_sheet(i))
            self.chips.addWidget(chip)
        for sheet in others[:MOST_OTHERS]:
            words = "{} × {}".format(*commonest_size(sheet))
            chip = Chip(self.look, sheet.name, words, False, "Its tiles have another size: press to be asked")
            chip.pressed.connect(lambda one=sheet: self._ask(one))
            self.chips.addWidget(chip)
        self._show_chips_if_room()

    def _toggles(self) -> list[Toggle]:
        """Each sheet to show or hide, and those of another size, which are asked about."""
        made = []
        for sheet in self._offered:
            made.append(Toggle(sheet.name, sheet.id not in self._hidden))
            made[-1].edited.connect(lambda _on, one=sheet: self.toggle_sheet(one.id))
        for sheet in self._others:
            made.append(Toggle("{}  {} × {} px".format(sheet.name, *commonest_size(sheet))))
            made[-1].edited.connect(lambda _on, one=sheet: self._ask(one))
        return made

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

    def toggle_sheet(self, sheet_id: str) -> None:
        self._hidden ^= {sheet_id}
        self.refresh()


def _line() -> tuple[QWidget, QHBoxLayout]:
    """A line of the head."""
    held = QWidget()
    held.setFixedHeight(28)
    held.setMinimumWidth(1)
    held.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    line = QHBoxLayout(held)
    line.setContentsMargins(8, 2, 8, 2)
    line.setSpacing(8)
    return held, line
