"""The texture a game reads for a sheet: its cells apart by their gutters, compressed, with mipmaps."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.sheet import Sheet

Rect = tuple[int, int, int, int]


class Laid(NamedTuple):
    """The picture, uint8 RGBA, and where each cell lies in it, by id."""

    rgba: np.ndarray
    rects: dict[str, Rect]


def laid_out(sheet: Sheet, rgba: np.ndarray) -> Laid:
    """The sheet as the texture holds it: itself without a gutter, else cell after cell in rows, each with its
    edge repeated around it."""
    gutter = sheet.tune.gutter
    size, rects = _places(sheet, (rgba.shape[1], rgba.shape[0]))
    if not _has_gutters(sheet):
        return Laid(padded(rgba, size), rects)
    out = np.zeros((size[1], size[0], 4), np.uint8)
    for cell in sheet.cells:
        (cx, cy, w, h), (left, top, _w, _h) = cell.rect, rects[cell.id]
        block = with_gutter(rgba[cy : cy + h, cx : cx + w], gutter)
        left, top = left - gutter, top - gutter
        out[top : top + block.shape[0], left : left + block.shape[1]] = block
    return Laid(out, rects)


def texture_size(sheet: Sheet) -> tuple[int, int]:
    """The size in px of the texture that `laid_out` makes of a sheet."""
    return _places(sheet, sheet.source.size)[0]


def _has_gutters(sheet: Sheet) -> bool:
    return bool(sheet.tune.gutter and sheet.cells and sheet.tune.wrap != "repeat")


def _places(sheet: Sheet, size: tuple[int, int]) -> tuple[tuple[int, int], dict[str, Rect]]:
    """The size of the texture of a picture of `size` px, and where each cell lies in it, by id."""
    if not _has_gutters(sheet):
        return padded_size(sheet, size), {cell.id: cell.rect for cell in sheet.cells}
    gutter = sheet.tune.gutter
    width = max(size[0], max(c.rect[2] for c in sheet.cells) + 2 * gutter)
    rects: dict[str, Rect] = {}
    x = y = row = 0
    for cell in sheet.cells:
        w, h = cell.rect[2] + 2 * gutter, cell.rect[3] + 2 * gutter
        if x + w > width:
            x, y, row = 0, y + row, 0
        rects[cell.id] = (x + gutter, y + gutter, cell.rect[2], cell.rect[3])
        x, row = x + w, max(row, h)
    return padded_size(sheet, (width, y + row)), rects


def padded_size(sheet: Sheet, size: tuple[int, int] | None = None) -> tuple[int, int]:
    """The size of a sheet's picture, or of another one, as its padding brings it up, px."""
    width, height = size or sheet.source.size
    if sheet.tune.pad == "power":
        return max(1 << (width - 1).bit_length(), 4), max(1 << (height - 1).bit_length(), 4)
    if sheet.tune.pad == "four":
        return width + -width % 4, height + -height % 4
    return width, height


def padded(rgba: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """The picture at the upper left of `size` (width, height) px, the rest clear."""
    height, width = rgba.shape[:2]
    if (width, height) == size:
        return rgba
    return np.pad(rgba, ((0, size[1] - height), (0, size[0] - width), (0, 0)))


def with_gutter(pixels: np.ndarray, gutter: int) -> np.ndarray:
    """The pixels with their edge repeated `gutter` px outwards, corners too."""
    return np.pad(pixels, ((gutter, gutter), (gutter, gutter), (0, 0)), mode="edge")


def gutter_needed(sheet: Sheet) -> int:
    """Px around a cell that its filter reads: none for nearest, one for linear, four with mipmaps, which is
    enough down to a quarter of the size."""
    if sheet.tune.mipmaps:
        return 4
    return 1 if sheet.tune.filter == "linear" else 0


def px_between(sheet: Sheet) -> int | None:
    """The least px between two neighbouring cells of a sheet, or None where there are no neighbours."""
    if len(sheet.cells) < 2:
        return None
    rects = np.array([cell.rect for cell in sheet.cells])
    least: int | None = None
    for axis in (0, 1):
        order = np.lexsort((rects[:, axis], rects[:, 1 - axis]))
        ranked = rects[order]
        same = ranked[1:, 1 - axis] == ranked[:-1, 1 - axis]
        gaps = ranked[1:, axis] - (ranked[:-1, axis] + ranked[:-1, axis + 2])
        if same.any():
            found = int(gaps[same].min())
            least = found if least is None else min(least, found)
    return least


def bleeds(sheet: Sheet) -> bool:
    """Whether neighbours are read into a cell: its filter reaches beyond it, and nothing keeps them apart."""
    needed = gutter_needed(sheet)
    if not needed or sheet.tune.wrap == "repeat" or sheet.tune.gutter >= needed:
        return False
    between = px_between(sheet)
    return between is not None and (sheet.tune.gutter > 0 or between < 2 * needed)
