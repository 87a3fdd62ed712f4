"""Cut: the grid of a sheet, live while its numbers change; cells kept out or in by hand."""

from __future__ import annotations

from functools import partial

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QHBoxLayout, QLayout, QWidget

from rushweed.core.cut.edit import cut_sheet, leave_out, remove_cells, spots_of
from rushweed.core.cut.grid import even_cut, grid_of
from rushweed.core.cut.propose import Proposal
from rushweed.core.cut.take import Choices, choices
from rushweed.core.document.edit import rename_cell
from rushweed.core.document.model import Cell, CountCut, Cut, GridCut, PiecesCut, Project, Sheet
from rushweed.core.level.edit import cells_used
from rushweed.core.tune.edit import PLACES, place_name, set_pivot_share
from rushweed.ui.actions import Command
from rushweed.ui.controls import Check, Chip, Rule, emptied, label, row
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import crossings, paint_crosses
from rushweed.ui.fields import ChoiceRow, NumbersField, TextField
from rushweed.ui.stages.base import POINT, Card, SheetStage, Tool, cell_title, many, units
from rushweed.ui.stages.places import PlaceBox
from rushweed.ui.stages.repeats import Repeats
from rushweed.ui.work import Job


class CutStage(SheetStage):
    key, title = "cut", "Cut"
    tools = (
        POINT,
        Tool("out", "Leave out or keep", "x-square", "X", "Press a place of the grid to toggle it", 1),
    )

    def build(self) -> None:
        self._method = ChoiceRow(self.look, [("size", "Grid"), ("count", "Count"), ("pieces", "Pieces")])
        self._cell = NumbersField(2, least=1, most=16384, look=self.look)
        self._counts = NumbersField(2, unit="", least=1, most=4096, look=self.look)
        self._margin = NumbersField(2, most=4096, look=self.look)
        self._spacing = NumbersField(2, most=4096, look=self.look)
        self._join = NumbersField(1, least=0, most=256, look=self.look)
        self._least = NumbersField(1, least=1, most=4096, look=self.look)
        self._fit = ChoiceRow(self.look, [("tight", "Tight"), ("centre", "Centred"), ("feet", "On its feet")])
        self._fit.setToolTip("Tight boxes, or equal cells so that pivots do not wander")
        self._fit.edited.connect(lambda _v: self._apply())
        self._join.setToolTip("Parts at most this far apart are one piece")
        self._least.setToolTip("Pieces of fewer px are dropped")
        self._join.show_value(0)
        self._least.show_value(1)
        for field in (self._join, self._least):
            field.setFixedWidth(64)
            field.edited.connect(lambda _v: self._try())
            field.settled.connect(self._apply)
        self._empty = Check(self.look, self.icons, "Leave out empty")
        for field, wide in ((self._cell, 96), (self._counts, 80), (self._margin, 84), (self._spacing, 84)):
            field.setFixedWidth(wide)
            field.edited.connect(lambda _v: self._try())
            field.settled.connect(self._apply)
        self._cell.setToolTip("Size of a cell: width × height")
        self._counts.setToolTip("Columns × rows; the cell size comes out by division")
        self._margin.setToolTip("Px before the first cell: left × top")
        self._spacing.setToolTip("Px between cells: across × down")
        self._by_size, self._by_count = QWidget(), QWidget()
        self._by_size.setLayout(row(label("Cell"), self._cell))
        self._by_count.setLayout(row(label("Columns, rows"), self._counts))
        self._even, self._by_pieces = QWidget(), QWidget()
        room = row(label("Margin"), self._margin, label("Spacing"), self._spacing, self._empty)
        self._even.setLayout(room)
        least = row(
            label("Join within"), self._join, label("Drop under"), self._least, label("As"), self._fit
        )
        self._by_pieces.setLayout(least)
        self._method.edited.connect(self._method_chosen)
        self._empty.edited.connect(lambda _v: self._apply())
        self.option_line.setLayout(
            row(self._method, self._by_size, self._by_count, self._even, self._by_pieces, None)
        )  # fmt: skip
        self._build_proposals()
        self._build_card()
        self._proposals: dict[str, Choices] = {}
        self._asked: set[str] = set()
        self._entered = False

    def _build_proposals(self) -> None:
        self.proposal_line = QWidget()
        self._chips = QHBoxLayout(self.proposal_line)
        self._chips.setContentsMargins(8, 0, 8, 8)
        self._chips.setSpacing(8)
        self._chips.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        self._chip_key: object = None

    def _build_card(self) -> None:
        card = Card(self.look, "Card")
        self.card: Card = card
        self._name = TextField("name", mono=True)
        self._name.edited.connect(self._rename)
        card.field("Name", self._name)
        self._position, self._size, self._content = (label("", "value") for _ in range(3))
        card.field("Position", self._position)
        card.field("Size", self._size)
        card.field("Content", self._content)
        self._pivot = PlaceBox(self.look)
        self._pivot.picked.connect(self._set_pivot)
        card.field("Pivot", self._pivot)
        card.add(Rule(self.look))
        card.add(label("Grid", "head"))
        self._cells, self._left, self._left_out = (label("", "text") for _ in range(3))
        card.field("Cells", self._cells)
        card.field("Left over", self._left)
        card.field("Left out", self._left_out)
        card.add(Rule(self.look))
        card.add(label("Repeats", "head"))
        self._repeats = Repeats(self.look)
        card.add(self._repeats)
        card.add(Rule(self.look))
        card.add(label("Used by", "head"))
        self._used = label("", "quiet")
        self._used.setWordWrap(True)
        card.add(self._used)
        card.end()

    # -- showing ---------------------------------------------------------------------------------------

    def entered(self) -> None:
        self._entered = True
        self._ask()

    def _ask(self) -> None:
        """Work out proposals for the sheet shown, once."""
        sheet = self.session.sheet
        if sheet is None or sheet.source.sha256 in self._asked:
            return
        self._asked.add(sheet.source.sha256)

        def work(job: Job) -> Choices:
            return choices(self.session.stock.pixels(sheet))

        job = self.session.workshop.start("Proposing a grid", work)
        job.done.connect(lambda found, key=sheet.source.sha256: self._found(key, found))

    def _found(self, key: str, found: Choices) -> None:
        self._proposals[key] = found
        self._show_chips()

    def refresh(self) -> None:
        sheet = self.session.sheet
        if self.session.stage == "cut" and self._entered:
            self._ask()
        cut = sheet.cut if sheet else None
        self.option_line.setEnabled(sheet is not None)
        if isinstance(cut, PiecesCut):
            self._method.show_value("pieces")
            self._join.show_value(cut.join)
            self._least.show_value(cut.least)
            self._fit.show_value(cut.fit)
        elif cut is not None:
            self._method.show_value("count" if isinstance(cut, CountCut) else "size")
            self._margin.show_value(cut.margin)
            self._spacing.show_value(cut.spacing)
            self._empty.show_value(cut.leave_out_empty)
        else:
            self._empty.show_value(True)
            self._margin.show_value((0, 0))
            self._spacing.show_value((0, 0))
        self._show_method()
        if sheet is not None:
            grid = self.desk.sheet_painter.grid(sheet)
            self._cell.show_value(grid.cell if grid else (16, 16))
            self._counts.show_value((grid.columns, grid.rows) if grid else (1, 1))
        self._show_chips()
        self._show_card(sheet)

    def _show_chips(self) -> None:
        """The proposals for the sheet shown, best first; the pieces go first where no grid is likely."""
        sheet = self.session.sheet
        found = self._proposals.get(sheet.source.sha256) if sheet else None
        key = (sheet.source.sha256 if sheet else "", sheet.cut if sheet else None, found)
        if key == self._chip_key:
            return
        self._chip_key = key
        emptied(self._chips)
        looking = sheet is not None and found is None
        self._chips.addWidget(label("Looking for a grid ..." if looking else "Proposed", "quiet"))
        if sheet is not None and found is not None:
            chips = [self._grid_chip(sheet, p) for p in found.grids[:3]]
            if found.pieces > 1:
                chips.insert(0 if found.pieces_first else len(chips), self._pieces_chip(sheet, found))
            for chip in chips[:3] if len(chips) < 4 else [*chips[:2], chips[-1]]:
                self._chips.addWidget(chip)
            if not chips:
                self._chips.addWidget(label("nothing stands out: it may be one single picture", "quiet"))
        self._chips.addStretch(1)

    def _grid_chip(self, sheet: Sheet, proposal: Proposal) -> Chip:
        cut = proposal.cut()
        tip = f"{proposal.columns} × {proposal.rows} cells, {proposal.score:.0%} sure. Press to take it."
        chip = Chip(self.look, proposal.words(), proposal.evidence, self._same(sheet, cut), tip)
        chip.pressed.connect(partial(self.take, cut))
        chip.hovered.connect(lambda on: self._ghost(cut if on else None))
        return chip

    def _pieces_chip(self, sheet: Sheet, found: Choices) -> Chip:
        cut = PiecesCut(found.join)
        words = f"join within {found.join} px" if found.join else "each by itself"
        chosen = isinstance(sheet.cut, PiecesCut) and sheet.cut.join == found.join
        chip = Chip(self.look, f"{found.pieces} pieces", words, chosen, "Press to cut into free-form pieces")
        chip.pressed.connect(partial(self.take, cut))
        return chip

    def _show_method(self) -> None:
        method = self._method.value
        self._by_size.setVisible(method == "size")
        self._by_count.setVisible(method == "count")
        self._even.setVisible(method != "pieces")
        self._by_pieces.setVisible(method == "pieces")

    def _same(self, sheet: Sheet, cut: GridCut) -> bool:
        grid = self.desk.sheet_painter.grid(sheet)
        return grid is not None and (grid.cell, grid.margin, grid.spacing) == (
            cut.cell,
            cut.margin,
            cut.spacing,
        )

    def _ghost(self, cut: GridCut | None) -> None:
        """Show the marks of a proposal while the pointer is on its chip."""
        self._ghosted = cut
        self.desk.update()

    _ghosted: GridCut | None = None

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        if self._ghosted is None:
            return
        grid = grid_of(self._ghosted, sheet.source.size)
        points = crossings(grid, np.ones((grid.rows, grid.columns), bool))
        paint_crosses(painter, self.desk.view, room, points, self.look.colour("art_straw"))

    def _show_card(self, sheet: Sheet | None) -> None:
        card, cells = self.card, self.session.cells
        what, where = cell_title(sheet, cells)
        card.what.setText(what)
        card.where.setText(where)
        cell = self.session.cell if len(cells) == 1 else None
        self._name.setEnabled(cell is not None)
        self._name.show_value(cell.name if cell else "")
        self._name.setPlaceholderText("several" if len(cells) > 1 else "select a cell")
        ppu = sheet.tune.ppu if sheet else 1
        if cell is not None:
            x, y, w, h = cell.rect
            self._position.setText(f"{x}, {y} px  {units(x, ppu)}, {units(y, ppu)} u")
            self._size.setText(f"{w} × {h} px  {units(w, ppu)} × {units(h, ppu)} u")
            assert sheet is not None
            self._content.setText(self._content_words(sheet, cell) if self._entered else "")
        elif cells:
            sizes = {(c.rect[2], c.rect[3]) for c in cells}
            self._position.setText("several")
            w, h = next(iter(sizes))
            self._size.setText(f"{w} × {h} px" if len(sizes) == 1 else "mixed")
            self._content.setText("")
        else:
            for line in (self._position, self._size, self._content):
                line.setText("–")
        pixels = None
        if cell is not None and sheet is not None and self._entered:
            x, y, w, h = cell.rect
            pixels = self.session.stock.pixels_or_blank(sheet)[y : y + h, x : x + w]
        self._repeats.show_cell(pixels)
        self._pivot.setEnabled(bool(cells))
        names = {place_name(c) for c in cells}
        self._pivot.show_value(names.pop() if len(names) == 1 else None, mixed=len(names) > 0)
        self._show_grid(sheet)
        self._show_uses(cells)

    def _content_words(self, sheet: Sheet, cell: Cell) -> str:
        x, y, w, h = cell.rect
        alpha = self.session.stock.pixels_or_blank(sheet)[y : y + h, x : x + w, 3] > 0
        rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
        if not rows.size:
            return "empty"
        wide, high = int(columns[-1] - columns[0]) + 1, int(rows[-1] - rows[0]) + 1
        clear = [
            f"{n} px {side}" for n, side in (
                (int(columns[0]), "left"), (int(rows[0]), "above"),
                (w - 1 - int(columns[-1]), "right"), (h - 1 - int(rows[-1]), "below"),
            ) if n
        ]  # fmt: skip
        return f"{wide} × {high}" + (f", clear {clear[-1]}" if len(clear) == 1 else "")

    def _show_grid(self, sheet: Sheet | None) -> None:
        grid = self.desk.sheet_painter.grid(sheet) if sheet else None
        if sheet is None or grid is None:
            words = "not cut yet" if sheet else "–"
            if sheet is not None and sheet.cut is not None:
                words = many(len(sheet.cells), "piece")
            self._cells.setText(words)
            self._left.setText("–")
            self._left_out.setText("–")
            return
        total = grid.columns * grid.rows
        self._cells.setText(f"{grid.columns} × {grid.rows} places, {many(len(sheet.cells), 'cell')}")
        right, below = grid.left_over
        over = [f"{n} px {side}" for n, side in ((right, "right"), (below, "below")) if n]
        self._left.setText(", ".join(over) or "nothing")
        self._left_out.setText(
            many(total - len(sheet.cells), "place") if total > len(sheet.cells) else "none"
        )

    def _show_uses(self, cells: list[Cell]) -> None:
        ids = {c.id for c in cells}
        users = [v.name for v in self.session.project.levels if ids & set(cells_used(v))] if ids else []
        self._used.setText(", ".join(users) or ("no level" if cells else "select a cell to see who uses it"))

    # -- editing ---------------------------------------------------------------------------------------

    def _method_chosen(self, key: str) -> None:
        self._show_method()
        sheet = self.session.sheet
        found = self._proposals.get(sheet.source.sha256) if sheet else None
        if key == "pieces" and found is not None and not isinstance(self._before(), PiecesCut):
            self._join.show_value(found.join)
        if sheet is not None and (sheet.cut is not None or key == "pieces"):
            self._apply()

    def _typed(self) -> Cut | None:
        def two(field: NumbersField) -> tuple[int, int]:
            return int(field.values[0]), int(field.values[1])

        sheet = self.session.sheet
        if sheet is None:
            return None
        if self._method.value == "pieces":
            join, least = int(self._join.values[0]), int(self._least.values[0])
            return PiecesCut(join, least, self._fit.value or "tight")  # type: ignore[arg-type]
        old = self._before()
        places = {
            "margin": two(self._margin), "spacing": two(self._spacing), "leave_out_empty": self._empty.on,
        }  # fmt: skip
        if self._method.value == "count":
            columns, rows = two(self._counts)
            cut: Cut = CountCut(columns, rows, **places)  # type: ignore[arg-type]
            same = isinstance(old, CountCut) and (old.columns, old.rows) == (columns, rows)
        else:
            cut = GridCut(two(self._cell), **places)  # type: ignore[arg-type]
            same = isinstance(old, GridCut) and old.cell == cut.cell
        if same and isinstance(old, (GridCut, CountCut)):
            cut = replace(cut, left_out=old.left_out, kept=old.kept)
        return cut

    def _try(self) -> None:
        """Show the cut of the numbers as they stand; it is made when the field is left, so that a number
        half typed loses no cell."""
        cut = self._typed()
        if cut is not None:
            self.session.preview(partial(self._cut_all, cut=cut))

    def _apply(self) -> None:
        cut, sheet = self._typed(), self.session.sheet
        if cut is not None and sheet is not None and cut != self._before():
            self.take(cut)

    def _before(self) -> Cut | None:
        """The cut of the sheet without the preview."""
        sheets = self.session.history.project.sheets
        return next((s.cut for s in sheets if s.id == self.session.sheet_id), None)

    def _cut_all(self, project: Project, cut: Cut) -> Project:
        for sheet in self.session.sheets:
            project = cut_sheet(project, sheet.id, cut, self.session.stock.pixels(sheet))
        return project

    def take(self, cut: Cut) -> None:
        """Cut every sheet selected by this grid."""
        sheets = self.session.sheets
        self._ghosted = None
        names = sheets[0].name if len(sheets) == 1 else many(len(sheets), "sheet")
        self.session.edit(f"Cut {names}", partial(self._cut_all, cut=cut))

    def _rename(self, text: str) -> None:
        cell = self.session.cell
        if cell is not None:
            self.session.edit(f"Rename {cell.name}", lambda p: rename_cell(p, cell.id, text))
            self.refresh()

    def _set_pivot(self, name: str) -> None:
        ids = self.session.cell_ids
        self.session.edit(
            f"Pivot of {many(len(ids), 'cell')} to {name}", lambda p: set_pivot_share(p, ids, PLACES[name])
        )

    def press(self, at: DeskEvent) -> None:
        if self.tool == "out":
            self._toggle(at)
        else:
            super().press(at)

    def _toggle(self, at: DeskEvent) -> None:
        sheet = self.session.sheet
        grid = self.desk.sheet_painter.grid(sheet) if sheet else None
        if sheet is None or grid is None:
            return
        column = int((at.x - grid.margin[0]) // (grid.cell[0] + grid.spacing[0]))
        line = int((at.y - grid.margin[1]) // (grid.cell[1] + grid.spacing[1]))
        if 0 <= column < grid.columns and 0 <= line < grid.rows:
            rect = grid.rect(column, line)
            there = any(c.rect == rect for c in sheet.cells)
            self._leave([(column, line)], there)

    def _leave(self, spots: list[tuple[int, int]], out: bool) -> None:
        sheet = self.session.sheet
        if sheet is not None and spots:
            pixels = self.session.stock.pixels_or_blank(sheet)
            words = "Leave out" if out else "Keep"
            self.session.edit(
                f"{words} {many(len(spots), 'cell')}", lambda p: leave_out(p, sheet.id, spots, out, pixels)
            )

    def leave_out_selected(self) -> None:
        sheet, ids = self.session.sheet, self.session.cell_ids
        if sheet is None:
            return
        if even_cut(sheet) is not None:
            self._leave(spots_of(sheet, ids), True)
        else:
            self.session.edit(
                f"Leave out {many(len(ids), 'piece')}", lambda p: remove_cells(p, sheet.id, ids)
            )

    def commands(self) -> list[Command]:
        def chosen() -> str:
            return "" if self.session.cells else "No cell is selected."

        return [
            Command("cut.out", "Leave the selected cells out", ("Delete",), "They can be kept again with X.",
                    self.leave_out_selected, chosen, ("cut",), "Cut"),
            Command("cut.propose", "Cut by the first proposal", ("Ctrl+Return",),
                    "Take the grid that fits the pixels best.", self.take_first,
                    lambda: "" if self._first() else "No grid is proposed.", ("cut",), "Cut"),
        ]  # fmt: skip

    def _first(self) -> Cut | None:
        sheet = self.session.sheet
        found = self._proposals.get(sheet.source.sha256) if sheet else None
        return None if found is None else found.best

    def take_first(self) -> None:
        first = self._first()
        if first is not None:
            self.take(first)
