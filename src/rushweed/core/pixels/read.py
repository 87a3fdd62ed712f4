"""Reads a picture file into an array, within bounds that are checked before the pixels are read."""

from __future__ import annotations

import hashlib
import io
import math
import struct
import warnings
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rushweed.core.document.errors import PictureError, file_reason
from rushweed.core.store.files import read_file

if TYPE_CHECKING:
    from PIL import Image

STRIP_PX = 1024 * 1024  # px turned to RGBA at a time
MOST_SIDE = 16_384
MOST_PIXELS = 256 * 1024 * 1024
MOST_WEBP = (
    64 * 1024 * 1024
)  # px: its decoder holds the picture several times, so that it takes as much as the
# largest picture of another kind
MOST_BYTES = 1024 * 1024 * 1024
MOST_FRAMES = 10_000
MAPPED = ("PNG", "JPEG", "BMP", "TGA")  # that are decoded where their px will stand
FORMATS = ("PNG", "BMP", "GIF", "WEBP", "JPEG")  # TGA has no mark of its own: read only if its name says so
ENDINGS = (".png", ".apng", ".bmp", ".gif", ".webp", ".tga", ".jpg", ".jpeg")
KINDS = "PNG, BMP, GIF, WebP, TGA or JPEG"
IN_ONE_ROW = 1024  # px that the frames of a moving picture may fill side by side


class Picture(NamedTuple):
    """`rgba` is read-only uint8 (height, width, 4), straight alpha; `data` is the file as it was.

    The frames of a moving picture lie in it row by row, `columns` side by side; `times` are their ms.
    """

    rgba: np.ndarray
    data: bytes
    sha256: str
    format: str
    times: tuple[int, ...] = ()
    columns: int = 0


def read_picture(path: Path) -> Picture:
    """Read a picture file. Raises PictureError with the file's name, the reason and a cure."""
    return decode(read_bytes(path), path.name)


def read_bytes(path: Path) -> bytes:
    """The bytes of a picture file, refused if there are none or far too many."""
    try:
        if path.is_dir():
            raise PictureError(f"{path.name} is a folder, not a picture.", "Choose the pictures in it.")
        if path.exists() and not path.is_file():
            raise PictureError(f"{path.name} is not a file.", f"Choose a {KINDS} picture.")
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise PictureError(
                f"{path.name} has {size / 2**30:.1f} GiB, more than a picture may have (1 GiB).",
                "Choose a smaller picture.",
            )
        return read_file(path, MOST_BYTES)
    except ValueError:
        raise PictureError("No file can be called that.", "Check the file's name.") from None
    except OSError as error:
        raise PictureError(
            f"{path.name} could not be read: {file_reason(error)}.", "Check the file and try again."
        ) from error


def decode(data: bytes, name: str) -> Picture:
    """Turn the bytes of a picture file into pixels; `name` is for the error."""
    from PIL import Image, UnidentifiedImageError  # late: a window opens before it reads a picture

    if not data:
        raise PictureError(f"{name} is empty (0 bytes).", "Save the picture again and drop it once more.")
    Image.MAX_IMAGE_PIXELS = None  # our own bounds follow, with a sentence that is true
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            formats = (*FORMATS, "TGA") if name.lower().endswith(".tga") else FORMATS
            with Image.open(io.BytesIO(data), formats=formats) as image:
                width, height = image.size
                check_size(width, height, name)
                form = image.format or "PNG"
                if form == "WEBP" and width * height > MOST_WEBP:
                    raise PictureError(
                        f"{name} is a WebP of {width:,} x {height:,} px, too large for its decoder.",
                        "Save it as PNG.",
                    )
                _check_whole(data, form, name)
                rgba, times, columns = _pixels(image, name)
    except UnidentifiedImageError:
        raise PictureError(
            f"{name} is not a {KINDS} picture.", "Export it as PNG and drop it again."
        ) from None
    except (OSError, ValueError, SyntaxError, EOFError, IndexError, OverflowError, struct.error) as error:
        raise PictureError(
            f"{name} is damaged or cut short and cannot be read whole.",
            "Save or download it again, then drop it once more.",
        ) from error
    rgba.setflags(write=False)
    return Picture(rgba, data, hashlib.sha256(data).hexdigest(), form, times, columns)


def _check_whole(data: bytes, form: str, name: str) -> None:
    """Refuse a file whose end is missing although what is there could be read."""
    ends = {"PNG": b"IEND" in data[-4096:]}
    if form == "GIF":
        ends[form] = _gif_is_whole(data)
    if form == "WEBP":
        ends[form] = len(data) >= int.from_bytes(data[4:8], "little") + 8
    if not ends.get(form, True):
        raise PictureError(
            f"{name} is damaged or cut short and cannot be read whole.",
            "Save or download it again, then drop it once more.",
        )


