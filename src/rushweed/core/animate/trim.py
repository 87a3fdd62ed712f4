"""The same trimming for all frames of a thing: what none of them needs goes, pivots and feet stay."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np
from msgspec.structs import replace

from rushweed.core.animate.register import SOLID, pixels_of_cell
from rushweed.core.document.edit import change_cells
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.cut import HandCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.document.shapes import moved
from rushweed.core.document.stretch import kept_on_art
from rushweed.core.pixels.cache import PixelCache

Rect = tuple[int, int, int, int]


def trim_alike(project: Project, cell_ids: Collection[str], stock: PixelCache) -> Project:
    """Give frames cells of one size that hold the art of all of them, measured from their pivots.

    Every frame is drawn where it was drawn before: pivot, shift and shapes are taken along. Cells never
    grow beyond what they were, so that no neighbour comes in. Raises EditError if there is nothing to trim.
    """
    frames = [(s, c) for s in project.sheets for c in s.cells if c.id in cell_ids]
    inked = {}
    for sheet, cell in frames:
        alpha = pixels_of_cell(stock.pixels(sheet), cell)[..., 3] >= SOLID
        rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
        if rows.size:
            inked[cell.id] = (int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)
    if not inked:
        raise EditError("These frames hold no art to trim to.", "Choose others.")
    held = {c.id: (c, _from_pivot(c)) for _s, c in frames}
    boxes = [
        (x0 + dx, y0 + dy, x1 + dx, y1 + dy)
        for i, (x0, y0, x1, y1) in inked.items()
        for dx, dy in [held[i][1]]
    ]
    left, top = min(b[0] for b in boxes), min(b[1] for b in boxes)
    wide, high = max(b[2] for b in boxes) - left, max(b[3] for b in boxes) - top
    changed = {}
    for i, (cell, (dx, dy)) in held.items():
        _x, _y, w, h = cell.rect
        tight = inked.get(i, (0, 0, 1, 1))
        x0 = _inside(left - dx, wide, w, tight[0], tight[2])
        y0 = _inside(top - dy, high, h, tight[1], tight[3])
        changed[i] = _trimmed(cell, (x0, y0, min(wide, w), min(high, h)))
    if all(changed[c.id] is c for _s, c in frames):
        raise EditError("These frames are trimmed alike already.", "Nothing needs to be done.")
    made = change_cells(project, changed, lambda c: changed[c.id])
    touched = {s.id for s, _c in frames}
    sheets = tuple(replace(s, cut=HandCut()) if s.id in touched else s for s in made.sheets)
    return replace(made, sheets=sheets)


def _from_pivot(cell: Cell) -> tuple[int, int]:
    """Where the cell's top left is drawn, whole px from the pivot."""
    return round(cell.shift[0] - cell.pivot[0]), round(cell.shift[1] - cell.pivot[1])


def _inside(start: int, length: int, room: int, low: int, high: int) -> int:
    """Where a stretch begins that lies in a cell of `room` px and holds its art from `low` to `high`."""
    start = min(max(start, 0), max(room - length, 0))
    return min(max(start, high - length), low) if length < room else start


def _trimmed(cell: Cell, part: Rect) -> Cell:
    """The cell cut down to a part of itself; what is drawn stays where it is."""
    x, y, w, h = part
    if (x, y) == (0, 0) and (w, h) == cell.rect[2:]:
        return cell
    rect = (cell.rect[0] + x, cell.rect[1] + y, w, h)
    shapes = tuple(moved(shape, -x, -y) for shape in cell.shapes)
    return replace(cell, rect=rect, pivot=(cell.pivot[0] - x, cell.pivot[1] - y), shapes=shapes,
                   stretch=kept_on_art(cell.stretch, cell.rect, rect))  # fmt: skip
