"""What is painted on the layers of a level, and what stands there."""

from __future__ import annotations

from operator import attrgetter
from typing import Literal

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import (
    cell_homes,
    kept_ids,
    layer_of,
    level_of,
    pictured_sheets,
    put_layer,
    put_level,
)
from rushweed.core.document.errors import EditError
from rushweed.core.document.limits import FARTHEST_CELL, MOST_LEVEL_SIDE
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.remembered import Remembered
from rushweed.core.level.brush import Spots, flood, same
from rushweed.core.level.chunks import put, put_region, region, used_values
from rushweed.core.level.stamp import Stamp, from_level


def painted_layer(project: Project, level_id: str, layer_id: str) -> tuple[Level, TileLayer]:
    """A level and its tile layer. Raises EditError for a backdrop, or for one that is locked."""
    level = level_of(project, level_id)
    layer = layer_of(level, layer_id)
    if not isinstance(layer, TileLayer):
        raise EditError(f"{layer.name} holds no tiles; nothing can be painted on it.", "Choose a tile layer.")
    if layer.locked:
        raise EditError(f"Layer {layer.name} is locked.", "Unlock it in the list of layers to paint on it.")
    return level, layer


def indices_of(project: Project, level: Level, cell_ids: tuple[str, ...]) -> tuple[Level, np.ndarray]:
    """The level with all those cells in its table, and their indices (counted from 1)."""
    known = cell_homes(project)
    for cell_id in cell_ids:
        if cell_id not in known:
            raise EditError("A tile of the stamp is gone from its sheet.", "Choose another in the Tray.")
        cell = known[cell_id][1]
        if (cell.rect[2], cell.rect[3]) != level.cell:
            raise EditError(
                f"{cell.name} is {cell.rect[2]} x {cell.rect[3]} px; the cells of {level.name} are "
                f"{level.cell[0]} x {level.cell[1]} px.",
                "Choose tiles of that size.",
            )
    places = {cell_id: i + 1 for i, cell_id in enumerate(level.table)}
    added = [cell_id for cell_id in dict.fromkeys(cell_ids) if cell_id not in places]
    if added:
        level = replace(level, table=(*level.table, *added))
        places = {cell_id: i + 1 for i, cell_id in enumerate(level.table)}
    return level, np.array([0, *(places[cell_id] for cell_id in cell_ids)], np.uint32)


def put_cells(
    project: Project, level: Level, layer: TileLayer, xs: np.ndarray, ys: np.ndarray, values: np.ndarray
) -> Project:
    """Put cell values at places of a layer; the level grows to hold them."""
    tiles = put(layer.tiles, xs, ys, values)
    if tiles is layer.tiles:
        return project
    layers = tuple(replace(layer, tiles=tiles) if item is layer else item for item in level.layers)
    painted = values > 0
    bounds = level.bounds
    if painted.any():
        bounds = _grown(bounds, xs[painted], ys[painted])
    return put_level(project, replace(level, layers=layers, bounds=bounds))


def _grown(bounds: tuple[int, int, int, int], xs: np.ndarray, ys: np.ndarray) -> tuple[int, int, int, int]:
    x, y, columns, rows = bounds
    left, top = min(x, int(xs.min())), min(y, int(ys.min()))
    right, bottom = max(x + columns, int(xs.max()) + 1), max(y + rows, int(ys.max()) + 1)
    return left, top, right - left, bottom - top


def paint(project: Project, level_id: str, layer_id: str, stamp: Stamp, spots: Spots) -> Project:
    """Put the stamp with its top left at each spot in turn; the level grows to hold it."""
    level, layer = painted_layer(project, level_id, layer_id)
    level, index = indices_of(project, level, stamp.cells)
    rows, columns = np.nonzero(stamp.slots)
    values = index[stamp.slots[rows, columns]] * 8 + stamp.turns[rows, columns].astype(np.uint32)
    return put_cells(project, level, layer, *stamp.footprint(spots), np.tile(values, len(spots[0])))


