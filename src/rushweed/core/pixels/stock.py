"""The pixels of a project's sheets, loaded when first needed and kept by content hash."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.errors import PictureError, RushweedError
from rushweed.core.document.model import Exchange, Fit, KeyColour, Recolour, Sheet, Source
from rushweed.core.pixels.prepare import prepared
from rushweed.core.pixels.read import Picture, decode, read_bytes
from rushweed.core.pixels.series import laid_out

Fact = TypeVar("Fact")
KEPT_BYTES = 1 << 30


class Stock:
    """Read-only RGBA arrays of the pictures in one project folder; safe to use from any thread."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._arrays: OrderedDict[str, np.ndarray] = OrderedDict()
        self._faults: dict[str, RushweedError] = {}
        self._facts: dict[tuple[str, str], Any] = {}
        self._lock = threading.Lock()

    def put(self, picture: Picture) -> None:
        with self._lock:
            self._faults.pop(picture.sha256, None)
            self._arrays[picture.sha256] = picture.rgba
            self._trim(picture.sha256)

    def put_raw(self, source: Source, rgba: np.ndarray) -> None:
        """Take the pixels of a source, before its steps, that were read already."""
        self._faults.pop(source.key, None)
        self._keep(source.sha256, rgba)

    def forget_normals(self, sheet: Sheet) -> None:
        """Read the normal map of a sheet anew when it is next asked for."""
        with self._lock:
            for key in [k for k in self._arrays if k.startswith(f"{sheet.source.normal} ")]:
                del self._arrays[key]

    def pixels(self, sheet: Sheet) -> np.ndarray:
        """uint8 (height, width, 4) of the sheet's picture; raises PictureError if it is gone or changed."""
        source = sheet.source
        known = self._known(source.key)
        if known is not None:
            return known
        raw = self.raw(sheet)
        rgba = prepared(raw, source.steps, sheet.name) if source.steps else raw
        size = (rgba.shape[1], rgba.shape[0])
        if size != source.size:
            raise PictureError(
                f"{source.path} is {size[0]} x {size[1]} px now, but {sheet.name} was cut at "
                f"{source.size[0]} x {source.size[1]} px.",
                "Gather the picture again to cut it anew.",
            )
        return self._keep(source.key, rgba)

    def raw(self, sheet: Sheet) -> np.ndarray:
        """The picture before its preparation steps, numbered parts laid out."""
        source = sheet.source
        known = self._known(source.sha256)
        if known is not None:
            return known
        if source.parts:
            parts = [decode(read_bytes(self.folder / path), path).rgba for path in source.parts]
            rgba = laid_out(parts, source.crop, source.columns)
        else:
            rgba = decode(read_bytes(self.folder / source.path), source.path).rgba
        return self._keep(source.sha256, rgba)

    def normals(self, sheet: Sheet) -> np.ndarray | None:
        """The normal map of a sheet, prepared as its picture is where that moves px; None if it has none
        that fits."""
        source = sheet.source
        if not source.normal:
            return None
        key = f"{source.normal} {source.key}"
        known = self._known(key)
        if known is not None:
            return known
        try:
            rgba = decode(read_bytes(self.folder / source.normal), source.normal).rgba
        except RushweedError:
            return None
        moves = tuple(s for s in source.steps if not isinstance(s, (KeyColour, Recolour, Exchange)))
        rgba = prepared(rgba, moves, source.normal)
        return self._keep(key, rgba) if (rgba.shape[1], rgba.shape[0]) == source.size else None

    def variant(self, sheet: Sheet, scale: int) -> np.ndarray | None:
        """The picture of a sheet `scale` times as large, prepared likewise; None if it has none that fits."""
        source = sheet.source
        found = next((v for v in source.variants if v.scale == scale), None)
        if found is None:
            return None
        try:
            rgba = decode(read_bytes(self.folder / found.path), found.path).rgba
            steps = tuple(replace(s, size=(s.size[0] * scale, s.size[1] * scale)) if isinstance(s, Fit) else s
                          for s in source.steps)  # fmt: skip
            rgba = prepared(rgba, steps, found.path)
        except RushweedError:
            return None
        whole = (source.size[0] * scale, source.size[1] * scale)
        return rgba if (rgba.shape[1], rgba.shape[0]) == whole else None

    def _known(self, key: str) -> np.ndarray | None:
        with self._lock:
            if key in self._arrays:
                self._arrays.move_to_end(key)
                return self._arrays[key]
        return None

    def _keep(self, key: str, rgba: np.ndarray) -> np.ndarray:
        rgba.setflags(write=False)
        with self._lock:
            self._arrays[key] = rgba
            self._trim(key)
        return rgba

    def pixels_or_blank(self, sheet: Sheet) -> np.ndarray:
        """The pixels, or a clear picture of the same size where the file is missing or broken."""
        key = sheet.source.key
        if key not in self._faults:
            try:
                return self.pixels(sheet)
            except RushweedError as fault:
                self._faults[key] = fault
        width, height = sheet.source.size
        return np.zeros((height, width, 4), np.uint8)

    def fact(self, name: str, sheet: Sheet, found: Callable[[np.ndarray], Fact]) -> Fact:
        """Something found once from a sheet's pixels, and remembered under `name` until they change."""
        key = (name, sheet.source.key)
        if key not in self._facts:
            self._facts[key] = found(self.pixels_or_blank(sheet))
        fact: Fact = self._facts[key]
        return fact

    def fault(self, sheet: Sheet) -> RushweedError | None:
        """What stands in the way of reading the sheet's picture, if anything; looks at the disk."""
        for path in sheet.source.files:
            if not (self.folder / path).is_file():
                return PictureError(
                    f"{path} is missing from the project folder.",
                    "Put the file back, or gather the picture again.",
                )
        try:
            self.pixels(sheet)
        except RushweedError as fault:
            return fault
        self._faults.pop(sheet.source.key, None)
        return None

    def _trim(self, keep: str) -> None:
        total = sum(a.nbytes for a in self._arrays.values())
        while total > KEPT_BYTES and len(self._arrays) > 1:
            key, array = next(iter(self._arrays.items()))
            if key == keep:
                break
            del self._arrays[key]
            total -= array.nbytes
