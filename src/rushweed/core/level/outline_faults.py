"""Where something would catch on the outline of a level, and how the shapes there are mended."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from functools import partial
from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import cell_homes, change_cells
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Polygon
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.level.chunks import region
from rushweed.core.level.outline_edges import Ring
from rushweed.core.shape.edit import blunted, whole
from rushweed.core.shape.primitives import corners
from rushweed.core.shape.twins import oriented_shape

SHARP = math.radians(10)  # a corner this sharp is a spike
NEAR = 1 / 64  # px from a corner of the outline to the corner of the shape that it is


class Fault(NamedTuple):
    """A place where something would catch: a step or gap of under a px, or a spike; level px."""

    what: str
    at: tuple[float, float]


def outline_faults(rings: list[Ring]) -> list[Fault]:
    """Where something would catch: steps and gaps of under a px, and spikes."""
    closed = [ring for ring in rings if ring.closed]
    if not closed:
        return []
    sizes = np.array([len(ring.points) for ring in closed])
    lasts = np.cumsum(sizes) - 1
    firsts = lasts - sizes + 1
    points = np.concatenate([ring.points for ring in closed])
    before, after = np.arange(-1, len(points) - 1), np.arange(1, len(points) + 1)
    before[firsts], after[lasts] = lasts, firsts
    came, goes = points - points[before], points[after] - points
    lengths = np.hypot(goes[:, 0], goes[:, 1])
    turn = np.arctan2(came[:, 0] * goes[:, 1] - came[:, 1] * goes[:, 0], (came * goes).sum(1))
    sharp = np.abs(turn) > math.pi - SHARP
    steps = (lengths < 1) & (turn * turn[after] < 0) & ~sharp
    faults = [Fault("spike", _point(points[n])) for n in np.flatnonzero(sharp)]
    faults += [Fault("step", _point(points[n])) for n in np.flatnonzero(steps)]
    return faults + _gaps(np.concatenate((points, points[after]), axis=1))


def _gaps(edges: np.ndarray) -> list[Fault]:
    """Slots of under a px between upright or level edges, float (n, 4), that face each other."""
    faults = []
    for across in (True, False):
        # (where it stands, from, to), of edges whose solid lies before it, and of those whose lies behind
        x, y = (0, 1) if across else (1, 0)
        straight = edges[edges[:, x] == edges[:, x + 2]]
        down = (straight[:, y + 2] > straight[:, y]) == across
        before, behind = straight[down], straight[~down]
        behind = behind[np.argsort(behind[:, x])]
        low = np.searchsorted(behind[:, x], before[:, x], "right")
        high = np.searchsorted(behind[:, x], before[:, x] + 1, "left")
        for n in np.flatnonzero(high > low):
            one = sorted((before[n, y], before[n, y + 2]))
            for other in behind[low[n] : high[n]]:
                two = sorted((other[y], other[y + 2]))
                start, end = max(one[0], two[0]), min(one[1], two[1])
                if start < end:
                    at = np.empty(2)
                    at[x], at[y] = before[n, x], start
                    faults.append(Fault("gap", _point(at)))
    return faults


def _point(at: np.ndarray) -> tuple[float, float]:
    return float(at[0]), float(at[1])


def mend(project: Project, level: Level, faults: Iterable[Fault]) -> Project:
    """Mend the shapes at some faults: their points come onto whole px, where steps and gaps of less than a px
    come from, and the corners of polygons that are spikes are cut off. Raises EditError if there is nothing
    of either kind."""
    faults = list(faults)
    near = {
        cell_id for f in faults if f.what != "spike"
        for layer, x, y in _places(level, f) for cell_id, *_rest in _tiles_at(level, layer, x, y)
    }  # fmt: skip
    made = change_cells(project, near, whole)
    cells, tips = cell_homes(made), set()
    for fault in faults:
        if fault.what == "spike":
            tips |= _tips(level, cells, fault)
    for cell_id, shape, corner in sorted(tips, reverse=True):  # the last corner of a shape first
        made = change_cells(made, [cell_id], partial(blunted, shape=shape, corner=corner))
    if made is project:
        raise EditError(
            "No shape there has points between px, or a corner that is a spike by itself.",
            "Change the shapes of these tiles in Shape.",
        )
    return made


def _places(level: Level, fault: Fault) -> Iterator[tuple[TileLayer, float, float]]:
    """Where a fault lies on each layer whose shapes count, px of the layer."""
    for layer in level.layers:
        if isinstance(layer, TileLayer) and layer.collides:
            yield layer, fault.at[0] - layer.offset[0], fault.at[1] - layer.offset[1]


def _tiles_at(level: Level, layer: TileLayer, x: float, y: float) -> Iterator[tuple[str, int, int, int]]:
    """The tiles within a px of a place: cell id, orientation, column, row."""
    cw, ch = level.cell
    left, top = math.floor((x - 1) / cw), math.floor((y - 1) / ch)
    right, bottom = math.floor((x + 1) / cw), math.floor((y + 1) / ch)
    held = region(layer.tiles, left, top, right - left + 1, bottom - top + 1)
    for row, column in np.argwhere(held).tolist():
        value = int(held[row, column])
        if value >> 3 <= len(level.table):
            yield level.table[(value >> 3) - 1], value & 7, left + column, top + row


def _tips(level: Level, cells: dict[str, tuple[Sheet, Cell]], fault: Fault) -> set[tuple[str, int, int]]:
    """The corners of polygons that lie at a spike: cell id, number of the shape, number of the corner."""
    found = set()
    for layer, x, y in _places(level, fault):
        for cell_id, turn, column, row in _tiles_at(level, layer, x, y):
            if cell_id not in cells:
                continue
            spot = np.array([x - column * level.cell[0], y - row * level.cell[1]])
            for number, shape in enumerate(cells[cell_id][1].shapes):
                if not isinstance(shape, Polygon) or shape.role == "sensor":
                    continue
                for corner, point in enumerate(shape.points):
                    shown = oriented_shape(Polygon((point, point, point)), turn, level.cell)
                    if np.abs(np.array(corners(shown)[0]) - spot).max() < NEAR:
                        found.add((cell_id, number, corner))
    return found
