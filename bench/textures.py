"""Rows about textures: block codecs beside Pillow and etcpak, one Proof frame beside SciPy."""

from __future__ import annotations

import io
from collections.abc import Iterator

import etcpak
import numpy as np
import texture2ddecoder
from PIL import Image
from scipy import ndimage

from bench.row import Row, by_time, timed
from bench.sheets import sheets
from rushweed.core.document.model.sheet import Codec
from rushweed.core.tune.codec.compress import coded, spoiled
from rushweed.core.tune.sample import Placed, draw, texture_of

SIDE = 1024
BC: tuple[Codec, ...] = ("bc1", "bc3")


def painted() -> np.ndarray:
    """A sheet of smooth colours with a little grain, no two blocks alike."""
    rng = np.random.default_rng(0)
    smooth = ndimage.gaussian_filter(rng.normal(size=(SIDE, SIDE, 3)), (4, 4, 0))
    smooth = (smooth - smooth.min()) / np.ptp(smooth) * 240
    rgba = np.full((SIDE, SIDE, 4), 255, np.uint8)
    rgba[..., :3] = smooth + rng.integers(0, 6, smooth.shape)
    return rgba


def drawn() -> np.ndarray:
    """Made-up sheets of pixel art side by side."""
    out = np.zeros((SIDE, SIDE, 4), np.uint8)
    x = y = row = 0
    for sheet in sheets(400):
        height, width = sheet.rgba.shape[:2]
        if x >= SIDE:
            x, y, row = 0, y + row, 0
        if y >= SIDE:
            break
        part = sheet.rgba[: SIDE - y, : SIDE - x]
        out[y : y + part.shape[0], x : x + part.shape[1]] = part
        x, row = x + width, max(row, height)
    return out


def _theirs(rgba: np.ndarray, codec: Codec) -> bytes:
    size = rgba.shape[1], rgba.shape[0]
    if codec == "bc7":
        return etcpak.compress_bc7(rgba.tobytes(), *size, etcpak.BC7CompressBlockParams())
    coder = {"bc1": etcpak.compress_bc1, "bc3": etcpak.compress_bc3, "etc2": etcpak.compress_etc2_rgba}[codec]
    return coder(rgba.tobytes(), *size)


def _psnr(rgba: np.ndarray, data: bytes, codec: Codec) -> float:
    """By a decoder that is not ours."""
    decode = {
        "bc1": texture2ddecoder.decode_bc1, "bc3": texture2ddecoder.decode_bc3,
        "bc7": texture2ddecoder.decode_bc7, "etc2": texture2ddecoder.decode_etc2a8,
    }[codec]  # fmt: skip
    made = np.frombuffer(decode(data, rgba.shape[1], rgba.shape[0]), np.uint8)
    return spoiled(rgba, made.reshape(rgba.shape)[..., [2, 1, 0, 3]]).psnr


def _coded_row(
    rgba: np.ndarray, codec: Codec, kind: str, reference: float, at_most: float, more: float
) -> Row:
    """Time beside the reference; without end where the quality is not `more` dB above theirs."""
    if codec == "bc1":  # it holds no soft alpha, so that is not what is compared
        rgba = rgba.copy()
        rgba[..., 3] = 255
    coded(rgba[:64, :64], codec)  # what is compiled is loaded
    ours = timed(lambda: coded(rgba, codec), 3)
    mine, theirs = _psnr(rgba, coded(rgba, codec), codec), _psnr(rgba, _theirs(rgba, codec), codec)
    note = f"{mine:.2f} dB, etcpak {theirs:.2f} dB ({mine - theirs:+.2f}, at least {more:+.1f})"
    made = by_time(f"{codec.upper()} of 1024 x 1024 px, {kind}", ours, reference, at_most, note)
    return made if mine - theirs >= more else made._replace(ratio=float("inf"))


def codecs() -> Iterator[Row]:
    """B4: BC1 and BC3 of 1024 x 1024 px beside Pillow writing the painted one as PNG."""
    png = timed(lambda: Image.fromarray(painted()).save(io.BytesIO(), "PNG"), 3)
    for kind, rgba in (("painted", painted()), ("pixel art", drawn())):
        for codec in BC:
            yield _coded_row(rgba, codec, kind, png, 0.15, 3.0)


def fine_codecs() -> Iterator[Row]:
    """B4b: BC7 of 1024 x 1024 px beside etcpak's; of 4096 x 4096 px."""
    for kind, rgba in (("painted", painted()), ("pixel art", drawn())):
        reference = timed(lambda rgba=rgba: _theirs(rgba, "bc7"), 3)  # type: ignore[misc]
        yield _coded_row(rgba, "bc7", kind, reference, 2.0, 0.5)
    rng = np.random.default_rng(1)
    large = np.tile(painted(), (4, 4, 1))
    large[..., :3] += rng.integers(0, 10, large[..., :3].shape, np.uint8)  # so that no two blocks are alike
    yield by_time("BC7 of 4096 x 4096 px, painted", timed(lambda: coded(large, "bc7"), 1), 30, 1.0)


def phone_codecs() -> Iterator[Row]:
    """B4c: ETC2 with alpha of 1024 x 1024 px beside etcpak's BC7 of the same."""
    for kind, rgba in (("painted", painted()), ("pixel art", drawn())):
        reference = timed(lambda rgba=rgba: _theirs(rgba, "bc7"), 3)  # type: ignore[misc]
        yield _coded_row(rgba, "etc2", kind, reference, 1.0, 1.0)


def proof_frame() -> Iterator[Row]:
    """T3: 512 x 512 px of art drawn turned and between px beside one channel by map_coordinates."""
    rgba = painted()
    plane = rgba[..., 0].astype(np.float32)
    y, x = np.mgrid[:512, :512] / 0.7
    places = [y * 0.94 + x * 0.34, x * 0.94 - y * 0.34]
    reference = timed(lambda: ndimage.map_coordinates(plane, places, order=1, mode="nearest"))
    for words, mipmaps in (("linear", False), ("linear with mipmaps", True)):
        texture = texture_of(rgba, "linear", mipmaps)
        picture = np.zeros((512, 512, 4), np.float32)
        thing = Placed(texture, (0, 0, SIDE, SIDE), (512, 512), (256.3, 256.7), 0.7, 20)
        ours = timed(lambda thing=thing, picture=picture: draw(picture, thing))  # type: ignore[misc]
        yield by_time(f"one Proof frame of 512 x 512 px, {words}", ours, reference, 1.0)
