"""One cell drawn over a picture, and colours straightened, compiled; sample.py holds the plain forms."""

from __future__ import annotations

import math

import numpy as np
from numba import types

from rushweed.core.compiled import A1, I8, NONE, compiled

PICTURE, PLACE = types.float32[:, :, ::1], types.float64[::1]
LEVEL = types.Array(types.float32, 3, "C", readonly=True)
F4, F8, B1 = types.float32, types.float64, types.boolean
TEXEL = types.UniTuple(types.float32, 4)
Texel = tuple[np.float32, np.float32, np.float32, np.float32]
BYTE = np.float32(1 / 255)


@compiled(I8(I8, I8, B1))
def _held(index: int, size: int, repeat: bool) -> int:
    """A texel of a level for an index beyond it."""
    return index % size if repeat else min(max(index, 0), size - 1)


@compiled(F8(F8, F8, F8))
def _covered(along: float, size: float, scale: float) -> float:
    """How much of an output px lies within 0..size along one axis."""
    first = min(max(along * scale + 0.5, 0.0), 1.0)
    last = min(max((size - along) * scale + 0.5, 0.0), 1.0)
    return min(max(first + last - 1.0, 0.0), 1.0)


@compiled(F4(F4, F4, F4))
def _between(one: np.float32, other: np.float32, share: np.float32) -> np.float32:
    return one + (other - one) * share


@compiled(TEXEL(LEVEL, F8, F8, B1, B1))
def _read(level: np.ndarray, u: float, v: float, nearest: bool, repeat: bool) -> Texel:
    """One level at a place."""
    height, width = level.shape[0], level.shape[1]
    if nearest:
        here = level[_held(math.floor(v), height, repeat), _held(math.floor(u), width, repeat)]
        return here[0], here[1], here[2], here[3]
    x0, y0 = math.floor(u - 0.5), math.floor(v - 0.5)
    tx, ty = np.float32(u - 0.5 - x0), np.float32(v - 0.5 - y0)
    left, right = _held(x0, width, repeat), _held(x0 + 1, width, repeat)
    above, below = level[_held(y0, height, repeat)], level[_held(y0 + 1, height, repeat)]
    a, b, c, d = above[left], above[right], below[left], below[right]
    return (
        _between(_between(a[0], b[0], tx), _between(c[0], d[0], tx), ty),
        _between(_between(a[1], b[1], tx), _between(c[1], d[1], tx), ty),
        _between(_between(a[2], b[2], tx), _between(c[2], d[2], tx), ty),
        _between(_between(a[3], b[3], tx), _between(c[3], d[3], tx), ty),
    )


@compiled(NONE(PICTURE, LEVEL, LEVEL, F4, A1, PLACE))
def draw(
    picture: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    mix: np.float32,
    how: np.ndarray,
    place: np.ndarray,
) -> None:
    """Draw a cell over `picture`, in place. `low` and `high` are the two levels that are mixed, `mix` the
    share of the second. `how`: top, left, bottom, right of the output px; whether nearest, repeated, straight
    alpha, soft. `place`: cosine, sine, scale; the pivot's place in the picture (x, y) and in the cell (x, y);
    the cell (x, y, w, h); the levels' texels to one of the largest (low x, y; high x, y)."""
    cos, sin, scale = place[0], place[1], place[2]
    nearest, repeat, straight, soft = how[4] != 0, how[5] != 0, how[6] != 0, how[7] != 0
    w, h = place[9], place[10]
    for row in range(how[0], how[2]):
        down = row + 0.5 - place[4]
        for column in range(how[1], how[3]):
            across = column + 0.5 - place[3]
            x = (across * cos + down * sin) / scale + place[5]
            y = (down * cos - across * sin) / scale + place[6]
            if soft:
                covered = np.float32(_covered(x, w, scale)) * np.float32(_covered(y, h, scale))
                if covered == 0:
                    continue
            else:
                if x < 0 or x >= w or y < 0 or y >= h:
                    continue
                covered = np.float32(1)
            u, v = x + place[7], y + place[8]
            r, g, b, a = _read(low, u * place[11], v * place[12], nearest, repeat)
            if mix > 0:
                r2, g2, b2, a2 = _read(high, u * place[13], v * place[14], nearest, repeat)
                r, g = _between(r, r2, mix), _between(g, g2, mix)
                b, a = _between(b, b2, mix), _between(a, a2, mix)
            if straight:
                seen = a * BYTE
                r, g, b = r * seen, g * seen, b * seen
            a *= covered
            under = np.float32(1) - a * BYTE
            px = picture[row, column]
            px[0], px[1] = px[0] * under + r * covered, px[1] * under + g * covered
            px[2], px[3] = px[2] * under + b * covered, px[3] * under + a


@compiled(NONE(types.Array(types.float32, 2, "C", readonly=True), types.uint8[:, ::1]))
def straighten(premultiplied: np.ndarray, out: np.ndarray) -> None:
    """Premultiplied colours of 0..255, (px, 4), to straight ones."""
    for n in range(out.shape[0]):
        alpha = premultiplied[n, 3]
        share = np.float32(255) / (alpha if alpha > 0 else np.float32(1))
        for c in range(4):
            value = np.rint(premultiplied[n, c] * share if c < 3 else alpha)
            out[n, c] = np.uint8(min(max(value, np.float32(0)), np.float32(255)))
