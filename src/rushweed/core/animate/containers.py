"""Moving pictures put together frame by frame, so that each frame is there with its own time.

Encoders of moving pictures leave out frames that are empty or equal to the one before; here only the frames
themselves are encoded by Pillow. Sources: W3C PNG, third edition (animated PNG); Graphics Interchange
Format, version 89a; RFC 9649 (WebP).
"""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from rushweed.core.document.errors import EditError

if TYPE_CHECKING:
    from PIL import Image

PNG_MARK = b"\x89PNG\r\n\x1a\n"


def apng(frames: np.ndarray, times: Sequence[int], loop: int) -> bytes:
    """An animated PNG. frames: uint8 (n, height, width, 4); times: ms of each, in whole hundredths from 66 s;
    `loop` is how often it plays, 0 for ever."""
    height, width = frames.shape[1:3]
    made = [PNG_MARK]
    number = 0
    for n, (frame, ms) in enumerate(zip(frames, times, strict=True)):
        chunks = list(_png_chunks(_encoded(frame, "PNG")))
        if n == 0:
            made.append(_chunk(b"IHDR", next(data for kind, data in chunks if kind == b"IHDR")))
            made.append(_chunk(b"acTL", struct.pack(">II", len(frames), loop)))
        parts = next(p for p in (1000, 100, 10, 1) if ms * p <= 65_535 * 1000)  # of a second
        shown = round(ms * parts / 1000), parts
        control = struct.pack(">IIIIIHHBB", number, width, height, 0, 0, *shown, 0, 0)
        made.append(_chunk(b"fcTL", control))
        number += 1
        for kind, data in chunks:
            if kind != b"IDAT":
                continue
            if n == 0:
                made.append(_chunk(b"IDAT", data))
            else:
                made.append(_chunk(b"fdAT", struct.pack(">I", number) + data))
                number += 1
    return b"".join([*made, _chunk(b"IEND", b"")])


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def _png_chunks(png: bytes) -> Iterator[tuple[bytes, bytes]]:
    at = len(PNG_MARK)
    while at < len(png):
        (length,) = struct.unpack_from(">I", png, at)
        yield png[at + 4 : at + 8], png[at + 8 : at + 8 + length]
        at += length + 12


def gif(frames: np.ndarray, palette: np.ndarray, times: Sequence[int], loop: int) -> bytes:
    """A GIF. frames: uint8 (n, height, width), indices into palette, uint8 (256, 3), of which 0 is clear;
    times: hundredths of a second of each; `loop` is how often it plays, 0 for ever. Raises EditError for a
    frame that lasts longer than a GIF can say."""
    if max(times) > 65_535:
        raise EditError(
            f"A frame of {max(times) / 100:g} s is too long for a GIF.", "Use 655 s at most, or APNG or WebP."
        )
    from PIL import Image  # late: only who writes pictures waits for it

    height, width = frames.shape[1:]
    made = [b"GIF89a", struct.pack("<HHBBB", width, height, 0xF7, 0, 0), palette.tobytes()]
    if loop != 1:
        made.append(b"\x21\xff\x0bNETSCAPE2.0\x03\x01" + struct.pack("<H", max(loop - 1, 0)) + b"\x00")
    for frame, hundredths in zip(frames, times, strict=True):
        clear_after = 2 << 2 | 1  # dispose to the ground, with a clear colour
        made.append(b"\x21\xf9\x04" + struct.pack("<BHB", clear_after, hundredths, 0) + b"\x00")
        image = Image.fromarray(frame, "P")
        image.putpalette(palette.reshape(-1).tolist())
        made.append(_gif_picture(_saved(image, "GIF", optimize=False, interlace=0)))
    return b"".join([*made, b"\x3b"])


def _gif_picture(data: bytes) -> bytes:
    """The picture of a GIF of one frame, from its descriptor on, without a palette of its own."""
    at = 13 + (3 << (data[10] & 7) + 1 if data[10] & 0x80 else 0)
    while data[at] != 0x2C:
        at += 2
        while data[at]:
            at += data[at] + 1
        at += 1
    flags = data[at + 9]
    body = at + 10 + (3 << (flags & 7) + 1 if flags & 0x80 else 0)
    end = body + 1
    while data[end]:
        end += data[end] + 1
    return data[at : at + 9] + b"\x00" + data[body : end + 1]


def webp(frames: np.ndarray, times: Sequence[int], loop: int) -> bytes:
    """A lossless animated WebP. frames: uint8 (n, height, width, 4); times: ms of each; `loop` is how often
    it plays, 0 for ever."""
    height, width = frames.shape[1:3]
    size = _three(width - 1) + _three(height - 1)
    parts = [_riff(b"VP8X", bytes([0x12, 0, 0, 0]) + size)]  # animated, with alpha
    parts.append(_riff(b"ANIM", struct.pack("<IH", 0, loop)))
    for frame, ms in zip(frames, times, strict=True):
        picture = _webp_picture(_encoded(frame, "WEBP", lossless=True, exact=True, method=4))
        replaces = 2  # no blending, and nothing is disposed of
        parts.append(_riff(b"ANMF", _three(0) * 2 + size + _three(ms) + bytes([replaces]) + picture))
    body = b"WEBP" + b"".join(parts)
    return b"RIFF" + struct.pack("<I", len(body)) + body


def _webp_picture(data: bytes) -> bytes:
    """The chunks of a WebP of one frame that hold its px."""
    at, found = 12, b""
    while at < len(data):
        (length,) = struct.unpack_from("<I", data, at + 4)
        end = at + 8 + length + length % 2
        if data[at : at + 4] in (b"VP8L", b"VP8 ", b"ALPH"):
            found += data[at:end]
        at = end
    return found


def _riff(kind: bytes, data: bytes) -> bytes:
    return kind + struct.pack("<I", len(data)) + data + b"\x00" * (len(data) % 2)


def _three(value: int) -> bytes:
    return struct.pack("<I", value)[:3]


def _encoded(rgba: np.ndarray, form: str, **options: Any) -> bytes:
    from PIL import Image

    return _saved(Image.fromarray(rgba), form, **options)


def _saved(image: Image.Image, form: str, **options: Any) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, form, **options)
    return buffer.getvalue()
