"""Line, rectangle, fill and replace: the stamp over a whole form at once."""

from __future__ import annotations

import numpy as np

from rushweed.core.document.model.project import Project
from rushweed.core.level.autopaint import paint_auto
from rushweed.core.level.brush import line, rectangle
from rushweed.core.level.edit import fill, fill_spots, paint, paint_pattern
from rushweed.core.level.stamp import Stamp
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.stages.paint.tools.tool import PaintTool, Place


class Line(PaintTool):
    id, words, icon, key, group = "line", "Line", "line-segment", "L", 1
    help = "Drag a line of the stamp"
    paints = warns = spans = True

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        stamp, auto, ids = self.ready_stamp(), self.auto_set(), self.ids
        if stamp is not None:
            cells = line(*start, *end)
            spots, joined = self.on_pattern(cells, stamp, start), self.mirrored_spots(cells)
            each, chance = self.mirrored(stamp, spots), self.state.stamp_line.chance()

            def change(project: Project) -> Project:
                if auto:
                    return paint_auto(project, *ids, auto, joined)
                if chance is not None:
                    return paint_pattern(project, *ids, stamp, joined, chance)
                for one, places in each:
                    project = paint(project, *ids, one, places)
                return project

            self.session.document.edit(f"Draw a line on {self.layer_name}", change)
            self.session.selection.note_painted()
            self.caution(spots)


class Rectangle(PaintTool):
    id, words, icon, key, group = "box", "Rectangle", "rectangle", "R", 1
    help = "Drag a rectangle; Shift paints only its outline"
    paints = warns = spans = True

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        stamp, auto, ids = self.ready_stamp(), self.auto_set(), self.ids
        if stamp is not None:
            spots, chance = rectangle(*start, *end, at.shift), self.state.stamp_line.chance()
            reflected = self.mirrored(
                stamp._replace(slots=stamp.slots[:1, :1], turns=stamp.turns[:1, :1]), spots
            )
            ways = [
                (one, places) for (_cell, places), one in zip(reflected, self._turned(stamp), strict=True)
            ]

            def change(project: Project) -> Project:
                if auto:
                    return paint_auto(project, *ids, auto, self.mirrored_spots(spots))
                for one, places in ways:
                    project = paint_pattern(project, *ids, one, places, chance)
                return project

            self.session.document.edit(f"Draw a rectangle on {self.layer_name}", change)
            self.session.selection.note_painted()
            self.caution(spots)

    def _turned(self, stamp: Stamp) -> list[Stamp]:
        """The whole stamp as each of the mirrored rectangles repeats it."""
        nowhere = np.zeros(1, np.int64), np.zeros(1, np.int64)
        return [one for one, _places in self.mirrored(stamp, nowhere)]


class Fill(PaintTool):
    id, words, icon, key, group = "fill", "Fill", "paint-bucket", "F", 1
    help = "Fill joined cells that hold the same"
    paints = warns = True
    verb, everywhere = "Fill", False

    def press(self, at: DeskEvent) -> None:
        cell, stamp = self.state.cell(at), self.ready_stamp()
        if stamp is None:
            return
        ids, auto, chance, everywhere = (
            self.ids,
            self.auto_set(),
            self.state.stamp_line.chance(),
            self.everywhere,
        )

        def change(project: Project) -> Project:
            if auto is None:
                if chance is None:
                    return fill(project, *ids, stamp, cell, everywhere)
                return paint_pattern(
                    project, *ids, stamp, fill_spots(project, *ids, cell, everywhere), chance
                )
            return paint_auto(project, *ids, auto, fill_spots(project, *ids, cell, everywhere))

        self.session.document.edit(f"{self.verb} on {self.layer_name}", change)
        self.caution((np.array([cell[0]]), np.array([cell[1]])))


class Replace(Fill):
    id, words, icon, key = "swap", "Replace", "swap", "X"
    help = "Replace all cells of the layer that hold the same"
    verb, everywhere = "Replace", True
