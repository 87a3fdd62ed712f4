"""The commands of Paint, one row each."""

from __future__ import annotations

from functools import partial

from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.paint.stage import PaintStage

row, anywhere = Rows("Paint", ("paint",)).row, Rows("Paint").row


def commands(stage: PaintStage) -> list[Command]:
    groups = (_of_the_stamp, _of_cells, _of_layers, _of_levels, _of_what_is_shown)
    return [one for group in groups for one in group(stage)]


class _Needs:
    """What has to be there for a command."""

    def __init__(self, stage: PaintStage) -> None:
        self.stage, self.session = stage, stage.session

    def level(self) -> str:
        return "" if self.session.selection.level else "There is no level yet."

    def area(self) -> str:
        return "" if self.stage.active.selects else "Nothing is selected."

    def chosen(self) -> str:
        return "" if self.stage.state.chosen is not None else "No cells are selected."

    def painted(self) -> str:
        return "" if self.session.selection.layer is not None else "The layer in use holds no tiles."


def _of_the_stamp(stage: PaintStage) -> list[Command]:
    """What is in hand: turned, kept, scattered, mirrored by the symmetry."""
    needs, work, levels = _Needs(stage), stage.cells_work, stage.level_work
    return [
        row("mirror", "Mirror the stamp, area or thing", ("M",), "Left and right.",
            partial(stage.rearrange, "mirror"), needs.level),
        row("flip", "Flip vertically", ("Shift+M",), "Of the stamp or area.",
            partial(stage.rearrange, "flip"), needs.level),
        row("turn", "Turn the stamp or area", ("U",), "A quarter clockwise.",
            partial(stage.rearrange, "turn"), needs.level),
        row("scatter", "Scatter on or off", ("D",), "Draw tiles of the stamp by chance.",
            lambda: stage.state.stamp_line.scatter.toggle(), needs.level),
        row("symmetry", "Next symmetry", ("Y",), "One, mirrored, upside down, all four.",
            levels.next_symmetry, needs.level),
        row("keep", "Keep the stamp", ("Ctrl+K",), "Under a name, in the Tray.", work.keep, needs.level),
        row("next_place", "Go to the next place of the tile in hand", ("Shift+G",), "And count them.",
            work.next_place, needs.level),
    ]  # fmt: skip


def _of_cells(stage: PaintStage) -> list[Command]:
    """Cells that are selected, and tiles that are found by what they are."""
    needs, work = _Needs(stage), stage.cells_work
    return [
        row("clear", "Erase the selected area or thing", ("Delete",), "On the layer in use.",
            lambda: stage.active.remove(), needs.area),
        row("alike", "Select all tiles like the one at the pointer", ("Shift+V",), "On the layer in use.",
            work.select_alike, needs.painted),
        row("trait", "Select all tiles with a trait", (), "Of those the project has.",
            work.select_with_trait, needs.painted),
        row("copy", "Copy the selected cells", ("Ctrl+C",), "All layers shown; also as a picture.",
            work.copy, needs.chosen),
        row("cut", "Cut the selected cells", ("Ctrl+X",), "Of the layer in use.", work.cut, needs.chosen),
        row("paste", "Take the copied cells in hand", ("Ctrl+Shift+V",), "Also from another project.",
            work.paste, needs.level),
        row("holes", "Fill the holes", (), "Empty cells that tiles shut in, with the stamp.",
            work.fill_holes, needs.painted),
        row("rejoin", "Join the set anew", (), "Where cells are selected, or on the layer.",
            work.rejoin, needs.painted),
        row("swap_tile", "Replace the tile at the pointer in all levels", (), "By the first of the stamp.",
            lambda: work.replace_tile("project"), needs.painted),
        row("swap_level", "Replace the tile at the pointer in the level", ("Shift+X",),
            "On all layers, by the first of the stamp.", lambda: work.replace_tile("level"), needs.painted),
        row("swap_sheet", "Replace a sheet by the one shown", (), "Of the same cut, in all levels.",
            work.replace_sheet, needs.level),
    ]  # fmt: skip


