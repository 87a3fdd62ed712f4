"""The solid outline of a whole level: the union of all shapes of its tiles, so that nothing catches on seams.

Every distinct stack of tiles at a cell gives its edges once (shape/union.py); edges on the border of two
cells cancel where both sides are covered; what is left is joined along straight lines and linked into rings.
Work is done and kept by blocks of cells, so that a stroke costs only the blocks it touched.

Shapes of different groups do not merge, nor one-way shapes of different sides; where friction or bounce
change along a border, the line is cut there. Layers with offsets of their own merge among themselves.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.level import CHUNK, Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Shape, Side
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.chunks import chunk_at, region
from rushweed.core.shape.primitives import Points, clockwise, corners
from rushweed.core.shape.twins import oriented_shape
from rushweed.core.shape.union import UNIT, union_edges

BLOCK = 4  # chunks a side
NO_EDGES = np.zeros((0, 5), np.int64)
Cells = dict[str, tuple[Sheet, Cell]]
Parts = tuple[tuple[int, int, int], ...]  # of a stack: how many cells away a tile stands, and its class
Placed = tuple[Points, "Material"]  # a shape as it lies in its cell


class Kind(NamedTuple):
    """What merges with one another: solid shapes of a group, or one-way ones of a group and a side."""

    role: str
    stops: Side | None
    group: str


class Material(NamedTuple):
    """How a surface rubs and throws back."""

    friction: float
    bounce: float


class Ring(NamedTuple):
    """A closed outline, clockwise on screen around what is solid and against it around holes; or, of one-way
    shapes, an open line. `points` is float (n, 2), level px; the edge from point n has `materials[n]`."""

    kind: Kind
    points: np.ndarray
    materials: tuple[Material, ...]
    closed: bool = True

    @property
    def area(self) -> float:
        """Square px, negative around holes."""
        x, y = self.points[:, 0], self.points[:, 1]
        return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2) if self.closed else 0.0


class _Stack(NamedTuple):
    """What one stack of tiles gives: edges within the cell, and those on its four sides."""

    inner: np.ndarray
    left: np.ndarray
    right: np.ndarray
    top: np.ndarray
    bottom: np.ndarray


EMPTY = _Stack(*(NO_EDGES,) * 5)


class Outline:
    """Keeps the outline of one level; `update` after each edit, then ask."""

    def __init__(self) -> None:
        self._blocks: dict[tuple[Kind, int, int, int], tuple[tuple[object, ...], np.ndarray]] = {}
        self._stacks: dict[frozenset[tuple[int, int, int]], _Stack] = {}
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
            shaped = _Shaped(level, of_kind[kind], self._class_of)
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
                stops = shape.stops if shape.role == "one-way" else None
                by_cell = made.setdefault(Kind(shape.role, stops, shape.group), {})
                by_cell[cell] = (*by_cell.get(cell, ()), shape)
        return made

    def _material(self, material: Material) -> int:
        if material not in self._materials:
            self._materials.append(material)
        return self._materials.index(material)

    def _block(self, kind: Kind, shaped: _Shaped, layers: list[TileLayer], bx: int, by: int) -> np.ndarray:
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
        if kind.stops is not None:
            edges = edges[_facing(edges, kind.stops)]
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
        self, shaped: _Shaped, layers: list[TileLayer], left: int, top: int, side: int
    ) -> tuple[list[_Stack], np.ndarray]:
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

    def _stack(self, parts: Parts) -> _Stack:
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
            whole = next((n for n, ring in enumerate(rings) if _is_whole(ring, self._size)), None)
            if whole is not None:  # nothing else shows beside it
                rings, owners = [rings[whole]], [owners[whole]]
            self._stacks[key] = _sides(union_edges(rings, owners, self._size), self._size)
        return self._stacks[key]

    def _class_of(self, placed: tuple[Placed, ...]) -> int:
        """The number of a class, from 1; the same for the same shapes."""
        known = self._class_numbers.get(placed)
        if known is None:
            self._classes.append(placed)
            known = self._class_numbers[placed] = len(self._classes)
        return known

    def _border(self, one: _Stack, two: _Stack, names: tuple[str, str]) -> np.ndarray:
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
            made = [_less(mine, other, axis), _less(other, mine, axis)]
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
                    made += _linked(edges, kind, self._materials)
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


class _Shaped:
    """The tiles of a level that have shapes of a kind, by what they look like there: tiles of the same
    shapes, placed and made alike, are of one class (from 1), and into which cells around each reaches."""

    def __init__(
        self,
        level: Level,
        shapes: dict[str, tuple[Shape, ...]],
        class_of: Callable[[tuple[Placed, ...]], int],
    ) -> None:
        most = (len(level.table) + 1) * 8
        self._reaching: dict[tuple[int, int], np.ndarray] = {}
        self.whole: set[int] = set()  # classes that fill their cell
        for n, cell in enumerate(level.table):
            for turn in range(8) if cell in shapes else ():
                if turn & 1 and level.cell[0] != level.cell[1]:
                    continue
                placed = tuple(_placed(shape, turn, level.cell) for shape in shapes[cell])
                number = class_of(placed)
                if any(_is_whole(ring, level.cell) for ring, _material in placed):
                    self.whole.add(number)
                for spot in _reached(placed, level.cell):
                    known = self._reaching.setdefault(spot, np.zeros(most, np.int64))
                    known[(n + 1) * 8 + turn] = number
        self.reach = sorted(self._reaching, key=lambda spot: (spot != (0, 0), spot))

    def at(self, spot: tuple[int, int], held: np.ndarray) -> np.ndarray:
        """The classes of the tiles that reach the cells from so far away; 0 for all others."""
        known = self._reaching[spot]
        return known[np.where(held < known.size, held, 0)]


def _placed(shape: Shape, turn: int, size: tuple[int, int]) -> Placed:
    ring = clockwise(corners(oriented_shape(shape, turn, size) if turn else shape))
    return tuple(ring), Material(shape.friction, shape.bounce)


def _reached(placed: tuple[Placed, ...], size: tuple[int, int]) -> set[tuple[int, int]]:
    """The cells, from its own, that the shapes of a tile lie in: (-1, 0) is the one to the right of one that
    reaches a tile to its left."""
    w, h = size
    found = set()
    for ring, _material in placed:
        xs, ys = zip(*ring, strict=True)
        for column in range(math.floor(min(xs) / w), math.ceil(max(xs) / w)):
            for row in range(math.floor(min(ys) / h), math.ceil(max(ys) / h)):
                found.add((-column, -row))
    return found


def _is_whole(ring: Points, size: tuple[int, int]) -> bool:
    """Whether a ring is the rectangle of its cell."""
    return len(ring) == 4 and set(ring) == {(0, 0), (size[0], 0), (size[0], size[1]), (0, size[1])}


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


def _sides(edges: np.ndarray, size: tuple[int, int]) -> _Stack:
    """The edges of a cell, those on its borders by side."""
    if not len(edges):
        return EMPTY
    w, h = size[0] * UNIT, size[1] * UNIT
    x0, y0, x1, y1 = edges[:, :4].T
    left, right = (x0 == 0) & (x1 == 0), (x0 == w) & (x1 == w)
    top, bottom = (y0 == 0) & (y1 == 0), (y0 == h) & (y1 == h)
    inner = ~(left | right | top | bottom)
    return _Stack(edges[inner], edges[left], edges[right], edges[top], edges[bottom])


def _less(edges: np.ndarray, other: np.ndarray, axis: int) -> np.ndarray:
    """What of straight edges along an axis no edge of the other side covers."""
    if not len(edges) or not len(other):
        return edges
    holes = sorted((min(e[axis], e[axis + 2]), max(e[axis], e[axis + 2])) for e in other.tolist())
    made = []
    for edge in edges.tolist():
        low, high = sorted((edge[axis], edge[axis + 2]))
        forward = edge[axis] < edge[axis + 2]
        spots = []
        for start, end in holes:
            if end <= low or start >= high:
                continue
            if start > low:
                spots.append((low, start))
            low = max(low, end)
        if low < high:
            spots.append((low, high))
        for start, end in spots:
            piece = list(edge)
            piece[axis], piece[axis + 2] = (start, end) if forward else (end, start)
            made.append(piece)
    return np.array(made, np.int64).reshape(-1, 5)


def _facing(edges: np.ndarray, side: Side) -> np.ndarray:
    """Which edges look to a side: upper ones run to the right, and so on around."""
    dx, dy = edges[:, 2] - edges[:, 0], edges[:, 3] - edges[:, 1]
    made: np.ndarray = {"top": dx > 0, "bottom": dx < 0, "right": dy > 0, "left": dy < 0}[side]
    return made


def joined(edges: np.ndarray, but: tuple[np.ndarray, np.ndarray] | None = None) -> np.ndarray:
    """Edges that go on straight from one another, with the same material, as one; not where another edge
    begins at the same point, nor on the lines `but` (columns, rows), beyond which others may lie."""
    if len(edges) < 2:
        return edges
    starts, _ends = _numbered(edges)
    alone = np.bincount(starts)[starts] == 1
    if but is not None:
        alone &= ~(np.isin(edges[:, 0], but[0]) | np.isin(edges[:, 1], but[1]))
    dx, dy = edges[:, 2] - edges[:, 0], edges[:, 3] - edges[:, 1]
    step = np.gcd(dx, dy)
    ux, uy = dx // step, dy // step
    line = ux * edges[:, 1] - uy * edges[:, 0]
    start, end = ux * edges[:, 0] + uy * edges[:, 1], ux * edges[:, 2] + uy * edges[:, 3]
    order = np.lexsort((start, edges[:, 4], line, uy, ux))
    keys = np.stack((ux, uy, line, edges[:, 4]))[:, order]
    follows = (keys[:, 1:] == keys[:, :-1]).all(0) & (start[order][1:] == end[order][:-1])
    follows &= alone[order][1:]
    firsts = np.flatnonzero(np.concatenate(([True], ~follows)))
    lasts = np.append(firsts[1:] - 1, len(edges) - 1)
    made = edges[order[firsts]].copy()
    made[:, 2:4] = edges[order[lasts], 2:4]
    return made


def _linked(edges: np.ndarray, kind: Kind, materials: list[Material]) -> list[Ring]:
    """Edges one after another as rings; where two could follow, the one that keeps the corner of what is
    solid apart from the other. Open ends, of one-way lines, make lines."""
    following = _following(edges)
    first = np.setdiff1d(np.arange(len(edges)), following[following >= 0])
    after, corner = following.tolist(), _corners(edges, following)
    starts, ends, made_of = edges[:, :2] / UNIT, edges[:, 2:4] / UNIT, edges[:, 4].tolist()
    seen = bytearray(len(edges))
    rings = []
    for begins, closed in ((first.tolist(), False), (range(len(edges)), True)):
        for start in begins:
            if seen[start]:
                continue
            found, at = [], start
            while at >= 0 and not seen[at]:
                seen[at] = 1
                if corner[at] or not closed:
                    found.append(at)
                at = after[at]
            points = starts[found]
            if not closed:
                points = np.concatenate((points, ends[found[-1:]]))
            rings.append(Ring(kind, points, tuple([materials[made_of[n]] for n in found]), closed))
    return rings


def _corners(edges: np.ndarray, following: np.ndarray) -> bytearray:
    """Which edges begin at a corner, or where the material changes: on others another ring only touched."""
    before = np.full(len(edges), -1)
    before[following[following >= 0]] = np.flatnonzero(following >= 0)
    along = edges[:, 2:4] - edges[:, :2]
    came = along[before]
    straight = came[:, 0] * along[:, 1] == came[:, 1] * along[:, 0]
    straight &= (came * along).sum(1) > 0
    straight &= (edges[:, 4] == edges[before, 4]) & (before >= 0)
    return bytearray((~straight).astype(np.uint8).tobytes())


def _following(edges: np.ndarray) -> np.ndarray:
    """For each edge the one that goes on from its end, -1 if none does."""
    starts, ends = _numbered(edges)
    order = np.argsort(starts, kind="stable")
    low = np.searchsorted(starts[order], ends, "left")
    number = np.searchsorted(starts[order], ends, "right") - low
    following = np.where(number > 0, order[np.minimum(low, len(edges) - 1)], -1)
    along = edges[:, 2:4] - edges[:, :2]
    several = np.flatnonzero(number > 1)
    best = np.full(several.size, -np.inf)
    for n in range(int(number.max(initial=0))):
        here = n < number[several]
        candidate = order[np.minimum(low[several] + n, len(edges) - 1)]
        a, b = along[several].astype(float), along[candidate].astype(float)
        turn = np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(1))
        better = here & (turn > best)
        best[better] = turn[better]
        following[several[better]] = candidate[better]
    return following


def _numbered(edges: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The points where edges begin and end, by numbers: equal numbers, equal points."""
    _xs, across = np.unique(edges[:, [0, 2]], return_inverse=True)
    ys, down = np.unique(edges[:, [1, 3]], return_inverse=True)
    points = np.unique(across.reshape(-1, 2) * len(ys) + down.reshape(-1, 2), return_inverse=True)[1]
    starts, ends = points.reshape(-1, 2).T
    return starts, ends


def outline(project: Project, level: Level) -> list[Ring]:
    """The whole outline of a level, worked out anew."""
    made = Outline()
    made.update(project, level)
    return made.rings()
