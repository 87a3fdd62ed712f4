"""Work on many cells of a level at once: replace tiles or sheets everywhere, close holes, mirror, select."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import cell_homes, level_of, put_layer, put_level, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import Chunk, Level, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.brush import Spots
from rushweed.core.level.chunks import put, region
from rushweed.core.level.edit import indices_of, painted_layer, put_cells
from rushweed.core.level.stamp import Stamp
from rushweed.core.shape.traits import value_of

Where = Literal["layer", "level", "project"]
Symmetry = Literal["none", "across", "down", "both"]


class Selected(NamedTuple):
    """Cells of a level: those of the mask, bool (rows, columns), whose first is at (`left`, `top`)."""

    left: int
    top: int
    mask: np.ndarray

    @property
    def area(self) -> tuple[int, int, int, int]:
        """Left, top, columns, rows of all of it."""
        return self.left, self.top, int(self.mask.shape[1]), int(self.mask.shape[0])

    @property
    def whole(self) -> bool:
        """Whether it is a rectangle."""
        return bool(self.mask.all())

    def spots(self) -> Spots:
        """The columns and rows that are selected."""
        rows, columns = np.nonzero(self.mask)
        return columns + self.left, rows + self.top

    def moved(self, dx: int, dy: int) -> Selected:
        """The same cells, so many columns and rows on."""
        return Selected(self.left + dx, self.top + dy, self.mask)

    def holds(self, x: int, y: int) -> bool:
        """Whether the cell at a column and row is selected."""
        column, row = x - self.left, y - self.top
        inside = 0 <= column < self.mask.shape[1] and 0 <= row < self.mask.shape[0]
        return inside and bool(self.mask[row, column])


def rectangle_of(left: int, top: int, columns: int, rows: int) -> Selected:
    """A rectangle of cells, all selected."""
    return Selected(left, top, np.ones((rows, columns), bool))


def trimmed(left: int, top: int, mask: np.ndarray) -> Selected | None:
    """What a mask selects, without empty rows and columns around; None if that is nothing."""
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if not rows.size:
        return None
    part = mask[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    return Selected(left + int(columns[0]), top + int(rows[0]), part)


def same_tiles(level: Level, layer: TileLayer, x: int, y: int) -> Selected | None:
    """All cells of a layer that hold the tile at a cell, however it is turned; None where that is empty."""
    left, top, columns, rows = level.bounds
    held = region(layer.tiles, left, top, columns, rows) >> 3
    index = int(region(layer.tiles, x, y, 1, 1)[0, 0]) >> 3
    return trimmed(left, top, held == index) if index else None


def tiles_with_trait(project: Project, level: Level, layer: TileLayer, trait_id: str) -> Selected | None:
    """All cells of a layer whose tiles say something of a trait."""
    cells = cell_homes(project)
    found = [
        n + 1
        for n, cell in enumerate(level.table)
        if cell in cells and value_of(cells[cell][1], trait_id) is not None
    ]
    held = region(layer.tiles, *level.bounds) >> 3
    return trimmed(level.bounds[0], level.bounds[1], np.isin(held, found))


def inside_outline(points: list[tuple[float, float]]) -> Selected | None:
    """The cells whose middles lie inside a closed outline drawn freely, in cells (even-odd)."""
    if len(points) < 3:
        return None
    xs, ys = (np.array(v, float) for v in zip(*points, strict=True))
    left, top = int(np.floor(xs.min())), int(np.floor(ys.min()))
    columns, rows = int(np.ceil(xs.max())) - left, int(np.ceil(ys.max())) - top
    across = np.arange(columns) + left + 0.5
    mask = np.zeros((max(rows, 1), max(columns, 1)), bool)
    next_x, next_y = np.roll(xs, -1), np.roll(ys, -1)
    for row in range(rows):
        y = top + row + 0.5
        crosses = (ys <= y) != (next_y <= y)
        at = xs[crosses] + (y - ys[crosses]) / (next_y[crosses] - ys[crosses]) * (next_x - xs)[crosses]
        mask[row] = (at[:, None] < across[None, :]).sum(0) % 2 == 1
    return trimmed(left, top, mask)


def move_selected(
    project: Project, level_id: str, layer_id: str, chosen: Selected, by: tuple[int, int], copy: bool = False
) -> Project:
    """Move (or copy) the tiles of selected cells by so many cells right and down; empty ones leave what they
    land on as it was."""
    level, layer = painted_layer(project, level_id, layer_id)
    xs, ys = _held(layer, chosen)
    values = _values(layer, xs, ys)
    if not copy:
        layer = replace(layer, tiles=put(layer.tiles, xs, ys, np.zeros(xs.size, np.uint32)))
        project = put_layer(project, level_id, layer)
        level = level_of(project, level_id)
    return put_cells(project, level, layer, xs + by[0], ys + by[1], values)


def _held(layer: TileLayer, chosen: Selected) -> Spots:
    """The selected cells that hold a tile."""
    held = region(layer.tiles, *chosen.area)
    rows, columns = np.nonzero(chosen.mask & (held > 0))
    return columns + chosen.left, rows + chosen.top


def _values(layer: TileLayer, xs: np.ndarray, ys: np.ndarray) -> np.ndarray:
    if not xs.size:
        return np.zeros(0, np.uint32)
    left, top = int(xs.min()), int(ys.min())
    held = region(layer.tiles, left, top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)
    made: np.ndarray = held[ys - top, xs - left]
    return made


def replace_tile(
    project: Project, level_id: str, layer_id: str, old: str, new: str, where: Where = "layer"
) -> Project:
    """Put the tile of one cell in the place of another's, turned as that was: on a layer, in all layers of
    the level, or in all levels of that cell size. Raises EditError for a tile of another size, or a locked
    layer."""
    if where not in ("layer", "level", "project"):
        raise EditError(f"Tiles cannot be replaced in {where!r}.", "Use layer, level or project.")
    home = level_of(project, level_id)
    levels = [v for v in project.levels if v.cell == home.cell] if where == "project" else [home]
    for level in levels:
        if old not in level.table or old == new:
            continue
        level, index = indices_of(project, level, (new,))
        wanted, by = level.table.index(old) + 1, int(index[1])
        for layer in level.layers:
            if where == "layer" and layer.id != layer_id or not isinstance(layer, TileLayer):
                continue
            tiles = _exchanged(layer.tiles, wanted, by)
            if tiles is not layer.tiles:
                painted_layer(project, level.id, layer.id)  # refuses a locked one
                layers = tuple(replace(x, tiles=tiles) if x.id == layer.id else x for x in level.layers)
                level = replace(level, layers=layers)
                project = put_level(project, level)
    return project


def _exchanged(tiles: Tiles, old: int, new: int) -> Tiles:
    """The same tiles with another index in the place of one."""
    chunks = []
    for chunk in tiles.chunks:
        if chunk is not None:
            here = chunk.cells >> 3 == old
            if here.any():
                cells = np.where(here, np.uint32(new << 3) | chunk.cells & np.uint32(7), chunk.cells)
                cells = cells.astype(np.uint32)
                cells.setflags(write=False)
                chunk = Chunk(cells)
        chunks.append(chunk)
    if all(a is b for a, b in zip(chunks, tiles.chunks, strict=True)):
        return tiles
    return Tiles(tiles.left, tiles.top, tiles.columns, tiles.rows, tuple(chunks))


def replace_sheet(project: Project, old_id: str, new_id: str) -> Project:
    """Let every level show the cells of another sheet in the place of one's: those at the same place of the
    picture, else in the same order. Raises EditError where their cells differ in number or size."""
    old, new = sheet_of(project, old_id), sheet_of(project, new_id)
    instead = _pairs(old, new)
    for level in project.levels:
        table = tuple(instead.get(cell, cell) for cell in level.table)
        things = tuple(replace(t, shows=instead[t.shows]) if t.shows in instead else t for t in level.things)
        layers = tuple(
            replace(layer, sheet=new_id) if getattr(layer, "sheet", "") == old_id else layer
            for layer in level.layers
        )
        changed = table != level.table or things != level.things
        if changed or any(a is not b for a, b in zip(layers, level.layers, strict=True)):
            project = put_level(project, _joined(replace(level, things=things, layers=layers), table))
    return project


def _pairs(old: Sheet, new: Sheet) -> dict[str, str]:
    if old.id == new.id:
        raise EditError(f"{old.name} is the same sheet.", "Choose another.")
    sizes = [[c.rect[2:] for c in s.cells] for s in (old, new)]
    if sizes[0] != sizes[1]:
        raise EditError(
            f"{new.name} is not cut as {old.name} is: {len(sizes[1])} cells beside {len(sizes[0])}.",
            "Give it the same cut first.",
        )
    by_rect = {c.rect: c.id for c in new.cells}
    pairs = zip(old.cells, new.cells, strict=True)
    return {a.id: by_rect.get(a.rect, b.id) for a, b in pairs}


def _joined(level: Level, table: tuple[str, ...]) -> Level:
    """The level with another table, in which a cell may stand twice: its tiles count from the first."""
    if len(set(table)) == len(table):
        return replace(level, table=table)
    places = {cell: n + 1 for n, cell in reversed(list(enumerate(table)))}
    layers = []
    for layer in level.layers:
        if isinstance(layer, TileLayer):
            tiles = layer.tiles
            for n, cell in enumerate(table):
                if places[cell] != n + 1:
                    tiles = _exchanged(tiles, n + 1, places[cell])
            layer = replace(layer, tiles=tiles)
        layers.append(layer)
    return replace(level, table=table, layers=tuple(layers))


def fill_holes(project: Project, level_id: str, layer_id: str, stamp: Stamp) -> Project:
    """Fill the empty cells of a layer that tiles shut in on all sides; the stamp repeats from cell 0, 0."""
    from scipy import ndimage  # late: it takes a third of a second to import

    from rushweed.core.level.edit import paint_pattern

    level, layer = painted_layer(project, level_id, layer_id)
    left, top, columns, rows = level.bounds
    held = region(layer.tiles, left, top, columns, rows) > 0
    ys, xs = np.nonzero(ndimage.binary_fill_holes(held) & ~held)
    if not xs.size:
        return project
    return paint_pattern(project, level_id, layer_id, stamp, (xs + left, ys + top))


def reflections(
    stamp: Stamp, spots: Spots, axes: tuple[int, int], symmetry: Symmetry
) -> list[tuple[Stamp, Spots]]:
    """The stamp at its spots, and mirrored as the symmetry says. `axes` are twice the column and the row of
    the lines it is mirrored at, so that a line may run through the middle of cells."""
    made = [(stamp, spots)]
    if symmetry in ("across", "both"):
        made += [(s.mirrored(), (axes[0] - xs - s.size[0], ys)) for s, (xs, ys) in made]
    if symmetry in ("down", "both"):
        made += [(s.flipped(), (xs, axes[1] - ys - s.size[1])) for s, (xs, ys) in made]
    return made


def middle_of(area: tuple[int, int, int, int]) -> tuple[int, int]:
    """The axes through the middle of an area, as `reflections` takes them."""
    return 2 * area[0] + area[2], 2 * area[1] + area[3]


def places_of(level: Level, cell_id: str) -> dict[str, np.ndarray]:
    """Where a tile stands: for each layer by its id int (n, 2), the column and row of each place."""
    if cell_id not in level.table:
        return {}
    index = level.table.index(cell_id) + 1
    found = {}
    for layer in level.layers:
        if isinstance(layer, TileLayer):
            rows, columns = np.nonzero(region(layer.tiles, *level.bounds) >> 3 == index)
            if rows.size:
                found[layer.id] = np.stack((columns + level.bounds[0], rows + level.bounds[1]), axis=1)
    return found
