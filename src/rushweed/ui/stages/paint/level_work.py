"""What is done with the level as a whole: made, copied, ordered, gone about in."""

from __future__ import annotations

import re

from PyQt6.QtWidgets import QInputDialog

from rushweed.core.document.edit import remove_level
from rushweed.core.document.model.project import Project
from rushweed.core.level.layers import add_backdrop, show_alone
from rushweed.core.level.levels import add_level, duplicate_level, move_level
from rushweed.ui.kit.text import many
from rushweed.ui.stages.paint.room_rows import RoomRows
from rushweed.ui.stages.paint.state import PaintState


class LevelWork:
    """The commands of Paint that work on levels."""

    def __init__(self, state: PaintState, rooms: RoomRows) -> None:
        self.state, self.session, self.rooms = state, state.session, rooms

    def next_room(self, by: int) -> None:
        level = self.session.selection.level
        if level is None or not level.rooms:
            self.session.tell("told", "This level has no rooms yet.", "Press Q and drag one.")
            return
        ids = [room.id for room in level.rooms]
        chosen = self.state.room_id
        now = ids.index(chosen) if chosen in ids else -1 if by > 0 else 0
        self.rooms.go_to(ids[(now + by) % len(ids)])

    def new_level(self) -> None:
        """A level with the cell size of the sheet shown, or of the first one that is cut."""
        sheets = [s for s in (self.session.selection.sheet, *self.session.project.sheets) if s and s.cells]
        if not sheets:
            self.session.tell(
                "fault",
                "A level takes its cell size from its tiles, and no sheet is cut yet.",
                "Cut one first.",
            )
            return
        size = (sheets[0].cells[0].rect[2], sheets[0].cells[0].rect[3])
        made = ""

        def change(project: Project) -> Project:
            nonlocal made
            project, made = add_level(project, "level", size)
            return project

        if self.session.document.edit("Make a level", change):
            self.session.selection.choose_level(made)
            self.session.go("paint")

    def remove_level(self) -> None:
        level = self.session.selection.level
        if level is not None:
            self.session.document.edit(f"Remove {level.name}", lambda p: remove_level(p, level.id))

    def backdrop(self) -> None:
        """Put the sheet shown behind the level."""
        level, sheet = self.session.selection.level, self.session.selection.sheet
        if level is None or sheet is None:
            return
        top = float(level.bounds[1] * level.cell[1])
        self.session.document.edit(
            f"Put {sheet.name} behind {level.name}", lambda p: add_backdrop(p, level.id, sheet.id, 0.1, top)
        )

    def duplicate_level(self) -> None:
        level, made = self.session.selection.level, ""

        def change(project: Project) -> Project:
            nonlocal made
            project, made = duplicate_level(project, self.session.selection.level_id)
            return project

        if level is not None and self.session.document.edit(f"Duplicate {level.name}", change):
            self.session.selection.choose_level(made)

    def move_level(self, later: int) -> None:
        level_id = self.session.selection.level_id
        self.session.document.edit("Move a level", lambda p: move_level(p, level_id, later))

    def show_alone(self) -> None:
        ids = self.session.selection.level_id, self.session.selection.layer_id
        self.session.document.edit("Show a layer alone", lambda p: show_alone(p, *ids))

    def next_grid(self) -> None:
        """Lines every 1, 2, 4, 8 or 16 cells."""
        self.state.every = self.state.every * 2 if self.state.every < 16 else 1
        if not self.state.shown.grid.on:
            self.state.shown.grid.show_value(True)
        self.session.tell("told", f"A cross every {many(self.state.every, 'cell')}.")
        self.state.desk.update()

    def next_symmetry(self) -> None:
        ways = [way for way, _words in self.state.stamp_line.symmetry.choices]
        self.state.stamp_line.symmetry.show_value(
            ways[(ways.index(self.state.stamp_line.symmetry.value or "none") + 1) % len(ways)]
        )
        self.state.desk.update()

    def go_to_cell(self) -> None:
        """Ask for a column and row, and look there."""
        level = self.session.selection.level
        if level is None:
            return
        here = f"{self.state.at[0]}, {self.state.at[1]}" if self.state.at is not None else "0, 0"
        text, held = QInputDialog.getText(self.state.desk, "Go to a cell", "Column, row", text=here)
        numbers = re.findall(r"-?\d+", text) if held else []
        if len(numbers) == 2:
            x, y = (int(n) for n in numbers)
            self.state.desk.look_at((x + 0.5) * level.cell[0], (y + 0.5) * level.cell[1])
        elif held:
            self.session.tell("fault", f"{text!r} is no cell.", "Type a column and a row, such as 12, 4.")
