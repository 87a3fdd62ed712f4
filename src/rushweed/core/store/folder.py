"""A project folder: open it, save it as one, keep edits safe in between, one window at a time."""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import shutil
import time
from pathlib import Path
from typing import NamedTuple

import msgspec

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.document.ids import new_id
from rushweed.core.document.model import FORMAT, Animation, Level, Project, Sheet
from rushweed.core.store.files import keep_promise, sync_folder, write_file, write_together
from rushweed.core.store.form import (
    Head,
    animation_text,
    decode,
    head_text,
    level_text,
    read_animation,
    read_level,
    read_sheet,
    sheet_text,
)
from rushweed.core.store.migrate import back_up, check_format

Part = Sheet | Level | Animation

HEAD = "rushweed.json"
WORK = ".rushweed"
KEPT_NOTE = "kept.json"


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


def file_name(name: str) -> str:
    """A part of a file name that every system accepts."""
    stem = re.sub(r"[^\w.-]+", "_", name, flags=re.ASCII).strip("._")
    return stem[:60] or "unnamed"


class Folder:
    """The folder of one project. Only one window holds it for writing; `lock` says whether it is ours."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.work = path / WORK
        self._lock_file: int | None = None
        self._paths: dict[str, str] = {}  # part id -> path of its file
        self._written: dict[str, tuple[object, bytes]] = {}  # path -> (part, text) as on disk
        self._kept: dict[str, tuple[object, str]] = {}  # path -> (part, file under kept/)
        self._format_on_disk = FORMAT
        self.saved_at: float | None = None

    # -- opening ---------------------------------------------------------------------------------

    @staticmethod
    def create(path: Path, name: str) -> tuple[Folder, Project]:
        """Make a new, empty project folder. Raises StoreError if the place is taken."""
        if (path / HEAD).exists():
            raise StoreError(f"{path} already holds a project.", "Open it, or choose another folder.")
        if path.exists() and not path.is_dir():
            raise StoreError(f"{path} is a file.", "Choose a folder.")
        folder = Folder(path)
        project = Project(new_id(), name)
        try:
            path.mkdir(parents=True, exist_ok=True)
            folder.work.mkdir(exist_ok=True)
        except OSError as error:
            raise StoreError(
                f"{path} could not be made: {file_reason(error)}.", "Choose a folder you may write to."
            ) from error
        folder.save(project)
        return folder, project

    def open(self) -> Project:
        """Read the project, after finishing a save that was cut off. Raises StoreError."""
        if not self.path.is_dir():
            reason = "is a file, not a project folder" if self.path.exists() else "does not exist"
            raise StoreError(f"{self.path} {reason}.", "Choose a folder that holds a rushweed.json.")
        if not (self.path / HEAD).exists() and not (self.work / "promise.json").exists():
            raise StoreError(
                f"{self.path} holds no {HEAD}.", "Choose a project folder, or make one with `rushweed new`."
            )
        if (self.work / "promise.json").exists():
            keep_promise(self.path, self.work)
        self._written.clear()
        self._paths.clear()
        with contextlib.suppress(OSError):
            self.saved_at = (self.path / HEAD).stat().st_mtime
        return self._read({})

    def _read(self, instead: dict[str, Path | None]) -> Project:
        """Read the project; files in `instead` are read from elsewhere. Remembers what is on disk."""
        remember = not instead

        def text(path: str) -> bytes:
            source = instead.get(path) or self.path / path
            try:
                return source.read_bytes()
            except OSError as error:
                raise StoreError(
                    f"{path} could not be read: {file_reason(error)}.",
                    "Put the file back from your backup or version control.",
                ) from error

        data = text(HEAD)
        first = decode(data, msgspec.Raw, HEAD)
        number = self._format(bytes(first))
        check_format(number, HEAD)
        head: Head = decode(data, Head, HEAD)
        sheets, levels, animations = [], [], []
        for path in (*head.sheets, *head.levels, *head.animations):
            if path.startswith("/") or ".." in path.split("/"):
                raise StoreError(f"{HEAD} names a file outside the project: {path}.", "Put it right.")
        for path in head.sheets:
            body = text(path)
            sheet = read_sheet(body, path)
            sheets.append(sheet)
            self._note(remember, path, sheet.id, sheet, body)
        for path in head.levels:
            body = text(path)
            level = read_level(body, path)
            levels.append(level)
            self._note(remember, path, level.id, level, body)
        for path in head.animations:
            body = text(path)
            animation = read_animation(body, path)
            animations.append(animation)
            self._note(remember, path, animation.id, animation, body)
        project = Project(head.id, head.name, tuple(sheets), tuple(levels), tuple(animations), head.recipes,
                          head.groups, head.traits, head.autosets)  # fmt: skip
        self._check_ids(project)
        if remember:
            self._written[HEAD] = (None, data)
            self._format_on_disk = number
        return project

    def _note(self, remember: bool, path: str, part_id: str, part: Part, body: bytes) -> None:
        self._paths.setdefault(part_id, path)
        if remember:
            self._written[path] = (part, body)

    @staticmethod
    def _format(data: bytes) -> int:
        class Only(msgspec.Struct):
            format: int

        only: Only = decode(data, Only, HEAD)
        return only.format

    @staticmethod
    def _check_ids(project: Project) -> None:
        seen: dict[str, str] = {}
        parts = [(level.id, level.name) for level in project.levels]
        parts += [(animation.id, animation.name) for animation in project.animations]
        for sheet in project.sheets:
            cells = (*sheet.cells, *(one.cell for one in sheet.aside))
            parts += [(sheet.id, sheet.name), *((c.id, c.name) for c in cells)]
        for part_id, name in parts:
            if part_id in seen:
                raise StoreError(
                    f"The id {part_id} stands for both {seen[part_id]} and {name}.",
                    "Give one of them another id; copied files keep their ids.",
                )
            seen[part_id] = name

    # -- writing ---------------------------------------------------------------------------------

    def save(self, project: Project) -> int:
        """Write what changed since the last save, as one; returns the number of files written."""
        parts = self._parts(project)
        texts = {path: self._text_of(path, part) for path, part in parts.items()}
        texts[HEAD] = self._head(project)
        files: dict[str, bytes | None] = {
            path: data
            for path, data in texts.items()
            if path not in self._written or self._written[path][1] != data
        }
        files |= {path: None for path in self._written if path not in texts}
        changed = len(files)
        if changed:
            back_up(self.path, self.work, self._written, self._format_on_disk)
            # The kept edits go in the same stroke: they are all in what is saved now.
            write_together(self.path, self.work, {f"{WORK}/{KEPT_NOTE}": None, **files})
        self._written = {path: (parts.get(path), data) for path, data in texts.items()}
        self._format_on_disk = FORMAT
        self.forget_kept()
        self.saved_at = time.time()
        return changed

    def _parts(self, project: Project) -> dict[str, Part]:
        """Every sheet, level and animation by the path of its file, in order."""
        parts: dict[str, Part] = {}
        for sheet in project.sheets:
            parts[self._path_of("sheets", sheet.id, Path(sheet.name).stem)] = sheet
        for level in project.levels:
            parts[self._path_of("levels", level.id, level.name)] = level
        for animation in project.animations:
            parts[self._path_of("animations", animation.id, animation.name)] = animation
        return parts

    def _head(self, project: Project) -> bytes:
        kinds: dict[str, tuple[Part, ...]] = {
            "sheets": project.sheets, "levels": project.levels, "animations": project.animations,
        }  # fmt: skip
        return head_text(project, {kind: [self._paths[p.id] for p in parts] for kind, parts in kinds.items()})

    def _text_of(self, path: str, part: Part) -> bytes:
        known = self._written.get(path)
        if known and known[0] is part:
            return known[1]
        if isinstance(part, Animation):
            return animation_text(part)
        return sheet_text(part) if isinstance(part, Sheet) else level_text(part)

    def _path_of(self, kind: str, part_id: str, name: str) -> str:
        path = self._paths.get(part_id)
        if path is None:
            stem = file_name(name)
            path = f"{kind}/{stem}.json"
            number = 2
            while path in self._paths.values() or (self.path / path).exists():
                path = f"{kind}/{stem}_{number}.json"
                number += 1
            self._paths[part_id] = path
        return path

    # -- edits between two saves -------------------------------------------------------------------

    def keep(self, project: Project, edits: int) -> None:
        """Put the unsaved edits beside the project, so that a crash cannot take them."""
        parts = self._parts(project)
        kept = self.work / "kept"
        fresh: dict[str, tuple[object, str]] = {}
        try:
            kept.mkdir(parents=True, exist_ok=True)
            for path, part in parts.items():
                if path in self._written and self._written[path][0] is part:
                    continue
                before = self._kept.get(path)
                if before and before[0] is part:
                    fresh[path] = before
                else:
                    fresh[path] = (part, self._keep_text(self._text_of(path, part)))
            head = self._head(project)
            if self._written.get(HEAD, (None, b""))[1] != head:
                fresh[HEAD] = (None, self._keep_text(head))
            files: dict[str, str | None] = {path: name for path, (_part, name) in fresh.items()}
            files |= {path: None for path in self._written if path != HEAD and path not in parts}
            sync_folder(kept)
            write_file(self.work / KEPT_NOTE, msgspec.json.encode(KeptNote(edits, time.time(), files)))
        except OSError as error:
            raise StoreError(
                f"Edits of {self.path.name} could not be kept safe: {file_reason(error)}.",
                "Make room or allow writing; save soon.",
            ) from error
        self._kept = fresh
        wanted = {name for _part, name in fresh.values()}
        with contextlib.suppress(OSError):
            for old in kept.iterdir():
                if old.name not in wanted:
                    old.unlink()

    def _keep_text(self, data: bytes) -> str:
        name = f"{new_id(12)}.json"
        with open(self.work / "kept" / name, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        return name

    def kept(self) -> Kept | None:
        """The edits that a crash left behind, if there are any and they can be read."""
        note_path = self.work / KEPT_NOTE
        try:
            note = msgspec.json.decode(note_path.read_bytes(), type=KeptNote)
        except (OSError, msgspec.DecodeError):
            return None
        if any(name is not None and Path(name).name != name for name in note.files.values()):
            return None
        instead = {path: self.work / "kept" / name if name else None for path, name in note.files.items()}
        if not instead:
            return None
        try:
            return Kept(note.edits, note.when, self._read(instead))
        except StoreError:
            return None

    def forget_kept(self) -> None:
        """Drop the kept edits: they are saved, or not wanted."""
        with contextlib.suppress(OSError):
            (self.work / KEPT_NOTE).unlink(missing_ok=True)
            shutil.rmtree(self.work / "kept", ignore_errors=True)
        self._kept = {}

    # -- one window at a time ------------------------------------------------------------------------

    def lock(self) -> bool:
        """Take the folder for writing; False if another Rushweed has it. Freed when the process ends."""
        if self._lock_file is not None:
            return True
        try:
            self.work.mkdir(parents=True, exist_ok=True)
            handle = os.open(self.work / "lock", os.O_RDWR | os.O_CREAT, 0o644)
        except OSError as error:
            raise StoreError(
                f"{self.path.name} cannot be changed: {file_reason(error)}.",
                "It opens read-only; copy it to a place you may write to.",
            ) from error
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(handle)
            return False
        os.ftruncate(handle, 0)
        os.write(handle, str(os.getpid()).encode())
        self._lock_file = handle
        return True

    def unlock(self) -> None:
        if self._lock_file is not None:
            os.close(self._lock_file)
            self._lock_file = None
