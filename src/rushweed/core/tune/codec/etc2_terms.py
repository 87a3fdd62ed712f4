"""Where everything about a block stands while ETC2 is searched, and how far the search goes.

`work` is an array of rows of 16 float32 with the names below: one value a px as the format counts them (down
the columns), unless said otherwise.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import types

BLOCKS = types.Array(types.uint8, 3, "C", readonly=True)  # (n, 16, 4)
CODED = types.uint8[:, ::1]
TABLE = types.Array(types.float32, 2, "C", readonly=True)

PX = 0  # four rows: red, green, blue, alpha
SEEN = 4  # how much the colour of a px counts
SIDE = 5  # three rows: the colours of the half at hand, in the first 8
SIDE_SEEN = 8
TRIED = 9  # what is nearest in the palette at hand
BEST = 10  # the same in the best so far
FAR = 11
PALETTE = 12  # three rows, a value a shade
GROUP = 15  # three rows: colours by number, of the two groups and where they begin
SUM = 18  # the sum of the channels away from a base, and of their squares
SQUARE = 19
WANTED = 20  # a base colour
HALF_BEST = 21  # four rows, of half and width: base at 0, table at 3, error at 4, places from 8
ACROSS = 25  # how far each px is right of the origin, in four px, and below it
DOWN = 26
ROWS = 27

THREE, FOUR = np.float32(3), np.float32(4)
HALF_TRIES = 4
GROUP_ROUNDS = 3
WORTH = np.float32(40)  # an error below which two colours with shades are not tried
PLAIN_TABLE = 13  # with a step of nothing at place 4, which is all that plain alpha needs
SHIFTS = (0, -1, 1)


class Tables(NamedTuple):
    """What the format lays down, float32."""

    shades: np.ndarray  # (8, 4)
    distances: np.ndarray  # (1, 8)
    alpha: np.ndarray  # (16, 8), its steps
    plane: np.ndarray  # (3, 16), gives the corners of a plane from its px


TABLES = types.NamedUniTuple(types.float32[:, ::1], 4, Tables)
