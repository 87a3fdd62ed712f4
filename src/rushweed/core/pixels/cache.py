"""The pixels of a project's sheets, loaded when first needed and kept by content hash."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.errors import PictureError, RushweedError
from rushweed.core.document.model.sheet import Sheet, Source
from rushweed.core.document.model.steps import Fit
from rushweed.core.pixels.prepare import prepared, prepared_normals
from rushweed.core.pixels.read import Picture, decode, read_bytes
from rushweed.core.pixels.seen import Seen
from rushweed.core.pixels.series import laid_out

Fact = TypeVar("Fact")
KEPT_BYTES = 448 << 20


class PixelCache:
    """Read-only RGBA arrays of the pictures in one project folder; safe to use from any thread."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.seen = Seen(folder)
        self.holds_on = False  # a window shows what the document means, also where a file is another by now
        self._borrowed: set[str] = set()  # keys under which stand pixels of a file that is another by now
        self._arrays: OrderedDict[str, np.ndarray] = OrderedDict()
        self._held = 0  # bytes of them
        self._faults: dict[str, RushweedError] = {}
        self._facts: dict[tuple[str, ...], Any] = {}
        self._sound: dict[
            str, tuple[str, str | None]
        ] = {}  # by sheet: the picture and file read without fault
        self._lock = threading.Lock()
        self._making: dict[str, tuple[threading.Lock, int]] = {}  # by key: how many make it or wait for it

    def put(self, picture: Picture) -> None:
        """Hold a picture that was read already."""
        with self._lock:
            self._faults.pop(picture.sha256, None)
            self._hold(picture.sha256, picture.rgba)

    def put_raw(self, source: Source, rgba: np.ndarray) -> None:
        """Take the pixels of a source, before its steps, that were read already."""
        self._faults.pop(source.key, None)
        self._borrowed.discard(source.sha256)
        self._keep(source.sha256, rgba)

    def earlier(self, source: Source) -> np.ndarray | None:
        """The very picture that the document means, before its steps, whatever its file holds by now; None
        if it is not at hand."""
        known = None if source.sha256 in self._borrowed else self._known(source.sha256)
        return known if known is not None else self.seen.earlier(source.sha256)

    def stands_apart(self, source: Source) -> bool:
        """Whether what is shown is an earlier picture than the one in the file."""
        shown = source.sha256 not in self._borrowed and self._known(source.sha256) is not None
        return shown and self.seen.source_sha(source) not in (None, source.sha256)

    def art_sha(self, source: Source) -> str | None:
        """The hash of the picture that a source's pixels are made from; None if its file cannot be read."""
        now = self.seen.source_sha(source)
        if now == source.sha256 or self.stands_apart(source):
            return source.sha256
        if self.holds_on and self.seen.earlier(source.sha256) is not None:
            return source.sha256
        return now

    def forget_normals(self, sheet: Sheet) -> None:
        """Read the normal map of a sheet anew when it is next asked for."""
        with self._lock:
            for key in [k for k in self._arrays if k.startswith(f"{sheet.source.normal} ")]:
                self._held -= self._arrays.pop(key).nbytes

    def pixels(self, sheet: Sheet) -> np.ndarray:
        """uint8 (height, width, 4) of the sheet's picture; raises PictureError if it is gone or changed."""
        source = sheet.source
        known = self._known(source.key)
        if known is not None and known.shape[:2] == source.size[::-1]:
            return known
        with self._alone(source.key):  # several threads may ask for the same large picture at once
            known = self._known(source.key)
            if known is not None and known.shape[:2] == source.size[::-1]:
                return known
            raw = self.raw(sheet)
            rgba = prepared(raw, source.steps, sheet.name) if source.steps else raw
            size = (rgba.shape[1], rgba.shape[0])
            if size != source.size:
                raise PictureError(
                    f"{source.path} is {size[0]} x {size[1]} px now, but {sheet.name} was cut at "
                    f"{source.size[0]} x {source.size[1]} px.",
                    "Open the project, or run `rushweed refresh` on it, to take the new size up.",
                )
            self._sound[sheet.id] = (source.key, self.seen.source_sha(source))
            return self._keep(source.key, rgba)

    @contextmanager
    def _alone(self, key: str) -> Iterator[None]:
        """One thread makes the pixels of a key at a time; others wait for it and find them made."""
        with self._lock:
            lock, waiting = self._making.get(key, (threading.Lock(), 0))
            self._making[key] = (lock, waiting + 1)
        try:
            with lock:
                yield
        finally:
            with self._lock:
                _lock, waiting = self._making.pop(key)
                if waiting > 1:
                    self._making[key] = (lock, waiting - 1)

    def holds(self, sheet: Sheet) -> bool:
        """Whether the sheet's pixels are at hand, so that asking for them takes no time."""
        return self._known(sheet.source.key) is not None

    def raw(self, sheet: Sheet) -> np.ndarray:
        """The picture before its preparation steps, numbered parts laid out."""
        source = sheet.source
        known = self._known(source.sha256)
        if known is not None:
            return known
        sha256, rgba = self._read(source)
        if sha256 != source.sha256:
            copy = self.seen.earlier(source.sha256) if self.holds_on else None
            if copy is not None:
                return self._keep(source.sha256, copy)
            if (rgba.shape[1], rgba.shape[0]) != (source.raw or source.size):
                return rgba  # of no use under this key
            self._borrowed.add(source.sha256)
        return self._keep(source.sha256, rgba)

    def _read(self, source: Source) -> tuple[str, np.ndarray]:
        """What the files of a source hold now, and its hash."""
        if not source.parts:
            picture = decode(read_bytes(self.folder / source.path), source.path)
            return picture.sha256, picture.rgba
        pictures = [decode(read_bytes(self.folder / path), path) for path in source.parts]
        sha256 = hashlib.sha256("".join(p.sha256 for p in pictures).encode()).hexdigest()
        return sha256, laid_out([p.rgba for p in pictures], source.crop, source.columns)

    def to_keep(self, source: Source) -> np.ndarray | None:
        """The very picture that the document means, read where it must be, but not held in memory for it."""
        known = self.earlier(source)
        if known is None:
            try:
                sha256, rgba = self._read(source)
            except RushweedError:
                return None
            known = rgba if sha256 == source.sha256 else None
        return known

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
        rgba = prepared_normals(rgba, source.steps, source.normal)
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
            self._hold(key, rgba)
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
        return self.remembered((name, sheet.source.key), lambda: found(self.pixels_or_blank(sheet)))

    def known_fact(self, name: str, sheet: Sheet) -> object | None:
        """What `fact` has found already, else None."""
        return self._facts.get((name, sheet.source.key))

    def remembered(self, key: tuple[str, ...], find: Callable[[], Fact]) -> Fact:
        """Something found once and remembered under a key."""
        if key not in self._facts:
            self._facts[key] = find()
        fact: Fact = self._facts[key]
        return fact

    def is_broken(self, sheet: Sheet) -> bool:
        """Whether the sheet's pixels could not be read when they were last asked for."""
        return sheet.source.key in self._faults

    def fault(self, sheet: Sheet) -> RushweedError | None:
        """What stands in the way of reading the sheet's picture, if anything; looks at the disk."""
        for path in sheet.source.files:
            try:
                there = (self.folder / path).is_file()
            except (OSError, ValueError):
                there = False
            if not there:
                return PictureError(
                    f"{path} is missing from the project folder.",
                    "Put the file back, or gather the picture again.",
                )
        state = (sheet.source.key, self.seen.source_sha(sheet.source))
        if self._sound.get(sheet.id) == state:
            return None
        try:
            self.pixels(sheet)
        except RushweedError as fault:
            return fault
        self._faults.pop(sheet.source.key, None)
        self._sound[sheet.id] = state  # also where its pixels were at hand
        return None

    def _hold(self, key: str, rgba: np.ndarray) -> None:
        """Keep an array; the oldest go where all of them are too many."""
        old = self._arrays.pop(key, None)
        self._held += rgba.nbytes - (old.nbytes if old is not None else 0)
        self._arrays[key] = rgba
        while self._held > KEPT_BYTES and len(self._arrays) > 1:
            self._held -= self._arrays.popitem(last=False)[1].nbytes
