"""Takes the key colour's tint out of soft edges: alpha and colour of each edge px are solved together.

Method (our own): from the inside outwards, a px of the three outermost layers is laid on the line from the
key to the colour of a px near it that lies deeper, or as deep and farther from the key; how far along that
line it stands is its alpha, and what is left when the key's part is taken away is its colour. Unasked this
is done only where so many px of the border lie on such a line that they can hardly do so by chance, so that
art with hard edges loses nothing.
"""

from __future__ import annotations

from itertools import product
from typing import NamedTuple

import numpy as np

from rushweed.core.ready import kernels

DEPTH = 3  # px from the border that may be mixed
REACH = 3  # px to the inner colour
LEAST_LENGTH = 40.0  # of 255: colours nearer to the key tell nothing
OFF = 10.0  # of 255: how far a mixture may be off its line,
OFF_SHARE = 0.2  # or this share of the distance between inner colour and key
LOOSE = 3.0  # times that, where the edge is known to be soft
LEAST, MOST = -0.05, 0.96  # alpha of a mixed px, before it is bound to 0..1
RISE = 0.1  # by how much alpha may grow outwards
FARTHER = 0.02  # what a px farther away must fit better by, for each px of the way
FULLER = 1.0  # what one that leaves the px fuller must fit better by, for each 1 of alpha
AS_DEEP, AS_DEEP_MOST = 0.1, 0.9  # the same for one that lies as deep; the alpha that it may explain
HALF = (0.15, 0.8)  # alpha of px that count when it is judged whether edges are soft,
TIGHT = 0.3  # and how far off their line they may be
SOFT = 0.12  # share of half clear px from which they are,
SOFT_GREY = 0.5  # of grey art on a grey key, which all lies on one line
GREY = 16  # of 255: channels of a grey differ by less
COLOURED = 0.05  # share of coloured px from which art is not grey
BARE = 0.03  # a part of the picture with less than this share is hard beside soft ones
BAND = 1 << 20  # px that are looked at together
AROUND_BAND = DEPTH * REACH + DEPTH + 1  # rows around them that tell on them
FEW = 24  # px of border of a part that is too small to be judged by itself

LIMITS = tuple(
    np.float32(v)
    for v in (LEAST_LENGTH**2, LEAST, RISE, LOOSE, OFF, OFF_SHARE, 250, FULLER, AS_DEEP, AS_DEEP_MOST)
)
AROUND = np.array(
    sorted(
        (at for at in product(range(-REACH, REACH + 1), repeat=2) if at != (0, 0)),
        key=lambda at: abs(at[0]) + abs(at[1]),
    )
)
FAR = (FARTHER * (np.abs(AROUND).sum(axis=1) - 1)).astype(np.float32)  # what each must fit better by


class _Edge(NamedTuple):
    """What is known of px of the outer layers, (height, width) or one after another: `depth` from the border;
    float32 `alpha`, 1 where nothing is mixed, and `off`, how far off its line a px lies, 1 being what may be
    by rounding, inf where it is on none."""

    depth: np.ndarray
    alpha: np.ndarray
    off: np.ndarray


def cleans_by_itself(key: tuple[int, int, int]) -> bool:
    """Whether edges are cleaned unasked: not on black or white, which outlines and lights are drawn in."""
    return not (max(key) <= 24 or min(key) >= 231)