def _gif_is_whole(data: bytes) -> bool:
    """Whether the blocks of a GIF run on to its end mark, or end with the file where the mark was left out.
    Source: Graphics Interchange Format, version 89a."""
    at = 13 + (3 << (data[10] & 7) + 1 if data[10] & 0x80 else 0)
    pictures = 0
    while at < len(data):
        kind = data[at]
        if kind == 0x3B or kind == 0 and not any(data[at:]):
            return pictures > 0
        if kind == 0x21:
            at += 2
        elif kind == 0x2C and at + 10 < len(data):
            at += 11 + (3 << (data[at + 9] & 7) + 1 if data[at + 9] & 0x80 else 0)
            pictures += 1
        else:
            return pictures > 0 and kind not in (0x21, 0x2C)  # what follows is no part of the picture
        while at < len(data) and data[at]:
            at += data[at] + 1
        if at >= len(data):
            return False
        at += 1
    return pictures > 0


def _pixels(image: Image.Image, name: str) -> tuple[np.ndarray, tuple[int, ...], int]:
    """The pixels of a picture; of a moving one its frames side by side, their ms, and how many in a row."""
    count = int(getattr(image, "n_frames", 1))
    skip = 1 if count > 1 and image.info.get("default_image") else 0  # shown only where nothing moves
    count -= skip
    if count <= 1:
        _seek(image, skip, image.size)
        return _in_place(image), (), 0
    width, height = image.size
    columns = frame_columns(count, width, height)
    rows = -(-count // columns)
    if count > MOST_FRAMES or width * columns > MOST_SIDE or height * rows > MOST_SIDE:
        raise PictureError(
            f"{name} has {count:,} frames of {width} x {height} px, more than fit on one sheet.",
            "Cut the moving picture into parts.",
        )
    check_size(width * columns, height * rows, name)
    sheet = np.zeros((rows * height, columns * width, 4), np.uint8)
    times = []
    for n in range(count):
        _seek(image, n + skip, (width, height))
        y, x = n // columns * height, n % columns * width
        sheet[y : y + height, x : x + width] = np.asarray(_rgba(image))
        times.append(round(float(image.info.get("duration") or 100)))
    return sheet, tuple(times), columns


def _seek(image: Image.Image, frame: int, size: tuple[int, int]) -> None:
    """Go to a frame. Raises ValueError where it is larger than the picture: a few bytes can say it has
    billions of px."""
    image.seek(frame)
    if image.size != size:
        raise ValueError


def _in_place(image: Image.Image) -> np.ndarray:
    """The px of a picture that is not decoded yet, uint8 (height, width, 4), in hardly more memory than they
    take themselves.

    Pillow decodes into the end of the array, 1, 2 or 4 bytes a px; from the top, strip by strip, that is
    turned to RGBA. What is written never reaches past the strip that was just read.
    """
    from PIL import Image

    width, height = image.size
    out = np.empty((height, width, 4), np.uint8)
    mapped = None
    if image.format in MAPPED and image.mode != "1":
        each = {"L": 1, "P": 1, "I;16": 2}.get(image.mode, 4)
        end = out.reshape(-1)[(4 - each) * width * height :]
        image.im = mapped = Image.core.map_buffer(  # type: ignore[attr-defined]
            end, image.size, "raw", 0, (image.mode, 0, 1)
        )
    image.load()
    if image.mode == "RGBA" and mapped is image.im:
        return out  # as it was decoded
    rows = max(STRIP_PX // width, 1)
    for top in range(0, height, rows):
        bottom = min(top + rows, height)
        out[top:bottom] = np.asarray(_rgba(image.crop((0, top, width, bottom))))
    return out


def frame_columns(count: int, width: int, height: int) -> int:
    """How many frames of one size lie side by side: all if they are few, else about as many as rows fill."""
    if count * width <= IN_ONE_ROW:
        return count
    return min(count, max(round(math.sqrt(count * height / width)), 1))


def _rgba(image: Image.Image) -> Image.Image:
    return image.convert("RGBA") if image.mode not in ("I;16", "I") else _deep_grey(image)


def _deep_grey(image: Image.Image) -> Image.Image:
    """16-bit grey to 8-bit RGBA by the high byte."""
    from PIL import Image

    grey = (np.asarray(image).astype(np.uint32) >> 8).astype(np.uint8)
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
