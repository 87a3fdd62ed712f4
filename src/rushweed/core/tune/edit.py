"""Edits of the Tune stage: pixels per unit, filter, pivots."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable

from msgspec.structs import replace

from rushweed.core.document.edit import change_cells, put_sheet, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model import Cell, Filter, Project

# The nine places as fractions of the cell, x right, y down.
PLACES: dict[str, tuple[float, float]] = {
    "top left": (0, 0), "top": (0.5, 0), "top right": (1, 0),
    "left": (0, 0.5), "centre": (0.5, 0.5), "right": (1, 0.5),
    "bottom left": (0, 1), "bottom": (0.5, 1), "bottom right": (1, 1),
}  # fmt: skip
MOST_PPU = 4096


def check_ppu(ppu: float) -> float:
    if not math.isfinite(ppu) or not 0 < ppu <= MOST_PPU:
        raise EditError(
            f"{ppu:g} pixels per unit is not possible.", f"Use more than 0 and at most {MOST_PPU}."
        )
    return ppu


def tune_sheets(
    project: Project,
    sheet_ids: Iterable[str],
    ppu: float | None = None,
    filter: Filter | None = None,
    pivot: tuple[float, float] | None = None,
) -> Project:
    """Set what is given for every sheet named; `pivot` (a fraction) is also given to all their cells."""
    if ppu is not None:
        check_ppu(ppu)
    for sheet_id in sheet_ids:
        sheet = sheet_of(project, sheet_id)
        tune = replace(
            sheet.tune,
            ppu=sheet.tune.ppu if ppu is None else ppu,
            filter=filter or sheet.tune.filter,
            pivot=sheet.tune.pivot if pivot is None else pivot,
        )
        if tune != sheet.tune:
            sheet = replace(sheet, tune=tune)
            project = put_sheet(project, sheet)
        if pivot is not None:
            project = set_pivot_share(project, [cell.id for cell in sheet.cells], pivot)
    return project


def set_pivot_share(project: Project, cell_ids: Collection[str], share: tuple[float, float]) -> Project:
    """Put the pivot of each cell at a fraction of its own size."""
    _check_pivot(share, 64)
    return change_cells(
        project, cell_ids, lambda c: _with_pivot(c, (share[0] * c.rect[2], share[1] * c.rect[3]))
    )


def set_pivot_px(
    project: Project, cell_ids: Collection[str], x: float | None = None, y: float | None = None
) -> Project:
    """Put the pivot of each cell at px from its top left; None leaves that axis."""
    _check_pivot((x or 0, y or 0), 65_536)
    return change_cells(
        project,
        cell_ids,
        lambda c: _with_pivot(c, (c.pivot[0] if x is None else x, c.pivot[1] if y is None else y)),
    )


def _check_pivot(pivot: tuple[float, float], most: float) -> None:
    if not all(math.isfinite(v) and abs(v) <= most for v in pivot):
        raise EditError("That pivot is too far from its cell.", "Use a place in or near the cell.")


def _with_pivot(cell: Cell, pivot: tuple[float, float]) -> Cell:
    return cell if cell.pivot == pivot else replace(cell, pivot=pivot)


def place_name(cell: Cell) -> str | None:
    """The name of the place the pivot stands at, or None if it is at none of the nine."""
    for name, (fx, fy) in PLACES.items():
        if cell.pivot == (fx * cell.rect[2], fy * cell.rect[3]):
            return name
    return None


def pivot_drift(cells: Iterable[Cell]) -> tuple[float, float]:
    """How far the pivots wander over some frames: largest less smallest, px in x and y."""
    pivots = [cell.pivot for cell in cells]
    if not pivots:
        return 0, 0
    xs, ys = zip(*pivots, strict=True)
    return max(xs) - min(xs), max(ys) - min(ys)


def parse_pivot(text: str) -> tuple[tuple[float, float], bool]:
    """A pivot as typed: a place name or "X,Y" px. Returns (value, is a fraction). Raises EditError."""
    name = text.strip().lower().replace("-", " ").replace("_", " ").replace("center", "centre")
    if name in PLACES:
        return PLACES[name], True
    try:
        x, y = (float(part) for part in text.split(","))
    except ValueError:
        raise EditError(
            f"{text!r} is no pivot.", f"Use px such as 8,16 or one of: {', '.join(PLACES)}."
        ) from None
    _check_pivot((x, y), 65_536)
    return (x, y), False
