"""The commands of Gather, one row each."""

from __future__ import annotations

from functools import partial

from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.gather.removing import take_off_unused
from rushweed.ui.stages.gather.stage import GatherStage
from rushweed.ui.stages.gather.steps import FRESH


def commands(stage: GatherStage) -> list[Command]:
    def sheet() -> str:
        return "" if stage.session.selection.sheet else "No sheet is selected."

    row = Rows("Gather").row
    return [
        row("add", "Add pictures", ("Ctrl+I",), "Choose picture files to bring in.",
            stage.bringing.choose_files),
        row("folder", "Add a folder of pictures", ("Ctrl+Shift+I",), "Every picture of a folder.",
            stage.bringing.choose_folder),
        row("paste", "Paste a picture", ("Ctrl+V",), "A picture, or files, from the clipboard.",
            stage.bringing.paste),
        row("copy", "Make a recoloured copy", (), "Of the sheet, or of its selected cells.",
            stage.recoloured, sheet),
        row("open", "Open the picture in its editor", (), "It is read again when it is saved there.",
            stage.open_outside, sheet),
        row("remove", "Remove the sheet", (), "Undo brings it back.", stage.remove, sheet),
        row("unused", "Take off what nothing uses", (), "Sheets of no level and no animation.",
            partial(take_off_unused, stage.session)),
        *[
            row(f"step_{words.lower().replace(' ', '_')}", f"Prepare: {words.lower()}", (),
                "A step that is kept on the sheet, never burned in.",
                partial(stage.begin_step, words), sheet)
            for words in FRESH if words != "Replace colour"
        ],
    ]  # fmt: skip
