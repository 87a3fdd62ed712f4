"""PNG files as small as they can be without losing anything: a palette, fewer bits, no alpha, the best
filters.

Source: W3C Portable Network Graphics (PNG) Specification, Third Edition. One of its filters is taken for all
rows, or for each row the one that leaves the least sum of absolute differences (its section 12.7).
"""

from __future__ import annotations

import struct
import zlib

import numpy as np

MAGIC = b"\x89PNG\r\n\x1a\n"
RGB, PALETTE, RGBA = 2, 3, 6  # colour types
SAMPLE = 4096  # px looked at first
ADAPTIVE = 5  # of filters, after the five of the specification
BAND, BANDS = 16, 8  # rows, and how many such stretches of rows filters are tried on


def packed_png(rgba: np.ndarray) -> bytes:
    """The file of a picture, uint8 (height, width, 4); the same px give the same bytes."""
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
        return _file((width, height), bits, PALETTE, chunks, zlib.compress(plain.tobytes(), 9))
    opaque = bool((rgba[..., 3] == 255).all())
    px = np.ascontiguousarray(rgba[..., :3]) if opaque else np.ascontiguousarray(rgba)
    return _file((width, height), 8, RGB if opaque else RGBA, [], zlib.compress(_filtered(px, _best(px)), 6))


def _palette(rgba: np.ndarray) -> tuple[np.ndarray, np.ndarray] | None:
    """Up to 256 colours, uint8 (n, 4), those that are not opaque first, and the index of each px."""
    codes = np.ascontiguousarray(rgba).view("<u4")[..., 0]
    flat = codes.ravel()
    if len(flat) > SAMPLE * 4 and len(np.unique(flat[:: len(flat) // SAMPLE])) > 256:
        return None
    colours = np.unique(codes)
    if len(colours) > 256:
        return None
    order = np.lexsort((colours, colours >> 24 == 255))
    place = np.empty(len(colours), np.uint8)
    place[order] = np.arange(len(colours))
    index = place[np.searchsorted(colours, codes)]
    return colours[order].astype("<u4").view(np.uint8).reshape(-1, 4), index


def _packed_bits(index: np.ndarray, bits: int) -> np.ndarray:
    """Rows of indices, several to a byte, the first in the highest bits."""
    if bits == 8:
        return index
    each = 8 // bits
    padded = np.pad(index, ((0, 0), (0, -index.shape[1] % each))).reshape(len(index), -1, each)
    shifts = np.arange(8 - bits, -1, -bits).astype(np.uint8)
    return np.bitwise_or.reduce(padded << shifts, axis=2).astype(np.uint8)


def _best(px: np.ndarray) -> int:
    """Which filter packs a picture best, tried on some of its rows; ADAPTIVE chooses one for each row."""
    bands = np.linspace(0, max(len(px) - BAND, 0), BANDS).astype(int)
    tried = px if len(px) <= BAND * BANDS else np.concatenate([px[n : n + BAND] for n in bands])
    return min(range(ADAPTIVE + 1), key=lambda n: len(zlib.compress(_filtered(tried, n), 6)))


def _filtered(px: np.ndarray, number: int) -> bytes:
    """All rows, each with the number of its filter before it."""
    height, width, channels = px.shape
    out = np.empty((height, width * channels + 1), np.uint8)
    if number != ADAPTIVE:
        out[:, 0], out[:, 1:] = number, (px - _guess(px, number)).reshape(height, -1)
        return out.tobytes()
    out[:, 0], out[:, 1:] = 0, px.reshape(height, -1)
    least = _weight(out[:, 1:])
    for n in range(1, ADAPTIVE):
        rest = (px - _guess(px, n)).reshape(height, -1)
        weight = _weight(rest)
        better = weight < least
        out[better, 1:], out[better, 0], least[better] = rest[better], n, weight[better]
    return out.tobytes()


def _guess(px: np.ndarray, number: int) -> np.ndarray:
    """What a filter takes each byte for: nothing, left, above, their mean, or what fits best (Paeth)."""
    left, up = np.zeros_like(px), np.zeros_like(px)
    left[:, 1:], up[1:] = px[:, :-1], px[:-1]
    if number == 4:
        corner = np.zeros_like(px)
        corner[1:, 1:] = px[:-1, :-1]
        return _paeth(left, up, corner)
    return (np.zeros_like(px), left, up, _mean(left, up))[number]


def _weight(rows: np.ndarray) -> np.ndarray:
    """The sum of absolute differences of each row, bytes taken as signed."""
    return np.minimum(rows, 0 - rows).sum(axis=1, dtype=np.int64)


def _mean(left: np.ndarray, up: np.ndarray) -> np.ndarray:
    return ((left.astype(np.uint16) + up) >> 1).astype(np.uint8)


def _paeth(left: np.ndarray, up: np.ndarray, corner: np.ndarray) -> np.ndarray:
    a, b, c = (v.astype(np.int16) for v in (left, up, corner))
    from_a, from_b = np.abs(b - c), np.abs(a - c)
    from_c = np.abs(a + b - 2 * c)
    return np.where((from_a <= from_b) & (from_a <= from_c), left, np.where(from_b <= from_c, up, corner))


def _file(
    size: tuple[int, int], bits: int, colour: int, chunks: list[tuple[bytes, bytes]], data: bytes
) -> bytes:
    head = struct.pack(">IIBBBBB", *size, bits, colour, 0, 0, 0)
    whole = [(b"IHDR", head), *chunks, (b"IDAT", data), (b"IEND", b"")]
    return MAGIC + b"".join(
        struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        for kind, body in whole
    )
