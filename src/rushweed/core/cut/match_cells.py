"""Cutting again: which new cell is the heir of which old one, so that ids outlive a new cut."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.ids import new_id, unique_names
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.document.shapes import moved
from rushweed.core.document.stretch import kept_on_art

Rect = tuple[int, int, int, int]
DENSE = 300  # old or new cells up to which a tangle is solved as a full table


def recut(sheet: Sheet, rects: Sequence[Rect]) -> tuple[Cell, ...]:
    """Cells for `rects`, old ones where they overlap most."""
    matched = match_by_overlap([cell.rect for cell in sheet.cells], rects)
    stem = Path(sheet.name).stem
    old_names = {sheet.cells[i].name for i in matched.values()}
    fresh = [f"{stem}_{n}" for n in range(len(rects))]
    names = [sheet.cells[matched[i]].name if i in matched else fresh[i] for i in range(len(rects))]
    for i, name in enumerate(names):
        if i not in matched and name in old_names:
            names[i] = f"{name}_new"
    cells = []
    for i, (rect, name) in enumerate(zip(rects, unique_names(names), strict=True)):
        if i in matched:
            cells.append(placed(sheet.cells[matched[i]], rect, name))
        else:
            fx, fy = sheet.tune.pivot
            cells.append(Cell(new_id(), name, rect, (fx * rect[2], fy * rect[3])))
    return tuple(cells)


def placed(cell: Cell, rect: Rect, name: str | None = None) -> Cell:
    """The cell on a new rectangle: shapes stay on the art, the pivot at the same share of the cell."""
    name = cell.name if name is None else name
    if rect == cell.rect and name == cell.name:
        return cell
    x, y, w, h = cell.rect
    pivot = (cell.pivot[0] / w * rect[2], cell.pivot[1] / h * rect[3])
    shapes = tuple(moved(shape, x - rect[0], y - rect[1]) for shape in cell.shapes)
    stretch = kept_on_art(cell.stretch, cell.rect, rect)
    return replace(cell, rect=rect, name=name, pivot=pivot, shapes=shapes, stretch=stretch)


def match_by_overlap(old: Sequence[Rect], new: Sequence[Rect]) -> dict[int, int]:
    """Pairs new index -> old index, each used once.

    Pairs that share more than half of what both cover are kept before all others, then those where one
    covers more than half of the other; the rest goes by overlap. Solved as an assignment, tangle by tangle.
    """
    if not old or not new:
        return {}
    was, now = np.array(old, np.int64), np.array(new, np.int64)
    i, j = _touching(was, now)
    across = np.minimum(was[i, 0] + was[i, 2], now[j, 0] + now[j, 2]) - np.maximum(was[i, 0], now[j, 0])
    down = np.minimum(was[i, 1] + was[i, 3], now[j, 1] + now[j, 3]) - np.maximum(was[i, 1], now[j, 1])
    over = (across > 0) & (down > 0)
    i, j, common = i[over], j[over], (across * down)[over]
    was_area, now_area = (was[:, 2] * was[:, 3])[i], (now[:, 2] * now[:, 3])[j]
    shared = common / (was_area + now_area - common)
    half = (2 * common > was_area) | (2 * common > now_area)
    worth = shared + 10.0 * half + 1000.0 * (shared > 0.5)
    sure = shared > 0.5
    alone = sure & (np.bincount(i[sure], minlength=len(was))[i] == 1)
    alone &= np.bincount(j[sure], minlength=len(now))[j] == 1
    matched = dict(zip(j[alone].tolist(), i[alone].tolist(), strict=True))
    used_old, used_new = np.zeros(len(was), bool), np.zeros(len(now), bool)
    used_old[i[alone]] = used_new[j[alone]] = True
    rest = ~(used_old[i] | used_new[j])
    matched.update(_assigned(i[rest], j[rest], worth[rest], len(was), len(now)))
    return matched


def _touching(was: np.ndarray, now: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pairs of an old and a new rectangle that lie near one another: two int arrays of indices."""
    step = max(8, int(np.median(np.maximum(was[:, 2], was[:, 3]))))
    keys = []
    for rects in (was, now):
        first = rects[:, :2] // step
        last = (rects[:, :2] + rects[:, 2:] - 1) // step
        wide, high = (last - first + 1).T
        count = wide * high
        owner = np.repeat(np.arange(len(rects)), count)
        place = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
        bx = first[owner, 0] + place % wide[owner]
        by = first[owner, 1] + place // wide[owner]
        keys.append((bx * 65_536 + by, owner))
    (old_bins, old_owner), (new_bins, new_owner) = keys
    order = np.argsort(old_bins, kind="stable")
    old_bins, old_owner = old_bins[order], old_owner[order]
    start, end = np.searchsorted(old_bins, new_bins), np.searchsorted(old_bins, new_bins, side="right")
    count = end - start
    j = np.repeat(new_owner, count)
    place = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
    i = old_owner[np.repeat(start, count) + place]
    both = np.unique(i.astype(np.int64) * (len(now) + 1) + j)
    return both // (len(now) + 1), both % (len(now) + 1)


def _assigned(i: np.ndarray, j: np.ndarray, worth: np.ndarray, olds: int, news: int) -> list[tuple[int, int]]:
    """The pairs (new, old) of greatest total worth, each index used once."""
    if not len(i):
        return []
    from scipy.optimize import linear_sum_assignment  # late: they take long to import
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    size = olds + news
    graph = coo_array((np.ones(len(i), np.int8), (i, olds + j)), shape=(size, size))
    tangle = connected_components(graph, directed=False)[1][i]
    order = np.argsort(tangle, kind="stable")
    ends = np.flatnonzero(np.diff(tangle[order])) + 1
    pairs: list[tuple[int, int]] = []
    for part in np.split(order, ends):
        if len(part) == 1:
            pairs.append((int(j[part[0]]), int(i[part[0]])))
            continue
        rows, row = np.unique(i[part], return_inverse=True)
        columns, column = np.unique(j[part], return_inverse=True)
        if len(rows) > DENSE and len(columns) > DENSE:
            pairs += _greedy(i[part], j[part], worth[part])
            continue
        table = np.zeros((len(rows), len(columns)))
        table[row, column] = worth[part]
        for a, b in zip(*linear_sum_assignment(table, maximize=True), strict=True):
            if table[a, b] > 0:
                pairs.append((int(columns[b]), int(rows[a])))
    return pairs


def _greedy(i: np.ndarray, j: np.ndarray, worth: np.ndarray) -> list[tuple[int, int]]:
    """The best pair first, then the best of the rest: for tangles too large to solve in a moment."""
    pairs, olds, news = [], set(), set()
    for k in np.lexsort((i, j, -worth)).tolist():
        a, b = int(i[k]), int(j[k])
        if a not in olds and b not in news:
            pairs.append((b, a))
            olds.add(a)
            news.add(b)
    return pairs
