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

    work, levels = stage.cells_work, stage.level_work

    def chosen() -> str:
        return "" if stage.chosen is not None else "No cells are selected."

    def painted() -> str:
        return "" if session.selection.layer is not None else "The layer in use holds no tiles."

    def layers(nearer: int = 0) -> None:
        stage.card.layers.move_layer(nearer) if nearer else stage.card.layers.add()

    return [
        row(
            "rejoin",
            "Join the set anew",
            (),
            "Where cells are selected, or on the layer.",
            work.rejoin,
            painted,
        ),
        row(
            "export",
            "Export a picture of the level",
            (),
            "Or of the room at hand.",
            work.export_picture,
            level,
        ),
        row(
            "mend",
            "Mend the places to catch on",
            (),
            "Shapes at the marks, onto whole px.",
            lambda: stage.overlay.outline.mend(),
        ),
        row(
            "next_place",
            "Go to the next place of the tile in hand",
            ("Shift+G",),
            "And count them.",
            work.next_place,
        ),
        row(
            "next_room", "Go to the next room", (".",), "Round and round.", lambda: levels.next_room(1), level
        ),
        row(
            "last_room",
            "Go to the room before",
            (",",),
            "Round and round.",
            lambda: levels.next_room(-1),
            level,
        ),
        row(
            "new",
            "New level",
            ("Ctrl+L",),
            "With the cell size of the sheet shown.",
            levels.new_level,
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
        row("grid", "Lines every few cells", ("Shift+C",), "1, 2, 4, 8 or 16 cells.", levels.next_grid),
        row("fade", "Fade the other layers", ("J",), "While you paint.", lambda: stage.fade.toggle()),
        row(
            "outline",
            "Show or hide the outline",
            ("Shift+H",),
            "All solid shapes as one.",
            lambda: stage.merged.toggle(),
        ),
        row(
            "overview",
            "Show or hide the overview",
            ("Shift+O",),
            "The whole level small.",
            lambda: stage.small.toggle(),
        ),
        row(
            "since",
            "Show what changed since the last commit",
            (),
            "Over the level, and in words.",
            lambda: stage.since.toggle(),
        ),
        row(
            "symmetry", "Next symmetry", ("Y",), "One, mirrored, upside down, all four.", levels.next_symmetry
        ),
        row("goto", "Go to a cell", ("G",), "By its column and row.", levels.go_to_cell),
        row(
            "alike",
            "Select all tiles like the one at the pointer",
            ("Shift+V",),
            "On the layer in use.",
            work.select_alike,
            painted,
        ),
        row(
            "trait",
            "Select all tiles with a trait",
            (),
            "Of those the project has.",
            work.select_with_trait,
            painted,
        ),
        row(
            "copy",
            "Copy the selected cells",
            ("Ctrl+C",),
            "All layers shown; also as a picture.",
            work.copy,
            chosen,
        ),
        row("cut", "Cut the selected cells", ("Ctrl+X",), "Of the layer in use.", work.cut, chosen),
        row(
            "paste",
            "Take the copied cells in hand",
            ("Ctrl+Shift+V",),
            "Also from another project.",
            work.paste,
        ),
        row("keep", "Keep the stamp", ("Ctrl+K",), "Under a name, in the Tray.", work.keep),
        row(
            "holes",
            "Fill the holes",
            (),
            "Empty cells that tiles shut in, with the stamp.",
            work.fill_holes,
            painted,
        ),
        row(
            "swap_tile",
            "Replace the tile at the pointer in all levels",
            (),
            "By the first of the stamp.",
            lambda: work.replace_tile("project"),
            painted,
        ),
        row(
            "swap_level",
            "Replace the tile at the pointer in the level",
            ("Shift+X",),
            "On all layers, by the first of the stamp.",
            lambda: work.replace_tile("level"),
            painted,
        ),
        row(
            "swap_sheet",
            "Replace a sheet by the one shown",
            (),
            "Of the same cut, in all levels.",
            work.replace_sheet,
        ),
        row("copy_level", "Duplicate the level", (), "With all in it.", levels.duplicate_level, level),
        row("earlier", "Move the level up the Shelf", (), "One place.", lambda: levels.move_level(-1), level),
        row("later", "Move the level down the Shelf", (), "One place.", lambda: levels.move_level(1), level),
        row("things", "Add a layer of things", (), "Nearest of all.", stage.card.layers.add_things),
        row(
            "picture",
            "Use the sheet shown as a picture",
            (),
            "On a layer of its own.",
            stage.card.layers.add_picture,
            level,
        ),
        row(
            "alone",
            "Show the layer alone, or all",
            ("Shift+J",),
            "The others are hidden.",
            levels.show_alone,
            level,
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
        row("remove", "Remove the level", (), "Undo brings it back.", levels.remove_level),
        row("layer", "Add a layer", (), "Nearest of all.", layers),
        row(
            "backdrop",
            "Use the sheet shown as a backdrop",
            (),
            "Behind the level, repeated across.",
            levels.backdrop,
            level,
            True,
        ),
    ]
