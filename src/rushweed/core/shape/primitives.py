"""Common shapes in one move, and how shapes are mirrored, turned, snapped and measured."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.model import Box, Polygon, Role, Shape, Side

Points = tuple[tuple[float, float], ...]
Snap = Literal["px", "half", "quarter", "free"]

# Corners of each common shape as fractions of the cell, clockwise on screen.
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
}
OPPOSITE: dict[Side, Side] = {"top": "bottom", "bottom": "top", "left": "right", "right": "left"}
TURNED: dict[Side, Side] = {"top": "right", "right": "bottom", "bottom": "left", "left": "top"}


def common(name: str, size: tuple[int, int], role: Role = "solid", stops: Side = "top") -> Shape:
    """A common shape for a cell of `size` px; upright rectangles come as boxes."""
    w, h = size
    points = tuple((x * w, y * h) for x, y in COMMON[name])
    if len(points) == 4 and len({x for x, _ in points}) == 2 and len({y for _, y in points}) == 2:
        left, top = min(x for x, _ in points), min(y for _, y in points)
        right, bottom = max(x for x, _ in points), max(y for _, y in points)
        return Box(left, top, right - left, bottom - top, role, stops)
    return Polygon(points, role, stops)


def corners(shape: Shape) -> Points:
    """The ring of a shape, clockwise on screen, cell px."""
    if isinstance(shape, Box):
        x, y, w, h = shape.x, shape.y, shape.w, shape.h
        return (x, y), (x + w, y), (x + w, y + h), (x, y + h)
    return shape.points


def signed_area(points: Points) -> float:
    """Twice counted by the shoelace rule, halved; positive when clockwise on screen (y down)."""
    total = 0.0
    for (x0, y0), (x1, y1) in zip(points, (*points[1:], points[0]), strict=True):
        total += x0 * y1 - x1 * y0
    return total / 2


def area(shape: Shape) -> float:
    """In square px."""
    return abs(signed_area(corners(shape)))


def clockwise(points: Points) -> Points:
    return points if signed_area(points) >= 0 else tuple(reversed(points))


def bounds(shape: Shape) -> tuple[float, float, float, float]:
    """left, top, right, bottom in cell px."""
    ring = corners(shape)
    xs, ys = [x for x, _ in ring], [y for _, y in ring]
    return min(xs), min(ys), max(xs), max(ys)


def contains(shape: Shape, x: float, y: float) -> bool:
    """Whether a point lies inside, by the even-odd rule."""
    ring = corners(shape)
    inside = False
    for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0]), strict=True):
        if (y0 > y) != (y1 > y) and x < (x1 - x0) * (y - y0) / (y1 - y0) + x0:
            inside = not inside
    return inside


def mirrored(shape: Shape, width: float) -> Shape:
    """Left and right exchanged within a cell `width` px wide."""
    stops = OPPOSITE[shape.stops] if shape.stops in ("left", "right") else shape.stops
    return _mapped(shape, lambda x, y: (width - x, y), stops)


def flipped(shape: Shape, height: float) -> Shape:
    """Top and bottom exchanged within a cell `height` px high."""
    stops = OPPOSITE[shape.stops] if shape.stops in ("top", "bottom") else shape.stops
    return _mapped(shape, lambda x, y: (x, height - y), stops)


def turned(shape: Shape, size: tuple[float, float]) -> Shape:
    """A quarter turn clockwise about the middle of a cell of `size` px."""
    cx, cy = size[0] / 2, size[1] / 2
    return _mapped(shape, lambda x, y: (cx - (y - cy), cy + (x - cx)), TURNED[shape.stops])


def _mapped(shape: Shape, move: Callable[[float, float], tuple[float, float]], stops: Side) -> Shape:
    ring = clockwise(tuple(move(x, y) for x, y in corners(shape)))
    if isinstance(shape, Box):
        left, top = min(x for x, _ in ring), min(y for _, y in ring)
        right, bottom = max(x for x, _ in ring), max(y for _, y in ring)
        return replace(shape, x=left, y=top, w=right - left, h=bottom - top, stops=stops)
    return replace(shape, points=ring, stops=stops)


def snapped(value: float, snap: Snap, side: float) -> float:
    """A coordinate on the nearest allowed place; `side` is the cell's width or height in px."""
    if snap == "free":
        return round(value, 3)
    step = {"px": 1.0, "half": 0.5, "quarter": side / 4}[snap]
    return math.floor(value / step + 0.5) * step


def is_whole(shape: Shape) -> bool:
    """Whether every corner lies on whole px."""
    return all(float(v).is_integer() for point in corners(shape) for v in point)


def check(shape: Shape) -> Shape:
    """The shape made uniform: boxes with positive sides, rings clockwise. Raises EditError."""
    numbers = [v for point in corners(shape) for v in point]
    if not all(math.isfinite(v) and abs(v) <= 65_536 for v in numbers):
        raise EditError("A shape has a corner that is no place.", "Keep it in or near its cell.")
    if isinstance(shape, Box):
        if shape.w <= 0 or shape.h <= 0:
            raise EditError(f"A box of {shape.w:g} x {shape.h:g} px has no inside.", "Draw it larger.")
        return shape
    if len(shape.points) < 3 or signed_area(shape.points) == 0:
        raise EditError("A polygon needs at least three corners that are not in line.", "Add a corner.")
    ring = clockwise(shape.points)
    return shape if ring == shape.points else replace(shape, points=ring)
