"""Nine-slice: a cell drawn at any size, its corners as they are, its sides and centre stretched or
repeated."""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import change_cells
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Fill, NineSlice
from rushweed.core.tune.sample import Texture, sample_texture
from rushweed.core.tune.texture import Rect

FILLS = ("left_fill", "top_fill", "right_fill", "bottom_fill", "centre_fill")
MARGINS = ("left", "top", "right", "bottom")


def set_margins(project: Project, cell_ids: Collection[str], **margins: int) -> Project:
    """Set some of left, top, right and bottom, in px, for many cells. Raises EditError where they do not
    fit."""

    def change(cell: Cell) -> Cell:
        stretch = replace(cell.stretch or NineSlice(0, 0, 0, 0), **margins)
        check_margins(cell, stretch)
        return cell if stretch == cell.stretch else replace(cell, stretch=stretch)

    return change_cells(project, cell_ids, change)


def check_margins(cell: Cell, stretch: NineSlice) -> None:
    """Raises EditError if the margins do not fit the cell."""
    if min(stretch.left, stretch.top, stretch.right, stretch.bottom) < 0:
        raise EditError(f"{cell.name}: a nine-slice margin is below 0 px.", "Use 0 or more.")
    for name, first, last, side in (
        ("left and right", stretch.left, stretch.right, cell.rect[2]),
        ("top and bottom", stretch.top, stretch.bottom, cell.rect[3]),
    ):
        if first + last > side:
            raise EditError(
                f"{cell.name} has {side} px for nine-slice margins of {first} + {last} px, {name}.",
                "Make them smaller.",
            )


def set_fill(project: Project, cell_ids: Collection[str], which: str, fill: Fill) -> Project:
    """How one of `FILLS` fills its room; a cell without margins gets a third all round first. Raises
    EditError for a part that there is not."""
    if which not in FILLS:
        raise EditError(f"A nine-slice has no {which!r}.", f"Use {', '.join(FILLS)}.")

    def change(cell: Cell) -> Cell:
        return replace(cell, stretch=replace(cell.stretch or thirds(cell), **{which: fill}))

    return change_cells(project, cell_ids, change)


def start(project: Project, cell_ids: Collection[str], margins: dict[str, NineSlice]) -> Project:
    """Give each cell the margins found for it. Raises EditError where they do not fit."""

    def change(cell: Cell) -> Cell:
        stretch = margins.get(cell.id) or thirds(cell)
        check_margins(cell, stretch)
        return replace(cell, stretch=stretch)

    return change_cells(project, cell_ids, change)


def clear(project: Project, cell_ids: Collection[str]) -> Project:
    """Take the nine-slice away."""
    return change_cells(project, cell_ids, lambda c: c if c.stretch is None else replace(c, stretch=None))


def thirds(cell: Cell) -> NineSlice:
    """Margins at a third of the cell."""
    across, down = cell.rect[2] // 3, cell.rect[3] // 3
    return NineSlice(across, down, across, down)


ALIKE = 0.9  # share of px by which two neighbouring lines count as alike, where few are equal


def proposed(pixels: np.ndarray) -> NineSlice | None:
    """The margins that leave the longest run of equal columns and rows to be stretched, for a cell of
    uint8 (height, width, 4). Where the run is short, lines that are mostly alike count too. None if there is
    no run of two px or more on both axes."""
    spans = []
    for lines in (pixels.transpose(1, 0, 2), pixels):
        same = (lines[1:] == lines[:-1]).all(axis=2).mean(axis=1)
        span = _longest_run(same >= 1)
        if span[1] - span[0] < len(lines) / 3:
            span = _longest_run(same >= ALIKE)
        first, last = span[0], len(lines) - span[1]
        if abs(first - last) <= 2:  # a little more of a corner is kept, so that both sides match
            first = last = max(first, last)
        spans.append((first, last, len(lines) - first - last))
    (left, right, across), (top, bottom, down) = spans
    return NineSlice(left, top, right, bottom) if min(across, down) >= 2 else None


def _longest_run(same: np.ndarray) -> tuple[int, int]:
    """The longest run of lines (first, last + 1) that are each like the one before; of equals the one
    nearest the middle. same: bool (lines - 1,)."""
    count = len(same) + 1
    best, best_score, at = (0, 0), (-1.0, 0.0), 0
    for i in range(1, count + 1):
        if i == count or not same[i - 1]:
            score = (float(i - at), -abs((at + i) / 2 - count / 2))
            if score > best_score:
                best, best_score = (at, i), score
            at = i
    return best


class Part(NamedTuple):
    """One of nine: `source` (x, y, w, h) in cell px, `target` in px of the stretched picture, and whether
    each axis is repeated, at the size it has, rather than stretched."""

    source: tuple[float, float, float, float]
    target: tuple[float, float, float, float]
    repeat: tuple[bool, bool]


def parts(stretch: NineSlice, cell: tuple[int, int], size: tuple[float, float]) -> list[Part]:
    """The nine parts of a cell of (width, height) px at another size; corners shrink where there is no room
    for them."""
    columns = _spans(stretch.left, stretch.right, cell[0], size[0])
    rows = _spans(stretch.top, stretch.bottom, cell[1], size[1])
    fills = {
        (1, 0): (stretch.top_fill, "stretch"), (1, 2): (stretch.bottom_fill, "stretch"),
        (0, 1): ("stretch", stretch.left_fill), (2, 1): ("stretch", stretch.right_fill),
        (1, 1): (stretch.centre_fill, stretch.centre_fill),
    }  # fmt: skip
    out = []
    for j, (sy, sh, ty, th) in enumerate(rows):
        for i, (sx, sw, tx, tw) in enumerate(columns):
            if sw > 0 and sh > 0 and tw > 0 and th > 0:
                across, down = fills.get((i, j), ("stretch", "stretch"))
                out.append(Part((sx, sy, sw, sh), (tx, ty, tw, th), (across == "repeat", down == "repeat")))
    return out


def _spans(first: int, last: int, side: int, size: float) -> list[tuple[float, float, float, float]]:
    """Of one axis: source start and length, target start and length, for edge, middle, edge."""
    kept = first + last
    share = min(size / kept, 1.0) if kept else 1.0
    a, b = first * share, last * share
    return [(0, first, 0, a), (first, side - kept, a, size - a - b), (side - last, last, size - b, b)]


def stretched(
    texture: Texture, rect: Rect, stretch: NineSlice, size: tuple[int, int], scale: float = 1.0
) -> np.ndarray:
    """A cell at `size` (width, height) px of the art, drawn `scale` output px a texel: premultiplied
    float32."""
    out = np.zeros((round(size[1] * scale), round(size[0] * scale), 4), np.float32)
    for part in parts(stretch, rect[2:], size):
        axes = []
        for axis in (0, 1):
            start, length = part.target[axis] * scale, part.target[axis + 2] * scale
            first, last = round(start), round(start + length)
            along = np.clip((np.arange(first, last) + 0.5 - start) / max(length, 1e-9), 0, 1 - 1e-9)
            source = part.source[axis + 2]
            if part.repeat[axis]:
                read = np.mod(along * part.target[axis + 2], source)
            else:
                read = along * source
            axes.append((first, last, rect[axis] + part.source[axis] + read))
        (x0, x1, u), (y0, y1, v) = axes
        if x1 > x0 and y1 > y0:
            out[y0:y1, x0:x1] = sample_texture(texture, u[None, :], v[:, None], 1 / scale)
    return out
