"""Files that are old or new, never half: one file by rename, several by a promise kept after a crash.

Several files change as one like this: the new texts are written beside the old ones under `staging`,
then `promise` is written, which lists what goes where. From then on the change holds: if the power goes
before all is moved, `keep_promise` at the next opening moves the rest.
"""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

import msgspec

from rushweed.core.document.errors import StoreError, file_reason


def sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def write_file(path: Path, data: bytes) -> None:
    """Write `data` so that a crash leaves the old file or the new one. Raises StoreError."""
    temporary = path.with_name(f".{path.name[:100]}.{os.getpid()}.tmp")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with open(temporary, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.replace(temporary, path)
        sync_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            temporary.unlink(missing_ok=True)
        raise StoreError(
            f"{path.name} could not be written: {file_reason(error)}.",
            "What was there is untouched; make room or choose another folder, then save again.",
        ) from error


class Move(msgspec.Struct, frozen=True):
    """`staged` takes the place of `path`; without `staged`, `path` is removed. Both relative."""

    path: str
    staged: str | None


class Promise(msgspec.Struct, frozen=True):
    moves: tuple[Move, ...]


def write_together(root: Path, work: Path, files: dict[str, bytes | None]) -> None:
    """Change several files of `root` as one; None removes. `work` is a folder of our own in `root`."""
    staging = work / "staged"
    try:
        staging.mkdir(parents=True, exist_ok=True)
        moves = []
        for number, (path, data) in enumerate(files.items()):
            if data is None:
                moves.append(Move(path, None))
                continue
            staged = staging / f"{number:05d}"
            with open(staged, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            moves.append(Move(path, str(staged.relative_to(root))))
        sync_folder(staging)
    except OSError as error:
        with contextlib.suppress(OSError):
            for left in staging.iterdir():
                left.unlink()
        raise StoreError(
            f"{root.name} could not be saved: {file_reason(error)}.",
            "The last saved project is untouched; make room or allow writing, then save again.",
        ) from error
    write_file(work / "promise.json", msgspec.json.encode(Promise(tuple(moves))))
    keep_promise(root, work)


def keep_promise(root: Path, work: Path) -> bool:
    """Finish a change that was promised; returns whether there was one. Safe to run again."""
    note = work / "promise.json"
    try:
        data = note.read_bytes()
    except FileNotFoundError:
        return False
    except OSError as error:
        raise StoreError(
            f"{root.name} could not be opened: {file_reason(error)}.", "Check the folder and try again."
        ) from error
    try:
        promise = msgspec.json.decode(data, type=Promise)
    except msgspec.DecodeError:
        raise StoreError(
            f"{note.name} in {root.name}/{work.name} was edited by hand and cannot be read.",
            "Remove that file to open the project as it was saved before.",
        ) from None
    try:
        touched = {note.parent}
        for move in promise.moves:
            target = _inside(root, move.path)
            if move.staged is None:
                target.unlink(missing_ok=True)
            else:
                staged = _inside(root, move.staged)
                if staged.exists():
                    target.parent.mkdir(parents=True, exist_ok=True)
                    os.replace(staged, target)
            if target.parent.exists():
                touched.add(target.parent)
        for folder in touched:
            sync_folder(folder)
        note.unlink()
        sync_folder(note.parent)
    except OSError as error:
        raise StoreError(
            f"{root.name} could not be saved whole: {file_reason(error)}.",
            "Nothing is lost; make room or allow writing, then open or save again.",
        ) from error
    return True


def _inside(root: Path, relative: str) -> Path:
    path = root / relative
    if not path.resolve().is_relative_to(root.resolve()):
        raise StoreError(f"{relative} lies outside {root.name}.", "Remove promise.json to open the project.")
    return path
