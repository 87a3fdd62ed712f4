"""Cells worked on by hand: trimmed, joined, split, moved, ordered, left out."""

from __future__ import annotations

from functools import partial

from rushweed.core.cut import guides, hand
from rushweed.core.cut.edit import cut_sheet, leave_out, pulled_in, remove_cells, spots_of
from rushweed.core.cut.grid import even_cut
from rushweed.core.cut.names import natural_order, reading_order_ids
from rushweed.core.cut.propose import ink_of
from rushweed.core.document.model.cut import GridCut, GuidesCut
from rushweed.core.document.model.project import Project
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.text import many
from rushweed.ui.stages.cut.making import CutMaking


class ByHand:
    """What is done to the selected cells, or to those at some places."""

    def __init__(self, context: Context, making: CutMaking) -> None:
        self.session, self.desk, self.making = context.session, context.desk, making

    def trim(self) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is not None:
            mask = ink_of(self.session.stock.pixels_or_blank(sheet))[0]
            change = partial(hand.trim_cells, sheet_id=sheet.id, cell_ids=set(ids), mask=mask)
            self.session.document.edit(f"Trim {many(len(ids), 'cell')}", change)

    def join(self) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is not None:
            change = partial(hand.join_cells, sheet_id=sheet.id, cell_ids=ids)
            self.making.attempt(f"Join {many(len(ids), 'cell')}", change)

    def split(self, columns: int, rows: int) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is not None and columns * rows > 1:
            change = partial(
                hand.split_evenly, sheet_id=sheet.id, cell_ids=set(ids), columns=columns, rows=rows
            )
            self.making.edit_choosing(f"Split {many(len(ids), 'cell')}", change)

    def double(self) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is not None:
            change = partial(hand.double_cells, sheet_id=sheet.id, cell_ids=set(ids))
            self.making.edit_choosing(f"Duplicate {many(len(ids), 'cell')}", change)

    def nudge(self, dx: int, dy: int, sides: str = "") -> None:
        """Move the selected cells, or the edges named, by px; a run of nudges is one step to undo."""
        sheet, ids = self.session.selection.sheet, set(self.session.selection.cell_ids)
        if sheet is None or not ids:
            return
        if sides:
            change = partial(hand.drag_edges, sheet_id=sheet.id, cell_ids=ids, sides=sides, dx=dx, dy=dy)
        else:
            change = partial(hand.move_cells, sheet_id=sheet.id, cell_ids=ids, dx=dx, dy=dy)
        words = "Resize" if sides else "Move"
        self.session.document.edit(
            f"{words} {many(len(ids), 'cell')}", change, merge=("nudge", sides, frozenset(ids))
        )

    def order(self, by_name: bool) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            order = natural_order(sheet) if by_name else reading_order_ids(sheet)
            words = f"Order the cells of {sheet.name}"
            self.session.document.edit(words, partial(hand.order_cells, sheet_id=sheet.id, order=order))

    def follow_art(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None and isinstance(sheet.cut, GuidesCut):
            mask = ink_of(self.session.stock.pixels_or_blank(sheet))[0]
            self.making.take(guides.follow_art(sheet.cut, mask), "Let the guides follow the art")

    def pull_edges(self, by: int) -> None:
        """Pull the edges of the cells in by px: on a grid those of all cells, else of those selected."""
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is None:
            return
        words = f"{'Pull edges in' if by > 0 else 'Push edges out'} by {abs(by)} px"
        grid = self.desk.sheet_painter.grid(sheet)
        if grid is not None and even_cut(sheet) is not None:
            old = even_cut(sheet)
            assert old is not None
            start = GridCut(grid.cell, grid.margin, grid.spacing, old.leave_out_empty, old.left_out, old.kept)

            def change(project: Project) -> Project:
                cut = pulled_in(start, by)
                return cut_sheet(project, sheet.id, cut, self.session.stock.pixels_or_blank(sheet))

            self.session.document.edit(words, change)
            return
        if not ids:
            self.session.tell("told", "No cell is selected.", "Select those whose edges to move.")
            return
        grown = {
            c.id: (c.rect[0] + by, c.rect[1] + by, max(c.rect[2] - 2 * by, 1), max(c.rect[3] - 2 * by, 1))
            for c in self.session.selection.cells
        }
        self.session.document.edit(words, partial(hand.set_rects, sheet_id=sheet.id, rects=grown))

    def leave_out(self, spots: list[tuple[int, int]], out: bool) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None and spots:
            pixels = self.session.stock.pixels_or_blank(sheet)
            words = "Leave out" if out else "Keep"
            self.making.attempt(
                f"{words} {many(len(spots), 'cell')}", lambda p: leave_out(p, sheet.id, spots, out, pixels)
            )

    def leave_out_selected(self) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is None:
            return
        if even_cut(sheet) is not None or isinstance(sheet.cut, GuidesCut):
            self.leave_out(spots_of(sheet, ids), True)
        else:
            self.making.attempt(
                f"Leave out {many(len(ids), 'cell')}", lambda p: remove_cells(p, sheet.id, ids)
            )
