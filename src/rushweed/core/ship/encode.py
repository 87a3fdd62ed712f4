"""Pictures and textures as files: functions of px alone, which can run in another process."""

from __future__ import annotations

import io

import numpy as np

from rushweed.core.document.model.sheet import Codec, Transfer
from rushweed.core.ship.atlas import Kind
from rushweed.core.ship.png import packed_png
from rushweed.core.ship.stretches import Stretches
from rushweed.core.tune.codec.compress import container
from rushweed.core.tune.codec.indexed import palette_of
from rushweed.core.tune.ktx2 import write_ktx2


def picture_bytes(
    rgba: np.ndarray, form: str, indexed: bool = False, stretches: Stretches | None = None
) -> bytes:
    """A PNG, of which an earlier one may have had `stretches`, or a lossless WebP; `indexed` brings it to 256
    colours first."""
    if indexed:
        palette, index = palette_of(rgba)
        rgba = palette[index]
    return webp_bytes(rgba) if form == "webp" else packed_png(rgba, stretches)


def webp_bytes(rgba: np.ndarray) -> bytes:
    """A WebP file that holds every px, clear ones too."""
    from PIL import Image

    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "WEBP", lossless=True, exact=True, quality=70, method=4)
    return buffer.getvalue()


def texture_bytes(page: np.ndarray, kind: Kind) -> bytes:
    """A page, uint8 (height, width, 4), as a KTX2 file of its codec."""
    codec: Codec = "none" if kind.codec == "indexed" else kind.codec
    return write_ktx2(container(page, codec, kind.mipmaps, kind.alpha, kind.transfer))


def normals_bytes(page: np.ndarray, mipmaps: bool) -> bytes:
    """Normals beside a texture: whole px, as blocks would turn them, and never as sRGB."""
    transfer: Transfer = "linear"
    return write_ktx2(container(page, "none", mipmaps, "straight", transfer))
