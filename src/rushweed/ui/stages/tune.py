"""Tune: pixels per unit, filter and pivots, for one sheet or many, with the result in the Proof."""

from __future__ import annotations

import math
from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QGridLayout, QWidget

from rushweed.core.document.model import Cell, Sheet
from rushweed.core.tune.edit import (
    PLACES,
    pivot_drift,
    place_name,
    set_pivot_px,
    set_pivot_share,
    tune_sheets,
)
from rushweed.core.tune.units import fraction_text, plain, snap_step
from rushweed.ui.actions import Command
from rushweed.ui.controls import Rule, button, label, row, tag
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import paint_plumb
from rushweed.ui.fields import ChoiceRow, NumbersField
from rushweed.ui.stages.base import POINT, Card, SheetStage, Tool, cell_title, many, shared
from rushweed.ui.stages.places import PlaceBoard

SNAPS = {"px": 1.0, "half": 0.5}


class TuneStage(SheetStage):
    key, title = "tune", "Tune"
    tools = (
        POINT,
        Tool("pivot", "Pivot", "map-pin-line", "P", "Drag the plumb mark; it moves in all selected cells", 1),
    )

    def build(self) -> None:
        self._ppu = NumbersField(1, "px", 0.001, 4096, whole=False, look=self.look)
        self._ppu.setFixedWidth(76)
        self._ppu.setToolTip("How many px make one unit of the game")
        self._ppu.edited.connect(lambda v: self._tune("Set pixels per unit", ppu=v[0]))
        self._ppu.settled.connect(self.session.seal)
        self._one = button("One cell = one unit")
        self._one.clicked.connect(self.one_unit)
        self._filter = ChoiceRow(self.look, [("nearest", "Nearest"), ("linear", "Linear")])
        self._filter.edited.connect(lambda v: self._tune(f"Filter to {v}", filter=v))
        self._snap = ChoiceRow(self.look, [("px", "px"), ("half", "½ px")])
        self.option_line.setLayout(
            row(label("1 u ="), self._ppu, self._one, 4, label("Filter"), self._filter, 4,
                label("Pivot snaps to"), self._snap, None)
        )  # fmt: skip
        self._build_card()
        self._grab: Cell | None = None
        self._target: tuple[float, float] | None = None

    def _build_card(self) -> None:
        card = Card(self.look, "Card")
        self.card: Card = card
        card.add(label("Units", "head"))
        self._facts = {}
        for words in ("Sheet", "Cell", "Snap step"):
            value = label("", "value")
            card.field(words, value)
            self._facts[words] = value
        card.add(Rule(self.look))
        card.add(label("Pivot", "head"))
        self._board = PlaceBoard(self.look)
        self._board.edited.connect(self._place)
        self._px = [NumbersField(1, "px", -65536, 65536, False, look=self.look) for _ in range(2)]
        self._share = [NumbersField(1, "%", -6400, 6400, False, 5, 2, self.look) for _ in range(2)]
        for axis in (0, 1):
            self._px[axis].edited.connect(lambda v, a=axis: self._set_px(a, v[0]))
            self._share[axis].edited.connect(lambda v, a=axis: self._set_share(a, v[0] / 100))
            for field in (self._px[axis], self._share[axis]):
                field.settled.connect(self.session.seal)
        board = QWidget()
        grid = QGridLayout(board)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.addWidget(self._board, 0, 0, 3, 1)
        for line, (words, fields) in enumerate((("", None), ("px", self._px), ("share", self._share))):
            grid.addWidget(label(words, "caption"), line, 1)
            for axis, name in ((0, "x"), (1, "y")):
                grid.addWidget(fields[axis] if fields else label(name, "caption"), line, 2 + axis)
        grid.setColumnStretch(2, 1)
        grid.setColumnStretch(3, 1)
        card.add(board)
        self._drift = label("", "text")
        card.field("Drift", self._drift)
        self._all = button("Give all cells this pivot")
        self._all.clicked.connect(self.give_all)
        holder = QWidget()
        holder.setLayout(row(self._all, None))
        card.add(holder)
        card.end()

    def refresh(self) -> None:
        sheet, sheets, cells = self.session.sheet, self.session.sheets, self._subject()
        self.option_line.setEnabled(sheet is not None)
        self.card.setEnabled(sheet is not None)
        self._ppu.show_value(shared([s.tune.ppu for s in sheets]))
        filters = {s.tune.filter for s in sheets}
        self._filter.show_value(filters.pop() if len(filters) == 1 else None)
        what, where = cell_title(sheet, self.session.cells)
        sheet_words = f"{many(len(sheets), 'sheet')}, " if len(sheets) > 1 else ""
        all_words = "all cells" if sheet and sheet.cells and not self.session.cells else what
        self.card.what.setText(sheet_words + all_words)
        self.card.where.setText(where)
        if sheet is not None:
            ppu, (w, h) = sheet.tune.ppu, sheet.source.size
            self._facts["Sheet"].setText(f"{w / ppu:.2f} × {h / ppu:.2f} u")
            sizes = {(c.rect[2], c.rect[3]) for c in cells}
            one = next(iter(sizes)) if len(sizes) == 1 else None
            text = (
                f"{one[0] / ppu:.2f} × {one[1] / ppu:.2f} u" if one else ("mixed" if sizes else "not cut yet")
            )
            self._facts["Cell"].setText(text)
            step = snap_step(ppu)
            self._facts["Snap step"].setText(f"{plain(step, 5)} u = {fraction_text(step)}")
        self._one.setEnabled(bool(cells))
        self._board.setEnabled(bool(cells))
        self._all.setEnabled(bool(self.session.cells))
        names = {place_name(c) for c in cells}
        self._board.show_value(names.pop() if len(names) == 1 else None)
        for axis in (0, 1):
            for field in (self._px[axis], self._share[axis]):
                field.setEnabled(bool(cells))
            self._px[axis].show_value(shared([c.pivot[axis] for c in cells]) if cells else 0)
            shares = [round(c.pivot[axis] / c.rect[2 + axis] * 100, 2) for c in cells]
            self._share[axis].show_value(shared(shares) if cells else 0)
        dx, dy = pivot_drift(cells)
        steady = "none" if len(cells) > 1 else "select frames to compare"
        self._drift.setText(
            f"{plain(dx)}, {plain(dy)} px over {many(len(cells), 'cell')}" if dx or dy else steady
        )

    def _subject(self) -> list[Cell]:
        """The selected cells, or all of every selected sheet when none is."""
        return self.session.cells or [c for s in self.session.sheets for c in s.cells]

    # -- editing ---------------------------------------------------------------------------------------

    def _tune(self, words: str, **fields: object) -> None:
        ids = list(self.session.sheet_ids)
        kind = next(iter(fields))
        self.session.edit(
            f"{words} of {many(len(ids), 'sheet')}",
            lambda p: tune_sheets(p, ids, **fields),  # type: ignore[arg-type]
            (kind, tuple(ids)) if kind == "ppu" else None,
        )

    def one_unit(self) -> None:
        cells = self._subject()
        if cells:
            self._tune("One cell is one unit:", ppu=float(cells[0].rect[3]))
            self.session.seal()

    def _place(self, name: str) -> None:
        ids = [c.id for c in self._subject()]
        whole = not self.session.cells
        sheets = list(self.session.sheet_ids)

        def change(project):  # type: ignore[no-untyped-def]
            if whole:
                return tune_sheets(project, sheets, pivot=PLACES[name])
            return set_pivot_share(project, ids, PLACES[name])

        self.session.edit(f"Pivot of {many(len(ids), 'cell')} to {name}", change)

    def _set_px(self, axis: int, value: float) -> None:
        ids = [c.id for c in self._subject()]
        x, y = (value, None) if axis == 0 else (None, value)
        self.session.edit(
            f"Pivot of {many(len(ids), 'cell')}",
            lambda p: set_pivot_px(p, ids, x, y),
            ("pivot px", axis, tuple(ids)),
        )

    def _set_share(self, axis: int, share: float) -> None:
        cells = self._subject()

        def change(project):  # type: ignore[no-untyped-def]
            for cell in cells:
                other = cell.pivot[1 - axis] / cell.rect[3 - axis]
                pair = (share, other) if axis == 0 else (other, share)
                project = set_pivot_share(project, [cell.id], pair)
            return project

        self.session.edit(
            f"Pivot of {many(len(cells), 'cell')}", change, ("pivot share", axis, tuple(c.id for c in cells))
        )

    def give_all(self) -> None:
        """Put the pivot of the last selected cell, as a share, into every cell of the sheet."""
        cell, sheet = self.session.cell, self.session.sheet
        if cell is None or sheet is None:
            return
        share = (cell.pivot[0] / cell.rect[2], cell.pivot[1] / cell.rect[3])
        ids = [c.id for c in sheet.cells]
        self.session.edit(
            f"Pivot of {many(len(ids), 'cell')} like {cell.name}", lambda p: set_pivot_share(p, ids, share)
        )

    # -- dragging the plumb mark -------------------------------------------------------------------------

    def _plumb_at(self, at: DeskEvent) -> Cell | None:
        """The selected or hovered cell whose plumb mark is under the pointer."""
        view = self.desk.view
        for cell in [*self.session.cells, *([self.hovered] if self.hovered else [])]:
            tip = view.to_screen(cell.rect[0] + cell.pivot[0], cell.rect[1] + cell.pivot[1])
            if abs(tip.x() - at.screen.x()) < 9 and -18 < at.screen.y() - tip.y() < 8:
                return cell
        return None

    def press(self, at: DeskEvent) -> None:
        cell = self._plumb_at(at)
        if cell is None and self.tool == "pivot":
            cell = self.cell_under(at)
            if cell is not None and cell.id not in self.session.cell_ids:
                self.session.choose_cells((cell.id,))
        if cell is None:
            super().press(at)
            return
        self._grab = cell
        if self.tool == "pivot":
            self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        if self._grab is None:
            super().drag(at)
            return
        step = SNAPS[self._snap.value or "px"]
        x = math.floor((at.x - self._grab.rect[0]) / step + 0.5) * step
        y = math.floor((at.y - self._grab.rect[1]) / step + 0.5) * step
        x = min(max(x, -self._grab.rect[2]), 2 * self._grab.rect[2])
        y = min(max(y, -self._grab.rect[3]), 2 * self._grab.rect[3])
        self._target = (x, y)
        ids = self._dragged()
        self.session.preview(lambda p: set_pivot_px(p, ids, x, y))

    def _dragged(self) -> tuple[str, ...]:
        assert self._grab is not None
        ids = self.session.cell_ids
        return ids if self._grab.id in ids else (self._grab.id,)

    def release(self, at: DeskEvent) -> None:
        if self._grab is None:
            super().release(at)
            return
        if self._target is not None:
            ids, (x, y) = self._dragged(), self._target
            self.session.edit(
                f"Move the pivot of {many(len(ids), 'cell')}", lambda p: set_pivot_px(p, ids, x, y)
            )
        self._grab, self._target = None, None

    def cancel(self) -> None:
        self._grab, self._target = None, None
        super().cancel()

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ClosedHandCursor if self._grab else super().cursor()

    _grab: Cell | None = None
    _target: tuple[float, float] | None = None

    # -- painting --------------------------------------------------------------------------------------

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        view = self.desk.view
        chosen = set(self.session.cell_ids)
        near = self.hovered.id if self.hovered else ""
        every = len(sheet.cells) <= 400 and (sheet.cells[0].rect[3] if sheet.cells else 0) * view.zoom >= 40
        for cell in sheet.cells:
            mine = cell.id in chosen
            if not (mine or every or cell.id == near):
                continue
            x, y, w, h = cell.rect
            box = view.rect(x, y, w, h)
            if not box.adjusted(-40, -40, 40, 40).intersects(room):
                continue
            tip = view.to_screen(x + cell.pivot[0], y + cell.pivot[1])
            top = box.top() if mine else max(box.top(), tip.y() - 22)
            paint_plumb(painter, tip, top, self.look, mine)
        last = self.session.cell
        if last is not None:
            self._unit_box(painter, sheet, last)

    def _unit_box(self, painter: QPainter, sheet: Sheet, cell: Cell) -> None:
        """A box of one unit from the cell's lower left, with the size and pivot told."""
        view, side = self.desk.view, sheet.tune.ppu
        x, y, w, h = cell.rect
        box = view.rect(x, y + h - side, side, side)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.look.colour("art_casing", 0.6), 3))
        painter.drawRect(box)
        painter.setPen(QPen(self.look.colour("art_straw"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)
        tag(painter, self.look, box.left() + 4, box.bottom() - 20, "1 u")
        tip = view.to_screen(x + cell.pivot[0], y + cell.pivot[1])
        words = f"{plain(cell.pivot[0], 1)}, {plain(cell.pivot[1], 1)} px"
        room = self.desk.room
        at = QPointF(min(tip.x() + 10, room.right() - 90), min(tip.y() + 4, room.bottom() - 20))
        tag(painter, self.look, at.x(), at.y(), words, rust=True)

    def commands(self) -> list[Command]:
        def cut() -> str:
            return "" if self._subject() else "The sheet has no cells yet."

        def chosen() -> str:
            return "" if self.session.cell else "No cell is selected."

        return [
            Command("tune.one", "One cell = one unit", (), "Set pixels per unit to the height of a cell.",
                    self.one_unit, cut, ("tune",), "Tune"),
            Command("tune.all", "Give all cells this pivot", (), "As a share of each cell's size.",
                    self.give_all, chosen, ("tune",), "Tune"),
            *(
                Command(f"tune.pivot.{name.replace(' ', '_')}", f"Pivot at the {name}", (key,),
                        "For the selected cells, or all.", partial(self._place, name), cut, ("tune",), "Tune")
                for name, key in zip(PLACES, ("7", "8", "9", "4", "5", "6", "1", "2", "3"), strict=True)
            ),
        ]  # fmt: skip
