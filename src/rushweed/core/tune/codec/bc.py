"""BC1 and BC3: two colours of 5, 6 and 5 bits a block and steps between them; alpha with steps of its own.

Layout of the bits: the Khronos Data Format Specification 1.3, chapter 18. The search is our own: the line
through the colours, then ends and places in turn; blocks of few colours are tried in every arrangement.
"""

from __future__ import annotations

from functools import cache
from itertools import permutations
from typing import TYPE_CHECKING

import numpy as np

from rushweed.core.tune.codec.blocks import grown

if TYPE_CHECKING:
    from rushweed.core.tune.codec.bc_terms import Tables

BITS = (5, 6, 5)
PLACES = (4, 3)  # how many colours a block has, both ends among them


def steps_between(first: np.ndarray, last: np.ndarray, count: int) -> list[np.ndarray]:
    """The values at the places between two ends of 8 bits, integers as a decoder makes them."""
    if count == 4:
        return [first, (2 * first + last) // 3, (first + 2 * last) // 3, last]
    return [first, (first + last) // 2, last]


def code_bc1(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 8). A px is clear below half alpha, else it is opaque."""
    from rushweed.core.tune.codec import bc_kernels  # late: a compiler comes with it

    out, work, few = _room(len(blocks), 8)
    bc_kernels.code_bc1(np.ascontiguousarray(blocks), out, work, few, _tables())
    return out


def code_bc3(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 16): alpha with eight steps, then colour as in BC1 with four."""
    from rushweed.core.tune.codec import bc_kernels

    out, work, few = _room(len(blocks), 16)
    bc_kernels.code_bc3(np.ascontiguousarray(blocks), out, work, few, _tables())
    return out


def _room(count: int, size: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The coded blocks, and room for the kernels to work in."""
    from rushweed.core.tune.codec.bc_terms import FEW_ROWS
    from rushweed.core.tune.codec.line_kernels import ROWS

    work, few = np.zeros((ROWS, 16), np.float32), np.zeros((FEW_ROWS, 16), np.float32)
    return np.empty((count, size), np.uint8), work, few


@cache
def _tables() -> Tables:
    from rushweed.core.tune.codec import bc_terms

    ways = np.full((len(PLACES) * 3, 12, 4), -1, np.int64)
    for turn, places in enumerate(PLACES):
        for colours in range(2, places + 1):
            # One from its other end is the same line; those that use all of it are mostly the best.
            some = [way for way in permutations(range(places), colours) if way[0] < way[-1]]
            for number, way in enumerate(sorted(some, key=lambda way: way[0] - way[-1])):
                ways[3 * turn + colours - 2, number, :colours] = way
    singles = [[single_ends(bits, places) for bits in BITS] for places in PLACES]
    return bc_terms.Tables(ways, np.array(singles, np.int64))


@cache
def single_ends(bits: int, count: int) -> np.ndarray:
    """For each value of 8 bits the two ends whose second place comes nearest to it: int32 (256, 2)."""
    ends = np.arange(1 << bits)
    a, b = (v.ravel() for v in np.meshgrid(ends, ends, indexing="ij"))
    made = steps_between(grown(a, bits), grown(b, bits), count)[1]
    # Of equals the ends that lie close together: decoders differ in how they round between far ones.
    cost = np.abs(np.arange(256)[:, None] - made) * 1024 + np.abs(a - b)
    best = cost.argmin(axis=1)
    return np.stack((a[best], b[best]), axis=1).astype(np.int32)


def alpha_steps(first: np.ndarray, last: np.ndarray) -> np.ndarray:
    """The eight values of each index, int32 (n, 8), as a decoder makes them from two ends."""
    a, b = first.astype(np.int32), last.astype(np.int32)
    eight = [a, b] + [((7 - i) * a + i * b) // 7 for i in range(1, 7)]
    six = (
        [a, b] + [((5 - i) * a + i * b) // 5 for i in range(1, 5)] + [np.zeros_like(a), np.full_like(a, 255)]
    )
    return np.where((a > b)[:, None], np.stack(eight, axis=1), np.stack(six, axis=1))


def decode_bc1(data: np.ndarray, four: bool = False) -> np.ndarray:
    """uint8 (n, 8) to uint8 (n, 16, 4); `four` says that there are always four colours, as within BC3."""
    word = np.ascontiguousarray(data[:, :4]).view("<u2").astype(np.int32)
    parts = np.stack((word >> 11, (word >> 5) & 63, word & 31), axis=2)
    many = np.ones(len(data), bool) if four else word[:, 0] > word[:, 1]
    table = np.zeros((len(data), 4, 4), np.uint8)
    for channel, bits in enumerate(BITS):
        value = grown(parts[..., channel], bits)
        a, b = value[:, 0], value[:, 1]
        table[:, 0, channel], table[:, 1, channel] = a, b
        table[:, 2, channel] = np.where(many, (2 * a + b) // 3, (a + b) // 2)
        table[:, 3, channel] = np.where(many, (a + 2 * b) // 3, 0)
    table[:, :3, 3] = 255
    table[:, 3, 3] = np.where(many, 255, 0)
    bits32 = np.ascontiguousarray(data[:, 4:8]).view("<u4")
    index = (bits32 >> (2 * np.arange(16, dtype=np.uint32))) & 3
    return np.take_along_axis(table, index[..., None].astype(np.intp), axis=1)


def decode_alpha(data: np.ndarray) -> np.ndarray:
    """uint8 (n, 8) to uint8 (n, 16)."""
    whole = np.zeros((len(data), 8), np.uint8)
    whole[:, :6] = data[:, 2:8]
    index = (whole.view("<u8") >> (3 * np.arange(16, dtype=np.uint64))) & np.uint64(7)
    steps = alpha_steps(data[:, 0], data[:, 1]).astype(np.uint8)
    return np.take_along_axis(steps, index.astype(np.intp), axis=1)


def decode_bc3(data: np.ndarray) -> np.ndarray:
    """uint8 (n, 16) to uint8 (n, 16, 4)."""
    out = decode_bc1(data[:, 8:], four=True)
    out[..., 3] = decode_alpha(data[:, :8])
    return out
