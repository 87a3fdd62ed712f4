"""Rows about textures: block codecs beside Pillow, one Proof frame beside SciPy."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
from PIL import Image
from scipy import ndimage

from bench.row import Row, by_time, timed
from bench.sheets import sheets
from rushweed.core.document.model import Codec
from rushweed.core.tune.codec.compress import coded, decoded, spoiled
from rushweed.core.tune.sample import Placed, draw, texture_of

SIDE = 1024


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


def codecs() -> Iterator[Row]:
    """B4: BC1 and BC3 of 1024 x 1024 px beside Pillow writing a PNG; then PSNR beside Pillow's own."""
    for kind, rgba in (("painted", painted()), ("pixel art", drawn())):
        image = Image.fromarray(rgba)
        reference = timed(lambda image=image: image.save(io.BytesIO(), "PNG"), 3)  # type: ignore[misc]
        names: tuple[tuple[Codec, str], ...] = (("bc1", "DXT1"), ("bc3", "DXT5"))
        for codec, form in names:
            ours = timed(lambda rgba=rgba, codec=codec: coded(rgba, codec), 3)  # type: ignore[misc]
            yield by_time(f"{codec.upper()} of 1024 x 1024 px, {kind}", ours, reference, 2.0)
            buffer = io.BytesIO()
            image.save(buffer, "DDS", pixel_format=form)
            theirs = spoiled(rgba, np.array(Image.open(buffer).convert("RGBA"))).psnr
            mine = spoiled(rgba, decoded(coded(rgba, codec), codec, (SIDE, SIDE))).psnr
            yield Row(
                f"PSNR of {codec.upper()}, {kind}", f"{mine:.2f} dB", f"{theirs:.2f} dB", theirs / mine, 1.0
            )


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
        yield by_time(f"one Proof frame of 512 x 512 px, {words}", ours, reference, 3.0)