def paint_pattern(
    project: Project, level_id: str, layer_id: str, stamp: Stamp, spots: Spots, scatter: int | None = None
) -> Project:
    """Cover spots with the stamp repeated from the level's cell 0, 0; or, with a `scatter` seed, with
    tiles drawn from the stamp by chance: what it holds more often comes more often."""
    level, layer = painted_layer(project, level_id, layer_id)
    level, index = indices_of(project, level, stamp.cells)
    xs, ys = np.asarray(spots[0]), np.asarray(spots[1])
    columns, rows = stamp.size
    if scatter is None:
        slots, turns = stamp.slots[ys % rows, xs % columns], stamp.turns[ys % rows, xs % columns]
    else:
        filled = np.argwhere(stamp.slots > 0)
        if not len(filled):
            return project
        drawn = np.random.default_rng(abs(scatter)).choice(len(filled), size=xs.size)
        slots = stamp.slots[filled[drawn, 0], filled[drawn, 1]]
        turns = stamp.turns[filled[drawn, 0], filled[drawn, 1]]
    used = slots > 0
    values = index[slots[used]] * 8 + turns[used].astype(np.uint32)
    return put_cells(project, level, layer, xs[used], ys[used], values)


def erase(project: Project, level_id: str, layer_id: str, spots: Spots) -> Project:
    """Empty the cells at some columns and rows; those outside the level are left out."""
    level, layer = painted_layer(project, level_id, layer_id)
    xs, ys = np.asarray(spots[0]), np.asarray(spots[1])
    x, y, columns, rows = level.bounds
    inside = (xs >= x) & (xs < x + columns) & (ys >= y) & (ys < y + rows)
    xs, ys = xs[inside], ys[inside]
    return put_cells(project, level, layer, xs, ys, np.zeros(xs.size, np.uint32))


def fill(
    project: Project,
    level_id: str,
    layer_id: str,
    stamp: Stamp | None,
    spot: tuple[int, int],
    everywhere: bool = False,
) -> Project:
    """Fill the cells joined to a spot that hold the same, or with `everywhere` all that hold the same.

    The stamp repeats from cell 0, 0; without a stamp the cells are emptied. Raises EditError outside the
    level.
    """
    level, layer = painted_layer(project, level_id, layer_id)
    left, top, columns, rows = level.bounds
    cells, mask = _alike(level, layer, spot, everywhere)
    if stamp is not None and (stamp.slots == 0).any():
        ys, xs = np.nonzero(mask)
        return paint_pattern(project, level_id, layer_id, stamp, (xs + left, ys + top))
    if stamp is None:
        np.copyto(cells, 0, where=mask)
    else:
        level, index = indices_of(project, level, stamp.cells)
        values = index[stamp.slots] * 8 + stamp.turns.astype(np.uint32)
        lines = (np.arange(rows) + top) % stamp.size[1], (np.arange(columns) + left) % stamp.size[0]
        np.copyto(cells, values if values.size == 1 else values[np.ix_(*lines)], where=mask)
    tiles = put_region(layer.tiles, left, top, cells)
    if tiles is layer.tiles:
        return project
    layers = tuple(replace(layer, tiles=tiles) if item is layer else item for item in level.layers)
    return put_level(project, replace(level, layers=layers))


def fill_spots(
    project: Project, level_id: str, layer_id: str, spot: tuple[int, int], everywhere: bool = False
) -> Spots:
    """The places that a fill from a spot would cover."""
    level, layer = painted_layer(project, level_id, layer_id)
    _cells, mask = _alike(level, layer, spot, everywhere)
    ys, xs = np.nonzero(mask)
    return xs + level.bounds[0], ys + level.bounds[1]


def _alike(
    level: Level, layer: TileLayer, spot: tuple[int, int], everywhere: bool
) -> tuple[np.ndarray, np.ndarray]:
    """The cells of a level, and which of them hold what a spot holds: those joined to it, or all."""
    (x, y), (left, top, columns, rows) = spot, level.bounds
    if not (left <= x < left + columns and top <= y < top + rows):
        raise EditError("A fill must start inside the level.", "Point at a cell of the level.")
    cells = region(layer.tiles, left, top, columns, rows)
    return cells, (same if everywhere else flood)(cells, x - left, y - top)


def take(project: Project, level_id: str, layer_id: str, area: tuple[int, int, int, int]) -> np.ndarray:
    """What an area of a layer (left, top, columns, rows) holds, as `stamp.from_level` wants it."""
    layer = layer_of(level_of(project, level_id), layer_id)
    if not isinstance(layer, TileLayer):
        return np.zeros((area[3], area[2]), np.uint32)
    return region(layer.tiles, *area)


