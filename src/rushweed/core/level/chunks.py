"""A layer's cells in chunks of 32 x 32, so that a stroke copies only what it touches.

A cell holds table index * 8 + orientation; 0 is empty. Orientation 0..3 are quarter turns clockwise,
4..7 the same after mirroring left and right.
"""

from __future__ import annotations

from weakref import WeakKeyDictionary

import numpy as np

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import CHUNK, Chunk, Tiles

FARTHEST = 8192  # cells from cell 0, 0 in any direction


def region(tiles: Tiles, left: int, top: int, columns: int, rows: int) -> np.ndarray:
    """A copy of the cells in a rectangle: uint32 (rows, columns); cells outside are 0."""
    out = np.zeros((rows, columns), np.uint32)
    for cy in range(max(top // CHUNK, tiles.top), min((top + rows - 1) // CHUNK + 1, tiles.top + tiles.rows)):
        for cx in range(
            max(left // CHUNK, tiles.left), min((left + columns - 1) // CHUNK + 1, tiles.left + tiles.columns)
        ):
            chunk = tiles.chunks[(cy - tiles.top) * tiles.columns + cx - tiles.left]
            if chunk is None:
                continue
            x0, y0 = cx * CHUNK, cy * CHUNK
            a, b = max(x0, left), min(x0 + CHUNK, left + columns)
            c, d = max(y0, top), min(y0 + CHUNK, top + rows)
            out[c - top : d - top, a - left : b - left] = chunk.cells[c - y0 : d - y0, a - x0 : b - x0]
    return out


def cell_at(tiles: Tiles, x: int, y: int) -> int:
    """What stands at a cell of the level: slot and orientation, or 0."""
    chunk = chunk_at(tiles, x // CHUNK, y // CHUNK)
    return 0 if chunk is None else int(chunk.cells[y % CHUNK, x % CHUNK])


def chunk_at(tiles: Tiles, cx: int, cy: int) -> Chunk | None:
    """The chunk at chunk coordinates, or None where there is none."""
    column, row = cx - tiles.left, cy - tiles.top
    if not (0 <= column < tiles.columns and 0 <= row < tiles.rows):
        return None
    return tiles.chunks[row * tiles.columns + column]


def put(tiles: Tiles, xs: np.ndarray, ys: np.ndarray, values: np.ndarray) -> Tiles:
    """Set cells: integer arrays of one length. Where a cell is named twice the last one holds.

    Returns `tiles` itself if nothing changed. Raises EditError beyond 8192 cells from the origin.
    """
    if xs.size == 0:
        return tiles
    _within(int(np.abs(xs).max()), int(np.abs(ys).max()))
    cx, cy = xs // CHUNK, ys // CHUNK
    tiles = _covering(tiles, int(cx.min()), int(cy.min()), int(cx.max()), int(cy.max()))
    slots = (cy - tiles.top) * tiles.columns + cx - tiles.left
    order = np.argsort(slots, kind="stable")
    slots, xs, ys, values = slots[order], xs[order] % CHUNK, ys[order] % CHUNK, values[order]
    cuts = np.flatnonzero(np.diff(slots)) + 1
    chunks: list[Chunk | None] | None = None
    for start, end in zip((0, *cuts.tolist()), (*cuts.tolist(), slots.size), strict=True):
        slot = int(slots[start])
        old = tiles.chunks[slot]
        cells = np.zeros((CHUNK, CHUNK), np.uint32) if old is None else old.cells.copy()
        cells[ys[start:end], xs[start:end]] = values[start:end]
        if np.array_equal(cells, old.cells) if old is not None else not cells.any():
            continue
        chunks = list(tiles.chunks) if chunks is None else chunks
        if cells.any():
            cells.setflags(write=False)
            chunks[slot] = Chunk(cells)
        else:
            chunks[slot] = None
    if chunks is None:
        return tiles
    return Tiles(tiles.left, tiles.top, tiles.columns, tiles.rows, tuple(chunks))


def put_region(tiles: Tiles, left: int, top: int, cells: np.ndarray) -> Tiles:
    """Set a whole rectangle: uint32 (rows, columns), empty cells included."""
    rows, columns = cells.shape
    if not cells.size:
        return tiles
    _within(left, top)
    _within(left + columns - 1, top + rows - 1)
    first, top_row = left // CHUNK, top // CHUNK
    wide, high = (left + columns - 1) // CHUNK + 1 - first, (top + rows - 1) // CHUNK + 1 - top_row
    tiles = _covering(tiles, first, top_row, first + wide - 1, top_row + high - 1)
    before = region(tiles, first * CHUNK, top_row * CHUNK, wide * CHUNK, high * CHUNK)
    after, x, y = before.copy(), left - first * CHUNK, top - top_row * CHUNK
    after[y : y + rows, x : x + columns] = cells
    changed, held = _any_in_chunks(after ^ before), _any_in_chunks(after)
    if not changed.any():
        return tiles
    chunks = list(tiles.chunks)
    for cy, cx in np.argwhere(changed).tolist():
        slot = (cy + top_row - tiles.top) * tiles.columns + cx + first - tiles.left
        chunks[slot] = None
        if held[cy, cx]:
            made = after[cy * CHUNK : (cy + 1) * CHUNK, cx * CHUNK : (cx + 1) * CHUNK].copy()
            made.setflags(write=False)
            chunks[slot] = Chunk(made)
    return Tiles(tiles.left, tiles.top, tiles.columns, tiles.rows, tuple(chunks))


def _any_in_chunks(cells: np.ndarray) -> np.ndarray:
    """Whether anything is not 0 in each chunk of whole chunks: bool (rows, columns) of them."""
    rows, columns = cells.shape
    parts = cells.reshape(rows // CHUNK, CHUNK, columns // CHUNK, CHUNK)
    return np.asarray(np.bitwise_or.reduce(parts, axis=1).any(axis=2))


def _within(x: int, y: int) -> None:
    if max(abs(x), abs(y)) > FARTHEST:
        raise EditError(f"A level reaches at most {FARTHEST:,} cells from cell 0, 0.", "Paint nearer to it.")


def _covering(tiles: Tiles, left: int, top: int, right: int, bottom: int) -> Tiles:
    """The same tiles with room for chunks left..right, top..bottom."""
    if tiles.columns == 0:
        columns, rows = right - left + 1, bottom - top + 1
        return Tiles(left, top, columns, rows, (None,) * (columns * rows))
    if (
        left >= tiles.left
        and top >= tiles.top
        and right < tiles.left + tiles.columns
        and bottom < tiles.top + tiles.rows
    ):
        return tiles
    new_left, new_top = min(left, tiles.left), min(top, tiles.top)
    columns = max(right + 1, tiles.left + tiles.columns) - new_left
    rows = max(bottom + 1, tiles.top + tiles.rows) - new_top
    chunks: list[Chunk | None] = [None] * (columns * rows)
    for row in range(tiles.rows):
        start = (row + tiles.top - new_top) * columns + tiles.left - new_left
        chunks[start : start + tiles.columns] = tiles.chunks[row * tiles.columns : (row + 1) * tiles.columns]
    return Tiles(new_left, new_top, columns, rows, tuple(chunks))


def used_values(tiles: Tiles) -> np.ndarray:
    """Every value but 0 that some cell holds, sorted; found once for each chunk, so that after a stroke only
    those it changed are looked at."""
    found = [_values_of(chunk) for chunk in {id(c): c for c in tiles.chunks if c is not None}.values()]
    values = np.unique(np.concatenate(found)) if found else np.zeros(0, np.uint32)
    return values[values > 0]


_VALUES: WeakKeyDictionary[Chunk, np.ndarray] = WeakKeyDictionary()


def _values_of(chunk: Chunk) -> np.ndarray:
    known = _VALUES.get(chunk)
    if known is None:
        known = _VALUES[chunk] = np.unique(chunk.cells)
    return known


def changed_chunks(old: Tiles, new: Tiles) -> list[tuple[int, int]]:
    """Chunk coordinates at which two versions of a layer differ, found by identity."""
    if old is new:
        return []
    if (old.left, old.top, old.columns, old.rows) == (new.left, new.top, new.columns, new.rows):
        return [
            (new.left + i % new.columns, new.top + i // new.columns)
            for i, (a, b) in enumerate(zip(old.chunks, new.chunks, strict=True))
            if a is not b
        ]
    spots = {(t.left + x, t.top + y) for t in (old, new) for y in range(t.rows) for x in range(t.columns)}
    return [(x, y) for x, y in sorted(spots) if chunk_at(old, x, y) is not chunk_at(new, x, y)]
