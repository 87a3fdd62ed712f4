"""Rows of marks along the edge of a picture, which say where its figures begin and are no art."""

from __future__ import annotations

import numpy as np

COLOURS = 4  # that a row of marks has at the most
FEW = 0.05  # of a mark's px may occur elsewhere


def marker_rows(rgba: np.ndarray) -> tuple[int, int]:
    """How many rows at the top and at the bottom of a picture, uint8 (height, width, 4), are marks: a colour
    of the outermost row that hardly occurs anywhere else."""
    height = rgba.shape[0]
    if height < 8 or rgba.shape[1] < 16:
        return 0, 0
    return int(_is_marks(rgba, 0)), int(_is_marks(rgba, height - 1))


def _is_marks(rgba: np.ndarray, row: int) -> bool:
    words = np.ascontiguousarray(rgba[row]).view(np.uint32)[:, 0]
    colours, counts = np.unique(words, return_counts=True)
    if len(colours) > COLOURS or len(colours) < 2:
        return False
    rest = np.ascontiguousarray(rgba[1:-1]).view(np.uint32)[..., 0]
    for colour, count in zip(colours, counts, strict=True):
        alpha = int(np.array([colour]).view(np.uint8)[3])
        runs = np.count_nonzero(np.diff((words == colour).astype(np.int8)) == 1)
        if alpha >= 8 and count >= 3 and runs >= 3 and np.count_nonzero(rest == colour) <= FEW * count:
            return True
    return False
