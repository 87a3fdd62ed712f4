"""Arrays to images for painting, kept by the identity of what they were made from."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Collection
from weakref import ref

import numpy as np
from PyQt6.QtGui import QBrush, QImage, QPainter, QPixmap

from rushweed.core.document.model.sheet import Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.ui.kit.theme import Look

KEPT, KEPT_BYTES = 48, 256 << 20  # images, and what they take beside their px, of which one is always kept
SEEN_BYTES = 768 << 20  # the same where so much is seen at once
BAND = 1 << 19  # px that are made an image of without a rest


def image_of(rgba: np.ndarray) -> QImage:
    """A QImage of uint8 RGBA (height, width, 4), premultiplied for fast painting."""
    rgba = np.ascontiguousarray(rgba)
    made: QImage = _view(rgba).convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)
    return made


def image_in_bands(rgba: np.ndarray) -> QImage:
    """As `image_of`, some rows at a time: beside the window, which goes on between them."""
    rgba = np.ascontiguousarray(rgba)
    height, width = rgba.shape[:2]
    made = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
    step = max(BAND // width, 1)
    painter = QPainter(made)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Source)
    for top in range(0, height, step):
        painter.drawImage(0, top, _view(rgba[top : top + step]))
    painter.end()
    return made


def _view(rgba: np.ndarray) -> QImage:
    """An image that shows the px of an array in one piece, which must live as long."""
    height, width = rgba.shape[:2]
    made: QImage = QImage(rgba.data, width, height, width * 4, QImage.Format.Format_RGBA8888)  # type: ignore[call-overload]
    return made


def array_of(image: QImage) -> np.ndarray:
    """uint8 RGBA (height, width, 4) of an image."""
    image = image.convertToFormat(QImage.Format.Format_RGBA8888)
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    rows = np.frombuffer(bits, np.uint8).reshape(image.height(), image.bytesPerLine())  # type: ignore[call-overload]
    made: np.ndarray = rows[:, : image.width() * 4].reshape(image.height(), image.width(), 4).copy()
    return made


class SheetImages:
    """The picture of each sheet as an image, made when first shown.

    Until `ready` is set everything is clear: the window comes up before it reads a picture.
    """

    def __init__(self, stock: PixelCache) -> None:
        self.ready = False
        self._stock = stock
        self._images: OrderedDict[str, tuple[ref[np.ndarray], QImage]] = OrderedDict()
        self._bytes, self._room = 0, KEPT_BYTES

    def make_room(self, sheets: Collection[Sheet]) -> bool:
        """Keep as much as the images of these take, which are seen at once; whether they all can be kept."""
        needed = sum(4 * sheet.source.size[0] * sheet.source.size[1] for sheet in sheets)
        self._room = min(max(needed, KEPT_BYTES), SEEN_BYTES)
        return len(sheets) <= KEPT and needed <= SEEN_BYTES

    def is_made(self, sheet: Sheet) -> bool:
        """Whether its image is at hand; that of what is not to be drawn yet is."""
        return not self.ready or sheet.source.key in self._images

    def image(self, sheet: Sheet) -> QImage:
        """As it was made when its pixels were last at hand; those are not read again for it."""
        if not self.ready:
            return QImage()
        key = sheet.source.key
        known = self._images.get(key)
        if known is None or self._stock.holds(sheet):
            pixels = self._stock.pixels_or_blank(sheet)
            if known is None or known[0]() is not pixels:
                known = self._keep(key, pixels, image_of(pixels))
        self._images.move_to_end(key)
        return known[1]

    def holds(self, sheet: Sheet) -> bool:
        """Whether there is an image of a sheet, though perhaps of what it was before."""
        return sheet.source.key in self._images

    def prepare(self, sheet: Sheet, pixels: np.ndarray) -> Callable[[], None]:
        image = image_in_bands(pixels)

        def keep() -> None:
            self._keep(sheet.source.key, pixels, image)

        return keep

    def _keep(self, key: str, pixels: np.ndarray, image: QImage) -> tuple[ref[np.ndarray], QImage]:
        self._drop(key)
        known = self._images[key] = (ref(pixels), image)
        self._bytes += image.sizeInBytes()
        while len(self._images) > 1 and (len(self._images) > KEPT or self._bytes > self._room):
            self._drop(next(iter(self._images)))
        return known

    def _drop(self, key: str) -> None:
        gone = self._images.pop(key, None)
        if gone is not None:
            self._bytes -= gone[1].sizeInBytes()


def checker(look: Look, side: int = 8) -> QBrush:
    """The two-tone ground that stands for nothing there; `side` screen px a square."""
    pixmap = QPixmap(side * 2, side * 2)
    pixmap.fill(look.colour("checker_a"))
    painter = QPainter(pixmap)
    painter.fillRect(0, 0, side, side, look.colour("checker_b"))
    painter.fillRect(side, side, side, side, look.colour("checker_b"))
    painter.end()
    return QBrush(pixmap)
