"""Splitting cells by a line."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.cut import hand
from rushweed.core.document.model.sheet import Cell
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.text import many
from rushweed.ui.stages.cut.tools.tool import CutTool


class SplitCells(CutTool):
    id, words, icon, key = "split", "Split cells", "knife", "K"
    help = "Press where the cell parts; Shift: upper and lower"
    group = 1

    def split_line(self, at: DeskEvent) -> tuple[Cell, list[int], list[int]] | None:
        """The cell under the pointer and where a press would split it: across, with Shift down."""
        cell = self.pointer.cell_under(at)
        if cell is None:
            return None
        across, down = round(at.x) - cell.rect[0], round(at.y) - cell.rect[1]
        return (cell, [], [down]) if at.shift else (cell, [across], [])

    def press(self, at: DeskEvent) -> None:
        sheet, line = self.session.selection.sheet, self.split_line(at)
        if sheet is None or line is None:
            return
        cell, across, down = line
        ids = self.session.selection.cell_ids if cell.id in self.session.selection.cell_ids else (cell.id,)
        change = partial(hand.split_cells, sheet_id=sheet.id, cell_ids=ids, across=across, down=down)
        self.making.edit_choosing(f"Split {many(len(ids), 'cell')}", change)

    def paint(self, painter: QPainter, room: QRectF) -> None:
        line = self.split_line(self.pointer.at) if self.pointer.at is not None else None
        if line is not None:
            self._paint_split(painter, *line)

    def _paint_split(self, painter: QPainter, cell: Cell, across: list[int], down: list[int]) -> None:
        view, look = self.desk.view, self.look
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
