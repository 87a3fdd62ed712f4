"""A project folder: open it, save it as one, keep edits safe in between, one window at a time."""

from __future__ import annotations

import contextlib
import re
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.document.ids import new_id
from rushweed.core.document.limits import check_sheet, check_values
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import FORMAT, Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.store.files import (
    PROMISE,
    inside,
    keep_promise,
    own_folder,
    promised_texts,
    read_file,
    tidy,
    write_together,
)
from rushweed.core.store.form import animation_text, head_text, level_text, sheet_text
from rushweed.core.store.kept_edits import NOTE, Kept, KeptEdits
from rushweed.core.store.known_files import KnownFiles
from rushweed.core.store.lock import FolderLock
from rushweed.core.store.migrate import back_up, has_old_names
from rushweed.core.store.reading import HEAD, Part, read_project

WORK = ".rushweed"
PUT_BACK = "Put the folder back where it was; nothing was written, and your edits stay in this window."


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
        self._lock = FolderLock(self.work, path.name)
        self._paths: dict[str, str] = {}  # part id -> path of its file
        # The text of the head as it was made last, after what it was made of.
        self._head_known: tuple[object, tuple[object, ...], bytes] | None = None
        self._files = KnownFiles(path)
        self._kept = KeptEdits(self.work, path.name)
        self._place: tuple[int, int] | None = None  # device and inode of the folder
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
        if self._lock.is_held:
            keep_promise(self.path, self.work)
            tidy(self.path, self.work)
        else:
            promised = promised_texts(self.path, self.work)
        self._files.forget()
        self._paths.clear()
        with contextlib.suppress(OSError):
            place = self.path.stat()
            self._place = place.st_dev, place.st_ino
            self.saved_at = (self.path / HEAD).stat().st_mtime

        def note(path: str, part: Part | None, data: bytes) -> None:
            self._files.note(path, part, data)
            if part is not None:
                self._paths[part.id] = path

        def text(path: str) -> bytes:
            self._files.look_at(path)
            return self._text(path, promised.get(path))

        self.on_disk, self._format_on_disk = read_project(text, note)
        self.newer = self._format_on_disk > FORMAT
        if self._format_on_disk < FORMAT:
            for path, data in self._files.texts().items():
                if has_old_names(data):  # it is written anew, though nothing else changes
                    self._files.note(path, None, data)
        return self.on_disk

    def _text(self, path: str, instead: Path | None) -> bytes:
        """The bytes of a file of the project, or of what stands `instead` of it."""
        try:
            return read_file(instead or self.path / path)
        except (OSError, ValueError) as error:
            reason = file_reason(error) if isinstance(error, OSError) else "no file can be called that"
            raise StoreError(
                f"{path} could not be read: {reason}.",
                "Put the file back from your backup or version control.",
            ) from error

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
            path: data for path, data in texts.items() if self._files.data(path) != data
        }
        files |= {path: None for path in self._files.paths if path not in texts}
        self._check_place()
        outside, gone = self._files.changed()
        if outside:
            raise ChangedOutside(self.path.name, outside)
        files |= {path: texts[path] for path in gone if path in texts}
        changed = len(files)
        # The kept edits go in the same stroke: they are all in what is saved now.
        note, digest = f"{WORK}/{NOTE}", self._kept.digest()
        kept: dict[str, bytes | None] = {note: None} if digest else {}
        if changed or kept or (self.work / PROMISE).exists():
            back_up(self.path, self.work, self._files.paths, self._format_on_disk)
            try:
                ready = self._kept.ready(parts)
                write_together(self.path, self.work, {**kept, **files}, {note: digest}, ready)
            except StoreError:
                self._files.distrust(texts)
                raise
        self._files.written({path: (parts.get(path), data) for path, data in texts.items()}, files)
        self.on_disk = project
        self._format_on_disk = FORMAT
        self.forget_kept()
        self.saved_at = time.time()
        return changed

    def texts(self) -> dict[str, bytes]:
        """All files of the project by path, as they were read or written last."""
        return self._files.texts()

    def looks_changed(self) -> bool:
        """Whether a file's size or time is another than when it was read or written. Quick: where there are
        very many files, each call looks at the next hundred."""
        return self._files.look_changed()

    def changed_outside(self) -> bool:
        """Whether another program has changed files of the project since. What was removed alone is no
        change: the next save writes it again."""
        return bool(self._files.changed()[0])

    def take_up(self, other: Folder) -> None:
        """Believe what another reading of this folder found on disk: it has been merged into the project."""
        there = set(other._paths.values())
        ours = {i: path for i, path in self._paths.items() if i not in other._paths and path not in there}
        self._paths = {**ours, **other._paths}
        self._files.take_up(other._files)
        self._format_on_disk, self.on_disk = other._format_on_disk, other.on_disk

    def _check_place(self) -> None:
        """Raises StoreError if the folder is no longer the one that was opened, or is not ours any more."""
        try:
            place = self.path.stat()
        except OSError as error:
            raise StoreError(f"{self.path} is gone: {file_reason(error)}.", PUT_BACK) from error
        if self._place is not None and (place.st_dev, place.st_ino) != self._place:
            raise StoreError(f"Another folder stands at {self.path} than the one that was opened.", PUT_BACK)
        self._lock.check()

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
        own = (project.recipes, project.groups, project.traits, project.autosets, project.stamps,
               project.ways, project.left_alone)  # fmt: skip
        kinds: dict[str, tuple[Part, ...]] = {
            "sheets": project.sheets, "levels": project.levels, "animations": project.animations,
        }  # fmt: skip
        files = {kind: [self._paths[p.id] for p in parts] for kind, parts in kinds.items()}
        known, says = self._head_known, (project.id, project.name, files)
        if known is None or known[0] != says or any(a is not b for a, b in zip(known[1], own, strict=True)):
            check_values(None, (project.name, *own))
            known = self._head_known = says, own, head_text(project, files)
        return known[2]

    def _text_of(self, path: str, part: Part) -> bytes:
        known, data = self._files.part(path), self._files.data(path)
        if known is part and data is not None:
            return data
        check_values(known, part)  # what could not be opened again is not written
        if isinstance(part, Animation):
            return animation_text(part)
        if isinstance(part, Sheet):
            check_sheet(part)
            return sheet_text(part)
        return level_text(part)

    def _path_of(self, kind: str, part_id: str, name: str) -> str:
        path = self._paths.get(part_id)
        if path is None:
            if self.path.is_dir():
                inside(self.path, f"{kind}/_")
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
            self._files.distrust({})
        parts, head = self._parts(project), self._head(project)
        changed: dict[str, tuple[Part | None, Callable[[], bytes]]] = {
            path: (part, partial(self._text_of, path, part))
            for path, part in parts.items()
            if self._files.part(path) is not part
        }
        if self._files.data(HEAD) != head:
            changed[HEAD] = (None, lambda: head)
        gone = [path for path in self._files.paths if path != HEAD and path not in parts]
        self._kept.put(edits, changed, gone)

    def kept(self) -> Kept | None:
        """The edits that a crash left behind, if there are any and they can be read."""
        note = self._kept.note()
        if note is None:
            return None
        places = self._kept.places(note)

        def note_path(path: str, part: Part | None, _data: bytes) -> None:
            if part is not None:
                self._paths.setdefault(part.id, path)

        try:
            project, _format = read_project(lambda path: self._text(path, places.get(path)), note_path)
        except StoreError:
            return None
        return Kept(note.edits, note.when, project)

    def forget_kept(self) -> None:
        """Drop the kept edits: they are saved, or not wanted."""
        self._kept.forget()

    # -- one window at a time ------------------------------------------------------------------------

    def lock(self) -> bool:
        """Take the folder for writing; False if another Rushweed has it. Freed when the process ends."""
        return self._lock.take()

    def unlock(self) -> None:
        """Let others write the folder."""
        self._lock.free()
