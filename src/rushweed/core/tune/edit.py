"""Edits of the Tune stage: pixels per unit, filter and the other settings of a texture, pivots."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping
from typing import Any

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import change_cells, put_sheet, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.tune.recipe import follows, recipe_of
from rushweed.core.tune.units import check_tune

# The nine places as fractions of the cell, x right, y down.
PLACES: dict[str, tuple[float, float]] = {
    "top left": (0, 0), "top": (0.5, 0), "top right": (1, 0),
    "left": (0, 0.5), "centre": (0.5, 0.5), "right": (1, 0.5),
    "bottom left": (0, 1), "bottom": (0.5, 1), "bottom right": (1, 1),
}  # fmt: skip
INK = 8  # alpha from which a px counts


def tune_sheets(
    project: Project, sheet_ids: Iterable[str], pivot: tuple[float, float] | None = None, **fields: Any
) -> Project:
    """Set the given fields of Tune for every sheet named; `pivot` (a fraction) is also given to all their
    cells.

    A sheet whose settings are no longer those of its recipe follows it no more. Raises EditError for a value
    that is not possible.
    """
    check_tune(fields)
    if pivot is not None:
        fields["pivot"] = pivot
    for sheet_id in sheet_ids:
        sheet = sheet_of(project, sheet_id)
        tune = replace(sheet.tune, **fields)
        if tune != sheet.tune:
            recipe = recipe_of(project, tune.recipe) if tune.recipe else None
            if recipe is None or not follows(tune, recipe):
                tune = replace(tune, recipe="")
            sheet = replace(sheet, tune=tune)
            project = put_sheet(project, sheet)
        if pivot is not None:
            project = set_pivot_share(project, [cell.id for cell in sheet.cells], pivot)
    return project


def pivots_from_feet(project: Project, cells: Mapping[str, np.ndarray]) -> Project:
    """Put the pivot of each cell under its feet: the middle of what touches its lowest line of ink.

    cells: the px of each, uint8 (height, width, 4), by id; one without ink keeps its pivot.
    """

    def change(cell: Cell) -> Cell:
        found = feet_of(cells[cell.id])
        return (
            cell if found is None else _with_pivot(cell, (found[0] + cell.shift[0], found[1] + cell.shift[1]))
        )

    return change_cells(project, list(cells), change)


def feet_of(pixels: np.ndarray) -> tuple[float, float] | None:
    """Where something stands, in px of its picture: between the outermost ink of its lowest eighth, to half
    a px, and the lower edge of its lowest ink."""
    ink = pixels[..., 3] >= INK
    rows = np.flatnonzero(ink.any(axis=1))
    if not rows.size:
        return None
    foot = int(rows[-1]) + 1
    high = max((foot - int(rows[0])) // 8, 1)
    columns = np.flatnonzero(ink[foot - high : foot].any(axis=0))
    return (int(columns[0]) + int(columns[-1]) + 1) / 2, float(foot)


def set_pivot_share(
    project: Project, cell_ids: Collection[str], share: tuple[float | None, float | None]
) -> Project:
    """Put the pivot of each cell at a fraction of its own size; None leaves that axis."""
    x, y = share
    _check_pivot((x or 0, y or 0), 64)

    def change(cell: Cell) -> Cell:
        (left, top), (w, h) = cell.pivot, cell.rect[2:]
        return _with_pivot(cell, (left if x is None else x * w, top if y is None else y * h))

    return change_cells(project, cell_ids, change)


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


def differing_stands(cells: Iterable[Cell]) -> list[Cell]:
    """Of cells whose pivots and sizes are the same one each: most are alike."""
    return list({(c.pivot, c.rect[2], c.rect[3]): c for c in cells}.values())


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
