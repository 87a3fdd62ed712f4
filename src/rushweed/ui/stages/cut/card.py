"""The Card of Cut: the selected cells in numbers, the grid, whether a tile repeats, who uses it."""

from __future__ import annotations

from functools import partial

import numpy as np
from PyQt6.QtWidgets import QWidget

from rushweed.core.cut import hand
from rushweed.core.cut.seam import seamless_within
from rushweed.core.document.edit import rename_cell
from rushweed.core.document.model.cut import GuidesCut
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.edit import cells_used
from rushweed.core.tune.edit import PLACES, differing_stands, place_name, set_pivot_share
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.controls import Rule, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.text import cell_title, many, shared, units
from rushweed.ui.session import later
from rushweed.ui.stages.cut.by_hand import ByHand
from rushweed.ui.stages.cut.proposals import CutProposals
from rushweed.ui.stages.cut.repeats import Repeats
from rushweed.ui.stages.places import PlaceBox

MOST_REPEATED = 512 * 512  # px of a cell up to which its edges are compared


class CutCard(Card):
    def __init__(self, context: Context, by_hand: ByHand, proposals: CutProposals) -> None:
        super().__init__(context.look, "Card")
        self.session, self.desk = context.session, context.desk
        self.by_hand, self.proposals = by_hand, proposals
        self._looked_at: np.ndarray | None = None  # the px of the one cell that is selected
        self._soon = later(self, 60, self._show_cure)
        self.name = TextField("name", mono=True)
        self.name.edited.connect(self._rename)
        self.field("Name", self.name)
        self.position = NumbersField(2, rule=Numbers(most=16384), look=self.look, between=", ")
        self.extent = NumbersField(2, rule=Numbers(1, 16384), look=self.look)
        self._in_units = [label("", "mono") for _ in range(2)]
        for words, field, beside, tip in (
            ("Position", self.position, self._in_units[0], "Left, top on the sheet"),
            ("Size", self.extent, self._in_units[1], "Width × height"),
        ):
            field.setFixedWidth(90)
            field.setToolTip(tip)
            field.edited.connect(lambda _v, field=field: self._set_rect(field))
            self.session.document.follow(field)
            self.field(words, field, beside)
        self._content = label("", "value")
        self.field("Content", self._content)
        self._pivot = PlaceBox(self.look)
        self._pivot.picked.connect(self._set_pivot)
        self.field("Pivot", self._pivot)
        self.add(Rule(self.look))
        self._head = label("Grid", "head")
        self.add(self._head)
        self._cells, self._left = label("", "text"), label("", "text")
        self.field("Cells", self._cells)
        self.field("Left over", self._left)
        self.add(Rule(self.look))
        self.add(label("Repeats", "head"))
        self.repeats = Repeats(self.look)
        self.add(self.repeats)
        self._add_edges()
        self.add(Rule(self.look))
        self.add(label("Used by", "head"))
        self._used = label("", "quiet")
        self._used.setWordWrap(True)
        self.add(self._used)
        self.end()

    def _add_edges(self) -> None:
        self.pull_in, self._push_out = button("Inset 1 px"), button("Outset 1 px")
        self.pull_in.setToolTip("Pull the edges of the cells in: on a grid of all, else of those selected")
        self._push_out.setToolTip("Push the edges of the cells out again")
        self.pull_in.clicked.connect(lambda: self.by_hand.pull_edges(1))
        self._push_out.clicked.connect(lambda: self.by_hand.pull_edges(-1))
        self._cure = label("", "caption")
        holder = QWidget()
        holder.setLayout(row(label("Edges"), self.pull_in, self._push_out, self._cure, None))
        self.add(holder)

    # -- showing -----------------------------------------------------------------------------------

    def _show_cure(self) -> None:
        """How far the edges would have to be pulled in; looked for a moment after the selection."""
        pixels = self._looked_at
        need = seamless_within(pixels) if pixels is not None and pixels.size else None
        self._cure.setText(f"{need} px would join it" if need else "")

    def show_sheet(self, sheet: Sheet | None) -> None:
        cells = self.session.selection.cells
        what, where = cell_title(sheet, cells)
        self.what.setText(what)
        self.where.setText(where)
        cell = self.session.selection.cell if len(cells) == 1 else None
        self.name.setEnabled(cell is not None)
        self.name.show_value(cell.name if cell else "")
        self.name.setPlaceholderText("several" if len(cells) > 1 else "select a cell")
        self._show_rects(sheet, cells)
        pixels = None
        if cell is not None and sheet is not None and self.proposals.looked_at:
            x, y, w, h = cell.rect
            pixels = self.session.stock.pixels_or_blank(sheet)[y : y + h, x : x + w]
        self._content.setText(_content_words(pixels) if pixels is not None else "–" if not cells else "")
        if pixels is not None and pixels.shape[0] * pixels.shape[1] > MOST_REPEATED:
            pixels = None  # nobody lays a whole picture as a tile
        self.repeats.show_cell(pixels)
        self._looked_at = pixels
        self._cure.setText("")
        self._soon.start()
        for press in (self.pull_in, self._push_out):
            press.setEnabled(bool(sheet and sheet.cells))
        self._pivot.setEnabled(bool(cells))
        places = {place_name(c) for c in differing_stands(cells)}
        mixed = len(places) > 1
        self._pivot.show_value(None if mixed else next(iter(places), None), mixed=mixed)
        self._show_grid(sheet)
        self._show_uses(cells)

    def _show_rects(self, sheet: Sheet | None, cells: list[Cell]) -> None:
        ppu = sheet.tune.ppu if sheet else 1
        for field, beside, at in ((self.position, self._in_units[0], 0), (self.extent, self._in_units[1], 2)):
            field.setEnabled(bool(cells))
            both = [shared([c.rect[at + axis] for c in cells]) for axis in (0, 1)]
            if not cells:
                field.show_value(None)
                field.setPlaceholderText("–")
                beside.setText("")
            elif both[0] is None or both[1] is None:
                field.show_value(None)
                beside.setText("")
            else:
                field.show_value((both[0], both[1]))
                mark = ", " if at == 0 else "×"
                beside.setText(f"{units(both[0], ppu)}{mark}{units(both[1], ppu)} u")

    def _show_grid(self, sheet: Sheet | None) -> None:
        grid = self.desk.sheet_painter.grid(sheet) if sheet else None
        self._head.setText("Grid" if grid else "Cut")
        if sheet is None or grid is None:
            words = "not cut yet" if sheet else "–"
            if sheet is not None and isinstance(sheet.cut, GuidesCut):
                words = _places(len(sheet.cut.columns) - 1, len(sheet.cut.rows) - 1, sheet)
            elif sheet is not None and sheet.cut is not None:
                words = many(len(sheet.cells), "cell")
            self._cells.setText(words)
            self._left.setText("–")
            return
        self._cells.setText(_places(grid.columns, grid.rows, sheet))
        right, below = grid.left_over
        over = [f"{n} px {side}" for n, side in ((right, "right"), (below, "below")) if n]
        self._left.setText(", ".join(over) or "nothing")

    def _show_uses(self, cells: list[Cell]) -> None:
        ids = {c.id for c in cells}
        users = [v.name for v in self.session.project.levels if ids & set(cells_used(v))] if ids else []
        self._used.setText(", ".join(users) or ("no level" if cells else "select a cell to see who uses it"))

    # -- editing -----------------------------------------------------------------------------------

    def _rename(self, text: str) -> None:
        cell = self.session.selection.cell
        if cell is not None:
            self.session.document.edit(f"Rename {cell.name}", lambda p: rename_cell(p, cell.id, text))
            self.show_sheet(self.session.selection.sheet)

    def _set_rect(self, field: NumbersField) -> None:
        """Give every selected cell the position or the size typed."""
        sheet, cells = self.session.selection.sheet, self.session.selection.cells
        if sheet is None or not cells:
            return
        a, b = (int(v) for v in field.values)
        sized = field is self.extent
        rects = {c.id: (c.rect[0], c.rect[1], a, b) if sized else (a, b, c.rect[2], c.rect[3]) for c in cells}
        words = f"{'Resize' if sized else 'Move'} {many(len(cells), 'cell')}"
        change = partial(hand.set_rects, sheet_id=sheet.id, rects=rects)
        self.session.document.edit(words, change, merge=("rect", sized, frozenset(rects)))

    def _set_pivot(self, name: str) -> None:
        ids = self.session.selection.cell_ids
        self.session.document.edit(
            f"Pivot of {many(len(ids), 'cell')} to {name}", lambda p: set_pivot_share(p, ids, PLACES[name])
        )


def _places(columns: int, rows: int, sheet: Sheet) -> str:
    out = columns * rows - len(sheet.cells)
    left_out = f", {out} left out" if out > 0 else ""
    return f"{columns} × {rows}, {many(len(sheet.cells), 'cell')}{left_out}"


def _content_words(pixels: np.ndarray) -> str:
    """The size of what a cell, uint8 (height, width, 4), holds, and where it is clear."""
    alpha = pixels[..., 3] > 0
    h, w = alpha.shape
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return "empty"
    wide, high = int(columns[-1] - columns[0]) + 1, int(rows[-1] - rows[0]) + 1
    clear = [
        f"{n} px {side}"
        for n, side in (
            (int(columns[0]), "left"), (int(rows[0]), "above"),
            (w - 1 - int(columns[-1]), "right"), (h - 1 - int(rows[-1]), "below"),
        )
        if n
    ]  # fmt: skip
    return f"{wide} × {high}" + (f", clear {clear[-1]}" if len(clear) == 1 else "")
