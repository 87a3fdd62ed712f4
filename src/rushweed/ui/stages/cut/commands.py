"""The commands of Cut, one row each."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from rushweed.core.cut import hand
from rushweed.core.cut.names import natural_order, reading_order_ids
from rushweed.core.cut.propose import ink_of
from rushweed.core.document.model.cut import GuidesCut
from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.kit.text import many

if TYPE_CHECKING:
    from rushweed.ui.stages.cut.stage import CutStage


class HandCommands:
    """What can be done to the selected cells without the pointer."""

    def __init__(self, stage: CutStage) -> None:
        self.stage, self.session = stage, stage.session

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
            self.stage.attempt(f"Join {many(len(ids), 'cell')}", change)

    def split(self, columns: int, rows: int) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is not None and columns * rows > 1:
            change = partial(
                hand.split_evenly, sheet_id=sheet.id, cell_ids=set(ids), columns=columns, rows=rows
            )
            self.stage.edit_choosing(f"Split {many(len(ids), 'cell')}", change)

    def double(self) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        if sheet is not None:
            change = partial(hand.double_cells, sheet_id=sheet.id, cell_ids=set(ids))
            self.stage.edit_choosing(f"Duplicate {many(len(ids), 'cell')}", change)

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


def commands(stage: CutStage) -> list[Command]:
    session, by_hand = stage.session, stage.by_hand

    def chosen() -> str:
        return "" if session.selection.cells else "No cell is selected."

    def several() -> str:
        return "" if len(session.selection.cells) > 1 else "Select at least two cells."

    def cut() -> str:
        return "" if session.selection.sheet and session.selection.sheet.cells else "The sheet has no cells."

    def guided() -> str:
        return (
            ""
            if session.selection.sheet and isinstance(session.selection.sheet.cut, GuidesCut)
            else "The sheet has no guides."
        )

    row = Rows("Cut", ("cut",), chosen).row

    def proposed() -> str:
        return "" if stage.proposals.best() else "Nothing is proposed yet."

    return [
        row("out", "Leave the selected cells out", ("Delete",), "They can be kept again with X.",
            stage.leave_out_selected),
        row("propose", "Take the proposed cut", ("Ctrl+Return",),
            "The one drawn on the sheet, or the best; Enter does too.", stage.proposals.take_or_best,
            proposed),
        row("next", "Next proposal", (".",), "Show another way to cut the sheet.", stage.proposals.step,
            proposed),
        row("previous", "Proposal before", (",",), "Show the way to cut that came before.",
            partial(stage.proposals.step, -1), proposed),
        row("trim", "Trim to content", ("T",), "Shrink the selected cells to what they hold.", by_hand.trim),
        row("join", "Join the cells", ("J",), "The selected cells become one.", by_hand.join, several),
        row("split_2", "Split in two columns", ("Shift+K",), "Each selected cell; the line tool is K.",
            partial(by_hand.split, 2, 1)),
        row("double", "Duplicate the cells", ("Ctrl+D",), "A copy beside each.", by_hand.double),
        row("follow", "Let the guides follow the art", ("Shift+G",),
            "Each guide moves to the nearest gap.", stage.follow_art, guided),
        row("order_name", "Order the cells by name", (), "2 comes before 10.",
            partial(by_hand.order, True), cut),
        row("order_place", "Order the cells by place", (), "Row by row, as on the sheet.",
            partial(by_hand.order, False), cut),
        row("pull_in", "Pull the edges in by 1 px", (), "Cells lose a px on every side; art stays.",
            partial(stage.pull_edges, 1), cut),
        row("push_out", "Push the edges out by 1 px", (), "Cells gain a px on every side.",
            partial(stage.pull_edges, -1), cut),
    ]  # fmt: skip
