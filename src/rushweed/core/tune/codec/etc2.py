"""ETC2 with alpha: a block of colour in one of five modes, and eight bytes of alpha.

Layout of the bits and tables: the Khronos Data Format Specification 1.3, chapters 21 and 22. A block's px run
down the columns. Coding tries two halves with a base colour each (apart or as a difference), two colours with
shades of one or of both (T and H), and a plane through three corners.
"""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

import numpy as np

from rushweed.core.tune.codec.blocks import grown

if TYPE_CHECKING:
    from rushweed.core.tune.codec.etc2_terms import Tables

# The two sizes of step of each table; the four shades are base + small, + large, - small, - large.
SHADES = np.array([(2, 8), (5, 17), (9, 29), (13, 42), (18, 60), (24, 80), (33, 106), (47, 183)])
STEPS = np.concatenate((SHADES, -SHADES), axis=1)  # (8, 4) by index
DISTANCES = np.array([3, 6, 11, 16, 23, 32, 41, 64])
ALPHA = np.array([
    (-3, -6, -9, -15, 2, 5, 8, 14), (-3, -7, -10, -13, 2, 6, 9, 12), (-2, -5, -8, -13, 1, 4, 7, 12),
    (-2, -4, -6, -13, 1, 3, 5, 12), (-3, -6, -8, -12, 2, 5, 7, 11), (-3, -7, -9, -11, 2, 6, 8, 10),
    (-4, -7, -8, -11, 3, 6, 7, 10), (-3, -5, -8, -11, 2, 4, 7, 10), (-2, -6, -8, -10, 1, 5, 7, 9),
    (-2, -5, -8, -10, 1, 4, 7, 9), (-2, -4, -8, -10, 1, 3, 7, 9), (-2, -5, -7, -10, 1, 4, 6, 9),
    (-3, -4, -7, -10, 2, 3, 6, 9), (-1, -2, -3, -10, 0, 1, 2, 9), (-4, -6, -8, -9, 3, 5, 7, 8),
    (-3, -5, -7, -9, 2, 4, 6, 8),
])  # fmt: skip
DOWN = np.arange(16).reshape(4, 4).T.ravel()  # px by row for each px as the format counts them
X, Y = np.divmod(np.arange(16), 4)  # of each px as the format counts them
SECOND = np.stack((X >= 2, Y >= 2))  # px of the second half, side by side and one above the other


def code_etc2(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 16)."""
    from rushweed.core.tune.codec import etc2_kernels, etc2_terms  # late: a compiler comes with it

    out = np.empty((len(blocks), 16), np.uint8)
    work, kept = np.zeros((etc2_terms.ROWS, 16), np.float32), np.zeros(4, np.int64)
    corners = np.zeros((3, 3), np.int64)
    etc2_kernels.code_etc2(np.ascontiguousarray(blocks), out, work, kept, corners, _tables())
    return out


@cache
def _tables() -> Tables:
    from rushweed.core.tune.codec import etc2_terms

    # The least squares of a plane through 4 x 4 px, solved once for all.
    corners = np.stack((23 - 6 * X - 6 * Y, 10 * X - 6 * Y - 1, 10 * Y - 6 * X - 1)) / 80
    tables = STEPS, DISTANCES[None], ALPHA, corners
    return etc2_terms.Tables(*(np.array(table, np.float32, order="C") for table in tables))


def plane_between(o: np.ndarray, h: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Colours (n, 16, 3) from the corners of 8 bits (n, 3): the origin, four px right of it, four px
    below."""
    made = X[:, None] * (h - o)[:, None] + Y[:, None] * (v - o)[:, None] + 4 * o[:, None] + 2
    return np.asarray(np.clip(made >> 2, 0, 255))


def parts_of(word: np.ndarray, channel: int) -> tuple[np.ndarray, np.ndarray]:
    """The base and the step of a colour channel, five bits and three, of blocks as uint64."""
    byte = (word >> np.uint64(56 - 8 * channel)) & np.uint64(255)
    base, step = (byte >> np.uint64(3)).astype(np.int32), (byte & np.uint64(7)).astype(np.int32)
    return base, step - 8 * (step > 3)


def in_range(word: np.ndarray, channel: int) -> np.ndarray:
    """Whether base and step together stay a colour; where not, it is another kind of block."""
    base, step = parts_of(word, channel)
    return np.asarray((base + step >= 0) & (base + step <= 31))


def decode_etc2(data: np.ndarray) -> np.ndarray:
    """uint8 (n, 16) to uint8 (n, 16, 4)."""
    out = np.zeros((len(data), 16, 4), np.uint8)
    out[:, DOWN, 3] = _decode_alpha(data[:, :8])
    word = np.ascontiguousarray(data[:, 8:]).view(">u8").astype(np.uint64).ravel()
    colour = np.zeros((len(data), 16, 3), np.int32)
    different = ((word >> np.uint64(33)) & np.uint64(1)).astype(bool)
    inside = [in_range(word, c) for c in range(3)]
    t, h = different & ~inside[0], different & inside[0] & ~inside[1]
    plane = different & inside[0] & inside[1] & ~inside[2]
    halves = ~(t | h | plane)
    for rows, decode in ((halves, _decode_halves), (t, _decode_t), (h, _decode_h), (plane, _decode_plane)):
        if rows.any():
            colour[rows] = decode(word[rows])
    out[:, DOWN, :3] = colour
    return out


