"""Compression of a sheet: every codec by name, what it costs, what it spoils, and which one fits."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import NamedTuple, get_args

import numpy as np

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.sheet import Alpha, Codec, Pad, Transfer
from rushweed.core.tune.art import art_of
from rushweed.core.tune.codec.bc import code_bc1, code_bc3, decode_bc1, decode_bc3
from rushweed.core.tune.codec.bc7 import code_bc7, decode_bc7
from rushweed.core.tune.codec.blocks import CHUNK, Progress, coded_blocks, from_blocks
from rushweed.core.tune.codec.etc2 import code_etc2, decode_etc2
from rushweed.core.tune.codec.indexed import MOST, palette_of
from rushweed.core.tune.ktx2 import Container, level_bytes, raw_pixels, write_ktx2
from rushweed.core.tune.sample import texture_of

CODECS: tuple[Codec, ...] = get_args(Codec)
WORDS: dict[Codec, str] = {
    "none": "None", "indexed": "Indexed", "bc1": "BC1", "bc3": "BC3", "bc7": "BC7", "etc2": "ETC2",
}  # fmt: skip
ABOUT: dict[Codec, str] = {
    "none": "32 bits a px, every px as drawn",
    "indexed": "8 bits a px and a palette of up to 256 colours",
    "bc1": "4 bits a px in blocks of 4 x 4; alpha is there or not; for desktop cards",
    "bc3": "8 bits a px in blocks of 4 x 4, alpha apart; for desktop cards",
    "bc7": "8 bits a px in blocks of 4 x 4, the finest; for desktop cards since 2010",
    "etc2": "8 bits a px in blocks of 4 x 4; for phones and tablets",
}
_Blocks = Callable[[np.ndarray], np.ndarray]
# How blocks are coded and decoded, their bytes, and how many are coded at a time: few where each takes
# long, so that the work tells how far it is and can be left.
CODERS: dict[Codec, tuple[_Blocks, _Blocks, int, int]] = {
    "bc1": (code_bc1, decode_bc1, 8, CHUNK), "bc3": (code_bc3, decode_bc3, 16, CHUNK),
    "bc7": (code_bc7, decode_bc7, 16, 1024), "etc2": (code_etc2, decode_etc2, 16, 1024),
}  # fmt: skip
GOOD_PSNR = 38.0  # dB from which smooth art is not seen to differ
EXACT = 99.0  # told for no difference at all


def codec_named(name: str) -> Codec:
    """The codec of that name. Raises EditError."""
    for codec in CODECS:
        if codec == name.lower():
            return codec
    raise EditError(f"There is no codec {name!r}.", f"Use one of {', '.join(CODECS)}.")


def coded(rgba: np.ndarray, codec: Codec, progress: Progress = lambda share: None) -> bytes:
    """uint8 RGBA as the card holds it: blocks, px, or a palette of 256 and an index a px."""
    if codec == "none":
        return rgba.tobytes()
    if codec == "indexed":
        palette, index = palette_of(rgba)
        whole = np.zeros((MOST, 4), np.uint8)
        whole[: len(palette)] = palette
        return whole.tobytes() + index.tobytes()
    code, _decode, size, chunk = CODERS[codec]
    return coded_blocks(rgba, code, size, progress, chunk)


def decoded(data: bytes, codec: Codec, size: tuple[int, int]) -> np.ndarray:
    """The px, uint8 (height, width, 4), of what `coded` made of a picture of `size` (width, height)."""
    if codec == "none":
        return raw_pixels(data, size)
    flat = np.frombuffer(data, np.uint8)
    if codec == "indexed":
        palette = flat[: MOST * 4].reshape(MOST, 4)
        return palette[flat[MOST * 4 :].reshape(size[1], size[0])]
    _code, decode, block, _chunk = CODERS[codec]
    return from_blocks(decode(flat.reshape(-1, block)), size)


# -- sizes -------------------------------------------------------------------------------------------------


def level_sizes(size: tuple[int, int], mipmaps: bool) -> list[tuple[int, int]]:
    """The size of every level in px, largest first."""
    out = [size]
    while mipmaps and max(out[-1]) > 1:
        out.append((max(out[-1][0] // 2, 1), max(out[-1][1] // 2, 1)))
    return out


def memory_bytes(size: tuple[int, int], codec: Codec, mipmaps: bool = False) -> int:
    """Bytes on the card, with all mipmaps."""
    if codec == "indexed":
        return MOST * 4 + sum(w * h for w, h in level_sizes(size, mipmaps))
    return sum(level_bytes(codec, level) for level in level_sizes(size, mipmaps))


def size_rules(size: tuple[int, int], codec: Codec, mipmaps: bool) -> list[str]:
    """What the size breaks, one sentence each: blocks want multiples of 4, mipmaps powers of two."""
    out = []
    if codec in CODERS and (size[0] % 4 or size[1] % 4):
        out.append(f"{size[0]} x {size[1]} px is not a multiple of 4, as {WORDS[codec]} needs.")
    if mipmaps and any(side & (side - 1) for side in size):
        out.append(f"{size[0]} x {size[1]} px is not a power of two, as mipmaps that halve exactly need.")
    return out


def pad_needed(size: tuple[int, int], codec: Codec, mipmaps: bool) -> Pad:
    """The padding after which a picture breaks no rule."""
    if mipmaps and any(side & (side - 1) for side in size):
        return "power"
    return "four" if codec in CODERS and any(side % 4 for side in size) else "none"


# -- what it spoils ----------------------------------------------------------------------------------------


class Spoiled(NamedTuple):
    """PSNR in dB over what is seen (colours by their alpha, and alpha itself); the worst block's place in px
    and its PSNR; the share of px that differ."""

    psnr: float
    worst: tuple[int, int]
    worst_psnr: float
    changed: float


def _seen_error(before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """float32 (height, width): the mean squared error of the premultiplied colours and of alpha of each
    px."""
    a, b = (p.astype(np.float32) for p in (before, after))
    gap = a[..., 3] - b[..., 3]
    out = gap * gap
    for channel in range(3):
        gap = (a[..., channel] * a[..., 3] - b[..., channel] * b[..., 3]) / 255
        out += gap * gap
    return out / 4


def psnr(mean_square: float) -> float:
    """In dB against 255; `EXACT` where nothing differs."""
    return EXACT if mean_square <= 0 else float(min(10 * np.log10(255**2 / mean_square), EXACT))


def spoiled(before: np.ndarray, after: np.ndarray) -> Spoiled:
    """Compare two uint8 RGBA pictures of one size."""
    error = _seen_error(before, after)
    height, width = error.shape
    whole = np.pad(error, ((0, -height % 4), (0, -width % 4)))
    blocks = whole.reshape(whole.shape[0] // 4, 4, whole.shape[1] // 4, 4).mean(axis=(1, 3))
    row, column = np.unravel_index(int(blocks.argmax()), blocks.shape)
    return Spoiled(
        psnr(float(error.mean(dtype=np.float64))), (int(column) * 4, int(row) * 4), psnr(float(blocks.max())),
        float((error > 0).mean()),
    )  # fmt: skip


def error_map(before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """float32 (height, width) of 0..255: how far each px is off as it is seen."""
    made: np.ndarray = np.sqrt(_seen_error(before, after))
    return made


class Costs(NamedTuple):
    """One codec on one picture: bytes on the card and in a file, the px it makes, and what it spoils."""

    codec: Codec
    memory: int
    file: int
    rgba: np.ndarray
    spoiled: Spoiled


def costs(
    rgba: np.ndarray, codec: Codec, mipmaps: bool = False, progress: Progress = lambda share: None
) -> Costs:
    """Try a codec on uint8 RGBA."""
    size = (rgba.shape[1], rgba.shape[0])
    data = coded(rgba, codec, progress)
    made = decoded(data, codec, size)
    if codec == "none" or codec == "indexed":
        file = len(png_bytes(rgba, codec == "indexed"))
    else:
        file = len(write_ktx2(Container(codec, size, (data,))))
    return Costs(codec, memory_bytes(size, codec, mipmaps), file, made, spoiled(rgba, made))


def png_bytes(rgba: np.ndarray, indexed: bool = False) -> bytes:
    """A PNG whose bytes depend on the px alone."""
    from PIL import Image

    buffer = io.BytesIO()
    if indexed:
        palette, index = palette_of(rgba)
        image = Image.fromarray(index, "P")
        image.putpalette(palette.tobytes(), "RGBA")
        image.save(buffer, "PNG", optimize=False, compress_level=6)
    else:
        Image.fromarray(rgba).save(buffer, "PNG", optimize=False, compress_level=6)
    return buffer.getvalue()


def container(
    rgba: np.ndarray,
    codec: Codec,
    mipmaps: bool = False,
    alpha: Alpha = "straight",
    transfer: Transfer = "srgb",
    progress: Progress = lambda share: None,
) -> Container:
    """A texture ready for a KTX2 file, from uint8 straight RGBA. Raises EditError for indexed colour, which
    KTX2 does not hold."""
    if codec == "indexed":
        raise EditError("A KTX2 file holds no indexed colour.", "Use none or a block format, or write a PNG.")
    size = (rgba.shape[1], rgba.shape[0])
    sizes = level_sizes(size, mipmaps)
    made = texture_of(rgba, mipmaps=mipmaps, alpha=alpha).levels
    levels = [np.clip(np.rint(level), 0, 255).astype(np.uint8) for level in made]
    whole = sum(w * h for w, h in sizes)
    data, before = [], 0
    for (w, h), level in zip(sizes, levels, strict=True):
        share = w * h / whole
        done = before / whole
        data.append(coded(level, codec, lambda s, d=done, k=share: progress(d + k * s)))  # type: ignore[misc]
        before += w * h
    return Container(codec, size, tuple(data), alpha == "premultiplied", transfer)


# -- which one fits ----------------------------------------------------------------------------------------


def recommended(rgba: np.ndarray, tried: list[Costs]) -> tuple[Codec, str]:
    """The codec that fits, of those tried, and the reason in one sentence."""
    by = {cost.codec: cost for cost in tried}
    whole = memory_bytes((rgba.shape[1], rgba.shape[0]), "none")
    exact = [c for c in tried if c.spoiled.psnr >= EXACT and c.codec != "none"]
    best = min(exact, key=lambda c: c.memory, default=None)
    if best is not None and best.memory < whole:
        return best.codec, f"exact, and {best.memory / whole:.0%} of the memory"
    art = art_of(rgba)
    if art.pixel:
        blocks = [c for c in tried if c.codec in CODERS]
        mild = max(blocks, key=lambda c: c.spoiled.psnr, default=None)
        if mild is None:
            return "none", "every px stays as drawn"
        return (
            "none",
            f"pixel art: even {WORDS[mild.codec]} would change {mild.spoiled.changed:.0%} of its px",
        )
    good = [c for c in tried if c.codec in CODERS and c.spoiled.psnr >= GOOD_PSNR]
    if good:
        least = min(good, key=lambda c: (c.memory, -c.spoiled.psnr))
        return least.codec, f"{least.spoiled.psnr:.1f} dB in {least.memory / whole:.0%} of the memory"
    finest = max((by[c] for c in ("bc7", "etc2") if c in by), key=lambda c: c.spoiled.psnr, default=None)
    if finest is None:
        return "none", "every px stays as drawn"
    return finest.codec, f"smooth art: {finest.spoiled.psnr:.1f} dB, the best of the blocks"
