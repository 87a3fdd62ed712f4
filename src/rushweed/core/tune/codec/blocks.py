"""Pictures as blocks of 4 x 4 px: cut, put together, coded once for equal blocks, in two threads."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

SIDE = 4
CHUNK = 8192  # blocks coded at a time, so that what is worked on stays in the processor's cache

Progress = Callable[[float], None]


def to_blocks(rgba: np.ndarray) -> np.ndarray:
    """uint8 (height, width, 4) to uint8 (blocks, 16, 4), row by row; edges are repeated up to whole
    blocks."""
    height, width = rgba.shape[:2]
    rgba = np.pad(rgba, ((0, -height % SIDE), (0, -width % SIDE), (0, 0)), mode="edge")
    rows, columns = rgba.shape[0] // SIDE, rgba.shape[1] // SIDE
    cut = rgba.reshape(rows, SIDE, columns, SIDE, 4).transpose(0, 2, 1, 3, 4)
    return np.ascontiguousarray(cut).reshape(rows * columns, SIDE * SIDE, 4)


def from_blocks(blocks: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """The picture of `size` (width, height) px again."""
    width, height = size
    rows, columns = -(-height // SIDE), -(-width // SIDE)
    whole = blocks.reshape(rows, columns, SIDE, SIDE, 4).transpose(0, 2, 1, 3, 4)
    return np.ascontiguousarray(whole.reshape(rows * SIDE, columns * SIDE, 4)[:height, :width])


def coded_blocks(
    rgba: np.ndarray,
    code: Callable[[np.ndarray], np.ndarray],
    size: int,
    progress: Progress = lambda share: None,
    chunk: int = CHUNK,
) -> bytes:
    """Code every block of a picture; equal blocks are coded once, `chunk` of them at a time.

    code: uint8 (n, 16, 4) to uint8 (n, size). `progress` is told the share done; what it raises ends all.
    """
    few, which = _kinds(to_blocks(rgba))
    out = np.empty((len(few), size), np.uint8)
    parts = [slice(i, min(i + chunk, len(few))) for i in range(0, len(few), chunk)]
    pool = ThreadPoolExecutor(min(os.cpu_count() or 1, 8))
    try:
        for done, (part, made) in enumerate(zip(parts, pool.map(lambda s: code(few[s]), parts), strict=True)):
            out[part] = made
            progress((done + 1) / len(parts))
    finally:
        pool.shutdown(cancel_futures=True)
    return bytes(out[which].tobytes())


def _kinds(blocks: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The different blocks, and for every block which of them it is."""
    words = np.ascontiguousarray(blocks).reshape(len(blocks), 64).view(np.uint64)
    odd = np.random.default_rng(0).integers(0, 1 << 63, 8, np.uint64) * np.uint64(2) + np.uint64(1)
    mixed = ((words ^ (words >> np.uint64(29))) * odd).sum(axis=1, dtype=np.uint64)
    _values, first, which = np.unique(mixed, return_index=True, return_inverse=True)
    if not np.array_equal(words[first][which], words):  # two different blocks with one sum: take all apart
        return blocks, np.arange(len(blocks))
    return blocks[first], which


def grown(value: np.ndarray, bits: int) -> np.ndarray:
    """`bits` wide values to 8 bits, as the card does: the upper bits once more below."""
    return np.asarray((value << (8 - bits)) | (value >> (2 * bits - 8)))
