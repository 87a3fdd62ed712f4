"""Edits of the Cut stage: cut a sheet anew, keep a cell in or out, trim waste."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from rushweed.core.cut.grid import even_cut, grid_of, ink, occupied, places
from rushweed.core.cut.islands import equal_cells, pieces
from rushweed.core.cut.propose import ink_of
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.ids import new_id, unique_names
from rushweed.core.document.model import Box, Cell, Cut, PiecesCut, Polygon, Project, Shape, Sheet


def cut_sheet(project: Project, sheet_id: str, cut: Cut, rgba: np.ndarray) -> Project:
    """Cut a sheet by a grid or into pieces. A cell that overlaps an old one is its heir.

    rgba: uint8 (height, width, 4) of the sheet. Raises CutError if the sheet does not allow the cut.
    """
    sheet = sheet_of(project, sheet_id)
    if sheet.cut == cut and sheet.cells:
        return project
    if isinstance(cut, PiecesCut):
        rects = pieces(ink_of(rgba)[0], cut.join, cut.least)
        if cut.fit != "tight":
            rects = equal_cells(rects, sheet.source.size, cut.fit)
    else:
        grid = grid_of(cut, sheet.source.size, sheet.name)
        full = occupied(ink(rgba), grid)
        rects = [grid.rect(column, row) for column, row in places(cut, grid, full)]
    cells = recut(sheet, rects)
    return put_sheet(project, replace(sheet, cut=cut, cells=cells, waste_accepted=False))


def recut(sheet: Sheet, rects: list[tuple[int, int, int, int]]) -> tuple[Cell, ...]:
    """Cells for `rects`, old ones where they overlap most."""
    heirs = match_by_overlap([cell.rect for cell in sheet.cells], rects)
    stem = Path(sheet.name).stem
    old_names = {sheet.cells[i].name for i in heirs.values()}
    fresh = [f"{stem}_{n}" for n in range(len(rects))]
    names = [sheet.cells[heirs[i]].name if i in heirs else fresh[i] for i in range(len(rects))]
    for i, name in enumerate(names):
        if i not in heirs and name in old_names:
            names[i] = f"{name}_new"
    cells = []
    for i, (rect, name) in enumerate(zip(rects, unique_names(names), strict=True)):
        if i in heirs:
            cells.append(_moved(sheet.cells[heirs[i]], rect, name))
        else:
            fx, fy = sheet.tune.pivot
            cells.append(Cell(new_id(), name, rect, (fx * rect[2], fy * rect[3])))
    return tuple(cells)


def _moved(cell: Cell, rect: tuple[int, int, int, int], name: str) -> Cell:
    """The cell on a new rectangle: shapes stay on the art, the pivot at the same share of the cell."""
    if rect == cell.rect and name == cell.name:
        return cell
    x, y, w, h = cell.rect
    pivot = (cell.pivot[0] / w * rect[2], cell.pivot[1] / h * rect[3])
    shapes = tuple(shifted(shape, x - rect[0], y - rect[1]) for shape in cell.shapes)
    return replace(cell, rect=rect, name=name, pivot=pivot, shapes=shapes)


def shifted(shape: Shape, dx: float, dy: float) -> Shape:
    """A shape moved by px."""
    if isinstance(shape, Box):
        return replace(shape, x=shape.x + dx, y=shape.y + dy)
    assert isinstance(shape, Polygon)
    return replace(shape, points=tuple((x + dx, y + dy) for x, y in shape.points))


def match_by_overlap(
    old: list[tuple[int, int, int, int]], new: list[tuple[int, int, int, int]]
) -> dict[int, int]:
    """Pairs new index -> old index, the largest overlap first, each used once."""
    if not old or not new:
        return {}
    step = max(8, int(np.median([max(r[2], r[3]) for r in old])))
    bins: dict[tuple[int, int], list[int]] = defaultdict(list)
    for i, (x, y, w, h) in enumerate(old):
        for by in range(y // step, (y + h - 1) // step + 1):
            for bx in range(x // step, (x + w - 1) // step + 1):
                bins[bx, by].append(i)
    pairs: set[tuple[int, int, int]] = set()
    for j, (x, y, w, h) in enumerate(new):
        near = {
            i
            for by in range(y // step, (y + h - 1) // step + 1)
            for bx in range(x // step, (x + w - 1) // step + 1)
            for i in bins.get((bx, by), ())
        }
        for i in near:
            ox, oy, ow, oh = old[i]
            across = min(x + w, ox + ow) - max(x, ox)
            down = min(y + h, oy + oh) - max(y, oy)
            if across > 0 and down > 0:
                pairs.add((-across * down, j, i))
    heirs: dict[int, int] = {}
    used: set[int] = set()
    for _area, j, i in sorted(pairs):
        if j not in heirs and i not in used:
            heirs[j] = i
            used.add(i)
    return heirs


def leave_out(
    project: Project, sheet_id: str, spots: Iterable[tuple[int, int]], out: bool, rgba: np.ndarray
) -> Project:
    """Keep the cells at (column, row) `spots` out of the sheet, or in it, by hand."""
    sheet = sheet_of(project, sheet_id)
    before = even_cut(sheet)
    if before is None:
        return project
    chosen = set(spots)
    left_out = set(before.left_out) - chosen
    kept = set(before.kept) - chosen
    if out:
        left_out |= chosen
    else:
        kept |= chosen
    cut = replace(before, left_out=tuple(sorted(left_out)), kept=tuple(sorted(kept)))
    accepted = sheet.waste_accepted
    project = cut_sheet(project, sheet_id, cut, rgba)
    return put_sheet(project, replace(sheet_of(project, sheet_id), waste_accepted=accepted))


def remove_cells(project: Project, sheet_id: str, cell_ids: Iterable[str]) -> Project:
    """Take cells out of a sheet. On a grid use `leave_out`, which a later cut remembers."""
    sheet, gone = sheet_of(project, sheet_id), set(cell_ids)
    cells = tuple(cell for cell in sheet.cells if cell.id not in gone)
    return project if len(cells) == len(sheet.cells) else put_sheet(project, replace(sheet, cells=cells))


def accept_waste(project: Project, sheet_id: str) -> Project:
    """Say that what the grid leaves over is meant to be left."""
    return put_sheet(project, replace(sheet_of(project, sheet_id), waste_accepted=True))


def spots_of(sheet: Sheet, cell_ids: Iterable[str]) -> list[tuple[int, int]]:
    """The (column, row) of some cells on the sheet's grid."""
    cut = even_cut(sheet)
    if cut is None:
        return []
    grid = grid_of(cut, sheet.source.size, sheet.name)
    wanted = set(cell_ids)
    return [
        (
            (cell.rect[0] - grid.margin[0]) // (grid.cell[0] + grid.spacing[0]),
            (cell.rect[1] - grid.margin[1]) // (grid.cell[1] + grid.spacing[1]),
        )
        for cell in sheet.cells
        if cell.id in wanted
    ]
