"""What all tools of Shape share."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.model import Cell, Shape
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.tool import Tool

if TYPE_CHECKING:
    from rushweed.ui.stages.shape.stage import ShapeStage


class ShapeTool(Tool):
    """A tool that works the cells of a sheet. The flags say what the stage shows while it is in use."""

    group = 1
    page = 0  # of the card
    dims = True  # tiles without shapes are dimmed, where that is wished
    shows_shapes = True
    reshapes = False  # the selected shape has its corners shown, to be dragged

    def __init__(self, stage: ShapeStage) -> None:
        super().__init__()
        self.stage, self.session = stage, stage.session

    @property
    def ghost(self) -> tuple[Cell, Shape] | None:
        """A shape that is being drawn, and its cell."""
        return None

    @property
    def grabs(self) -> bool:
        """Whether a shape or a corner of it is held."""
        return False

    def refresh_page(self) -> None:
        """Show on its page of the card what is so by now."""

    def hover(self, at: DeskEvent) -> None:
        """The pointer is somewhere else."""

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Whether a key meant anything here."""
        return False

    def paint_over(self, painter: QPainter) -> None:
        """Its marks on the sheet, over the shapes."""
