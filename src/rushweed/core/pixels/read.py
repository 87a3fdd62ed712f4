"""Reads a picture file into an array, within bounds that are checked before the pixels are read."""

from __future__ import annotations

import hashlib
import io
import warnings
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rushweed.core.document.errors import PictureError, file_reason

if TYPE_CHECKING:
    from PIL import Image

MOST_SIDE = 16_384
MOST_PIXELS = 256 * 1024 * 1024
MOST_BYTES = 1024 * 1024 * 1024
FORMATS = ("PNG", "BMP")
ENDINGS = (".png", ".bmp")


class Picture(NamedTuple):
    """`rgba` is read-only uint8 (height, width, 4), straight alpha; `data` is the file as it was."""

    rgba: np.ndarray
    data: bytes
    sha256: str
    format: str


def read_picture(path: Path) -> Picture:
    """Read a PNG or BMP file. Raises PictureError with the file's name, the reason and a cure."""
    return decode(read_bytes(path), path.name)


def read_bytes(path: Path) -> bytes:
    """The bytes of a picture file, refused if there are none or far too many."""
    try:
        if path.is_dir():
            raise PictureError(f"{path.name} is a folder, not a picture.", "Choose the pictures in it.")
        if path.exists() and not path.is_file():
            raise PictureError(f"{path.name} is not a file.", "Choose a PNG or BMP picture.")
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise PictureError(
                f"{path.name} has {size / 2**30:.1f} GiB, more than a picture may have (1 GiB).",
                "Choose a smaller picture.",
            )
        return path.read_bytes()
    except OSError as error:
        raise PictureError(
            f"{path.name} could not be read: {file_reason(error)}.", "Check the file and try again."
        ) from error


def decode(data: bytes, name: str) -> Picture:
    """Turn the bytes of a picture file into pixels; `name` is for the error."""
    from PIL import Image, UnidentifiedImageError  # late: a window opens before it reads a picture

    if not data:
        raise PictureError(f"{name} is empty (0 bytes).", "Save the picture again and drop it once more.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # our own bounds follow
            with Image.open(io.BytesIO(data), formats=FORMATS) as image:
                width, height = image.size
                check_size(width, height, name)
                form = image.format or "PNG"
                image.load()
                rgba = np.array(image.convert("RGBA") if image.mode != "I;16" else _deep_grey(image))
    except UnidentifiedImageError:
        raise PictureError(
            f"{name} is not a PNG or BMP picture.", "Export it as PNG and drop it again."
        ) from None
    except Image.DecompressionBombError:
        raise PictureError(
            f"{name} is larger than {MOST_SIDE:,} px a side.", "Split it into smaller pictures."
        ) from None
    except (OSError, ValueError, SyntaxError, EOFError, IndexError, OverflowError) as error:
        raise PictureError(
            f"{name} is damaged or cut short and cannot be read whole.",
            "Save or download it again, then drop it once more.",
        ) from error
    rgba.setflags(write=False)
    return Picture(rgba, data, hashlib.sha256(data).hexdigest(), form)


def _deep_grey(image: Image.Image) -> Image.Image:
    """16-bit grey to 8-bit RGBA by the high byte."""
    from PIL import Image

    grey = (np.asarray(image, dtype=np.uint16) >> 8).astype(np.uint8)
    return Image.fromarray(grey).convert("RGBA")


def check_size(width: int, height: int, name: str) -> None:
    """Refuse sizes that would fill the memory: at most 16,384 px a side and 256 megapixels."""
    if width < 1 or height < 1:
        raise PictureError(f"{name} has no pixels ({width} x {height}).", "Export it again.")
    if width > MOST_SIDE or height > MOST_SIDE or width * height > MOST_PIXELS:
        raise PictureError(
            f"{name} is {width:,} x {height:,} px, more than {MOST_SIDE:,} a side or 256 megapixels.",
            "Split it into smaller pictures.",
        )
