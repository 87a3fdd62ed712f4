"""The bits of a block of BC7, compiled."""

from __future__ import annotations

import numpy as np

from rushweed.core.compiled import A1, A2, I8, NONE, compiled
from rushweed.core.tune.codec.bc7_terms import (
    ALPHA,
    ALPHA_ENDS,
    ALPHA_PLACE,
    BELONGS,
    CHOICE,
    COLOUR,
    COLOUR_PLACE,
    ENDS,
    HEAD,
    NO_PARITY,
    OF_END,
    PARITY,
    PARTITION,
    PARTS,
    PLACES,
    READ_TABLE,
    ROTATION,
    SECOND,
    SUBSETS,
)


@compiled(I8(A1, I8, I8, I8))
def put(words: np.ndarray, at: int, value: int, width: int) -> int:
    """Write so many bits of a value into words of 32, lowest first; returns where the next begin."""
    word, low = at >> 5, at & 31
    words[word] |= (value << low) & 0xFFFFFFFF
    if low + width > 32:
        words[word + 1] |= value >> (32 - low)
    return at + width


@compiled(NONE(A2, I8, I8, I8, I8))
def _turn_to_anchor(kept: np.ndarray, ends: int, places: int, anchor: int, bits: int) -> None:
    """Exchange the ends of a subset where the anchor's place would need its highest bit. BELONGS says
    which px are its own."""
    top = (1 << bits) - 1
    if kept[places, anchor] <= top >> 1:
        return
    for c in range(4):
        other = kept[ends, c]
        kept[ends, c] = kept[ends, 4 + c]
        kept[ends, 4 + c] = other
    other = kept[ends, 8]
    kept[ends, 8] = kept[ends, 9]
    kept[ends, 9] = other
    for p in range(16):
        if kept[BELONGS, p]:
            kept[places, p] = top - kept[places, p]


@compiled(NONE(A2, A1, READ_TABLE, PARTS, PARTS))
def write(
    kept: np.ndarray, words: np.ndarray, modes: np.ndarray, parts: np.ndarray, anchors: np.ndarray
) -> None:
    """The 128 bits of the coding in `kept`, into four words of 32."""
    for k in range(4):
        words[k] = 0
    mode, partition, rotation, choice = kept[HEAD, 0], kept[HEAD, 1], kept[HEAD, 2], kept[HEAD, 3]
    spec = modes[mode]
    subsets = spec[SUBSETS]
    own_alpha = spec[SECOND] > 0
    colour_bits = spec[SECOND] if choice else spec[PLACES]
    alpha_bits = spec[PLACES] if choice else spec[SECOND]
    for subset in range(subsets):
        for p in range(16):
            kept[BELONGS, p] = 1 if parts[subsets - 1, partition, p] == subset else 0
        _turn_to_anchor(
            kept, ENDS + subset, COLOUR_PLACE, anchors[subsets - 1, partition, subset], colour_bits
        )
    if own_alpha:
        for p in range(16):
            kept[BELONGS, p] = 1
        _turn_to_anchor(kept, ALPHA_ENDS, ALPHA_PLACE, 0, alpha_bits)
    at = put(words, 0, 1 << mode, mode + 1)
    at = put(words, at, partition, spec[PARTITION])
    at = put(words, at, rotation, spec[ROTATION])
    at = put(words, at, choice, spec[CHOICE])
    for channel in range(4):
        width = spec[ALPHA] if channel == 3 else spec[COLOUR]
        for subset in range(subsets if width else 0):
            row = ALPHA_ENDS if own_alpha and channel == 3 else ENDS + subset
            at = put(words, at, kept[row, channel], width)
            at = put(words, at, kept[row, 4 + channel], width)
    for subset in range(subsets):
        if spec[PARITY] != NO_PARITY:
            at = put(words, at, kept[ENDS + subset, 8], 1)
        if spec[PARITY] == OF_END:
            at = put(words, at, kept[ENDS + subset, 9], 1)
    for turn in range(2 if own_alpha else 1):
        row = ALPHA_PLACE if turn != choice else COLOUR_PLACE
        width = spec[SECOND] if turn else spec[PLACES]
        for p in range(16):
            anchored = False
            for subset in range(subsets):
                anchored = anchored or anchors[subsets - 1, partition, subset] == p
            at = put(words, at, kept[row, p], width - 1 if anchored else width)
