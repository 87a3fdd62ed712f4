"""Cells on a regular grid, what they leave over, and what they cut through."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import CutError
from rushweed.core.document.model.cut import CountCut, EvenCut, GridCut
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.ready import kernels

MOST_CELLS = 65_536
OPAQUE_SHARE = 0.85  # a sheet with more ink than this joins its tiles on purpose
SOLID = 8  # alpha at or above counts as ink


class Grid(NamedTuple):
    """A grid on a sheet, in px. `left_over` is what no cell or margin covers: (right, bottom)."""

    columns: int
    rows: int
    cell: tuple[int, int]
    margin: tuple[int, int]
    spacing: tuple[int, int]
    left_over: tuple[int, int]

    def starts(self, axis: int) -> np.ndarray:
        """Where the columns (axis 0) or rows (axis 1) begin, in px."""
        count = self.columns if axis == 0 else self.rows
        return self.margin[axis] + np.arange(count) * (self.cell[axis] + self.spacing[axis])

    def rect(self, column: int, row: int) -> tuple[int, int, int, int]:
        """x, y, w, h of one cell in px."""
        w, h = self.cell
        x = self.margin[0] + column * (w + self.spacing[0])
        y = self.margin[1] + row * (h + self.spacing[1])
        return x, y, w, h

    def spot(self, x: float, y: float) -> tuple[int, int] | None:
        """The (column, row) at a place of the sheet, or None outside the grid."""
        column = int((x - self.margin[0]) // (self.cell[0] + self.spacing[0]))
        row = int((y - self.margin[1]) // (self.cell[1] + self.spacing[1]))
        return (column, row) if 0 <= column < self.columns and 0 <= row < self.rows else None


def even_cut(sheet: Sheet) -> EvenCut | None:
    """The sheet's cut if it is a grid."""
    return sheet.cut if isinstance(sheet.cut, (GridCut, CountCut)) else None


def grid_of(cut: EvenCut, size: tuple[int, int], name: str = "The sheet") -> Grid:
    """The grid that a cut makes on a sheet of `size` px. Raises CutError if there is none."""
    if min(cut.margin) < 0 or min(cut.spacing) < 0:
        raise CutError("Margin and spacing cannot be below 0 px.", "Use 0 or more.")
    if isinstance(cut, CountCut):
        cell = _cell_by_count(cut, size, name)
        counts = (cut.columns, cut.rows)
    else:
        cell = cut.cell
        if min(cell) < 1:
            raise CutError(f"A cell of {cell[0]} x {cell[1]} px has no pixels.", "Use at least 1 x 1 px.")
        counts = (_count(cut, size, 0), _count(cut, size, 1))
        for axis, side in ((0, "wide"), (1, "high")):
            if counts[axis] < 1:
                raise CutError(
                    f"{name} is {size[axis]} px {side}, too small for a cell of {cell[axis]} px"
                    + (f" after a margin of {cut.margin[axis]} px." if cut.margin[axis] else "."),
                    f"Use at most {max(size[axis] - cut.margin[axis], 1)} px.",
                )
    if counts[0] * counts[1] > MOST_CELLS:
        raise CutError(
            f"{counts[0]} x {counts[1]} cells are {counts[0] * counts[1]:,}, more than {MOST_CELLS:,}.",
            "Use a larger cell.",
        )
    over = []
    for axis in (0, 1):
        used = cut.margin[axis] + counts[axis] * (cell[axis] + cut.spacing[axis]) - cut.spacing[axis]
        over.append(max(size[axis] - used - cut.margin[axis], 0))
    return Grid(counts[0], counts[1], cell, cut.margin, cut.spacing, (over[0], over[1]))


def _count(cut: GridCut, size: tuple[int, int], axis: int) -> int:
    step = cut.cell[axis] + cut.spacing[axis]
    return (size[axis] - cut.margin[axis] + cut.spacing[axis]) // step


