"""The union of a few polygons within a rectangle, as directed edges. For many cells, see level/outline.py.

All edges are split where they meet; of the pieces those stay that have the union on exactly one side. So
shapes may overlap, touch, or cross themselves (even-odd). Coordinates are whole numbers of 1/UNIT px.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

UNIT = 256  # of a px
ASIDE = 1.25  # units from an edge at which its sides are looked at: more than rounding moves it
Ring = Sequence[tuple[float, float]]


def union_edges(rings: Sequence[Ring], owners: Sequence[int], size: tuple[int, int]) -> np.ndarray:
    """The boundary of what some rings, px, cover of the rectangle (0, 0) to `size`, px: int64 (n, 5), each
    x0, y0, x1, y1 in units and the owner of the ring it belongs to. What is covered lies to the right of
    each edge as one goes along it (y points down), so outer borders run clockwise on screen."""
    wide, high = size[0] * UNIT, size[1] * UNIT
    whole = [np.rint(np.asarray(ring, float) * UNIT).astype(np.int64) for ring in rings]
    frame = np.array([(0, 0), (wide, 0), (wide, high), (0, high)], np.int64)
    edges, owner = [], []
    for ring, who in zip((*whole, frame), (*owners, -1), strict=True):
        for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True):
            if (a != b).any():
                edges.append((*a.tolist(), *b.tolist()))
                owner.append(who)
    pieces = _split(edges, owner)
    if not pieces:
        return np.zeros((0, 5), np.int64)
    made = []
    ends = np.array([p[:4] for p in pieces], float)
    middle = (ends[:, :2] + ends[:, 2:]) / 2
    along = ends[:, 2:] - ends[:, :2]
    right = np.stack((-along[:, 1], along[:, 0]), axis=1) / np.hypot(along[:, 0], along[:, 1])[:, None]
    sides = [_covered(middle + right * share, whole, (wide, high)) for share in (ASIDE, -ASIDE)]
    for piece, is_right, is_left in zip(pieces, sides[0], sides[1], strict=True):
        if is_right and not is_left:
            made.append(piece)
        elif is_left and not is_right:
            made.append((piece[2], piece[3], piece[0], piece[1], piece[4]))
    return np.array(made, np.int64).reshape(-1, 5)


def _split(edges: list[tuple[int, int, int, int]], owner: list[int]) -> list[tuple[int, int, int, int, int]]:
    """The edges cut wherever another meets them, each piece once; a ring's own comes before the frame's."""
    if not edges:
        return []
    points = [[(e[0], e[1]), (e[2], e[3])] for e in edges]
    for i, (ax, ay, bx, by) in enumerate(edges):
        for j in range(i + 1, len(edges)):
            cx, cy, dx, dy = edges[j]
            if max(ax, bx) < min(cx, dx) or max(cx, dx) < min(ax, bx):
                continue
            if max(ay, by) < min(cy, dy) or max(cy, dy) < min(ay, by):
                continue
            rx, ry, sx, sy = bx - ax, by - ay, dx - cx, dy - cy
            turn = rx * sy - ry * sx
            if turn == 0:
                if (cx - ax) * ry - (cy - ay) * rx == 0:  # on one line
                    points[i] += [(cx, cy), (dx, dy)]
                    points[j] += [(ax, ay), (bx, by)]
                continue
            t = ((cx - ax) * sy - (cy - ay) * sx) / turn
            u = ((cx - ax) * ry - (cy - ay) * rx) / turn
            if 0 <= t <= 1 and 0 <= u <= 1:
                at = (round(ax + t * rx), round(ay + t * ry))
                points[i].append(at)
                points[j].append(at)
    found: dict[tuple[int, int, int, int], int] = {}
    for (ax, ay, bx, by), who, held in zip(edges, owner, points, strict=True):
        rx, ry = bx - ax, by - ay
        length = rx * rx + ry * ry
        placed = sorted({((x - ax) * rx + (y - ay) * ry, x, y) for x, y in held})
        inner = [(x, y) for t, x, y in placed if 0 <= t <= length]
        for (x0, y0), (x1, y1) in zip(inner, inner[1:], strict=False):
            if (x0, y0) != (x1, y1):
                key = (x0, y0, x1, y1) if (x0, y0) < (x1, y1) else (x1, y1, x0, y0)
                if found.get(key, -1) < 0:
                    found[key] = who
    return [(*key, who) for key, who in found.items()]


def _covered(points: np.ndarray, rings: Sequence[np.ndarray], size: tuple[int, int]) -> np.ndarray:
    """Which points lie in the rectangle and in any of the rings (even-odd)."""
    x, y = points[:, 0], points[:, 1]
    inside = np.zeros(len(points), bool)
    for ring in rings:
        xs, ys = ring[:, 0].astype(float), ring[:, 1].astype(float)
        next_x, next_y = np.roll(xs, -1), np.roll(ys, -1)
        crosses = (ys[None, :] <= y[:, None]) != (next_y[None, :] <= y[:, None])
        with np.errstate(divide="ignore", invalid="ignore"):
            at = xs + (y[:, None] - ys) / (next_y - ys) * (next_x - xs)
        inside |= ((at > x[:, None]) & crosses).sum(1) % 2 == 1
    return inside & (x > 0) & (x < size[0]) & (y > 0) & (y < size[1])
