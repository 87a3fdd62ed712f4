"""Rectangles in rows, as they are read."""

from __future__ import annotations

Rect = tuple[int, int, int, int]


def reading_order(rects: list[Rect]) -> list[Rect]:
    """Row by row, each from left to right, even when the rows are ragged."""
    return [rect for line in row_lines(rects) for rect in line]


def row_lines(rects: list[Rect]) -> list[list[Rect]]:
    """The rows, top to bottom, each from left to right.

    A piece belongs to a row if its middle lies within the row's height, or the row's middle within its own.
    """
    rows: list[tuple[float, float, list[Rect]]] = []
    for rect in sorted(rects, key=lambda r: (r[1] + r[3] / 2, r[0])):
        middle = rect[1] + rect[3] / 2
        for i in reversed(range(len(rows))):  # the row just begun is the likeliest
            top, bottom, members = rows[i]
            inside = top <= middle < bottom or rect[1] <= (top + bottom) / 2 < rect[1] + rect[3]
            if inside:
                members.append(rect)
                first = members[0]
                rows[i] = (min(top, first[1]), max(bottom, first[1] + first[3]), members)
                break
        else:
            rows.append((rect[1], rect[1] + rect[3], [rect]))
    rows.sort(key=lambda row: (row[0] + row[1]) / 2)
    return [sorted(members, key=lambda r: (r[0], r[1])) for _top, _bottom, members in rows]
