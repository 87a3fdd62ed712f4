"""Edits of the Cut stage: cut a sheet anew, keep a cell in or out, trim waste."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from msgspec.structs import replace

from rushweed.core.cut.grid import even_cut, grid_of, ink, occupied, places
from rushweed.core.cut.guides import check_guides, guide_rects, guide_spot
from rushweed.core.cut.islands import EqualCell, equal_cells, pieces
from rushweed.core.cut.match_cells import Rect, recut
from rushweed.core.cut.propose import ink_of
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import CutError, EditError
from rushweed.core.document.limits import MOST_SIDE
from rushweed.core.document.model.cut import Cut, GridCut, GuidesCut, HandCut, PiecesCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet


def cut_sheet(project: Project, sheet_id: str, cut: Cut, rgba: np.ndarray) -> Project:
    """Cut a sheet by a grid, by guides or into pieces. A cell that overlaps an old one is its heir.

    rgba: uint8 (height, width, 4) of the sheet. Raises CutError if the sheet does not allow the cut.
    """
    sheet = sheet_of(project, sheet_id)
    if sheet.cut == cut and sheet.cells:
        return project
    if isinstance(cut, PiecesCut) and cut.fit != "tight":
        equal = equal_of(sheet, cut, rgba)
        cells = recut(sheet, [cell.rect for cell in equal])
        cells = tuple(replace(c, shift=cell.shift) for c, cell in zip(cells, equal, strict=True))
    else:
        cells = recut(sheet, rects_of(sheet, cut, rgba))
        if isinstance(sheet.cut, PiecesCut) and sheet.cut.fit != "tight":
            cells = tuple(replace(cell, shift=(0, 0)) for cell in cells)
    return put_sheet(project, replace(sheet, cut=cut, cells=cells, waste_accepted=False))


def rects_of(sheet: Sheet, cut: Cut, rgba: np.ndarray) -> list[Rect]:
    """The cells a cut makes on a sheet: x, y, w, h in px. By hand they are those it has."""
    if isinstance(cut, HandCut):
        return [cell.rect for cell in sheet.cells]
    if isinstance(cut, PiecesCut):
        if cut.fit != "tight":
            return [cell.rect for cell in equal_of(sheet, cut, rgba)]
        return pieces(ink_of(rgba)[0], cut.join, cut.least, cut.any_size)
    if isinstance(cut, GuidesCut):
        check_guides(cut, sheet.source.size, sheet.name)
        return guide_rects(cut, ink(rgba))
    grid = grid_of(cut, sheet.source.size, sheet.name)
    return [grid.rect(column, row) for column, row in places(cut, grid, occupied(ink(rgba), grid))]


def equal_of(sheet: Sheet, cut: PiecesCut, rgba: np.ndarray) -> list[EqualCell]:
    """The cells of one size around the pieces of a sheet."""
    assert cut.fit != "tight"
    boxes = pieces(ink_of(rgba)[0], cut.join, cut.least, cut.any_size)
    return equal_cells(boxes, sheet.source.size, cut.fit)


def cut_as(project: Project, sheet_id: str, rects: Sequence[Rect]) -> Project:
    """Give a sheet cells, x, y, w, h in px, that count as cut by hand; old ones keep their ids. Raises
    EditError for one outside the picture."""
    sheet = sheet_of(project, sheet_id)
    width, height = sheet.source.size
    if any(x < 0 or y < 0 or w < 1 or h < 1 or x + w > width or y + h > height for x, y, w, h in rects):
        raise EditError(f"A cell would lie outside {sheet.name}.", "Keep every cell within the picture.")
    return put_sheet(project, replace(sheet, cut=HandCut(), cells=recut(sheet, rects), waste_accepted=False))


def leave_out(
    project: Project, sheet_id: str, spots: Iterable[tuple[int, int]], out: bool, rgba: np.ndarray
) -> Project:
    """Keep the cells at (column, row) `spots` out of the sheet, or in it, by hand."""
    sheet = sheet_of(project, sheet_id)
    before = sheet.cut if isinstance(sheet.cut, GuidesCut) else even_cut(sheet)
    if before is None:
        return project
    chosen = set(spots)
    if any(min(spot) < 0 or max(spot) > MOST_SIDE for spot in chosen):
        raise EditError("There is no such place in the grid.", "Choose a cell of the sheet.")
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
    """Take cells out of a sheet. On a grid or guides use `leave_out`, which a later cut remembers."""
    sheet, gone = sheet_of(project, sheet_id), set(cell_ids)
    cells = tuple(cell for cell in sheet.cells if cell.id not in gone)
    return project if len(cells) == len(sheet.cells) else put_sheet(project, replace(sheet, cells=cells))


def accept_waste(project: Project, sheet_id: str) -> Project:
    """Say that what the grid leaves over is meant to be left."""
    return put_sheet(project, replace(sheet_of(project, sheet_id), waste_accepted=True))


def spots_of(sheet: Sheet, cell_ids: Iterable[str]) -> list[tuple[int, int]]:
    """The (column, row) of some cells on the sheet's grid."""
    cut = even_cut(sheet)
    if isinstance(sheet.cut, GuidesCut):
        chosen = set(cell_ids)
        spots = (guide_spot(sheet.cut, c.rect[0], c.rect[1]) for c in sheet.cells if c.id in chosen)
        return [spot for spot in spots if spot is not None]
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


def pulled_in(cut: GridCut, by: int) -> GridCut:
    """The same grid with every cell's edges `by` px further in; below 0 they go out again.

    Raises CutError if no px would be left, or if the cells would overlap.
    """
    (w, h), (mx, my), (sx, sy) = cut.cell, cut.margin, cut.spacing
    if min(w, h) <= 2 * by:
        raise CutError(f"Cells of {w} x {h} px cannot be pulled in by {by} px.", "Use less.")
    if by < 0 and min(sx, sy) < -2 * by:
        raise CutError("The edges are as far out as they can go: the cells would overlap.", "Leave them.")
    margin = (max(mx + by, 0), max(my + by, 0))
    return replace(cut, cell=(w - 2 * by, h - 2 * by), margin=margin, spacing=(sx + 2 * by, sy + 2 * by))
