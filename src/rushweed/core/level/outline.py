"""The solid outline of a whole level: the union of all shapes of its tiles, so that nothing catches on seams.

Every distinct stack of tiles at a cell gives its edges once (shape/union.py); edges on the border of two
cells cancel where both sides are covered; what is left is joined along straight lines and linked into rings.
Work is done and kept by blocks of cells, so that a stroke costs only the blocks it touched.

Shapes of different groups do not merge, nor one-way shapes of different sides; where friction or bounce
change along a border, the line is cut there. Layers with offsets of their own merge among themselves.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.level import CHUNK, Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Shape
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.chunks import chunk_at, region
from rushweed.core.level.outline_edges import NO_EDGES, Kind, Material, Ring, facing, joined, less, linked
from rushweed.core.level.outline_stacks import EMPTY, Placed, ShapedCells, Stack, is_whole, sides
from rushweed.core.shape.primitives import Points, corners
from rushweed.core.shape.union import UNIT, union_edges

BLOCK = 4  # chunks a side
Cells = dict[str, tuple[Sheet, Cell]]
Parts = tuple[tuple[int, int, int], ...]  # of a stack: how many cells away a tile stands, and its class


class Outline:
    """Keeps the outline of one level; `update` after each edit, then ask."""

    def __init__(self) -> None:
        self._blocks: dict[tuple[Kind, int, int, int], tuple[tuple[object, ...], np.ndarray]] = {}
        self._stacks: dict[frozenset[tuple[int, int, int]], Stack] = {}
        self._borders: dict[tuple[object, ...], np.ndarray] = {}
        self._shapes: dict[str, tuple[Shape, ...]] = {}
        self._materials: list[Material] = []
        self._classes: list[tuple[Placed, ...]] = []
        self._class_numbers: dict[tuple[Placed, ...], int] = {}
        self._size = (0, 0)
        self._level: Level | None = None
        self.kinds: list[Kind] = []

    # -- keeping up ------------------------------------------------------------------------------------

    def update(
        self,
        project: Project,
        level: Level,
        cells: Cells | None = None,
        tell: Callable[[float], None] = lambda _share: None,
        area: tuple[int, int, int, int] | None = None,
    ) -> int:
        """Work out what changed since the last time; returns the number of blocks worked on. `tell` is told
        how much of it is done, and may leave it by an exception: what is done stays so. With an `area` (left,
        top, columns, rows in cells) only the blocks that it touches are worked on."""
        cells = cell_homes(project) if cells is None else cells
        shapes = {i: cells[i][1].shapes for i in level.table if i in cells and cells[i][1].shapes}
        if shapes != self._shapes or level.cell != self._size:
            self._blocks.clear()
            self._stacks.clear()
            self._borders.clear()
            self._shapes, self._size = shapes, level.cell
        self._level = level
        of_kind = self._shapes_by_kind()
        self.kinds = list(of_kind)
        worked, held = 0, set()
        for n, kind in enumerate(self.kinds):
            shaped = ShapedCells(level, of_kind[kind], self._class_of)
            for number, layers in enumerate(_planes(level)):
                blocks = sorted(_blocks_of(layers))
                for done, (bx, by) in enumerate(blocks):
                    key = (kind, number, bx, by)
                    state = (*_chunks_around(layers, bx, by), tuple(x.offset for x in layers))
                    known = self._blocks.get(key)
                    if known is not None and _same(known[0], state):
                        held.add(key)
                        continue
                    if area is not None and not _touches(area, bx, by):
                        continue
                    held.add(key)
                    worked += 1
                    tell((n + done / len(blocks)) / len(self.kinds))
                    self._blocks[key] = (state, self._block(kind, shaped, layers, bx, by))
        for key in self._blocks.keys() - held:
            del self._blocks[key]
        return worked

    def _shapes_by_kind(self) -> dict[Kind, dict[str, tuple[Shape, ...]]]:
        made: dict[Kind, dict[str, tuple[Shape, ...]]] = {}
        for cell, shapes in self._shapes.items():
            for shape in shapes:
                if shape.role == "sensor":
                    continue
                blocks_from = shape.blocks_from if shape.role == "one-way" else None
                by_cell = made.setdefault(Kind(shape.role, blocks_from, shape.group), {})
                by_cell[cell] = (*by_cell.get(cell, ()), shape)
        return made

    def _material(self, material: Material) -> int:
        if material not in self._materials:
            self._materials.append(material)
        return self._materials.index(material)

    def _block(
        self, kind: Kind, shaped: ShapedCells, layers: list[TileLayer], bx: int, by: int
    ) -> np.ndarray:
        """The edges of one block with its left and upper borders: int64 (n, 5) in units of the level."""
        side = BLOCK * CHUNK
        left, top = bx * side - 1, by * side - 1
        stacks, numbers = self._numbers(shaped, layers, left, top, side + 1)
        if not numbers.any():
            return NO_EDGES
        made = []
        for n, columns, rows in _groups(numbers[1:, 1:]):
            if n and len(stacks[n].inner):
                made.append(self._placed(stacks[n].inner, columns + left + 1, rows + top + 1))
        for one, two, names in (
            (numbers[1:, :-1], numbers[1:, 1:], ("right", "left")),
            (numbers[:-1, 1:], numbers[1:, 1:], ("bottom", "top")),
        ):
            for pair, columns, rows in _groups(one.astype(np.int64) * len(stacks) + two):
                edges = self._border(stacks[pair // len(stacks)], stacks[pair % len(stacks)], names)
                if len(edges):
                    made.append(self._placed(edges, columns + left + 1, rows + top + 1))
        edges = np.concatenate(made) if made else NO_EDGES
        if kind.blocks_from is not None:
            edges = edges[facing(edges, kind.blocks_from)]
        shift = [round(v * UNIT) for v in layers[0].offset]
        edges[:, :4] += np.array([*shift, *shift])
        lines = [np.array([n * side * v * UNIT + s for n in (b, b + 1)])
                 for b, v, s in zip((bx, by), self._size, shift, strict=True)]  # fmt: skip
        return joined(edges, (lines[0], lines[1]))

    def _placed(self, edges: np.ndarray, columns: np.ndarray, rows: np.ndarray) -> np.ndarray:
        """Edges of a cell at many cells."""
        x, y = columns * self._size[0] * UNIT, rows * self._size[1] * UNIT
        shift = np.stack((x, y, x, y, np.zeros_like(x)), axis=1)
        made: np.ndarray = (edges[None, :, :] + shift[:, None, :]).reshape(-1, 5)
        return made

    def _numbers(
        self, shaped: ShapedCells, layers: list[TileLayer], left: int, top: int, side: int
    ) -> tuple[list[Stack], np.ndarray]:
        """The stacks that stand in a square of cells, and which of them stands where, int (side, side)."""
        planes: list[tuple[tuple[int, int], np.ndarray]] = []
        for layer in layers:
            for dx, dy in shaped.reach:
                held = region(layer.tiles, left + dx, top + dy, side, side)
                here = shaped.at((dx, dy), held)
                if here.any():
                    planes.append(((dx, dy), here))
        full = [here for spot, here in planes if spot == (0, 0) and shaped.whole]
        covered = np.zeros((side, side), bool)
        for here in full:  # what fills a cell hides all else in it
            hides = np.isin(here, list(shaped.whole)) & ~covered
            for _spot, other in planes:
                other[hides & (other is not here)] = 0
            covered |= hides
        keys = np.zeros((side, side), np.int64)
        parts: list[Parts] = [()]
        for (dx, dy), here in planes:
            values, which = np.unique(here, return_inverse=True)
            used, numbered = np.unique(keys * len(values) + which.reshape(here.shape), return_inverse=True)
            keys = np.asarray(numbered, np.int64).reshape(side, side)
            pairs = [(int(u) // len(values), int(values[u % len(values)])) for u in used]
            parts = [(*parts[before], (dx, dy, value)) if value else parts[before] for before, value in pairs]
        stacks = [self._stack(part) for part in parts]
        order = np.array([0 if stack is EMPTY else n + 1 for n, stack in enumerate(stacks)])
        return [EMPTY, *stacks], order[keys]

    def _stack(self, parts: Parts) -> Stack:
        """What tiles give together at a cell: each its own offset in cells, and its class."""
        if not parts:
            return EMPTY
        key = frozenset(parts)
        if key not in self._stacks:
            (w, h), rings, owners = self._size, list[Points](), list[int]()
            for dx, dy, number in key:
                for ring, material in self._classes[number - 1]:
                    rings.append(tuple((x + dx * w, y + dy * h) for x, y in ring))
                    owners.append(self._material(material))
            whole = next((n for n, ring in enumerate(rings) if is_whole(ring, self._size)), None)
            if whole is not None:  # nothing else shows beside it
                rings, owners = [rings[whole]], [owners[whole]]
            self._stacks[key] = sides(union_edges(rings, owners, self._size), self._size)
        return self._stacks[key]

    def _class_of(self, placed: tuple[Placed, ...]) -> int:
        """The number of a class, from 1; the same for the same shapes."""
        known = self._class_numbers.get(placed)
        if known is None:
            self._classes.append(placed)
            known = self._class_numbers[placed] = len(self._classes)
        return known

    def _border(self, one: Stack, two: Stack, names: tuple[str, str]) -> np.ndarray:
        """What is left of the border between two cells, in the second one's units: each side's edges where
        the other covers nothing."""
        if one is EMPTY and two is EMPTY:
            return NO_EDGES
        key = (id(one), id(two), names)
        if key not in self._borders:
            mine, other = getattr(one, names[0]), getattr(two, names[1])
            across = names[0] == "right"
            shift = (self._size[0] if across else self._size[1]) * UNIT
            mine = mine - np.array([shift, 0, shift, 0, 0] if across else [0, shift, 0, shift, 0])
            axis = 1 if across else 0
            made = [less(mine, other, axis), less(other, mine, axis)]
            self._borders[key] = np.concatenate(made)
        return self._borders[key]

    # -- asking ----------------------------------------------------------------------------------------

    def edges(self) -> Iterator[tuple[Kind, np.ndarray]]:
        """The edges of each block as they are drawn: float (n, 4), level px."""
        for (kind, _plane, _bx, _by), (_state, edges) in self._blocks.items():
            if len(edges):
                yield kind, edges[:, :4] / UNIT

    def pieces(self) -> Iterator[tuple[Kind, np.ndarray]]:
        """The edges of each block: int64 (n, 5), x0, y0, x1, y1 in 1/256 px and a number of `materials`."""
        for (kind, _plane, _bx, _by), (_state, edges) in self._blocks.items():
            if len(edges):
                yield kind, edges

    @property
    def materials(self) -> tuple[Material, ...]:
        """What the numbers of the edges stand for."""
        return tuple(self._materials)

    def rings(self) -> list[Ring]:
        """The whole outline, by kind."""
        made: list[Ring] = []
        planes = {key[1] for key in self._blocks}
        for kind in self.kinds:
            for plane in planes:
                parts = [e for k, (_s, e) in self._blocks.items() if k[:2] == (kind, plane) and len(e)]
                if parts:
                    edges = joined(np.concatenate(parts))
                    made += linked(edges, kind, self._materials)
        return made

    def corners_before(self) -> int:
        """How many corners all shapes have that stand in the level, each for itself."""
        level = self._level
        if level is None:
            return 0
        each = np.zeros((len(level.table) + 1), np.int64)
        for n, cell in enumerate(level.table):
            solid = [s for s in self._shapes.get(cell, ()) if s.role != "sensor"]
            each[n + 1] = sum(len(corners(shape)) for shape in solid)
        total = 0
        for layers in _planes(level):
            for layer in layers:
                for chunk in layer.tiles.chunks:
                    if chunk is not None:
                        total += int(each[np.minimum(chunk.cells >> 3, len(level.table))].sum())
        return total


def _planes(level: Level) -> list[list[TileLayer]]:
    """The layers whose shapes count, those of one offset together."""
    made: dict[tuple[float, float], list[TileLayer]] = {}
    for layer in level.layers:
        if isinstance(layer, TileLayer) and layer.collides and layer.tiles.chunks:
            made.setdefault(layer.offset, []).append(layer)
    return list(made.values())


def _blocks_of(layers: list[TileLayer]) -> set[tuple[int, int]]:
    """The blocks that hold tiles, and those to the right and below, whose borders are with them."""
    found = set()
    for layer in layers:
        tiles = layer.tiles
        for n, chunk in enumerate(tiles.chunks):
            if chunk is not None:
                cx, cy = tiles.left + n % tiles.columns, tiles.top + n // tiles.columns
                for dx in (-1, 0, 1):
                    for dy in (-1, 0, 1):
                        found.add(((cx + dx) // BLOCK, (cy + dy) // BLOCK))
    return found


def _touches(area: tuple[int, int, int, int], bx: int, by: int) -> bool:
    """Whether a block has cells of an area."""
    side, (left, top, columns, rows) = BLOCK * CHUNK, area
    across = bx * side < left + columns and (bx + 1) * side > left
    return across and by * side < top + rows and (by + 1) * side > top


def _chunks_around(layers: list[TileLayer], bx: int, by: int) -> tuple[object, ...]:
    """All chunks that the edges of a block depend on: its own and those around."""
    return tuple(
        chunk_at(layer.tiles, bx * BLOCK + x, by * BLOCK + y)
        for layer in layers
        for y in range(-1, BLOCK + 1)
        for x in range(-1, BLOCK + 1)
    )


def _same(a: tuple[object, ...], b: tuple[object, ...]) -> bool:
    return len(a) == len(b) and all(x is y for x, y in zip(a[:-1], b[:-1], strict=True)) and a[-1] == b[-1]


def _groups(grid: np.ndarray) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
    """Each value of a grid with the columns and rows where it stands."""
    flat = grid.ravel()
    order = np.argsort(flat, kind="stable")
    cuts = np.flatnonzero(np.diff(flat[order])) + 1
    for places in np.split(order, cuts):
        yield int(flat[places[0]]), places % grid.shape[1], places // grid.shape[1]


def outline(project: Project, level: Level) -> list[Ring]:
    """The whole outline of a level, worked out anew."""
    made = Outline()
    made.update(project, level)
    return made.rings()
