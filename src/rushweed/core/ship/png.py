"""PNG files as small as they can be without losing anything: a palette, fewer bits, no alpha, the best
filters.

Source: W3C Portable Network Graphics (PNG) Specification, Third Edition. One of its filters is taken for all
rows, or for each row the one that leaves the least sum of absolute differences (its section 12.7). RFC 1950
and RFC 1951 for what is packed.
"""

from __future__ import annotations

import os
import struct
import zlib
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from rushweed.core.ship.stretches import Stretches

MAGIC = b"\x89PNG\r\n\x1a\n"
RGB, PALETTE, RGBA = 2, 3, 6  # colour types
ADAPTIVE = 5  # of filters, after the five of the specification
BAND, BANDS = 16, 4  # rows, and how many such stretches of rows filters are tried on
STRETCH = 1 << 20  # bytes packed by themselves
LOOKS_BACK = 1 << 15  # bytes before it that a stretch may repeat


def packed_png(rgba: np.ndarray, stretches: Stretches | None = None) -> bytes:
    """The file of a picture, uint8 (height, width, 4); the same px give the same bytes, whatever `stretches`
    an earlier file of it had."""
    height, width = rgba.shape[:2]
    found = _palette(rgba)
    if found is not None:
        colours, index = found
        bits = next(b for b in (1, 2, 4, 8) if len(colours) <= 1 << b)
        rows = _packed_bits(index, bits)
        plain = np.zeros((height, rows.shape[1] + 1), np.uint8)
        plain[:, 1:] = rows
        clear = int((colours[:, 3] < 255).sum())  # these come first
        chunks = [(b"PLTE", colours[:, :3].tobytes())]
        if clear:
            chunks.append((b"tRNS", colours[:clear, 3].tobytes()))
        return _file((width, height), bits, PALETTE, chunks, deflated(plain, 9, stretches))
    opaque = all((rgba[n : n + BAND, :, 3] == 255).all() for n in range(0, height, BAND))
    px = np.ascontiguousarray(rgba[..., :3]) if opaque else np.ascontiguousarray(rgba)
    data = deflated(_filtered(px, _best(px)), 6, stretches)
    return _file((width, height), 8, RGB if opaque else RGBA, [], data)


def _palette(rgba: np.ndarray) -> tuple[np.ndarray, np.ndarray] | None:
    """Up to 256 colours, uint8 (n, 4), those that are not opaque first, and the index of each px."""
    from rushweed.core.ship.kernels import colours  # late: it is compiled

    codes = np.ascontiguousarray(rgba).view("<u4")[..., 0]
    found = np.zeros(256, np.uint32)
    count = int(colours(codes.ravel(), found, np.zeros(1024, np.int64)))
    if count > 256:
        return None
    known = np.sort(found[:count])
    order = np.lexsort((known, known >> 24 == 255))
    place = np.empty(count, np.uint8)
    place[order] = np.arange(count)
    index = place[np.searchsorted(known, codes)]
    return known[order].astype("<u4").view(np.uint8).reshape(-1, 4), index


def _packed_bits(index: np.ndarray, bits: int) -> np.ndarray:
    """Rows of indices, several to a byte, the first in the highest bits."""
    if bits == 8:
        return index
    each = 8 // bits
    padded = np.pad(index, ((0, 0), (0, -index.shape[1] % each))).reshape(len(index), -1, each)
    shifts = np.arange(8 - bits, -1, -bits).astype(np.uint8)
    made: np.ndarray = np.bitwise_or.reduce(padded << shifts, axis=2).astype(np.uint8)
    return made


def _best(px: np.ndarray) -> int:
    """Which filter packs a picture best, tried on some of its rows; ADAPTIVE chooses one for each row."""
    bands = np.linspace(0, max(len(px) - BAND, 0), BANDS).astype(int)
    tried = px if len(px) <= BAND * BANDS else np.concatenate([px[n : n + BAND] for n in bands])
    filters = range(ADAPTIVE + 1)
    with _threads(len(filters)) as pool:
        sizes = list(pool.map(lambda n: len(zlib.compress(_filtered(tried, n).data, 6)), filters))
    return min(filters, key=sizes.__getitem__)


def _filtered(px: np.ndarray, number: int) -> np.ndarray:
    """All rows, each with the number of its filter before it."""
    from rushweed.core.ship.kernels import filtered  # late: it is compiled

    height, width, channels = px.shape
    out = np.empty((height, width * channels + 1), np.uint8)
    filtered(px.reshape(height, -1), channels, number, out)
    return out


def deflated(rows: np.ndarray, level: int, stretches: Stretches | None = None) -> bytes:
    """A zlib stream, its stretches packed side by side; each knows what stands before it, so that hardly a
    byte is lost by that, and the same data give the same bytes on any number of cores."""
    data = np.ascontiguousarray(rows).reshape(-1).data
    if len(data) <= STRETCH:
        return zlib.compress(data, level)

    known = stretches or Stretches({})

    def packed(start: int) -> tuple[bytes, bytes]:
        before, own = data[max(start - LOOKS_BACK, 0) : start], data[start : start + STRETCH]
        flush = zlib.Z_FINISH if start + STRETCH >= len(data) else zlib.Z_SYNC_FLUSH

        def pack() -> bytes:
            packer = zlib.compressobj(level, zlib.DEFLATED, -zlib.MAX_WBITS, zdict=before)
            return packer.compress(own) + packer.flush(flush)

        return known.packed((bytes((level, flush)), before, own), pack)

    starts = range(0, len(data), STRETCH)
    with _threads(len(starts)) as pool:
        made = list(pool.map(packed, starts))
    known.table = [(key, len(piece)) for key, piece in made]
    pieces = (piece for _key, piece in made)
    return b"".join((b"\x78\x9c", *pieces, struct.pack(">I", zlib.adler32(data))))


def _threads(work: int) -> ThreadPoolExecutor:
    return ThreadPoolExecutor(min(os.cpu_count() or 1, work))


def _file(
    size: tuple[int, int], bits: int, colour: int, chunks: list[tuple[bytes, bytes]], data: bytes
) -> bytes:
    head = struct.pack(">IIBBBBB", *size, bits, colour, 0, 0, 0)
    whole = [(b"IHDR", head), *chunks, (b"IDAT", data), (b"IEND", b"")]
    return MAGIC + b"".join(
        struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        for kind, body in whole
    )
