"""A stage that shows the current sheet: its picture, its cells, how they are selected, and its tools."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.desk import rulers
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session
from rushweed.ui.stages.select_cells import SelectCells


class SheetTool(Tool):
    """Where it does nothing of its own with the pointer, cells are selected."""

    def __init__(self, stage: SheetStage) -> None:
        super().__init__()
        self.stage, self.session = stage, stage.session

    def taken(self) -> None:
        """It comes into use."""

    def press(self, at: DeskEvent) -> None:
        self.stage.selecting.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.stage.selecting.drag(at)

    def release(self, at: DeskEvent) -> None:
        self.stage.selecting.release(at)

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


class SheetStage(Stage):
    """A stage that shows the current sheet with its cells. Its tools say what the pointer and the keys do."""

    TOOLS: tuple[type[SheetTool], ...] = ()
    dims_waste = True
    rules_ink = False  # whether the rulers show how much of each column and row is art

    def __init__(self, session: Session, look: Look, icons: Icons) -> None:
        super().__init__(session, look, icons)
        self.hovered: Cell | None = None
        self.selecting = SelectCells(self, self.cell_under)
        self.at: DeskEvent | None = None  # where the pointer was last
        self.tools = [tool(self) for tool in self.TOOLS]
        self.tool = self.tools[0].id

    @property
    def active(self) -> SheetTool:
        tool = super().active
        assert isinstance(tool, SheetTool)
        return tool

    def use(self, tool: str) -> None:
        super().use(tool)
        self.active.taken()

    def view_key(self) -> str:
        return self.session.selection.sheet_id if self.session.selection.sheet else ""

    def content(self) -> QRectF:
        sheet = self.session.selection.sheet
        return QRectF(0, 0, *sheet.source.size) if sheet else super().content()

    def empty_words(self) -> tuple[str, str]:
        return (
            "Drop pictures here",
            "Files or whole folders, from your file manager or the clipboard. Or press + on the Shelf.",
        )

    def paint(self, painter: QPainter, room: QRectF) -> None:
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        desk, view = self.desk, self.desk.view
        sheets = desk.sheet_painter
        sheets.picture(painter, view, room, sheet)
        if self.dims_waste:
            sheets.waste(painter, view, room, sheet)
        sheets.pixel_grid(painter, view, room, self.content())
        self.paint_art_marks(painter, room, sheet)
        sheets.crop_marks(painter, view, room, sheet, self.session.selection.cells)
        sheets.selection(painter, view, room, self.session.selection.cells, self.hovered)
        self.paint_marks(painter, room, sheet)
        self.selecting.paint(painter, room)

    def paint_art_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        """What the stage draws under the crop marks."""

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        """What the stage draws over everything."""

    def ruler(self, band: Band) -> None:
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        grid = self.desk.sheet_painter.grid(sheet)
        if grid is None or not sheet.cells:
            rulers.even(band, Scale(1, "px"))
        else:
            inked = self.rules_ink and self.desk.images.ready
            profile = self.desk.sheet_painter.profile(sheet)[band.axis] if inked else None
            rulers.cells(band, grid, [c.rect for c in self.session.selection.cells], profile)

    def describe(self, at: DeskEvent) -> str:
        sheet = self.session.selection.sheet
        if sheet is None:
            return ""
        x, y = int(at.x // 1), int(at.y // 1)
        width, height = sheet.source.size
        ppu = sheet.tune.ppu
        text = f"{x}, {y} px   {x / ppu:.2f}, {y / ppu:.2f} u"
        cell = self.desk.cell_index.at(sheet, at.x, at.y)
        if cell is not None:
            number = next(i for i, c in enumerate(sheet.cells) if c is cell)
            text += f"   {number} {cell.name}"
        if 0 <= x < width and 0 <= y < height:
            r, g, b, a = self.session.stock.pixels_or_blank(sheet)[y, x].tolist()
            text += f"   #{r:02x}{g:02x}{b:02x}" if a else "   clear"
            if 0 < a < 255:
                text += f" {round(a / 2.55)} %"
        return text

    # -- selecting -----------------------------------------------------------------------------------

    def hover(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        self.hovered = self.desk.cell_index.at(sheet, at.x, at.y) if sheet else None
        self.at = at
        self.active.hover(at)

    def leave(self) -> None:
        self.hovered = None

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

    def press(self, at: DeskEvent) -> None:
        self.at = at
        self.active.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.at = at
        self.active.drag(at)

    def cancel(self) -> None:
        self.selecting.cancel()
        super().cancel()

    def key_pressed(self, event: QKeyEvent) -> bool:
        return self.active.key_pressed(event) or self.selecting.key_pressed(event)
