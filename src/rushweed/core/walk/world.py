"""A level as a walker meets it: edges, ladders, sensors, what moves, in whole numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from rushweed.core.animate.play import place_on
from rushweed.core.document.edit import cells_by_id
from rushweed.core.document.model import (
    CHUNK,
    Cell,
    Level,
    Path,
    Project,
    Shape,
    Sheet,
    Side,
    Thing,
    TileLayer,
)
from rushweed.core.level.chunks import region
from rushweed.core.level.outline import Outline, Ring
from rushweed.core.level.things import Shown, shown_at
from rushweed.core.shape.groups import touches
from rushweed.core.shape.primitives import OPPOSITE, TURNED, clockwise, corners
from rushweed.core.shape.traits import CLIMB, ENTRY, value_of
from rushweed.core.shape.twins import oriented_shape
from rushweed.core.walk import kernels
from rushweed.core.walk import terms as k

Cells = dict[str, tuple[Sheet, Cell]]
SIDES: tuple[Side, ...] = ("top", "right", "bottom", "left")  # as the kernels count them, from 1
OUTLINE_UNIT = 256  # of a px, of the outline
MOST_BUCKETS = 1 << 20
KNOWN = 16  # cells from the edge of a known area within which it ends
ROOM = 4096  # edges near a body at most
NO_EDGES = np.zeros((0, k.EDGE_COLUMNS), np.int64)


class Sensor(NamedTuple):
    """A sensor of a tile or a thing: whose it is, and its ring, int64 (n, 2) in 1/65536 px. That of a thing
    on a path lies where it begins."""

    cell: Cell
    ring: np.ndarray
    path: Path | None = None


class Mover(NamedTuple):
    """Something with shapes that goes along a path: its edges where it starts, and its sensors."""

    thing: Thing
    cell: Cell
    path: Path | None
    edges: np.ndarray

    def at(self, steps: int) -> tuple[int, int]:
        """How far it is from where it starts after so many steps, 1/65536 px."""
        return displaced(self.path, steps)

    @property
    def period(self) -> int:
        """Steps after which it is where it was."""
        if self.path is None or self.path.play == "once":
            return 1
        rounds = self.path.ms * (2 if self.path.play == "there-and-back" else 1)
        return max(round(rounds * k.STEPS / 1000), 1)


def displaced(path: Path | None, steps: int) -> tuple[int, int]:
    """How far something on a path is from where it starts, 1/65536 px: whole 1/256 px."""
    if path is None:
        return 0, 0
    x, y = place_on(path, steps * 1000 / k.STEPS)
    return round(x * OUTLINE_UNIT) * 256, round(y * OUTLINE_UNIT) * 256


class Grid(NamedTuple):
    """Edges by the buckets they lie in: for `kernels.near_edges`."""

    edges: np.ndarray
    offsets: np.ndarray
    items: np.ndarray
    grid: np.ndarray


class World:
    """Made for one walker's group; `update` follows the level and does only what changed."""

    def __init__(self) -> None:
        self._outline = Outline()
        self.grid = grid_of(NO_EDGES, 16)  # all edges that do not move
        self.climbs = np.zeros((0, 4), np.int64)
        self.movers: list[Mover] = []
        self.pushed: list[tuple[Shown, list[Shape]]] = []
        self.project: Project
        self.level: Level
        self._sensors: _Sensors
        self.area: tuple[int, int, int, int] | None = None  # all that is known of it, if not the whole

    @classmethod
    def of(cls, project: Project, level: Level, group: str = "") -> World:
        """The world of a level as it is now."""
        made = cls()
        made.update(project, level, group)
        return made

    def update(
        self,
        project: Project,
        level: Level,
        group: str = "",
        cells: Cells | None = None,
        tell: Callable[[float], None] = lambda _share: None,
        area: tuple[int, int, int, int] | None = None,
    ) -> None:
        """Follow a level. `tell` is told how much is done, and may leave it by an exception. With an `area`
        (left, top, columns, rows in cells) it knows only that, until `complete`."""
        cells = cells_by_id(project) if cells is None else cells
        self._outline.update(project, level, cells, lambda share: tell(share * 0.8), area)
        self.project, self.level, self.cells, self.area, self._group = project, level, cells, area, group
        self._sensors = _Sensors(level, cells)
        self._thing_sensors: list[Sensor] = []
        self._still, self.movers, self.pushed = self._things(group)
        self.climbs = _climbs(level, cells)
        self.grid = self._made_grid()
        tell(1.0)

    def complete(self, tell: Callable[[float], None] = lambda _share: None) -> None:
        """Work out the rest of a level of which only an area is known; who walks there meanwhile meets the
        same."""
        self._outline.update(self.project, self.level, self.cells, tell)
        self.grid, self.area = self._made_grid(), None

    def knows(self, x: float, y: float) -> bool:
        """Whether all around a place, level px, is known."""
        if self.area is None:
            return True
        left, top, columns, rows = self.area
        column, row = x / self.level.cell[0], y / self.level.cell[1]
        inside = left + KNOWN <= column < left + columns - KNOWN
        return inside and top + KNOWN <= row < top + rows - KNOWN

    def _made_grid(self) -> Grid:
        """All edges that do not move, by buckets."""
        project, level, cells, group = self.project, self.level, self.cells, self._group
        materials = self._outline.materials
        made = [NO_EDGES]
        for kind, edges in self._outline.pieces():
            if touches(project, group, kind.group):
                friction = np.array([round(m.friction * 256) for m in materials])[edges[:, 4]]
                bounce = np.array([round(m.bounce * 256) for m in materials])[edges[:, 4]]
                made.append(rows_of_edges(edges[:, :4] * 256, kind.stops, friction, bounce, -1))
        if level.view != "side":
            made.append(_entries(level, cells))
        made += self._still
        return grid_of(np.concatenate(made), max(level.cell))

    def _things(self, group: str) -> tuple[list[np.ndarray], list[Mover], list[tuple[Shown, list[Shape]]]]:
        """What stands still, as edges; what moves; what is pushed."""
        still: list[np.ndarray] = []
        movers: list[Mover] = []
        pushed: list[tuple[Shown, list[Shape]]] = []
        for thing in self.level.things:
            shown = shown_at(thing, self.cells, self.project, 0.0)
            if shown is None:
                continue
            animation = next((a for a in self.project.animations if a.id == thing.shows), None)
            path = thing.path or (animation.path if animation is not None else None)
            moves = path if thing.motion != "pushed" else None
            self._thing_sensors += [
                Sensor(shown.cell, thing_ring(shown, s) - np.array(displaced(moves, 0)), moves)
                for s in shown.cell.shapes if s.role == "sensor"
            ]  # fmt: skip
            shapes = [
                s for s in shown.cell.shapes if s.role != "sensor" and touches(self.project, group, s.group)
            ]
            if thing.motion == "pushed":
                if shapes:
                    pushed.append((shown, shapes))
            elif path is not None:
                owner = len(movers)
                edges = [shape_edges(shown, s, owner, path) for s in shapes]
                movers.append(Mover(thing, shown.cell, path, np.concatenate([NO_EDGES, *edges])))
            else:
                still += [shape_edges(shown, s, -1) for s in shapes]
        return still, movers, pushed

    # -- asking ----------------------------------------------------------------------------------------

    @property
    def box(self) -> tuple[float, float, float, float]:
        """The level: left, top, right, bottom in px."""
        x, y, columns, rows = self.level.bounds
        cw, ch = self.level.cell
        return x * cw, y * ch, (x + columns) * cw, (y + rows) * ch

    def rings(self) -> list[Ring]:
        """The merged outline of the level's tiles."""
        return self._outline.rings()

    def moving_edges(self, steps: int, bodies: np.ndarray = NO_EDGES) -> np.ndarray:
        """The edges of all that moves, after so many steps."""
        parts = [shifted(m.edges, *m.at(steps)) for m in self.movers if len(m.edges)]
        return np.concatenate((*parts, bodies)) if parts else bodies

    def sensors(self, box: tuple[int, int, int, int], steps: int = 0) -> list[Sensor]:
        """The sensors that a box (left, top, right, bottom, 1/65536 px) reaches into after so many steps."""
        found = [s for s in self._sensors.around(box) if overlaps(s.ring, box)]
        for sensor in self._thing_sensors:
            x, y = displaced(sensor.path, steps)
            found += [sensor] if overlaps(sensor.ring + np.array([x, y]), box) else []
        return found

    def sensor_spots(self) -> dict[str, list[tuple[int, int]]]:
        """The cells of the level in which tiles with sensors stand, by the tile's name."""
        cells, table = self.cells, self.level.table
        wanted = {
            n + 1 for n, c in enumerate(table)
            if c in cells and any(s.role == "sensor" for s in cells[c][1].shapes)
        }  # fmt: skip
        found: dict[str, list[tuple[int, int]]] = {}
        for _layer, value, columns, rows in _placed_tiles(self.level, wanted):
            name = cells[table[(value >> 3) - 1]][1].name
            found.setdefault(name, []).extend(zip(columns.tolist(), rows.tolist(), strict=True))
        return found

    def touched(self, box: tuple[int, int, int, int]) -> list[tuple[Cell, tuple[int, int]]]:
        """The tiles whose solid or one-way shapes a box touches, with their cells."""
        return self._sensors.touched(box)


