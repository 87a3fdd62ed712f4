"""Limits of the search of BC1 and BC3, and the types of its arrays."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import types

BLOCKS = types.Array(types.uint8, 3, "C", readonly=True)  # (n, 16, 4)
CODED = types.uint8[:, ::1]

ROUNDS = 3
LEAST = np.float32(1e-3)
SOLID = 128  # alpha from which a px of BC1 is drawn
MOST_FEW = 4  # so many colours are tried in every arrangement
ALPHA_PLACES = 8

# Rows of `few` (float32, 16 wide), a value a colour: its channels, its weight. Then the ends that are tried,
# and those that are best, like WANTED; the place of each colour in the best arrangement.
COLOUR, HEAVY, FEW_TRIED, FEW_BEST, FEW_PLACE, FEW_ROWS = 0, 3, 4, 5, 6, 7
# Steps of both ends that are tried.
NEAR = np.array([
    (0, 0), (1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, -1), (1, -1), (-1, 1),
    (2, 0), (-2, 0), (0, 2), (0, -2),
])  # fmt: skip


class Tables(NamedTuple):
    """What is worked out once for all, int64."""

    ways: np.ndarray  # (6, 12, 4), the arrangements of 2, 3, 4 colours at 4 and at 3 places, ended by -1
    singles: (
        np.ndarray
    )  # (2, 3, 256, 2), ends whose second place comes nearest to a value, by places, channel


TABLES = types.NamedTuple((types.int64[:, :, ::1], types.int64[:, :, :, ::1]), Tables)
WAY = types.int64[::1]  # one arrangement
