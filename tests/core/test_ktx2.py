"""KTX2 files, parsed here by the open specification, and read back."""

import struct

import numpy as np
import pytest
import zstandard
from hypothesis import given, settings
from hypothesis import strategies as st

from rushweed.core.document.errors import EditError, PictureError
from rushweed.core.document.model.sheet import Codec, Transfer
from rushweed.core.tune.codec.compress import container, decoded
from rushweed.core.tune.ktx2 import FORMATS, MAGIC, Container, level_bytes, read_ktx2, write_ktx2

ART = np.random.default_rng(1).integers(0, 256, (24, 40, 4)).astype(np.uint8)


NUMBERS = {  # of the Vulkan formats: linear values, sRGB ones
    "none": (37, 43), "bc1": (133, 134), "bc3": (137, 138), "bc7": (145, 146), "etc2": (151, 152),
}  # fmt: skip


def made(codec: Codec = "bc1", mipmaps: bool = True, transfer: Transfer = "srgb") -> bytes:
    return write_ktx2(container(ART, codec, mipmaps, transfer=transfer))


@pytest.mark.parametrize("codec", FORMATS)
def test_a_file_is_laid_out_as_the_specification_says(codec: Codec) -> None:
    data = made(codec)
    assert data[:12] == MAGIC
    vk, type_size, width, height, depth, layers, faces, levels, scheme = struct.unpack_from("<9I", data, 12)
    assert vk == NUMBERS[codec][1]
    assert (type_size, width, height, depth, layers, faces, levels, scheme) == (1, 40, 24, 0, 0, 1, 6, 2)
    dfd_at, dfd, kvd_at, kvd, sgd_at, sgd = struct.unpack_from("<IIIIQQ", data, 48)
    assert dfd_at == 80 + 24 * levels and kvd_at == dfd_at + dfd and dfd_at % 4 == kvd_at % 4 == 0
    assert (sgd_at, sgd) == (0, 0)
    before = None
    for number in range(levels):
        at, length, whole = struct.unpack_from("<QQQ", data, 80 + 24 * number)
        size = (max(40 >> number, 1), max(24 >> number, 1))
        raw = zstandard.ZstdDecompressor().decompress(data[at : at + length])
        assert len(raw) == whole == level_bytes(codec, size)
        assert before is None or at + length == before  # larger levels come after smaller ones
        before = at
    assert struct.unpack_from("<QQ", data, 80)[0] + struct.unpack_from("<QQ", data, 80)[1] == len(data)


@pytest.mark.parametrize(("codec", "samples"), [("none", 4), ("bc1", 1), ("bc3", 2), ("bc7", 1), ("etc2", 2)])
def test_the_descriptor_tells_the_blocks(codec: Codec, samples: int) -> None:
    data = made(codec)
    at, size = struct.unpack_from("<II", data, 48)
    total, vendor, kind = struct.unpack_from("<III", data, at)
    assert total == size == 28 + 16 * samples and vendor == 0
    assert kind & 0xFFFF == 2 and kind >> 16 == 24 + 16 * samples
    model, primaries, transfer, flags = data[at + 12 : at + 16]
    assert model == FORMATS[codec].model and (primaries, transfer, flags) == (1, 2, 0)
    block = 0 if codec == "none" else 3
    assert list(data[at + 16 : at + 20]) == [block, block, 0, 0]
    assert data[at + 20] == FORMATS[codec].size
    ends = []
    for n in range(samples):
        offset, length, _channel = struct.unpack_from("<HBB", data, at + 28 + 16 * n)
        ends.append((offset, offset + length + 1))
    assert ends[0][0] == 0 and ends[-1][1] == FORMATS[codec].size * 8
    assert all(a[1] == b[0] for a, b in zip(ends, ends[1:], strict=False))


