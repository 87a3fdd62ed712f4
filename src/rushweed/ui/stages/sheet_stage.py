"""A stage that shows the current sheet: its picture, its cells, how they are selected, and its tools."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk import rulers
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.stages.sheet_pointer import SheetPointer, SheetTool


class SheetStage(Stage):
    """A stage that shows the current sheet with its cells. Its tools say what the pointer and the keys do."""

    dims_waste = True
    rules_ink = False  # whether the rulers show how much of each column and row is art

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.pointer = SheetPointer(context)

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
        chosen = self.session.selection.cells
        sheets.crop_marks(painter, view, room, sheet, chosen)
        sheets.selection(painter, view, room, sheet.source.size, chosen, self.pointer.hovered)
        self.paint_marks(painter, room, sheet)
        self.pointer.selecting.paint(painter, room)

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
            chosen = self.desk.sheet_painter.chosen_rects(self.session.selection.cells)
            rulers.cells(band, grid, chosen, profile)

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
        self.pointer.moved(at)
        self.active.hover(at)

    def leave(self) -> None:
        self.pointer.hovered = None

    def press(self, at: DeskEvent) -> None:
        self.pointer.at = at
        self.active.press(at)

    def drag(self, at: DeskEvent) -> None:
        self.pointer.at = at
        self.active.drag(at)

    def cancel(self) -> None:
        self.pointer.selecting.cancel()
        super().cancel()

    def key_pressed(self, event: QKeyEvent) -> bool:
        return self.active.key_pressed(event) or self.pointer.selecting.key_pressed(event)