def _area_of(area: tuple[int, int, int, int]) -> tuple[int, int, int, int]:
    """The same; raises EditError for one that no level can have."""
    left, top, columns, rows = area
    if not (1 <= columns <= MOST_LEVEL_SIDE and 1 <= rows <= MOST_LEVEL_SIDE):
        raise EditError(f"An area of {columns} x {rows} cells cannot be.", "Select one in the level.")
    if max(abs(left), abs(top)) > FARTHEST_CELL:
        raise EditError(f"Cell {left}, {top} is too far away.", "Select an area in the level.")
    return area


def rearrange_region(
    project: Project,
    level_id: str,
    layer_id: str,
    area: tuple[int, int, int, int],
    how: Literal["mirror", "flip", "turn"],
) -> tuple[Project, tuple[int, int, int, int]]:
    """Mirror, flip or turn the tiles of an area in place; returns the project and the new area."""
    level, layer = painted_layer(project, level_id, layer_id)
    left, top, columns, rows = _area_of(area)
    stamp = from_level(level.table, region(layer.tiles, *area))
    stamp = {"mirror": stamp.mirrored, "flip": stamp.flipped, "turn": stamp.turned}[how]()
    ys, xs = np.mgrid[top : top + rows, left : left + columns]
    project = erase(project, level_id, layer_id, (xs.ravel(), ys.ravel()))
    project = paint(project, level_id, layer_id, stamp, (np.array([left]), np.array([top])))
    return project, (left, top, *stamp.size)


def gone_tiles(project: Project, level: Level) -> dict[str, int]:
    """Ids of table entries whose cell no longer exists, not even aside, with the number of cells that hold
    them."""
    known = kept_ids(project)
    gone = {i + 1: cell_id for i, cell_id in enumerate(level.table) if cell_id not in known}
    counts: dict[str, int] = {}
    if not gone:
        return counts
    for layer in level.layers:
        if not isinstance(layer, TileLayer):
            continue
        if not any(int(v) >> 3 in gone for v in used_values(layer.tiles)):
            continue
        for chunk in layer.tiles.chunks:
            if chunk is not None:
                for index, number in zip(*np.unique(chunk.cells >> 3, return_counts=True), strict=True):
                    if int(index) in gone:
                        counts[gone[int(index)]] = counts.get(gone[int(index)], 0) + int(number)
    return counts


def erase_gone(project: Project, level_id: str) -> Project:
    """Empty every cell whose tile is gone."""
    level = level_of(project, level_id)
    known = kept_ids(project)
    gone = np.array(sorted(i + 1 for i, c in enumerate(level.table) if c not in known))
    for layer in level.layers:
        if isinstance(layer, TileLayer):
            cells = region(layer.tiles, *level.bounds)
            ys, xs = np.nonzero(np.isin(cells >> 3, gone))
            tiles = put(layer.tiles, xs + level.bounds[0], ys + level.bounds[1], np.zeros(xs.size, np.uint32))
            if tiles is not layer.tiles:
                project = put_layer(project, level_id, replace(layer, tiles=tiles))
    return project


def _cells_used(level: Level) -> list[str]:
    """The ids of the cells that stand in the level at least once."""
    held = {
        int(v) >> 3 for item in level.layers if isinstance(item, TileLayer) for v in used_values(item.tiles)
    }
    return [cell_id for i, cell_id in enumerate(level.table) if i + 1 in held]


cells_used: Remembered[Level, list[str]] = Remembered(_cells_used, 16)


def sheets_shown(project: Project, level: Level) -> list[Sheet]:
    """The sheets that a level is drawn from, in the order of the Shelf: also those of tiles that stood there
    once, so that no cell is looked at."""
    return _sheets_of(project, level, set(level.table))


def sheets_used(project: Project, level: Level) -> list[Sheet]:
    """The sheets that a level's tiles, backdrops and placed things come from, in the order of the Shelf."""
    return _sheets_of(project, level, set(cells_used(level)))


def _sheets_of(project: Project, level: Level, cells: set[str]) -> list[Sheet]:
    """The sheets of some cells, and those of the level's things and backdrops."""
    frames = {a.id: {f.cell for f in a.frames} for a in project.animations}
    for shows in set(map(attrgetter("shows"), level.things)):
        cells |= frames.get(shows, {shows})
    homes = cell_homes(project)
    shown = pictured_sheets(level) | {homes[cell_id][0].id for cell_id in cells if cell_id in homes}
    return [s for s in project.sheets if s.id in shown]
