"""Px of soft edges laid on lines, compiled; fringe.py holds the plain form."""

from __future__ import annotations

import numpy as np
from numba import types

from rushweed.core.compiled import A1, A2, I8, NONE, compiled

F4 = types.float32
LINE, FLAT, DEEP = types.float32[::1], types.float32[:, ::1], types.int32[:, ::1]
LIMITS = types.UniTuple(types.float32, 10)  # type: ignore[no-untyped-call]


@compiled(NONE(A1, A1, I8, FLAT, FLAT, DEEP, LINE, A2, LINE, LIMITS, LINE, FLAT, LINE))
def lay_on_lines(
    ys: np.ndarray, xs: np.ndarray, layer: int, colour: np.ndarray, pure: np.ndarray, depth: np.ndarray,
    alpha: np.ndarray, around: np.ndarray, far: np.ndarray, limits: tuple[np.float32, ...],
    share: np.ndarray, inner: np.ndarray, off: np.ndarray,
) -> None:  # fmt: skip
    """As `fringe._laid_on_lines`; the last three are written to, of px flat by rows."""
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
