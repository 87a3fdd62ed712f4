"""Block codecs and indexed colour, checked by decoders that are not ours."""

import io
import struct

import numpy as np
import pytest
import texture2ddecoder
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Codec
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.tune.art import art_of
from rushweed.core.tune.codec.bc import code_bc3, decode_alpha, decode_bc1, decode_bc3
from rushweed.core.tune.codec.bc7 import decode_bc7
from rushweed.core.tune.codec.blocks import from_blocks, to_blocks
from rushweed.core.tune.codec.compress import (
    EXACT,
    codec_named,
    coded,
    costs,
    decoded,
    error_map,
    memory_bytes,
    pad_needed,
    recommended,
    size_rules,
    spoiled,
)
from rushweed.core.tune.codec.etc2 import decode_etc2
from rushweed.core.tune.codec.indexed import palette_of
from tests.conftest import named

BLOCKS: tuple[Codec, ...] = ("bc1", "bc3", "bc7", "etc2")


def dds(data: bytes, width: int, height: int, fourcc: bytes = b"DX10", dxgi: int = 98) -> np.ndarray:
    """What Pillow reads from blocks put into a DDS file."""
    form = struct.pack("<II4sIIIII", 32, 4, fourcc, 0, 0, 0, 0, 0)
    head = b"DDS " + struct.pack("<IIIIIII44x", 124, 0x81007, height, width, len(data), 0, 0) + form
    head += struct.pack("<IIIII", 0x1000, 0, 0, 0, 0)
    if fourcc == b"DX10":
        head += struct.pack("<IIIII", dxgi, 3, 0, 1, 0)
    return np.array(Image.open(io.BytesIO(head + data)).convert("RGBA"))


def read_elsewhere(data: bytes, codec: str, width: int, height: int) -> np.ndarray:
    """The px of block data by a decoder that we did not write."""
    if codec == "etc2":
        flat = np.frombuffer(texture2ddecoder.decode_etc2a8(data, width, height), np.uint8)
        return flat.reshape(height, width, 4)[..., [2, 1, 0, 3]]
    return dds(data, width, height, {"bc1": b"DXT1", "bc3": b"DXT5"}.get(codec, b"DX10"))


def painted(seed: int = 0, side: int = 64, clear: bool = False) -> np.ndarray:
    """Smooth colours, and soft alpha if asked."""
    from scipy.ndimage import gaussian_filter

    noise = np.random.default_rng(seed).normal(size=(side, side, 4))
    smooth = gaussian_filter(noise, (3, 3, 0))
    low, high = smooth.min(axis=(0, 1)), smooth.max(axis=(0, 1))
    rgba = ((smooth - low) / (high - low) * 255).astype(np.uint8)
    if not clear:
        rgba[..., 3] = 255
    return rgba


@pytest.mark.parametrize(("codec", "size"), [("bc1", 8), ("bc3", 16), ("bc7", 16), ("etc2", 16)])
def test_any_bits_decode_as_other_decoders_read_them(codec: str, size: int) -> None:
    data = np.random.default_rng(4).integers(0, 256, (4096, size)).astype(np.uint8)
    if codec == "bc7":  # 512 of each mode
        modes = np.repeat(np.arange(8), 512)
        data[:, 0] = (data[:, 0] & (0xFE << modes & 0xFF)) | (1 << modes)
    ours = {"bc1": decode_bc1, "bc3": decode_bc3, "bc7": decode_bc7, "etc2": decode_etc2}[codec](data)
    theirs = read_elsewhere(data.tobytes(), codec, 256, 256)
    assert (from_blocks(ours, (256, 256)) == theirs).all()


