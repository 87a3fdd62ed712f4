"""What the pictures of a project were like when they were last read: their hashes, and copies of them.

Kept under .rushweed/seen, which version control ignores. With it a picture that was changed while nobody
looked is found by its size and time, and the earlier picture is still at hand to compare with or go back to.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import threading
from collections.abc import Callable, Iterable
from pathlib import Path

import msgspec
import numpy as np

from rushweed.core.document.errors import PictureError, RushweedError
from rushweed.core.document.model.sheet import Source
from rushweed.core.pixels.read import decode, read_bytes
from rushweed.core.store.files import read_file, write_file


class _File(msgspec.Struct, frozen=True):
    size: int
    mtime_ns: int
    sha256: str


class Seen:
    """The pictures of one project folder as they were last read; safe to use from any thread."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._home = folder / ".rushweed" / "seen"
        self._files: dict[str, _File] = {}
        self._noted: dict[str, _File] = {}  # as they stand in the note on disk
        self._lock = threading.Lock()
        with contextlib.suppress(OSError, msgspec.DecodeError, ValueError):
            self._noted = msgspec.json.decode(read_file(self._home / "files.json"), type=dict[str, _File])
            self._files = dict(self._noted)

    def sha(self, path: str) -> str | None:
        """The hash of a file of the project as it is now, read only where its size or time is another than
        when it was last read; None if it cannot be read."""
        try:
            state = os.stat(f"{self.folder}/{path}")  # many a time: a Path would take longer than the system
        except (OSError, ValueError):
            return None
        with self._lock:
            known = self._files.get(path)
        if known is not None and (known.size, known.mtime_ns) == (state.st_size, state.st_mtime_ns):
            return known.sha256
        try:
            digest = hashlib.sha256(read_bytes(self.folder / path)).hexdigest()
        except RushweedError:
            return None
        with self._lock:
            self._files[path] = _File(state.st_size, state.st_mtime_ns, digest)
        return digest

    def source_sha(self, source: Source) -> str | None:
        """What `source.sha256` would be of the files as they are now; None if one cannot be read."""
        if not source.parts:
            return self.sha(source.path)
        digests = [self.sha(path) for path in source.parts]
        if any(d is None for d in digests):
            return None
        return hashlib.sha256("".join(d for d in digests if d).encode()).hexdigest()

    def has_changed(self, source: Source) -> bool:
        """Whether a file of a sheet is another now than the document says; a missing one is not."""
        now = self.source_sha(source)
        others = [(v.sha256, self.sha(v.path)) for v in source.variants]
        return now not in (None, source.sha256) or any(new not in (None, old) for old, new in others)

    # -- copies ------------------------------------------------------------------------------------

    def keep(
        self, sources: Iterable[Source], raw: Callable[[Source], np.ndarray | None], prune: bool = False
    ) -> None:
        """Keep copies of pictures and write down what the files were like; with `prune` all other copies go.

        `raw` gives a picture before its steps, uint8 (height, width, 4), or None if it is not at hand.
        Whatever cannot be written is left out.
        """
        from PIL import Image

        wanted = set()
        try:
            self._home.mkdir(parents=True, exist_ok=True)
            if self._home.is_symlink() or self._home.parent.is_symlink():
                return
            for source in sources:
                target = self._home / f"{source.sha256}.png"
                wanted.add(target.name)
                self.source_sha(source)
                for variant in source.variants:
                    self.sha(variant.path)
                rgba = None if target.exists() else raw(source)
                if rgba is None:
                    continue
                temporary = target.with_suffix(f".{os.getpid()}.tmp")
                Image.fromarray(rgba).save(temporary, "PNG", compress_level=1)
                os.replace(temporary, target)
            for old in self._home.iterdir():
                if prune and old.suffix in (".png", ".tmp") and old.name not in wanted:
                    old.unlink()
            self.write_down()
        except (OSError, RushweedError):
            return

    def write_down(self) -> None:
        """Note what the files were like. Raises StoreError where that cannot be written."""
        with self._lock:
            files = {path: self._files[path] for path in sorted(self._files)}
        if files != self._noted:
            write_file(self._home / "files.json", msgspec.json.encode(files))
            self._noted = files

    def earlier(self, sha256: str) -> np.ndarray | None:
        """The kept copy of a picture, read-only, or None if there is none."""
        path = self._home / f"{sha256}.png"
        if not path.is_file() or path.is_symlink():
            return None
        try:
            return decode(read_bytes(path), path.name).rgba
        except PictureError:
            return None
