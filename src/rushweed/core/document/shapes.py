"""What every stage does to shapes."""

from __future__ import annotations

from msgspec.structs import replace

from rushweed.core.document.model.shape import Polygon, Shape


def moved(shape: Shape, dx: float, dy: float) -> Shape:
    """A shape moved by px."""
    if isinstance(shape, Polygon):
        return replace(shape, points=tuple((x + dx, y + dy) for x, y in shape.points))
    return replace(shape, x=shape.x + dx, y=shape.y + dy)
