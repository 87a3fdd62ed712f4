"""Where the player starts."""

from __future__ import annotations

from rushweed.core.level.levels import set_start
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.session.gesture import Gesture
from rushweed.ui.stages.paint.tools.tool import PaintTool, Place


class Start(PaintTool):
    id, words, icon, key, group = "start", "Start", "flag", "T", 2
    help = "Press where the player starts; the right button only stands the figure somewhere to look"
    marks_cell, moves_start = False, True
    _gesture: Gesture | None = None
    looks_at: tuple[float, float] | None = None  # where the figure stands for a while
    _only_looks = False

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        self._gesture, self._only_looks = None, at.right
        self.looks_at = None
        self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        """In a side view the figure stands on the edge of a cell."""
        level = self.session.selection.level
        if self._only_looks:
            self.looks_at = (round(at.x), round(at.y))
            self.state.desk.update()
        elif level is not None and self.began is not None:
            x = round(at.x)
            y = round(at.y / level.cell[1]) * level.cell[1] if level.view == "side" else round(at.y)
            self._gesture = self._gesture or self.session.document.gesture("Move the start")
            self._gesture.replace(lambda p: set_start(p, level.id, x, y))

    def cancel(self) -> None:
        super().cancel()
        self.looks_at = None

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        if self._gesture is not None:
            self._gesture.commit("Move the start")
