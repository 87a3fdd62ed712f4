"""Levels to pixels: tiles gathered by array look-ups, layers laid over one another."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from rushweed.core.document.edit import cells_by_id
from rushweed.core.document.model import BackdropLayer, Cell, Level, Project, Sheet, TileLayer, Tiles
from rushweed.core.level.chunks import region
from rushweed.core.level.stamp import orient
from rushweed.core.level.things import Shown, things_over

PixelsOf = Callable[[Sheet], np.ndarray]


class TileSet:
    """The pixels of a level's table, each tile in each orientation it is used in, made when first asked."""

    def __init__(self, project: Project, level: Level, pixels_of: PixelsOf) -> None:
        self.cell = level.cell
        self.table = level.table
        self._cells = cells_by_id(project)
        self._pixels_of = pixels_of
        width, height = level.cell
        self._images = np.zeros((64, height, width, 4), np.uint8)
        self._used = 1  # image 0 is the empty cell
        self._slot = np.full((len(level.table) + 1) * 8, -1, np.int32)
        self._slot[:8] = 0

    def tile(self, value: int) -> np.ndarray:
        """The RGBA pixels of one cell value, clear if its cell is gone."""
        slots = self._slots(np.array([value], np.uint32))
        return self._images[slots[0]]

    def picture(self, cells: np.ndarray) -> np.ndarray:
        """uint8 RGBA of a block of cells, uint32 (rows, columns)."""
        rows, columns = cells.shape
        width, height = self.cell
        slots = self._slots(cells)  # first: it may replace the images
        blocks = self._images[slots]
        return np.ascontiguousarray(blocks.transpose(0, 2, 1, 3, 4)).reshape(
            rows * height, columns * width, 4
        )

    def _slots(self, cells: np.ndarray) -> np.ndarray:
        safe = np.where(cells < self._slot.size, cells, 0)
        slots = self._slot[safe]
        if (slots < 0).any():
            for value in np.unique(safe[slots < 0]):
                self._slot[value] = self._add(int(value))
            slots = self._slot[safe]
        return np.asarray(slots)

    def _add(self, value: int) -> int:
        found = self._cells.get(self.table[(value >> 3) - 1])
        if found is None:
            return 0
        sheet, cell = found
        tile = orient(cell_pixels(self._pixels_of(sheet), cell), value & 7)
        if self._used == len(self._images):
            self._images = np.concatenate((self._images, np.zeros_like(self._images)))
        slot = self._used
        high, wide = min(tile.shape[0], self.cell[1]), min(tile.shape[1], self.cell[0])
        self._images[slot, :high, :wide] = tile[:high, :wide]
        self._used += 1
        return slot


def cell_pixels(rgba: np.ndarray, cell: Cell) -> np.ndarray:
    """The px of a cell of a sheet, uint8 (height, width, 4), with its shift; art that the shift moves out of
    the cell is not in it."""
    x, y, w, h = cell.rect
    part = rgba[y : y + h, x : x + w]
    dx, dy = min(max(cell.shift[0], -w), w), min(max(cell.shift[1], -h), h)
    if not dx and not dy:
        return part
    out = np.zeros_like(part)
    out[max(dy, 0) : h + min(dy, 0), max(dx, 0) : w + min(dx, 0)] = part[
        max(-dy, 0) : h - max(dy, 0), max(-dx, 0) : w - max(dx, 0)
    ]
    return out


def layer_picture(tiles: Tiles, tile_set: TileSet, area: tuple[int, int, int, int]) -> np.ndarray:
    """uint8 RGBA of a part of a layer; area is left, top, columns, rows in cells."""
    return tile_set.picture(region(tiles, *area))


def backdrop_shift(layer: BackdropLayer, level: Level, view: tuple[float, float]) -> tuple[float, float]:
    """Where the backdrop's top left stands, in level px, when the middle of the picture is at `view`.

    With the picture's middle on the level's start every backdrop stands where it was placed; when the
    picture moves, the backdrop keeps up with it by 1 - parallax.
    """
    lag = 1 - layer.parallax
    return (view[0] - level.start[0]) * lag, layer.top + (view[1] - level.start[1]) * lag


