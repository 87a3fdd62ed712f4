"""Levels to pixels: tiles gathered by array look-ups, layers laid over one another."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.base import Colour
from rushweed.core.document.model.level import BackdropLayer, Level, PictureLayer, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.chunks import region
from rushweed.core.level.scene import DrawnPicture, DrawnTiles, DrawnWalker, Standing, StandingTile, draws
from rushweed.core.level.stamp import orient
from rushweed.core.level.things import EVEN, Shown, whole_px

PixelsOf = Callable[[Sheet], np.ndarray]
PICTURE = (256, 144)  # px of the game's picture, where nothing else is said


class Figure(NamedTuple):
    """Somebody who stands in a level: uint8 RGBA, and where his feet are (the middle of its lower edge)."""

    rgba: np.ndarray
    feet: tuple[float, float]


class Seen(NamedTuple):
    """How a level is seen: with its backdrops or without, so many ms after it began, with a walker where he
    is told to stand, in a picture of the game of so many px."""

    with_backdrops: bool = True
    ms: float = 0.0
    walker: Figure | None = None
    picture: tuple[int, int] = PICTURE


class _Onto(NamedTuple):
    """A picture that is drawn on, uint8 RGBA, and the level px of its top left."""

    out: np.ndarray
    corner: tuple[int, int]


class TileSet:
    """The pixels of a level's table, each tile in each orientation it is used in, made when first asked."""

    def __init__(self, project: Project, level: Level, pixels_of: PixelsOf) -> None:
        self.cell = level.cell
        self.table = level.table
        self._cells = cell_homes(project)
        self._pixels_of = pixels_of
        width, height = level.cell
        self._images = np.zeros((64, height, width, 4), np.uint8)
        self._used = 1  # image 0 is the empty cell
        self._slot = np.full((len(level.table) + 1) * 8, -1, np.int32)
        self._slot[:8] = 0

    def tile(self, value: int) -> np.ndarray:
        """The RGBA pixels of one cell value, clear if its cell is gone."""
        slots = self._slots(np.array([value], np.uint32))
        made: np.ndarray = self._images[slots[0]]
        return made

    def picture(self, cells: np.ndarray, every: int = 1) -> np.ndarray:
        """uint8 RGBA of a block of cells, uint32 (rows, columns); of their px each `every`th both ways, which
        the sides of a cell are multiples of."""
        rows, columns = cells.shape
        width, height = self.cell[0] // every, self.cell[1] // every
        slots = self._slots(cells)  # first: it may replace the images
        images = self._images.view(np.uint32)[:, ::every, ::every, 0]
        out = np.empty((rows, height, columns, width), np.uint32)
        for row, tiles in zip(out, slots, strict=True):  # what one row takes stays near the processor
            row[...] = images[tiles].transpose(1, 0, 2)
        return out.view(np.uint8).reshape(rows * height, columns * width, 4)

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


def tinted(rgba: np.ndarray, tint: Colour | None) -> np.ndarray:
    """uint8 RGBA (rows, columns, 4), its colours multiplied by those of the tint (255 keeps them)."""
    if tint is None or tint == (255, 255, 255):
        return rgba
    rows, columns = rgba.shape[:2]
    whole = rgba.reshape(rows, columns * 4).astype(np.uint16)
    whole *= np.tile(np.array((*tint, 255), np.uint16), columns)
    whole += 127
    whole += (whole >> 8) + np.uint16(1)  # so that a shift divides by 255, exactly as far as this goes
    whole >>= 8
    return whole.astype(np.uint8).reshape(rgba.shape)


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
    seen: Seen = Seen(),  # noqa: B008
) -> np.ndarray:
    """uint8 RGBA of a part of a level as the game draws it; area is left, top, width, height in level px."""
    out = np.zeros((area_px[3], area_px[2], 4), np.uint8)
    tile_set = tile_set or TileSet(project, level, pixels_of)
    corner, walker = area_px[:2], seen.walker
    onto, feet = _Onto(out, corner), walker.feet if walker is not None else None
    for draw in draws(project, level, area_px, seen.ms, feet):
        match draw:
            case DrawnTiles(layer, shift, left_out):
                _tiles(onto, level, layer, shift, left_out, tile_set)
            case DrawnPicture(layer, at) if seen.with_backdrops or isinstance(layer, PictureLayer):
                sheet = next((s for s in project.sheets if s.id == layer.sheet), None)
                if sheet is not None:
                    _picture(onto, layer, at, picture_art(layer, pixels_of(sheet), seen.picture))
            case StandingTile(layer, value, at):
                art = tinted(tile_set.tile(value), layer.tint)
                _put(
                    out,
                    art,
                    whole_px(at[0]) - corner[0],
                    whole_px(at[1]) - corner[1],
                    layer.opacity_percent / 100,
                )
            case Standing(layer, shown, shift):
                art, left, top = thing_picture(shown, pixels_of)
                at = (left + whole_px(shift[0]) - corner[0], top + whole_px(shift[1]) - corner[1])
                _put(out, tinted(art, layer.tint), *at, layer.opacity_percent / 100)
            case DrawnWalker(at) if walker is not None:
                high, wide = walker.rgba.shape[:2]
                _put(
                    out,
                    walker.rgba,
                    whole_px(at[0] - wide / 2) - corner[0],
                    whole_px(at[1]) - high - corner[1],
                )
    return out