def _bits(word: np.ndarray, at: int, width: int) -> np.ndarray:
    return ((word >> np.uint64(at)) & np.uint64((1 << width) - 1)).astype(np.int32)


def _indices(word: np.ndarray) -> np.ndarray:
    at = np.arange(16, dtype=np.uint64)
    high, low = word[:, None] >> (at + np.uint64(16)), word[:, None] >> at
    made: np.ndarray = (((high & np.uint64(1)) << np.uint64(1)) | (low & np.uint64(1))).astype(np.intp)
    return made


def _decode_halves(word: np.ndarray) -> np.ndarray:
    bases = np.zeros((len(word), 2, 3), np.int32)
    apart = _bits(word, 33, 1) == 0
    for channel in range(3):
        at = 56 - 8 * channel
        base, step = parts_of(word, channel)
        bases[:, 0, channel] = np.where(apart, grown(_bits(word, at + 4, 4), 4), grown(base, 5))
        bases[:, 1, channel] = np.where(apart, grown(_bits(word, at, 4), 4), grown((base + step) & 31, 5))
    side = SECOND[_bits(word, 32, 1)].astype(np.intp)
    tables = np.stack((_bits(word, 37, 3), _bits(word, 34, 3)), axis=1)
    step = STEPS[np.take_along_axis(tables, side, axis=1), _indices(word)]
    base = np.take_along_axis(bases, side[..., None], axis=1)
    return np.asarray(np.clip(base + step[..., None], 0, 255))


def _painted(word: np.ndarray, palette: np.ndarray) -> np.ndarray:
    return np.take_along_axis(np.clip(palette, 0, 255), _indices(word)[..., None], axis=1)


def _decode_t(word: np.ndarray) -> np.ndarray:
    red = (_bits(word, 59, 2) << 2) | _bits(word, 56, 2)
    one = 17 * np.stack((red, _bits(word, 52, 4), _bits(word, 48, 4)), axis=1)
    two = 17 * np.stack([_bits(word, at, 4) for at in (44, 40, 36)], axis=1)
    d = DISTANCES[(_bits(word, 34, 2) << 1) | _bits(word, 32, 1)][:, None]
    return _painted(word, np.stack((one, two + d, two, two - d), axis=1))


def _decode_h(word: np.ndarray) -> np.ndarray:
    green = (_bits(word, 56, 3) << 1) | _bits(word, 52, 1)
    blue = (_bits(word, 51, 1) << 3) | (_bits(word, 48, 2) << 1) | _bits(word, 47, 1)
    one = np.stack((_bits(word, 59, 4), green, blue), axis=1)
    two = np.stack([_bits(word, at, 4) for at in (43, 39, 35)], axis=1)
    keys = [(c[:, 0] << 8) | (c[:, 1] << 4) | c[:, 2] for c in (one, two)]
    number = (_bits(word, 34, 1) << 2) | (_bits(word, 32, 1) << 1) | (keys[0] >= keys[1])
    d = DISTANCES[number][:, None]
    return _painted(word, np.stack((one * 17 + d, one * 17 - d, two * 17 + d, two * 17 - d), axis=1))


def _decode_plane(word: np.ndarray) -> np.ndarray:
    o = (_bits(word, 57, 6), (_bits(word, 56, 1) << 6) | _bits(word, 49, 6),
         (_bits(word, 48, 1) << 5) | (_bits(word, 43, 2) << 3) | _bits(word, 39, 3))  # fmt: skip
    h = ((_bits(word, 34, 5) << 1) | _bits(word, 32, 1), _bits(word, 25, 7), _bits(word, 19, 6))
    v = (_bits(word, 13, 6), _bits(word, 6, 7), _bits(word, 0, 6))
    corners = [
        np.stack([grown(p, 7 if c == 1 else 6) for c, p in enumerate(parts)], axis=1) for parts in (o, h, v)
    ]
    return plane_between(*corners)


def _decode_alpha(data: np.ndarray) -> np.ndarray:
    word = np.ascontiguousarray(data).view(">u8").astype(np.uint64).ravel()
    base, times, table = _bits(word, 56, 8), _bits(word, 52, 4), _bits(word, 48, 4)
    at = (45 - 3 * np.arange(16)).astype(np.uint64)
    index = ((word[:, None] >> at) & np.uint64(7)).astype(np.intp)
    made: np.ndarray = np.clip(base[:, None] + times[:, None] * ALPHA[table[:, None], index], 0, 255).astype(
        np.uint8
    )
    return made
