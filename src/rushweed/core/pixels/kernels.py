"""Px of soft edges laid on lines, compiled; fringe.py holds the plain form."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, I8, NONE, compiled

F4 = types.float32
LINE, FLAT, DEEP = types.float32[::1], types.float32[:, ::1], types.int32[:, ::1]
LIMITS = types.UniTuple(types.float32, 10)  # type: ignore[no-untyped-call]


class Picture(NamedTuple):
    """Of px flat by rows; only the depth is (height, width)."""

    colour: np.ndarray  # float32 (px, 3)
    pure: np.ndarray  # float32 (px, 3)
    alpha: np.ndarray  # float32 (px,)
    depth: np.ndarray  # int32, how many px from the edge


class Search(NamedTuple):
    """Where a px that explains another is looked for, nearest first, and what fits."""

    around: np.ndarray  # int64 (n, 2), down and right
    far: np.ndarray  # float32 (n,), what each costs
    limits: tuple[np.float32, ...]


class Found(NamedTuple):
    """What is found for some px, float32."""

    share: np.ndarray  # (n,), the alpha
    inner: np.ndarray  # (n, 3), the colour
    off: np.ndarray  # (n,), how far off the line


PICTURE = types.NamedTuple((FLAT, FLAT, LINE, DEEP), Picture)  # type: ignore[no-untyped-call]
SEARCH = types.NamedTuple((A2, LINE, LIMITS), Search)  # type: ignore[no-untyped-call]
FOUND = types.NamedTuple((LINE, FLAT, LINE), Found)  # type: ignore[no-untyped-call]


@compiled(NONE(A1, A1, I8, PICTURE, SEARCH, FOUND))
def lay_on_lines(
    ys: np.ndarray, xs: np.ndarray, layer: int, picture: Picture, search: Search, found: Found
) -> None:
    """As `fringe._laid_on_lines`, of px at (ys, xs)."""
    (colour, pure, alpha, depth), (around, far, limits), (share, inner, off) = picture, search, found
    shortest, least, rise, loose, tight, by_length, longest, fuller, as_deep, as_deep_most = limits
    height, width = depth.shape
    one = np.float32(1)
    for i in range(len(ys)):
        here = ys[i] * width + xs[i]
        c0, c1, c2 = colour[here, 0], colour[here, 1], colour[here, 2]
        best = np.float32(np.inf)
        for k in range(len(far)):
            if best <= far[k]:
                break
            y, x = ys[i] + around[k, 0], xs[i] + around[k, 1]
            if y < 0 or y >= height or x < 0 or x >= width or depth[y, x] < layer:
                continue
            there = y * width + x
            o0, o1, o2 = pure[there, 0], pure[there, 1], pure[there, 2]
            square = o0 * o0 + o1 * o1 + o2 * o2
            if not square > shortest:
                continue
            part = (c0 * o0 + c1 * o1 + c2 * o2) / max(square, one)
            level = depth[y, x] == layer
            if part <= least or part > alpha[there] + rise or (level and part > as_deep_most):
                continue
            away = max(abs(c0 - part * o0), abs(c1 - part * o1), abs(c2 - part * o2))
            away /= max(tight, by_length * min(np.sqrt(square), longest))
            cost = away + far[k] + fuller * part
            if level:
                cost += as_deep
            if away <= loose and cost < best:
                best = cost
                share[i], off[i] = part, away
                inner[i, 0], inner[i, 1], inner[i, 2] = o0, o1, o2