def clean_fringe(
    rgba: np.ndarray, out: np.ndarray, clear: np.ndarray, key: tuple[int, int, int], asked: bool = False
) -> int:
    """Change the mixed px of `out` in place; returns how many.

    rgba: the opaque picture, uint8 (height, width, 4); out: the same with `clear`, bool (height, width),
    made clear already. `asked`: whether its edges are soft is not judged but known.
    """
    at, edge = _edges(rgba, clear, key)
    mixed = (edge.off <= LOOSE) & (edge.alpha < MOST)
    if not asked:
        mixed &= _soft(rgba, at, edge, clear, key)
    at, share = at[mixed], np.clip(edge.alpha[mixed], 0.0, 1.0)
    drawn, cleaned = rgba.reshape(-1, 4)[at], out.reshape(-1, 4)
    found = _less(drawn, key) / np.maximum(share, 1 / 255)[:, None] + np.array(key, np.float32)
    made = np.empty_like(drawn)
    made[:, :3] = np.rint(np.clip(found, 0, 255)).astype(np.uint8)
    made[:, 3] = np.rint(share * drawn[:, 3]).astype(np.uint8)
    made[made[:, 3] == 0] = 0
    cleaned[at] = made
    return len(at)


def _less(rgba: np.ndarray, key: tuple[int, int, int]) -> np.ndarray:
    """Colours less the key, float32 (..., 3)."""
    return rgba[..., :3].astype(np.float32) - np.array(key, np.float32)


