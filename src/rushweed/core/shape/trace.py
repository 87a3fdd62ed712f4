"""Outlines from the pixels: the exact border with its holes, simplified within a guaranteed tolerance."""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import EditError
from rushweed.core.ready import kernels
from rushweed.core.shape.rings import KERNELS, Rings, rings_of, taken
from rushweed.core.shape.simplify import crossing, simplified
from rushweed.core.uncollected import uncollected

Ring = np.ndarray  # (n, 2) points, cell px, x right, y down

BATCH_PX = 1 << 21  # traced together: what is worked with stays near the processor
LEAST_TILES, MOST_TILES = 500, 1250  # that are worth a thread; traced together


class Outline(NamedTuple):
    """One solid part: its outer ring, clockwise on screen, and the rings of its holes, the other way."""

    outer: Ring
    holes: tuple[Ring, ...]


class Traced(NamedTuple):
    """The outlines of one tile and how far they are from the border at most, px."""

    outlines: tuple[Outline, ...]
    error: float

    @property
    def vertices(self) -> int:
        """How many there are in all its rings."""
        return sum(len(ring) for o in self.outlines for ring in (o.outer, *o.holes))


def trace_outline(alpha: np.ndarray, threshold: int = 128, tolerance: float = 0.0) -> Traced:
    """Follow the border of the opaque pixels of one tile, exactly on pixel edges, then simplify it.

    alpha: uint8 (height, width); threshold: 1..255, at or above is solid. The outline's largest distance from
    the border is at most `tolerance` px, and is told. Raises EditError if nothing is solid.
    """
    mask = np.asarray(alpha) >= threshold
    if not mask.any():
        raise EditError("Nothing in it is solid.", "Use a lower threshold, or draw the shape.")
    return trace_masks([mask], tolerance)[0]


def trace_masks(masks: Sequence[np.ndarray], tolerance: float = 0.0) -> list[Traced]:
    """The outlines of many tiles at once, bool (height, width) each; an empty one has none.

    Where simplifying would make an outline cross itself or another, that tile is simplified less.
    """
    made: list[Traced] = [Traced((), 0.0)] * len(masks)
    threads = 1 if kernels(KERNELS) is None else os.cpu_count() or 1
    with uncollected(), ThreadPoolExecutor(threads) as pool:
        most = min(max(-(-len(masks) // threads), LEAST_TILES), MOST_TILES)
        batches = _batches(masks, BATCH_PX, most)
        traced_by_batch = pool.map(lambda batch: _trace_batch([masks[n] for n in batch], tolerance), batches)
        for places, found in zip(batches, traced_by_batch, strict=True):
            for n, traced in found.items():
                made[places[n]] = traced
    return made


def _batches(masks: Sequence[np.ndarray], most_px: int, most: int) -> list[list[int]]:
    """Places of masks to be traced together: of about one size, and not too many px or masks at a time."""
    by_shape: dict[tuple[int, ...], list[int]] = {}
    for n, mask in enumerate(masks):
        by_shape.setdefault(mask.shape, []).append(n)
    batches: list[list[int]] = []
    high = wide = 0
    for (h, w), places in sorted(by_shape.items()):
        while places:
            alike = batches and h <= 2 * high and w <= 2 * wide and wide <= 2 * w
            each = (max(h, high) + 1) * max(w, wide) if alike else (h + 1) * w
            room = min(most, max(most_px // each, 1)) - (len(batches[-1]) if alike else 0)
            if not alike or room < 1:
                batches.append([])
                high, wide = h, w
                room = min(most, max(most_px // ((h + 1) * w), 1))
            batches[-1] += places[:room]
            places = places[room:]
            high, wide = max(high, h), max(wide, w)
    return batches


def _trace_batch(masks: Sequence[np.ndarray], tolerance: float) -> dict[int, Traced]:
    """The outlines of the tiles that are not empty, by their places."""
    rings = rings_of(masks)
    limit = float(tolerance)
    made: dict[int, Traced] = {}
    halvings = 0
    while True:
        points, starts, error = simplified(rings, limit)
        wrong = crossing(points, starts, rings, len(masks)) if limit > 0 else np.zeros(len(masks), bool)
        made |= _gathered(points, starts, rings, error, ~wrong)
        if not wrong.any():
            return made
        halvings += 1
        limit = limit / 2 if halvings < 6 else 0.0
        rings = taken(rings, np.flatnonzero(wrong[rings.tiles]))


def _gathered(
    points: np.ndarray, starts: np.ndarray, rings: Rings, error: np.ndarray, wanted: np.ndarray
) -> dict[int, Traced]:
    """The rings of some tiles, a bool for each, sorted into parts with their holes, tile by tile."""
    if not len(rings.tiles):
        return {}
    errors = np.zeros(len(wanted))
    np.maximum.at(errors, rings.tiles, error)
    pieces = [points[a:b] for a, b in pairwise(starts.tolist())]
    parts = rings.parts.tolist()
    holes: dict[int, tuple[Ring, ...]] = {}
    for n in np.flatnonzero(~rings.outer).tolist():
        holes[parts[n]] = (*holes.get(parts[n], ()), pieces[n])
    outer = np.flatnonzero(rings.outer & wanted[rings.tiles])
    outer = outer[np.argsort(rings.tiles[outer], kind="stable")]
    found = [Outline(pieces[n], holes.get(parts[n], ())) for n in outer.tolist()]
    tiles, begins = np.unique(rings.tiles[outer], return_index=True)
    ranges = pairwise((*begins.tolist(), len(found)))
    return {
        tile: Traced(tuple(found[a:b]), far)
        for tile, far, (a, b) in zip(tiles.tolist(), errors[tiles].tolist(), ranges, strict=True)
    }
