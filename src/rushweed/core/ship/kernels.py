"""The loops of shipping, compiled: rectangles along a skyline, clear borders, px laid on pages, colours, rows
of PNGs."""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, I8, NONE, PAIR, compiled

ROWS, ROWS_READ = types.uint8[:, ::1], types.Array(types.uint8, 2, "C", readonly=True)
PICTURE = types.Array(types.uint8, 3, "A", readonly=True)
CODES = types.Array(types.uint32, 1, "C", readonly=True)
ADAPTIVE = 5  # a filter for each row, the one that leaves least


# -- packing -----------------------------------------------------------------------------------------------


@compiled(I8(A2, I8, I8, I8))
def _hole_for(holes: np.ndarray, count: int, w: int, h: int) -> int:
    """The smallest of the first holes that holds w x h, or -1."""
    best, room = -1, 0
    for k in range(count):
        if holes[k, 2] >= w and holes[k, 3] >= h and (best < 0 or holes[k, 2] * holes[k, 3] < room):
            best, room = k, holes[k, 2] * holes[k, 3]
    return best


@compiled(I8(A2, I8, I8, I8, I8, I8))
def _add_hole(holes: np.ndarray, count: int, x: int, y: int, w: int, h: int) -> int:
    if w <= 0 or h <= 0 or count >= holes.shape[0]:
        return count
    holes[count, 0], holes[count, 1], holes[count, 2], holes[count, 3] = x, y, w, h
    return count + 1


@compiled(NONE(A2, I8, I8))
def _take_out(rows: np.ndarray, at: int, count: int) -> None:
    """Take one of the first rows out; their order stays."""
    for n in range(at, count - 1):
        for part in range(rows.shape[1]):
            rows[n, part] = rows[n + 1, part]


@compiled(PAIR(A2, I8, I8, I8, PAIR), inside=True)
def _lowest(line: np.ndarray, segments: int, w: int, h: int, page: tuple[int, int]) -> tuple[int, int]:
    """Where w x h lies lowest on the skyline of a page (its width, the most it is high), of equals with the
    least left free below: the segment it begins at, or -1, and its top."""
    width, most = page
    best, best_waste, at, top = -1, 0, -1, 0
    for k in range(segments):
        right = line[k, 0] + w
        if right > width:
            break
        rests, i = 0, k
        while i < segments and line[i, 0] < right:
            rests = max(rests, line[i, 1])
            i += 1
        if rests + h > most or (best >= 0 and rests + h > best):
            continue
        waste = 0
        for j in range(k, i):
            waste += (rests - line[j, 1]) * (min(line[j, 0] + line[j, 2], right) - line[j, 0])
        if best < 0 or rests + h < best or waste < best_waste:
            best, best_waste, at, top = rests + h, waste, k, rests
    return at, top


@compiled(PAIR(A2, A2, PAIR, I8, I8, PAIR), inside=True)
def _lift(
    line: np.ndarray, holes: np.ndarray, counts: tuple[int, int], at: int, top: int, size: tuple[int, int]
) -> tuple[int, int]:
    """Lift the skyline over a rectangle that lies at a segment, its top at `top`; what is left below it is
    kept as holes. Returns how many segments and holes there are now."""
    segments, gaps = counts
    x, right, i = line[at, 0], line[at, 0] + size[0], at
    while i < segments and line[i, 0] < right:
        end = line[i, 0] + line[i, 2]
        if top > line[i, 1]:
            gaps = _add_hole(
                holes, gaps, line[i, 0], line[i, 1], min(end, right) - line[i, 0], top - line[i, 1]
            )
        if end > right:
            line[i, 0], line[i, 2] = right, end - right
            break
        _take_out(line, i, segments)
        segments -= 1
    for n in range(segments, at, -1):
        for part in range(3):
            line[n, part] = line[n - 1, part]
    line[at, 0], line[at, 1], line[at, 2] = x, top + size[1], size[0]
    segments += 1
    for j in (at + 1, at):
        if 0 < j < segments and line[j, 1] == line[j - 1, 1]:
            line[j - 1, 2] += line[j, 2]
            _take_out(line, j, segments)
            segments -= 1
    return segments, gaps


@compiled(I8(A2, A1, PAIR, A2, A2, A2))
def skyline(
    sizes: np.ndarray, order: np.ndarray, page: tuple[int, int], places: np.ndarray, line: np.ndarray,
    holes: np.ndarray,
) -> int:  # fmt: skip
    """Fill one page (its width, the most it is high) with rectangles (w, h) in an order; returns the height
    used. `places` becomes (x, y) of each, -1 where it does not fit. `line` (x, y, w) and `holes` (x, y, w, h)
    are room to work in: the skyline's segments from left to right, and what is free below it."""
    segments, gaps, used = 1, 0, 0
    line[0, 0], line[0, 1], line[0, 2] = 0, 0, page[0]
    for index in order:
        w, h = sizes[index, 0], sizes[index, 1]
        places[index, 0], places[index, 1] = -1, -1
        hole = _hole_for(holes, gaps, w, h)
        if hole >= 0:
            x, y, hw, hh = holes[hole, 0], holes[hole, 1], holes[hole, 2], holes[hole, 3]
            places[index, 0], places[index, 1] = x, y
            _take_out(holes, hole, gaps)
            gaps = _add_hole(holes, gaps - 1, x + w, y, hw - w, h)
            gaps = _add_hole(holes, gaps, x, y + h, hw, hh - h)
            continue
        at, top = _lowest(line, segments, w, h, page)
        if at >= 0:
            places[index, 0], places[index, 1] = line[at, 0], top
            used = max(used, top + h)
            segments, gaps = _lift(line, holes, (segments, gaps), at, top, (w, h))
    return used


