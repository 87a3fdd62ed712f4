"""The tools of Animate: shifting the frame that is shown, and where the animation moves to."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt

from rushweed.core.animate import register, timeline
from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.project import Project
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.text import many
from rushweed.ui.stages.animate.animating import Animating


class AnimateTool(Tool):
    def __init__(self, animating: Animating) -> None:
        super().__init__()
        self.animating, self.session = animating, animating.session


class ShiftFrames(AnimateTool):
    id, words, icon, key = "point", "Register by hand", "hand", "V"
    help = "Drag the frame shown; arrows nudge"
    _held: tuple[DeskEvent, tuple[str, ...]] | None = None  # where it was pressed, and the cells

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.ArrowCursor

    def press(self, at: DeskEvent) -> None:
        shown, selection = self.animating, self.session.selection
        shown.player.stop()
        animation = shown.animation
        if shown.cell_at(shown.player.place) is None or animation is None:
            return
        if shown.player.place not in selection.frames:
            selection.choose_animation(animation.id, (shown.player.place,))
        self._held = at, tuple(dict.fromkeys(animation.frames[n].cell for n in selection.frames))

    def drag(self, at: DeskEvent) -> None:
        if self._held is not None:
            self.session.document.preview(self._shift(*self._held, at))

    def release(self, at: DeskEvent) -> None:
        held, self._held = self._held, None
        if held is not None:
            self.session.document.edit(f"Shift {many(len(held[1]), 'frame')}", self._shift(*held, at))

    def cancel(self) -> None:
        self._held = None

    @staticmethod
    def _shift(start: DeskEvent, cells: tuple[str, ...], at: DeskEvent) -> Callable[[Project], Project]:
        dx, dy = round(at.x - start.x), round(at.y - start.y)
        return partial(register.nudge_cells, cell_ids=set(cells), dx=dx, dy=dy)


class DragPath(AnimateTool):
    id, words, icon, key = "path", "Path", "path", "W"
    help = "Press or drag where the animation moves to"
    group = 1

    def press(self, at: DeskEvent) -> None:
        self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        change = self._change(at)
        if change is not None:
            self.session.document.preview(change)

    def release(self, at: DeskEvent) -> None:
        change, animation = self._change(at), self.animating.animation
        if change is not None and animation is not None:
            self.session.document.edit(f"Path of {animation.name}", change)

    def _change(self, at: DeskEvent) -> Callable[[Project], Project] | None:
        """The path ends where the pointer is; it keeps what else it says."""
        animation = self.animating.animation
        if animation is None:
            return None
        project = self.session.document.history.project
        old = next((a.path for a in project.animations if a.id == animation.id), None) or Path((0, 0))
        offset = (float(round(at.x)), float(round(at.y)))
        path = Path(offset, old.ms, old.easing, old.play) if offset != (0, 0) else None
        return partial(timeline.set_path, animation_id=animation.id, path=path)
