"""Edits of the Shape stage: give, change, copy, mirror and turn the shapes of cells."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Collection, Mapping
from typing import Literal

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import change_cells, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Circle, Polygon, Role, Shape, Side
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.shape.primitives import COMMON, bounds, check, common, flipped, mirrored, snapped, turned


def change_shapes(
    project: Project,
    cell_ids: Collection[str],
    change: Callable[[Cell], Cell],
    field: Literal["shapes", "traits"] = "shapes",
) -> Project:
    """Change the shapes (or traits) of some cells; cells of recoloured copies that had those of their
    originals get them again."""
    after = change_cells(project, cell_ids, change)
    if after is project:
        return project
    new = {
        c.id: c for old, s in zip(project.sheets, after.sheets, strict=True) if s is not old for c in s.cells
    }
    old = {c.id: c for s in project.sheets for c in s.cells if c.id in new}
    followers = {
        c.id: getattr(new[c.copy_of], field)
        for s in after.sheets
        for c in s.cells
        if c.copy_of in new and c.id not in cell_ids and getattr(c, field) == getattr(old[c.copy_of], field)
        and getattr(new[c.copy_of], field) != getattr(c, field)
    }  # fmt: skip
    if not followers:
        return after
    return change_cells(after, followers, lambda c: replace(c, **{field: followers[c.id]}))


def give_common(
    project: Project, cell_ids: Collection[str], name: str, role: Role = "solid", blocks_from: Side = "top"
) -> Project:
    """Give cells one common shape in place of what they have, each in its own size. Raises EditError for a
    name that no common shape has."""
    if name not in COMMON:
        raise EditError(f"There is no common shape {name!r}.", f"Use {', '.join(COMMON)}.")
    return change_shapes(
        project, cell_ids, lambda c: _with(c, (common(name, (c.rect[2], c.rect[3]), role, blocks_from),))
    )


def set_shapes(project: Project, cell_ids: Collection[str], shapes: tuple[Shape, ...]) -> Project:
    """Give cells these shapes in place of what they have."""
    checked = tuple(check(shape) for shape in shapes)
    return change_shapes(project, cell_ids, lambda c: _with(c, checked))


def give_each(project: Project, shapes: Mapping[str, tuple[Shape, ...]]) -> Project:
    """Give each cell, by id, shapes of its own in place of what it has: many cells in one pass."""
    checked = {cell_id: tuple(check(shape) for shape in given) for cell_id, given in shapes.items()}
    return change_shapes(project, checked.keys(), lambda c: _with(c, checked[c.id]))


def add_shape(project: Project, cell_ids: Collection[str], shape: Shape) -> Project:
    """Give some cells one more shape. Raises EditError for one that is not sound."""
    checked = check(shape)
    return change_shapes(project, cell_ids, lambda c: _with(c, (*c.shapes, checked)))


def put_shape(project: Project, cell_id: str, index: int, shape: Shape) -> Project:
    """Replace one shape of a cell. Raises EditError if the cell has none of that number."""
    checked = check(shape)

    def change(cell: Cell) -> Cell:
        if not 0 <= index < len(cell.shapes):
            raise EditError(f"{cell.name} has no shape {index + 1}.", "Choose one on the Desk.")
        return _with(cell, (*cell.shapes[:index], checked, *cell.shapes[index + 1 :]))

    return change_shapes(project, [cell_id], change)


def remove_shape(project: Project, cell_id: str, index: int) -> Project:
    """Take one shape off a cell."""
    return change_shapes(project, [cell_id], lambda c: _with(c, (*c.shapes[:index], *c.shapes[index + 1 :])))


def clear_shapes(project: Project, cell_ids: Collection[str]) -> Project:
    """Take all shapes off some cells."""
    return change_shapes(project, cell_ids, lambda c: _with(c, ()))


def set_role(project: Project, cell_ids: Collection[str], role: Role, blocks_from: Side) -> Project:
    """Make every shape of some cells solid, one-way (stopping at one side) or a sensor."""
    return change_shapes(
        project,
        cell_ids,
        lambda c: _with(c, tuple(replace(s, role=role, blocks_from=blocks_from) for s in c.shapes)),
    )


def copy_shapes(project: Project, source_id: str, cell_ids: Collection[str]) -> Project:
    """Give other cells the shapes of one cell, px for px."""
    for sheet in project.sheets:
        for cell in sheet.cells:
            if cell.id == source_id:
                return set_shapes(project, [i for i in cell_ids if i != source_id], cell.shapes)
    raise EditError(f"The project has no cell {source_id!r}.", "Choose one in the Strip.")


def rearrange(project: Project, cell_ids: Collection[str], how: Literal["mirror", "flip", "turn"]) -> Project:
    """Mirror, flip or turn the shapes of some cells within each cell."""

    def change(cell: Cell) -> Cell:
        w, h = cell.rect[2], cell.rect[3]
        if how == "mirror":
            return _with(cell, tuple(mirrored(s, w) for s in cell.shapes))
        if how == "flip":
            return _with(cell, tuple(flipped(s, h) for s in cell.shapes))
        return _with(cell, tuple(turned(s, (w, h)) for s in cell.shapes))

    return change_shapes(project, cell_ids, change)


def shaped_counts(project: Project, sheet_id: str) -> tuple[int, int]:
    """How many cells of a sheet have a shape, and how many have none."""
    cells = sheet_of(project, sheet_id).cells
    shaped = sum(1 for cell in cells if cell.shapes)
    return shaped, len(cells) - shaped


def role_counts(sheet: Sheet) -> Counter[str]:
    """How many cells have shapes of each role."""
    return Counter(role for cell in sheet.cells for role in {s.role for s in cell.shapes})


def _with(cell: Cell, shapes: tuple[Shape, ...]) -> Cell:
    return cell if cell.shapes == shapes else replace(cell, shapes=shapes)


def whole(cell: Cell) -> Cell:
    """The cell with every corner of its shapes on whole px; boxes keep at least one px a side."""
    return _with(cell, tuple(_whole_shape(s) for s in cell.shapes))


def _whole_shape(shape: Shape) -> Shape:
    if isinstance(shape, Box):
        left, top, right, bottom = (snapped(v, "px", 1) for v in bounds(shape))
        return replace(shape, x=left, y=top, w=max(right - left, 1), h=max(bottom - top, 1))
    if isinstance(shape, Circle):
        x, y, r = (snapped(v, "px", 1) for v in (shape.x, shape.y, shape.radius))
        return replace(shape, x=x, y=y, radius=max(r, 1))
    return replace(shape, points=tuple((snapped(x, "px", 1), snapped(y, "px", 1)) for x, y in shape.points))


def blunted(cell: Cell, shape: int, corner: int) -> Cell:
    """The cell with a sharp corner of a polygon cut off where it is a px wide, on half px; where its sides
    are shorter than that the corner goes. A triangle that would be left with two corners stays as it is."""
    polygon = cell.shapes[shape]
    if not isinstance(polygon, Polygon):
        return cell
    points = np.array(polygon.points, float)
    tip, beside = points[corner], points[[corner - 1, (corner + 1) % len(points)]]
    ways = beside - tip
    lengths = np.hypot(*ways.T)
    ways /= lengths[:, None]
    half_angle = math.acos(float(np.clip(ways[0] @ ways[1], -1, 1))) / 2
    back = 1 / (2 * max(math.sin(half_angle), 1e-6))
    made = [(snapped(x, "half", 1), snapped(y, "half", 1)) for x, y in (tip + back * ways).tolist()]
    if back >= lengths.min():
        made = []
    kept = (*polygon.points[:corner], *made, *polygon.points[corner + 1 :])
    if len(kept) < 3:
        return cell
    shapes = (*cell.shapes[:shape], replace(polygon, points=kept), *cell.shapes[shape + 1 :])
    return _with(cell, shapes)


def ended_at(cell: Cell, feet: float) -> Cell:
    """The cell with its shapes ended at a line, px from its top: what lies below it is drawn up to it, and
    shapes that lie there wholly go; a circle that crosses it becomes smaller about its own top."""
    kept: list[Shape] = []
    for shape in cell.shapes:
        _left, top, _right, bottom = bounds(shape)
        if shape.role == "sensor" or bottom <= feet:
            kept.append(shape)
        elif top < feet and isinstance(shape, Box):
            kept.append(replace(shape, h=feet - shape.y))
        elif top < feet and isinstance(shape, Circle):
            radius = (feet - top) / 2
            kept.append(replace(shape, y=top + radius, radius=radius))
        elif top < feet and isinstance(shape, Polygon):
            points = tuple(dict.fromkeys((x, min(y, feet)) for x, y in shape.points))
            if len(points) >= 3:
                kept.append(replace(shape, points=points))
    return _with(cell, tuple(kept))
