"""The commands of the window as a whole, one row each; stages add their own."""

from __future__ import annotations

import importlib
from functools import partial

from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.kit.theme import THEMES
from rushweed.ui.later_parts import LaterParts
from rushweed.ui.session import Session
from rushweed.ui.window_frame import WindowFrame

ZOOMS = (1, 2, 3, 4, 6, 8)


def all_commands(window: WindowFrame, later: LaterParts) -> list[Command]:
    """The commands of the window and of all stages."""
    made = [*_project(window, later), *_edit(window, later), *_view(window, later)]
    made += [*_findings(window, later), *_stages(window)]
    for key, stage in window.stages.items():
        made += importlib.import_module(f"rushweed.ui.stages.{key}.commands").commands(stage)
    return made


def _project(window: WindowFrame, later: LaterParts) -> list[Command]:
    session = window.session
    row = Rows("File").row

    def writable() -> str:
        return "The project is read-only." if session.document.read_only else ""

    return [
        row("save", "Save", ("Ctrl+S",), "Write the project to its folder.", session.saver.save, writable),
        row("earlier", "Earlier saves", (), "The last ten, to go back to.", later.earlier.open),
        row("autosave", "Save by itself, or only when asked", (), "Every two minutes, on leaving the window.",
            later.autosave.toggle, writable),
        row("recovered", "Edits left behind", (), "By crashes or unsaved, of the last 30 days.",
            window.recovery.show_earlier, writable),
        row("open", "Open a project", ("Ctrl+O",), "Choose its folder.",
            later.projects.choose_project),
        row("new", "New project", ("Ctrl+N",), "In an empty folder of your choice.",
            later.projects.choose_new),
        row("demo", "Open the Tidelamp demo", (), "A fresh copy in a folder you choose.",
            later.projects.choose_demo),
    ]  # fmt: skip


def _edit(window: WindowFrame, later: LaterParts) -> list[Command]:
    session = window.session
    row = Rows("Edit").row

    nothing = partial(session.selection.choose_cells, ())

    def undo() -> str:
        return "" if session.document.history.undo_label else "There is nothing to undo."

    def redo() -> str:
        return "" if session.document.history.redo_label else "There is nothing to redo."

    def cells() -> str:
        return "" if session.selection.sheet and session.selection.sheet.cells else "The sheet has no cells."

    def cell() -> str:
        return "" if session.selection.cell else "No cell is selected."

    def sheets() -> str:
        return "" if len(session.selection.sheet_ids) > 1 else "Select several sheets on the Shelf."

    return [
        row("undo", "Undo", ("Ctrl+Z",), "Take the last edit back.", session.document.undo, undo),
        row("redo", "Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), "Make the edit again.", session.document.redo, redo),
        row("edits", "All edits", ("Ctrl+Alt+Z",), "To go back and forth among them.",
            later.opened.open_edits),
        row("all", "Select all cells", ("Ctrl+A",), "Of the sheet shown.", partial(_select_all, session),
            cells),
        row("none", "Select nothing", ("Ctrl+Shift+A",), "No cell.", nothing),
        row("rename", "Rename the cell", ("F2",), "In the Strip.", partial(_rename_cell, window), cell),
        row("same_cut", "Give the same cut to the selected sheets", (), "From the sheet shown.",
            partial(_same_cut, window), sheets),
    ]  # fmt: skip


def _view(window: WindowFrame, later: LaterParts) -> list[Command]:
    desk = window.desk
    row = Rows("View").row
    zooms = [
        row(f"x{n}", f"Zoom to x{n}", (f"Ctrl+{n}",), "Every px so many on screen.", partial(desk.zoom_to, n))
        for n in ZOOMS
    ]
    return [
        row("in", "Zoom in", ("+", "="), "The wheel zooms at the pointer.", partial(desk.zoom_step, 1)),
        row("out", "Zoom out", ("-",), "The wheel zooms at the pointer.", partial(desk.zoom_step, -1)),
        row("by_keys", "Point by keys", ("F9",), "Arrows move, Space presses, Enter holds.",
            desk.by_keys.switch),
        row("fit", "Zoom to fit", ("Ctrl+0",), "The greatest whole multiple that shows all.", desk.zoom_fit),
        *zooms,
        row("theme", "Next theme", ("Ctrl+Shift+D",), "Day, Dusk, Stark.", partial(_next_theme, window)),
        *(
            row(f"theme_{name}", f"Theme: {words}", (), about, partial(window.use_theme, name))
            for name, words, about in (
                ("day", "Day", "Paper and ink."),
                ("dusk", "Dusk", "For dark rooms."),
                ("stark", "Stark", "Black on white, for eyes that need it."),
            )
        ),
        row("settings", "Settings", ("Ctrl+Alt+S",), "What holds for all projects.",
            later.opened.open_settings),
        row("steps", "First steps", (), "Seven, which watch what you do.", later.first_hour.steps.begin),
        row("guide", "Guide", ("F1",), "At the stage you are in.", later.opened.open_guide),
        row("find", "Find a command", ("Ctrl+Shift+F",), "This list.", later.open_finder),
    ]  # fmt: skip


def _findings(window: WindowFrame, later: LaterParts) -> list[Command]:
    bar = window.findings
    row = Rows("Findings").row

    def found() -> str:
        return "" if bar.finding else "Nothing was found."

    def curable() -> str:
        return "" if bar.finding and bar.finding.fix else "It has no ready cure."

    return [
        row("show", "Show the finding", ("F8",), "Go to its place.", bar.show_place, found),
        row("fix", "Fix the finding", ("Shift+F8",), "With the cure on the button.", bar.fix, curable),
        row("list", "All findings", ("Ctrl+F8",), "On a page of their own.", later.opened.open_findings),
    ]


def _stages(window: WindowFrame) -> list[Command]:
    rows = []
    for number, stage in enumerate(window.stages.values(), 1):
        go, words = partial(window.turn_to, stage.key), f"Go to {stage.title}"
        rows.append(Rows("Stages").row(stage.key, words, (f"Alt+{number}",), "Another step of the work.", go))
        for tool in stage.tools:
            words, use = f"{stage.title}: {tool.words}", partial(stage.use, tool.id)
            name = f"tool.{stage.key}.{tool.id}"
            rows.append(
                Command(name, words, (tool.key,), tool.help, use, stages=(stage.key,), group=stage.title)
            )
    return rows


def _select_all(session: Session) -> None:
    sheet = session.selection.sheet
    if sheet is not None:
        session.selection.choose_cells(tuple(c.id for c in sheet.cells))


def _rename_cell(window: WindowFrame) -> None:
    cell = window.session.selection.cell
    if cell is not None and not window.strip.film.edit_name(cell):
        window.session.tell(
            "told",
            f"The Strip shows frames, and {cell.name} is none of them.",
            "Press Cells in the Strip first.",
        )


def _same_cut(window: WindowFrame) -> None:
    from rushweed.ui.stages.cut.stage import CutStage

    sheet, cut = window.session.selection.sheet, window.stage("cut")
    assert isinstance(cut, CutStage)
    if sheet is not None and sheet.cut is not None:
        cut.making.take(sheet.cut)


def _next_theme(window: WindowFrame) -> None:
    names = list(THEMES)
    window.use_theme(names[(names.index(window.look.theme) + 1) % len(names)])
