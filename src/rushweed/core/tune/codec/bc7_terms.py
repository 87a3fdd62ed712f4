"""Columns, rows and limits of the search of BC7."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import types

BLOCKS = types.Array(types.uint8, 3, "C", readonly=True)  # (n, 16, 4)
CODED = types.uint8[:, ::1]  # (n, 16)
SHARES = types.Array(types.float32, 2, "C", readonly=True)
STORED = types.UniTuple(types.int64, 4)

# The parity of a mode: none; a lowest bit of each end; one of both ends of a subset.
NO_PARITY, OF_END, OF_SUBSET = 0, 1, 2
# Columns of the table of modes.
SUBSETS, PARTITION, ROTATION, CHOICE, COLOUR, ALPHA, PARITY, PLACES, SECOND = range(9)
ROUNDS = 2
LEAST = np.float32(1e-3)  # what is gained by less is not worth another coding
EXACT = np.float32(0.5)
FEW = np.float32(8)  # times what a line leaves is less than the error where steps, not lines, are to blame
WORTH = np.float32(160)  # an error below which the modes that seldom help are not tried

# Rows of `kept`, the best coding of a block so far (int64, 16 wide): mode, partition, rotation, choice at 0
# to 3; a row of ends for each subset (channels of the first end, of the last from 4, parities at 8 and 9),
# one of those of alpha on its own, the places, and alpha's; what is being tried; whose px are meant.
HEAD, ENDS, ALPHA_ENDS, COLOUR_PLACE, ALPHA_PLACE = 0, 1, 4, 5, 6
TRIED_ENDS, TRIED_ALPHA, TRIED_PLACE, BELONGS, KEPT = 7, 10, 11, 12, 13

# Rows of `rank`, one value a partition of 64: the sums over its px of the weight, of each channel, and of the
# products of two channels; the same of all px; their spread in all channels; the direction; it once turned;
# what lines leave. Then, one value a px: what is summed.
COUNT, SUM, PRODUCT, REST, WHOLE, ROOM, TURNED, LEFT, FEATURES = 0, 1, 5, 15, 30, 31, 35, 39, 40
ALONG, RANKS = 55, 56
RANK = types.float32[:, ::1]
MASKS = types.Array(types.float32, 3, "C", readonly=True)  # (subset, px, partition)
MIDDLE = np.float32(128)
PARTITIONS = 64
TURNS = 3
BETWEEN = np.float32(1 / 49)  # of a spread, what eight even steps leave of it

READ_TABLE = types.Array(types.int64, 2, "C", readonly=True)
PARTS = types.Array(types.int64, 3, "C", readonly=True)  # (subsets - 1, partition, px)


class Room(NamedTuple):
    """Room to work in."""

    work: np.ndarray  # float32 (line_kernels.ROWS, 16)
    rank: np.ndarray  # float32 (RANKS, 64)
    kept: np.ndarray  # int64 (KEPT, 16)
    words: np.ndarray  # int64 (4,), a coded block


class Tables(NamedTuple):
    """What the format lays down."""

    modes: np.ndarray  # int64 (8, 9), a row as the columns above
    shares: np.ndarray  # float32 (5, 16), 64ths by bits and place
    parts: np.ndarray  # int64 (3, 64, 16), the subset of each px by subsets - 1 and partition
    anchors: np.ndarray  # int64 (3, 64, 3)
    two: np.ndarray  # float32 (2, 16, 64), 1 where a px belongs to a subset
    three: np.ndarray  # float32 (3, 16, 64)


ROOM_TYPE = types.NamedTuple((types.float32[:, ::1], RANK, types.int64[:, ::1], types.int64[::1]), Room)
TABLES = types.NamedTuple(
    (types.int64[:, ::1], types.float32[:, ::1], types.int64[:, :, ::1], types.int64[:, :, ::1],
     types.float32[:, :, ::1], types.float32[:, :, ::1]), Tables,
)  # fmt: skip
