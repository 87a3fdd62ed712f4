"""Findings about cuts: what a grid leaves over, and art that it cuts through."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from msgspec.structs import replace

from rushweed.core.cut.edit import accept_waste, cut_sheet
from rushweed.core.cut.grid import OPAQUE_SHARE, Grid, cut_borders, even_cut, grid_of, ink
from rushweed.core.cut.islands import equal_cells, pieces, with_neighbours
from rushweed.core.cut.propose import ink_of
from rushweed.core.cut.take import choices
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.cut import GridCut, PiecesCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.cache import PixelCache

A_GRID, LIKELY = 0.8, 0.9  # chances that a sheet has a grid, and which, from which another one is told of
UNLIKELY = 0.02  # chance of the grid that there is, up to which another one is told of


def grid_remainder(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Art that lies outside every cell because the grid does not come out even."""
    cut = even_cut(sheet)
    if cut is None or sheet.waste_accepted:
        return
    try:
        grid = grid_of(cut, sheet.source.size, sheet.name)
    except RushweedError:
        return
    right, below = (left if left > gap else 0 for left, gap in zip(grid.left_over, grid.spacing, strict=True))
    if not (right or below):
        return  # no more than a gap behind the last cells, and the line that may be drawn there
    rgba = stock.pixels_or_blank(sheet)
    width, height = sheet.source.size
    parts = []
    if right:
        parts.append(f"{right} px right of column {grid.columns - 1}")
    if below:
        parts.append(f"{below} px below row {grid.rows - 1}")
    columns, rows = (
        (np.arange(side) - margin) % (cell + gap) < cell  # lines that are drawn between cells may run on
        for side, margin, cell, gap in zip((width, height), grid.margin, grid.cell, grid.spacing, strict=True)
    )
    if not (_holds_art(rgba[rows, width - right :]) or _holds_art(rgba[height - below :, columns])):
        return
    yield Finding(
        "grid-remainder",
        "hint",
        f"{sheet.name}: {' and '.join(parts)} lie outside every cell and hold art.",
        Place("cut", sheet=sheet.id),
        Fix("Call it waste", partial(accept_waste, sheet_id=sheet.id)),
    )


def _holds_art(rgba: np.ndarray) -> bool:
    """Whether a part of a picture, uint8 (height, width, 4), shows anything but one colour all over."""
    return bool(ink(rgba).any() and (rgba != rgba[0, 0]).any())


