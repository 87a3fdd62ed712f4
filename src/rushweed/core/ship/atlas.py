"""The atlas: cells trimmed, equal ones kept once, packed into pages, gutters filled with edge pixels."""

from __future__ import annotations

import hashlib
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model import Cell, Filter, Project, Sheet
from rushweed.core.pixels.stock import Stock
from rushweed.core.ship.pack import pack


class AtlasSettings(NamedTuple):
    """`gutter` px of repeated edge around each frame; `limit` px a side of a page at most."""

    gutter: int = 2
    limit: int = 2048
    power_of_two: bool = True
    trim: bool = True


class Frame(NamedTuple):
    """Where a cell ended: page number, x, y, w, h there, and where that lies in the untrimmed cell."""

    sheet: Sheet
    cell: Cell
    page: int
    rect: tuple[int, int, int, int]
    offset: tuple[int, int]


class Atlas(NamedTuple):
    """`pages` are uint8 RGBA, `filters` the filter of each; a page never mixes filters."""

    pages: list[np.ndarray]
    filters: list[Filter]
    frames: list[Frame]


def build(project: Project, stock: Stock, settings: AtlasSettings = AtlasSettings()) -> Atlas:  # noqa: B008
    """Make the atlas of every cell. Raises EditError if a cell does not fit a page, PictureError if a
    picture is missing."""
    pages: list[np.ndarray] = []
    filters: list[Filter] = []
    placed: dict[str, Frame] = {}
    for filter in ("nearest", "linear"):
        sheets = [s for s in project.sheets if s.tune.filter == filter and s.cells]
        _pack_group(sheets, stock, settings, filter, pages, filters, placed)  # type: ignore[arg-type]
    frames = [placed[cell.id] for sheet in project.sheets for cell in sheet.cells]
    return Atlas(pages, filters, frames)


def _pack_group(
    sheets: list[Sheet],
    stock: Stock,
    settings: AtlasSettings,
    filter: Filter,
    pages: list[np.ndarray],
    filters: list[Filter],
    placed: dict[str, Frame],
) -> None:
    parts: list[np.ndarray] = []
    index_of: dict[bytes, int] = {}
    wanted: list[tuple[Sheet, Cell, int, tuple[int, int]]] = []
    for sheet in sheets:
        rgba = stock.pixels(sheet)
        for cell in sheet.cells:
            pixels, offset = trimmed(rgba, cell, settings.trim)
            key = hashlib.sha256(repr(pixels.shape).encode() + pixels.tobytes()).digest()
            if key not in index_of:
                index_of[key] = len(parts)
                parts.append(pixels)
            wanted.append((sheet, cell, index_of[key], offset))
    if not parts:
        return
    g = settings.gutter
    sizes = [(p.shape[1] + 2 * g, p.shape[0] + 2 * g) for p in parts]
    where: dict[int, tuple[int, int, int]] = {}
    for page in pack(sizes, settings.limit, settings.power_of_two):
        picture = np.zeros((page.height, page.width, 4), np.uint8)
        for i, (x, y) in page.places.items():
            block = with_gutter(parts[i], g)
            picture[y : y + block.shape[0], x : x + block.shape[1]] = block
            where[i] = (len(pages), x + g, y + g)
        pages.append(picture)
        filters.append(filter)
    for sheet, cell, part, offset in wanted:
        number, x, y = where[part]
        h, w = parts[part].shape[:2]
        placed[cell.id] = Frame(sheet, cell, number, (x, y, w, h), offset)


def trimmed(rgba: np.ndarray, cell: Cell, trim: bool = True) -> tuple[np.ndarray, tuple[int, int]]:
    """A cell's pixels without its clear border, and how far in they start; an empty cell keeps one px."""
    x, y, w, h = cell.rect
    pixels = rgba[y : y + h, x : x + w]
    if not trim:
        return pixels, (0, 0)
    alpha = pixels[..., 3] > 0
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return pixels[:1, :1], (0, 0)
    top, left = int(rows[0]), int(columns[0])
    return pixels[top : rows[-1] + 1, left : columns[-1] + 1], (left, top)


def with_gutter(pixels: np.ndarray, gutter: int) -> np.ndarray:
    """The pixels with their edge repeated `gutter` px outwards, corners too."""
    return np.pad(pixels, ((gutter, gutter), (gutter, gutter), (0, 0)), mode="edge")
