"""Which cells a stroke, a line, a rectangle and a fill touch. All return (xs, ys) integer arrays."""

from __future__ import annotations

import numpy as np

Spots = tuple[np.ndarray, np.ndarray]


def line(x0: int, y0: int, x1: int, y1: int) -> Spots:
    """The cells from one to another, both included, each once (Bresenham 1965, by rounding)."""
    steps = max(abs(x1 - x0), abs(y1 - y0))
    if steps == 0:
        return np.array([x0]), np.array([y0])
    t = np.arange(steps + 1)
    xs = x0 + np.floor(t * (x1 - x0) / steps + 0.5).astype(np.int64)
    ys = y0 + np.floor(t * (y1 - y0) / steps + 0.5).astype(np.int64)
    return xs, ys


def rectangle(x0: int, y0: int, x1: int, y1: int, outline: bool = False) -> Spots:
    """The cells between two corners, both included, or only their outline."""
    left, right, top, bottom = min(x0, x1), max(x0, x1), min(y0, y1), max(y0, y1)
    ys, xs = np.mgrid[top : bottom + 1, left : right + 1]
    if outline:
        rim = (xs == left) | (xs == right) | (ys == top) | (ys == bottom)
        return xs[rim], ys[rim]
    return xs.ravel(), ys.ravel()


def flood(cells: np.ndarray, x: int, y: int) -> np.ndarray:
    """The cells joined to (x, y) by edges and holding the same value: bool like `cells`."""
    alike = cells == cells[y, x]
    if alike.all():
        return np.asarray(alike)
    from scipy import ndimage  # late: it takes a third of a second to import

    labels, _count = ndimage.label(alike)
    return np.asarray(labels == labels[y, x])


def same(cells: np.ndarray, x: int, y: int) -> np.ndarray:
    """All cells that hold what (x, y) holds: bool like `cells`."""
    return np.asarray(cells == cells[y, x])
