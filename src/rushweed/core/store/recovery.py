"""Edits that a crash left behind, moved to a place of their own until somebody has answered for them.

Each lies in .rushweed/recovered/NAME as a whole project (without its pictures). What was taken back or
discarded stays there for 30 days.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import time
from pathlib import Path
from typing import Literal, NamedTuple

import msgspec

from rushweed.core.document.errors import RushweedError, StoreError, file_reason
from rushweed.core.document.ids import new_id
from rushweed.core.document.model.project import Project
from rushweed.core.store.files import own_folder, read_file, write_file
from rushweed.core.store.folder import Folder

KEPT_S = 30 * 24 * 3600
NOTE = "recovered.json"

Answer = Literal["", "taken", "discarded"]


class _Note(msgspec.Struct, frozen=True):
    edits: int
    when: float
    answer: Answer = ""
    answered: float = 0.0


class Recovered(NamedTuple):
    """Edits in a place of their own: how many, made until when (seconds since 1970), and what was said."""

    path: Path
    edits: int
    when: float
    answer: Answer

    def project(self) -> Project:
        """The project with these edits. Raises StoreError if it cannot be read."""
        return Folder(self.path).open()


def recover(folder: Folder) -> list[Recovered]:
    """Move what a crash left behind to a place of its own, and list all that waits for an answer, the newest
    first. Whatever was answered 30 days ago goes. The folder is open and locked."""
    with contextlib.suppress(RushweedError, OSError):
        left = folder.kept()
        if left is not None:
            put_away(folder, left.project, left.edits, left.when)
            folder.forget_kept()
    _drop_old(folder)
    return [one for one in recovered(folder) if not one.answer]


def put_away(
    folder: Folder, project: Project, edits: int, when: float | None = None, answer: Answer = ""
) -> Recovered:
    """Write a project to a place of its own beside the saved one. Raises StoreError."""
    home = folder.work / "recovered"
    name = f"{time.strftime('%Y-%m-%d_%H-%M-%S', time.localtime(when))}_{new_id(6)}"
    half, whole = home / f".{name}.half", home / name
    try:
        own_folder(folder.work)
        own_folder(home)
        half.mkdir()
        Folder(half).save(project)
        now = time.time()
        note = _Note(edits, now if when is None else when, answer, now if answer else 0.0)
        write_file(half / NOTE, msgspec.json.encode(note))
        os.replace(half, whole)
    except OSError as error:
        raise StoreError(
            f"Edits of {folder.path.name} could not be put away: {file_reason(error)}.", "Make room first."
        ) from error
    return Recovered(whole, note.edits, note.when, note.answer)


def recovered(folder: Folder) -> list[Recovered]:
    """All that lies there, the newest first."""
    found = []
    with contextlib.suppress(OSError):
        for path in (folder.work / "recovered").iterdir():
            note = _note_of(path)
            if note is not None:
                found.append(Recovered(path, note.edits, note.when, note.answer))
    return sorted(found, key=lambda one: -one.when)


def answer(one: Recovered, said: Answer) -> None:
    """Remember what was said of edits left behind. Raises StoreError."""
    write_file(one.path / NOTE, msgspec.json.encode(_Note(one.edits, one.when, said, time.time())))


def _note_of(path: Path) -> _Note | None:
    try:
        return msgspec.json.decode(read_file(path / NOTE), type=_Note)
    except (OSError, msgspec.DecodeError, ValueError):
        return None


def _drop_old(folder: Folder) -> None:
    home = folder.work / "recovered"
    with contextlib.suppress(OSError):
        for path in home.iterdir():
            note = _note_of(path)
            old = note is not None and note.answer and time.time() - note.answered > KEPT_S
            if old or (path.name.endswith(".half") and not path.is_symlink()):
                shutil.rmtree(path, ignore_errors=True)
