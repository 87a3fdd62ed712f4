"""Line, rectangle, fill and replace: the stamp over a whole form at once."""

from __future__ import annotations

import numpy as np

from rushweed.core.document.model import Project
from rushweed.core.level.autopaint import paint_auto
from rushweed.core.level.brush import line, rectangle
from rushweed.core.level.edit import fill, fill_spots, paint, paint_pattern
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.stages.paint.tools.tool import PaintTool, Place


class Line(PaintTool):
    id, words, icon, key, group = "line", "Line", "line-segment", "L", 1
    help = "Drag a line of the stamp"
    paints = warns = spans = True

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        stamp, auto, ids = self.ready_stamp(), self.auto_set(), self.ids
        if stamp is not None:
            spots = self.on_pattern(line(*start, *end), stamp, start)
            self.session.document.edit(
                f"Draw a line on {self.layer_name}",
                lambda p: paint_auto(p, *ids, auto, spots) if auto else paint(p, *ids, stamp, spots),
            )
            self.caution(spots)


class Rectangle(PaintTool):
    id, words, icon, key, group = "box", "Rectangle", "rectangle", "R", 1
    help = "Drag a rectangle; Shift paints only its outline"
    paints = warns = spans = True

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        stamp, auto, ids = self.ready_stamp(), self.auto_set(), self.ids
        if stamp is not None:
            spots, chance = rectangle(*start, *end, at.shift), self.stage.chance()
            self.session.document.edit(
                f"Draw a rectangle on {self.layer_name}",
                lambda p: paint_auto(p, *ids, auto, spots) if auto
                else paint_pattern(p, *ids, stamp, spots, chance),
            )  # fmt: skip
            self.caution(spots)


class Fill(PaintTool):
    id, words, icon, key, group = "fill", "Fill", "paint-bucket", "F", 1
    help = "Fill joined cells that hold the same"
    paints = warns = True
    verb, everywhere = "Fill", False

    def press(self, at: DeskEvent) -> None:
        cell, stamp = self.stage.cell(at), self.ready_stamp()
        if stamp is None:
            return
        ids, auto, chance, everywhere = self.ids, self.auto_set(), self.stage.chance(), self.everywhere

        def change(project: Project) -> Project:
            if auto is None:
                return fill(project, *ids, stamp, *cell, everywhere, chance)
            return paint_auto(project, *ids, auto, fill_spots(project, *ids, *cell, everywhere))

        self.session.document.edit(f"{self.verb} on {self.layer_name}", change)
        self.caution((np.array([cell[0]]), np.array([cell[1]])))


class Replace(Fill):
    id, words, icon, key = "swap", "Replace", "swap", "X"
    help = "Replace all cells of the layer that hold the same"
    verb, everywhere = "Replace", True
