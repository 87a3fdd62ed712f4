"""Twins: tiles whose pixels equal another's, as they are, mirrored, turned or recoloured."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Sequence
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np

from rushweed.core.document.model.shape import Shape
from rushweed.core.ready import kernels
from rushweed.core.shape.primitives import mirrored, turned

LIKELY = (0, 4, 6, 2, 1, 3, 5, 7)  # orientations, mirrored before turned: so tiles are mostly made
Kind = Literal["same", "mirrored or turned", "recoloured"]


class Twin(NamedTuple):
    """Tile `of`, put into an orientation (0..3 quarter turns clockwise, 4..7 the same after mirroring left
    and right), has the same pixels, or the same but for its colours."""

    of: int
    orientation: int
    kind: Kind


class Twins:
    """Finds twins among tiles, uint8 (height, width, 4) each; clear tiles have none.

    Every tile is summed up in each orientation by weights of its px; the least sum names its group, whatever
    way round it lies. What a sum says is checked on the pixels.
    """

    def __init__(self, tiles: Sequence[np.ndarray]) -> None:
        self._words: dict[int, np.ndarray] = {}
        self._exact: dict[object, list[int]] = defaultdict(list)
        self._alike: dict[object, list[int]] = defaultdict(list)
        self._names: dict[int, tuple[object, object]] = {}
        by_size: dict[tuple[int, ...], list[int]] = defaultdict(list)
        for n, tile in enumerate(tiles):
            by_size[tile.shape].append(n)
        for shape, numbers in by_size.items():
            stack = np.stack([tiles[n] for n in numbers])
            words = np.where(stack[..., 3] > 0, stack.view(np.uint32)[..., 0], 0)
            self._words |= zip(numbers, words, strict=True)
            seen = words.any(axis=(1, 2))
            members = np.array(numbers)[seen].tolist()
            ways = LIKELY if shape[0] == shape[1] else LIKELY[:4]
            exact, alike = _names(words[seen], ways)
            for n, one, other in zip(members, exact.tolist(), alike.tolist(), strict=True):
                self._names[n] = ((shape, one), (shape, other))
                self._exact[shape, one].append(n)
                self._alike[shape, other].append(n)

    def of(self, n: int, most: int = 0) -> list[int]:
        """The tiles that may be twins of tile `n`, those of the same colours first; at most so many of each
        kind, where `most` is not 0."""
        names = self._names.get(n)
        if names is None:
            return []
        end = most + 1 if most else None
        exact = [m for m in self._exact[names[0]][:end] if m != n]
        known = set(exact)
        return exact + [m for m in self._alike[names[1]][:end] if m != n and m not in known]

    def only(self, keep: Collection[int]) -> None:
        """From now on name only some of the tiles as twins of others."""
        wanted = set(keep)
        for groups in (self._exact, self._alike):
            for name, members in groups.items():
                groups[name] = [m for m in members if m in wanted]

    def twin(self, n: int, other: int) -> Twin | None:
        """How tile `n` is a twin of another, if it is; mirrored counts before turned."""
        mine, its = self._words[n], self._words[other]
        ways = LIKELY if its.shape[0] == its.shape[1] else LIKELY[:4]
        for way in ways:
            if np.array_equal(oriented(its, way), mine):
                return Twin(other, way, "same" if way == 0 else "mirrored or turned")
        pattern = _pattern(mine[None])
        for way in ways:
            lain = oriented(its, way)
            same_clear = np.array_equal(lain == 0, mine == 0)
            if same_clear and np.array_equal(_pattern(lain[None]), pattern):
                return Twin(other, way, "recoloured")
        return None


def _names(stack: np.ndarray, ways: Sequence[int]) -> tuple[np.ndarray, np.ndarray]:
    """For each tile of a stack, uint32 (n, height, width), the name of its group by its px, and of that by
    which px share a colour: the least over all orientations."""
    count, height, width = stack.shape
    size = height * width
    rng = np.random.default_rng(20)
    weights = rng.integers(1, 2**63, size, dtype=np.uint64) | np.uint64(1)
    flat = stack.reshape(count, size)
    order, begins, ordered = _by_colour(flat)
    clear = (ordered == 0).astype(np.uint64) + np.uint64(1)
    most = np.full(count, np.iinfo(np.uint64).max, np.uint64)
    # Where each px comes to lie: the px need not be sorted anew to know the first of its colour.
    lies = np.arange(size).reshape(height, width)
    places = np.array([np.argsort(oriented(lies, way).ravel()) for way in ways])
    loops = kernels("rushweed.core.shape.twins_kernels")
    if loops is not None:
        exact, alike = most, most.copy()
        loops.sum_up(loops.Px(ordered, order, begins), places, weights, exact, alike)
        return exact, alike
    starts, of = np.flatnonzero(begins), np.cumsum(begins.ravel()) - 1
    wide = flat.astype(np.uint64)
    exact = alike = most
    for place in places.astype(np.int32):
        exact = np.minimum(exact, (wide * weights[place]).sum(axis=1, dtype=np.uint64))
        lain = place[order]
        first = np.minimum.reduceat(lain.ravel(), starts)[of].reshape(count, size)
        named = (first.astype(np.uint64) + clear) * weights[lain]
        alike = np.minimum(alike, named.sum(axis=1, dtype=np.uint64))
    return exact, alike


def _by_colour(flat: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The px of each tile, (n, px), ordered by colour: their places, which begin a colour, the colours."""
    order = np.argsort(flat, axis=1, kind="stable")
    ordered = np.take_along_axis(flat, order, axis=1)
    begins = np.ones(flat.shape, bool)
    begins[:, 1:] = ordered[:, 1:] != ordered[:, :-1]
    return order, begins, ordered


def _pattern(stack: np.ndarray) -> np.ndarray:
    """For each px of each tile the first place with its colour, int64 (n, px)."""
    flat = stack.reshape(len(stack), -1)
    order, begins, _ordered = _by_colour(flat)
    lead = np.maximum.accumulate(np.where(begins, np.arange(flat.shape[1]), 0), axis=1)
    first = np.empty(flat.shape, np.int64)
    np.put_along_axis(first, order, np.take_along_axis(order, lead, axis=1), axis=1)
    return first


def oriented(tiles: np.ndarray, orientation: int) -> np.ndarray:
    """Tiles (..., height, width) mirrored left and right if 4 or above, then turned by quarters clockwise."""
    if orientation & 4:
        tiles = tiles[..., ::-1]
    return np.ascontiguousarray(np.rot90(tiles, -(orientation & 3), axes=(-2, -1)))


@lru_cache(maxsize=4096)  # a level asks for those of its tiles again and again
def oriented_shape(shape: Shape, orientation: int, size: tuple[int, int]) -> Shape:
    """A shape put into an orientation within its cell of `size` px; quarter turns need a square cell."""
    if orientation & 4:
        shape = mirrored(shape, size[0])
    for _ in range(orientation & 3):
        shape = turned(shape, size)
    return shape
