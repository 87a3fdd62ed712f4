"""Guides: columns and rows of a sheet that can each be moved, for art that is not quite on its grid."""

from __future__ import annotations

from typing import Literal

import numpy as np
from msgspec.structs import replace

from rushweed.core.cut.grid import MOST_CELLS, Grid
from rushweed.core.document.errors import CutError
from rushweed.core.document.model.cut import GuidesCut

Rect = tuple[int, int, int, int]
REACH = 0.4  # of the cells beside it: how far a guide looks for a gap


def guides_of(grid: Grid) -> GuidesCut:
    """Guides that make the same cells as a grid."""
    lines = [
        tuple(int(grid.margin[a] + n * (grid.cell[a] + grid.spacing[a])) for n in range(count + 1))
        for a, count in ((0, grid.columns), (1, grid.rows))
    ]
    return GuidesCut(lines[0], lines[1], grid.spacing)


def check_guides(cut: GuidesCut, size: tuple[int, int], name: str = "The sheet") -> None:
    """Raises CutError if guides cross, leave a cell without a px, or stand outside a sheet of `size` px."""
    for axis, (lines, what) in enumerate(((cut.columns, "columns"), (cut.rows, "rows"))):
        if len(lines) < 2:
            raise CutError(f"{name} has no {what}: two guides make one.", "Add a guide.")
        narrow = min(b - a for a, b in zip(lines, lines[1:], strict=False)) - cut.spacing[axis]
        if narrow < 1:
            raise CutError(f"Two guides of {name} leave no px between them.", "Move one of them away.")
        if lines[0] < 0 or lines[-1] > size[axis] + cut.spacing[axis]:
            raise CutError(f"A guide of {name} stands outside its picture.", "Move it in.")
    if (len(cut.columns) - 1) * (len(cut.rows) - 1) > MOST_CELLS:
        raise CutError(f"The guides make more than {MOST_CELLS:,} cells.", "Use fewer guides.")


def guide_rects(cut: GuidesCut, mask: np.ndarray) -> list[Rect]:
    """The cells between guides that the cut keeps, in reading order; `mask` is bool (height, width) ink."""
    left_out, kept = set(cut.left_out), set(cut.kept)
    rects = []
    for row in range(len(cut.rows) - 1):
        for column in range(len(cut.columns) - 1):
            if (column, row) in left_out:
                continue
            x, y, w, h = guide_rect(cut, column, row)
            if cut.leave_out_empty and (column, row) not in kept and not mask[y : y + h, x : x + w].any():
                continue
            rects.append((x, y, w, h))
    return rects


def guide_rect(cut: GuidesCut, column: int, row: int) -> Rect:
    """x, y, w, h of the cell between two pairs of guides, px."""
    x, y = cut.columns[column], cut.rows[row]
    return x, y, cut.columns[column + 1] - cut.spacing[0] - x, cut.rows[row + 1] - cut.spacing[1] - y


def guide_spot(cut: GuidesCut, x: float, y: float) -> tuple[int, int] | None:
    """The (column, row) at a place of the sheet, or None outside the guides."""
    column = int(np.searchsorted(cut.columns, x, side="right")) - 1
    row = int(np.searchsorted(cut.rows, y, side="right")) - 1
    inside = 0 <= column < len(cut.columns) - 1 and 0 <= row < len(cut.rows) - 1
    return (column, row) if inside else None


def guide_room(cut: GuidesCut, axis: int, index: int, size: tuple[int, int]) -> tuple[int, int]:
    """The least and most px one guide can be moved to without leaving a cell empty of px."""
    lines, gap = (cut.columns, cut.rows)[axis], cut.spacing[axis]
    low = lines[index - 1] + gap + 1 if index > 0 else 0
    high = lines[index + 1] - gap - 1 if index + 1 < len(lines) else size[axis] + gap
    return low, high


def move_guide(cut: GuidesCut, axis: int, index: int, to: int, size: tuple[int, int]) -> GuidesCut:
    """One guide moved; it stops a px before its neighbours and at the edge of a sheet of `size` px."""
    low, high = guide_room(cut, axis, index, size)
    lines = list((cut.columns, cut.rows)[axis])
    lines[index] = min(max(to, low), high)
    return _with(cut, axis, lines)


def add_guide(cut: GuidesCut, axis: int, at: int, size: tuple[int, int]) -> GuidesCut:
    """One guide more; refused where it would leave a cell without a px."""
    lines = sorted({*(cut.columns, cut.rows)[axis], at})
    made = replace(_with(cut, axis, lines), left_out=(), kept=())
    check_guides(made, size)
    return made


def remove_guide(cut: GuidesCut, axis: int, index: int) -> GuidesCut:
    """The cells on both sides of a guide become one; the last two guides stay."""
    lines = list((cut.columns, cut.rows)[axis])
    if len(lines) <= 2:
        raise CutError("Two guides are the least.", "Move it instead.")
    del lines[index]
    return replace(_with(cut, axis, lines), left_out=(), kept=())


def _with(cut: GuidesCut, axis: int, lines: list[int]) -> GuidesCut:
    field: Literal["columns", "rows"] = "columns" if axis == 0 else "rows"
    return replace(cut, **{field: tuple(lines)})


def follow_art(cut: GuidesCut, mask: np.ndarray) -> GuidesCut:
    """Each guide moved to the nearest gap in the art.

    mask: bool (height, width), where the art is. A gap is where least ink runs across the guide's gutter,
    then where least stands beside it, within 0.4 of the narrower neighbour; a guide in a gap stays.
    """
    for axis in (0, 1):
        lines = mask if axis == 0 else mask.T
        held = np.concatenate(([0], np.count_nonzero(lines, axis=0), [0]))  # index p + 1: px column p
        crossing = np.zeros(lines.shape[1] + 1, np.int64)
        crossing[1:-1] = np.count_nonzero(lines[:, 1:] & lines[:, :-1], axis=0)
        places = list((cut.columns, cut.rows)[axis])
        gap, length = cut.spacing[axis], lines.shape[1]
        for index, place in enumerate(list(places)):
            beside = [abs(place - places[k]) for k in (index - 1, index + 1) if 0 <= k < len(places)]
            reach = max(int(REACH * min(beside)), 1)
            low = max(place - reach, places[index - 1] + gap + 1 if index else 0)
            high = min(place + reach, length + gap)
            if index + 1 < len(places):
                high = min(high, places[index + 1] - gap - 1)
            candidates = np.arange(low, high + 1)
            end = np.clip(candidates, 0, length)
            start = np.clip(candidates - gap, 0, length)
            within = np.concatenate(([0], np.cumsum(held[1:-1])))
            inked = within[end] - within[start] if gap else crossing[end]
            near = held[np.clip(candidates - gap, 0, length)] + held[np.clip(candidates, 0, length) + 1]
            order = np.lexsort((np.abs(candidates - place), near, inked))
            places[index] = int(candidates[order[0]])
        cut = _with(cut, axis, places)
    return cut
