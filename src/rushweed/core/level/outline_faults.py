"""Where something would catch on the outline of a level, and how the shapes there are mended."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import change_cells
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import region
from rushweed.core.level.outline_edges import Ring
from rushweed.core.shape.edit import whole

SHARP = math.radians(10)  # a corner this sharp is a spike


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
    """Bring the points of the shapes at some faults onto whole px, where steps and gaps of less than a px
    come from. Raises EditError if no shape there has points between px."""
    wanted: set[str] = set()
    cw, ch = level.cell
    for fault in faults:
        for layer in level.layers:
            if isinstance(layer, TileLayer) and layer.collides:
                x, y = (fault.at[n] - layer.offset[n] for n in (0, 1))
                left, top = math.floor((x - 1) / cw), math.floor((y - 1) / ch)
                right, bottom = math.floor((x + 1) / cw), math.floor((y + 1) / ch)
                held = region(layer.tiles, left, top, right - left + 1, bottom - top + 1) >> 3
                wanted |= {level.table[i - 1] for i in np.unique(held).tolist() if 0 < i <= len(level.table)}
    made = change_cells(project, wanted, whole)
    if made is project:
        raise EditError("No shape there has points between px.", "Change the shapes of these tiles in Shape.")
    return made
