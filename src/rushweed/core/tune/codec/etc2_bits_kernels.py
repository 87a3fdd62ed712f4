"""Bits of ETC2 that choose a mode by what they make impossible, compiled."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import I8, compiled
from rushweed.core.tune.codec.etc2_terms import BEST
from rushweed.core.tune.codec.line_kernels import WORK


@compiled(I8(I8, I8))
def out_of_range(high: int, channel: int) -> int:
    """Set the free bits of a channel's byte (5 to 7 and 2) so that base and difference leave 0..31."""
    byte = (high >> (24 - 8 * channel)) & 0b00011011
    free = 0b11100000 if (byte >> 3) + (byte & 3) >= 4 else 0b00000100
    return high | (free << (24 - 8 * channel))


@compiled(I8(I8, I8))
def in_range(high: int, channel: int) -> int:
    """Set the highest bit of a channel's byte where base and difference would leave 0..31 without it."""
    byte = (high >> (24 - 8 * channel)) & 255
    step = byte & 7
    value = (byte >> 3) + (step - 8 if step > 3 else step)
    return high if 0 <= value <= 31 else high | (1 << (31 - 8 * channel))


@compiled(I8(WORK))
def places_word(work: np.ndarray) -> int:
    """The places in BEST as the low word."""
    low = 0
    for p in range(16):
        place = int(work[BEST, p])
        low |= ((place >> 1) << (p + 16)) | ((place & 1) << p)
    return low
