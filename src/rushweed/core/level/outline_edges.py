"""Edges of solid shapes: what is left where they meet, those in line joined, and rings linked from them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.shape import Side
from rushweed.core.shape.union import UNIT

NO_EDGES = np.zeros((0, 5), np.int64)


class Kind(NamedTuple):
    """What merges with one another: solid shapes of a group, or one-way ones of a group and a side."""

    role: str
    blocks_from: Side | None
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


def less(edges: np.ndarray, other: np.ndarray, axis: int) -> np.ndarray:
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


def facing(edges: np.ndarray, side: Side) -> np.ndarray:
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


def linked(edges: np.ndarray, kind: Kind, materials: list[Material]) -> list[Ring]:
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
