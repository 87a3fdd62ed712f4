"""Free-form pieces: what hangs together, small parts joined to what they belong to, in reading order."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np

from rushweed.core.cut.parts import Parts
from rushweed.core.document.errors import CutError
from rushweed.core.document.rows import reading_order

Rect = tuple[int, int, int, int]
MOST_PIECES = 20_000
SMALL = 0.1  # of the usual ink: a part with less belongs to another
MEASURED = 3000  # small parts up to which their distances are measured px by px
JOINS = (0, 1, 2, 3, 4, 5, 6, 8, 10, 12, 16, 24, 32)


def pieces(mask: np.ndarray, join: int = 0, least: int = 1, any_size: bool = False) -> list[Rect]:
    """Boxes (x, y, w, h) around the pieces of a sheet, in reading order.

    mask: bool (height, width), where the art is. Pixels that touch, by a corner too, are one part. A small
    part joins the nearest other one at most `join` px away, so that two large ones never become one; with
    `any_size` all boxes at most `join` px apart become one. Pieces of fewer than `least` px are dropped.
    Raises CutError if there are more than 20,000.
    """
    parts = _Pieces(mask, least)
    if any_size:
        boxes = joined(parts.boxes, join) if join > 0 else parts.boxes
    else:
        boxes = parts.joined(join)
    return reading_order([(int(a), int(b), int(c - a), int(d - b)) for a, b, c, d in boxes])


def propose_join(mask: np.ndarray) -> int:
    """The smallest join distance from which on the number of pieces stays the same for a while; wide enough
    for every small part where the large ones are alike, or the small ones are mere specks."""
    parts = _Pieces(mask, 1)
    if not len(parts.boxes) or not parts.small.any():
        return 0
    large = parts.boxes[~parts.small]
    sides = np.maximum(large[:, 2] - large[:, 0], large[:, 3] - large[:, 1])
    areas, specks = parts.area[~parts.small], parts.area[parts.small]
    alike = len(large) >= 4 and float(areas.std()) < 0.6 * float(areas.mean())
    alike = alike or float(specks.sum()) < 0.04 * float(areas.sum())
    widest = int(np.median(sides)) // 2 if alike else 8
    steps = [join for join in JOINS if join <= max(widest, 2)]
    counts = [len(parts.joined(join)) for join in steps]
    if alike:
        return next(join for join, count in zip(steps, counts, strict=True) if count == counts[-1])
    for i, join in enumerate(steps[:-2]):
        if counts[i] == counts[i + 1] == counts[i + 2]:
            return join
    return 2


class _Pieces:
    """The connected parts of a mask. `boxes` are left, top, right, bottom, int64 (n, 4), `area` their px,
    `small` those with less than a tenth of the ink that a px of art usually lies in."""

    def __init__(self, mask: np.ndarray, least: int) -> None:
        parts = self._whole = Parts(mask)
        count = len(parts.area)
        if count > MOST_PIECES:
            raise CutError(
                f"The sheet falls into {count:,} pieces, more than {MOST_PIECES:,}.",
                "Cut it by a grid, or clear its specks first.",
            )
        self.boxes, self.area = parts.boxes, parts.area
        self.names = np.arange(1, count + 1)
        if least > 1:
            keep = self.area >= least
            self.boxes, self.area, self.names = self.boxes[keep], self.area[keep], self.names[keep]
        self.small = self.area < SMALL * usual_ink(self.area)
        self._pairs: tuple[int, list[tuple[float, int, int]]] | None = None

    def joined(self, join: int) -> np.ndarray:
        """The boxes after small parts have joined what is nearest, at most `join` px away: int64 (n, 4)."""
        if join < 1 or not self.small.any():
            return self.boxes
        group = list(range(len(self.boxes)))
        holds_large = (~self.small).tolist()

        def root(i: int) -> int:
            while group[i] != i:
                group[i] = group[group[i]]
                i = group[i]
            return i

        for distance, i, j in self._near(join):
            a, b = root(i), root(j)
            if distance <= join and a != b and not (holds_large[a] and holds_large[b]):
                group[max(a, b)] = min(a, b)
                holds_large[min(a, b)] = holds_large[a] or holds_large[b]
        return _merged(self.boxes, [root(i) for i in range(len(group))])

    def _near(self, join: int) -> list[tuple[float, int, int]]:
        """Small parts and what is at most `join` px from them, the nearest first: distance, both indices."""
        if self._pairs is None or self._pairs[0] < join:
            reach = max(join, JOINS[-1] if len(self.boxes) < 600 else join)
            small = np.flatnonzero(self.small)
            measured = len(small) <= MEASURED
            self._pairs = (
                reach,
                sorted(self._by_px(small, reach) if measured else self._by_box(small, reach)),
            )
        return self._pairs[1]

    def _by_px(self, small: np.ndarray, reach: int) -> list[tuple[float, int, int]]:
        from scipy import ndimage

        labels = self._whole.labels
        index = np.full(len(self._whole.area) + 1, -1)
        index[self.names] = np.arange(len(self.names))
        found = []
        for i in small.tolist():
            a, b, c, d = self.boxes[i]
            part = labels[max(b - reach, 0) : d + reach, max(a - reach, 0) : c + reach]
            mine = part == self.names[i]
            others = index[part[(part > 0) & ~mine]]
            if not others.size:
                continue
            away = ndimage.distance_transform_edt(~mine)[(part > 0) & ~mine] - 1
            best = np.full(len(self.names) + 1, np.inf)
            np.minimum.at(best, others, away)
            for j in np.unique(others[others >= 0]).tolist():
                if best[j] <= reach:
                    found.append((float(best[j]), min(i, j), max(i, j)))
        return found

    def _by_box(self, small: np.ndarray, reach: int) -> list[tuple[float, int, int]]:
        found = []
        left, top, right, bottom = self.boxes.T
        for i in small.tolist():
            across = np.maximum(left[i] - right, left - right[i])
            down = np.maximum(top[i] - bottom, top - bottom[i])
            away = np.maximum(np.maximum(across, down), 0)
            for j in np.flatnonzero(away <= reach).tolist():
                if j != i:
                    found.append((float(away[j]), min(i, j), max(i, j)))
        return found


def usual_ink(area: np.ndarray) -> float:
    """The size of the part that a px of art usually lies in: the median over all px, not over parts."""
    if not len(area):
        return 0.0
    ordered = np.sort(area)
    total = np.cumsum(ordered)
    return float(ordered[np.searchsorted(total, total[-1] / 2)])


def joined(boxes: np.ndarray, join: int) -> np.ndarray:
    """Boxes (left, top, right, bottom) at most `join` px apart become one, until none are that near."""
    from scipy.sparse import coo_array  # late: it takes long to import
    from scipy.sparse.csgraph import connected_components

    while len(boxes) > 1:
        boxes = boxes[np.argsort(boxes[:, 0], kind="stable")]
        left, top, right, bottom = boxes.T
        reach = np.searchsorted(left, right + join, side="right").tolist()
        one: list[np.ndarray] = []
        other: list[np.ndarray] = []
        for i, end in enumerate(reach):
            apart = np.maximum(top[i + 1 : end] - bottom[i], top[i] - bottom[i + 1 : end])
            near = np.flatnonzero(apart <= join) + i + 1
            one.append(np.full(len(near), i))
            other.append(near)
        ends = np.concatenate(one), np.concatenate(other)
        graph = coo_array((np.ones(len(ends[0]), np.int8), ends), shape=(len(boxes), len(boxes)))
        count, owner = connected_components(graph, directed=False)
        if count == len(boxes):
            break
        boxes = _merged(boxes, owner.tolist())
    return boxes


def _merged(boxes: np.ndarray, owner: list[int]) -> np.ndarray:
    """One box around all boxes of each owner: int64 (owners, 4)."""
    names, index = np.unique(owner, return_inverse=True)
    merged = np.empty((len(names), 4), np.int64)
    merged[:, :2], merged[:, 2:] = np.iinfo(np.int64).max, 0
    for axis in (0, 1):
        np.minimum.at(merged[:, axis], index, boxes[:, axis])
        np.maximum.at(merged[:, axis + 2], index, boxes[:, axis + 2])
    return merged


class EqualCell(NamedTuple):
    """A cell of the size that all have: where it lies on the sheet, and by how many px its art is shifted so
    that it stands where it would if the cell could reach beyond the sheet."""

    rect: Rect
    shift: tuple[int, int]


def equal_cells(
    rects: list[Rect], size: tuple[int, int], align: Literal["centre", "feet"]
) -> list[EqualCell]:
    """Cells of one size, the largest piece's, each with its piece in the middle or standing at its foot, so
    that pivots do not wander from frame to frame. `size` is the sheet's."""
    if not rects:
        return []
    wide, high = max(r[2] for r in rects), max(r[3] for r in rects)
    cells = []
    for x, y, w, h in rects:
        left = x + (w - wide) // 2
        top = y + h - high if align == "feet" else y + (h - high) // 2
        at = min(max(left, 0), size[0] - wide), min(max(top, 0), size[1] - high)
        cells.append(EqualCell((*at, wide, high), (at[0] - left, at[1] - top)))
    return cells


def with_neighbours(mask: np.ndarray, boxes: list[Rect], cells: list[EqualCell]) -> list[int]:
    """The places of equal cells that hold ink outside their own piece's box. mask: bool (height, width)."""
    held = []
    for n, ((x, y, w, h), cell) in enumerate(zip(boxes, cells, strict=True)):
        left, top, wide, high = cell.rect
        inside = int(np.count_nonzero(mask[y : y + h, x : x + w]))
        if int(np.count_nonzero(mask[top : top + high, left : left + wide])) > inside:
            held.append(n)
    return held
