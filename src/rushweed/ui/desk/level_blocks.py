"""The tiles of a level as images, a block of cells each: a stroke touches only the cells it changed."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Iterator
from typing import NamedTuple
from weakref import WeakKeyDictionary

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model.base import Colour
from rushweed.core.document.model.level import CHUNK, Chunk, TileLayer, Tiles
from rushweed.core.level.chunks import chunk_at
from rushweed.core.level.render import TileSet, tinted
from rushweed.ui.desk.images import image_of

FRESH = 1 << 19  # px that are drawn anew in one turn, at least one chunk; more only while there is time,
FRESH_S = 0.008  # so that the window never stands still
LEAST_PX = 1 << 16  # that a chunk counts for, as its cells take time too where they are drawn small
MOST_BYTES = 384 * 1024 * 1024
PATCH = 64  # more changed cells than this are drawn anew with their block
BLOCK_PX = 1024  # a side of an image
FAR, FAR_SPAN = 2, 4  # times a level is halved from which so many chunks a side are one image


class Block(NamedTuple):
    """A square of cells that is one image: a part of a chunk, or for far views several `chunks`, row by row;
    its first column and row in the level, and how many cells a side has."""

    chunks: tuple[Chunk | None, ...]
    column: int
    row: int
    side: int

    @property
    def cells(self) -> np.ndarray:
        """uint32 (side, side)."""
        if len(self.chunks) == 1 and self.chunks[0] is not None:
            x, y = self.column % CHUNK, self.row % CHUNK
            return self.chunks[0].cells[y : y + self.side, x : x + self.side]
        out, across = np.zeros((self.side, self.side), np.uint32), self.side // CHUNK
        for n, chunk in enumerate(self.chunks):
            if chunk is not None:
                x, y = n % across * CHUNK, n // across * CHUNK
                out[y : y + CHUNK, x : x + CHUNK] = chunk.cells
        return out

    def is_as(self, other: Block) -> bool:
        """Whether it has the very chunks of another."""
        return all(a is b for a, b in zip(self.chunks, other.chunks, strict=True))

    def area(self, cell: tuple[int, int]) -> tuple[int, int, int, int]:
        """Left, top, width and height, level px."""
        return (
            self.column * cell[0], self.row * cell[1], self.side * cell[0], self.side * cell[1],
        )  # fmt: skip


def blocks_in(
    data: Tiles, columns: range, rows: range, cell: tuple[int, int], shrink: int
) -> Iterator[Block]:
    """The blocks of some columns and rows of chunks. In a far view some chunks are one, so that there are not
    too many; large tiles are parted into BLOCK_PX a side, so that they are not drawn far beyond what is seen.
    """
    side_px = CHUNK * max(cell) >> shrink
    span = min(FAR_SPAN, max(BLOCK_PX // max(side_px, 1), 1)) if shrink >= FAR else 1
    if span == 1:
        for cy in rows:
            for cx in columns:
                chunk = chunk_at(data, cx, cy)
                if chunk is not None:
                    yield from _parts(chunk, (cx, cy), side_px)
    elif columns and rows:
        wide = range(columns[0] // span, columns[-1] // span + 1)
        high = range(rows[0] // span, rows[-1] // span + 1)
        far = _far.setdefault(data, {})
        if span not in far:
            far[span] = _far_blocks(data, span)
        yield from (b for (gx, gy), b in far[span].items() if gx in wide and gy in high)


def _far_blocks(data: Tiles, span: int) -> dict[tuple[int, int], Block]:
    """All that hold anything, so many chunks a side, by column and row of them."""
    left, top = data.left // span, data.top // span
    right, bottom = -(-(data.left + data.columns) // span), -(-(data.top + data.rows) // span)
    grid = np.full(((bottom - top) * span, (right - left) * span), None)
    x, y = data.left - left * span, data.top - top * span
    grid[y : y + data.rows, x : x + data.columns].flat[:] = data.chunks
    squares = grid.reshape(bottom - top, span, right - left, span).swapaxes(1, 2)
    found = {}
    for gy, line in enumerate(squares.reshape(bottom - top, right - left, -1).tolist(), top):
        for gx, chunks in enumerate(line, left):
            if any(chunks):
                found[gx, gy] = Block(tuple(chunks), gx * span * CHUNK, gy * span * CHUNK, span * CHUNK)
    return found


_far: WeakKeyDictionary[Tiles, dict[int, dict[tuple[int, int], Block]]] = WeakKeyDictionary()


def _parts(chunk: Chunk, at: tuple[int, int], side_px: int) -> Iterator[Block]:
    """A chunk whole, or in quarters of it and so on; `side_px` is how large it is drawn."""
    side = CHUNK
    while side > 1 and side_px * side // CHUNK > BLOCK_PX:
        side //= 2
    for row in range(0, CHUNK, side):
        for column in range(0, CHUNK, side):
            yield Block((chunk,), at[0] * CHUNK + column, at[1] * CHUNK + row, side)


class Allowance:
    """How much may be drawn anew in one turn of the window."""

    def __init__(self) -> None:
        self._px, self._until = 0, time.perf_counter() + FRESH_S

    def takes(self, px: int) -> bool:
        """Whether so many px more may be drawn; something always may."""
        first, self._px = self._px == 0, self._px + px
        return first or self._px <= FRESH or time.perf_counter() <= self._until


class BlockImages:
    """Those that were drawn, the latest for longest. Of what has to be drawn anew in one turn a part is left
    for the next, and `unfinished` says so."""

    def __init__(self) -> None:
        self._images: OrderedDict[tuple[object, ...], tuple[Block, QImage]] = OrderedDict()
        self._bytes = 0
        self._allowance, self.unfinished = Allowance(), False

    def clear(self) -> None:
        self._images.clear()
        self._bytes = 0

    def begin(self, allowance: Allowance) -> None:
        """A picture is drawn, or in the same turn one more."""
        self._allowance, self.unfinished = allowance, False

    def image(
        self, layer: TileLayer, block: Block, shrink: int, tiles: TileSet, left_out: frozenset[int]
    ) -> QImage | None:
        """The picture of a block; one that is out of date, or None, where enough was drawn this time."""
        key = (layer.id, layer.tint, block.column, block.row, shrink, left_out)
        known = self._images.get(key)
        if known is not None and known[0].is_as(block):
            self._images.move_to_end(key)
            return known[1]
        wide, high = (block.side * side >> shrink for side in tiles.cell)
        if not self._allowance.takes(max(wide * high, LEAST_PX * len(block.chunks))):
            self.unfinished = True
            return None if known is None else known[1]
        patch = known is not None and shrink == 0 and not left_out
        image = self._patched(known, block, tiles, layer.tint) if patch and known is not None else None
        if image is None:
            cells = block.cells
            if left_out:
                cells = np.where(np.isin(cells >> 3, list(left_out)), np.uint32(0), cells)
            every = 1 << shrink if not any(side % (1 << shrink) for side in tiles.cell) else 1
            pixels = tinted(tiles.picture(cells, every), layer.tint)
            for _ in range(shrink if every == 1 else 0):
                h, w = pixels.shape[:2]
                pixels = pixels[: h // 2 * 2, : w // 2 * 2].reshape(h // 2, 2, w // 2, 2, 4)[:, 0, :, 0]
            image = image_of(pixels)
        if known is not None:
            self._bytes -= known[1].sizeInBytes()
        self._images[key] = (block, image)
        self._images.move_to_end(key)
        self._bytes += image.sizeInBytes()
        while self._bytes > MOST_BYTES and len(self._images) > 1:
            _key, (_block, dropped) = self._images.popitem(last=False)
            self._bytes -= dropped.sizeInBytes()
        return image

    @staticmethod
    def _patched(
        known: tuple[Block, QImage], block: Block, tiles: TileSet, tint: Colour | None
    ) -> QImage | None:
        """The old image with only the changed cells drawn again, or None if they are many."""
        changed = np.argwhere(known[0].cells != block.cells)
        if len(changed) > PATCH:
            return None
        image = known[1]  # ours alone: drawn in place
        painter = QPainter(image)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
        wide, high = tiles.cell
        for row, column in changed:
            tile = image_of(np.ascontiguousarray(tinted(tiles.tile(int(block.cells[row, column])), tint)))
            painter.drawImage(QPointF(float(column * wide), float(row * high)), tile)
        painter.end()
        return image