def lay_over(under: np.ndarray, over: np.ndarray, opacity: float = 1.0) -> None:
    """Draw straight-alpha `over` on opaque or clear `under`, both uint8 RGBA of one size, in place."""
    solid = over[..., 3] == 255
    if opacity >= 1 and not (over[..., 3][~solid]).any():
        np.copyto(under, over, where=solid[..., None])
        return
    alpha = over[..., 3:].astype(np.uint16)
    if opacity < 1:
        alpha = np.rint(alpha * opacity).astype(np.uint16)
    below = under[..., 3:].astype(np.uint16) * (255 - alpha) // 255
    total = alpha + below
    safe = np.maximum(total, 1)
    mixed = (
        over[..., :3].astype(np.uint32) * alpha + under[..., :3].astype(np.uint32) * below + safe // 2
    ) // safe
    under[..., :3] = mixed
    under[..., 3:] = total


def level_picture(
    project: Project,
    level: Level,
    pixels_of: PixelsOf,
    area_px: tuple[int, int, int, int],
    tile_set: TileSet | None = None,
    with_backdrops: bool = True,
) -> np.ndarray:
    """uint8 RGBA of a part of a level as the game draws it; area is left, top, width, height in level px."""
    left, top, width, height = area_px
    out = np.zeros((height, width, 4), np.uint8)
    tile_set = tile_set or TileSet(project, level, pixels_of)
    cw, ch = level.cell
    x0, y0 = left // cw, top // ch
    columns, rows = (left + width - 1) // cw - x0 + 1, (top + height - 1) // ch - y0 + 1
    for layer in level.layers:
        if not layer.shown:
            continue
        if isinstance(layer, TileLayer):
            cells = region(layer.tiles, x0, y0, columns, rows)
            picture = tile_set.picture(cells)
            dx, dy = left - x0 * cw, top - y0 * ch
            lay_over(out, picture[dy : dy + height, dx : dx + width], layer.opacity_percent / 100)
        elif with_backdrops:
            _backdrop(out, project, level, layer, pixels_of, (left, top))
        for shown in things_over(project, level, layer.id):
            _thing(out, shown, pixels_of, (left, top), layer.opacity_percent / 100)
    return out


def _thing(
    out: np.ndarray, shown: Shown, pixels_of: PixelsOf, corner: tuple[int, int], opacity: float
) -> None:
    """Draw what a thing shows into a picture whose top left is at `corner`, level px."""
    x, y, w, h = shown.cell.rect
    art = pixels_of(shown.sheet)[y : y + h, x : x + w]
    if shown.thing.mirrored:
        art = art[:, ::-1]
    px, py = round(shown.left) - corner[0], round(shown.top) - corner[1]
    x0, y0 = max(px, 0), max(py, 0)
    x1, y1 = min(px + w, out.shape[1]), min(py + h, out.shape[0])
    if x1 > x0 and y1 > y0:
        lay_over(out[y0:y1, x0:x1], art[y0 - py : y1 - py, x0 - px : x1 - px], opacity)


def _backdrop(
    out: np.ndarray,
    project: Project,
    level: Level,
    layer: BackdropLayer,
    pixels_of: PixelsOf,
    view: tuple[int, int],
) -> None:
    sheet = next((s for s in project.sheets if s.id == layer.sheet), None)
    if sheet is None:
        return
    art = pixels_of(sheet)
    shift = backdrop_shift(layer, level, (view[0] + out.shape[1] / 2, view[1] + out.shape[0] / 2))
    x, y = round(shift[0]) - view[0], round(shift[1]) - view[1]
    columns = np.arange(out.shape[1]) - x
    rows = np.arange(out.shape[0]) - y
    keep = np.flatnonzero((rows >= 0) & (rows < art.shape[0]))
    if not keep.size:
        return
    if layer.repeat:
        columns = columns % art.shape[1]
        across = np.arange(out.shape[1])
    else:
        across = np.flatnonzero((columns >= 0) & (columns < art.shape[1]))
        columns = columns[across]
    part = out[np.ix_(keep, across)]
    lay_over(part, art[np.ix_(rows[keep], columns)], layer.opacity_percent / 100)
    out[np.ix_(keep, across)] = part
