"""BC7: eight modes of one to three subsets of a block, each with a line of its own through its colours.

Layout of the bits: the Khronos Data Format Specification 1.3, chapter 20. Coding tries the modes in turn, the
cheap ones first; subsets are ranked by what no line could follow, and only the best of them are fitted.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import TYPE_CHECKING, Literal, NamedTuple

import numpy as np

from rushweed.core.tune.codec.bc7_tables import ANCHOR_SECOND, ANCHOR_THIRD, ANCHOR_TWO, THREE, TWO
from rushweed.core.tune.codec.blocks import grown

if TYPE_CHECKING:
    from rushweed.core.tune.codec.bc7_terms import Tables


class Mode(NamedTuple):
    """Widths in bits: of the partition number, the rotation, the choice between the two sets of indices, a
    colour
    and an alpha end, the indices of colour, and of alpha where it has its own. `parity`: a lowest bit shared
    by all channels of each end, or of both ends of a subset."""

    subsets: int
    partition: int
    rotation: int
    choice: int
    colour: int
    alpha: int
    parity: Literal["none", "end", "subset"]
    places: int
    second: int


MODES = (
    Mode(3, 4, 0, 0, 4, 0, "end", 3, 0),
    Mode(2, 6, 0, 0, 6, 0, "subset", 3, 0),
    Mode(3, 6, 0, 0, 5, 0, "none", 2, 0),
    Mode(2, 6, 0, 0, 7, 0, "end", 2, 0),
    Mode(1, 0, 2, 1, 5, 6, "none", 2, 3),
    Mode(1, 0, 2, 0, 7, 8, "none", 2, 2),
    Mode(1, 0, 0, 0, 7, 7, "end", 4, 0),
    Mode(2, 6, 0, 0, 5, 5, "end", 2, 0),
)
STEPS = {
    2: np.array([0, 21, 43, 64]),
    3: np.array([0, 9, 18, 27, 37, 46, 55, 64]),
    4: np.array([0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64]),
}


@cache
def partitions(subsets: int) -> np.ndarray:
    """The subset of each px, uint8 (64, 16)."""
    if subsets == 1:
        return np.zeros((64, 16), np.uint8)
    table, bits = (TWO, 1) if subsets == 2 else (THREE, 2)
    return np.array([[row >> (bits * i) & (2**bits - 1) for i in range(16)] for row in table], np.uint8)


@cache
def anchors(subsets: int) -> np.ndarray:
    """The px of each subset whose index has one bit less, intp (64, subsets)."""
    first = [0] * 64
    columns = {1: (first,), 2: (first, ANCHOR_TWO), 3: (first, ANCHOR_SECOND, ANCHOR_THIRD)}[subsets]
    return np.array(columns, np.intp).T


PARITY = {"none": 0, "end": 1, "subset": 2}  # as the kernels count them


def code_bc7(blocks: np.ndarray) -> np.ndarray:
    """uint8 (n, 16, 4) to uint8 (n, 16)."""
    from rushweed.core.tune.codec import (  # late: a compiler comes with it
        bc7_kernels,
        bc7_terms,
        line_kernels,
    )

    out = np.empty((len(blocks), 16), np.uint8)
    room = bc7_terms.Room(
        np.zeros((line_kernels.ROWS, 16), np.float32),
        np.zeros((bc7_terms.RANKS, 64), np.float32),
        np.zeros((bc7_terms.KEPT, 16), np.int64),
        np.zeros(4, np.int64),
    )
    bc7_kernels.code_bc7(np.ascontiguousarray(blocks), out, room, _tables())
    return out


@cache
def _tables() -> Tables:
    from rushweed.core.tune.codec import bc7_terms

    modes = np.array([[PARITY.get(str(part), part) for part in spec] for spec in MODES], np.int64)
    shares = np.zeros((5, 16), np.float32)
    for bits, steps in STEPS.items():
        shares[bits, : len(steps)] = steps
    fixed = np.zeros((3, 64, 3), np.int64)
    for subsets in (1, 2, 3):
        fixed[subsets - 1, :, :subsets] = anchors(subsets)
    parts = np.stack([partitions(subsets) for subsets in (1, 2, 3)]).astype(np.int64)
    two, three = (
        np.array([(parts[subsets - 1] == subset).T for subset in range(subsets)], np.float32, order="C")
        for subsets in (2, 3)
    )
    return bc7_terms.Tables(modes, shares, parts, fixed, two, three)


# -- decoding ----------------------------------------------------------------------------------------------


def decode_bc7(data: np.ndarray) -> np.ndarray:
    """uint8 (n, 16) to uint8 (n, 16, 4); blocks of no mode are clear black."""
    out = np.zeros((len(data), 16, 4), np.uint8)
    for mode, rows in _by_mode(data):
        out[rows] = _decoded(mode, np.unpackbits(data[rows], axis=1, bitorder="little"))
    return out


def _by_mode(data: np.ndarray) -> Iterator[tuple[int, np.ndarray]]:
    first = data[:, 0]
    for mode in range(8):
        rows = np.flatnonzero((first & ((2 << mode) - 1)) == 1 << mode)
        if len(rows):
            yield mode, rows


def _decoded(mode: int, bits: np.ndarray) -> np.ndarray:
    spec = MODES[mode]
    count = len(bits)
    at = np.full(count, mode + 1, np.intp)
    rows = np.arange(count)

    def get(width: int | np.ndarray) -> np.ndarray:
        widths = np.broadcast_to(np.asarray(width), at.shape)
        value = np.zeros(count, np.int32)
        for i in range(int(widths.max(initial=0))):
            here = widths > i
            value[here] |= bits[rows[here], at[here] + i].astype(np.int32) << i
        at[:] += widths
        return value

    which = get(spec.partition)
    rotation, choice = get(spec.rotation), get(spec.choice)
    channels = 4 if spec.alpha else 3
    ends = np.zeros((count, spec.subsets, 2, 4), np.int32)
    for channel in range(channels):
        for subset in range(spec.subsets):
            for end in (0, 1):
                ends[:, subset, end, channel] = get(spec.alpha if channel == 3 else spec.colour)
    widths = [spec.colour] * 3 + [spec.alpha]
    if spec.parity != "none":
        for subset in range(spec.subsets):
            first = get(1)
            second = get(1) if spec.parity == "end" else first
            for end, low in ((0, first), (1, second)):
                ends[:, subset, end, :channels] = (ends[:, subset, end, :channels] << 1) | low[:, None]
        widths = [w + 1 if w else 0 for w in widths]
    for channel in range(channels):
        ends[..., channel] = grown(ends[..., channel], widths[channel])
    if not spec.alpha:
        ends[..., 3] = 255
    fixed, of = anchors(spec.subsets)[which], partitions(spec.subsets)[which]

    def indices(width: int) -> np.ndarray:
        made = [get(width - (fixed == i).any(axis=1).astype(np.intp)) for i in range(16)]
        steps: np.ndarray = STEPS[width][np.stack(made, axis=1)]
        return steps

    colour = indices(spec.places)
    alpha = indices(spec.second) if spec.second else colour
    swapped = choice.astype(bool)[:, None]
    colour, alpha = np.where(swapped, alpha, colour), np.where(swapped, colour, alpha)
    mine = np.take_along_axis(ends, of[:, :, None, None].astype(np.intp), axis=1)  # (n, 16, 2, 4)
    steps = np.concatenate((np.repeat(colour[..., None], 3, axis=2), alpha[..., None]), axis=2)
    out = np.asarray((64 - steps) * mine[:, :, 0] + steps * mine[:, :, 1] + 32, np.int64) >> 6
    for turn in (1, 2, 3):
        here = rotation == turn
        out[here] = out[here][..., {1: [3, 1, 2, 0], 2: [0, 3, 2, 1], 3: [0, 1, 3, 2]}[turn]]
    return out.astype(np.uint8)
