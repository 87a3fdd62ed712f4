"""One window at a time: who may write a project's folder."""

from __future__ import annotations

import contextlib
import fcntl
import os
import stat
from pathlib import Path

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.store.files import own_folder


class FolderLock:
    """The right to write the folder called `name`, in which `work` is Rushweed's own. Freed when the process
    ends."""

    def __init__(self, work: Path, name: str) -> None:
        self._work, self._name = work, name
        self._handle: int | None = None

    @property
    def is_held(self) -> bool:
        """Whether it is ours, as far as we know."""
        return self._handle is not None

    def take(self) -> bool:
        """Take it, if nobody has it; returns whether it is ours. Raises StoreError where nobody could."""
        if self._handle is not None:
            return True
        try:
            own_folder(self._work)
            handle = self._file()
        except OSError as error:
            raise StoreError(
                f"{self._name} cannot be changed: {file_reason(error)}.",
                "It opens read-only; copy it to a place you may write to.",
            ) from error
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(handle)
            return False
        self._handle = handle
        with contextlib.suppress(OSError):  # a full disk: who has it is not told, but it is ours
            os.ftruncate(handle, 0)
            os.write(handle, str(os.getpid()).encode())
        return True

    def check(self) -> None:
        """If it was ours, see to it that it still is: its file may have been removed, as version control
        does. Raises StoreError if another Rushweed has it now."""
        if self._handle is None:
            return
        held = os.fstat(self._handle)
        try:
            there = (self._work / "lock").lstat()
            ours = (there.st_dev, there.st_ino) == (held.st_dev, held.st_ino)
        except OSError:
            ours = False
        if not ours:
            self.free()
            if not self.take():
                raise StoreError(
                    f"{self._name} has been opened by another Rushweed meanwhile.",
                    "Close it there, then save again.",
                )

    def free(self) -> None:
        """Let others take it."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None

    def _file(self) -> int:
        """The lock's file, which is a plain file of ours and no link. Raises OSError."""
        flags = os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC
        handle = os.open(self._work / "lock", flags, 0o644)
        state = os.fstat(handle)
        if not stat.S_ISREG(state.st_mode) or state.st_nlink != 1:
            os.close(handle)
            raise OSError(0, "its lock is no plain file of Rushweed's own")
        return handle
