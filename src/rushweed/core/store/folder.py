"""A project folder: open it, save it as one, keep edits safe in between, one window at a time."""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import stat
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import NamedTuple

import msgspec

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.document.ids import new_id
from rushweed.core.document.limits import check_sheet, check_values
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import FORMAT, Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.store.files import (
    PROMISE,
    digest_of,
    inside,
    keep_promise,
    own_folder,
    promised_texts,
    read_file,
    remove_own,
    sync_folder,
    tidy,
    write_file,
    write_new,
    write_together,
)
from rushweed.core.store.form import (
    Head,
    animation_text,
    decode,
    head_text,
    level_text,
    read_animation,
    read_head,
    read_level,
    read_sheet,
    sheet_text,
)
from rushweed.core.store.migrate import back_up, check_format

Part = Sheet | Level | Animation

HEAD = "rushweed.json"
WORK = ".rushweed"
KEPT_NOTE = "kept.json"
GLANCED_AT = 100  # files whose times are looked at in one go
KEPT_FILE = re.compile(r"[a-z0-9]{12}\.json")


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


class ChangedOutside(StoreError):
    """Files of the project that another program has changed since they were read or written here."""

    def __init__(self, name: str, paths: list[str]) -> None:
        some = ", ".join(paths[:3]) + (f" and {len(paths) - 3} more" if len(paths) > 3 else "")
        super().__init__(
            f"{some} in {name} changed outside since they were read.", "Take the changes up first."
        )
        self.paths = paths


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
        self._glanced = 0  # which file is looked at next
        self._states: dict[str, tuple[int, int, int]] = {}  # path -> size, time in ns and inode as on disk
        self._either: dict[str, tuple[bytes, ...]] = {}  # path -> what a save that failed may have left there
        self._place: tuple[int, int] | None = None  # device and inode of the folder
        self._kept: dict[str, tuple[object, str]] = {}  # path -> (part, file under kept/)
        self._kept_digest = ""  # of the note of the edits kept last
        self.newer = False  # whether it is of a format that may be looked at only
        self.on_disk: Project | None = None  # what was read or saved last
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
            own_folder(folder.work)
        except OSError as error:
            raise StoreError(
                f"{path} could not be made: {file_reason(error)}.", "Choose a folder you may write to."
            ) from error
        folder.save(project)
        return folder, project

    @property
    def is_project(self) -> bool:
        """Whether the folder holds a project, or one whose first save was cut off."""
        return (self.path / HEAD).exists() or (self.work / PROMISE).exists()

    def open(self) -> Project:
        """Read the project, after finishing a save that was cut off; without the lock it is read as that
        save would leave it. Raises StoreError."""
        if not self.path.is_dir():
            reason = "is a file, not a project folder" if self.path.exists() else "does not exist"
            raise StoreError(f"{self.path} {reason}.", "Choose a folder that holds a rushweed.json.")
        if not self.is_project:
            raise StoreError(
                f"{self.path} holds no {HEAD}.", "Choose a project folder, or make one with `rushweed new`."
            )
        promised: dict[str, Path] = {}
        if self._lock_file is not None:
            keep_promise(self.path, self.work)
            tidy(self.path, self.work)
        else:
            promised = promised_texts(self.path, self.work)
        self._written.clear()
        self._paths.clear()
        self._states.clear()
        with contextlib.suppress(OSError):
            place = self.path.stat()
            self._place = place.st_dev, place.st_ino
            self.saved_at = (self.path / HEAD).stat().st_mtime
        self.on_disk = self._read(dict(promised), remember=True)
        return self.on_disk

    def _read(self, instead: dict[str, Path | None], remember: bool = False) -> Project:
        """Read the project; files in `instead` are read from elsewhere. `remember` notes what is on disk."""

        def text(path: str) -> bytes:
            source = instead.get(path) or self.path / path
            try:
                state = self._state_of(path)  # before it is read: what changes meanwhile is seen
                data = read_file(source)
                if remember and state is not None:
                    self._states[path] = state
                return data
            except (OSError, ValueError) as error:
                reason = file_reason(error) if isinstance(error, OSError) else "no file can be called that"
                raise StoreError(
                    f"{path} could not be read: {reason}.",
                    "Put the file back from your backup or version control.",
                ) from error

        data = text(HEAD)
        first = decode(data, msgspec.Raw, HEAD)
        number = self._format(bytes(first))
        self.newer = number > FORMAT
        if self.newer:
            try:
                return self._parts_read(read_head(data, HEAD), text, remember, data, number)
            except StoreError:
                check_format(number, HEAD)  # what it holds is not known here: told as that
        check_format(number, HEAD)
        return self._parts_read(read_head(data, HEAD), text, remember, data, number)

    def _parts_read(
        self, head: Head, text: Callable[[str], bytes], remember: bool, data: bytes, number: int
    ) -> Project:
        """The project whose head is read already; `text` gives the bytes of its other files."""
        sheets, levels, animations = [], [], []
        for path in (*head.sheets, *head.levels, *head.animations):
            if path.startswith("/") or ".." in path.split("/"):
                raise StoreError(f"{HEAD} names a file outside the project: {path}.", "Put it right.")
            if not path.endswith(".json") or "\0" in path:
                raise StoreError(f"{HEAD} names {path!r}, which is no file of a project.", "Put it right.")
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
                          head.groups, head.traits, head.autosets, head.stamps, head.ways,
                          head.left_alone)  # fmt: skip
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
        if self.newer:
            raise StoreError(
                f"{self.path.name} is of a newer format and can only be looked at.", "Use a newer Rushweed."
            )
        parts = self._parts(project)
        texts = {path: self._text_of(path, part) for path, part in parts.items()}
        texts[HEAD] = self._head(project)
        files: dict[str, bytes | None] = {
            path: data
            for path, data in texts.items()
            if path not in self._written or self._written[path][1] != data
        }
        files |= {path: None for path in self._written if path not in texts}
        self._check_place()
        outside, gone = self._changed_outside()
        if outside:
            raise ChangedOutside(self.path.name, outside)
        files |= {path: texts[path] for path in gone if path in texts}
        changed = len(files)
        # The kept edits go in the same stroke: they are all in what is saved now.
        note, digest = f"{WORK}/{KEPT_NOTE}", self._digest_of_kept()
        kept: dict[str, bytes | None] = {note: None} if digest else {}
        if changed or kept or (self.work / PROMISE).exists():
            back_up(self.path, self.work, self._written, self._format_on_disk)
            try:
                write_together(self.path, self.work, {**kept, **files}, {note: digest})
            except StoreError:
                self._distrust(texts)
                raise
        self._written = {path: (parts.get(path), data) for path, data in texts.items()}
        self._note_states(files)
        self._either.clear()
        self.on_disk = project
        self._format_on_disk = FORMAT
        self.forget_kept()
        self.saved_at = time.time()
        return changed

    def _digest_of_kept(self) -> str:
        """Of the note of kept edits as it is on disk, also where it was not told whole; else nothing."""
        try:
            return digest_of(read_file(self.work / KEPT_NOTE))
        except FileNotFoundError:
            return ""
        except OSError:
            return self._kept_digest

    def texts(self) -> dict[str, bytes]:
        """All files of the project by path, as they were read or written last."""
        return {path: data for path, (_part, data) in self._written.items()}

    def _distrust(self, texts: dict[str, bytes]) -> None:
        """After a save that failed nobody knows which files are on disk: all are written anew the next
        time, and edits are kept whole."""
        for path, data in (*self.texts().items(), *texts.items()):
            if data:
                self._either[path] = tuple({*self._either.get(path, ()), data})
        self._written = dict.fromkeys((*self._written, *texts), (None, b""))

    def _state_of(self, path: str) -> tuple[int, int, int] | None:
        try:
            state = (self.path / path).stat()
        except (OSError, ValueError):
            return None
        return state.st_size, state.st_mtime_ns, state.st_ino

    def _note_states(self, written: Iterable[str]) -> None:
        """Remember how files stand that were just written; the others stay as they were seen before."""
        for path in written:
            state = self._state_of(path)
            if state is None:
                self._states.pop(path, None)
            else:
                self._states[path] = state

    def looks_changed(self) -> bool:
        """Whether a file's size or time is another than when it was read or written. Quick: where there are
        very many files, each call looks at the next hundred."""
        paths = list(self._states)
        first = self._glanced % max(len(paths), 1)
        self._glanced = first + GLANCED_AT
        turn = (paths[first:] + paths[:first])[:GLANCED_AT]
        now = ((self._state_of(path), self._states.get(path)) for path in turn)
        return any(there is not None and there != state for there, state in now)

    def changed_outside(self) -> bool:
        """Whether another program has changed files of the project since. What was removed alone is no
        change: the next save writes it again."""
        return bool(self._changed_outside()[0])

    def _changed_outside(self) -> tuple[list[str], list[str]]:
        """Paths of files that another program has changed since, and of those that are gone."""
        changed, gone = [], []
        for path, state in list(self._states.items()):
            now = self._state_of(path)
            if now is None:
                gone.append(path)
            elif now != state:
                try:
                    ours = (self._written[path][1], *self._either.get(path, ()))
                    same = read_file(self.path / path) in ours
                except OSError:
                    same = False
                if same:
                    self._states[path] = now
                else:
                    changed.append(path)
        return changed, gone

    def take_up(self, other: Folder) -> None:
        """Believe what another reading of this folder found on disk: it has been merged into the project."""
        there = set(other._paths.values())
        ours = {i: path for i, path in self._paths.items() if i not in other._paths and path not in there}
        self._paths = {**ours, **other._paths}
        self._written, self._states = dict(other._written), dict(other._states)
        self._either.clear()
        self._format_on_disk, self.on_disk = other._format_on_disk, other.on_disk

    def _check_place(self) -> None:
        """Raises StoreError if the folder is no longer the one that was opened, or is not ours any more."""
        try:
            place = self.path.stat()
        except OSError as error:
            raise StoreError(
                f"{self.path} is gone: {file_reason(error)}.",
                "Put the folder back where it was; nothing was written, and your edits stay in this window.",
            ) from error
        if self._place is not None and (place.st_dev, place.st_ino) != self._place:
            raise StoreError(
                f"Another folder stands at {self.path} than the one that was opened.",
                "Put the folder back where it was; nothing was written, and your edits stay in this window.",
            )
        if self._lock_file is None:
            return
        held = os.fstat(self._lock_file)
        try:
            there = (self.work / "lock").lstat()
            ours = (there.st_dev, there.st_ino) == (held.st_dev, held.st_ino)
        except OSError:
            ours = False
        if not ours:  # its file was removed, as version control may do
            self.unlock()
            if not self.lock():
                raise StoreError(
                    f"{self.path.name} has been opened by another Rushweed meanwhile.",
                    "Close it there, then save again.",
                )

    def files_of(self, project: Project) -> dict[str, str]:
        """The file of each sheet, level and animation in the folder, by id."""
        return {part.id: path for path, part in self._parts(project).items()}

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
        own = (
            project.recipes,
            project.groups,
            project.traits,
            project.autosets,
            project.stamps,
            project.ways,
            project.left_alone,
        )
        check_values(None, (project.name, *own))
        kinds: dict[str, tuple[Part, ...]] = {
            "sheets": project.sheets, "levels": project.levels, "animations": project.animations,
        }  # fmt: skip
        return head_text(project, {kind: [self._paths[p.id] for p in parts] for kind, parts in kinds.items()})

    def _text_of(self, path: str, part: Part) -> bytes:
        known = self._written.get(path)
        if known and known[0] is part:
            return known[1]
        check_values(known[0] if known else None, part)  # what could not be opened again is not written
        if isinstance(part, Animation):
            return animation_text(part)
        if isinstance(part, Sheet):
            check_sheet(part)
        return sheet_text(part) if isinstance(part, Sheet) else level_text(part)

    def _path_of(self, kind: str, part_id: str, name: str) -> str:
        path = self._paths.get(part_id)
        if path is None and self.path.is_dir():
            inside(self.path, f"{kind}/_")
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
        self._check_place()
        if keep_promise(self.path, self.work):
            self._distrust({})
        parts = self._parts(project)
        kept = self.work / "kept"
        fresh: dict[str, tuple[object, str]] = {}
        try:
            own_folder(self.work)
            own_folder(kept)
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
            note = msgspec.json.encode(KeptNote(edits, time.time(), files))
            write_file(self.work / KEPT_NOTE, note)
        except OSError as error:
            raise StoreError(
                f"Edits of {self.path.name} could not be kept safe: {file_reason(error)}.",
                "Make room or allow writing; save soon.",
            ) from error
        self._kept, self._kept_digest = fresh, digest_of(note)
        remove_own(kept, KEPT_FILE, but={name for _part, name in fresh.values()})

    def _keep_text(self, data: bytes) -> str:
        name = f"{new_id(12)}.json"
        write_new(self.work / "kept" / name, data)
        return name

    def kept(self) -> Kept | None:
        """The edits that a crash left behind, if there are any and they can be read."""
        note_path = self.work / KEPT_NOTE
        try:
            note = msgspec.json.decode(read_file(note_path), type=KeptNote)
        except (OSError, msgspec.DecodeError, ValueError):
            return None
        if any(name is not None and not KEPT_FILE.fullmatch(name) for name in note.files.values()):
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
            if stat.S_ISDIR(self.work.lstat().st_mode):
                (self.work / KEPT_NOTE).unlink(missing_ok=True)
                remove_own(self.work / "kept", KEPT_FILE)
        self._kept, self._kept_digest = {}, ""

    # -- one window at a time ------------------------------------------------------------------------

    def lock(self) -> bool:
        """Take the folder for writing; False if another Rushweed has it. Freed when the process ends."""
        if self._lock_file is not None:
            return True
        try:
            own_folder(self.work)
            handle = self._lock_handle()
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
        self._lock_file = handle
        with contextlib.suppress(OSError):  # a full disk: who has it is not told, but it is ours
            os.ftruncate(handle, 0)
            os.write(handle, str(os.getpid()).encode())
        return True

    def _lock_handle(self) -> int:
        """The lock's file, which is a plain file of ours and no link. Raises OSError."""
        flags = os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC
        handle = os.open(self.work / "lock", flags, 0o644)
        state = os.fstat(handle)
        if not stat.S_ISREG(state.st_mode) or state.st_nlink != 1:
            os.close(handle)
            raise OSError(0, "its lock is no plain file of Rushweed's own")
        return handle

    def unlock(self) -> None:
        """Let others write the folder."""
        if self._lock_file is not None:
            os.close(self._lock_file)
            self._lock_file = None
