"""Indexed colour: up to 256 colours exactly; more are brought down to 256 by splitting boxes of colours.

Source of the splitting: P. Heckbert, "Color Image Quantization for Frame Buffer Display", 1982 (median cut);
boxes are chosen by the squared error they hold and split where it falls most, and the colours then settle by
means of what is nearest to them.
"""

from __future__ import annotations

import numpy as np

MOST = 256
SETTLE = 3


def colours_of(rgba: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The different colours, uint8 (k, 4), which of them each px has (height * width,), and how often each
    comes. Clear px are one colour."""
    flat = rgba.reshape(-1, 4).copy()
    flat[flat[:, 3] == 0] = 0
    words = np.ascontiguousarray(flat).view("<u4").ravel()
    kinds, which, counts = np.unique(words, return_inverse=True, return_counts=True)
    return kinds.astype("<u4").view(np.uint8).reshape(-1, 4), which.ravel(), counts


def palette_of(rgba: np.ndarray, most: int = MOST) -> tuple[np.ndarray, np.ndarray]:
    """A palette, uint8 (at most 256, 4), and the index of each px, uint8 (height, width). Exact where there
    are no more colours than `most`."""
    kinds, which, counts = colours_of(rgba)
    shape = rgba.shape[:2]
    if len(kinds) <= most:
        return kinds, which.astype(np.uint8).reshape(shape)
    seen = kinds.astype(np.float32)
    seen[:, :3] *= seen[:, 3:] / 255
    middle = _settled(seen, counts, _split(seen, counts, most))
    nearest = _nearest(seen, middle)
    # Each colour of the palette is the mean of those that take it, with straight alpha.
    palette = np.zeros((len(middle), 4), np.uint8)
    alpha = np.maximum(middle[:, 3:], 1)
    palette[:, :3] = np.clip(np.rint(middle[:, :3] * 255 / alpha), 0, 255)
    palette[:, 3] = np.clip(np.rint(middle[:, 3]), 0, 255)
    return palette, nearest[which].astype(np.uint8).reshape(shape)


def _split(colours: np.ndarray, counts: np.ndarray, most: int) -> np.ndarray:
    """Which box each colour falls into, after splitting the box of the greatest error until there are
    `most`."""
    box = np.zeros(len(colours), np.intp)
    errors = {0: _error(colours, counts)}
    while len(errors) < most:
        worst = max(errors, key=lambda b: errors[b])
        if errors[worst] <= 0:
            break
        rows = np.flatnonzero(box == worst)
        mine, heavy = colours[rows], counts[rows].astype(np.float64)
        mean = np.average(mine, axis=0, weights=heavy)
        axis = int(np.argmax(((mine - mean) ** 2 * heavy[:, None]).sum(axis=0)))
        upper = mine[:, axis] > mean[axis]
        new = len(errors)
        box[rows[upper]] = new
        errors[worst] = _error(mine[~upper], counts[rows[~upper]])
        errors[new] = _error(mine[upper], counts[rows[upper]])
    return box


def _error(colours: np.ndarray, counts: np.ndarray) -> float:
    if not len(colours):
        return 0.0
    mean = np.average(colours, axis=0, weights=counts)
    return float((((colours - mean) ** 2).sum(axis=1) * counts).sum())


def _settled(colours: np.ndarray, counts: np.ndarray, box: np.ndarray) -> np.ndarray:
    for _ in range(SETTLE):
        number = int(box.max()) + 1
        heavy = np.bincount(box, counts, number)
        sums = np.stack([np.bincount(box, counts * colours[:, c], number) for c in range(4)], axis=1)
        middle = (sums / np.maximum(heavy, 1)[:, None])[heavy > 0].astype(np.float32)
        box = _nearest(colours, middle)
    return middle


def _nearest(colours: np.ndarray, middle: np.ndarray) -> np.ndarray:
    from scipy.spatial import cKDTree

    return np.asarray(cKDTree(middle).query(colours)[1])
