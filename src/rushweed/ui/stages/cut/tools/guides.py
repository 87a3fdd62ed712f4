"""Guides across a sheet: added, moved, removed."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.cut import guides
from rushweed.core.cut.grid import grid_of
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.cut import CountCut, Cut, GuidesCut
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.cut.proposals import CutProposals
from rushweed.ui.stages.cut.tools.tool import CutHands, CutTool

NEAR = 6  # screen px within which a guide is caught


class MoveGuides(CutTool):
    id, words, icon, key = "guide", "Guides", "columns", "G"
    help = "Drag a guide; press beside one to add another, Shift for a row; right click removes"
    group = 2

    def __init__(self, hands: CutHands, proposals: CutProposals) -> None:
        super().__init__(hands)
        self._proposals = proposals
        self._guide: tuple[int, int] | None = None  # axis, index

    def fits(self, cut: Cut | None) -> bool:
        return isinstance(cut, GuidesCut)

    def taken(self) -> None:
        self.start()

    def start(self) -> None:
        """Guides from the grid the sheet has, or from the best one proposed, or one around all of it."""
        sheet = self.session.selection.sheet
        if sheet is None or isinstance(sheet.cut, GuidesCut):
            return
        grid = self.desk.sheet_painter.grid(sheet)
        if grid is None:
            found = self._proposals.of(sheet)
            grids = found.choices.grids if found is not None else []
            first = grids[0].cut() if grids else CountCut(1, 1)
            grid = grid_of(first, sheet.source.size, sheet.name)
        self.making.take(guides.guides_of(grid), f"Guides on {sheet.name}")

    def cancel(self) -> None:
        self._guide = None

    def cursor(self) -> Qt.CursorShape:
        found = self._guide or (self._guide_at(self.pointer.at) if self.pointer.at is not None else None)
        if found is None:
            return Qt.CursorShape.CrossCursor
        return Qt.CursorShape.SplitHCursor if found[0] == 0 else Qt.CursorShape.SplitVCursor

    def _cut(self) -> GuidesCut | None:
        sheet = self.session.selection.sheet
        return sheet.cut if sheet is not None and isinstance(sheet.cut, GuidesCut) else None

    def _guide_at(self, at: DeskEvent) -> tuple[int, int] | None:
        """Axis and index of the guide under the pointer."""
        cut = self._cut()
        if cut is None:
            return None
        near = NEAR / self.desk.view.zoom
        found = []
        for axis, lines in ((0, cut.columns), (1, cut.rows)):
            away = [abs((at.x, at.y)[axis] - line) for line in lines]
            best = min(range(len(lines)), key=away.__getitem__)
            if away[best] <= near:
                found.append((away[best], axis, best))
        return min(found)[1:] if found else None

    def press(self, at: DeskEvent) -> None:
        sheet, cut = self.session.selection.sheet, self._cut()
        if sheet is None:
            return
        if cut is None:
            self.start()
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
            self.making.take(more, "Add a guide")
        elif at.right:
            axis, index = self._guide
            self._guide = None
            try:
                fewer = guides.remove_guide(cut, axis, index)
            except RushweedError as error:
                self.session.tell("fault", error.problem, error.cure)
                return
            self.making.take(fewer, "Remove a guide")

    def _moved_guide(self) -> GuidesCut | None:
        before, sheet = self.making.cut_before(), self.session.selection.sheet
        at = self.pointer.at
        if self._guide is None or at is None or sheet is None or not isinstance(before, GuidesCut):
            return None
        axis, index = self._guide
        return guides.move_guide(before, axis, index, round((at.x, at.y)[axis]), sheet.source.size)

    def drag(self, at: DeskEvent) -> None:
        moved = self._moved_guide()
        if moved is not None:
            self.making.try_cut(moved)

    def release(self, at: DeskEvent) -> None:
        moved, self._guide = self._moved_guide(), None
        if moved is not None and moved != self.making.cut_before():
            self.making.take(moved, "Move a guide")

    def paint_guides(self, painter: QPainter, in_use: bool) -> None:
        """A hairline across the sheet for each guide, with a flag outside it to see it by; also while another
        tool is in use."""
        sheet, cut = self.session.selection.sheet, self._cut()
        if sheet is None or cut is None:
            return
        view, look = self.desk.view, self.look
        hot = None
        if in_use and self.pointer.at is not None:
            hot = self._guide or self._guide_at(self.pointer.at)
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
