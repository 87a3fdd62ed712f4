"""What is done to the shapes of the selected cells by a press or a key."""

from __future__ import annotations

from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Shape
from rushweed.core.shape.edit import (
    clear_shapes,
    copy_shapes,
    give_common,
    rearrange,
    remove_shape,
    set_role,
    set_shapes,
)
from rushweed.ui.kit.text import many
from rushweed.ui.session import Session
from rushweed.ui.stages.shape.role_line import RoleLine


class ShapeEditing(QObject):
    """One edit for all cells that are selected."""

    readied = pyqtSignal(str)  # a common shape that is now the one to give

    def __init__(self, session: Session, roles: RoleLine) -> None:
        super().__init__()
        self.session, self.roles = session, roles
        self.copied: tuple[Shape, ...] | None = None

    def shape(self) -> Shape | None:
        """The one shape that is selected."""
        cell, index = self.session.selection.cell, self.session.selection.shape_index
        if cell is None or len(self.session.selection.cells) != 1 or not cell.shapes:
            return None
        return cell.shapes[index or 0] if (index or 0) < len(cell.shapes) else None

    def give_role(self) -> None:
        """Give the selected cells the role that was chosen."""
        ids, (role, side) = self.session.selection.cell_ids, self.roles.role_now()
        if any(c.shapes for c in self.session.selection.cells):
            self.session.document.edit(
                f"Make {many(len(ids), 'cell')} {role}", lambda p: set_role(p, ids, role, side)
            )

    def give(self, name: str) -> None:
        """Give the selected cells a common shape; without a selection it is only made ready to brush."""
        self.readied.emit(name)
        ids, (role, side) = self.session.selection.cell_ids, self.roles.role_now()
        if ids:
            self.session.document.edit(
                f"Give {name} to {many(len(ids), 'cell')}", lambda p: give_common(p, ids, name, role, side)
            )

    def copy(self) -> None:
        cell, ids = self.session.selection.cell, self.session.selection.cell_ids
        if cell is not None:
            self.session.document.edit(
                f"Copy the shape of {cell.name} to {many(len(ids) - 1, 'cell')}",
                lambda p: copy_shapes(p, cell.id, ids),
            )

    def rearrange(self, how: Literal["mirror", "flip", "turn"]) -> None:
        ids = self.session.selection.cell_ids
        self.session.document.edit(
            f"{how.capitalize()} the shapes of {many(len(ids), 'cell')}", lambda p: rearrange(p, ids, how)
        )

    def remove(self) -> None:
        cell, index, ids = (
            self.session.selection.cell,
            self.session.selection.shape_index,
            self.session.selection.cell_ids,
        )

        def change(project: Project) -> Project:
            if len(ids) == 1 and index is not None and cell is not None:
                return remove_shape(project, cell.id, index)
            return clear_shapes(project, ids)

        self.session.document.edit(f"Take shapes away from {many(len(ids), 'cell')}", change)

    def copy_out(self) -> None:
        """Keep the shapes of the cell selected last, to be pasted."""
        cell = self.session.selection.cell
        if cell is not None:
            self.copied = cell.shapes
            self.session.tell(
                "told", f"The shapes of {cell.name} are copied; Ctrl+Shift+V gives them to others."
            )

    def paste(self) -> None:
        ids, shapes = self.session.selection.cell_ids, self.copied
        if shapes is not None:
            self.session.document.edit(
                f"Paste shapes to {many(len(ids), 'cell')}", lambda p: set_shapes(p, ids, shapes)
            )
