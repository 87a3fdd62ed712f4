"""The commands of Paint, one row each."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from rushweed.ui.commands.command import Command

if TYPE_CHECKING:
    from rushweed.ui.stages.paint.stage import PaintStage


def commands(stage: PaintStage) -> list[Command]:
    session = stage.session

    def level() -> str:
        return "" if session.selection.level else "There is no level yet."

    def area() -> str:
        return "" if stage.active.selects else "Nothing is selected."

    def row(name, words, keys, help, run, needs=level, everywhere=False):  # type: ignore[no-untyped-def]
        stages = () if everywhere else ("paint",)
        return Command(f"paint.{name}", words, keys, help, run, needs, stages, "Paint")

    turn = stage.rearrange

    def layers(nearer: int = 0) -> None:
        stage.card.layers.move_layer(nearer) if nearer else stage.card.layers.add()

    return [
        row(
            "new",
            "New level",
            ("Ctrl+L",),
            "With the cell size of the sheet shown.",
            stage.new_level,
            lambda: "",
            True,
        ),
        row("mirror", "Mirror the stamp, area or thing", ("M",), "Left and right.", partial(turn, "mirror")),
        row("flip", "Flip vertically", ("Shift+M",), "Of the stamp or area.", partial(turn, "flip")),
        row("turn", "Turn the stamp or area", ("U",), "A quarter clockwise.", partial(turn, "turn")),
        row(
            "clear",
            "Erase the selected area or thing",
            ("Delete",),
            "On the layer in use.",
            lambda: stage.active.remove(),
            area,
        ),
        row(
            "scatter",
            "Scatter on or off",
            ("D",),
            "Draw tiles of the stamp by chance.",
            lambda: stage.scatter.toggle(),
        ),
        row(
            "cells",
            "Show or hide the cells",
            ("C",),
            "Crosses where cells meet.",
            lambda: stage.grid.toggle(),
        ),
        row(
            "shapes",
            "Show or hide the shapes",
            ("H",),
            "Of every tile in the level.",
            lambda: stage.shapes.toggle(),
        ),
        row("nearer", "Move the layer nearer", ("PgUp",), "One place.", partial(layers, 1)),
        row("farther", "Move the layer farther", ("PgDown",), "One place.", partial(layers, -1)),
        row("remove", "Remove the level", (), "Undo brings it back.", stage.remove_level),
        row("layer", "Add a layer", (), "Nearest of all.", layers),
        row(
            "backdrop",
            "Use the sheet shown as a backdrop",
            (),
            "Behind the level, repeated across.",
            stage.backdrop,
            level,
            True,
        ),
    ]
