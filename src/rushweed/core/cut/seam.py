"""Does a tile repeat without a seam? Its opposite edges compared, and a picture of it three times over."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np


class Seam(NamedTuple):
    """The colour step across one pair of edges, 0..255, and the largest usual step inside the tile.

    `joined` is whether both edges hold ink anywhere side by side; without it there is nothing to seam.
    """

    edge: float
    inside: float
    joined: bool

    @property
    def seamless(self) -> bool:
        """No step at the edge that the tile does not have inside as well."""
        return self.joined and self.edge <= max(self.inside, 4.0)


def seam(cell: np.ndarray, axis: int) -> Seam:
    """How well a tile, uint8 (height, width, 4), meets itself across (axis 0) or down (axis 1)."""
    pixels = cell if axis == 0 else cell.transpose(1, 0, 2)
    full = pixels.astype(np.float32)
    full[..., :3] *= full[..., 3:] / 255
    ink = pixels[..., 3] > 0
    joined = bool((ink[:, 0] & ink[:, -1]).any())
    edge = float(_furthest(full[:, 0] - full[:, -1]).mean())
    steps = _furthest(np.diff(full, axis=1)).mean(axis=0)
    steps = steps[1:-1] if steps.size > 4 else steps  # the outermost may belong to a neighbour
    return Seam(edge, float(steps.max()) if steps.size else 0.0, joined)


def _furthest(away: np.ndarray) -> np.ndarray:
    """The largest of the four channels' differences, float (..., 4)."""
    away = np.abs(away)
    made: np.ndarray = np.maximum(
        np.maximum(away[..., 0], away[..., 1]), np.maximum(away[..., 2], away[..., 3])
    )
    return made


def repeated(cell: np.ndarray, times: int = 3) -> np.ndarray:
    """The tile side by side and below itself."""
    return np.tile(cell, (times, times, 1))


def seamless_within(cell: np.ndarray, most: int = 3) -> int | None:
    """By how many px the edges of a tile, uint8 (height, width, 4), have to be pulled in so that it repeats
    without a seam both ways: 0 if it does already, None if not within `most` px."""
    height, width = cell.shape[:2]
    for by in range(min(most, (min(width, height) - 1) // 2) + 1):
        inner = cell[by : height - by, by : width - by]
        if all(seam(inner, axis).seamless for axis in (0, 1)):
            return by
    return None
