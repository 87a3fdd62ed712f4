"""What the px of a picture are: pixel art, or smooth art."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.tune.codec.indexed import colours_of


class Art(NamedTuple):
    """What the px of a picture are: `pixel` art or smooth, and why in a few words; `colours` it has."""

    pixel: bool
    why: str
    colours: int


FEW = 32  # colours that only pixel art makes do with
FADING = 0.45  # share of fading steps from which art is smooth


def art_of(rgba: np.ndarray) -> Art:
    """Pixel art has few colours, or steps from one to another at once; smooth art fades between them."""
    rgba = _bands(rgba)
    kinds, _which, _counts = colours_of(rgba)
    many = int((kinds[:, 3] > 0).sum())
    fading = _fading(rgba)
    pixel = many <= FEW or fading < FADING
    colours = "1 colour" if many == 1 else f"{many} colours"
    if pixel:
        return Art(True, f"{colours}, hard edges" if fading < FADING else colours, many)
    return Art(False, f"{colours} that fade into each other", many)


def _fading(rgba: np.ndarray) -> float:
    """Which share of the steps between neighbouring px fades: steps hardly seen, and px that lie between the
    two colours beside them, as anti-aliasing makes them."""
    seen = rgba.astype(np.int16)
    seen[..., :3] = seen[..., :3].astype(np.int32) * seen[..., 3:] // 255
    steps = slight = edges = between = 0
    for px in (seen, seen.transpose(1, 0, 2)):
        gap = np.abs(px[:, 1:] - px[:, :-1]).max(axis=2)
        steps += int((gap > 0).sum())
        slight += int(((gap > 0) & (gap <= 6)).sum())
        edges += int((gap > 20).sum())
        if px.shape[1] > 2:
            low, high = np.minimum(px[:, :-2], px[:, 2:]), np.maximum(px[:, :-2], px[:, 2:])
            within = ((px[:, 1:-1] >= low - 2) & (px[:, 1:-1] <= high + 2)).all(axis=2)
            far = (high - low).max(axis=2) > 40
            between += int((within & far & (gap[:, :-1] > 6) & (gap[:, 1:] > 6)).sum())
    return slight / max(steps, 1) + between / max(edges, 1)


def _bands(rgba: np.ndarray, most: int = 1 << 18) -> np.ndarray:
    """Some rows of a large picture, spread over its height in bands of 8, about `most` px."""
    height, width = rgba.shape[:2]
    step = -(-height * width // most)
    if step < 2:
        return rgba
    return np.concatenate([rgba[top : top + 8] for top in range(0, height, 8 * step)])
