"""KTX 2.0 files: textures with their mipmaps, each level compressed by Zstandard.

Source: the KTX File Format Specification 2.0 and the Khronos Data Format Specification 1.3 (descriptors).
Values are written as they stand in the picture; the transfer says whether the game should read them as sRGB
colours, or as plain numbers, such as those of normal maps.
"""

from __future__ import annotations

import struct
from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import PictureError
from rushweed.core.document.model.sheet import Codec, Transfer

MAGIC = b"\xabKTX 20\xbb\r\n\x1a\n"
ZSTANDARD = 2
MOST_SIDE = 16_384
MOST_BYTES = 1 << 30


class _Format(NamedTuple):
    """`vk`, `srgb`: the numbers of the Vulkan formats for linear values and for sRGB ones; `model`: of the
    colour model; `block`: px a side; `size`: bytes a block; `samples`: bit offset, bits, channel and greatest
    value of each sample."""

    vk: int
    srgb: int
    model: int
    block: int
    size: int
    samples: tuple[tuple[int, int, int, int], ...]


_MOST = 0xFFFFFFFF
FORMATS: dict[Codec, _Format] = {
    "none": _Format(37, 43, 1, 1, 4, ((0, 8, 0, 255), (8, 8, 1, 255), (16, 8, 2, 255), (24, 8, 15, 255))),
    "bc1": _Format(133, 134, 128, 4, 8, ((0, 64, 1, _MOST),)),
    "bc3": _Format(137, 138, 130, 4, 16, ((0, 64, 15, _MOST), (64, 64, 0, _MOST))),
    "bc7": _Format(145, 146, 134, 4, 16, ((0, 128, 0, _MOST),)),
    "etc2": _Format(151, 152, 161, 4, 16, ((0, 64, 15, _MOST), (64, 64, 2, _MOST))),
}  # fmt: skip


TRANSFERS: dict[Transfer, int] = {"linear": 1, "srgb": 2}  # as data format descriptors number them
ALPHA, LINEAR_SAMPLE = 15, 0x10  # the alpha channel, and the mark that it is linear beside sRGB colours


class Container(NamedTuple):
    """`levels`: the bytes of each mipmap, largest first; `premultiplied`: whether colours are; `transfer`:
    how their values are meant."""

    codec: Codec
    size: tuple[int, int]
    levels: tuple[bytes, ...]
    premultiplied: bool = False
    transfer: Transfer = "srgb"


