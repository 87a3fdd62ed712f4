"""Takes the key colour's tint out of soft edges: alpha and colour of each edge px are solved together.

Method (our own): from the inside outwards, a px of the three outermost layers is laid on the line from the
key to the colour of a px that lies deeper; how far along that line it stands is its alpha, and what is left
when the key's part is taken away is its colour. Whole parts of the picture whose border does not look mixed
stay as they are, so that art with hard edges loses nothing.
"""

from __future__ import annotations

from itertools import product

import numpy as np

DEPTH = 3  # px from the border that may be mixed
LEAST_LENGTH = 40.0  # of 255: colours nearer to the key tell nothing
OFF = 10.0  # of 255: how far a mixture may be off its line,
OFF_SHARE = 0.2  # or this share of the distance between inner colour and key
LEAST, MOST = -0.05, 0.96  # alpha of a mixed px, before it is bound to 0..1
RISE = 0.1  # by how much alpha may grow outwards
SOFT, SOFT_GREY = 0.5, 0.7  # share of a part's border that must look mixed; greys occur in shading
GREY = 40  # of 255: largest difference between the channels of a key that counts as grey
NEXT = 0.1  # what a px farther away must fit better by


def cleans_by_itself(key: tuple[int, int, int]) -> bool:
    """Whether edges are cleaned unasked: not on black or white, which outlines and lights are drawn in."""
    return not (max(key) <= 24 or min(key) >= 231)


def clean_fringe(rgba: np.ndarray, out: np.ndarray, clear: np.ndarray, key: tuple[int, int, int]) -> int:
    """Change the mixed px of `out` in place; returns how many.

    rgba: the opaque picture, uint8 (height, width, 4); out: the same with `clear`, bool (height, width),
    made clear already.
    """
    from scipy import ndimage  # late: it takes a third of a second to import

    inside = np.pad(~clear, 1, constant_values=True)  # the picture's border is no edge of the art
    depth = ndimage.distance_transform_cdt(inside, "chessboard")[1:-1, 1:-1]
    colour = rgba[..., :3].astype(np.float32) - np.array(key, np.float32)
    alpha = (~clear).astype(np.float32)
    pure, mixed = colour.copy(), np.zeros(clear.shape, bool)
    for layer in range(DEPTH, 0, -1):
        ys, xs = np.nonzero(depth == layer)
        share, inner, fits = _laid_on_lines(ys, xs, layer, depth, colour, pure, alpha)
        mixed[ys[fits], xs[fits]] = True
        alpha[ys[fits], xs[fits]], pure[ys[fits], xs[fits]] = share[fits], inner[fits]
    parts, count = ndimage.label(~clear, np.ones((3, 3)))
    border = depth == 1
    of_all = np.bincount(parts[border], minlength=count + 1)
    of_mixed = np.bincount(parts[border & mixed], minlength=count + 1)
    wanted = SOFT_GREY if max(key) - min(key) <= GREY else SOFT
    mixed &= (of_mixed >= wanted * np.maximum(of_all, 1))[parts]
    share = np.clip(alpha[mixed], 0.0, 1.0)
    found = colour[mixed] / np.maximum(share, 1 / 255)[:, None] + np.array(key, np.float32)
    out[mixed, :3] = np.rint(np.clip(found, 0, 255)).astype(np.uint8)
    out[mixed, 3] = np.rint(share * rgba[mixed, 3]).astype(np.uint8)
    out[mixed & (out[..., 3] == 0)] = 0
    return int(np.count_nonzero(mixed))


def _laid_on_lines(
    ys: np.ndarray, xs: np.ndarray, layer: int, depth: np.ndarray, colour: np.ndarray, pure: np.ndarray,
    alpha: np.ndarray,
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:  # fmt: skip
    """Alpha and inner colour of px at (ys, xs) from the deeper px within two px that fit best; which fit."""
    height, width = depth.shape
    spots, flat = ys * width + xs, (colour.reshape(-1, 3), pure.reshape(-1, 3))
    here = flat[0][spots]
    share, inner = np.ones(len(ys), np.float32), here.copy()
    best = np.full(len(ys), np.inf, np.float32)
    deeper = (depth > layer).ravel()
    for dy, dx in sorted(product(range(-2, 3), repeat=2), key=lambda at: abs(at[0]) + abs(at[1])):
        reach = NEXT * (abs(dy) + abs(dx) - 1)
        on = (ys + dy >= 0) & (ys + dy < height) & (xs + dx >= 0) & (xs + dx < width) & (best > reach)
        which = np.flatnonzero(on)
        which = which[deeper[spots[which] + dy * width + dx]]
        there = spots[which] + dy * width + dx
        own, other = here[which], flat[1][there]
        square = np.einsum("ij,ij->i", other, other)
        part = np.einsum("ij,ij->i", own, other) / np.maximum(square, 1)
        off = np.abs(own - part[:, None] * other).max(axis=1)
        off /= np.maximum(OFF, OFF_SHARE * np.minimum(np.sqrt(square), 250))
        good = (square > LEAST_LENGTH**2) & (off <= 1) & (part > LEAST)
        off += reach
        good &= (part <= alpha.ravel()[there] + RISE) & (off < best[which])
        chosen = which[good]
        best[chosen], share[chosen], inner[chosen] = off[good], part[good], other[good]
    return share, inner, np.isfinite(best) & (share < MOST)
