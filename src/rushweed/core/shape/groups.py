"""What shapes are made of, and which groups of them touch which."""

from __future__ import annotations

import math
from collections.abc import Collection

from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import CollisionGroup, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.edit import change_shapes


def set_material(
    project: Project, cell_ids: Collection[str], index: int | None = None, **fields: float | str
) -> Project:
    """Set friction, bounce or group of all shapes of some cells, or of the one with that number."""
    for name in ("friction", "bounce"):
        value = fields.get(name, 0.0)
        if not isinstance(value, (int, float)) or not math.isfinite(value) or not 0 <= value <= 100:
            raise EditError(f"A {name} of {value} is not possible.", "Use 0 to 100; 0 to 1 is usual.")
    if fields.get("group") and not any(g.id == fields["group"] for g in project.groups):
        raise EditError("That group is gone.", "Choose another.")

    def change(cell: Cell) -> Cell:
        shapes = tuple(
            replace(s, **fields) if index is None or index == i else s for i, s in enumerate(cell.shapes)
        )
        return cell if shapes == cell.shapes else replace(cell, shapes=shapes)

    return change_shapes(project, cell_ids, change)


def add_group(project: Project, name: str) -> tuple[Project, CollisionGroup]:
    """Add a collision group; returns it too, under a name that is free."""
    group = CollisionGroup(new_id(), unique_name(name.strip() or "group", {g.name for g in project.groups}))
    return replace(project, groups=(*project.groups, group)), group


def rename_group(project: Project, group_id: str, name: str) -> Project:
    """Raises EditError for a name that is empty or another's."""
    name = name.strip()
    if not name or any(g.name == name for g in project.groups if g.id != group_id):
        raise EditError(f"A group cannot be called {name!r}.", "Use a name that no other has.")
    groups = tuple(replace(g, name=name) if g.id == group_id else g for g in project.groups)
    return project if groups == project.groups else replace(project, groups=groups)


def remove_group(project: Project, group_id: str) -> Project:
    """Its shapes belong to no group then, and touch everything."""
    groups = tuple(
        replace(g, ignores=tuple(m for m in g.ignores if m != group_id))
        for g in project.groups if g.id != group_id
    )  # fmt: skip
    mine = [c.id for s in project.sheets for c in s.cells if any(x.group == group_id for x in c.shapes)]

    def change(cell: Cell) -> Cell:
        shapes: tuple[Shape, ...] = tuple(
            replace(s, group="") if s.group == group_id else s for s in cell.shapes
        )
        return replace(cell, shapes=shapes)

    return replace(change_shapes(project, mine, change), groups=groups)


def touches(project: Project, one: str, other: str) -> bool:
    """Whether shapes of two groups touch; "" is no group, which touches all."""
    found = next((g for g in project.groups if g.id == one), None)
    return found is None or other not in found.ignores


def set_touch(project: Project, one: str, other: str, on: bool) -> Project:
    """Let two groups touch or go through each other; a group may go through itself."""

    def change(group: CollisionGroup, partner: str) -> CollisionGroup:
        ignores = {m for m in group.ignores if m != partner} | (set() if on else {partner})
        return replace(group, ignores=tuple(g.id for g in project.groups if g.id in ignores))

    groups = tuple(
        change(change(g, other), one) if one == other == g.id
        else change(g, other) if g.id == one
        else change(g, one) if g.id == other
        else g
        for g in project.groups
    )  # fmt: skip
    return project if groups == project.groups else replace(project, groups=groups)
