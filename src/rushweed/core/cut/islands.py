"""Free-form pieces: what hangs together, parts of one thing joined, in reading order."""

from __future__ import annotations

from typing import Literal

import numpy as np

from rushweed.core.document.errors import CutError
from rushweed.core.document.rows import reading_order

Rect = tuple[int, int, int, int]
MOST_PIECES = 20_000


def pieces(mask: np.ndarray, join: int = 0, least: int = 1) -> list[Rect]:
    """Boxes (x, y, w, h) around the pieces of a sheet, in reading order.

    mask: bool (height, width), where the art is. Pixels that touch, by a corner too, are one piece; so are
    boxes at most `join` px apart. Pieces of fewer than `least` px are dropped. Raises CutError if there
    are more than 20,000.
    """
    boxes = _boxes(mask, least)
    boxes = joined(boxes, join) if join > 0 else boxes
    return reading_order([(int(a), int(b), int(c - a), int(d - b)) for a, b, c, d in boxes])


def _boxes(mask: np.ndarray, least: int) -> np.ndarray:
    """left, top, right, bottom of each connected part: int64 (n, 4)."""
    from scipy import ndimage  # late: it takes a third of a second to import

    labels, count = ndimage.label(mask, np.ones((3, 3), bool))
    if count > MOST_PIECES:
        raise CutError(
            f"The sheet falls into {count:,} pieces, more than {MOST_PIECES:,}.",
            "Cut it by a grid, or clear its specks first.",
        )
    found = ndimage.find_objects(labels)
    boxes = np.array([(s[1].start, s[0].start, s[1].stop, s[0].stop) for s in found], np.int64).reshape(-1, 4)
    return boxes[_large_enough(labels, boxes, least)] if least > 1 and len(boxes) else boxes


def _large_enough(labels: np.ndarray, boxes: np.ndarray, least: int) -> np.ndarray:
    """Which pieces have at least so many px; large boxes are not counted, they hold enough."""
    keep = np.ones(len(boxes), bool)
    area = (boxes[:, 2] - boxes[:, 0]) * (boxes[:, 3] - boxes[:, 1])
    for i in np.flatnonzero(area < least * least):
        a, b, c, d = boxes[i]
        keep[i] = np.count_nonzero(labels[b:d, a:c] == i + 1) >= least
    return keep


def joined(boxes: np.ndarray, join: int) -> np.ndarray:
    """Boxes (left, top, right, bottom) at most `join` px apart become one, until none are that near."""
    while len(boxes) > 1:
        boxes = boxes[np.argsort(boxes[:, 0], kind="stable")]
        left, top, right, bottom = boxes.T
        group = list(range(len(boxes)))

        def root(i: int, group: list[int] = group) -> int:
            while group[i] != i:
                group[i] = group[group[i]]
                i = group[i]
            return i

        reach = np.searchsorted(left, right + join, side="right").tolist()
        for i, end in enumerate(reach):
            apart = np.maximum(top[i + 1 : end] - bottom[i], top[i] - bottom[i + 1 : end])
            for j in np.flatnonzero(apart <= join).tolist():
                a, b = root(i), root(i + 1 + j)
                group[max(a, b)] = min(a, b)
        names, index = np.unique([root(i) for i in range(len(boxes))], return_inverse=True)
        if len(names) == len(boxes):
            break
        merged = np.empty((len(names), 4), np.int64)
        merged[:, :2], merged[:, 2:] = np.iinfo(np.int64).max, 0
        for axis in (0, 1):
            np.minimum.at(merged[:, axis], index, boxes[:, axis])
            np.maximum.at(merged[:, axis + 2], index, boxes[:, axis + 2])
        boxes = merged
    return boxes


def equal_cells(rects: list[Rect], size: tuple[int, int], align: Literal["centre", "feet"]) -> list[Rect]:
    """Cells of one size, the largest piece's, each with its piece in the middle or standing at its foot.

    So that pivots do not wander from frame to frame. `size` is the sheet's: a cell that would reach beyond
    it is moved in.
    """
    if not rects:
        return []
    wide, high = max(r[2] for r in rects), max(r[3] for r in rects)
    cells = []
    for x, y, w, h in rects:
        left = x + (w - wide) // 2
        top = y + h - high if align == "feet" else y + (h - high) // 2
        cells.append((min(max(left, 0), size[0] - wide), min(max(top, 0), size[1] - high), wide, high))
    return cells


def propose_join(mask: np.ndarray) -> int:
    """The smallest join distance from which on the number of pieces stays the same for a while."""
    boxes = _boxes(mask, 1)
    counts = {join: len(joined(boxes, join) if join else boxes) for join in (0, 1, 2, 3, 4, 5, 6, 8)}
    steps = list(counts)
    for i, join in enumerate(steps[:-2]):
        if counts[join] == counts[steps[i + 1]] == counts[steps[i + 2]]:
            return join
    return 2