def _edges(rgba: np.ndarray, clear: np.ndarray, key: tuple[int, int, int]) -> tuple[np.ndarray, _Edge]:
    """The px of the outer layers, int64 places by rows, and what is known of each. A few rows are looked at
    at a time, with those around them that tell on them, so that large pictures take little room."""
    (height, width), places, found = clear.shape, [], []
    step = max(BAND // width, 1)
    for top in range(0, height, step):
        bottom = min(top + step, height)
        first, last = max(top - AROUND_BAND, 0), min(bottom + AROUND_BAND, height)
        some = clear[first:last]
        if some.all() or not some.any():
            continue
        solved = _solved(_less(rgba[first:last], key), some, key)
        own = solved.depth[top - first : bottom - first]
        inner = np.flatnonzero((own > 0) & (own <= DEPTH))
        places.append(inner + top * width)
        found.append([part[top - first : bottom - first].ravel()[inner] for part in solved])
    joined = (np.concatenate(parts) for parts in zip(*found, strict=True))
    return np.concatenate(places), _Edge(*joined)


def _soft(
    rgba: np.ndarray, at: np.ndarray, edge: _Edge, clear: np.ndarray, key: tuple[int, int, int]
) -> np.ndarray:
    """Which px of the edges are on soft ones, bool (n,): judged for the picture, then each of its parts."""
    from scipy import ndimage  # late: it takes a third of a second to import

    border = edge.depth == 1
    half = border & (edge.off <= TIGHT) & (edge.alpha > HALF[0]) & (edge.alpha < HALF[1])
    wanted = SOFT
    if max(key) - min(key) < GREY:
        drawn = np.ptp(rgba.reshape(-1, 4)[at[~border], :3], axis=1)
        wanted = SOFT_GREY if np.count_nonzero(drawn >= GREY) < COLOURED * len(drawn) else SOFT
    if np.count_nonzero(half) < wanted * np.count_nonzero(border):
        return np.zeros(len(at), bool)
    parts, count = ndimage.label(~clear, np.ones((3, 3)))
    part = parts.ravel()[at]
    of_all = np.bincount(part[border], minlength=count + 1)
    of_half = np.bincount(part[half], minlength=count + 1)
    return np.asarray(((of_half >= BARE * of_all) | (of_all < FEW))[part])


def _solved(colour: np.ndarray, clear: np.ndarray, key: tuple[int, int, int]) -> _Edge:
    """Alpha of the outer layers; colour: float32 (height, width, 3), less the key."""
    from scipy import ndimage

    inside = np.pad(~clear, 1, constant_values=True)  # the picture's border is no edge of the art
    depth = np.ascontiguousarray(ndimage.distance_transform_cdt(inside, "chessboard")[1:-1, 1:-1])
    edge = _Edge(depth, (~clear).astype(np.float32), np.full(clear.shape, np.inf, np.float32))
    pure = colour.copy()
    room = np.array([255 - c for c in key], np.float32), np.array(key, np.float32)
    for layer in range(DEPTH, 0, -1):
        ys, xs = (np.ascontiguousarray(at) for at in np.nonzero(depth == layer))
        share, inner, off = _laid_on_lines(ys, xs, layer, colour, pure, edge)
        own = colour[ys, xs]  # alpha so small that a channel would have to pass 0 or 255 is none
        least = np.maximum(own / np.maximum(room[0], 1), -own / np.maximum(room[1], 1)).max(axis=1)
        share = np.maximum(share, np.minimum(least, 1))
        fits = (off <= LOOSE) & (share < MOST)
        ys, xs = ys[fits], xs[fits]
        edge.alpha[ys, xs], edge.off[ys, xs], pure[ys, xs] = share[fits], off[fits], inner[fits]
    return edge


def _laid_on_lines(
    ys: np.ndarray, xs: np.ndarray, layer: int, colour: np.ndarray, pure: np.ndarray, edge: _Edge
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Alpha and inner colour of px at (ys, xs) from the px near them that explains them best; how far off
    the line they are then, inf for none."""
    colours, pures, alpha = colour.reshape(-1, 3), pure.reshape(-1, 3), edge.alpha.ravel()
    share, off = np.ones(len(ys), np.float32), np.full(len(ys), np.inf, np.float32)
    inner = colours[ys * edge.depth.shape[1] + xs]
    out = (share, inner, off)
    if (compiled := kernels("rushweed.core.pixels.kernels")) is not None:
        picture = compiled.Picture(colours, pures, alpha, edge.depth)
        search = compiled.Search(AROUND, FAR, LIMITS)
        compiled.lay_on_lines(ys, xs, layer, picture, search, compiled.Found(*out))
    else:
        _lay_on_lines((ys, xs), layer, (colours, pures, alpha), edge.depth, out)
    return out


def _lay_on_lines(
    places: tuple[np.ndarray, np.ndarray], layer: int, picture: tuple[np.ndarray, np.ndarray, np.ndarray],
    depth: np.ndarray, out: tuple[np.ndarray, np.ndarray, np.ndarray],
) -> None:  # fmt: skip
    """What is found (share, inner, how far off) is written to `out`; the picture is colour, pure: (px, 3),
    and alpha: (px,), flat by rows."""
    (ys, xs), (colour, pure, alpha), (share, inner, found_off) = places, picture, out
    shortest, least, rise, loose, tight, by_length, longest, fuller, as_deep, as_deep_most = LIMITS
    (height, width), level_of = depth.shape, depth.ravel()
    spots = ys * width + xs
    here = colour[spots]
    best = np.full(len(ys), np.inf, np.float32)
    for (dy, dx), far in zip(AROUND, FAR, strict=True):
        on = (ys + dy >= 0) & (ys + dy < height) & (xs + dx >= 0) & (xs + dx < width) & (best > far)
        which = np.flatnonzero(on)
        which = which[level_of[spots[which] + dy * width + dx] >= layer]
        there = spots[which] + dy * width + dx
        level = level_of[there] == layer
        own, other = here[which], pure[there]
        square = _times(other, other)
        part = _times(own, other) / np.maximum(square, np.float32(1))
        away = np.abs(own - part[:, None] * other).max(axis=1)
        away /= np.maximum(tight, by_length * np.minimum(np.sqrt(square), longest))
        good = (square > shortest) & (away <= loose) & (part > least)
        good &= (part <= alpha[there] + rise) & ~(level & (part > as_deep_most))
        cost = away + far + fuller * part
        cost[level] += as_deep
        good &= cost < best[which]
        chosen = which[good]
        best[chosen], found_off[chosen], share[chosen] = cost[good], away[good], part[good]
        inner[chosen] = other[good]


def _times(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Dot products of rows, added up in the order in which the compiled loop does."""
    product_of = one * other
    return np.asarray(product_of[:, 0] + product_of[:, 1] + product_of[:, 2])
