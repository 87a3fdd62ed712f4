"""The commands of Cut, one row each."""

from __future__ import annotations

from functools import partial

from rushweed.core.document.model.cut import GuidesCut
from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.cut.stage import CutStage


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
            by_hand.leave_out_selected),
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
            "Each guide moves to the nearest gap.", by_hand.follow_art, guided),
        row("order_name", "Order the cells by name", (), "2 comes before 10.",
            partial(by_hand.order, True), cut),
        row("order_place", "Order the cells by place", (), "Row by row, as on the sheet.",
            partial(by_hand.order, False), cut),
        row("pull_in", "Pull the edges in by 1 px", (), "Cells lose a px on every side; art stays.",
            partial(by_hand.pull_edges, 1), cut),
        row("push_out", "Push the edges out by 1 px", (), "Cells gain a px on every side.",
            partial(by_hand.pull_edges, -1), cut),
    ]  # fmt: skip
