"""The Card of Tune for units and pivots."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QGridLayout, QWidget

from rushweed.core.document.model.project import Project
from rushweed.core.level.edit import sheets_used
from rushweed.core.tune.edit import (
    PLACES,
    differing_stands,
    pivot_drift,
    pivots_from_feet,
    place_name,
    set_pivot_px,
    set_pivot_share,
    tune_sheets,
)
from rushweed.core.tune.units import fraction_text, plain, snap_step
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Rule, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import cell_title, many, shared
from rushweed.ui.session.beside import worked_out
from rushweed.ui.stages.places import PlaceBoard
from rushweed.ui.stages.tune.tuning import Tuning

AT_ONCE = 64  # cells whose feet are found without leaving the window's thread
SNAPS = {"px": 1.0, "half": 0.5}


class UnitsCard(Card):
    def __init__(self, context: Context, tuning: Tuning) -> None:
        super().__init__(context.look, "Card")
        self.session, self.tuning = context.session, tuning
        self.add(label("Units", "head"))
        self._facts = {}
        for words in ("Sheet", "Cell", "Snap step"):
            value = label("", "value")
            self.field(words, value)
            self._facts[words] = value
        self.others = label("", "quiet")
        self.others.setWordWrap(True)
        self.add(self.others)
        self.add(Rule(self.look))
        self.snap = ChoiceRow(self.look, [("px", "px"), ("half", "½ px")])
        self.snap.setToolTip("Where the plumb mark stops while it is dragged")
        head = QWidget()
        head.setLayout(row(label("Pivot", "head"), None, label("snaps to", "quiet"), self.snap))
        self.add(head)
        self.board = PlaceBoard(self.look)
        self.board.edited.connect(self.place)
        self.px = [NumbersField(1, "px", Numbers(-65536, 65536, False), self.look) for _ in range(2)]
        self.share = [NumbersField(1, "%", Numbers(-6400, 6400, False, 5, 2), self.look) for _ in range(2)]
        for way, px, share in zip(("across", "down"), self.px, self.share, strict=True):
            px.setAccessibleName(f"Pivot {way}, px")
            share.setAccessibleName(f"Pivot {way}, %")
        for axis in (0, 1):
            self.px[axis].edited.connect(lambda v, a=axis: self._set_px(a, v[0]))
            self.share[axis].edited.connect(lambda v, a=axis: self._set_share(a, v[0] / 100))
            for field in (self.px[axis], self.share[axis]):
                self.session.document.follow(field)
        board = QWidget()
        grid = QGridLayout(board)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.addWidget(self.board, 0, 0, 3, 1)
        for line, (words, fields) in enumerate((("", None), ("px", self.px), ("share", self.share))):
            grid.addWidget(label(words, "caption"), line, 1)
            for axis, name in ((0, "x"), (1, "y")):
                grid.addWidget(fields[axis] if fields else label(name, "caption"), line, 2 + axis)
        grid.setColumnStretch(2, 1)
        grid.setColumnStretch(3, 1)
        self.add(board)
        self.drift = label("", "text")
        self.field("Drift", self.drift)
        self.feet = button("From the feet")
        self.feet.setToolTip("Under the lowest ink of each cell, in its middle")
        self.feet.clicked.connect(self.from_feet)
        self.all = button("Like this in all cells")
        self.all.setToolTip("As a share of each cell's size")
        self.all.clicked.connect(self.give_all)
        holder = QWidget()
        holder.setLayout(row(self.feet, self.all, None))
        self.add(holder)
        self.end()

    def refresh(self) -> None:
        sheet, sheets, cells = (
            self.session.selection.sheet,
            self.session.selection.sheets,
            self.tuning.subject(),
        )
        stands = differing_stands(cells)
        self.setEnabled(sheet is not None)
        what, where = cell_title(sheet, self.session.selection.cells)
        sheet_words = f"{many(len(sheets), 'sheet')}, " if len(sheets) > 1 else ""
        all_words = "all cells" if sheet and sheet.cells and not self.session.selection.cells else what
        self.what.setText(sheet_words + all_words)
        self.where.setText(where)
        if sheet is not None:
            ppu, (w, h) = sheet.tune.ppu, sheet.source.size
            self._facts["Sheet"].setText(f"{w / ppu:.2f} × {h / ppu:.2f} u")
            sizes = {c.rect[2:] for c in stands}
            one = next(iter(sizes)) if len(sizes) == 1 else None
            text = (
                f"{one[0] / ppu:.2f} × {one[1] / ppu:.2f} u" if one else ("mixed" if sizes else "not cut yet")
            )
            self._facts["Cell"].setText(text)
            step = snap_step(ppu)
            self._facts["Snap step"].setText(f"{plain(step, 5)} u = {fraction_text(step)}")
        words = self._other_ppu()
        self.others.setText(words)
        self.others.setVisible(bool(words))
        for part in (self.board, self.feet):
            part.setEnabled(bool(cells))
        self.all.setEnabled(bool(self.session.selection.cells))
        names = {place_name(c) for c in stands}
        self.board.show_value(names.pop() if len(names) == 1 else None)
        for axis in (0, 1):
            for field in (self.px[axis], self.share[axis]):
                field.setEnabled(bool(cells))
            self.px[axis].show_value(shared([c.pivot[axis] for c in stands]) if cells else 0)
            shares = [round(c.pivot[axis] / c.rect[2 + axis] * 100, 2) for c in stands]
            self.share[axis].show_value(shared(shares) if cells else 0)
        dx, dy = pivot_drift(stands)
        steady = "none" if len(cells) > 1 else "select frames to compare"
        self.drift.setText(
            f"{plain(dx)}, {plain(dy)} px over {many(len(cells), 'cell')}" if dx or dy else steady
        )

    def _other_ppu(self) -> str:
        """A word of warning where the sheet is used together with sheets of other pixels per unit."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return ""
        for level in self.session.project.levels:
            used = sheets_used(self.session.project, level)
            for other in used if sheet in used else ():
                if other.tune.ppu != sheet.tune.ppu:
                    ppu = plain(other.tune.ppu, 3)
                    return f"{level.name} uses it beside {other.name}, which has {ppu} px a unit."
        return ""

    # -- editing ---------------------------------------------------------------------------------------

    def place(self, name: str) -> None:
        ids = [c.id for c in self.tuning.subject()]
        whole = not self.session.selection.cells
        sheets = list(self.session.selection.sheet_ids)

        def change(project: Project) -> Project:
            if whole:
                return tune_sheets(project, sheets, pivot=PLACES[name])
            return set_pivot_share(project, ids, PLACES[name])

        self.session.document.edit(f"Pivot of {many(len(ids), 'cell')} to {name}", change)

    def _set_px(self, axis: int, value: float) -> None:
        ids = [c.id for c in self.tuning.subject()]
        x, y = (value, None) if axis == 0 else (None, value)
        self.session.document.edit(
            f"Pivot of {many(len(ids), 'cell')}",
            lambda p: set_pivot_px(p, ids, x, y),
            ("pivot px", axis, tuple(ids)),
        )

    def _set_share(self, axis: int, share: float) -> None:
        ids = tuple(c.id for c in self.tuning.subject())
        pair = (share, None) if axis == 0 else (None, share)
        self.session.document.edit(
            f"Pivot of {many(len(ids), 'cell')}",
            lambda p: set_pivot_share(p, ids, pair),
            ("pivot share", axis, ids),
        )

    def from_feet(self) -> None:
        """Put the pivot of each cell under its feet."""
        cells = self.tuning.subject()
        pixels = {}
        for sheet in self.session.selection.sheets:
            rgba = self.session.stock.pixels_or_blank(sheet)
            for cell in sheet.cells:
                x, y, w, h = cell.rect
                pixels[cell.id] = rgba[y : y + h, x : x + w]
        mine = {c.id: pixels[c.id] for c in cells if c.id in pixels}
        words = f"Pivot of {many(len(mine), 'cell')} at the feet"
        make = partial(self.session.document.edit, words)
        worked_out(self.session, words, partial(pivots_from_feet, cells=mine), make, len(mine) > AT_ONCE)

    def give_all(self) -> None:
        """Put the pivot of the last selected cell, as a share, into every cell of the sheet."""
        cell, sheet = self.session.selection.cell, self.session.selection.sheet
        if cell is None or sheet is None:
            return
        share = (cell.pivot[0] / cell.rect[2], cell.pivot[1] / cell.rect[3])
        ids = [c.id for c in sheet.cells]
        self.session.document.edit(
            f"Pivot of {many(len(ids), 'cell')} like {cell.name}", lambda p: set_pivot_share(p, ids, share)
        )
