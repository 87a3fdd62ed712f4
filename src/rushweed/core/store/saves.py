"""The last saves of a project, each whole, to go back to.

Each lies in .rushweed/saves/NAME as a whole project (without its pictures). A file that is the same as in the
save before is shared with it (a hard link between the two copies, never with the project's own file), so that
ten saves take little more room than one.
"""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import stat
import time
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from rushweed.core.document.ids import new_id
from rushweed.core.document.model.project import Project
from rushweed.core.store.files import own_folder, read_file, write_new
from rushweed.core.store.folder import Folder
from rushweed.core.store.reading import HEAD

MOST = 10
NAME = re.compile(r"\d{4}-\d\d-\d\d_\d\d-\d\d-\d\d-\d{3}_[a-z0-9]{6}")


class Save(NamedTuple):
    """A save to go back to: its place, when it was made (seconds since 1970)."""

    path: Path
    when: float

    def project(self) -> Project:
        """Raises StoreError if it cannot be read."""
        return Folder(self.path).open()


def saves_of(folder: Folder) -> list[Save]:
    """All that are kept, the newest first."""
    home, found = folder.work / "saves", []
    with contextlib.suppress(OSError):
        if not stat.S_ISDIR(home.lstat().st_mode):
            return []
        for entry in os.scandir(home):
            if NAME.fullmatch(entry.name) and entry.is_dir(follow_symlinks=False):
                when = time.mktime(time.strptime(entry.name[:19], "%Y-%m-%d_%H-%M-%S"))
                found.append(Save(Path(entry.path), when))
    return sorted(found, key=lambda save: save.path.name, reverse=True)


def save_and_remember(folder: Folder, project: Project) -> int:
    """Save, and keep the save among the last ten; returns the number of files written. Raises StoreError."""
    written = folder.save(project)
    if written:
        remember(folder, folder.texts())
    return written


def remember(folder: Folder, texts: Mapping[str, bytes], when: float | None = None) -> Save | None:
    """Keep a save beside the project, and drop those beyond ten; `texts` are its files by path. None where
    there is no room for it: the save itself stands without."""
    known = saves_of(folder)
    before = known[0].path if known else None
    when = time.time() if when is None else when
    moment = time.strftime("%Y-%m-%d_%H-%M-%S", time.localtime(when))
    name = f"{moment}-{int(when % 1 * 1000):03}_{new_id(6)}"
    home = folder.work / "saves"
    half, whole = home / f".{name}.half", home / name
    try:
        own_folder(folder.work)
        own_folder(home)
        half.mkdir()
        for path, data in texts.items():
            target = half / path
            target.parent.mkdir(exist_ok=True)
            if before is None or not _shared(before / path, target, data):
                write_new(target, data)
        os.replace(half, whole)
    except OSError:
        shutil.rmtree(half, ignore_errors=True)
        return None
    for old in saves_of(folder)[MOST:]:
        shutil.rmtree(old.path, ignore_errors=True)
    _drop_halves(home)
    return Save(whole, when)


def _shared(old: Path, new: Path, data: bytes) -> bool:
    """Whether the file of the save before holds the same, and could be shared."""
    with contextlib.suppress(OSError):
        if old.stat().st_size == len(data) and read_file(old) == data:
            os.link(old, new)
            return True
    return False


def _drop_halves(home: Path) -> None:
    with contextlib.suppress(OSError):
        for entry in list(os.scandir(home)):
            if entry.name.endswith(".half") and entry.is_dir(follow_symlinks=False):
                shutil.rmtree(entry.path, ignore_errors=True)


def what_changed(save: Save, earlier: Save | None) -> str:
    """The names of the files in which a save differs from the one before, in words."""
    if earlier is None:
        return "the first one kept"
    mine, theirs = _files(save.path), _files(earlier.path)
    names = [Path(p).stem for p in mine if p not in theirs or not _same(mine[p], theirs[p])]
    names = [name for name in names if name != Path(HEAD).stem]
    names += [f"without {Path(path).stem}" for path in theirs if path not in mine]
    more = len(names) - 3
    return ", ".join(names[:3]) + (f" and {more} more" if more > 0 else "") or "the project itself"


def _files(root: Path) -> dict[str, Path]:
    found = {str(p.relative_to(root)): p for p in sorted(root.rglob("*.json"))}
    return {name: path for name, path in found.items() if not name.startswith(".")}


def _same(one: Path, two: Path) -> bool:
    a, b = one.stat(), two.stat()
    return a.st_ino == b.st_ino or (a.st_size == b.st_size and read_file(one) == read_file(two))