def level_bytes(codec: Codec, size: tuple[int, int]) -> int:
    """Bytes that a level of `size` px takes on the card."""
    form = FORMATS[codec]
    return -(-size[0] // form.block) * -(-size[1] // form.block) * form.size


def write_ktx2(texture: Container) -> bytes:
    """The file's bytes; the same texture gives the same bytes."""
    import zstandard

    form = FORMATS[texture.codec]
    packed = [zstandard.ZstdCompressor(level=12).compress(level) for level in texture.levels]
    descriptor = _descriptor(form, texture.premultiplied, texture.transfer)
    vk = form.srgb if texture.transfer == "srgb" else form.vk
    notes = _notes({"KTXorientation": "rd", "KTXwriter": "rushweed"})
    index_at = 80
    descriptor_at = index_at + 24 * len(packed)
    notes_at = descriptor_at + len(descriptor)
    at = notes_at + len(notes)
    places: list[int] = [0] * len(packed)
    for number in reversed(range(len(packed))):  # the smallest level comes first in the file
        places[number] = at
        at += len(packed[number])
    head = struct.pack(
        "<12sIIIIIIIIIIIIIQQ", MAGIC, vk, 1, *texture.size, 0, 0, 1, len(packed), ZSTANDARD,
        descriptor_at, len(descriptor), notes_at, len(notes), 0, 0,
    )  # fmt: skip
    index = b"".join(
        struct.pack("<QQQ", place, len(level), len(raw))
        for place, level, raw in zip(places, packed, texture.levels, strict=True)
    )
    return head + index + descriptor + notes + b"".join(reversed(packed))


def _descriptor(form: _Format, premultiplied: bool, transfer: Transfer) -> bytes:
    size = 24 + 16 * len(form.samples)
    block = form.block - 1
    out = struct.pack("<III", 4 + size, 0, 2 | size << 16)
    out += struct.pack("<BBBB", form.model, 1, TRANSFERS[transfer], int(premultiplied))  # BT.709 primaries
    out += struct.pack("<BBBB", block, block, 0, 0) + struct.pack("<8B", form.size, *[0] * 7)
    for offset, bits, channel, most in form.samples:
        if channel == ALPHA and transfer == "srgb":
            channel |= LINEAR_SAMPLE
        out += struct.pack("<HBBIII", offset, bits - 1, channel, 0, 0, most)
    return out


def _notes(notes: dict[str, str]) -> bytes:
    out = b""
    for key, value in sorted(notes.items()):
        pair = key.encode() + b"\0" + value.encode() + b"\0"
        out += struct.pack("<I", len(pair)) + pair
        out += b"\0" * (-len(out) % 4)
    return out


def read_ktx2(data: bytes, place: str) -> Container:
    """A file's texture. Raises PictureError naming `place` if it is broken or of a kind not read here."""
    import zstandard

    def broken(what: str) -> PictureError:
        return PictureError(f"{place} is no whole KTX2 file: {what}.", "Make the file again.")

    if data[:12] != MAGIC:
        raise broken("it does not begin as one")
    if len(data) < 80:
        raise broken("it is cut short")
    vk, _type, width, height, depth, layers, faces, count, scheme = struct.unpack_from("<9I", data, 12)
    descriptor_at, descriptor_size = struct.unpack_from("<II", data, 48)
    codec = next((name for name, form in FORMATS.items() if vk in (form.vk, form.srgb)), None)
    if codec is None:
        raise PictureError(
            f"{place} holds textures of format {vk}, which is not read here.",
            f"Use one of {', '.join(FORMATS)}.",
        )
    if not (1 <= width <= MOST_SIDE and 1 <= height <= MOST_SIDE):
        raise broken(f"a size of {width} x {height} px")
    if depth or layers > 1 or faces != 1 or scheme not in (0, ZSTANDARD):
        raise PictureError(
            f"{place} is not one flat picture, stored as it is or by Zstandard.", "Save it as such."
        )
    count = max(count, 1)
    if count > max(width, height).bit_length() or 80 + 24 * count > len(data):
        raise broken(f"{count} mipmaps")
    levels = []
    for number in range(count):
        at, length, whole = struct.unpack_from("<QQQ", data, 80 + 24 * number)
        wanted = level_bytes(codec, (max(width >> number, 1), max(height >> number, 1)))
        if at + length > len(data) or wanted > MOST_BYTES or (scheme and whole != wanted):
            raise broken(f"mipmap {number} does not fit")
        level = data[at : at + length]
        if scheme:
            try:
                level = zstandard.ZstdDecompressor().decompress(level, max_output_size=wanted)
            except zstandard.ZstdError:
                raise broken(f"mipmap {number} cannot be unpacked") from None
        if len(level) != wanted:
            raise broken(f"mipmap {number} has {len(level)} bytes for {wanted}")
        levels.append(level)
    flags, transfer = 0, "srgb" if vk == FORMATS[codec].srgb else "linear"
    if descriptor_size >= 28 and descriptor_at + 16 <= len(data):
        flags = data[descriptor_at + 15]
    return Container(codec, (width, height), tuple(levels), bool(flags & 1), transfer)  # type: ignore[arg-type]


def raw_pixels(level: bytes, size: tuple[int, int]) -> np.ndarray:
    """A level of codec "none": uint8 (height, width, 4)."""
    return np.frombuffer(level, np.uint8).reshape(size[1], size[0], 4)
