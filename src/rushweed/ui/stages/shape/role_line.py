"""The line over the Desk in Shape: what a shape is for, and where its corners stop."""

from __future__ import annotations

from typing import get_args

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.model.shape import Role, Shape, Side
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.primitives import Snap, snapped
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, label

ROLES = [("solid", "Solid"), ("one-way", "One-way"), ("sensor", "Sensor")]
SNAPS = [("px", "px"), ("half", "½ px"), ("quarter", "¼ cell"), ("free", "free")]


class RoleLine(QObject):
    """Its parts stand in the option line. `chosen` tells that a person chose a role or its side."""

    chosen = pyqtSignal()

    def __init__(self, context: Context, marks: ShapeMarks) -> None:
        super().__init__()
        look = context.look
        self.role = ChoiceRow(look, ROLES, marks.sample)
        self.role.edited.connect(lambda _role: self.chosen.emit())
        self._blocks_from = PickBox(look, get_args(Side))
        self._blocks_from.setToolTip(
            "The side of a one-way shape that stops; the comb hangs where things pass"
        )
        self._blocks_from.picked.connect(lambda _side: self._choose_side())
        self._blocks_from_name = label("Blocks from")
        self._snap = ChoiceRow(look, SNAPS)
        self.dim = Check(look, context.icons, "Dim tiles without")
        self.dim.show_value(True)
        self.parts = (
            self.role,
            self._blocks_from_name,
            self._blocks_from,
            4,
            label("Snap"),
            self._snap,
            4,
            self.dim,
            None,
        )

    def _choose_side(self) -> None:
        """Only a one-way shape has one."""
        self.role.show_value("one-way")
        self.chosen.emit()

    def refresh(self, shapes: list[Shape]) -> None:
        """Show the role of these, or that they differ; without any it stays as chosen."""
        roles = {s.role for s in shapes}
        if len(roles) == 1:
            self.role.show_value(roles.pop())
            self._blocks_from.setCurrentText(shapes[0].blocks_from)
        elif roles:
            self.role.show_value(None)
        one_way = self.role.value == "one-way"
        self._blocks_from.setVisible(one_way)
        self._blocks_from_name.setVisible(one_way)

    def role_now(self) -> tuple[Role, Side]:
        role, side = self.role.value or "solid", self._blocks_from.currentText()
        return role, side  # type: ignore[return-value]

    def snap_now(self) -> Snap:
        return self._snap.value or "px"  # type: ignore[return-value]

    def snapped_in(self, cell: Cell, at: DeskEvent) -> tuple[float, float]:
        snap = self.snap_now()
        x, y = at.x - cell.rect[0], at.y - cell.rect[1]
        x, y = snapped(x, snap, cell.rect[2]), snapped(y, snap, cell.rect[3])
        return min(max(x, 0), cell.rect[2]), min(max(y, 0), cell.rect[3])
