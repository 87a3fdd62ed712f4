"""Cells that their picture no longer reaches are kept aside, whole, until it does again."""

from __future__ import annotations

from msgspec.structs import replace

from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Aside, Cell, Sheet


def sorted_out(sheet: Sheet) -> Sheet:
    """The sheet with the cells that its picture does not hold whole set aside, and those back that it holds.

    One that would come back onto a cell cut since then, over more than half of either, stays aside.
    """
    everything = list(sheet.cells)
    for one in sorted(sheet.aside, key=lambda a: a.index):
        everything.insert(min(one.index, len(everything)), one.cell)
    were_aside = {one.cell.id for one in sheet.aside}
    cells: list[Cell] = []
    aside: list[Aside] = []
    for index, cell in enumerate(everything):
        taken = cell.id in were_aside and any(_covers(cell, other) for other in sheet.cells)
        if holds(sheet.source.size, cell) and not taken:
            cells.append(cell)
        else:
            aside.append(Aside(index, cell))
    if len(cells) == len(sheet.cells) and not aside:
        return sheet
    return replace(sheet, cells=tuple(cells), aside=tuple(aside))


def holds(size: tuple[int, int], cell: Cell) -> bool:
    """Whether a picture of `size` px holds a cell whole."""
    x, y, w, h = cell.rect
    return x >= 0 and y >= 0 and x + w <= size[0] and y + h <= size[1]


def _covers(one: Cell, other: Cell) -> bool:
    (ax, ay, aw, ah), (bx, by, bw, bh) = one.rect, other.rect
    wide, high = min(ax + aw, bx + bw) - max(ax, bx), min(ay + ah, by + bh) - max(ay, by)
    return wide > 0 and high > 0 and 2 * wide * high > min(aw * ah, bw * bh)


def drop_aside(project: Project, sheet_id: str) -> Project:
    """Remove the cells of a sheet that are kept aside, for good."""
    sheet = sheet_of(project, sheet_id)
    return put_sheet(project, replace(sheet, aside=())) if sheet.aside else project
