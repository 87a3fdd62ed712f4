"""What tiles say to who walks: ladders, sides from which one may come in, sensors, and what is touched."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.level import CHUNK, Level, TileLayer
from rushweed.core.document.model.shape import Shape, Side
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.chunks import region
from rushweed.core.shape.primitives import OPPOSITE, TURNED, corners
from rushweed.core.shape.traits import CLIMB, ENTRY, value_of
from rushweed.core.shape.twins import oriented_shape
from rushweed.core.walk import terms as k
from rushweed.core.walk.edges import NO_EDGES, OUTLINE_UNIT, SIDES, overlaps, rows_of_edges

Cells = dict[str, tuple[Sheet, Cell]]


class Sensor(NamedTuple):
    """A sensor of a tile or a thing: whose it is, and its ring, int64 (n, 2) in 1/65536 px. That of a thing
    on a path lies where it begins."""

    cell: Cell
    ring: np.ndarray
    path: Path | None = None


def placed_tiles(level: Level, wanted: set[int]) -> Iterator[tuple[TileLayer, int, np.ndarray, np.ndarray]]:
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


def ladders(level: Level, cells: Cells) -> np.ndarray:
    """Ladders as boxes: int64 (n, 4), left, top, right, bottom, 1/65536 px, those on one another in one."""
    wanted = {
        n + 1 for n, c in enumerate(level.table) if c in cells and value_of(cells[c][1], CLIMB.id) is True
    }
    found = []
    for layer, value, columns, rows in placed_tiles(level, wanted):
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


def entries(level: Level, cells: Cells) -> np.ndarray:
    """Of tiles that say from which sides one may come: edges on the others that stop from outside."""
    wanted = {n + 1 for n, c in enumerate(level.table) if c in cells and value_of(cells[c][1], ENTRY.id)}
    made = [NO_EDGES]
    (cw, ch), full = (
        level.cell,
        {"top": (0, 0, 1, 0), "right": (1, 0, 1, 1), "bottom": (0, 1, 1, 1), "left": (0, 0, 0, 1)},
    )
    for layer, value, columns, rows in placed_tiles(level, wanted):
        open_sides = str(value_of(cells[level.table[(value >> 3) - 1]][1], ENTRY.id)).split()
        shut = [s for s in SIDES if s not in {turned_side(o, value & 7) for o in open_sides}]  # type: ignore[arg-type]
        shift = np.rint(np.array(layer.offset * 2) * OUTLINE_UNIT).astype(np.int64) * 256
        for side in shut:
            x0, y0, x1, y1 = full[side]
            ends = np.stack(((columns + x0) * cw, (rows + y0) * ch, (columns + x1) * cw, (rows + y1) * ch), 1)
            made.append(rows_of_edges(ends.astype(np.int64) * k.SUB + shift, side, k.USUAL_FRICTION, 0, -1))
    return np.concatenate(made)


class Sensors:
    """Sensors to be asked for many boxes."""

    def __init__(self, sensors: Sequence[Sensor]) -> None:
        self._sensors = sensors
        rings = [s.ring for s in sensors]
        self._low = np.array([r.min(0) for r in rings], np.int64).reshape(-1, 2)
        self._high = np.array([r.max(0) for r in rings], np.int64).reshape(-1, 2)

    def names(self, box: tuple[int, int, int, int]) -> list[str]:
        """The names of the cells whose sensors a box (left, top, right, bottom) reaches into."""
        near = (self._low < np.array(box[2:])).all(1) & (self._high > np.array(box[:2])).all(1)
        found: dict[str, None] = {}
        for n in np.flatnonzero(near).tolist():
            name = self._sensors[n].cell.name
            if name not in found and overlaps(self._sensors[n].ring, box):
                found[name] = None
        return list(found)


class TileShapes:
    """Shapes of tiles near a place, looked up by the cells that a box covers."""

    def __init__(self, level: Level, cells: Cells) -> None:
        self._level, self._cells = level, cells
        self._layers = [x for x in level.layers if isinstance(x, TileLayer) and x.collides]
        self._known: dict[tuple[int, int, int, int], Sensors] = {}
        self._rings: dict[tuple[str, int], list[tuple[Shape, np.ndarray]]] = {}

    def around(self, box: tuple[int, int, int, int]) -> Sensors:
        """The sensors that may be met from a box, in sub-px."""
        spots = self._spots(box, (0.0, 0.0))
        if spots not in self._known:
            if len(self._known) > 64:
                self._known.clear()
            self._known[spots] = Sensors(
                [Sensor(cell, ring) for shape, cell, _s, ring in self.shapes(box) if shape.role == "sensor"]
            )
        return self._known[spots]

    def touched(self, box: tuple[int, int, int, int]) -> list[tuple[Cell, tuple[int, int]]]:
        """The tiles whose shapes a box touches, each with its column and row."""
        near = (box[0] - k.SUB // 4, box[1] - k.SUB // 4, box[2] + k.SUB // 4, box[3] + k.SUB // 4)
        found = {}
        for shape, cell, spot, ring in self.shapes(near):
            if shape.role != "sensor" and spot not in found and overlaps(ring, near):
                found[spot] = cell
        return [(cell, spot) for spot, cell in found.items()]

    def _spots(
        self, box: tuple[int, int, int, int], offset: tuple[float, float]
    ) -> tuple[int, int, int, int]:
        cw, ch = (side * k.SUB for side in self._level.cell)
        dx, dy = (round(v * k.SUB) for v in offset)
        return (box[0] - dx) // cw, (box[1] - dy) // ch, (box[2] - dx - 1) // cw, (box[3] - dy - 1) // ch

    def shapes(
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
                for shape, ring in self.rings_of(cell, value & 7):
                    yield shape, cell, spot, ring + corner

    def rings_of(self, cell: Cell, turn: int) -> list[tuple[Shape, np.ndarray]]:
        """The shapes of a cell as it is turned, each with its corners, int (n, 2), sub-px of the cell."""
        key = (cell.id, turn)
        if key not in self._rings:
            made = []
            for shape in cell.shapes:
                points = corners(oriented_shape(shape, turn, self._level.cell))
                made.append((shape, np.rint(np.array(points) * k.SUB).astype(np.int64)))
            self._rings[key] = made
        return self._rings[key]
