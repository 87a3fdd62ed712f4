"""Convex parts of an outline with holes: own decomposition, on the outline's own vertices.

Method: holes are joined to the ring around them by bridges, ears are cut off one by one (G. Meisters,
Polygons have ears, 1975), and triangles are put together again while they stay convex (S. Hertel and
K. Mehlhorn, Fast triangulation of simple polygons, 1983). No vertex is added, so whole px stay whole.
"""

from __future__ import annotations

from collections.abc import Sequence

Point = tuple[float, float]


def convex_parts(outer: Sequence[Point], holes: Sequence[Sequence[Point]] = ()) -> list[list[Point]]:
    """Convex rings, clockwise on screen (y down), that do not overlap and add up to the outline.

    outer: clockwise ring; holes: rings inside it, either way round. Rings may touch at points.
    """
    ring = [_plain(p) for p in outer]
    if _twice_area(ring) < 0:
        ring.reverse()
    inner = []
    for hole in holes:
        turned = [_plain(p) for p in hole]
        if _twice_area(turned) > 0:
            turned.reverse()
        inner.append(turned)
    whole = _twice_area(ring) + sum(_twice_area(hole) for hole in inner)
    parts = _cut_up(ring, inner)
    if abs(sum(_twice_area(part) for part in parts) - whole) > 1e-6 * max(whole, 1):
        parts = _slabs([ring, *inner])  # rings that touch at many points can leave no clean ear
    return [_without_straight(part) for part in _merged(parts)]


def _cut_up(ring: list[Point], holes: list[list[Point]]) -> list[list[Point]]:
    """Triangles of a ring with holes; they may miss some of it where rings touch one another."""
    left = sorted(holes, key=lambda h: -max(p[0] for p in h))
    try:
        while left:
            hole = left.pop(0)
            ring = _bridged(ring, hole, left)
    except ValueError:
        return []
    return _triangles(ring)


def _slabs(rings: list[list[Point]]) -> list[list[Point]]:
    """Trapezoids between the heights of all vertices, by the even-odd rule."""
    edges = [(a, b) if a[1] < b[1] else (b, a) for ring in rings for a, b in _edges(ring) if a[1] != b[1]]
    heights = sorted({p[1] for ring in rings for p in ring})
    made = []
    for top, bottom in zip(heights, heights[1:], strict=False):
        middle = (top + bottom) / 2
        across = sorted(
            (e for e in edges if e[0][1] <= top and e[1][1] >= bottom), key=lambda e: _x_at(e, middle)
        )
        for left, right in zip(across[0::2], across[1::2], strict=True):
            ring = [(_x_at(left, top), top), (_x_at(right, top), top),
                    (_x_at(right, bottom), bottom), (_x_at(left, bottom), bottom)]  # fmt: skip
            corners = [p for n, p in enumerate(ring) if p != ring[n - 1]]
            if len(corners) > 2:
                made.append(corners)
    return made


def _x_at(edge: tuple[Point, Point], y: float) -> float:
    (x0, y0), (x1, y1) = edge
    return x0 + (x1 - x0) * (y - y0) / (y1 - y0)


def _plain(point: Sequence[float]) -> Point:
    x, y = point
    return float(x), float(y)


def _cross(a: Point, b: Point, c: Point) -> float:
    """Twice the area of a triangle; above 0 when it turns clockwise on screen."""
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _twice_area(ring: Sequence[Point]) -> float:
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(ring, [*ring[1:], ring[0]], strict=True))


# -- holes -------------------------------------------------------------------------------------------------


