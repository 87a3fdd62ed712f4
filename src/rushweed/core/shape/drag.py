"""What becomes of a shape when one of its grips is dragged."""

from __future__ import annotations

from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.shape import Box, Circle, Polygon, Shape
from rushweed.core.document.shapes import moved
from rushweed.core.shape.primitives import Snap, bounds, snapped

BODY = "body"
LEAST = 0.5  # px that a dragged box keeps a side


def grips(shape: Shape) -> dict[str, tuple[float, float]]:
    """Grips by name, cell px: corners and side middles of a box ("lt", "r"), sides of a circle, corners of a
    ring ("0")."""
    if isinstance(shape, Circle):
        x, y, r = shape.x, shape.y, shape.radius
        return {"r": (x + r, y), "l": (x - r, y), "t": (x, y - r), "b": (x, y + r)}
    if not isinstance(shape, Box):
        return {str(i): point for i, point in enumerate(shape.points)}
    left, top, right, bottom = bounds(shape)
    mx, my = (left + right) / 2, (top + bottom) / 2
    return {
        "lt": (left, top), "rt": (right, top), "rb": (right, bottom), "lb": (left, bottom),
        "t": (mx, top), "r": (right, my), "b": (mx, bottom), "l": (left, my),
    }  # fmt: skip


def dragged(
    shape: Shape,
    grip: str,
    path: tuple[tuple[float, float], tuple[float, float]],
    size: tuple[int, int],
    snap: Snap,
    about_centre: bool = False,
) -> Shape:
    """The shape after dragging a grip (or "body") from where to where, cell px, onto the places of the snap.

    `size` is the cell's, px; `about_centre` moves the far side of a box by as much.
    """
    (start, to), (left, top, right, bottom) = path, bounds(shape)
    if grip == BODY:
        dx = snapped(left + to[0] - start[0], snap, size[0]) - left
        dy = snapped(top + to[1] - start[1], snap, size[1]) - top
        return moved(shape, dx, dy)
    x, y = snapped(to[0], snap, size[0]), snapped(to[1], snap, size[1])
    if isinstance(shape, Circle):
        away = abs(x - shape.x) if grip in "lr" else abs(y - shape.y)
        return replace(shape, radius=max(away, LEAST))
    if not isinstance(shape, Box):
        points = list(shape.points)
        points[int(grip)] = (x, y)
        return replace(shape, points=tuple(points))
    across = _side(left, right, x, "l" in grip, "r" in grip, about_centre)
    down = _side(top, bottom, y, "t" in grip, "b" in grip, about_centre)
    return replace(shape, x=across[0], y=down[0], w=across[1], h=down[1])


def _side(
    low: float, high: float, to: float, moves_low: bool, moves_high: bool, about_centre: bool
) -> tuple[float, float]:
    """Start and length of one side; a side dragged past the other turns over."""
    a, b = (to if moves_low else low), (to if moves_high else high)
    if about_centre:
        if moves_low:
            b = low + high - a
        elif moves_high:
            a = low + high - b
    return min(a, b), max(abs(b - a), LEAST)


def with_vertex(shape: Polygon, edge: int, at: tuple[float, float]) -> Polygon:
    """A vertex more, on the edge that follows vertex `edge`."""
    points = (*shape.points[: edge + 1], at, *shape.points[edge + 1 :])
    return replace(shape, points=points)


def without_vertex(shape: Polygon, index: int) -> Polygon:
    """A vertex less; three stay. Raises EditError."""
    if len(shape.points) <= 3:
        raise EditError("A polygon keeps at least three vertices.", "Take the whole shape away instead.")
    return replace(shape, points=(*shape.points[:index], *shape.points[index + 1 :]))
