"""Draws a part of a sheet as a graphics card does: texel centres at one half, clamp at the sheet's edge.

Source: the OpenGL 4.6 core specification, section 8.14 (texture minification and magnification).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model import Filter


def premultiply(rgba: np.ndarray) -> np.ndarray:
    """uint8 straight alpha to float32 premultiplied, 0..255."""
    out = rgba.astype(np.float32)
    out[..., :3] *= out[..., 3:] / 255
    return out


def straighten(premultiplied: np.ndarray) -> np.ndarray:
    """float32 premultiplied 0..255 to uint8 straight alpha."""
    alpha = premultiplied[..., 3:]
    safe = np.where(alpha > 0, alpha, 1)
    rgb = premultiplied[..., :3] * (255 / safe)
    return np.clip(np.rint(np.concatenate((rgb, alpha), axis=-1)), 0, 255).astype(np.uint8)


def sample(source: np.ndarray, u: np.ndarray, v: np.ndarray, filter: Filter) -> np.ndarray:
    """Read `source` at continuous px positions: float32 (..., channels).

    source: float32 (height, width, channels), premultiplied; u, v: float arrays of one shape, px from
    the top left, so that the centre of the first texel is at 0.5, 0.5. Outside the source the nearest
    edge texel counts (clamp to edge).
    """
    height, width = source.shape[:2]
    if filter == "nearest":
        x = np.clip(np.floor(u).astype(np.intp), 0, width - 1)
        y = np.clip(np.floor(v).astype(np.intp), 0, height - 1)
        return np.asarray(source[y, x])
    x0f, y0f = np.floor(u - 0.5), np.floor(v - 0.5)
    tx = (u - 0.5 - x0f).astype(np.float32)[..., None]
    ty = (v - 0.5 - y0f).astype(np.float32)[..., None]
    x0, y0 = x0f.astype(np.intp), y0f.astype(np.intp)
    x1, y1 = np.clip(x0 + 1, 0, width - 1), np.clip(y0 + 1, 0, height - 1)
    x0, y0 = np.clip(x0, 0, width - 1), np.clip(y0, 0, height - 1)
    top = source[y0, x0] * (1 - tx) + source[y0, x1] * tx
    below = source[y1, x0] * (1 - tx) + source[y1, x1] * tx
    return np.asarray(top * (1 - ty) + below * ty)


class Placed(NamedTuple):
    """A cell in a picture: its pivot at `at` (output px), drawn `scale` output px a source px, turned
    clockwise by `turn` degrees about the pivot. `rect` is the cell in `sheet` (uint8 RGBA)."""

    sheet: np.ndarray
    rect: tuple[int, int, int, int]
    pivot: tuple[float, float]
    at: tuple[float, float]
    scale: float
    filter: Filter
    turn: float = 0.0


def draw(picture: np.ndarray, thing: Placed) -> None:
    """Draw a cell over `picture`, float32 premultiplied (height, width, 4), in place.

    An output px takes part if its centre lies in the cell, as in rasterisation; the sampler reads
    from the whole sheet, so a neighbour bleeds in under the linear filter as it does in a game.
    """
    x, y, w, h = thing.rect
    cos, sin = math.cos(math.radians(thing.turn)), math.sin(math.radians(thing.turn))
    corners = []
    for cx, cy in ((0, 0), (w, 0), (0, h), (w, h)):
        dx, dy = (cx - thing.pivot[0]) * thing.scale, (cy - thing.pivot[1]) * thing.scale
        corners.append((thing.at[0] + dx * cos - dy * sin, thing.at[1] + dx * sin + dy * cos))
    left = max(math.floor(min(c[0] for c in corners)), 0)
    top = max(math.floor(min(c[1] for c in corners)), 0)
    right = min(math.ceil(max(c[0] for c in corners)), picture.shape[1])
    bottom = min(math.ceil(max(c[1] for c in corners)), picture.shape[0])
    if right <= left or bottom <= top:
        return
    # Only the part of the sheet that can be read is made float; one texel more for the linear filter.
    sx0, sy0 = max(x - 1, 0), max(y - 1, 0)
    sx1, sy1 = min(x + w + 1, thing.sheet.shape[1]), min(y + h + 1, thing.sheet.shape[0])
    source = premultiply(thing.sheet[sy0:sy1, sx0:sx1])
    py, px = np.mgrid[top:bottom, left:right].astype(np.float64)
    dx, dy = px + 0.5 - thing.at[0], py + 0.5 - thing.at[1]
    cell_x = (dx * cos + dy * sin) / thing.scale + thing.pivot[0]
    cell_y = (-dx * sin + dy * cos) / thing.scale + thing.pivot[1]
    inside = (cell_x >= 0) & (cell_x < w) & (cell_y >= 0) & (cell_y < h)
    texels = sample(source, cell_x + (x - sx0), cell_y + (y - sy0), thing.filter)
    texels = texels * inside[..., None]
    under = picture[top:bottom, left:right]
    under *= 1 - texels[..., 3:] / 255
    under += texels