def _bridged(ring: list[Point], hole: list[Point], rest: list[list[Point]]) -> list[Point]:
    """The ring with a hole joined to it by its shortest free bridge."""
    edges = [*_edges(ring), *_edges(hole), *(e for other in rest for e in _edges(other))]
    pairs = sorted(
        ((p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2, i, j)
        for i, p in enumerate(ring)
        for j, q in enumerate(hole)
    )
    for _away, i, j in pairs:
        p, q = ring[i], hole[j]
        if p == q or _is_free(p, q, edges) and _opens(ring, i, q) and _opens(hole, j, p):
            around = hole[j:] + hole[:j]
            if p == q:
                return ring[: i + 1] + around[1:] + ring[i:]
            return ring[: i + 1] + around + [q] + ring[i:]
    raise ValueError("a hole lies outside its outline")


def _edges(ring: list[Point]) -> list[tuple[Point, Point]]:
    return list(zip(ring, [*ring[1:], ring[0]], strict=True))


def _is_free(p: Point, q: Point, edges: list[tuple[Point, Point]]) -> bool:
    """Whether no edge crosses or touches the stretch from p to q between its ends."""
    for a, b in edges:
        d1, d2 = _cross(p, q, a), _cross(p, q, b)
        if d1 == 0 and _within(p, q, a) or d2 == 0 and _within(p, q, b):
            return False
        if (d1 > 0) != (d2 > 0) and d1 != 0 and d2 != 0:
            d3, d4 = _cross(a, b, p), _cross(a, b, q)
            if (d3 > 0) != (d4 > 0) and d3 != 0 and d4 != 0:
                return False
    return True


def _within(p: Point, q: Point, a: Point) -> bool:
    """Whether a, on the line through p and q, lies strictly between them."""
    if a in (p, q):
        return False
    return min(p[0], q[0]) <= a[0] <= max(p[0], q[0]) and min(p[1], q[1]) <= a[1] <= max(p[1], q[1])


def _opens(ring: list[Point], i: int, to: Point) -> bool:
    """Whether the way from a ring's vertex to `to` leads into the solid side (right of the ring's way)."""
    before, at, after = ring[i - 1], ring[i], ring[(i + 1) % len(ring)]
    if _cross(before, at, after) > 0:
        return _cross(before, at, to) > 0 and _cross(at, after, to) > 0
    return _cross(before, at, to) > 0 or _cross(at, after, to) > 0


# -- ears --------------------------------------------------------------------------------------------------


def _triangles(ring: list[Point]) -> list[list[Point]]:
    points = list(ring)
    made: list[list[Point]] = []
    strict = True
    at = tried = 0
    while len(points) > 3:
        count = len(points)
        a, b, c = points[at - 1], points[at % count], points[(at + 1) % count]
        turn = _cross(a, b, c)
        if turn == 0 and (tried >= count or _spike(a, b, c)):
            del points[at % count]
            at, tried = at % len(points), 0
            continue
        if turn > 0 and _is_ear(points, at % count, strict):
            made.append([a, b, c])
            del points[at % count]
            at, tried, strict = at % len(points), 0, True
            continue
        at, tried = (at + 1) % count, tried + 1
        if tried > count:
            if not strict:
                break
            strict, tried = False, 0
    if len(points) == 3 and _cross(*points) > 0:
        made.append(points)
    return made


def _spike(a: Point, b: Point, c: Point) -> bool:
    """Whether the ring goes back where it came from at b."""
    return a == c or b in (a, c)


def _is_ear(points: list[Point], at: int, strict: bool) -> bool:
    """Whether no vertex lies in the triangle at a place; `strict` counts those on the cut as well."""
    count = len(points)
    a, b, c = points[at - 1], points[at], points[(at + 1) % count]
    for p in points:
        if p in (a, b, c):
            continue
        d1, d2, d3 = _cross(a, b, p), _cross(b, c, p), _cross(c, a, p)
        if d1 > 0 and d2 > 0 and (d3 > 0 or strict and d3 == 0):
            return False
    return True


# -- putting together ----------------------------------------------------------------------------------------


def _merged(parts: list[list[Point]]) -> list[list[Point]]:
    """Parts that share an edge put together while the whole stays convex."""
    rings: dict[int, list[Point]] = dict(enumerate(parts))
    owner: dict[tuple[Point, Point], int] = {}
    for n, ring in rings.items():
        for edge in _edges(ring):
            owner[edge] = n
    queue = [edge for ring in parts for edge in _edges(ring)]
    while queue:
        a, b = queue.pop()
        one, two = owner.get((a, b)), owner.get((b, a))
        if one is None or two is None or one == two:
            continue
        joined = _joined(rings[one], rings[two], a, b)
        if joined is None:
            continue
        for edge in (*_edges(rings[one]), *_edges(rings[two])):
            owner.pop(edge, None)
        rings[one] = joined
        del rings[two]
        for edge in _edges(joined):
            owner[edge] = one
            queue.append(edge)
    return list(rings.values())


def _joined(one: list[Point], two: list[Point], a: Point, b: Point) -> list[Point] | None:
    """Two rings without their common edge a-b, if that is convex."""
    i, j = one.index(a), two.index(b)
    first = one[i + 1 :] + one[: i + 1]  # from b round to a
    second = two[j + 1 :] + two[: j + 1]  # from a round to b
    ring = first + second[1:-1]
    if len(set(ring)) != len(ring):
        return None
    count = len(ring)
    for n in range(count):
        if _cross(ring[n - 1], ring[n], ring[(n + 1) % count]) < 0:
            return None
    return ring


def _without_straight(ring: list[Point]) -> list[Point]:
    """The ring without vertices on a straight line."""
    kept = [p for n, p in enumerate(ring) if _cross(ring[n - 1], p, ring[(n + 1) % len(ring)]) != 0]
    return kept or ring
