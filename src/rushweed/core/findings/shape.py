"""Findings about shapes: corners between pixels, shapes outside their tile."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from msgspec.structs import replace

from rushweed.core.document.edit import change_cells
from rushweed.core.document.model import Box, Cell, Circle, Polygon, Project, Shape
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.stock import Stock
from rushweed.core.shape.primitives import bounds, crossings, is_whole, snapped


def fractional_shapes(project: Project, stock: Stock) -> Iterator[Finding]:
    """Shapes with a corner that is not on a whole pixel."""
    for sheet in project.sheets:
        cells = [c for c in sheet.cells if not all(is_whole(s) for s in c.shapes)]
        if not cells:
            continue
        ids = tuple(c.id for c in cells)
        text = (
            f"{sheet.name}: the shape of {cells[0].name} has corners between pixels."
            if len(cells) == 1
            else f"{sheet.name}: the shapes of {len(cells)} cells have corners between pixels."
        )
        yield Finding(
            "fractional-shape",
            "hint",
            text,
            Place("shape", sheet=sheet.id, cells=ids),
            Fix("Round to px", partial(change_cells, cell_ids=ids, change=whole)),
        )


def whole(cell: Cell) -> Cell:
    """The cell with every corner of its shapes on whole px; boxes keep at least one px a side."""
    return replace(cell, shapes=tuple(_whole_shape(s) for s in cell.shapes))


def _whole_shape(shape: Shape) -> Shape:
    if isinstance(shape, Box):
        left, top, right, bottom = (snapped(v, "px", 1) for v in bounds(shape))
        return replace(shape, x=left, y=top, w=max(right - left, 1), h=max(bottom - top, 1))
    if isinstance(shape, Circle):
        x, y, r = (snapped(v, "px", 1) for v in (shape.x, shape.y, shape.radius))
        return replace(shape, x=x, y=y, radius=max(r, 1))
    return replace(shape, points=tuple((snapped(x, "px", 1), snapped(y, "px", 1)) for x, y in shape.points))


def outside_tile(project: Project, stock: Stock) -> Iterator[Finding]:
    """Shapes that reach beyond their cell."""
    for sheet in project.sheets:
        found = []
        for cell in sheet.cells:
            for shape in cell.shapes:
                left, top, right, bottom = bounds(shape)
                if left < 0 or top < 0 or right > cell.rect[2] or bottom > cell.rect[3]:
                    found.append(cell)
                    break
        if found:
            text = (
                f"{sheet.name}: the shape of {found[0].name} reaches outside its cell."
                if len(found) == 1
                else f"{sheet.name}: the shapes of {len(found)} cells reach outside them."
            )
            yield Finding(
                "shape-outside",
                "hint",
                text,
                Place("shape", sheet=sheet.id, cells=tuple(c.id for c in found)),
            )


def crossing_edges(project: Project, stock: Stock) -> Iterator[Finding]:
    """Polygons whose edges cross: no game can tell their inside."""
    for sheet in project.sheets:
        found = [
            c for c in sheet.cells if any(isinstance(s, Polygon) and crossings(s.points) for s in c.shapes)
        ]
        if found:
            text = (
                f"{sheet.name}: the shape of {found[0].name} crosses itself."
                if len(found) == 1
                else f"{sheet.name}: the shapes of {len(found)} cells cross themselves."
            )
            place = Place("shape", sheet=sheet.id, cells=tuple(c.id for c in found))
            yield Finding("crossing-shape", "fault", text, place)