def _tiles(
    onto: _Onto,
    level: Level,
    layer: TileLayer,
    shift: tuple[float, float],
    left_out: frozenset[int],
    tile_set: TileSet,
) -> None:
    """Draw the tiles of a layer."""
    out, corner = onto
    (cw, ch), (height, width) = level.cell, out.shape[:2]
    left, top = corner[0] - whole_px(shift[0]), corner[1] - whole_px(shift[1])
    x0, y0 = left // cw, top // ch
    columns, rows = (left + width - 1) // cw - x0 + 1, (top + height - 1) // ch - y0 + 1
    cells = region(layer.tiles, x0, y0, columns, rows)
    if left_out:
        cells[np.isin(cells >> 3, list(left_out))] = 0
    dx, dy = left - x0 * cw, top - y0 * ch
    picture = tile_set.picture(cells)[dy : dy + height, dx : dx + width]
    lay_over(out, tinted(picture, layer.tint), layer.opacity_percent / 100)


def thing_picture(shown: Shown, pixels_of: PixelsOf) -> tuple[np.ndarray, int, int]:
    """What a thing shows, uint8 RGBA, with the level px of its top left. Turned and scaled art takes for each
    px the one its middle comes from (nearest)."""
    x, y, w, h = shown.cell.rect
    art = pixels_of(shown.sheet)[y : y + h, x : x + w]
    if shown.plain:
        art = art[:, ::-1] if shown.thing.mirrored else art
        return tinted(art, shown.thing.tint), whole_px(shown.left), whole_px(shown.top)
    a, b, c, d, e, f = shown.matrix()
    left, top, wide, high = shown.box()
    x0, y0 = math.floor(left + EVEN), math.floor(top + EVEN)
    columns, rows = math.ceil(left + wide - EVEN) - x0, math.ceil(top + high - EVEN) - y0
    across = np.arange(max(columns, 1)) + 0.5 + x0 - e
    down = (np.arange(max(rows, 1)) + 0.5 + y0 - f)[:, None]
    share = a * d - b * c
    u = np.floor((d * across - b * down) / share + EVEN).astype(np.int64)
    v = np.floor((a * down - c * across) / share + EVEN).astype(np.int64)
    inside = (u >= 0) & (u < art.shape[1]) & (v >= 0) & (v < art.shape[0])
    out = np.zeros((*inside.shape, 4), np.uint8)
    out[inside] = art[v[inside], u[inside]]
    return tinted(out, shown.thing.tint), x0, y0


def _put(out: np.ndarray, art: np.ndarray, px: int, py: int, opacity: float = 1.0) -> None:
    """Draw a picture with its top left at (px, py) of another."""
    h, w = art.shape[:2]
    x0, y0 = max(px, 0), max(py, 0)
    x1, y1 = min(px + w, out.shape[1]), min(py + h, out.shape[0])
    if x1 > x0 and y1 > y0:
        lay_over(out[y0:y1, x0:x1], art[y0 - py : y1 - py, x0 - px : x1 - px], opacity)


def _picture(
    onto: _Onto, layer: BackdropLayer | PictureLayer, at: tuple[float, float], art: np.ndarray
) -> None:
    """Draw the px of a backdrop or a picture with their top left at `at`, level px, repeated as it says."""
    out, corner = onto
    starts = whole_px(at[0]) - corner[0], whole_px(at[1]) - corner[1]
    repeats = (layer.repeat, layer.repeat_y) if isinstance(layer, BackdropLayer) else (False, False)
    kept, from_art = [], []
    for n in (0, 1):  # across, down
        spots = np.arange(out.shape[1 - n]) - starts[n]
        side = art.shape[1 - n]
        if repeats[n]:
            spots, keep = spots % side, np.arange(spots.size)
        else:
            keep = np.flatnonzero((spots >= 0) & (spots < side))
            spots = spots[keep]
        kept.append(keep)
        from_art.append(spots)
    if not kept[0].size or not kept[1].size:
        return
    place = np.ix_(kept[1], kept[0])
    part = out[place]
    lay_over(part, tinted(art[np.ix_(from_art[1], from_art[0])], layer.tint), layer.opacity_percent / 100)
    out[place] = part


def picture_art(layer: BackdropLayer | PictureLayer, art: np.ndarray, picture: tuple[int, int]) -> np.ndarray:
    """The px of a backdrop or picture, uint8 RGBA: its sheet's, stretched to the game's picture if it says so
    (each px the nearest of the sheet's)."""
    if not isinstance(layer, BackdropLayer) or not layer.stretch:
        return art
    (wide, high), (rows, columns) = picture, art.shape[:2]
    return art[np.ix_(np.arange(high) * rows // high, np.arange(wide) * columns // wide)]