def _of_layers(stage: PaintStage) -> list[Command]:
    """The layers of the level."""
    needs = _Needs(stage)
    levels = stage.level_work
    layers = stage.card.layers
    return [
        row("layer", "Add a layer", (), "Nearest of all.", layers.add, needs.level),
        row("things", "Add a layer of things", (), "Nearest of all.", layers.add_things, needs.level),
        row("picture", "Use the sheet shown as a picture", (), "On a layer of its own.",
            layers.add_picture, needs.level),
        anywhere("backdrop", "Use the sheet shown as a backdrop", (), "Behind the level, repeated across.",
            levels.backdrop, needs.level),
        row("nearer", "Move the layer nearer", ("PgUp",), "One place.",
            partial(layers.move_layer, 1), needs.level),
        row("farther", "Move the layer farther", ("PgDown",), "One place.",
            partial(layers.move_layer, -1), needs.level),
        row("alone", "Show the layer alone, or all", ("Shift+J",), "The others are hidden.",
            levels.show_alone, needs.level),
    ]  # fmt: skip


def _of_levels(stage: PaintStage) -> list[Command]:
    """The level, its rooms, and the others."""
    needs, work, levels = _Needs(stage), stage.cells_work, stage.level_work
    return [
        anywhere("new", "New level", ("Ctrl+L",), "With the cell size of the sheet shown.",
            levels.new_level),
        row("copy_level", "Duplicate the level", (), "With all in it.", levels.duplicate_level, needs.level),
        row("earlier", "Move the level up the Shelf", (), "One place.",
            lambda: levels.move_level(-1), needs.level),
        row("later", "Move the level down the Shelf", (), "One place.",
            lambda: levels.move_level(1), needs.level),
        row("remove", "Remove the level", (), "Undo brings it back.", levels.remove_level, needs.level),
        row("export", "Export a picture of the level", (), "Or of the room at hand.",
            work.export_picture, needs.level),
        row("next_room", "Go to the next room", (".",), "Round and round.",
            lambda: levels.next_room(1), needs.level),
        row("last_room", "Go to the room before", (",",), "Round and round.",
            lambda: levels.next_room(-1), needs.level),
        row("goto", "Go to a cell", ("G",), "By its column and row.", levels.go_to_cell, needs.level),
    ]  # fmt: skip


def _of_what_is_shown(stage: PaintStage) -> list[Command]:
    """What is drawn over the level."""
    needs = _Needs(stage)
    levels = stage.level_work
    return [
        row("shapes", "Show or hide the shapes", ("H",), "Of every tile in the level.",
            lambda: stage.state.shown.shapes.toggle(), needs.level),
        row("outline", "Show or hide the outline", ("Shift+H",), "All solid shapes as one.",
            lambda: stage.state.shown.merged.toggle(), needs.level),
        row("mend", "Mend the places to catch on", (), "Shapes at the marks: onto whole px, spikes cut off.",
            lambda: stage.overlay.outline.mend(), needs.level),
        row("cells", "Show or hide the cells", ("C",), "Crosses where cells meet.",
            lambda: stage.state.shown.grid.toggle(), needs.level),
        row("grid", "Lines every few cells", ("Shift+C",), "1, 2, 4, 8 or 16 cells.",
            levels.next_grid, needs.level),
        row("fade", "Fade the other layers", ("J",), "While you paint.",
            lambda: stage.state.shown.fade.toggle(), needs.level),
        row("overview", "Show or hide the overview", ("Shift+O",), "The whole level small.",
            lambda: stage.state.shown.small.toggle(), needs.level),
        row("since", "Show what changed since the last commit", (), "Over the level, and in words.",
            lambda: stage.state.shown.since.toggle(), needs.level),
    ]  # fmt: skip