@pytest.mark.parametrize("codec", FORMATS)
@pytest.mark.parametrize("transfer", ["srgb", "linear"])
def test_values_are_told_as_colours_or_as_plain_numbers(codec: Codec, transfer: Transfer) -> None:
    data = made(codec, transfer=transfer)
    srgb = transfer == "srgb"
    assert struct.unpack_from("<I", data, 12)[0] == NUMBERS[codec][srgb]
    at = struct.unpack_from("<I", data, 48)[0]
    assert data[at + 14] == (2 if srgb else 1)
    channels = [data[at + 28 + 16 * n + 3] for n in range((struct.unpack_from("<I", data, at)[0] - 28) // 16)]
    alpha = {"none": 3, "bc3": 0, "etc2": 0}.get(codec)
    for n, channel in enumerate(channels):
        assert channel >> 4 == (1 if srgb and n == alpha else 0), "alpha stays linear beside sRGB colours"
    assert read_ktx2(data, "a.ktx2").transfer == transfer


def test_the_notes_name_orientation_and_writer() -> None:
    data = made()
    at, size = struct.unpack_from("<II", data, 56)
    notes, end = {}, at + size
    while at < end:
        (length,) = struct.unpack_from("<I", data, at)
        key, value = data[at + 4 : at + 4 + length].split(b"\0")[:2]
        notes[key] = value
        at += 4 + length + -length % 4
    assert notes == {b"KTXorientation": b"rd", b"KTXwriter": b"rushweed"} and list(notes) == sorted(notes)


@settings(max_examples=25, deadline=None)
@given(st.integers(1, 21), st.integers(1, 21), st.booleans(), st.sampled_from(list(FORMATS)))
def test_what_is_written_is_read_back(width: int, height: int, mipmaps: bool, codec: Codec) -> None:
    rgba = np.random.default_rng(width * 100 + height).integers(0, 256, (height, width, 4)).astype(np.uint8)
    texture = container(rgba, codec, mipmaps)
    again = read_ktx2(write_ktx2(texture), "it.ktx2")
    assert again == texture and write_ktx2(again) == write_ktx2(texture)
    if codec == "none":
        assert (decoded(again.levels[0], "none", again.size) == rgba).all()
    assert len(again.levels) == (max(width, height).bit_length() if mipmaps else 1)


def test_premultiplied_colours_are_told_and_made() -> None:
    rgba = np.full((4, 4, 4), (200, 100, 50, 128), np.uint8)
    again = read_ktx2(write_ktx2(container(rgba, "none", alpha="premultiplied")), "it")
    assert again.premultiplied
    assert decoded(again.levels[0], "none", (4, 4))[0, 0].tolist() == [100, 50, 25, 128]


def test_files_stored_without_compression_are_read() -> None:
    raw = ART.tobytes()
    data = bytearray(write_ktx2(Container("none", (40, 24), (raw,))))
    at = struct.unpack_from("<Q", data, 80)[0]
    struct.pack_into("<I", data, 44, 0)
    struct.pack_into("<QQQ", data, 80, at, len(raw), len(raw))
    assert read_ktx2(bytes(data[:at]) + raw, "it").levels == (raw,)


@pytest.mark.parametrize(
    ("at", "form", "value", "words"),
    [
        (0, "<I", 7, "does not begin"), (12, "<I", 9, "format 9"), (20, "<I", 0, "size of 0"),
        (20, "<I", 99_999, "size of 99999"), (28, "<I", 4, "one flat picture"), (40, "<I", 400, "mipmaps"),
        (44, "<I", 1, "one flat picture"), (80, "<Q", 1 << 40, "does not fit"), (96, "<Q", 3, "does not fit"),
    ],
)  # fmt: skip
def test_broken_files_are_told_in_a_sentence(at: int, form: str, value: int, words: str) -> None:
    data = bytearray(made())
    struct.pack_into(form, data, at, value)
    with pytest.raises(PictureError, match=words) as told:
        read_ktx2(bytes(data), "lamp.ktx2")
    assert "lamp.ktx2" in str(told.value)


def test_files_cut_short_or_overwritten_anywhere_never_crash() -> None:
    data = made("etc2")
    rng = np.random.default_rng(0)
    for n in range(0, len(data), max(len(data) // 60, 1)):
        with pytest.raises(PictureError):
            read_ktx2(data[:n], "it")
    for _ in range(200):
        broken = bytearray(data)
        broken[int(rng.integers(12, len(data)))] ^= int(rng.integers(1, 256))
        try:
            read_ktx2(bytes(broken), "it")
        except PictureError as told:
            assert "it" in told.problem


def test_indexed_colour_is_refused() -> None:
    with pytest.raises(EditError, match="no indexed colour"):
        container(ART, "indexed")
