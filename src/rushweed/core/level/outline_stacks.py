"""What the tiles that stand at one cell give of an outline."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.shape import Shape
from rushweed.core.level.outline_edges import NO_EDGES, Material
from rushweed.core.shape.primitives import Points, clockwise, corners
from rushweed.core.shape.twins import oriented_shape
from rushweed.core.shape.union import UNIT

Placed = tuple[Points, "Material"]  # a shape as it lies in its cell


class Stack(NamedTuple):
    """What one stack of tiles gives: edges within the cell, and those on its four sides."""

    inner: np.ndarray
    left: np.ndarray
    right: np.ndarray
    top: np.ndarray
    bottom: np.ndarray


EMPTY = Stack(*(NO_EDGES,) * 5)


class ShapedCells:
    """The tiles of a level that have shapes of a kind, by what they look like there: tiles of the same
    shapes, placed and made alike, are of one class (from 1), and into which cells around each reaches."""

    def __init__(
        self,
        level: Level,
        shapes: dict[str, tuple[Shape, ...]],
        class_of: Callable[[tuple[Placed, ...]], int],
    ) -> None:
        most = (len(level.table) + 1) * 8
        self._reaching: dict[tuple[int, int], np.ndarray] = {}
        self.whole: set[int] = set()  # classes that fill their cell
        for n, cell in enumerate(level.table):
            for turn in range(8) if cell in shapes else ():
                if turn & 1 and level.cell[0] != level.cell[1]:
                    continue
                placed = tuple(_placed(shape, turn, level.cell) for shape in shapes[cell])
                number = class_of(placed)
                if any(is_whole(ring, level.cell) for ring, _material in placed):
                    self.whole.add(number)
                for spot in _reached(placed, level.cell):
                    known = self._reaching.setdefault(spot, np.zeros(most, np.int64))
                    known[(n + 1) * 8 + turn] = number
        self.reach = sorted(self._reaching, key=lambda spot: (spot != (0, 0), spot))

    def at(self, spot: tuple[int, int], held: np.ndarray) -> np.ndarray:
        """The classes of the tiles that reach the cells from so far away; 0 for all others."""
        known = self._reaching[spot]
        return known[np.where(held < known.size, held, 0)]


def _placed(shape: Shape, turn: int, size: tuple[int, int]) -> Placed:
    ring = clockwise(corners(oriented_shape(shape, turn, size) if turn else shape))
    return tuple(ring), Material(shape.friction, shape.bounce)


def _reached(placed: tuple[Placed, ...], size: tuple[int, int]) -> set[tuple[int, int]]:
    """The cells, from its own, that the shapes of a tile lie in: (-1, 0) is the one to the right of one that
    reaches a tile to its left."""
    w, h = size
    found = set()
    for ring, _material in placed:
        xs, ys = zip(*ring, strict=True)
        for column in range(math.floor(min(xs) / w), math.ceil(max(xs) / w)):
            for row in range(math.floor(min(ys) / h), math.ceil(max(ys) / h)):
                found.add((-column, -row))
    return found


def is_whole(ring: Points, size: tuple[int, int]) -> bool:
    """Whether a ring is the rectangle of its cell."""
    return len(ring) == 4 and set(ring) == {(0, 0), (size[0], 0), (size[0], size[1]), (0, size[1])}


def sides(edges: np.ndarray, size: tuple[int, int]) -> Stack:
    """The edges of a cell, those on its borders by side."""
    if not len(edges):
        return EMPTY
    w, h = size[0] * UNIT, size[1] * UNIT
    x0, y0, x1, y1 = edges[:, :4].T
    left, right = (x0 == 0) & (x1 == 0), (x0 == w) & (x1 == w)
    top, bottom = (y0 == 0) & (y1 == 0), (y0 == h) & (y1 == h)
    inner = ~(left | right | top | bottom)
    return Stack(edges[inner], edges[left], edges[right], edges[top], edges[bottom])
