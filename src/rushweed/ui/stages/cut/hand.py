"""The gestures of cutting by hand: drawing and moving boxes, splitting by a line, moving guides."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.cut import guides, hand
from rushweed.core.cut.heirs import Rect
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model import Cell, GuidesCut, Project, Sheet
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.text import many

if TYPE_CHECKING:
    from rushweed.ui.stages.cut.stage import CutStage

NEAR = 6  # screen px within which an edge or a guide is caught
SHAPES = {
    "l": Qt.CursorShape.SizeHorCursor, "r": Qt.CursorShape.SizeHorCursor,
    "t": Qt.CursorShape.SizeVerCursor, "b": Qt.CursorShape.SizeVerCursor,
    "lt": Qt.CursorShape.SizeFDiagCursor, "rb": Qt.CursorShape.SizeFDiagCursor,
    "rt": Qt.CursorShape.SizeBDiagCursor, "lb": Qt.CursorShape.SizeBDiagCursor,
}  # fmt: skip


class HandGestures:
    """What the pointer does with the tools that cut by hand. While it is down the project is a preview."""

    def __init__(self, stage: CutStage) -> None:
        self.stage, self.session = stage, stage.session
        self._start: tuple[float, float] | None = None
        self._drawn: Rect | None = None
        self._sides: str | None = None  # the edges caught, "" for the whole cell
        self._moved = (0, 0)
        self._guide: tuple[int, int] | None = None  # axis, index
        self._at: DeskEvent | None = None

    # -- the pointer -------------------------------------------------------------------------------

    def press(self, at: DeskEvent) -> None:
        self._start, self._moved, self._drawn = (at.x, at.y), (0, 0), None
        tool, sheet = self.stage.tool, self.session.selection.sheet
        if sheet is None:
            return
        if tool == "split":
            self._split(at)
        elif tool == "guide":
            self._press_guide(at, sheet)
        else:
            self._sides = self.sides(at)
            if self._sides is None:
                cell = self.stage.cell_under(at)
                if cell is not None:
                    self.stage.selecting.pick(cell, at.ctrl, at.shift)
                    self._sides = "" if cell.id in self.session.selection.cell_ids else None
                    if self._sides is None:
                        self._start = None

    def drag(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        if self._start is None or sheet is None:
            return
        self._at = at
        dx, dy = round(at.x - self._start[0]), round(at.y - self._start[1])
        if self.stage.tool == "guide":
            self._drag_guide(at)
        elif self.stage.tool == "box" and self._sides is not None:
            if at.shift and self._sides == "":  # one direction only
                dx, dy = (dx, 0) if abs(dx) >= abs(dy) else (0, dy)
            self._moved = (dx, dy)
            self.session.document.preview(self._change(sheet))
        elif self.stage.tool == "box":
            x0, y0 = (
                sorted((round(self._start[0]), round(at.x))),
                sorted((round(self._start[1]), round(at.y))),
            )
            self._drawn = (x0[0], y0[0], x0[1] - x0[0], y0[1] - y0[0])

    def release(self, at: DeskEvent) -> None:
        sheet, ids = self.session.selection.sheet, self.session.selection.cell_ids
        start, self._start = self._start, None
        if sheet is None or start is None:
            return
        if self.stage.tool == "guide":
            self._release_guide()
        elif self._drawn is not None:
            drawn, self._drawn = self._drawn, None
            if drawn[2] and drawn[3]:
                self.stage.edit_choosing("Draw a cell", partial(_draw, sheet_id=sheet.id, rect=drawn))
        elif self._sides is not None and self._moved != (0, 0):
            words = "Move" if self._sides == "" else "Resize"
            self.session.document.edit(f"{words} {many(len(ids), 'cell')}", self._change(sheet))
        elif self.stage.tool == "box" and self._sides is None and not at.ctrl:
            self.session.selection.choose_cells(())
        self._sides = None

    def hover(self, at: DeskEvent) -> None:
        self._at = at

    def cancel(self) -> None:
        self._start = self._drawn = self._sides = self._guide = None

    def _change(self, sheet: Sheet):  # type: ignore[no-untyped-def]
        dx, dy = self._moved
        ids = set(self.session.selection.cell_ids)
        if self._sides:
            return partial(hand.drag_edges, sheet_id=sheet.id, cell_ids=ids, sides=self._sides, dx=dx, dy=dy)
        return partial(hand.move_cells, sheet_id=sheet.id, cell_ids=ids, dx=dx, dy=dy)

    def cursor(self) -> Qt.CursorShape:
        at = self._at
        if at is None:
            return Qt.CursorShape.CrossCursor
        if self.stage.tool == "guide":
            found = self._guide or self._guide_at(at)
            if found is None:
                return Qt.CursorShape.CrossCursor
            return Qt.CursorShape.SplitHCursor if found[0] == 0 else Qt.CursorShape.SplitVCursor
        if self.stage.tool == "box":
            sides = self._sides if self._start is not None else self.sides(at)
            if sides:
                return SHAPES[sides]
            cell = self.stage.cell_under(at)
            if sides == "" or cell is not None:
                return Qt.CursorShape.SizeAllCursor
        return Qt.CursorShape.CrossCursor

    # -- boxes -------------------------------------------------------------------------------------

    def sides(self, at: DeskEvent) -> str | None:
        """The edges of a selected cell under the pointer, "" for its inside, None for no such cell."""
        zoom = self.stage.desk.view.zoom
        near = NEAR / zoom
        for cell in reversed(self.session.selection.cells):
            x, y, w, h = cell.rect
            if not (x - near <= at.x <= x + w + near and y - near <= at.y <= y + h + near):
                continue
            reach = min(near, w / 3), min(near, h / 3)  # a small cell keeps an inside to move it by
            sides = "l" if at.x < x + reach[0] else "r" if at.x > x + w - reach[0] else ""
            sides += "t" if at.y < y + reach[1] else "b" if at.y > y + h - reach[1] else ""
            return sides
        return None

    # -- splitting ---------------------------------------------------------------------------------

    def split_line(self, at: DeskEvent) -> tuple[Cell, list[int], list[int]] | None:
        """The cell under the pointer and where a press would split it: across, with Shift down."""
        cell = self.stage.cell_under(at)
        if cell is None:
            return None
        across, down = round(at.x) - cell.rect[0], round(at.y) - cell.rect[1]
        return (cell, [], [down]) if at.shift else (cell, [across], [])

    def _split(self, at: DeskEvent) -> None:
        sheet, line = self.session.selection.sheet, self.split_line(at)
        if sheet is None or line is None:
            return
        cell, across, down = line
        ids = self.session.selection.cell_ids if cell.id in self.session.selection.cell_ids else (cell.id,)
        change = partial(hand.split_cells, sheet_id=sheet.id, cell_ids=ids, across=across, down=down)
        self.stage.edit_choosing(f"Split {many(len(ids), 'cell')}", change)
        self._start = None

    # -- guides ------------------------------------------------------------------------------------

    def _cut(self) -> GuidesCut | None:
        sheet = self.session.selection.sheet
        return sheet.cut if sheet is not None and isinstance(sheet.cut, GuidesCut) else None

    def _guide_at(self, at: DeskEvent) -> tuple[int, int] | None:
        """Axis and index of the guide under the pointer."""
        cut = self._cut()
        if cut is None:
            return None
        near = NEAR / self.stage.desk.view.zoom
        found = []
        for axis, lines in ((0, cut.columns), (1, cut.rows)):
            away = [abs((at.x, at.y)[axis] - line) for line in lines]
            best = min(range(len(lines)), key=away.__getitem__)
            if away[best] <= near:
                found.append((away[best], axis, best))
        return min(found)[1:] if found else None

    def _press_guide(self, at: DeskEvent, sheet: Sheet) -> None:
        cut = self._cut()
        if cut is None:
            self.stage.start_guides()
            return
        self._guide = self._guide_at(at)
        if self._guide is None:
            axis = 1 if at.shift else 0
            place = round((at.x, at.y)[axis])
            try:
                more = guides.add_guide(cut, axis, place, sheet.source.size)
            except RushweedError as error:
                self.session.tell("fault", error.problem, error.cure)
                return
            self.stage.take(more, "Add a guide")
        elif at.right:
            axis, index = self._guide
            self._guide = None
            try:
                fewer = guides.remove_guide(cut, axis, index)
            except RushweedError as error:
                self.session.tell("fault", error.problem, error.cure)
                return
            self.stage.take(fewer, "Remove a guide")

    def _moved_guide(self) -> GuidesCut | None:
        before, sheet = self.stage.cut_before(), self.session.selection.sheet
        if self._guide is None or self._at is None or sheet is None or not isinstance(before, GuidesCut):
            return None
        axis, index = self._guide
        return guides.move_guide(
            before, axis, index, round((self._at.x, self._at.y)[axis]), sheet.source.size
        )

    def _drag_guide(self, at: DeskEvent) -> None:
        moved = self._moved_guide()
        if moved is not None:
            self.stage.try_cut(moved)

    def _release_guide(self) -> None:
        moved, self._guide = self._moved_guide(), None
        if moved is not None and moved != self.stage.cut_before():
            self.stage.take(moved, "Move a guide")

    # -- painting ----------------------------------------------------------------------------------

    def paint(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        view, look = self.stage.desk.view, self.stage.look
        cut = self._cut()
        if cut is not None:
            self._paint_guides(painter, room, sheet, cut)
        if self.stage.tool == "box":
            if self._drawn is not None:
                box = view.rect(*self._drawn)
                paint_corners(painter, box, 14, look.colour("art_rust"), look.colour("art_paper"))
                painter.setPen(QPen(look.colour("art_rust"), 1, Qt.PenStyle.DashLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)
                words = f"{self._drawn[2]} × {self._drawn[3]} px"
                tag(painter, look, box.right() + 6, box.bottom() + 6, words, rust=True)
            for cell in self.session.selection.cells[:64]:
                self._paint_grips(painter, view.rect(*cell.rect))
            moving = self._start is not None and self._sides is not None and self.session.selection.cells
            if moving and self._moved != (0, 0):
                x, y, w, h = self.session.selection.cells[0].rect
                words = f"{x}, {y}" if self._sides == "" else f"{w} × {h} px"
                box = view.rect(x, y, w, h)
                tag(painter, look, box.right() + 6, box.bottom() + 6, words, rust=True)
        elif self.stage.tool == "split" and self._at is not None and self._start is None:
            line = self.split_line(self._at)
            if line is not None:
                self._paint_split(painter, *line)

    def _paint_grips(self, painter: QPainter, box: QRectF) -> None:
        """A short bar on each edge to take hold of."""
        look = self.stage.look
        if box.width() < 24 or box.height() < 24:
            return
        box = box.adjusted(-1, -1, 1, 1)
        middle = box.center()
        bars = [
            QLineF(middle.x() - 5, box.top(), middle.x() + 5, box.top()),
            QLineF(middle.x() - 5, box.bottom(), middle.x() + 5, box.bottom()),
            QLineF(box.left(), middle.y() - 5, box.left(), middle.y() + 5),
            QLineF(box.right(), middle.y() - 5, box.right(), middle.y() + 5),
        ]
        for colour, wide in ((look.colour("art_paper"), 6), (look.colour("art_rust"), 3)):
            painter.setPen(QPen(colour, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.SquareCap))
            for bar in bars:
                painter.drawLine(bar)

    def _paint_split(self, painter: QPainter, cell: Cell, across: list[int], down: list[int]) -> None:
        view, look = self.stage.desk.view, self.stage.look
        x, y, w, h = cell.rect
        box = view.rect(x, y, w, h)
        lines = [view.to_screen(x + v, y).x() for v in across], [view.to_screen(x, y + v).y() for v in down]
        for colour, wide in ((look.colour("art_paper"), 3), (look.colour("art_rust"), 1)):
            painter.setPen(QPen(colour, wide, Qt.PenStyle.SolidLine))
            for px in lines[0]:
                painter.drawLine(QLineF(px, box.top() - 6, px, box.bottom() + 6))
            for py in lines[1]:
                painter.drawLine(QLineF(box.left() - 6, py, box.right() + 6, py))
        words = f"{across[0]} | {w - across[0]}" if across else f"{down[0]} | {h - down[0]}"
        tag(painter, look, box.right() + 6, box.bottom() + 6, words, rust=True)

    def _paint_guides(self, painter: QPainter, room: QRectF, sheet: Sheet, cut: GuidesCut) -> None:
        """A hairline across the sheet for each guide, with a flag outside it to see it by."""
        view, look = self.stage.desk.view, self.stage.look
        hot = None
        if self.stage.tool == "guide" and self._at is not None:
            hot = self._guide or self._guide_at(self._at)
        box = view.rect(0, 0, *sheet.source.size)
        for axis, lines in ((0, cut.columns), (1, cut.rows)):
            gap = cut.spacing[axis]
            for index, value in enumerate(lines):
                at = view.to_screen(value, value)
                active = hot == (axis, index)
                colour = look.colour("art_rust" if active else "art_straw")
                places = {value, value - gap} if index > 0 else {value}
                for place in places:
                    px = view.to_screen(place, place)
                    line = (
                        QLineF(px.x(), box.top(), px.x(), box.bottom()) if axis == 0
                        else QLineF(box.left(), px.y(), box.right(), px.y())
                    )  # fmt: skip
                    painter.setPen(QPen(look.colour("art_casing", 0.45), 3))
                    painter.drawLine(line)
                    painter.setPen(QPen(colour, 1))
                    painter.drawLine(line)
                flag = (
                    [(at.x() - 5, box.top() - 10), (at.x() + 5, box.top() - 10), (at.x(), box.top() - 2)]
                    if axis == 0
                    else [
                        (box.left() - 10, at.y() - 5),
                        (box.left() - 10, at.y() + 5),
                        (box.left() - 2, at.y()),
                    ]
                )
                painter.setPen(QPen(look.colour("art_ink"), 1))
                painter.setBrush(colour)
                painter.drawPolygon(QPolygonF([QPointF(*p) for p in flag]))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                if active:
                    tag(painter, look, at.x() + 8 if axis == 0 else box.left() + 4,
                        box.top() + 4 if axis == 0 else at.y() + 4, f"{value} px", rust=True)  # fmt: skip


def _draw(project: Project, sheet_id: str, rect: Rect) -> tuple[Project, tuple[str, ...]]:
    project, made = hand.draw_cell(project, sheet_id, rect)
    return project, (made,)