@pytest.mark.parametrize("codec", BLOCKS)
@pytest.mark.parametrize("name", ["boardwalk.png", "marsh.png", "wren.png", "lamps.png"])
def test_what_is_coded_is_read_alike_elsewhere(
    demo: tuple[Project, PixelCache], codec: Codec, name: str
) -> None:
    project, stock = demo
    rgba = stock.pixels(named(project, name))
    height, width = (side + -side % 4 for side in rgba.shape[:2])
    rgba = np.pad(rgba, ((0, height - rgba.shape[0]), (0, width - rgba.shape[1]), (0, 0)))
    data = coded(rgba, codec)
    ours = decoded(data, codec, (width, height))
    assert (ours == read_elsewhere(data, codec, width, height)).all()
    if codec in ("bc1", "bc3"):
        buffer = io.BytesIO()
        Image.fromarray(rgba).save(buffer, "DDS", pixel_format={"bc1": "DXT1", "bc3": "DXT5"}[codec])
        theirs = np.array(Image.open(buffer).convert("RGBA"))
        assert spoiled(rgba, ours).psnr > spoiled(rgba, theirs).psnr
        raw = [((rgba.astype(float) - p) ** 2).mean() for p in (ours, theirs)]
        assert raw[0] < raw[1]  # hidden colours are not thrown away for it
    least = {"bc1": 33, "bc3": 33, "bc7": 37.5, "etc2": 33}[codec]
    assert spoiled(rgba, ours).psnr > least


@pytest.mark.parametrize(("codec", "least"), [("bc1", 33), ("bc3", 33), ("bc7", 40), ("etc2", 39)])
def test_smooth_art_keeps_its_colours(codec: Codec, least: float) -> None:
    rgba = painted()
    assert spoiled(rgba, decoded(coded(rgba, codec), codec, (64, 64))).psnr > least


@pytest.mark.parametrize(("codec", "least"), [("bc3", 36), ("bc7", 37), ("etc2", 41)])
def test_soft_alpha_is_kept_apart(codec: Codec, least: float) -> None:
    rgba = painted(2, clear=True)
    assert spoiled(rgba, decoded(coded(rgba, codec), codec, (64, 64))).psnr > least


