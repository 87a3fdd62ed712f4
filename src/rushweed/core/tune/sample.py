"""Draws a part of a texture as a graphics card does: texel centres at one half, mipmaps, clamp or repeat.

Source: the OpenGL 4.6 core specification, section 8.14 (texture minification and magnification). Values are
read as they are stored, as most 2D games do, not turned to linear light first.
"""

from __future__ import annotations

import math
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from types import ModuleType
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.sheet import Alpha, Filter, Wrap
from rushweed.core.ready import kernels

KERNELS = "rushweed.core.tune.kernels"
BAND_PX = 1 << 15  # px that are worth a thread


def premultiply(rgba: np.ndarray) -> np.ndarray:
    """uint8 straight alpha to float32 premultiplied, 0..255."""
    out = rgba.astype(np.float32)
    out[..., :3] *= out[..., 3:] * np.float32(1 / 255)
    return out


def straighten(premultiplied: np.ndarray) -> np.ndarray:
    """float32 premultiplied 0..255 to uint8 straight alpha."""
    loops = kernels(KERNELS)
    if loops is not None:
        out = np.empty(premultiplied.shape, np.uint8)
        loops.straighten(np.ascontiguousarray(premultiplied).reshape(-1, 4), out.reshape(-1, 4))
        return out
    alpha = premultiplied[..., 3:]
    safe = np.where(alpha > 0, alpha, 1)
    rgb = premultiplied[..., :3] * (255 / safe)
    made: np.ndarray = np.clip(np.rint(np.concatenate((rgb, alpha), axis=-1)), 0, 255).astype(np.uint8)
    return made


def halved(level: np.ndarray) -> np.ndarray:
    """The next mipmap of float32 (height, width, channels): every texel the mean of the area it covers."""
    return _halved_along(_halved_along(level, 0), 1)


def _halved_along(level: np.ndarray, axis: int) -> np.ndarray:
    size = level.shape[axis]
    if size == 1:
        return level
    turned = np.moveaxis(level, axis, 0)
    half = size // 2
    if size % 2 == 0:
        out = (turned[0::2] + turned[1::2]) / 2
    else:  # three texels a texel, the outer two in parts
        i = np.arange(half, dtype=np.float32).reshape(-1, *[1] * (turned.ndim - 1))
        out = (turned[0:-1:2] * (half - i) + turned[1::2] * half + turned[2::2] * (i + 1)) / np.float32(size)
    return np.moveaxis(out, 0, axis)


class Texture(NamedTuple):
    """What a card reads: `levels` from the largest down, float32 (height, width, 4) of 0..255, colours
    premultiplied unless `alpha` is straight."""

    levels: tuple[np.ndarray, ...]
    filter: Filter = "nearest"
    wrap: Wrap = "clamp"
    alpha: Alpha = "premultiplied"


def texture_of(
    rgba: np.ndarray,
    filter: Filter = "nearest",
    mipmaps: bool = False,
    wrap: Wrap = "clamp",
    alpha: Alpha = "premultiplied",
) -> Texture:
    """A texture of uint8 straight RGBA. Mipmaps are made of premultiplied colours either way, so that clear
    texels do not darken an edge."""
    level = rgba.astype(np.float32) if alpha == "straight" else premultiply(rgba)
    levels = [level]
    if mipmaps:
        seen = premultiply(rgba)
        while max(seen.shape[:2]) > 1:
            seen = halved(seen)
            levels.append(straighten(seen).astype(np.float32) if alpha == "straight" else seen)
    return Texture(tuple(np.ascontiguousarray(level) for level in levels), filter, wrap, alpha)


def _held(index: np.ndarray, size: int, wrap: Wrap) -> np.ndarray:
    made: np.ndarray = np.mod(index, size) if wrap == "repeat" else np.clip(index, 0, size - 1)
    return made


def sample(
    source: np.ndarray, u: np.ndarray, v: np.ndarray, filter: Filter, wrap: Wrap = "clamp"
) -> np.ndarray:
    """Read `source` at continuous px positions: float32 (..., channels).

    source: float32 (height, width, channels); u, v: float arrays that broadcast to one shape, px from the top
    left, so that the centre of the first texel is at 0.5, 0.5. Beyond the source the nearest edge texel
    counts (clamp), or the source once more (repeat).
    """
    height, width, channels = source.shape
    flat = source.reshape(-1, channels)
    if filter == "nearest":
        x = _held(np.floor(u).astype(np.intp), width, wrap)
        y = _held(np.floor(v).astype(np.intp), height, wrap)
        return np.asarray(flat.take(y * width + x, axis=0, mode="clip"))
    x0f, y0f = np.floor(u - 0.5), np.floor(v - 0.5)
    tx = (u - 0.5 - x0f).astype(np.float32)[..., None]
    ty = (v - 0.5 - y0f).astype(np.float32)[..., None]
    x0, y0 = x0f.astype(np.intp), y0f.astype(np.intp)
    left, right = _held(x0, width, wrap), _held(x0 + 1, width, wrap)
    above, below = _held(y0, height, wrap) * width, _held(y0 + 1, height, wrap) * width
    top = flat.take(above + left, axis=0, mode="clip")
    top += (flat.take(above + right, axis=0, mode="clip") - top) * tx
    bottom = flat.take(below + left, axis=0, mode="clip")
    bottom += (flat.take(below + right, axis=0, mode="clip") - bottom) * tx
    bottom -= top
    bottom *= ty
    top += bottom
    return np.asarray(top)


