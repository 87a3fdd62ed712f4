"""Stretches of a PNG that are packed already: where few px of a large page change, most of its file stays."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path

from rushweed.core.document.errors import StoreError
from rushweed.core.ship.placing import Listed
from rushweed.core.store.files import digest_of, read_file

Buffer = bytes | memoryview
Table = list[tuple[bytes, int]]  # digests of what stretches hold, and how many bytes each became
TAIL = 4 + 4 + 12  # bytes after the last stretch: the sums of its stream and its chunk, and an empty chunk


class Stretches:
    """Of one file: those it had, by a digest of what they hold, and in `table` those it has now."""

    def __init__(self, known: dict[bytes, bytes]) -> None:
        self._known = known
        self.table: Table = []

    def packed(self, held: tuple[Buffer, ...], pack: Callable[[], bytes]) -> tuple[bytes, bytes]:
        """A digest of all that a stretch depends on, and its bytes, packed only where that is new."""
        made = hashlib.blake2b(digest_size=16)
        for part in held:
            made.update(len(part).to_bytes(8, "little"))
            made.update(part)
        key = made.digest()
        return key, self._known.get(key) or pack()


def stretches_of(path: Path, table: Table, listed: Listed | None) -> Stretches:
    """Those of a shipped file with such a table; none where it does not stand as it was written."""
    if not table or listed is None:
        return Stretches({})
    try:
        data = read_file(path, listed.bytes)
    except (OSError, StoreError):
        return Stretches({})
    at = len(data) - TAIL - sum(size for _key, size in table)
    if at < 0 or digest_of(data) != listed.sha256:
        return Stretches({})
    known = {}
    for key, size in table:
        known[key] = data[at : at + size]
        at += size
    return Stretches(known)
