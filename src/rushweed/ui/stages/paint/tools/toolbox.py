"""The tools of Paint, the one in use and the one whose gesture is under way."""

from __future__ import annotations

from typing import TypeVar

from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.tools import TOOLS
from rushweed.ui.stages.paint.tools.tool import PaintTool

AnyTool = TypeVar("AnyTool", bound=PaintTool)


class Toolbox:
    """Makes them all."""

    def __init__(self, state: PaintState) -> None:
        self._state = state
        self.all: list[PaintTool] = [tool(state) for tool in TOOLS]
        self.held: PaintTool | None = None  # the tool whose gesture is under way

    @property
    def active(self) -> PaintTool:
        return next(tool for tool in self.all if tool.id == self._state.tool_id)

    def the(self, kind: type[AnyTool]) -> AnyTool:
        """The tool of a kind."""
        return next(tool for tool in self.all if isinstance(tool, kind))

    def covered(self) -> tuple[int, int, int, int]:
        """The cells that the gesture or the stamp covers: left, top, columns, rows."""
        assert self._state.at is not None
        return (self.held or self.active).covered(self._state.at)