def every_pair(bits: int) -> np.ndarray:
    """What the second of four steps can be, for all pairs of ends, as 8 bits."""
    ends = np.arange(1 << bits)
    grown = (ends << (8 - bits)) | (ends >> (2 * bits - 8))
    return np.unique((2 * grown[:, None] + grown[None]) // 3)


@settings(max_examples=60, deadline=None)
@given(st.tuples(*[st.integers(0, 255)] * 3))
def test_one_colour_comes_out_as_near_as_the_format_can(colour: tuple[int, int, int]) -> None:
    rgba = np.empty((4, 4, 4), np.uint8)
    rgba[..., :3], rgba[..., 3] = colour, 255
    made = decoded(coded(rgba, "bc1"), "bc1", (4, 4))[0, 0, :3].astype(int)
    possible = sum(
        int(np.abs(every_pair(bits) - colour[channel]).min()) ** 2 for channel, bits in enumerate((5, 6, 5))
    )
    assert ((made - colour) ** 2).sum() <= possible
    assert (decoded(coded(rgba, "bc7"), "bc7", (4, 4)).astype(int) - rgba).__abs__().max() <= 1


def best_at_random(rgba: np.ndarray, rng: np.random.Generator) -> int:
    """The least squared error of 3,000 pairs of ends, each px by the nearest of their four colours."""
    tries = rng.integers(0, 65536, (3000, 2)).astype("<u2")
    blocks = np.zeros((3000, 8), np.uint8)
    blocks[:, :4] = np.sort(tries, axis=1)[:, ::-1].copy().view(np.uint8).reshape(-1, 4)
    blocks[:, 4:] = np.array([0b11100100], "<u4").view(np.uint8)  # the four colours in a row
    palette = decode_bc1(blocks)[:, :4, :3].astype(int)
    flat = rgba[..., :3].reshape(16, 1, 3).astype(int)
    return min(int(((flat - p[None]) ** 2).sum(axis=2).min(axis=1).sum()) for p in palette)


@pytest.mark.parametrize("count", [2, 3, 4])
def test_few_colours_beat_what_is_found_at_random(count: int) -> None:
    ours, theirs, worse = 0, 0, 0
    for seed in range(40):
        rng = np.random.default_rng(seed)
        colours = rng.integers(0, 256, (count, 3))
        rgba = np.full((4, 4, 4), 255, np.uint8)
        rgba[..., :3] = colours[rng.integers(0, count, (4, 4))]
        made = decoded(coded(rgba, "bc1"), "bc1", (4, 4)).astype(int)
        error, best = int(((made[..., :3] - rgba[..., :3]) ** 2).sum()), best_at_random(rgba, rng)
        ours, theirs, worse = ours + error, theirs + best, worse + (error > best)
        assert error <= 1.5 * best
    assert ours < theirs and worse <= (0 if count == 2 else 4)


def test_two_greys_that_the_format_holds_are_exact() -> None:
    rgba = np.full((4, 4, 4), 255, np.uint8)
    rgba[:, 2:, :3] = 0
    for codec in ("bc1", "bc3", "bc7"):
        assert (decoded(coded(rgba, codec), codec, (4, 4)) == rgba).all()  # type: ignore[arg-type]


def alpha_coded(alpha: np.ndarray) -> np.ndarray:
    """What BC3 makes of alpha uint8 (1, 16)."""
    blocks = np.full((1, 16, 4), 90, np.uint8)
    blocks[..., 3] = alpha
    return decode_alpha(code_bc3(blocks)[:, :8])


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**31), st.integers(1, 2))
def test_alpha_of_two_values_is_exact(seed: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    alpha = rng.integers(0, 256, count)[rng.integers(0, count, (1, 16))].astype(np.uint8)
    assert (alpha_coded(alpha) == alpha).all()
    hard = np.where(rng.random((1, 16)) < 0.5, 0, 255).astype(np.uint8)
    hard[0, 0] = rng.integers(0, 256)  # and 0, 255 with one value between
    assert np.abs(alpha_coded(hard).astype(int) - hard).max() == 0


def test_hard_alpha_stays_hard_in_bc1_and_etc2() -> None:
    rgba = painted(5)
    rgba[..., 3] = np.where(np.random.default_rng(0).random((64, 64)) < 0.4, 0, 255)
    for codec in ("bc1", "bc3", "etc2"):
        assert (decoded(coded(rgba, codec), codec, (64, 64))[..., 3] == rgba[..., 3]).all()  # type: ignore[arg-type]


@pytest.mark.parametrize("size", [(1, 1), (3, 5), (4, 4), (17, 9)])
def test_blocks_go_together_again_at_any_size(size: tuple[int, int]) -> None:
    rgba = np.random.default_rng(0).integers(0, 256, (size[1], size[0], 4)).astype(np.uint8)
    assert (from_blocks(to_blocks(rgba), size) == rgba).all()
    for codec in BLOCKS:
        assert decoded(coded(rgba, codec), codec, size).shape == rgba.shape


def test_coding_tells_how_far_it_is_and_can_be_left() -> None:
    class Enough(Exception):
        pass

    def stop(share: float) -> None:
        raise Enough

    rgba = painted(0, 192)
    with pytest.raises(Enough):
        coded(rgba, "etc2", stop)
    told: list[float] = []
    coded(rgba, "etc2", told.append)
    assert len(told) > 1 and told == sorted(told) and told[-1] == 1


# -- indexed -----------------------------------------------------------------------------------------------


def test_up_to_256_colours_are_exact_when_indexed(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    rgba = stock.pixels(named(project, "marsh.png"))
    made = decoded(coded(rgba, "indexed"), "indexed", (rgba.shape[1], rgba.shape[0]))
    assert spoiled(rgba, made).psnr == EXACT
    whole = np.zeros((16, 16, 4), np.uint8)
    whole[..., 0], whole[..., 3] = np.arange(256).reshape(16, 16), 255
    assert (decoded(coded(whole, "indexed"), "indexed", (16, 16)) == whole).all()


def test_more_colours_are_brought_down_about_as_well_as_elsewhere() -> None:
    rgba = painted(1, 128)
    palette, index = palette_of(rgba)
    assert len(palette) <= 256 and index.dtype == np.uint8
    ours = spoiled(rgba, palette[index]).psnr
    theirs = np.array(Image.fromarray(rgba[..., :3]).quantize(256, Image.Quantize.MEDIANCUT).convert("RGBA"))
    assert ours > spoiled(rgba, theirs).psnr and ours > 33


# -- what it costs -----------------------------------------------------------------------------------------


def test_memory_counts_blocks_and_mipmaps() -> None:
    assert memory_bytes((64, 64), "none") == 16384 and memory_bytes((64, 64), "bc1") == 2048
    assert memory_bytes((64, 64), "indexed") == 4096 + 1024
    assert memory_bytes((4, 4), "bc3", mipmaps=True) == 16 * 3  # 4, 2 and 1 px, a block each
    assert memory_bytes((66, 64), "bc7") == 17 * 16 * 16


def test_size_rules_are_told_with_the_padding_that_keeps_them() -> None:
    assert size_rules((64, 32), "bc1", True) == [] and pad_needed((64, 32), "bc1", True) == "none"
    assert "multiple of 4" in size_rules((66, 64), "etc2", False)[0]
    assert pad_needed((66, 64), "etc2", False) == "four" and size_rules((66, 64), "none", False) == []
    assert (
        "power of two" in size_rules((48, 48), "none", True)[0]
        and pad_needed((48, 48), "none", True) == "power"
    )


def test_the_error_map_shows_what_is_seen_of_an_error() -> None:
    before = np.zeros((8, 8, 4), np.uint8)
    before[..., 3] = 255
    before[:, 4:, 3] = 0
    after = before.copy()
    after[1, 1, 0] = 100
    after[1, 6, :3] = 200  # hidden
    off = error_map(before, after)
    assert off[1, 1] == 50 and off.sum() == 50
    lost = spoiled(before, after)
    assert lost.worst == (0, 0) and lost.changed == 1 / 64 and lost.worst_psnr < lost.psnr < EXACT
    assert spoiled(before, before).psnr == EXACT


def test_codecs_by_name() -> None:
    assert codec_named("BC7") == "bc7"
    with pytest.raises(EditError, match="no codec"):
        codec_named("zip")


# -- which one fits ----------------------------------------------------------------------------------------


def test_pixel_art_is_told_from_smooth_art(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    assert all(art_of(stock.pixels(s)).pixel for s in project.sheets)
    assert not art_of(painted()).pixel and not art_of(painted(3, 200, clear=True)).pixel
    assert "fade" in art_of(painted()).why and "hard edges" in art_of(stock.pixels(project.sheets[0])).why
    disc = np.hypot(*(np.indices((64, 64)) - 31.5))
    icon = np.full((64, 64, 4), 255, np.uint8)
    icon[..., :3] = (np.clip(20.5 - disc, 0, 1)[..., None] * (40, 120, 250)).astype(np.uint8)
    icon[..., 1] += np.arange(64, dtype=np.uint8)  # a drawing with anti-aliased edges and a shade
    assert not art_of(icon).pixel and art_of(np.tile(icon, (40, 40, 1))).pixel == art_of(icon).pixel
    assert art_of(np.zeros((4, 4, 4), np.uint8)).pixel


def test_the_advice_follows_what_the_codecs_do(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    wren = stock.pixels(named(project, "wren.png"))
    tried = [costs(wren, codec) for codec in ("none", "indexed", *BLOCKS)]  # type: ignore[arg-type]
    assert recommended(wren, tried)[0] == "indexed" and tried[1].spoiled.psnr == EXACT
    assert all(c.file > 0 and c.rgba.shape == wren.shape for c in tried)
    smooth = painted(1, 128)
    tried = [costs(smooth, codec) for codec in ("none", "indexed", *BLOCKS)]  # type: ignore[arg-type]
    codec, why = recommended(smooth, tried)
    assert codec in ("bc7", "etc2") and "dB" in why
    flat = np.full((16, 16, 4), 255, np.uint8)
    assert recommended(flat, [costs(flat, c) for c in ("none", "indexed", "bc1")])[0] == "bc1"  # type: ignore[arg-type]


def test_two_near_colours_beside_a_far_one_may_share_a_place() -> None:
    rgba = np.full((4, 4, 4), 255, np.uint8)
    rgba[:, :3, :3] = (249, 247, 237)
    rgba[:, 2, :3] = rgba[3, :2, :3] = (54, 57, 61)
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "DDS", pixel_format="DXT1")
    theirs = np.array(Image.open(buffer).convert("RGBA"))
    assert spoiled(rgba, decoded(coded(rgba, "bc1"), "bc1", (4, 4))).psnr > spoiled(rgba, theirs).psnr > 25
