"""Common shapes in one move, and how shapes are mirrored, turned, snapped and measured."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.shape import Box, Circle, Polygon, Role, Shape, Side

Points = tuple[tuple[float, float], ...]
Snap = Literal["px", "half", "quarter", "free"]

# Corners of each common shape as fractions of the cell, clockwise on screen.
ROUND = tuple((math.cos(n * math.pi / 16), math.sin(n * math.pi / 16)) for n in range(32))
COMMON: dict[str, Points] = {
    "full": ((0, 0), (1, 0), (1, 1), (0, 1)),
    "top half": ((0, 0), (1, 0), (1, 0.5), (0, 0.5)),
    "bottom half": ((0, 0.5), (1, 0.5), (1, 1), (0, 1)),
    "left half": ((0, 0), (0.5, 0), (0.5, 1), (0, 1)),
    "right half": ((0.5, 0), (1, 0), (1, 1), (0.5, 1)),
    "top left quarter": ((0, 0), (0.5, 0), (0.5, 0.5), (0, 0.5)),
    "top right quarter": ((0.5, 0), (1, 0), (1, 0.5), (0.5, 0.5)),
    "bottom left quarter": ((0, 0.5), (0.5, 0.5), (0.5, 1), (0, 1)),
    "bottom right quarter": ((0.5, 0.5), (1, 0.5), (1, 1), (0.5, 1)),
    "slope up": ((0, 1), (1, 0), (1, 1)),
    "slope down": ((0, 0), (1, 1), (0, 1)),
    "slope up, hanging": ((0, 0), (1, 0), (0, 1)),
    "slope down, hanging": ((0, 0), (1, 0), (1, 1)),
    "gentle slope up, lower": ((0, 1), (1, 0.5), (1, 1)),
    "gentle slope up, upper": ((0, 0.5), (1, 0), (1, 1), (0, 1)),
    "gentle slope down, upper": ((0, 0), (1, 0.5), (1, 1), (0, 1)),
    "gentle slope down, lower": ((0, 0.5), (1, 1), (0, 1)),
    "gentle slope down, hanging, upper": ((0, 0), (1, 0), (1, 0.5)),
    "gentle slope down, hanging, lower": ((0, 0), (1, 0), (1, 1), (0, 0.5)),
    "gentle slope up, hanging, lower": ((0, 0), (1, 0), (1, 0.5), (0, 1)),
    "gentle slope up, hanging, upper": ((0, 0), (1, 0), (0, 0.5)),
    "top left corner cut": ((0.5, 0), (1, 0), (1, 1), (0, 1), (0, 0.5)),
    "top right corner cut": ((0, 0), (0.5, 0), (1, 0.5), (1, 1), (0, 1)),
    "bottom right corner cut": ((0, 0), (1, 0), (1, 0.5), (0.5, 1), (0, 1)),
    "bottom left corner cut": ((0, 0), (1, 0), (1, 1), (0.5, 1), (0, 0.5)),
}
OPPOSITE: dict[Side, Side] = {"top": "bottom", "bottom": "top", "left": "right", "right": "left"}
TURNED: dict[Side, Side] = {"top": "right", "right": "bottom", "bottom": "left", "left": "top"}


def common(name: str, size: tuple[int, int], role: Role = "solid", blocks_from: Side = "top") -> Shape:
    """A common shape for a cell of `size` px; upright rectangles come as boxes."""
    w, h = size
    points = tuple((x * w, y * h) for x, y in COMMON[name])
    if len(points) == 4 and len({x for x, _ in points}) == 2 and len({y for _, y in points}) == 2:
        left, top = min(x for x, _ in points), min(y for _, y in points)
        right, bottom = max(x for x, _ in points), max(y for _, y in points)
        return Box(left, top, right - left, bottom - top, role, blocks_from)
    return Polygon(points, role, blocks_from)


def corners(shape: Shape) -> Points:
    """The ring of a shape, clockwise on screen, cell px; a circle as a ring of 32 points on it."""
    if isinstance(shape, Box):
        x, y, w, h = shape.x, shape.y, shape.w, shape.h
        return (x, y), (x + w, y), (x + w, y + h), (x, y + h)
    if isinstance(shape, Circle):
        return tuple((shape.x + shape.radius * dx, shape.y + shape.radius * dy) for dx, dy in ROUND)
    return shape.points


def signed_area(points: Points) -> float:
    """Twice counted by the shoelace rule, halved; positive when clockwise on screen (y down)."""
    total = 0.0
    for (x0, y0), (x1, y1) in zip(points, (*points[1:], points[0]), strict=True):
        total += x0 * y1 - x1 * y0
    return total / 2


def area(shape: Shape) -> float:
    """In square px."""
    if isinstance(shape, Circle):
        return math.pi * shape.radius**2
    return abs(signed_area(corners(shape)))


def crossings(points: Points) -> Points:
    """Where edges of a ring cross or touch one another, cell px; a ring without any is simple."""
    count = len(points)
    found: list[tuple[float, float]] = []
    for i in range(count):
        a, b = points[i], points[(i + 1) % count]
        for j in range(i + 1, count):
            if j == i + 1 or (j + 1) % count == i:
                continue  # neighbours share a corner
            c, d = points[j], points[(j + 1) % count]
            at = _meet(a, b, c, d)
            if at is not None:
                found.append(at)
    return tuple(found)


def _meet(
    a: tuple[float, float], b: tuple[float, float], c: tuple[float, float], d: tuple[float, float]
) -> tuple[float, float] | None:
    """Where two stretches meet, if they do in one point."""
    rx, ry, sx, sy = b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]
    turn = rx * sy - ry * sx
    if turn == 0:
        return None
    t = ((c[0] - a[0]) * sy - (c[1] - a[1]) * sx) / turn
    u = ((c[0] - a[0]) * ry - (c[1] - a[1]) * rx) / turn
    return (a[0] + t * rx, a[1] + t * ry) if 0 <= t <= 1 and 0 <= u <= 1 else None


def crossed(rings: Sequence[Points]) -> NDArray[np.bool_]:
    """Of each ring whether `crossings` would find any; rings of one length are looked at together."""
    found = np.zeros(len(rings), bool)
    lengths = np.array([len(ring) for ring in rings], np.intp)
    for count in np.unique(lengths[lengths > 3]).tolist():
        of = np.flatnonzero(lengths == count)
        xy = np.array([rings[n] for n in of.tolist()], float).transpose(2, 0, 1)
        r = np.roll(xy, -1, axis=2) - xy
        for apart in range(2, count // 2 + 1):  # each edge beside the one that comes so many later
            s, d = np.roll(r, -apart, axis=2), np.roll(xy, -apart, axis=2) - xy
            turn = r[0] * s[1] - r[1] * s[0]
            with np.errstate(divide="ignore", invalid="ignore"):
                t, u = (d[0] * s[1] - d[1] * s[0]) / turn, (d[0] * r[1] - d[1] * r[0]) / turn
            found[of] |= ((turn != 0) & (t >= 0) & (t <= 1) & (u >= 0) & (u <= 1)).any(axis=1)
    return found


def clockwise(points: Points) -> Points:
    """The points in the order in which they go clockwise on screen."""
    return points if signed_area(points) >= 0 else tuple(reversed(points))


def bounds(shape: Shape) -> tuple[float, float, float, float]:
    """left, top, right, bottom in cell px."""
    if isinstance(shape, Circle):
        x, y, r = shape.x, shape.y, shape.radius
        return x - r, y - r, x + r, y + r
    ring = corners(shape)
    xs, ys = [x for x, _ in ring], [y for _, y in ring]
    return min(xs), min(ys), max(xs), max(ys)


def contains(shape: Shape, x: float, y: float) -> bool:
    """Whether a point lies inside, by the even-odd rule."""
    if isinstance(shape, Circle):
        return math.hypot(x - shape.x, y - shape.y) <= shape.radius
    ring = corners(shape)
    inside = False
    for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0]), strict=True):
        if (y0 > y) != (y1 > y) and x < (x1 - x0) * (y - y0) / (y1 - y0) + x0:
            inside = not inside
    return inside


def mirrored(shape: Shape, width: float) -> Shape:
    """Left and right exchanged within a cell `width` px wide."""
    blocks_from = OPPOSITE[shape.blocks_from] if shape.blocks_from in ("left", "right") else shape.blocks_from
    return _mapped(shape, lambda x, y: (width - x, y), blocks_from)


def flipped(shape: Shape, height: float) -> Shape:
    """Top and bottom exchanged within a cell `height` px high."""
    blocks_from = OPPOSITE[shape.blocks_from] if shape.blocks_from in ("top", "bottom") else shape.blocks_from
    return _mapped(shape, lambda x, y: (x, height - y), blocks_from)


def turned(shape: Shape, size: tuple[float, float]) -> Shape:
    """A quarter turn clockwise about the middle of a cell of `size` px."""
    cx, cy = size[0] / 2, size[1] / 2
    return _mapped(shape, lambda x, y: (cx - (y - cy), cy + (x - cx)), TURNED[shape.blocks_from])


def _mapped(shape: Shape, move: Callable[[float, float], tuple[float, float]], blocks_from: Side) -> Shape:
    if isinstance(shape, Circle):
        x, y = move(shape.x, shape.y)
        return replace(shape, x=x, y=y, blocks_from=blocks_from)
    ring = clockwise(tuple(move(x, y) for x, y in corners(shape)))
    if isinstance(shape, Box):
        left, top = min(x for x, _ in ring), min(y for _, y in ring)
        right, bottom = max(x for x, _ in ring), max(y for _, y in ring)
        return replace(shape, x=left, y=top, w=right - left, h=bottom - top, blocks_from=blocks_from)
    return replace(shape, points=ring, blocks_from=blocks_from)


def snapped(value: float, snap: Snap, side: float) -> float:
    """A coordinate on the nearest allowed place; `side` is the cell's width or height in px."""
    if snap == "free":
        return round(value, 3)
    step = {"px": 1.0, "half": 0.5, "quarter": side / 4}[snap]
    return math.floor(value / step + 0.5) * step


