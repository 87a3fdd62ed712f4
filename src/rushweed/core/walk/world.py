"""A level as a walker meets it: edges, ladders, sensors, what moves, in whole numbers."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from rushweed.core.animate.play import place_on
from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.level import Level, Thing
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.outline import Outline
from rushweed.core.level.outline_edges import Ring
from rushweed.core.level.things import Shown, shown_at
from rushweed.core.shape.groups import touches
from rushweed.core.shape.primitives import clockwise, corners
from rushweed.core.walk import edge_kernels
from rushweed.core.walk import terms as k
from rushweed.core.walk.edges import (
    NO_EDGES,
    OUTLINE_UNIT,
    ROOM,
    crosses,
    grid_of,
    is_inside,
    overlaps,
    ring_edges,
    rows_of_edges,
    shifted,
)
from rushweed.core.walk.playing import PlayingTiles, without_changing
from rushweed.core.walk.terms import Grid
from rushweed.core.walk.tiles import Cells, Sensor, Sensors, TileShapes, entries, ladders, placed_tiles

KNOWN = 16  # cells from the edge of a known area within which it ends


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
        self.tiles: TileShapes
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
        cells = cell_homes(project) if cells is None else cells
        self._still_cells = without_changing(project, cells)
        self._outline.update(project, level, self._still_cells, lambda share: tell(share * 0.8), area)
        self.project, self.level, self.cells, self.area, self._group = project, level, cells, area, group
        self.tiles = TileShapes(level, cells)
        self.playing = PlayingTiles(project, level, cells, group)
        self._still, self.movers, self.pushed = self._things(group)
        self.climbs = ladders(level, cells)
        self.grid = self._made_grid()
        tell(1.0)

    def complete(self, tell: Callable[[float], None] = lambda _share: None) -> None:
        """Work out the rest of a level of which only an area is known; who walks there meanwhile meets the
        same."""
        self._outline.update(self.project, self.level, self._still_cells, tell)
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
                made.append(rows_of_edges(edges[:, :4] * 256, kind.blocks_from, friction, bounce, -1))
        if level.view != "side":
            made.append(entries(level, cells))
        made += self._still
        return grid_of(np.concatenate(made), max(level.cell))

    def _things(self, group: str) -> tuple[list[np.ndarray], list[Mover], list[tuple[Shown, list[Shape]]]]:
        """What stands still, as edges; what moves; what is pushed."""
        still: list[np.ndarray] = []
        movers: list[Mover] = []
        pushed: list[tuple[Shown, list[Shape]]] = []
        sensors: list[Sensor] = []
        for thing in self.level.things:
            shown = shown_at(thing, self.cells, self.project, 0.0)
            if shown is None:
                continue
            animation = next((a for a in self.project.animations if a.id == thing.shows), None)
            path = thing.path or (animation.path if animation is not None else None)
            moves = path if thing.motion != "pushed" else None
            sensors += [
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
        self._still_sensors = Sensors([s for s in sensors if s.path is None])
        self._moving_sensors = [s for s in sensors if s.path is not None]
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

    def sensors(self, box: tuple[int, int, int, int], steps: int = 0) -> list[str]:
        """The names of the cells whose sensors a box (left, top, right, bottom, 1/65536 px) reaches into
        after so many steps."""
        found = self.tiles.around(box).names(box) + self._still_sensors.names(box)
        for sensor in self._moving_sensors:
            x, y = displaced(sensor.path, steps)
            found += [sensor.cell.name] if overlaps(sensor.ring + np.array([x, y]), box) else []
        return found

    def sensor_spots(self) -> dict[str, list[tuple[int, int]]]:
        """The cells of the level in which tiles with sensors stand, by the tile's name."""
        cells, table = self.cells, self.level.table
        wanted = {
            n + 1 for n, c in enumerate(table)
            if c in cells and any(s.role == "sensor" for s in cells[c][1].shapes)
        }  # fmt: skip
        found: dict[str, list[tuple[int, int]]] = {}
        for _layer, value, columns, rows in placed_tiles(self.level, wanted):
            name = cells[table[(value >> 3) - 1]][1].name
            found.setdefault(name, []).extend(zip(columns.tolist(), rows.tolist(), strict=True))
        return found

    def touched(self, box: tuple[int, int, int, int]) -> list[tuple[Cell, tuple[int, int]]]:
        """The tiles whose solid or one-way shapes a box touches, with their cells."""
        return self.tiles.touched(box)


def thing_ring(shown: Shown, shape: Shape) -> np.ndarray:
    """A shape of a thing where it stands: int64 (n, 2), 1/65536 px on whole 1/256 px, clockwise."""
    a, b, c, d, e, f = shown.matrix()
    points = clockwise(tuple((a * x + b * y + e, c * x + d * y + f) for x, y in corners(shape)))
    made: np.ndarray = np.rint(np.array(points) * OUTLINE_UNIT).astype(np.int64) * 256
    return made


def shape_edges(shown: Shown, shape: Shape, owner: int, path: Path | None = None) -> np.ndarray:
    """The edges of a shape of a thing; of one on a path where that begins."""
    edges = ring_edges(thing_ring(shown, shape), shape, owner)
    if path is not None:
        x, y = displaced(path, 0)
        edges = shifted(edges, -x, -y)
    return edges


def free_place(world: World, feet: tuple[float, float], body: tuple[int, int]) -> bool:
    """Whether a body (width, height in px) has room with its feet at a place, level px."""
    half, x, y = body[0] * k.SUB // 2, round(feet[0] * k.SUB), round(feet[1] * k.SUB)
    box = (x - half, y - body[1] * k.SUB, x + half, y)
    near = np.zeros((ROOM, k.EDGE_COLUMNS), np.int64)
    playing = world.playing.edges(world.playing.frames_at(0), box)
    count = edge_kernels.near_edges(world.grid, playing, np.array(box, np.int64), near)
    if enters(near[:count], box):
        return False
    return not _solid_at(world, x, (box[1] + y) // 2)


def enters(edges: np.ndarray, box: tuple[int, int, int, int]) -> bool:
    """Whether a solid edge lies within a box."""
    rows = edges[edges[:, k.EDGE_SIDE] == k.SOLID, :4].tolist()
    return any(crosses(x0, y0, x1, y1, box) for x0, y0, x1, y1 in rows)


def _solid_at(world: World, x: int, y: int) -> bool:
    """Whether a place lies in something solid."""
    box = (x - 1, y - 1, x + 1, y + 1)
    return any(
        shape.role == "solid" and is_inside([(int(a), int(b)) for a, b in ring.tolist()], x + 0.5, y + 0.5)
        for shape, _cell, _spot, ring in world.tiles.shapes(box)
    )
