"""A disk that fails, or a power cut, at the n-th call that changes something on it."""

from __future__ import annotations

import errno
import os
from collections.abc import Iterator
from contextlib import contextmanager

CHANGING = ("fsync", "replace", "link", "unlink", "mkdir", "rmdir", "rename")


class Killed(BaseException):
    """The power is gone; nothing may catch it."""


class Disk:
    """Counts the calls, and lets those from `first` to `last` fail: with a fault, or by a power cut."""

    def __init__(self, first: int = -1, last: int = -1, kills: bool = False) -> None:
        self.first, self.last, self.kills, self.calls = first, max(last, first), kills, 0

    def reached(self) -> None:
        place, self.calls = self.calls, self.calls + 1
        if self.first <= place <= self.last:
            if self.kills:
                raise Killed
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


@contextmanager
def faulty(disk: Disk) -> Iterator[Disk]:
    """Every call that changes the disk goes by `disk` first."""
    real = {name: getattr(os, name) for name in (*CHANGING, "open")}

    def passing(name: str):  # type: ignore[no-untyped-def]
        def call(*words, **named):  # type: ignore[no-untyped-def]
            disk.reached()
            return None if name == "fsync" else real[name](*words, **named)  # nothing here outlives the test

        return call

    def opening(path, flags, *words, **named):  # type: ignore[no-untyped-def]
        if flags & (os.O_CREAT | os.O_WRONLY | os.O_RDWR):
            disk.reached()
        return real["open"](path, flags, *words, **named)

    try:
        for name in CHANGING:
            setattr(os, name, passing(name))
        os.open = opening  # type: ignore[assignment]
        yield disk
    finally:
        for name, function in real.items():
            setattr(os, name, function)