# -- edges -------------------------------------------------------------------------------------------------


def rows_of_edges(
    ends: np.ndarray, stops: Side | None, friction: np.ndarray | int, bounce: np.ndarray | int, owner: int
) -> np.ndarray:
    """Rows for the mover from int64 (n, 4) ends in 1/65536 px."""
    kept = (ends[:, :2] != ends[:, 2:]).any(1)
    ends = ends[kept]
    friction, bounce = (v[kept] if isinstance(v, np.ndarray) else v for v in (friction, bounce))
    faces = (ends[:, 2] > ends[:, 0]) + 2 * (ends[:, 3] > ends[:, 1])
    swap = (ends[:, 0] > ends[:, 2]) | ((ends[:, 0] == ends[:, 2]) & (ends[:, 1] > ends[:, 3]))
    ends = np.where(swap[:, None], ends[:, [2, 3, 0, 1]], ends)
    out = np.zeros((len(ends), k.EDGE_COLUMNS), np.int64)
    out[:, :4] = ends
    out[:, k.EDGE_SIDE] = SIDES.index(stops) + 1 if stops is not None else k.SOLID
    out[:, k.EDGE_FRICTION], out[:, k.EDGE_BOUNCE], out[:, k.EDGE_OWNER] = friction, bounce, owner
    out[:, k.EDGE_FACES] = faces
    dx, dy = ends[:, 2] - ends[:, 0], ends[:, 3] - ends[:, 1]
    common = np.maximum(np.gcd(dx, dy), 1)
    p, q = dy // common, dx // common
    out[:, k.EDGE_P], out[:, k.EDGE_Q] = p, q
    whole = np.maximum(p * p + q * q, 1)
    out[:, k.EDGE_COS2] = q * q * k.SUB // whole
    out[:, k.EDGE_COSSIN] = np.sign(p) * (np.abs(p) * q * k.SUB // whole)
    return out


def shifted(edges: np.ndarray, dx: int, dy: int) -> np.ndarray:
    """The same edges moved."""
    out = edges.copy()
    out[:, [k.EDGE_X0, k.EDGE_X1]] += dx
    out[:, [k.EDGE_Y0, k.EDGE_Y1]] += dy
    return out


def ring_edges(ring: np.ndarray, shape: Shape, owner: int) -> np.ndarray:
    """The edges of a ring, int64 (n, 2), clockwise on screen; of a one-way one those that face its side."""
    ends = np.concatenate((ring, np.roll(ring, -1, axis=0)), axis=1)
    stops = shape.stops if shape.role == "one-way" else None
    if stops is not None:
        dx, dy = ends[:, 2] - ends[:, 0], ends[:, 3] - ends[:, 1]
        ends = ends[{"top": dx > 0, "bottom": dx < 0, "right": dy > 0, "left": dy < 0}[stops]]
    return rows_of_edges(ends, stops, round(shape.friction * 256), round(shape.bounce * 256), owner)


def thing_ring(shown: Shown, shape: Shape) -> np.ndarray:
    """A shape of a thing where it stands: int64 (n, 2), 1/65536 px on whole 1/256 px, clockwise."""
    a, b, c, d, e, f = shown.matrix()
    points = clockwise(tuple((a * x + b * y + e, c * x + d * y + f) for x, y in corners(shape)))
    return np.rint(np.array(points) * OUTLINE_UNIT).astype(np.int64) * 256


def shape_edges(shown: Shown, shape: Shape, owner: int, path: Path | None = None) -> np.ndarray:
    """The edges of a shape of a thing; of one on a path where that begins."""
    edges = ring_edges(thing_ring(shown, shape), shape, owner)
    if path is not None:
        x, y = displaced(path, 0)
        edges = shifted(edges, -x, -y)
    return edges


def grid_of(edges: np.ndarray, cell: int) -> Grid:
    """Edges by square buckets a few cells wide."""
    side = cell * 4 * k.SUB
    if not len(edges):
        return Grid(
            edges, np.zeros(2, np.int64), np.zeros(0, np.int64), np.array([side, 0, 0, 1, 1], np.int64)
        )
    low = np.stack((edges[:, 0], np.minimum(edges[:, 1], edges[:, 3])), 1)
    high = np.stack((edges[:, 2], np.maximum(edges[:, 1], edges[:, 3])), 1)
    while True:
        first, last = low // side, high // side
        corner = first.min(0)
        wide, deep = (last.max(0) - corner + 1).tolist()
        if wide * deep <= MOST_BUCKETS:
            break
        side *= 2
    columns, rows = (last - first + 1).T
    each = columns * rows
    numbers = np.repeat(np.arange(len(edges)), each)
    inner = np.arange(len(numbers)) - np.repeat(np.cumsum(each) - each, each)
    bucket = (first[numbers, 1] - corner[1] + inner // columns[numbers]) * wide
    bucket += first[numbers, 0] - corner[0] + inner % columns[numbers]
    order = np.argsort(bucket, kind="stable")
    offsets = np.zeros(wide * deep + 1, np.int64)
    np.cumsum(np.bincount(bucket, minlength=wide * deep), out=offsets[1:])
    grid = np.array([side, corner[0], corner[1], wide, deep], np.int64)
    return Grid(edges, offsets, numbers[order], grid)


# -- tiles that say something ----------------------------------------------------------------------------


def _placed_tiles(level: Level, wanted: set[int]) -> Iterator[tuple[TileLayer, int, np.ndarray, np.ndarray]]:
    """Each value of the wanted table indices that stands on a layer whose shapes count, with the columns and
    rows where."""
    if not wanted:
        return
    for layer in level.layers:
        if not isinstance(layer, TileLayer) or not layer.collides:
            continue
        tiles = layer.tiles
        found: dict[int, list[np.ndarray]] = {}
        for n, chunk in enumerate(tiles.chunks):
            if chunk is None:
                continue
            spots = np.argwhere(np.isin(chunk.cells >> 3, list(wanted)))
            if len(spots):
                corner = np.array(
                    [(tiles.top + n // tiles.columns) * CHUNK, (tiles.left + n % tiles.columns) * CHUNK]
                )
                values = chunk.cells[spots[:, 0], spots[:, 1]]
                for value in np.unique(values).tolist():
                    found.setdefault(value, []).append(spots[values == value] + corner)
        for value, places in found.items():
            rows, columns = np.concatenate(places).T
            yield layer, value, columns, rows


def _climbs(level: Level, cells: Cells) -> np.ndarray:
    """Ladders as boxes: int64 (n, 4), left, top, right, bottom, 1/65536 px, those on one another in one."""
    wanted = {
        n + 1 for n, c in enumerate(level.table) if c in cells and value_of(cells[c][1], CLIMB.id) is True
    }
    found = []
    for layer, value, columns, rows in _placed_tiles(level, wanted):
        cell = cells[level.table[(value >> 3) - 1]][1]
        for shape in cell.shapes:
            if shape.role != "sensor":
                continue
            ring = np.array(corners(oriented_shape(shape, value & 7, level.cell)))
            box = np.rint(np.concatenate((ring.min(0), ring.max(0))) * OUTLINE_UNIT).astype(np.int64) * 256
            spot = np.stack((columns, rows), 1) * np.array(level.cell) * k.SUB
            spot += np.rint(np.array(layer.offset) * k.SUB).astype(np.int64)
            found.append(np.concatenate((spot, spot), 1) + box)
    if not found:
        return np.zeros((0, 4), np.int64)
    boxes = np.unique(np.concatenate(found), axis=0)
    boxes = boxes[np.lexsort((boxes[:, 1], boxes[:, 2], boxes[:, 0]))]
    goes_on = (boxes[1:, [0, 2]] == boxes[:-1, [0, 2]]).all(1) & (boxes[1:, 1] <= boxes[:-1, 3])
    firsts = np.flatnonzero(np.concatenate(([True], ~goes_on)))
    lasts = np.append(firsts[1:] - 1, len(boxes) - 1)
    merged = boxes[firsts].copy()
    merged[:, 3] = boxes[lasts, 3]
    return merged


def turned_side(side: Side, orientation: int) -> Side:
    """Where a side of a tile lies in an orientation: mirrored first, then turned clockwise."""
    if orientation & 4 and side in ("left", "right"):
        side = OPPOSITE[side]
    for _ in range(orientation & 3):
        side = TURNED[side]
    return side


def _entries(level: Level, cells: Cells) -> np.ndarray:
    """Of tiles that say from which sides one may come: edges on the others that stop from outside."""
    wanted = {n + 1 for n, c in enumerate(level.table) if c in cells and value_of(cells[c][1], ENTRY.id)}
    made = [NO_EDGES]
    (cw, ch), full = (
        level.cell,
        {"top": (0, 0, 1, 0), "right": (1, 0, 1, 1), "bottom": (0, 1, 1, 1), "left": (0, 0, 0, 1)},
    )
    for layer, value, columns, rows in _placed_tiles(level, wanted):
        open_sides = str(value_of(cells[level.table[(value >> 3) - 1]][1], ENTRY.id)).split()
        shut = [s for s in SIDES if s not in {turned_side(o, value & 7) for o in open_sides}]  # type: ignore[arg-type]
        shift = np.rint(np.array(layer.offset * 2) * OUTLINE_UNIT).astype(np.int64) * 256
        for side in shut:
            x0, y0, x1, y1 = full[side]
            ends = np.stack(((columns + x0) * cw, (rows + y0) * ch, (columns + x1) * cw, (rows + y1) * ch), 1)
            made.append(rows_of_edges(ends.astype(np.int64) * k.SUB + shift, side, k.USUAL_FRICTION, 0, -1))
    return np.concatenate(made)


class _Sensors:
    """Shapes of tiles near a place, looked up by the cells that a box covers."""

    def __init__(self, level: Level, cells: Cells) -> None:
        self._level, self._cells = level, cells
        self._layers = [x for x in level.layers if isinstance(x, TileLayer) and x.collides]
        self._known: dict[tuple[int, int, int, int], list[Sensor]] = {}
        self._rings: dict[tuple[str, int], list[tuple[Shape, np.ndarray]]] = {}

    def around(self, box: tuple[int, int, int, int]) -> list[Sensor]:
        spots = self._spots(box, (0.0, 0.0))
        if spots not in self._known:
            if len(self._known) > 64:
                self._known.clear()
            self._known[spots] = [
                Sensor(cell, ring)
                for shape, cell, _spot, ring in self._shapes(box) if shape.role == "sensor"
            ]  # fmt: skip
        return self._known[spots]

    def touched(self, box: tuple[int, int, int, int]) -> list[tuple[Cell, tuple[int, int]]]:
        near = (box[0] - k.SUB // 4, box[1] - k.SUB // 4, box[2] + k.SUB // 4, box[3] + k.SUB // 4)
        found = {}
        for shape, cell, spot, ring in self._shapes(near):
            if shape.role != "sensor" and spot not in found and overlaps(ring, near):
                found[spot] = cell
        return [(cell, spot) for spot, cell in found.items()]

    def _spots(
        self, box: tuple[int, int, int, int], offset: tuple[float, float]
    ) -> tuple[int, int, int, int]:
        cw, ch = (side * k.SUB for side in self._level.cell)
        dx, dy = (round(v * k.SUB) for v in offset)
        return (box[0] - dx) // cw, (box[1] - dy) // ch, (box[2] - dx - 1) // cw, (box[3] - dy - 1) // ch

    def _shapes(
        self, box: tuple[int, int, int, int]
    ) -> Iterator[tuple[Shape, Cell, tuple[int, int], np.ndarray]]:
        """Every shape of the tiles in and around a box, with its cell, place, and ring."""
        table, size = self._level.table, self._level.cell
        for layer in self._layers:
            x0, y0, x1, y1 = self._spots(box, layer.offset)
            held = region(layer.tiles, x0 - 1, y0 - 1, x1 - x0 + 3, y1 - y0 + 3)
            dx, dy = (round(v * k.SUB) for v in layer.offset)
            for row, column in np.argwhere(held):
                value = int(held[row, column])
                if (value >> 3) > len(table) or table[(value >> 3) - 1] not in self._cells:
                    continue
                cell = self._cells[table[(value >> 3) - 1]][1]
                spot = (x0 - 1 + int(column), y0 - 1 + int(row))
                corner = np.array([spot[0] * size[0] * k.SUB + dx, spot[1] * size[1] * k.SUB + dy])
                for shape, ring in self._rings_of(cell, value & 7):
                    yield shape, cell, spot, ring + corner

    def _rings_of(self, cell: Cell, turn: int) -> list[tuple[Shape, np.ndarray]]:
        key = (cell.id, turn)
        if key not in self._rings:
            made = []
            for shape in cell.shapes:
                points = corners(oriented_shape(shape, turn, self._level.cell))
                made.append((shape, np.rint(np.array(points) * k.SUB).astype(np.int64)))
            self._rings[key] = made
        return self._rings[key]


def overlaps(ring: np.ndarray, box: tuple[int, int, int, int]) -> bool:
    """Whether the inside of a ring (even-odd) and that of a box share more than their borders."""
    left, top, right, bottom = box
    low, high = ring.min(0), ring.max(0)
    if low[0] >= right or high[0] <= left or low[1] >= bottom or high[1] <= top:
        return False
    points = [(int(x), int(y)) for x, y in ring.tolist()]
    if len(points) == 4 and len({x for x, _ in points}) == 2 and len({y for _, y in points}) == 2:
        return True
    for (ax, ay), (bx, by) in zip(points, points[1:] + points[:1], strict=True):
        if _crosses(ax, ay, bx, by, box):
            return True
    return _inside(points, (left + right) / 2, (top + bottom) / 2)


def _crosses(ax: int, ay: int, bx: int, by: int, box: tuple[int, int, int, int]) -> bool:
    """Whether a stretch has points within an open box (Liang and Barsky's clipping)."""
    start, end = 0.0, 1.0
    for origin, along, low, high in ((ax, bx - ax, box[0], box[2]), (ay, by - ay, box[1], box[3])):
        if along == 0:
            if origin <= low or origin >= high:
                return False
            continue
        one, two = (low - origin) / along, (high - origin) / along
        start, end = max(start, min(one, two)), min(end, max(one, two))
    return start < end


def _inside(points: list[tuple[int, int]], x: float, y: float) -> bool:
    inside = False
    for (x0, y0), (x1, y1) in zip(points, points[1:] + points[:1], strict=True):
        if (y0 > y) != (y1 > y) and x < (x1 - x0) * (y - y0) / (y1 - y0) + x0:
            inside = not inside
    return inside


def free_place(world: World, feet: tuple[float, float], body: tuple[int, int]) -> bool:
    """Whether a body (width, height in px) has room with its feet at a place, level px."""
    half, x, y = body[0] * k.SUB // 2, round(feet[0] * k.SUB), round(feet[1] * k.SUB)
    box = (x - half, y - body[1] * k.SUB, x + half, y)
    near = np.zeros((ROOM, k.EDGE_COLUMNS), np.int64)
    count = kernels.near_edges(*world.grid, NO_EDGES, np.array(box, np.int64), near)
    for row in near[:count].tolist():
        if row[k.EDGE_SIDE] == k.SOLID and _crosses(row[0], row[1], row[2], row[3], box):
            return False
    return not _solid_at(world, x, (box[1] + y) // 2)


def _solid_at(world: World, x: int, y: int) -> bool:
    """Whether a place lies in something solid."""
    box = (x - 1, y - 1, x + 1, y + 1)
    return any(
        shape.role == "solid" and _inside([(int(a), int(b)) for a, b in ring.tolist()], x + 0.5, y + 0.5)
        for shape, _cell, _spot, ring in world._sensors._shapes(box)
    )
