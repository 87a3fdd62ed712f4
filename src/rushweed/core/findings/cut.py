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
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model import PiecesCut, Project
from rushweed.core.findings.finding import Finding, Fix, Place, Weight
from rushweed.core.pixels.stock import Stock


def grid_remainder(project: Project, stock: Stock) -> Iterator[Finding]:
    """Art that lies outside every cell because the grid does not come out even."""
    for sheet in project.sheets:
        cut = even_cut(sheet)
        if cut is None or sheet.waste_accepted:
            continue
        try:
            grid = grid_of(cut, sheet.source.size, sheet.name)
        except RushweedError:
            continue
        right, below = grid.left_over
        if not (right or below):
            continue
        mask = ink(stock.pixels_or_blank(sheet))
        width, height = sheet.source.size
        parts = []
        if right:
            parts.append(f"{right} px right of column {grid.columns - 1}")
        if below:
            parts.append(f"{below} px below row {grid.rows - 1}")
        held = mask[:, width - right :].any() if right else False
        held = held or (mask[height - below :, :].any() if below else False)
        what = "lie outside every cell and hold art." if held else "lie outside every cell."
        yield Finding(
            "grid-remainder",
            "hint",
            f"{sheet.name}: {' and '.join(parts)} {what}",
            Place("cut", sheet=sheet.id),
            Fix("Call it waste", partial(accept_waste, sheet_id=sheet.id)),
        )


def cut_art(project: Project, stock: Stock) -> Iterator[Finding]:
    """Cells whose border cuts through art: a fault where what is cut off lies in no cell. Tiles that touch
    by design cut nothing; where the lines cut art between cells as often as any other lines would, the grid
    may be wrong, which is a hint."""
    for sheet in project.sheets:
        cut = even_cut(sheet)
        if cut is None or not sheet.cells:
            continue
        mask = ink(stock.pixels_or_blank(sheet))
        if np.count_nonzero(mask) > OPAQUE_SHARE * mask.size:
            continue
        try:
            grid = grid_of(cut, sheet.source.size, sheet.name)
        except RushweedError:
            continue
        right, below = cut_borders(mask, grid)
        kept = np.zeros((grid.rows, grid.columns), bool)
        by_rect = {cell.rect: cell.id for cell in sheet.cells}
        for row, column in np.ndindex(kept.shape):
            kept[row, column] = grid.rect(column, row) in by_rect
        lost = np.zeros_like(kept)
        lost[:, :-1] |= right[:, :-1] & kept[:, :-1] & ~kept[:, 1:]
        lost[:, 1:] |= right[:, :-1] & kept[:, 1:] & ~kept[:, :-1]
        lost[:-1] |= below[:-1] & kept[:-1] & ~kept[1:]
        lost[1:] |= below[:-1] & kept[1:] & ~kept[:-1]
        through = (right | below) & kept
        weight: Weight = "fault" if lost.any() else "hint"
        if not lost.any() and not (through.any() and _like_any(mask, grid)):
            continue
        spots = np.argwhere(lost if lost.any() else through).tolist()
        cells = tuple(by_rect[grid.rect(c, r)] for r, c in spots if grid.rect(c, r) in by_rect)
        many = "1 cell cuts" if len(cells) == 1 else f"{len(cells)} cells cut"
        tail = "off art that lies in no cell." if weight == "fault" else "through art at the border."
        yield Finding(
            "cut-art", weight, f"{sheet.name}: {many} {tail}", Place("cut", sheet=sheet.id, cells=cells)
        )


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


def holds_neighbours(project: Project, stock: Stock) -> Iterator[Finding]:
    """Equal cells around pieces that stand too near to one another for it."""
    for sheet in project.sheets:
        cut = sheet.cut
        if not isinstance(cut, PiecesCut) or cut.fit == "tight" or not sheet.cells:
            continue
        try:
            mask = ink_of(stock.pixels_or_blank(sheet))[0]
            boxes = pieces(mask, cut.join, cut.least, cut.any_size)
        except RushweedError:
            continue
        cells = equal_cells(boxes, sheet.source.size, cut.fit)
        by_rect = {cell.rect: cell for cell in sheet.cells}
        held = [
            by_rect[cells[n].rect] for n in with_neighbours(mask, boxes, cells) if cells[n].rect in by_rect
        ]
        if held:
            names = ", ".join(cell.name for cell in held[:3]) + (" ..." if len(held) > 3 else "")
            several = "1 cell holds" if len(held) == 1 else f"{len(held)} cells hold"
            text = f"{sheet.name}: {several} art of a neighbour ({names}); the pieces stand too near."
            place = Place("cut", sheet=sheet.id, cells=tuple(cell.id for cell in held))
            yield Finding("neighbour-art", "hint", text, place)


def nothing_cut(project: Project, stock: Stock) -> Iterator[Finding]:
    """A cut that leaves no cell because every one is empty."""
    for sheet in project.sheets:
        if even_cut(sheet) is not None and not sheet.cells:
            yield Finding(
                "nothing-cut",
                "fault",
                f"{sheet.name} is cut, but every cell is empty.",
                Place("cut", sheet=sheet.id),
                Fix("Keep empty cells", partial(_keep_empty, sheet_id=sheet.id, stock=stock)),
            )


def _keep_empty(project: Project, sheet_id: str, stock: Stock) -> Project:
    """Cut the sheet by the same grid, empty cells kept."""
    sheet = sheet_of(project, sheet_id)
    cut = even_cut(sheet)
    assert cut is not None
    project = put_sheet(project, replace(sheet, cut=None))
    return cut_sheet(project, sheet_id, replace(cut, leave_out_empty=False), stock.pixels_or_blank(sheet))
