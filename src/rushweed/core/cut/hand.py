"""Cells by hand: drawn, moved, trimmed, joined, split, doubled. Such a sheet is cut by hand from then on."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

import numpy as np
from msgspec.structs import replace

from rushweed.core.cut.match_cells import Rect, placed
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import CutError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.cut import HandCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet


def clamped(rect: Rect, size: tuple[int, int]) -> Rect:
    """A rectangle with the same size moved inside a sheet; one too large is cut off."""
    w, h = min(rect[2], size[0]), min(rect[3], size[1])
    return min(max(rect[0], 0), size[0] - w), min(max(rect[1], 0), size[1] - h), w, h


def draw_cell(project: Project, sheet_id: str, rect: Rect) -> tuple[Project, str]:
    """A new cell; returns its id too. What reaches beyond the sheet is cut off; raises CutError if nothing
    is left."""
    sheet = sheet_of(project, sheet_id)
    width, height = sheet.source.size
    x0, y0 = max(rect[0], 0), max(rect[1], 0)
    x1, y1 = min(rect[0] + rect[2], width), min(rect[1] + rect[3], height)
    if x1 <= x0 or y1 <= y0:
        raise CutError("The box lies outside the sheet.", "Draw it on the picture.")
    made = _fresh(sheet, (x0, y0, x1 - x0, y1 - y0), _stem(sheet), {c.name for c in sheet.cells})
    return _by_hand(project, sheet, (*sheet.cells, made)), made.id


def set_rects(project: Project, sheet_id: str, rects: Mapping[str, Rect]) -> Project:
    """Give cells new rectangles by id, moved inside the sheet. Shapes stay on the art."""
    sheet = sheet_of(project, sheet_id)
    cells = tuple(
        placed(c, clamped(rects[c.id], sheet.source.size)) if c.id in rects else c for c in sheet.cells
    )
    if all(a is b for a, b in zip(cells, sheet.cells, strict=True)):
        return project
    return _by_hand(project, sheet, cells)


def move_cells(project: Project, sheet_id: str, cell_ids: Collection[str], dx: int, dy: int) -> Project:
    """Move cells by px, all by the same amount: they stop together at the edge of the sheet."""
    sheet = sheet_of(project, sheet_id)
    chosen = [c for c in sheet.cells if c.id in set(cell_ids)]
    if not chosen:
        return project
    width, height = sheet.source.size
    dx = min(max(dx, -min(c.rect[0] for c in chosen)), width - max(c.rect[0] + c.rect[2] for c in chosen))
    dy = min(max(dy, -min(c.rect[1] for c in chosen)), height - max(c.rect[1] + c.rect[3] for c in chosen))
    moved = {c.id: (c.rect[0] + dx, c.rect[1] + dy, c.rect[2], c.rect[3]) for c in chosen}
    return set_rects(project, sheet_id, moved)


def drag_edges(
    project: Project, sheet_id: str, cell_ids: Collection[str], sides: str, dx: int, dy: int
) -> Project:
    """Move the edges named in `sides` ("l", "t", "r", "b", any of them) of cells by px; a cell keeps at
    least 1 px and stays on the sheet."""
    sheet = sheet_of(project, sheet_id)
    width, height = sheet.source.size
    rects = {}
    for cell in sheet.cells:
        if cell.id not in cell_ids:
            continue
        x, y, w, h = cell.rect
        x1, y1 = x + w, y + h
        if "l" in sides:
            x = min(max(x + dx, 0), x1 - 1)
        if "t" in sides:
            y = min(max(y + dy, 0), y1 - 1)
        if "r" in sides:
            x1 = min(max(x1 + dx, x + 1), width)
        if "b" in sides:
            y1 = min(max(y1 + dy, y + 1), height)
        rects[cell.id] = (x, y, x1 - x, y1 - y)
    return set_rects(project, sheet_id, rects)


def trim_cells(project: Project, sheet_id: str, cell_ids: Collection[str], mask: np.ndarray) -> Project:
    """Shrink cells to what they hold; empty ones stay. `mask` is bool (height, width), where the art is."""
    sheet = sheet_of(project, sheet_id)
    rects = {}
    for cell in sheet.cells:
        if cell.id in cell_ids:
            x, y, w, h = cell.rect
            part = mask[y : y + h, x : x + w]
            rows, columns = np.flatnonzero(part.any(axis=1)), np.flatnonzero(part.any(axis=0))
            if rows.size:
                left, top = int(columns[0]), int(rows[0])
                wide, high = int(columns[-1]) - left + 1, int(rows[-1]) - top + 1
                rects[cell.id] = (x + left, y + top, wide, high)
    return set_rects(project, sheet_id, rects)


def join_cells(project: Project, sheet_id: str, cell_ids: Sequence[str]) -> Project:
    """Make several cells one, the box around all; the first of them lives on and keeps its name."""
    sheet = sheet_of(project, sheet_id)
    chosen = [c for c in sheet.cells if c.id in set(cell_ids)]
    if len(chosen) < 2:
        raise CutError("Joining needs two cells or more.", "Select them on the Desk or in the Strip.")
    first = next((c for c in chosen if c.id == cell_ids[0]), chosen[0])
    x0, y0 = min(c.rect[0] for c in chosen), min(c.rect[1] for c in chosen)
    x1 = max(c.rect[0] + c.rect[2] for c in chosen)
    y1 = max(c.rect[1] + c.rect[3] for c in chosen)
    whole = placed(first, (x0, y0, x1 - x0, y1 - y0))
    gone = {c.id for c in chosen} - {first.id}
    cells = tuple(whole if c is first else c for c in sheet.cells if c.id not in gone)
    return _by_hand(project, sheet, cells)


def split_cells(
    project: Project, sheet_id: str, cell_ids: Collection[str], across: Sequence[int], down: Sequence[int]
) -> tuple[Project, tuple[str, ...]]:
    """Split cells at px from their left (`across`) and top (`down`); returns the ids of all parts too.

    The top left part lives on in the old cell. Raises CutError if no line falls inside a cell.
    """
    sheet = sheet_of(project, sheet_id)
    names = {c.name for c in sheet.cells}
    cells: list[Cell] = []
    parts: list[str] = []
    split = False
    for cell in sheet.cells:
        if cell.id not in cell_ids:
            cells.append(cell)
            continue
        x, y, w, h = cell.rect
        xs = [0, *sorted({v for v in across if 0 < v < w}), w]
        ys = [0, *sorted({v for v in down if 0 < v < h}), h]
        split = split or len(xs) > 2 or len(ys) > 2
        for top, bottom in zip(ys, ys[1:], strict=False):
            for left, right in zip(xs, xs[1:], strict=False):
                rect = (x + left, y + top, right - left, bottom - top)
                part = placed(cell, rect) if left == top == 0 else _fresh(sheet, rect, cell.name, names)
                names.add(part.name)
                cells.append(part)
                parts.append(part.id)
    if not split:
        raise CutError("The line does not run through a selected cell.", "Press inside the cell.")
    return _by_hand(project, sheet, tuple(cells)), tuple(parts)


def split_evenly(
    project: Project, sheet_id: str, cell_ids: Collection[str], columns: int, rows: int
) -> tuple[Project, tuple[str, ...]]:
    """Split each cell into so many columns and rows of whole px, the first ones wider where it does not
    come out even; returns the ids of all parts too. Raises CutError if a cell is too small."""
    sheet = sheet_of(project, sheet_id)
    parts: list[str] = []
    for cell in sheet.cells:
        if cell.id in cell_ids:
            _x, _y, w, h = cell.rect
            if columns > w or rows > h:
                raise CutError(f"{cell.name} is {w} x {h} px, too small for {columns} x {rows} parts.",
                               "Use fewer.")  # fmt: skip
            across = [-(-n * w // columns) for n in range(1, columns)]
            down = [-(-n * h // rows) for n in range(1, rows)]
            if across or down:
                project, made = split_cells(project, sheet_id, [cell.id], across, down)
                parts += made
            else:
                parts.append(cell.id)
    return project, tuple(parts)


def double_cells(
    project: Project, sheet_id: str, cell_ids: Collection[str]
) -> tuple[Project, tuple[str, ...]]:
    """Copies of cells with their shapes, each beside its original where the sheet has room; their ids too."""
    sheet = sheet_of(project, sheet_id)
    names = {c.name for c in sheet.cells}
    cells, made = list(sheet.cells), []
    for cell in sheet.cells:
        if cell.id in cell_ids:
            x, y, w, h = cell.rect
            room = x + 2 * w <= sheet.source.size[0]
            rect = clamped((x + w, y, w, h) if room else (x, y + h, w, h), sheet.source.size)
            copy = replace(cell, id=new_id(), name=unique_name(cell.name, names), rect=rect)
            names.add(copy.name)
            cells.insert(next(i for i, c in enumerate(cells) if c is cell) + 1, copy)
            made.append(copy.id)
    return _by_hand(project, sheet, tuple(cells)), tuple(made)


def order_cells(project: Project, sheet_id: str, order: Sequence[str]) -> Project:
    """The cells of a sheet in another order, given by id; ids not named keep their place at the end."""
    sheet = sheet_of(project, sheet_id)
    rank = {cell_id: n for n, cell_id in enumerate(order)}
    cells = tuple(sorted(sheet.cells, key=lambda c: rank.get(c.id, len(rank))))
    return project if cells == sheet.cells else put_sheet(project, replace(sheet, cells=cells))


def _stem(sheet: Sheet) -> str:
    return sheet.name.rsplit(".", 1)[0]


def _fresh(sheet: Sheet, rect: Rect, name: str, taken: set[str]) -> Cell:
    fx, fy = sheet.tune.pivot
    if name == _stem(sheet):
        name = f"{name}_{len(sheet.cells)}"
    return Cell(new_id(), unique_name(name, taken), rect, (fx * rect[2], fy * rect[3]))


def _by_hand(project: Project, sheet: Sheet, cells: tuple[Cell, ...]) -> Project:
    return put_sheet(project, replace(sheet, cut=HandCut(), cells=cells))
