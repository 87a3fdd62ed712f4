"""A stage that shows the current sheet: its picture, its cells, and how they are selected."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen

from rushweed.core.document.model import Cell, Sheet
from rushweed.ui.desk import rulers
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session

ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
POINT = Tool("point", "Select", "cursor", "V", "Select cells; drag a box for many, Ctrl adds")


class SheetStage(Stage):
    """A stage that shows the current sheet with its cells."""

    dims_waste = True
    rules_ink = False  # whether the rulers show how much of each column and row is art

    def __init__(self, session: Session, look: Look, icons: Icons) -> None:
        super().__init__(session, look, icons)
        self.hovered: Cell | None = None
        self._band: tuple[QPointF, QPointF] | None = None  # rubber band, sheet px
        self._anchor: str | None = None

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
        if self._band is not None:
            box = QRectF(
                view.to_screen(self._band[0].x(), self._band[0].y()),
                view.to_screen(self._band[1].x(), self._band[1].y()),
            ).normalized()
            painter.fillRect(box, self.look.colour("art_straw", 0.18))
            painter.setPen(QPen(self.look.colour("art_ink"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(box)

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
        cell = self.cell_under(at)
        if cell is None:
            if not at.ctrl:
                self.session.selection.choose_cells(())
            self._band = (QPointF(at.x, at.y), QPointF(at.x, at.y))
            return
        self.pick(cell, at.ctrl, at.shift)
        self._band = None
        if not (at.ctrl or at.shift):
            self._anchor = cell.id

    def pick(self, cell: Cell, add: bool, span: bool) -> None:
        """Select a cell; `add` toggles it, `span` takes all from the last to it."""
        ids = self.session.selection.cell_ids
        sheet = self.session.selection.sheet
        if span and ids and sheet:
            order = [c.id for c in sheet.cells]
            a, b = order.index(ids[-1]) if ids[-1] in order else 0, order.index(cell.id)
            chosen = order[min(a, b) : max(a, b) + 1]
            self.session.selection.choose_cells((*(i for i in chosen if i != ids[-1]), ids[-1]))
        elif add:
            rest = tuple(i for i in ids if i != cell.id)
            self.session.selection.choose_cells(rest if cell.id in ids else (*rest, cell.id))
        else:
            self.session.selection.choose_cells((cell.id,))

    def drag(self, at: DeskEvent) -> None:
        if self._band is not None:
            self._band = (self._band[0], QPointF(at.x, at.y))
        elif self._anchor is not None:
            cell, sheet = self.cell_under(at), self.session.selection.sheet
            start = next((c for c in sheet.cells if c.id == self._anchor), None) if sheet else None
            if cell is not None and start is not None and sheet is not None and cell is not start:
                (ax, ay, aw, ah), (bx, by, bw, bh) = start.rect, cell.rect
                box = QRectF(min(ax, bx), min(ay, by), 0, 0)
                box.setRight(max(ax + aw, bx + bw))
                box.setBottom(max(ay + ah, by + bh))
                inside = self.desk.cell_index.within(sheet, box)
                self.session.selection.choose_cells(tuple(c.id for c in inside))

    def release(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        if self._band is not None and sheet is not None:
            box = QRectF(*self._band).normalized()
            if box.width() * self.desk.view.zoom > 4 or box.height() * self.desk.view.zoom > 4:
                inside = tuple(c.id for c in self.desk.cell_index.within(sheet, box))
                before = self.session.selection.cell_ids if at.ctrl else ()
                self.session.selection.choose_cells((*before, *(i for i in inside if i not in before)))
        self._band, self._anchor = None, None

    def cancel(self) -> None:
        self._band, self._anchor = None, None
        super().cancel()

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Arrows walk over the cells; Shift extends."""
        step = ARROWS.get(Qt.Key(event.key()))
        sheet = self.session.selection.sheet
        if step is None or sheet is None or not sheet.cells:
            return False
        now = self.session.selection.cell or sheet.cells[0]
        x, y, w, h = now.rect
        if not self.session.selection.cell:
            target = now
        else:
            near = [
                c for c in sheet.cells
                if (c.rect[0] - x) * step[0] > 0 and abs(c.rect[1] - y) < h
                or (c.rect[1] - y) * step[1] > 0 and abs(c.rect[0] - x) < w
            ]  # fmt: skip
            if not near:
                return True
            target = min(near, key=lambda c: abs(c.rect[0] - x) + abs(c.rect[1] - y))
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            rest = tuple(i for i in self.session.selection.cell_ids if i != target.id)
            self.session.selection.choose_cells((*rest, target.id))
        else:
            self.session.selection.choose_cells((target.id,))
        return True
