"""Packs rectangles into pages: the lowest place along a skyline, the one that wastes least.

Source of the skyline structure: J. Jylänki, "A Thousand Ways to Pack the Bin", 2010, section 2.2; the
choice of page size and the scoring are our own.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import EditError

ENOUGH = 0.93  # of a page that waits to be filled, before it is
SPLIT = 0.8  # share of a page that is filled, below which two smaller ones are looked for,
GRID_WASTE = 1.15  # times the least area that a squarer grid may take
SAVED = 128 * 128  # if they take so many px less


class Packed(NamedTuple):
    """Size in px and what stands where: rows (index of a rectangle, x, y)."""

    width: int
    height: int
    places: np.ndarray


def pack_groups(
    sizes: np.ndarray, groups: np.ndarray, limit: int = 4096, power_of_two: bool = False
) -> list[Packed]:
    """As `pack`, but where several pages are needed, rectangles of one group (a number for each, in order)
    come to stand on the same page or the next: what belongs together is loaded together, and a change in one
    group changes few pages."""
    if power_of_two:
        limit = 1 << (limit.bit_length() - 1)
    room = limit * limit
    areas = sizes.prod(axis=1)
    if areas.sum() <= room or (sizes > limit).any():
        return pack(sizes, limit, power_of_two)
    pages: list[Packed] = []
    waiting, area, first = np.zeros(0, np.int64), 0, 0
    ends = np.append(np.flatnonzero(np.diff(groups)) + 1, len(sizes))
    for end in ends.tolist():
        waiting = np.append(waiting, np.arange(first, end))
        area, first = area + int(areas[first:end].sum()), end
        if area < ENOUGH * room:
            continue
        places, height = _skyline(sizes, _tallest_first(sizes, waiting), limit, limit)
        pages.append(Packed(limit, limit if power_of_two else height, places))
        waiting = _without(waiting, places)
        area = int(areas[waiting].sum())
    for page in pack(sizes[waiting], limit, power_of_two):
        page.places[:, 0] = waiting[page.places[:, 0]]
        pages.append(page)
    return pages


def pack(sizes: np.ndarray, limit: int = 4096, power_of_two: bool = False) -> list[Packed]:
    """Place rectangles of (width, height) px without overlap on as few pages as it finds.

    Every page is at most `limit` px a side, and a power of two a side if asked. Deterministic: the
    same sizes give the same pages. Raises EditError if one rectangle is larger than a page.
    """
    if power_of_two:
        limit = 1 << (limit.bit_length() - 1)
    over = np.flatnonzero((sizes > limit).any(axis=1))
    if len(over):
        w, h = sizes[over[0]].tolist()
        raise EditError(
            f"A cell of {w} x {h} px (with its gutter) does not fit on a page of {limit} px.",
            "Raise the page size or cut the sheet smaller.",
        )
    left = _tallest_first(sizes, np.arange(len(sizes)))
    pages = []
    while len(left):
        page = _best_page(sizes, left, limit, power_of_two)
        pages.append(page)
        left = _without(left, page.places)
    return pages


def _tallest_first(sizes: np.ndarray, indices: np.ndarray) -> np.ndarray:
    """Indices of rectangles by height, then width, then as they come."""
    held = np.sort(indices)
    order: np.ndarray = held[np.lexsort((-sizes[held, 0], -sizes[held, 1]))]
    return order


def _without(indices: np.ndarray, places: np.ndarray) -> np.ndarray:
    """The indices that found no place, in their order."""
    left: np.ndarray = indices[~np.isin(indices, places[:, 0])]
    return left


def grid_pages(
    count: int, pitch: tuple[int, int], limit: int, power: bool = False
) -> list[tuple[int, int, tuple[int, int]]]:
    """Pages for `count` places in rows, each `pitch` px wide and high: columns, how many are there, and the
    size in px. Every page is at most `limit` px a side, of those that take little more than the least area
    the squarest."""
    made = []
    while count:
        tries = []
        for columns in range(1, min(count, limit // pitch[0]) + 1):
            held = min(count, columns * (limit // pitch[1]))
            size = (columns * pitch[0], -(-held // columns) * pitch[1])
            if power:
                size = (1 << (size[0] - 1).bit_length(), 1 << (size[1] - 1).bit_length())
            tries.append((held, size[0] * size[1], columns, size))
        most = max(held for held, *_rest in tries)
        least = min(area for held, area, *_rest in tries if held == most)
        near = [one for one in tries if one[0] == most and one[1] <= GRID_WASTE * least]
        _held, _area, columns, size = min(near, key=lambda one: (max(one[3]), one[1], one[2]))
        made.append((columns, most, size))
        count -= most
    return made


def _best_page(sizes: np.ndarray, order: np.ndarray, limit: int, power: bool) -> Packed:
    """The smallest page found that holds all, of equal ones the squarest; or the fullest page of the greatest
    size. With powers of two a page of half that area that holds most of it, where that takes less in all."""
    area = int(sizes[order].prod(axis=1).sum())
    widest = int(sizes[order, 0].max())
    best: Packed | None = None
    for width in _widths(area, widest, limit, power):
        places, height = _skyline(sizes, order, width, limit)
        if len(places) < len(order):
            continue
        if power:
            height = 1 << (height - 1).bit_length()
        page = Packed(width, height, places)
        if height <= limit and (best is None or _cost(page) < _cost(best)):
            best = page
    if best is None:
        places, height = _skyline(sizes, order, limit, limit)
        return Packed(limit, limit if power else height, places)
    half = _half_page(sizes, order, best, area, limit) if power else None
    return half or best


def _cost(page: Packed) -> tuple[int, int]:
    """Less is better: the area, then the longer side."""
    return page.width * page.height, max(page.width, page.height)


def _half_page(sizes: np.ndarray, order: np.ndarray, whole: Packed, area: int, limit: int) -> Packed | None:
    """A page of half the area of `whole`, well filled, where what it leaves over needs less than the other
    half; None if there is none."""
    half = whole.width * whole.height // 2
    if area > SPLIT * 2 * half:
        return None
    side = 1 << (half.bit_length() // 2)
    for width in (side, side // 2, side * 2):
        height = half // width if width else 0
        if width * height != half or max(width, height) > limit:
            continue
        places, _used = _skyline(sizes, order, width, height)
        rest = _without(order, places)
        if not len(rest) or not len(places):
            continue
        other = _best_page(sizes, rest, max(width, height), True)
        if len(other.places) == len(rest) and other.width * other.height <= half - SAVED:
            return Packed(width, height, places)
    return None


def _widths(area: int, widest: int, limit: int, power: bool) -> list[int]:
    if power:
        return [
            w
            for w in (1 << k for k in range(limit.bit_length()))
            if widest <= w <= limit and w * limit >= area
        ]
    side = math.sqrt(area)
    tries = {min(max(widest, math.ceil(side * f)), limit) for f in (1.0, 1.1)}
    return sorted(w for w in tries if w * limit >= area) or [limit]


def _skyline(sizes: np.ndarray, order: np.ndarray, width: int, most: int) -> tuple[np.ndarray, int]:
    """Fill one page of `width`; returns rows (index, x, y) in the order given and the height used. Rectangles
    that do not fit under `most` are left out."""
    from rushweed.core.ship.kernels import skyline  # late: who only opens a window does without

    asked, count = sizes[order], len(order)
    spots = np.full((count, 2), -1, np.int64)
    line, holes = np.zeros((count + 2, 3), np.int64), np.zeros((4 * count + 4, 4), np.int64)
    used = int(skyline(asked, np.arange(count), (width, most), spots, line, holes))
    fits = spots[:, 0] >= 0
    return np.concatenate((order[fits, None], spots[fits]), axis=1), used
