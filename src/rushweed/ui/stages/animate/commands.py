"""The commands of Animate, one row each."""

from __future__ import annotations

from functools import partial

from rushweed.core.animate import timeline
from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.animate.stage import AnimateStage
from rushweed.ui.stages.animate.words import WAYS


def commands(stage: AnimateStage) -> list[Command]:
    session, player, lay = stage.session, stage.player, stage.registering
    shown_now = stage.animating

    def shown() -> str:
        return "" if session.selection.animation else "There is no animation yet."

    def cells() -> str:
        return "" if session.selection.cells else "No cell is selected."

    def cut() -> str:
        return "" if session.selection.sheet and session.selection.sheet.cells else "The sheet has no cells."

    def frames() -> str:
        return "" if session.selection.frames else "No frame is selected."

    row, anywhere = Rows("Animate", ("animate",), shown).row, Rows("Animate").row
    return [
        anywhere("make", "Make an animation of the selected cells", ("Ctrl+M",), "In the order selected.",
            partial(shown_now.make, "cells"), cells),
        anywhere("rows", "Make an animation of each row", (), "Of the sheet shown.", 
            partial(shown_now.make, "rows"), cut),
        anywhere("stems", "Make animations by names", (), "walk_0, walk_1 ... become walk.",
            partial(shown_now.make, "stems"), cut),
        row("play", "Play or stop", ("P",), "At the speed chosen.", player.toggle),
        row("back", "One frame back", (",",), "And stop.", partial(player.step, -1)),
        row("on", "One frame on", (".",), "And stop.", partial(player.step, 1)),
        *[row(f"by_{how}", f"Register by {words.lower()}", (), tip + ".", partial(lay.by, how))
          for how, words, tip in WAYS],
        row("drawn", "Frames as drawn", (), "Take every shift away.", lay.as_drawn),
        row("trim", "Trim the frames alike", ("T",), "Padding that none of them needs goes.", lay.trim),
        row("out", "Take the frames out", ("Delete",), "The cells stay.", shown_now.remove_frames, frames),
        row("reverse", "Turn the order round", (), "Last frame first.",
            partial(shown_now.change, "Turn round", timeline.reverse_frames)),
        row("copy", "Copy the animation", ("Ctrl+D",), "Under another name.", shown_now.copy),
        row("remove", "Remove the animation", (), "Its cells stay.",
            partial(shown_now.change, "Remove", timeline.remove_animation)),
    ]  # fmt: skip
