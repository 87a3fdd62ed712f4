"""The pointer over the sheet that is shown, and the tools that follow it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

from rushweed.core.document.model.sheet import Cell
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.tool import Tool
from rushweed.ui.stages.select_cells import SelectCells


class SheetPointer:
    """Where the pointer is on the sheet, the cell under it, and how cells are selected with it."""

    def __init__(self, context: Context) -> None:
        self.context, self.session, self.desk = context, context.session, context.desk
        self.at: DeskEvent | None = None  # where it was last
        self.hovered: Cell | None = None
        self.selecting = SelectCells(context, self.cell_under)

    def moved(self, at: DeskEvent) -> None:
        self.at, self.hovered = at, self.cell_under(at)

    def cell_under(self, at: DeskEvent) -> Cell | None:
        sheet = self.session.selection.sheet
        return self.desk.cell_index.at(sheet, at.x, at.y) if sheet else None

    def cells_along(self, start: tuple[float, float] | None, at: DeskEvent) -> list[Cell]:
        """The cells under a stroke from a place, sheet px, to the pointer, so that a quick one skips none."""
        sheet = self.session.selection.sheet
        if sheet is None or not sheet.cells:
            return []
        x0, y0 = start or (at.x, at.y)
        step = max(min(min(c.rect[2:]) for c in sheet.cells[:64]) / 2, 1)
        count = min(int(max(abs(at.x - x0), abs(at.y - y0)) / step) + 1, 2048)
        places = ((x0 + (at.x - x0) * i / count, y0 + (at.y - y0) * i / count) for i in range(count + 1))
        found = (self.desk.cell_index.at(sheet, x, y) for x, y in places)
        return list({c.id: c for c in found if c is not None}.values())


class SheetTool(Tool):
    """Where it does nothing of its own with the pointer, cells are selected."""

    def __init__(self, pointer: SheetPointer) -> None:
        super().__init__()
        self.pointer, self.context = pointer, pointer.context
        self.session, self.look, self.desk = self.context.session, self.context.look, self.context.desk

    def taken(self) -> None:
        """It comes into use."""

    def press(self, at: DeskEvent) -> None:
        self.pointer.selecting.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.pointer.selecting.drag(at)

    def release(self, at: DeskEvent) -> None:
        self.pointer.selecting.release(at)

    def hover(self, at: DeskEvent) -> None:
        """The pointer is somewhere else."""

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Whether a key meant anything here."""
        return False


class Point(SheetTool):
    id, words, icon, key, help = (
        SelectCells.id, SelectCells.words, SelectCells.icon, SelectCells.key, SelectCells.help,
    )  # fmt: skip

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ArrowCursor