def _cell_by_count(cut: CountCut, size: tuple[int, int], name: str) -> tuple[int, int]:
    cell = []
    for axis, count, what in ((0, cut.columns, "columns"), (1, cut.rows, "rows")):
        if count < 1:
            raise CutError(f"A grid of {count} {what} has no cells.", "Use at least 1.")
        room = size[axis] - 2 * cut.margin[axis] - (count - 1) * cut.spacing[axis]
        if room < count:
            raise CutError(
                f"{name} is {size[axis]} px {'wide' if axis == 0 else 'high'}, too small for {count} {what}.",
                "Use fewer, or a smaller margin and spacing.",
            )
        cell.append(room // count)
    return cell[0], cell[1]


def ink(rgba: np.ndarray) -> np.ndarray:
    """Where the art is: bool (height, width)."""
    return np.asarray(rgba[..., 3] >= SOLID)


def occupied(mask: np.ndarray, grid: Grid) -> np.ndarray:
    """Which cells hold any ink: bool (rows, columns). `mask` is bool (height, width)."""
    bands = _any_within(mask, grid.starts(1), grid.cell[1])
    return _any_within(bands.T, grid.starts(0), grid.cell[0]).T


def ink_sums(mask: np.ndarray) -> np.ndarray:
    """How much ink lies left of and above each place: int32 (height + 1, width + 1)."""
    sums = np.zeros((mask.shape[0] + 1, mask.shape[1] + 1), np.int32)
    if (compiled := kernels("rushweed.core.cut.kernels")) is not None:
        compiled.add_up(np.ascontiguousarray(mask, bool), sums)
        return sums
    column = np.zeros(mask.shape[1], np.int32)
    ink = np.ascontiguousarray(mask).view(np.uint8)
    for y, row in enumerate(ink):  # row by row: eight times as fast as along the columns at once
        column += row
        np.cumsum(column, out=sums[y + 1, 1:])
    return sums


def occupied_by_sums(sums: np.ndarray, grid: Grid) -> np.ndarray:
    """`occupied` from `ink_sums`, for many grids on one sheet."""
    xs, ys = grid.starts(0), grid.starts(1)
    x1, y1 = xs + grid.cell[0], ys + grid.cell[1]
    whole = sums[np.ix_(y1, x1)] - sums[np.ix_(ys, x1)] - sums[np.ix_(y1, xs)] + sums[np.ix_(ys, xs)]
    return np.asarray(whole > 0)


def _any_within(mask: np.ndarray, starts: np.ndarray, length: int) -> np.ndarray:
    """Whether anything is set in each stretch of rows: bool (stretches, width)."""
    return np.stack([mask[start : start + length].any(axis=0) for start in starts.tolist()])


def places(cut: EvenCut, grid: Grid, full: np.ndarray) -> list[tuple[int, int]]:
    """The (column, row) of every cell the cut keeps, in reading order; `full` is from `occupied`."""
    keep = full.copy() if cut.leave_out_empty else np.ones_like(full)
    for column, row in cut.kept:
        if 0 <= column < grid.columns and 0 <= row < grid.rows:
            keep[row, column] = True
    for column, row in cut.left_out:
        if 0 <= column < grid.columns and 0 <= row < grid.rows:
            keep[row, column] = False
    return [(int(c), int(r)) for r, c in np.argwhere(keep)]


def cut_through(mask: np.ndarray, grid: Grid) -> np.ndarray:
    """Which cells cut through art: bool (rows, columns), at their right or lower border."""
    right, below = cut_borders(mask, grid)
    made: np.ndarray = right | below
    return made


def cut_borders(mask: np.ndarray, grid: Grid) -> tuple[np.ndarray, np.ndarray]:
    """Which right and which lower borders cut through art: two bool (rows, columns).

    Ink crosses such a border in part. Borders that are inked along three quarters or more join on purpose,
    as the tiles of a floor do. mask: bool (height, width).
    """
    found = []
    for axis in (1, 0):
        lines = mask if axis == 1 else mask.T
        starts, others = (grid.starts(0), grid.starts(1)) if axis == 1 else (grid.starts(1), grid.starts(0))
        side, other = (grid.cell[0], grid.cell[1]) if axis == 1 else (grid.cell[1], grid.cell[0])
        gap = grid.spacing[0] if axis == 1 else grid.spacing[1]
        part = np.zeros((len(others), len(starts)), bool)
        ends = starts[:-1] + side
        if ends.size:
            crossing = np.ones((lines.shape[0], ends.size), bool)
            for step in range(-1, gap + 1):
                crossing &= lines[:, ends[0] + step : ends[-1] + step + 1 : side + gap]
            before = np.zeros((lines.shape[0] + 1, ends.size), np.int32)
            np.cumsum(crossing, axis=0, out=before[1:])
            inked = before[others + other] - before[others]
            part[:, :-1] = (inked > 0) & (inked < 0.75 * other)
        found.append(part if axis == 1 else part.T)
    return found[0], found[1]
