"""The pixels of a project's sheets, loaded when first needed and kept by content hash."""

from __future__ import annotations

import threading
from collections import OrderedDict
from pathlib import Path

import numpy as np

from rushweed.core.document.errors import PictureError, RushweedError
from rushweed.core.document.model import Sheet
from rushweed.core.pixels.read import Picture, decode, read_bytes

KEPT_BYTES = 1 << 30


class Stock:
    """Read-only RGBA arrays of the pictures in one project folder; safe to use from any thread."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._arrays: OrderedDict[str, np.ndarray] = OrderedDict()
        self._faults: dict[str, RushweedError] = {}
        self._lock = threading.Lock()

    def put(self, picture: Picture) -> None:
        with self._lock:
            self._faults.pop(picture.sha256, None)
            self._arrays[picture.sha256] = picture.rgba
            self._trim(picture.sha256)

    def pixels(self, sheet: Sheet) -> np.ndarray:
        """uint8 (height, width, 4) of the sheet's picture; raises PictureError if it is gone or changed."""
        key = sheet.source.sha256
        with self._lock:
            if key in self._arrays:
                self._arrays.move_to_end(key)
                return self._arrays[key]
        picture = decode(read_bytes(self.folder / sheet.source.path), sheet.source.path)
        size = (picture.rgba.shape[1], picture.rgba.shape[0])
        if size != sheet.source.size:
            raise PictureError(
                f"{sheet.source.path} is {size[0]} x {size[1]} px now, but {sheet.name} was cut at "
                f"{sheet.source.size[0]} x {sheet.source.size[1]} px.",
                "Gather the picture again to cut it anew.",
            )
        with self._lock:
            self._arrays[key] = picture.rgba
            self._trim(key)
        return picture.rgba

    def pixels_or_blank(self, sheet: Sheet) -> np.ndarray:
        """The pixels, or a clear picture of the same size where the file is missing or broken."""
        key = sheet.source.sha256
        if key not in self._faults:
            try:
                return self.pixels(sheet)
            except RushweedError as fault:
                self._faults[key] = fault
        width, height = sheet.source.size
        return np.zeros((height, width, 4), np.uint8)

    def fault(self, sheet: Sheet) -> RushweedError | None:
        """What stands in the way of reading the sheet's picture, if anything; looks at the disk."""
        path = self.folder / sheet.source.path
        if not path.is_file():
            return PictureError(
                f"{sheet.source.path} is missing from the project folder.",
                "Put the file back, or gather the picture again.",
            )
        try:
            self.pixels(sheet)
        except RushweedError as fault:
            return fault
        self._faults.pop(sheet.source.sha256, None)
        return None

    def _trim(self, keep: str) -> None:
        total = sum(a.nbytes for a in self._arrays.values())
        while total > KEPT_BYTES and len(self._arrays) > 1:
            key, array = next(iter(self._arrays.items()))
            if key == keep:
                break
            del self._arrays[key]
            total -= array.nbytes
