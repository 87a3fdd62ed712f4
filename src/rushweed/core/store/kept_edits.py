"""Edits between two saves, put beside the project so that a crash cannot take them."""

from __future__ import annotations

import contextlib
import re
import stat
import time
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import NamedTuple

import msgspec

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.document.ids import new_id
from rushweed.core.document.model.project import Project
from rushweed.core.store.files import (
    Ready,
    digest_of,
    own_folder,
    read_file,
    remove_own,
    state_of,
    sync_folder,
    write_file,
    write_new,
)

NOTE = "kept.json"
FILE = re.compile(r"[a-z0-9]{12}\.json")


class KeptNote(msgspec.Struct, frozen=True):
    """kept.json: edits since the last save; `files` maps a project path to a file under kept/."""

    edits: int
    when: float
    files: dict[str, str | None]


class Kept(NamedTuple):
    """Unsaved edits that survived: how many, when (seconds since 1970), and the project with them."""

    edits: int
    when: float
    project: Project


class KeptEdits:
    """Those of one project, called `name`, in its own folder `work`."""

    def __init__(self, work: Path, name: str) -> None:
        self._work, self._name = work, name
        self._files: dict[str, tuple[object, Ready]] = {}  # by project path: the part, its file under kept/
        self._digest = ""  # of the note written last

    def put(
        self, edits: int, changed: Mapping[str, tuple[object, Callable[[], bytes]]], gone: Iterable[str]
    ) -> None:
        """Keep files that differ from those on disk, each with its part and what makes its bytes; `gone` are
        not to be there any more. Raises StoreError."""
        folder = self._work / "kept"
        files: dict[str, tuple[object, Ready]] = {}
        try:
            own_folder(self._work)
            own_folder(folder)
            for path, (part, text) in changed.items():
                before = self._files.get(path)
                if part is not None and before and before[0] is part:
                    files[path] = before
                else:
                    data, target = text(), folder / f"{new_id(12)}.json"
                    write_new(target, data)
                    files[path] = part, Ready(target, digest_of(data), state_of(target))
            sync_folder(folder)
            names: dict[str, str | None] = {path: ready.path.name for path, (_part, ready) in files.items()}
            note = msgspec.json.encode(KeptNote(edits, time.time(), {**names, **dict.fromkeys(gone)}))
            write_file(self._work / NOTE, note)
        except OSError as error:
            raise StoreError(
                f"Edits of {self._name} could not be kept safe: {file_reason(error)}.",
                "Make room or allow writing; save soon.",
            ) from error
        self._files, self._digest = files, digest_of(note)
        remove_own(folder, FILE, but=[name for name in names.values() if name])

    def ready(self, parts: Mapping[str, object]) -> dict[str, Ready]:
        """The files that hold the texts of these very parts, both by project path."""
        return {
            path: ready
            for path, (part, ready) in self._files.items()
            if part is not None and part is parts.get(path)
        }

    def note(self) -> KeptNote | None:
        """What a crash left behind, if it can be read and names nothing but files of ours."""
        try:
            note = msgspec.json.decode(read_file(self._work / NOTE), type=KeptNote)
        except (OSError, msgspec.DecodeError, ValueError):
            return None
        fine = note.files and all(name is None or FILE.fullmatch(name) for name in note.files.values())
        return note if fine else None

    def places(self, note: KeptNote) -> dict[str, Path | None]:
        """Where the files of a note lie, by project path."""
        return {path: self._work / "kept" / name if name else None for path, name in note.files.items()}

    def digest(self) -> str:
        """Of the note as it is on disk, also where it was not told whole; else nothing."""
        try:
            return digest_of(read_file(self._work / NOTE))
        except FileNotFoundError:
            return ""
        except OSError:
            return self._digest

    def forget(self) -> None:
        """Drop them: they are saved, or not wanted."""
        with contextlib.suppress(OSError):
            if stat.S_ISDIR(self._work.lstat().st_mode):
                (self._work / NOTE).unlink(missing_ok=True)
                remove_own(self._work / "kept", FILE)
        self._files, self._digest = {}, ""
