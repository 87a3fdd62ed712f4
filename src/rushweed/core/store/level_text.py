"""Layers of tiles as rows of text with run lengths, made for version control.

A row is read left to right from the level's left bound: `4x12` is four tiles of index 12, `7.2` one tile
of index 7 in orientation 2, `9x0` nine empty cells. Empty cells at the end of a row are left out.
"""

from __future__ import annotations

import re

import numpy as np

from rushweed.core.document.errors import StoreError
from rushweed.core.document.model import CHUNK, Chunk, Tiles

TOKEN = re.compile(r"(?:([1-9]\d{0,5})x)?(\d{1,7})(?:\.([1-7]))?\Z")


def rows_of(tiles: Tiles, bounds: tuple[int, int, int, int]) -> list[str]:
    """One text a row of `bounds` (left, top, columns, rows in cells)."""
    left, top, columns, rows = bounds
    names: dict[int, str] = {}
    result: list[str] = []
    for band in range(top // CHUNK, (top + rows - 1) // CHUNK + 1) if rows else ():
        strip = _chunk_row(tiles, band, left, columns)
        first, last = max(top - band * CHUNK, 0), min(top + rows - band * CHUNK, CHUNK)
        result.extend("" if strip is None else _row_text(strip[i], names) for i in range(first, last))
    return result


def _chunk_row(tiles: Tiles, band: int, left: int, columns: int) -> np.ndarray | None:
    row = band - tiles.top
    if not 0 <= row < tiles.rows:
        return None
    chunks = tiles.chunks[row * tiles.columns : (row + 1) * tiles.columns]
    if not any(chunks):
        return None
    strip = np.zeros((CHUNK, columns), np.uint32)
    for i, chunk in enumerate(chunks):
        if chunk is None:
            continue
        x = (tiles.left + i) * CHUNK - left
        a, b = max(x, 0), min(x + CHUNK, columns)
        if a < b:
            strip[:, a:b] = chunk.cells[:, a - x : b - x]
    return strip


def _row_text(row: np.ndarray, names: dict[int, str]) -> str:
    used = np.flatnonzero(row)
    if not used.size:
        return ""
    row = row[: used[-1] + 1]
    starts = np.concatenate(([0], np.flatnonzero(row[1:] != row[:-1]) + 1))
    lengths = np.diff(starts, append=row.size).tolist()
    words = []
    for value, length in zip(row[starts].tolist(), lengths, strict=True):
        name = names.get(value)
        if name is None:
            name = names[value] = f"{value >> 3}.{value & 7}" if value & 7 else str(value >> 3)
        words.append(name if length == 1 else f"{length}x{name}")
    return " ".join(words)


def tiles_of(texts: list[str], bounds: tuple[int, int, int, int], most_index: int, place: str) -> Tiles:
    """Read rows back; `place` names the file and layer for errors. Raises StoreError on nonsense."""
    left, top, columns, rows = bounds
    if len(texts) > rows:
        raise StoreError(f"{place} has {len(texts)} rows, its level {rows}.", "Put the file back as it was.")
    known: dict[str, tuple[int, int]] = {}
    chunk_left, chunk_top = left // CHUNK, top // CHUNK
    chunk_columns = (left + columns - 1) // CHUNK - chunk_left + 1 if columns else 0
    chunk_rows = (top + rows - 1) // CHUNK - chunk_top + 1 if rows else 0
    if not any(texts):
        return Tiles()
    chunks: list[Chunk | None] = []
    shared: dict[bytes, Chunk] = {}  # equal chunks are one
    band = np.zeros((CHUNK, chunk_columns * CHUNK), np.uint32)
    for chunk_row in range(chunk_rows):
        band[:] = 0
        first = (chunk_top + chunk_row) * CHUNK - top
        for i in range(CHUNK):
            if 0 <= first + i < len(texts) and texts[first + i]:
                row = _read_row(texts[first + i], known, most_index, columns, f"{place}, row {first + i}")
                start = left - chunk_left * CHUNK
                band[i, start : start + row.size] = row
        for column in range(chunk_columns):
            part = band[:, column * CHUNK : (column + 1) * CHUNK]
            chunks.append(_frozen_chunk(part, shared) if part.any() else None)
    return Tiles(chunk_left, chunk_top, chunk_columns, chunk_rows, tuple(chunks))


def _frozen_chunk(cells: np.ndarray, shared: dict[bytes, Chunk]) -> Chunk:
    data = cells.tobytes()
    known = shared.get(data)
    if known is None:
        copy = np.frombuffer(data, np.uint32).reshape(CHUNK, CHUNK)
        known = shared[data] = Chunk(copy)
    return known


def _read_row(
    text: str, known: dict[str, tuple[int, int]], most_index: int, columns: int, place: str
) -> np.ndarray:
    values, lengths = [], []
    for word in text.split(" "):
        pair = known.get(word)
        if pair is None:
            match = TOKEN.match(word)
            if not match or int(match[2]) > most_index:
                raise StoreError(
                    f"{place} holds {word[:20]!r}, which is no tile of the level.",
                    "Put the row back as it was.",
                )
            pair = known[word] = (int(match[2]) * 8 + int(match[3] or 0), int(match[1] or 1))
        values.append(pair[0])
        lengths.append(pair[1])
    if sum(lengths) > columns:
        raise StoreError(
            f"{place} has {sum(lengths)} cells, the level {columns} columns.", "Put the row back as it was."
        )
    return np.repeat(np.array(values, np.uint32), lengths)
