"""Layers of tiles as rows of text with run lengths, made for version control.

A row is read left to right from the level's left bound: `4x12` is four tiles of index 12, `7.2` one tile
of index 7 in orientation 2, `9x0` nine empty cells. Empty cells at the end of a row are left out.
"""

from __future__ import annotations

import re
from itertools import pairwise

import numpy as np

from rushweed.core.document.errors import StoreError
from rushweed.core.document.model.level import CHUNK, Chunk, Tiles

MOST_BITS = 24  # of a length
LEAST_WORDS = 8  # a chunk, from which on those of a band are not compared with each other
MOST_BYTES = 1 << 25  # of texts that are remembered,
BAND_BYTES = CHUNK * CHUNK * 4  # besides which each keeps a chunk that may be in use no more
TOKEN = re.compile(r"(?:([1-9]\d{0,5})x)?(\d{1,7})(?:\.([1-7]))?\Z")


class _Bands:
    """The texts of rows, CHUNK at a time, by the very chunks they are of: an edit changes only some. Dropped
    where all take more than MOST_BYTES."""

    def __init__(self) -> None:
        self._known: dict[tuple[int, ...], tuple[tuple[Chunk | None, ...], list[str]]] = {}
        self._bytes = 0

    def texts(
        self, chunks: tuple[Chunk | None, ...], place: tuple[int, int], words: dict[int, str]
    ) -> list[str]:
        """Of chunks side by side; `place`: how far right of their left the rows begin, and how many cells
        these have. `words` has those that were made before, by value and length."""
        key = (*place, *map(id, chunks))
        known = self._known.get(key)
        if known is None:
            known = chunks, _band_texts(chunks, place, words)
            taken = BAND_BYTES + sum(map(len, known[1]))
            if self._bytes + taken > MOST_BYTES:
                self._known, self._bytes = {}, 0
            self._known[key] = known  # which holds the chunks: no others get their ids
            self._bytes += taken
        return known[1]


_bands = _Bands()