# -- px ----------------------------------------------------------------------------------------------------


@compiled(NONE(PICTURE, A2, A2))
def trim(rgba: np.ndarray, rects: np.ndarray, out: np.ndarray) -> None:
    """For each cell (x, y, w, h) the box of what is not clear in it; an empty one keeps one px."""
    for n in range(rects.shape[0]):
        x, y, w, h = rects[n, 0], rects[n, 1], rects[n, 2], rects[n, 3]
        left, right, top, bottom = w, -1, h, -1
        for row in range(h):
            first = 0
            while first < w and rgba[y + row, x + first, 3] == 0:
                first += 1
            if first == w:
                continue
            last = w - 1
            while rgba[y + row, x + last, 3] == 0:
                last -= 1
            left, right = min(left, first), max(right, last)
            top, bottom = min(top, row), row
        if right < 0:
            left, right, top, bottom = 0, 0, 0, 0
        out[n, 0], out[n, 1], out[n, 2], out[n, 3] = left, top, right + 1 - left, bottom + 1 - top


@compiled(NONE(types.uint8[:, :, ::1], PICTURE, A2))
def lay(out: np.ndarray, rgba: np.ndarray, spots: np.ndarray) -> None:
    """Copy px to where they stand on a page, their edges repeated around them. A spot is where the px begin
    in their picture (x, y), where they go (x, y, w, h) and what they fill with their edges (x, y, w, h)."""
    for n in range(spots.shape[0]):
        x, y, w, h = spots[n, 2], spots[n, 3], spots[n, 4], spots[n, 5]
        left, top = spots[n, 6], spots[n, 7]
        for row in range(top, top + spots[n, 9]):
            down = spots[n, 1] + min(max(row - y, 0), h - 1)
            for column in range(left, left + spots[n, 8]):
                across = spots[n, 0] + min(max(column - x, 0), w - 1)
                for part in range(4):
                    out[row, column, part] = rgba[down, across, part]


@compiled(I8(CODES, types.uint32[::1], A1))
def colours(codes: np.ndarray, found: np.ndarray, table: np.ndarray) -> int:
    """The different codes, in the order they come, into `found`; returns how many, one more than it holds
    where there are too many. `table` is room to work in, a power of two long."""
    mask, count = table.shape[0] - 1, 0
    for n in range(table.shape[0]):
        table[n] = -1
    last = codes[0] ^ 1
    for code in codes:
        if code == last:
            continue
        last = code
        at = (np.int64(code) * 2654435761 >> 12) & mask
        while table[at] >= 0 and found[table[at]] != code:
            at = (at + 1) & mask
        if table[at] < 0:
            if count == found.shape[0]:
                return count + 1
            found[count] = code
            table[at] = count
            count += 1
    return count


@compiled(NONE(ROWS_READ, I8, I8, I8, ROWS))
def _filter_row(px: np.ndarray, y: int, step: int, number: int, out: np.ndarray) -> None:
    """What one filter leaves of a row, after its number; before the first px and row stand noughts."""
    out[y, 0] = number
    row, rest, wide = px[y], out[y, 1:], px.shape[1]
    if number == 0:
        for x in range(wide):
            rest[x] = row[x]
    elif number == 1:
        for x in range(step):
            rest[x] = row[x]
        for x in range(step, wide):
            rest[x] = row[x] - row[x - step]
    elif number == 2:
        for x in range(wide):
            rest[x] = row[x] - (px[y - 1, x] if y else 0)
    elif number == 3:
        for x in range(wide):
            left = int(row[x - step]) if x >= step else 0
            up = int(px[y - 1, x]) if y else 0
            rest[x] = row[x] - ((left + up) >> 1)
    else:
        for x in range(wide):
            left = int(row[x - step]) if x >= step else 0
            up = int(px[y - 1, x]) if y else 0
            corner = int(px[y - 1, x - step]) if y and x >= step else 0
            a, b, c = abs(up - corner), abs(left - corner), abs(left + up - 2 * corner)
            rest[x] = row[x] - (left if a <= b and a <= c else up if b <= c else corner)


@compiled(NONE(ROWS_READ, I8, I8, ROWS))
def filtered(px: np.ndarray, step: int, number: int, out: np.ndarray) -> None:
    """The rows of a picture as PNG keeps them: the number of a filter, then what it leaves of each byte.
    `step` is the bytes of a px."""
    height, wide = px.shape
    for y in range(height):
        if number != ADAPTIVE:
            _filter_row(px, y, step, number, out)
            continue
        best, least = 0, np.int64(-1)
        for tried in range(ADAPTIVE):
            _filter_row(px, y, step, tried, out)
            weight = np.int64(0)
            for x in range(wide):
                rest = np.int64(out[y, x + 1])
                weight += min(rest, 256 - rest)
            if least < 0 or weight < least:
                best, least = tried, weight
        _filter_row(px, y, step, best, out)
