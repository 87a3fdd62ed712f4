"""Brushes over tiles: give them a common shape or a role, take their shapes away."""

from __future__ import annotations

from collections.abc import Collection

from rushweed.core.document.model.project import Project
from rushweed.core.shape.edit import clear_shapes, give_common, set_role
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.text import many
from rushweed.ui.session.gesture import Gesture
from rushweed.ui.stages.shape.board import CommonBoard
from rushweed.ui.stages.shape.tools.tool import ShapeHands, ShapeTool


class TileBrush(ShapeTool):
    """Each tile that a stroke passes is changed once; the stroke is one edit."""

    _gesture: Gesture | None = None
    _brushed: frozenset[str] = frozenset()
    _last: tuple[float, float] | None = None

    def begun(self, at: DeskEvent) -> str:
        """What the stroke does, in words, for as long as it is under way."""
        return "Brush shapes"

    def changed(self, project: Project, ids: Collection[str]) -> Project:
        """The project with these cells brushed over."""
        raise NotImplementedError

    def told(self) -> str:
        """What was done, before the number of cells."""
        raise NotImplementedError

    def press(self, at: DeskEvent) -> None:
        self._brushed, self._last = frozenset(), None
        self._gesture = self.session.document.gesture(self.begun(at))
        self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        found = {c.id for c in self.pointer.cells_along(self._last, at)} - self._brushed
        self._last = (at.x, at.y)
        if found and self._gesture is not None:
            self._brushed |= found
            ids = tuple(found)
            self._gesture.update(lambda p: self.changed(p, ids))

    def release(self, at: DeskEvent) -> None:
        if self._gesture is not None:
            self._gesture.commit(f"{self.told()} {many(len(self._brushed), 'cell')}")
        self.cancel()

    def cancel(self) -> None:
        self._brushed, self._gesture = frozenset(), None


class GiveShape(TileBrush):
    id, words, icon, key = "give", "Give a common shape", "paint-brush-broad", "G"
    help = "Brush the chosen one over tiles"

    def __init__(self, hands: ShapeHands, board: CommonBoard) -> None:
        super().__init__(hands)
        self._board = board

    def changed(self, project: Project, ids: Collection[str]) -> Project:
        return give_common(project, ids, self._board.chosen, *self.roles.role_now())

    def told(self) -> str:
        return f"Give {self._board.chosen} to"


class GiveRole(TileBrush):
    id, words, icon, key = "role", "Give a role", "swatches", "R"
    help = "Brush the chosen role over tiles that have shapes"

    def changed(self, project: Project, ids: Collection[str]) -> Project:
        return set_role(project, ids, *self.roles.role_now())

    def told(self) -> str:
        return f"Make {self.roles.role_now()[0]}"


class Erase(TileBrush):
    id, words, icon, key = "erase", "Take shapes away", "eraser", "E"
    help = "Brush over tiles to clear them"

    def changed(self, project: Project, ids: Collection[str]) -> Project:
        return clear_shapes(project, ids)

    def told(self) -> str:
        return "Clear"
