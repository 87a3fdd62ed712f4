"""Leaving places of a grid out, and taking them in again."""

from __future__ import annotations

from rushweed.core.cut import guides
from rushweed.core.document.model.cut import GuidesCut
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.stages.cut.tools.tool import CutTool


class LeaveOut(CutTool):
    id, words, icon, key = "out", "Leave out or keep", "x-square", "X"
    help = "Press a place of the grid to toggle it"
    group = 2
    gives_way = False

    def press(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        grid = self.desk.sheet_painter.grid(sheet)
        if isinstance(sheet.cut, GuidesCut):
            spot = guides.guide_spot(sheet.cut, at.x, at.y)
            rect = guides.guide_rect(sheet.cut, *spot) if spot else None
        elif grid is not None:
            spot = grid.spot(at.x, at.y)
            rect = grid.rect(*spot) if spot else None
        else:
            return
        if spot is not None:
            self.by_hand.leave_out([spot], any(c.rect == rect for c in sheet.cells))
