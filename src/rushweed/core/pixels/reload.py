"""A picture that was changed by another program: what moved where, when its size is another now."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.pixels.prepare import Affine

ALIKE = 0.9  # share of inked px that must agree for a place to be proposed
MOST_SCALE = 8


class Moved(NamedTuple):
    """How the old picture lies in the new one: `way` in px of both, in words, and the share that agrees."""

    way: Affine
    words: str
    share: float


def what_moved(old: np.ndarray, new: np.ndarray) -> list[Moved]:
    """Where the art of a picture went when its size changed, the likeliest first; never empty.

    old, new: uint8 (height, width, 4). A whole-number scale is tried first, then places: the nine ways to
    grow or shrink, and the place found by correlation (cross-power of the two on SciPy's FFT).
    """
    found = _scaled(old, new)
    if not (found and found[0].share >= ALIKE):
        offsets = {_anchor(old, new, ax, ay) for ax in (0, 1, 2) for ay in (0, 1, 2)}
        offsets.add(_correlated(old, new))
        placed = [
            Moved(Affine(dx=x, dy=y), _offset_words(x, y), _agreement(old, new, x, y)) for x, y in offsets
        ]
        placed.sort(key=lambda m: (-m.share, abs(m.way.dx) + abs(m.way.dy)))
        found = [*placed[:2], *found]
    return sorted(found, key=lambda m: -m.share)


def by_size(old: tuple[int, int], new: tuple[int, int]) -> list[Moved]:
    """Where the art may have gone, by the sizes (width, height) alone: the earlier picture is not at hand."""
    unknown = "the earlier picture is not at hand to compare"
    found = [Moved(Affine(), f"all stays at the upper left, if it does: {unknown}", 0.0)]
    for big, small, up in ((new, old, True), (old, new, False)):
        k = big[0] // max(small[0], 1)
        if 2 <= k <= MOST_SCALE and big == (small[0] * k, small[1] * k):
            factor = float(k) if up else 1 / k
            words = f"all is {k} times as large" if up else f"all is 1/{k} as large"
            found.insert(0, Moved(Affine(factor, 0, 0, factor), f"{words}, it seems: {unknown}", 0.0))
    return found


def _offset_words(x: int, y: int) -> str:
    if not x and not y:
        return "all stays at the upper left"
    parts = [f"{abs(x)} px {'right' if x > 0 else 'left'}" if x else "",
             f"{abs(y)} px {'down' if y > 0 else 'up'}" if y else ""]  # fmt: skip
    return f"all moved {' and '.join(p for p in parts if p)}"


def _scaled(old: np.ndarray, new: np.ndarray) -> list[Moved]:
    for big, small, up in ((new, old, True), (old, new, False)):
        k = big.shape[0] // max(small.shape[0], 1)
        if 2 <= k <= MOST_SCALE and big.shape[:2] == (small.shape[0] * k, small.shape[1] * k):
            middle = big[k // 2 :: k, k // 2 :: k]
            share = _agreement(small, middle, 0, 0)
            factor = float(k) if up else 1 / k
            words = f"all is {k} times as large" if up else f"all is 1/{k} as large"
            return [Moved(Affine(factor, 0, 0, factor), words, share)]
    return []


def _anchor(old: np.ndarray, new: np.ndarray, ax: int, ay: int) -> tuple[int, int]:
    dx, dy = new.shape[1] - old.shape[1], new.shape[0] - old.shape[0]
    return dx * ax // 2, dy * ay // 2


def _agreement(old: np.ndarray, new: np.ndarray, x: int, y: int) -> float:
    """The share of the old picture's inked px that are the same in the new one, moved by x, y."""
    h, w = old.shape[:2]
    x0, y0 = max(x, 0), max(y, 0)
    x1, y1 = min(x + w, new.shape[1]), min(y + h, new.shape[0])
    total = int(np.count_nonzero(old[..., 3]))
    if x1 <= x0 or y1 <= y0 or not total:
        return 0.0
    a, b = old[y0 - y : y1 - y, x0 - x : x1 - x], new[y0:y1, x0:x1]
    same = (a == b).all(axis=-1) & (a[..., 3] > 0)
    return float(np.count_nonzero(same)) / total


def _correlated(old: np.ndarray, new: np.ndarray) -> tuple[int, int]:
    """The offset at which the two pictures agree best, by correlation of their detail."""
    from scipy import fft  # late: it takes long to import

    def detail(rgba: np.ndarray) -> np.ndarray:
        light = rgba[..., :3].astype(np.float32).mean(axis=-1) * (rgba[..., 3] / 255) + rgba[..., 3]
        return np.asarray(light - light.mean(), np.float32)

    shape = (old.shape[0] + new.shape[0], old.shape[1] + new.shape[1])
    size = [fft.next_fast_len(n, real=True) for n in shape]
    product = fft.rfft2(detail(new), size) * np.conj(fft.rfft2(detail(old), size))
    place = np.unravel_index(int(fft.irfft2(product, size).argmax()), size)
    y, x = (int(p) if p < s / 2 else int(p) - s for p, s in zip(place, size, strict=True))
    return x, y
