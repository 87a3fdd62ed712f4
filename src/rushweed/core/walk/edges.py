"""Edges as the mover meets them: their rows, those of rings, by buckets; and what of shapes a body meets."""

from __future__ import annotations

import numpy as np

from rushweed.core.document.model.shape import Shape, Side
from rushweed.core.walk import terms as k
from rushweed.core.walk.terms import Grid

SIDES: tuple[Side, ...] = ("top", "right", "bottom", "left")  # as the kernels count them, from 1
OUTLINE_UNIT = 256  # of a px, of the outline
MOST_BUCKETS = 1 << 20
ROOM = 4096  # edges near a body at most
NO_EDGES = np.zeros((0, k.EDGE_COLUMNS), np.int64)


def room_near() -> tuple[np.ndarray, np.ndarray]:
    """Room for the edges near a body, and for the box they lie in."""
    return np.zeros((ROOM, k.EDGE_COLUMNS), np.int64), np.zeros(4, np.int64)


def rows_of_edges(
    ends: np.ndarray,
    blocks_from: Side | None,
    friction: np.ndarray | int,
    bounce: np.ndarray | int,
    owner: int,
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
    out[:, k.EDGE_SIDE] = SIDES.index(blocks_from) + 1 if blocks_from is not None else k.SOLID
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
    blocks_from = shape.blocks_from if shape.role == "one-way" else None
    if blocks_from is not None:
        dx, dy = ends[:, 2] - ends[:, 0], ends[:, 3] - ends[:, 1]
        ends = ends[{"top": dx > 0, "bottom": dx < 0, "right": dy > 0, "left": dy < 0}[blocks_from]]
    return rows_of_edges(ends, blocks_from, round(shape.friction * 256), round(shape.bounce * 256), owner)


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
        if crosses(ax, ay, bx, by, box):
            return True
    return is_inside(points, (left + right) / 2, (top + bottom) / 2)


def crosses(ax: int, ay: int, bx: int, by: int, box: tuple[int, int, int, int]) -> bool:
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


def is_inside(points: list[tuple[int, int]], x: float, y: float) -> bool:
    """Whether a point lies in a polygon, by the edges a ray from it crosses."""
    inside = False
    for (x0, y0), (x1, y1) in zip(points, points[1:] + points[:1], strict=True):
        if (y0 > y) != (y1 > y) and x < (x1 - x0) * (y - y0) / (y1 - y0) + x0:
            inside = not inside
    return inside
