"""What hangs together in a mask, compiled: rows fall into runs of px, and runs that touch are one part."""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, I8, NONE, compiled

MASK = types.Array(types.boolean, 2, "C", readonly=True)
LABELS = types.int32[:, ::1]


@compiled(I8(MASK))
def count_runs(mask: np.ndarray) -> int:
    """How many runs there are, bool (height, width)."""
    count = 0
    for y in range(mask.shape[0]):
        before = False
        for x in range(mask.shape[1]):
            here = mask[y, x]
            count += here and not before
            before = here
    return count


@compiled(I8(A1, I8))
def _root(parent: np.ndarray, run: int) -> int:
    while parent[run] != run:
        parent[run] = parent[parent[run]]
        run = parent[run]
    return run


@compiled(I8(MASK, A2, A1))
def find_parts(mask: np.ndarray, runs: np.ndarray, parts: np.ndarray) -> int:
    """All runs, int64 (n, 3) of row, start, end, and the part of each; returns how many parts there are. They
    are numbered in the order they begin row by row. Px that touch by a corner too are one part."""
    count, above, ends = 0, 0, 0  # the runs of the row above are above..ends - 1
    for y in range(mask.shape[0]):
        begin, before, near = count, False, above
        for x in range(mask.shape[1] + 1):
            here = x < mask.shape[1] and mask[y, x]
            if here and not before:
                runs[count, 0], runs[count, 1] = y, x
                parts[count] = count
            elif before and not here:
                runs[count, 2] = x
                while near < ends and runs[near, 2] < runs[count, 1]:
                    near += 1
                other = near
                while other < ends and runs[other, 1] <= x:
                    one, two = _root(parts, count), _root(parts, other)
                    parts[max(one, two)] = min(one, two)
                    other += 1
                count += 1
            before = here
        above, ends = begin, count
    found = 0
    for run in range(count):  # what a run hangs on comes before it, and has its number already
        if parts[run] == run:
            parts[run] = found
            found += 1
        else:
            parts[run] = parts[parts[run]]
    return found


@compiled(NONE(A2, A1, A2, A1))
def sum_up(runs: np.ndarray, parts: np.ndarray, boxes: np.ndarray, areas: np.ndarray) -> None:
    """The box of each part, int64 (n, 4) of left, top, right, bottom, and its px. `areas` begin at 0."""
    for run in range(runs.shape[0]):
        part, y, start, end = parts[run], runs[run, 0], runs[run, 1], runs[run, 2]
        if areas[part] == 0:
            boxes[part, 0], boxes[part, 1], boxes[part, 2] = start, y, end
        boxes[part, 0], boxes[part, 2] = min(boxes[part, 0], start), max(boxes[part, 2], end)
        boxes[part, 3] = y + 1
        areas[part] += end - start


@compiled(NONE(A2, A1, LABELS))
def paint(runs: np.ndarray, parts: np.ndarray, labels: np.ndarray) -> None:
    """The number of each px's part from 1 on, int32 (height, width), 0 where there was none."""
    for run in range(runs.shape[0]):
        for x in range(runs[run, 1], runs[run, 2]):
            labels[runs[run, 0], x] = parts[run] + 1


@compiled(NONE(MASK, LABELS))
def add_up(mask: np.ndarray, sums: np.ndarray) -> None:
    """How many px are set left of and above each place; sums: int32 (height + 1, width + 1), zero before."""
    for y in range(mask.shape[0]):
        row = 0
        for x in range(mask.shape[1]):
            row += mask[y, x]
            sums[y + 1, x + 1] = sums[y, x + 1] + row
