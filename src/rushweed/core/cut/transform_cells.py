"""Cells, pivots and shapes follow their picture when its preparation steps or its size change."""

from __future__ import annotations

import math
from collections.abc import Callable

from msgspec.structs import replace

from rushweed.core.cut.aside import holds, sorted_out
from rushweed.core.cut.edit import rects_of
from rushweed.core.cut.match_cells import Rect
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.cut import CountCut, Cut, GridCut, HandCut, PiecesCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Circle, Shape, Side
from rushweed.core.document.model.sheet import Cell, NineSlice, Sheet
from rushweed.core.document.model.steps import Step
from rushweed.core.document.stretch import held
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.prepare import Affine, check_steps, size_after, way_of

Inner = Callable[[float, float], tuple[float, float]]  # a point of the cell, before and after
SIDES: tuple[Side, ...] = ("top", "right", "bottom", "left")


def set_steps(project: Project, sheet_id: str, steps: tuple[Step, ...], stock: PixelCache) -> Project:
    """Give a sheet other preparation steps; its cells, pivots and shapes go where their art goes.

    Raises PictureError if a step is impossible.
    """
    sheet = sheet_of(project, sheet_id)
    if steps == sheet.source.steps:
        return project
    raw = sheet.source.raw or sheet.source.size
    check_steps(steps, raw, sheet.name)
    way = way_of(raw, sheet.source.steps).back().then(way_of(raw, steps))
    size = size_after(raw, steps)
    source = replace(sheet.source, steps=steps, size=size, raw=raw if steps else None)
    return put_sheet(project, moved(replace(sheet, source=source), way, stock))


def moved(sheet: Sheet, way: Affine, stock: PixelCache) -> Sheet:
    """The sheet, already with its new source, with its cells gone the same way; those outside are set aside.
    The cut stays if it still makes these cells, else they count as cut by hand."""
    if way == Affine() and not sheet.aside and all(holds(sheet.source.size, c) for c in sheet.cells):
        return sheet
    cells = tuple(moved_cell(cell, way) for cell in sheet.cells)
    aside = tuple(replace(one, cell=moved_cell(one.cell, way)) for one in sheet.aside)
    made = sorted_out(replace(sheet, cells=cells, aside=aside))
    cut = _moved_cut(sheet.cut, way) if sheet.cut is not None else None
    if cut is not None and not isinstance(cut, (PiecesCut, HandCut)):
        try:
            rects = rects_of(made, cut, stock.pixels_or_blank(made))
        except RushweedError:
            rects = []
        if sorted(rects) != sorted(c.rect for c in made.cells):
            cut = HandCut()
    return replace(made, cut=cut)


def _moved_cut(cut: Cut, way: Affine) -> Cut:
    """The cut in the new px where it can be said so, else by hand."""
    if isinstance(cut, PiecesCut):
        return cut if abs(way.xx * way.yy - way.xy * way.yx) == 1 else HandCut()
    if isinstance(cut, (HandCut, CountCut)):
        return cut if not (isinstance(cut, CountCut) and way.xx == 0) else HandCut()
    if not isinstance(cut, GridCut):
        return cut if way == Affine() else HandCut()
    fx, fy = (abs(way.xx), abs(way.yy)) if way.xx else (abs(way.xy), abs(way.yx))

    def scaled(pair: tuple[int, int]) -> tuple[int, int]:
        pair = pair if way.xx else (pair[1], pair[0])
        return round(pair[0] * fx), round(pair[1] * fy)

    plain = way.xx > 0 and way.yy > 0
    if (cut.left_out or cut.kept) and not plain:
        return HandCut()
    cell, margin, spacing = scaled(cut.cell), scaled(cut.margin), scaled(cut.spacing)
    return replace(cut, cell=cell, margin=margin, spacing=spacing) if min(cell) > 0 else HandCut()


def moved_cell(cell: Cell, way: Affine) -> Cell:
    """The cell on its new place: whole px, at least one; shapes and pivot on their art."""
    x, y, w, h = cell.rect
    corners = [way.point(px, py) for px, py in ((x, y), (x + w, y + h))]
    (x0, x1), (y0, y1) = (sorted(c[axis] for c in corners) for axis in (0, 1))
    left, top = math.floor(x0 + 1e-6), math.floor(y0 + 1e-6)
    right, bottom = max(math.ceil(x1 - 1e-6), left + 1), max(math.ceil(y1 - 1e-6), top + 1)

    def inner(px: float, py: float) -> tuple[float, float]:
        at = way.point(x + px, y + py)
        return _neat(at[0] - left), _neat(at[1] - top)

    shapes = tuple(_moved_shape(shape, way, inner) for shape in cell.shapes)
    rect = (left, top, right - left, bottom - top)
    pivot = inner(*cell.pivot)
    stretch = _moved_stretch(cell, way, inner, rect)
    if (rect, pivot, shapes, stretch) == (cell.rect, cell.pivot, cell.shapes, cell.stretch):
        return cell
    return replace(cell, rect=rect, pivot=pivot, shapes=shapes, stretch=stretch)


def _moved_stretch(cell: Cell, way: Affine, inner: Inner, rect: Rect) -> NineSlice | None:
    old = cell.stretch
    if old is None:
        return None
    a, b = inner(old.left, old.top), inner(cell.rect[2] - old.right, cell.rect[3] - old.bottom)
    (x0, x1), (y0, y1) = (sorted((a[axis], b[axis])) for axis in (0, 1))
    made = NineSlice(
        round(x0), round(y0), rect[2] - round(x1), rect[3] - round(y1), centre_fill=old.centre_fill
    )
    fills = (old.top_fill, old.right_fill, old.bottom_fill, old.left_fill)
    turned = {f"{SIDES[_turned_side(side, way)]}_fill": fill for side, fill in enumerate(fills)}
    return held(replace(made, **turned), rect[2], rect[3])


def _neat(value: float) -> float:
    whole = round(value)
    return float(whole) if abs(value - whole) < 1e-6 else round(value, 6)


def _moved_shape(shape: Shape, way: Affine, inner: Inner) -> Shape:
    blocks_from = SIDES[_turned_side(SIDES.index(shape.blocks_from), way)]
    if isinstance(shape, Box):
        a, b = inner(shape.x, shape.y), inner(shape.x + shape.w, shape.y + shape.h)
        (x0, x1), (y0, y1) = sorted((a[0], b[0])), sorted((a[1], b[1]))
        return replace(shape, x=x0, y=y0, w=_neat(x1 - x0), h=_neat(y1 - y0), blocks_from=blocks_from)
    if isinstance(shape, Circle):
        x, y = inner(shape.x, shape.y)
        scale = math.sqrt(abs(way.xx * way.yy - way.xy * way.yx))
        return replace(shape, x=x, y=y, radius=_neat(shape.radius * scale), blocks_from=blocks_from)
    points = tuple(inner(*point) for point in shape.points)
    if way.xx * way.yy - way.xy * way.yx < 0:
        points = (points[0], *reversed(points[1:]))
    return replace(shape, points=points, blocks_from=blocks_from)


def _turned_side(side: int, way: Affine) -> int:
    """Where a side (0 top, 1 right, 2 bottom, 3 left) looks after going a way."""
    dx, dy = ((0, -1), (1, 0), (0, 1), (-1, 0))[side]
    nx, ny = way.xx * dx + way.xy * dy, way.yx * dx + way.yy * dy
    if abs(nx) > abs(ny):
        return 1 if nx > 0 else 3
    return 2 if ny > 0 else 0