def sample_texture(texture: Texture, u: np.ndarray, v: np.ndarray, texels: float) -> np.ndarray:
    """Read a texture where one px of the picture spans `texels` texels: premultiplied float32 (..., 4).

    Below one texel the largest level is read; above, with the linear filter, the two levels around
    log2(texels) are mixed, and with nearest the nearer one is read.
    """
    low, high, mix = _mixed(texture, texels)
    out = _at(texture, low, u, v)
    if mix > 0:
        out += (_at(texture, high, u, v) - out) * mix
    return _seen(out, texture)


def _mixed(texture: Texture, texels: float) -> tuple[int, int, np.float32]:
    """Which two levels are read, and the share of the second, where one px spans so many texels."""
    lod = min(max(math.log2(max(texels, 1e-9)), 0.0), len(texture.levels) - 1)
    low = round(lod) if texture.filter == "nearest" else math.floor(lod)
    mix = lod - low if texture.filter == "linear" else 0.0
    return low, low + 1 if mix > 0 else low, np.float32(mix)


def _at(texture: Texture, number: int, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """One level, at positions that count in texels of the largest."""
    across, down = _ratio(texture, number)
    return sample(texture.levels[number], u * across, v * down, texture.filter, texture.wrap)


def _ratio(texture: Texture, number: int) -> tuple[float, float]:
    """How many texels of a level go on one of the largest, across and down."""
    level, largest = texture.levels[number], texture.levels[0]
    return level.shape[1] / largest.shape[1], level.shape[0] / largest.shape[0]


def _seen(texels: np.ndarray, texture: Texture) -> np.ndarray:
    if texture.alpha == "straight":
        texels[..., :3] *= texels[..., 3:] * np.float32(1 / 255)
    return texels


class Placed(NamedTuple):
    """A cell in a picture: its pivot at `at` (output px), drawn `scale` output px a texel, turned
    clockwise by `turn` degrees about the pivot. `rect` is the cell in the texture, in texels. With `soft`
    its edges are anti-aliased: an output px counts by how much of it the cell covers."""

    texture: Texture
    rect: tuple[int, int, int, int]
    pivot: tuple[float, float]
    at: tuple[float, float]
    scale: float
    turn: float = 0.0
    soft: bool = False


def draw(picture: np.ndarray, thing: Placed) -> None:
    """Draw a cell over `picture`, float32 premultiplied (height, width, 4), in place.

    An output px takes part if its centre lies in the cell, as in rasterisation; the sampler reads
    from the whole texture, so a neighbour bleeds in under the linear filter as it does in a game.
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
    loops = kernels(KERNELS)
    if loops is not None and picture.flags.c_contiguous:
        _draw_compiled(loops, picture, thing, (cos, sin), (top, left, bottom, right))
        return
    across = (np.arange(left, right) + 0.5 - thing.at[0])[None, :]
    down = (np.arange(top, bottom) + 0.5 - thing.at[1])[:, None]
    cell_x = (across * cos + down * sin) / thing.scale + thing.pivot[0]
    cell_y = (down * cos - across * sin) / thing.scale + thing.pivot[1]
    if thing.soft:
        covered = _covered(cell_x, w, thing.scale) * _covered(cell_y, h, thing.scale)
    else:
        inside = (cell_x >= 0) & (cell_x < w) & (cell_y >= 0) & (cell_y < h)
        covered = np.asarray(inside, np.float32)
    texels = sample_texture(thing.texture, cell_x + x, cell_y + y, 1 / thing.scale)
    texels *= covered[..., None]
    under = picture[top:bottom, left:right]
    under *= 1 - texels[..., 3:] * np.float32(1 / 255)
    under += texels


def _draw_compiled(
    loops: ModuleType, picture: np.ndarray, thing: Placed, turn: tuple[float, float], box: tuple[int, ...]
) -> None:
    """`draw` within a box of the picture: top, left, bottom, right. `turn` is a cosine and a sine."""
    texture = thing.texture
    low, high, mix = _mixed(texture, 1 / thing.scale)
    ratios = (*_ratio(texture, low), *_ratio(texture, high))
    place = np.array((*turn, thing.scale, *thing.at, *thing.pivot, *thing.rect, *ratios), np.float64)
    ways = (texture.filter == "nearest", texture.wrap == "repeat", texture.alpha == "straight", thing.soft)
    top, left, bottom, right = box

    def rows(first: int, end: int) -> None:
        how = np.array((first, left, end, right, *ways), np.int64)
        loops.draw(picture, texture.levels[low], texture.levels[high], mix, how, place)

    _in_bands(rows, top, bottom, (right - left) * (bottom - top))


def _in_bands(work: Callable[[int, int], None], first: int, end: int, px: int) -> None:
    """Do it for the rows from `first` to `end`, on all cores where there are many px."""
    bands = min(os.cpu_count() or 1, px // BAND_PX, end - first)
    if bands < 2:
        work(first, end)
        return
    cuts = np.linspace(first, end, bands + 1).astype(int).tolist()
    with ThreadPoolExecutor(bands) as pool:
        list(pool.map(work, cuts[:-1], cuts[1:]))


def _covered(along: np.ndarray, size: float, scale: float) -> np.ndarray:
    """How much of an output px lies within 0..size of the cell along one of its axes."""
    first, last = np.clip(along * scale + 0.5, 0, 1), np.clip((size - along) * scale + 0.5, 0, 1)
    return np.asarray(first + last - 1).clip(0, 1).astype(np.float32)