def cut_art(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Cells whose border cuts off art that lies in no cell. Tiles that touch by design cut nothing."""
    cut = even_cut(sheet)
    if cut is None or not sheet.cells:
        return
    mask = ink(stock.pixels_or_blank(sheet))
    if np.count_nonzero(mask) > OPAQUE_SHARE * mask.size:
        return
    try:
        grid = grid_of(cut, sheet.source.size, sheet.name)
    except RushweedError:
        return
    right, below = cut_borders(mask, grid)
    by_rect = {cell.rect: cell.id for cell in sheet.cells}
    kept = np.array([[grid.rect(c, r) in by_rect for c in range(grid.columns)] for r in range(grid.rows)])
    lost = np.zeros_like(kept)
    lost[:, :-1] |= right[:, :-1] & kept[:, :-1] & ~kept[:, 1:]
    lost[:, 1:] |= right[:, :-1] & kept[:, 1:] & ~kept[:, :-1]
    lost[:-1] |= below[:-1] & kept[:-1] & ~kept[1:]
    lost[1:] |= below[:-1] & kept[1:] & ~kept[:-1]
    if lost.any():
        cells = tuple(by_rect[grid.rect(c, r)] for r, c in np.argwhere(lost).tolist())
        many = "1 cell cuts" if len(cells) == 1 else f"{len(cells)} cells cut"
        text = f"{sheet.name}: {many} off art that lies in no cell."
        yield Finding("cut-art", "fault", text, Place("cut", sheet=sheet.id, cells=cells))


def better_grid(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """A grid whose lines cut art, or that leaves art over, where another one is all but sure."""
    cut = even_cut(sheet)
    if cut is None or not sheet.cells or sheet.cut != cut:
        return
    rgba = stock.pixels_or_blank(sheet)
    try:
        grid = grid_of(cut, sheet.source.size, sheet.name)
    except RushweedError:
        return
    if not _doubted(ink(rgba), grid):
        return
    found = stock.fact("choices", sheet, choices)
    if not isinstance(found.best, GridCut) or found.of_grid < A_GRID or found.grids[0].score < LIKELY:
        return
    best = found.grids[0]
    if any(g.cell == grid.cell and g.score > UNLIKELY for g in found.grids):
        return
    if _pitch(best.cell, best.spacing) == _pitch(grid.cell, grid.spacing):
        return  # the same lines, the gap told apart or not
    evidence = best.evidence.removeprefix("sure, ")
    text = f"{sheet.name}: a grid of {best.words()} fits better: {evidence}."
    fix = Fix(f"Cut at {best.words()}", partial(_cut_anew, sheet_id=sheet.id, cut=best.cut(), stock=stock))
    yield Finding("better-grid", "hint", text, Place("cut", sheet=sheet.id), fix)


def _pitch(cell: tuple[int, int], spacing: tuple[int, int]) -> tuple[int, int]:
    return cell[0] + spacing[0], cell[1] + spacing[1]


def _doubted(mask: np.ndarray, grid: Grid) -> bool:
    """Whether anything speaks against a grid: lines that cut art, or art outside all cells."""
    right, below = grid.left_over
    height, width = mask.shape
    outside = (right and mask[:, width - right :].any()) or (below and mask[height - below :].any())
    return bool(outside) or _like_any(mask, grid)


def _like_any(mask: np.ndarray, grid: Grid) -> bool:
    """Whether ink runs across the inner lines of a grid about as often as across any other lines."""
    shares = []
    for axis, lines in ((0, mask), (1, mask.T)):
        across = np.count_nonzero(lines[:, 1:] & lines[:, :-1], axis=0)
        inner = grid.starts(axis)[1:] - 1
        inner = inner[inner < len(across)]
        if inner.size and across.any():
            shares.append(float(across[inner].mean() / across.mean()))
    return bool(shares) and max(shares) > 0.5


def _cut_anew(project: Project, sheet_id: str, cut: GridCut, stock: PixelCache) -> Project:
    return cut_sheet(project, sheet_id, cut, stock.pixels_or_blank(sheet_of(project, sheet_id)))


def holds_neighbours(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Equal cells around pieces that stand too near to one another for it."""
    cut = sheet.cut
    if not isinstance(cut, PiecesCut) or cut.fit == "tight" or not sheet.cells:
        return
    try:
        mask = ink_of(stock.pixels_or_blank(sheet))[0]
        boxes = pieces(mask, cut.join, cut.least, cut.any_size)
    except RushweedError:
        return
    cells = equal_cells(boxes, sheet.source.size, cut.fit)
    by_rect = {cell.rect: cell for cell in sheet.cells}
    held = [by_rect[cells[n].rect] for n in with_neighbours(mask, boxes, cells) if cells[n].rect in by_rect]
    if held:
        names = ", ".join(cell.name for cell in held[:3]) + (" ..." if len(held) > 3 else "")
        several = "1 cell holds" if len(held) == 1 else f"{len(held)} cells hold"
        text = f"{sheet.name}: {several} art of a neighbour ({names}); the pieces stand too near."
        place = Place("cut", sheet=sheet.id, cells=tuple(cell.id for cell in held))
        yield Finding("neighbour-art", "hint", text, place)


def nothing_cut(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """A cut that leaves no cell because every one is empty."""
    if even_cut(sheet) is not None and not sheet.cells:
        yield Finding(
            "nothing-cut",
            "fault",
            f"{sheet.name} is cut, but every cell is empty.",
            Place("cut", sheet=sheet.id),
            Fix("Keep empty cells", partial(_keep_empty, sheet_id=sheet.id, stock=stock)),
        )


def _keep_empty(project: Project, sheet_id: str, stock: PixelCache) -> Project:
    """Cut the sheet by the same grid, empty cells kept."""
    sheet = sheet_of(project, sheet_id)
    cut = even_cut(sheet)
    assert cut is not None
    project = put_sheet(project, replace(sheet, cut=None))
    return cut_sheet(project, sheet_id, replace(cut, leave_out_empty=False), stock.pixels_or_blank(sheet))
