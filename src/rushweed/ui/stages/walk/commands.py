"""The commands of Walk, one row each."""

from __future__ import annotations

from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.walk.stage import WalkStage


def commands(stage: WalkStage) -> list[Command]:
    session, play, line = stage.session, stage.play, stage.line

    def level() -> str:
        return "" if session.selection.level else "There is no level yet."

    def walks() -> str:
        return "" if play.walk is not None else "Nobody walks."

    def stands() -> str:
        return walks() or ("" if play.paused else "Time runs.")

    row, or_paint = Rows("Walk", ("walk",), walks).row, Rows("Walk", ("paint", "walk")).row
    return [
        or_paint("here", "Walk from here, or back to Paint", ("P",), "Where the pointer is.",
            stage.toggle, level),
        row("start", "Walk from the start", ("Q",), "Of the level.", play.start, level),
        row("pause", "Let time stand or run", ("X",), "Leaving the window stops it.", play.pause_or_go),
        row("step", "One step", ("N",), "1/120 s, while time stands.", play.one_step, stands),
        row("slow", "Next speed of time", ("T",), "Whole, half, a quarter, step by step.", line.speed.next),
        row("keep", "Keep this walk as a run", ("Ctrl+K",), "Its keys, with the level.", stage.runs.keep),
        row("test", "Walk all runs", (), "And tell which arrive.", stage.runs.test, level),
        row("export_run", "Export this walk", (), "As a file that a script can walk.", stage.runs.export),
        row("shapes", "Show or hide the shapes", ("H",), "Of tiles.", line.shapes.toggle),
        row("reach", "Show or hide what can be reached", ("R",), "From the start.", line.reached.toggle),
        row("path", "Show or hide the path", ("L",), "A dot each quarter of a second.", line.path.toggle),
        row("way", "Show the way to the place asked for", (), "By the keys that reach it.",
            stage.runs.show_way),
    ]  # fmt: skip
