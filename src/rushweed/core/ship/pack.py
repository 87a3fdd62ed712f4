"""Packs rectangles into pages: the lowest place along a skyline, the one that wastes least.

Source of the skyline structure: J. Jylänki, "A Thousand Ways to Pack the Bin", 2010, section 2.2; the
choice of page size and the scoring are our own.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from rushweed.core.document.errors import EditError

SPLIT = 0.8  # share of a page that is filled, below which two smaller ones are looked for,
GRID_WASTE = 1.15  # times the least area that a squarer grid may take
SAVED = 128 * 128  # if they take so many px less


class Packed(NamedTuple):
    """Size in px and the place (x, y) of each rectangle, by its index."""

    width: int
    height: int
    places: dict[int, tuple[int, int]]


def pack(sizes: list[tuple[int, int]], limit: int = 4096, power_of_two: bool = False) -> list[Packed]:
    """Place rectangles of (width, height) px without overlap on as few pages as it finds.

    Every page is at most `limit` px a side, and a power of two a side if asked. Deterministic: the
    same sizes give the same pages. Raises EditError if one rectangle is larger than a page.
    """
    if power_of_two:
        limit = 1 << (limit.bit_length() - 1)
    for w, h in sizes:
        if w > limit or h > limit:
            raise EditError(
                f"A cell of {w} x {h} px (with its gutter) does not fit on a page of {limit} px.",
                "Raise the page size or cut the sheet smaller.",
            )
    left = sorted(range(len(sizes)), key=lambda i: (-sizes[i][1], -sizes[i][0], i))
    pages = []
    while left:
        page = _best_page(sizes, left, limit, power_of_two)
        pages.append(page)
        left = [i for i in left if i not in page.places]
    return pages


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


def _best_page(sizes: list[tuple[int, int]], order: list[int], limit: int, power: bool) -> Packed:
    """The smallest page found that holds all, of equal ones the squarest; or the fullest page of the greatest
    size. With powers of two a page of half that area that holds most of it, where that takes less in all."""
    area = sum(sizes[i][0] * sizes[i][1] for i in order)
    widest = max(sizes[i][0] for i in order)
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


def _half_page(
    sizes: list[tuple[int, int]], order: list[int], whole: Packed, area: int, limit: int
) -> Packed | None:
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
        rest = [i for i in order if i not in places]
        if not rest or not places:
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


def _skyline(
    sizes: list[tuple[int, int]], order: list[int], width: int, most: int
) -> tuple[dict[int, tuple[int, int]], int]:
    """Fill one page of `width`; returns the places and the height used. Rectangles that do not fit
    under `most` are left out."""
    xs, ys, ws = [0], [0], [width]  # the skyline: segments from left to right
    holes: list[tuple[int, int, int, int]] = []  # rooms under the skyline, kept for small ones
    places: dict[int, tuple[int, int]] = {}
    used = 0
    for index in order:
        w, h = sizes[index]
        spot = _take_hole(holes, w, h)
        if spot is not None:
            places[index] = spot
            continue
        best: tuple[int, int, int] | None = None
        for k in range(len(xs)):
            found = _rest(xs, ys, ws, k, w, width)
            if found is None or found[0] + h > most:
                continue
            score = (found[0] + h, found[1], k)
            if best is None or score < best:
                best = score
        if best is None:
            continue
        top, k = best[0] - h, best[2]
        x = xs[k]
        places[index] = (x, top)
        used = max(used, top + h)
        _raise(xs, ys, ws, k, x, w, top, top + h, holes)
    return places, used


def _rest(xs: list[int], ys: list[int], ws: list[int], k: int, w: int, width: int) -> tuple[int, int] | None:
    """The height at which a rectangle rests on segments from k on, and the area it would waste."""
    if xs[k] + w > width:
        return None
    right, top, i = xs[k] + w, 0, k
    while i < len(xs) and xs[i] < right:
        top = max(top, ys[i])
        i += 1
    waste = sum((top - ys[j]) * (min(xs[j] + ws[j], right) - xs[j]) for j in range(k, i))
    return top, waste


def _raise(
    xs: list[int],
    ys: list[int],
    ws: list[int],
    k: int,
    x: int,
    w: int,
    top: int,
    new: int,
    holes: list[tuple[int, int, int, int]],
) -> None:
    """Lift the skyline to `new` over x..x + w; rooms left below are kept as holes."""
    right, i = x + w, k
    while i < len(xs) and xs[i] < right:
        end = xs[i] + ws[i]
        if top > ys[i]:
            holes.append((xs[i], ys[i], min(end, right) - xs[i], top - ys[i]))
        if end > right:
            xs[i], ws[i] = right, end - right
            break
        del xs[i], ys[i], ws[i]
    xs.insert(k, x)
    ys.insert(k, new)
    ws.insert(k, w)
    for j in (k + 1, k):
        if 0 < j < len(xs) and ys[j] == ys[j - 1]:
            ws[j - 1] += ws[j]
            del xs[j], ys[j], ws[j]


def _take_hole(holes: list[tuple[int, int, int, int]], w: int, h: int) -> tuple[int, int] | None:
    best, room = -1, 0
    for k, (_x, _y, hw, hh) in enumerate(holes):
        if hw >= w and hh >= h and (best < 0 or hw * hh < room):
            best, room = k, hw * hh
    if best < 0:
        return None
    x, y, hw, hh = holes.pop(best)
    if hw > w:
        holes.append((x + w, y, hw - w, h))
    if hh > h:
        holes.append((x, y + h, hw, hh - h))
    return x, y
