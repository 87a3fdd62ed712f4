"""What all tools of Shape share."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtGui import QPainter

from rushweed.core.document.model.shape import Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.ui.stages.shape.editing import ShapeEditing
from rushweed.ui.stages.shape.role_line import RoleLine
from rushweed.ui.stages.sheet_pointer import SheetPointer, SheetTool


class ShapeHands(NamedTuple):
    """What the tools work with."""

    pointer: SheetPointer
    roles: RoleLine
    editing: ShapeEditing


class ShapeTool(SheetTool):
    """A tool that works the cells of a sheet. The flags say what the stage shows while it is in use."""

    group = 1
    page = 0  # of the card
    dims = True  # tiles without shapes are dimmed, where that is wished
    shows_shapes = True
    reshapes = False  # the selected shape has its corners shown, to be dragged

    def __init__(self, hands: ShapeHands) -> None:
        super().__init__(hands.pointer)
        self.roles, self.editing = hands.roles, hands.editing

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

    def paint_over(self, painter: QPainter) -> None:
        """Its marks on the sheet, over the shapes."""