def rows_of(tiles: Tiles, bounds: tuple[int, int, int, int]) -> list[str]:
    """One text a row of `bounds` (left, top, columns, rows in cells)."""
    left, top, columns, rows = bounds
    words: dict[int, str] = {}
    result: list[str] = []
    for band in range(top // CHUNK, (top + rows - 1) // CHUNK + 1) if rows else ():
        first, last = max(top - band * CHUNK, 0), min(top + rows - band * CHUNK, CHUNK)
        row = band - tiles.top
        chunks = (
            tiles.chunks[row * tiles.columns : (row + 1) * tiles.columns] if 0 <= row < tiles.rows else ()
        )
        if any(chunks):
            result += _bands.texts(chunks, (left - tiles.left * CHUNK, columns), words)[first:last]
        else:
            result += [""] * (last - first)
    return result


def _band_texts(chunks: tuple[Chunk | None, ...], place: tuple[int, int], words: dict[int, str]) -> list[str]:
    left, columns = place
    strip = np.zeros((CHUNK, columns), np.uint32)
    for i, chunk in enumerate(chunks):
        if chunk is None:
            continue
        x = i * CHUNK - left
        a, b = max(x, 0), min(x + CHUNK, columns)
        if a < b:
            strip[:, a:b] = chunk.cells[:, a - x : b - x]
    if not strip.size:
        return [""] * CHUNK
    begins = np.ones(strip.shape, bool)
    np.not_equal(strip[:, 1:], strip[:, :-1], out=begins[:, 1:])
    places = np.flatnonzero(begins)
    runs = strip.ravel()[places].astype(np.int64) << MOST_BITS | np.diff(places, append=strip.size)
    listed: list[int] = runs.tolist()
    made: list[str] = []
    before, text = list[int](), ""
    for first, end in pairwise(np.searchsorted(places, np.arange(CHUNK + 1) * columns).tolist()):
        row = listed[first : end if listed[end - 1] >> MOST_BITS else end - 1]
        if row != before:  # rows one under the other are often the same
            before, text = row, " ".join([words.get(run) or _word(run, words) for run in row])
        made.append(text)
    return made


def _word(run: int, words: dict[int, str]) -> str:
    value, length = run >> MOST_BITS, run & (1 << MOST_BITS) - 1
    name = f"{value >> 3}.{value & 7}" if value & 7 else str(value >> 3)
    words[run] = made = name if length == 1 else f"{length}x{name}"
    return made


def tiles_of(texts: list[str], bounds: tuple[int, int, int, int], most_index: int, place: str) -> Tiles:
    """Read rows back; `place` names the file and layer for errors. Raises StoreError on nonsense."""
    left, top, columns, rows = bounds
    if len(texts) > rows:
        raise StoreError(f"{place} has {len(texts)} rows, its level {rows}.", "Put the file back as it was.")
    known = _Words(most_index)
    before, row = "", np.zeros(0, np.uint32)
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
        words_in_all, first = 0, (chunk_top + chunk_row) * CHUNK - top
        for i in range(CHUNK):
            if 0 <= first + i < len(texts) and texts[first + i]:
                if texts[first + i] != before:
                    before, where = texts[first + i], f"{place}, row {first + i}"
                    words = before.split(" ")
                    words_in_all += len(words)
                    row = known.cells(words, columns, where)
                start = left - chunk_left * CHUNK
                band[i, start : start + row.size] = row
        parts = band.reshape(CHUNK, chunk_columns, CHUNK).transpose(1, 0, 2).copy()
        parts.setflags(write=False)
        held: list[bool] = np.any(parts, axis=(1, 2)).tolist()
        alike = words_in_all < LEAST_WORDS * chunk_columns  # else hardly any are the same
        chunks += [
            (_shared_chunk(part, shared) if alike else Chunk(part)) if h else None
            for part, h in zip(parts, held, strict=True)
        ]
    return Tiles(chunk_left, chunk_top, chunk_columns, chunk_rows, tuple(chunks))


def _shared_chunk(cells: np.ndarray, shared: dict[bytes, Chunk]) -> Chunk:
    data = cells.tobytes()
    known = shared.get(data)
    if known is None:
        copy = np.frombuffer(data, np.uint32).reshape(CHUNK, CHUNK)
        known = shared[data] = Chunk(copy)
    return known


class _Words:
    """What the words of rows mean: each is looked at once."""

    def __init__(self, most_index: int) -> None:
        self._most_index = most_index
        self._places: dict[str, int] = {}  # in the two arrays
        self._values, self._lengths = np.zeros(64, np.uint32), np.zeros(64, np.int64)

    def cells(self, words: list[str], columns: int, place: str) -> np.ndarray:
        """The cells of a row, uint32. Raises StoreError on nonsense."""
        try:
            places = np.array([self._places[word] for word in words], np.intp)
        except KeyError:
            self._learn(words, place)
            places = np.array([self._places[word] for word in words], np.intp)
        lengths = self._lengths[places]
        if (count := int(lengths.sum())) > columns:
            raise StoreError(
                f"{place} has {count} cells, the level {columns} columns.", "Put the row back as it was."
            )
        return np.repeat(self._values[places], lengths)

    def _learn(self, words: list[str], place: str) -> None:
        for word in words:
            if word in self._places:
                continue
            match = TOKEN.match(word)
            if not match or int(match[2]) > self._most_index:
                raise StoreError(
                    f"{place} holds {word[:20]!r}, which is no tile of the level.",
                    "Put the row back as it was.",
                )
            number = self._places[word] = len(self._places)
            if number == len(self._values):
                self._values = np.concatenate((self._values, np.zeros_like(self._values)))
                self._lengths = np.concatenate((self._lengths, np.zeros_like(self._lengths)))
            self._values[number] = int(match[2]) * 8 + int(match[3] or 0)
            self._lengths[number] = int(match[1] or 1)