def is_whole(shape: Shape) -> bool:
    """Whether every corner lies on whole px; of a circle its sides."""
    if isinstance(shape, Circle):
        return all(float(v).is_integer() for v in bounds(shape))
    return all(float(v).is_integer() for point in corners(shape) for v in point)


def _in_line(points: Points) -> bool:
    """Whether all points lie on one line; a ring that crosses itself can have no area and still not do so."""
    (x0, y0), far = points[0], max(points, key=lambda p: abs(p[0] - points[0][0]) + abs(p[1] - points[0][1]))
    return all((far[0] - x0) * (y - y0) == (far[1] - y0) * (x - x0) for x, y in points)


def check(shape: Shape) -> Shape:
    """The shape made uniform: boxes with positive sides, rings clockwise. Raises EditError."""
    numbers = [v for point in corners(shape) for v in point]
    if not all(math.isfinite(v) and abs(v) <= 65_536 for v in numbers):
        raise EditError("A shape has a corner that is no place.", "Keep it in or near its cell.")
    if isinstance(shape, Box):
        if shape.w <= 0 or shape.h <= 0:
            raise EditError(f"A box of {shape.w:g} x {shape.h:g} px has no inside.", "Draw it larger.")
        return shape
    if isinstance(shape, Circle):
        if shape.radius <= 0:
            raise EditError("A circle without a radius has no inside.", "Draw it larger.")
        return shape
    if len(shape.points) < 3 or _in_line(shape.points):
        raise EditError("A polygon needs at least three corners that are not in line.", "Add a corner.")
    ring = clockwise(shape.points)
    return shape if ring == shape.points else replace(shape, points=ring)
