"""Files that are old or new, never half: one file by rename, several by a promise kept after a crash.

Several files change as one like this: the new texts are written into a folder of our own, then
`promise` is written, which lists what goes where (twice, for the case that one is spoilt). From then on the
change holds: if the power goes before all is moved, `keep_promise` moves the rest, before anything else is
written.

Nothing here follows a link out of the project, waits for a file that is none, or deletes what it did not
make.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import stat
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import NamedTuple

import msgspec

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.document.ids import new_id

PROMISE = "promise.json"
SECOND = "promise-again.json"  # the same once more; it counts only where the first is there and spoilt
MOST_BYTES = 256 * 1024 * 1024  # of one file of a project
FileState = tuple[int, int, int]  # size, time in ns, inode
TEMPORARY = re.compile(r"\..+\.\d+\.tmp")
STAGED = re.compile(r"staged-[a-z0-9]+-\d{5}")
STAGING = re.compile(r"staged(-[a-z0-9]+)?")  # a folder, in which an earlier Rushweed staged
IN_STAGING = re.compile(r"\d{5}")


def read_file(path: Path, most: int = MOST_BYTES) -> bytes:
    """The bytes of a plain file. Raises OSError, also for a pipe, a device, a folder, or one over `most`
    bytes: none of them is waited for or read."""
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    with open(handle, "rb") as file:
        state = os.fstat(handle)
        if not stat.S_ISREG(state.st_mode):
            raise OSError(0, "it is no plain file")
        if state.st_size > most:
            raise OSError(0, f"it is larger than {most // 1024**2} MiB")
        data = file.read(most + 1)
    if len(data) > most:
        raise OSError(0, f"it is larger than {most // 1024**2} MiB")
    return data


def digest_of(data: bytes) -> str:
    """The SHA-256 of some bytes, in hexadecimal."""
    return hashlib.sha256(data).hexdigest()


def state_of(path: Path) -> FileState:
    """How a file, not what it may link to, stands now. Raises OSError."""
    state = path.lstat()
    return state.st_size, state.st_mtime_ns, state.st_ino


def own_folder(path: Path) -> Path:
    """A folder of our own, made if it is not there; its parent must be. Raises OSError if something
    else, or a link, stands in its place."""
    with contextlib.suppress(FileExistsError):
        path.mkdir()
    if not stat.S_ISDIR(path.lstat().st_mode):
        raise OSError(0, f"{path.name} is a link or a file where a folder of Rushweed's own should be")
    return path


def remove_own(folder: Path, names: re.Pattern[str], but: Iterable[str] = ()) -> None:
    """Remove plain files of `folder` whose whole name fits, except some. Faults are passed over."""
    left = set(but)
    with contextlib.suppress(OSError):
        if not stat.S_ISDIR(folder.lstat().st_mode):
            return
        for entry in list(os.scandir(folder)):
            if (
                names.fullmatch(entry.name)
                and entry.name not in left
                and entry.is_file(follow_symlinks=False)
            ):
                with contextlib.suppress(OSError):
                    os.unlink(entry.path)


def sync_folder(folder: Path) -> None:
    """See to it that names written in a folder outlive a power cut."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def write_new(path: Path, data: bytes) -> None:
    """Write a file that must not be there yet, and wait until it is on the disk. Raises OSError."""
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
    with open(handle, "wb") as file:
        file.write(data)
        file.flush()
        os.fsync(handle)


def write_file(path: Path, data: bytes) -> None:
    """Write `data` so that a crash leaves the old file or the new one. Raises StoreError."""
    temporary = path.with_name(f".{path.name[:100]}.{os.getpid()}.tmp")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with contextlib.suppress(FileNotFoundError):
            temporary.unlink()
        write_new(temporary, data)
        os.replace(temporary, path)
        sync_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            temporary.unlink(missing_ok=True)
        raise StoreError(
            f"{path.name} could not be written: {file_reason(error)}.",
            "What was there is untouched; make room or choose another folder, then save again.",
        ) from error


class Ready(NamedTuple):
    """A file of ours on this disk that holds the very bytes which are to be written, their digest, and how
    it stood when they were written."""

    path: Path
    digest: str
    state: FileState


class Move(msgspec.Struct, frozen=True):
    """`staged` takes the place of `path`; without `staged`, `path` is removed. Both relative. `digest` is
    that of the bytes that are to stand there, or of those that may be removed; "" in older promises."""

    path: str
    staged: str | None
    digest: str = ""


class Journal(msgspec.Struct, frozen=True):
    """`check` is the digest of the moves as they are written; "" in older promises."""

    moves: tuple[Move, ...]
    check: str = ""

    @property
    def whole(self) -> bool:
        """Whether it was written to its end."""
        return self.check in ("", digest_of(msgspec.json.encode(self.moves)))


def write_together(
    root: Path, work: Path, files: Mapping[str, bytes | None], only: Mapping[str, str] | None = None,
    ready: Mapping[str, Ready] | None = None,
) -> None:  # fmt: skip
    """Change several files of `root` as one; None removes, and where `only` holds a digest, nothing but
    a file with it. What is `ready` on the disk is not written once more. `work` is a folder of our own in
    `root`. What was promised before is finished first.

    Raises StoreError; before the promise is written nothing has changed, afterwards it holds.
    """
    keep_promise(root, work)
    for path in files:
        inside(root, path)
    name, moves = f"staged-{new_id(8)}", []
    try:
        own_folder(work)
        for number, (path, data) in enumerate(files.items()):
            if data is None:
                moves.append(Move(path, None, (only or {}).get(path, "")))
                continue
            staged = work / f"{name}-{number:05d}"
            digest = _stage(staged, data, (ready or {}).get(path))
            moves.append(Move(path, str(staged.relative_to(root)), digest))
        sync_folder(work)
    except OSError as error:
        remove_own(work, re.compile(rf"{name}-\d{{5}}"))
        raise StoreError(
            f"{root.name} could not be saved: {file_reason(error)}.",
            "The last saved project is untouched; make room or allow writing, then save again.",
        ) from error
    promise = Journal(tuple(moves), digest_of(msgspec.json.encode(moves)))
    for name in (SECOND, PROMISE):
        write_file(work / name, msgspec.json.encode(promise))
    keep_promise(root, work, is_fresh=True)


def _stage(staged: Path, data: bytes, ready: Ready | None) -> str:
    """Put a text where it waits for its promise; returns its digest."""
    if ready is not None:
        with contextlib.suppress(OSError):  # not every disk lets a file have two names
            os.link(ready.path, staged, follow_symlinks=False)
            if state_of(staged) == ready.state:
                os.utime(staged)  # it is saved now, whenever it was written
                return ready.digest
        staged.unlink(missing_ok=True)
    write_new(staged, data)
    return digest_of(data)


def read_promise(root: Path, work: Path) -> Journal | None:
    """What is promised and not yet done. Raises StoreError if it cannot be read, or reaches outside."""
    promise = None
    for name in (PROMISE, SECOND):
        try:
            promise = msgspec.json.decode(read_file(work / name), type=Journal)
        except FileNotFoundError:
            if name == PROMISE:
                return None
        except OSError as error:
            raise StoreError(
                f"{root.name} could not be opened: {file_reason(error)}.", "Check the folder and try again."
            ) from error
        except (msgspec.DecodeError, ValueError):
            continue
        if promise is not None and promise.whole:
            break
    if promise is None or not promise.whole:
        raise StoreError(
            f"{PROMISE} in {root.name}/{work.name} was edited by hand and cannot be read.",
            "Remove that file to open the project as it was saved before.",
        )
    for move in promise.moves:
        inside(root, move.path)
        if move.staged is not None:
            inside(root, move.staged)
    return promise


def keep_promise(root: Path, work: Path, is_fresh: bool = False) -> bool:
    """Finish a change that was promised; returns whether there was one. Safe to run again. If it was promised
    just now, its texts are as they were written. Raises StoreError."""
    promise = read_promise(root, work)
    if promise is None:
        return False
    note, touched = work / PROMISE, {work}
    try:
        for move in promise.moves if not is_fresh else ():
            _check_staged(root, move)
        for move in promise.moves:
            target = inside(root, move.path)
            if move.staged is None:
                _remove_promised(target, move.digest)
            else:
                _put_promised(root, inside(root, move.staged), target, move)
            if target.parent.exists():
                touched.add(target.parent)
        for folder in touched:
            sync_folder(folder)
        note.unlink()
        (work / SECOND).unlink(missing_ok=True)
        sync_folder(work)
    except OSError as error:
        raise StoreError(
            f"{root.name} could not be saved whole: {file_reason(error)}.",
            "Nothing is lost; make room or allow writing, then open or save again.",
        ) from error
    for folder in {root / Path(m.staged).parent for m in promise.moves if m.staged is not None}:
        _drop_staging(folder)
    return True


def _check_staged(root: Path, move: Move) -> None:
    """Before anything is moved: a staged text that is not what was promised may not take the place of a
    healthy file."""
    if move.staged is None or not move.digest:
        return
    staged = inside(root, move.staged)
    with contextlib.suppress(FileNotFoundError):
        if digest_of(read_file(staged)) != move.digest:
            raise StoreError(
                f"{root.name} was being saved, and the new text of {move.path} is not as it was written.",
                f"Remove {PROMISE} from .rushweed to open the project as it is.",
            )


def _remove_promised(target: Path, digest: str) -> None:
    if digest:
        with contextlib.suppress(FileNotFoundError):
            if digest_of(read_file(target)) != digest:
                return  # written anew since: it is not what was promised to go
    target.unlink(missing_ok=True)


def _put_promised(root: Path, staged: Path, target: Path, move: Move) -> None:
    """Move one text into place; if it has been moved already, the target must hold it."""
    if staged.exists():
        target.parent.mkdir(parents=True, exist_ok=True)
        os.replace(staged, target)
        return
    try:
        there = digest_of(read_file(target))
    except FileNotFoundError:
        there = "nothing"
    if there != move.digest and (move.digest or there == "nothing"):
        raise StoreError(
            f"{root.name} was being saved, and the new text of {move.path} is gone.",
            f"Put {move.path} back from version control, then remove {PROMISE} from .rushweed.",
        )


def promised_texts(root: Path, work: Path) -> dict[str, Path]:
    """Where the texts of files lie that are promised and not yet moved, by path, for whom may only read."""
    promise = read_promise(root, work)
    return {
        move.path: root / move.staged
        for move in (promise.moves if promise else ())
        if move.staged is not None and (root / move.staged).is_file()
    }


def tidy(root: Path, work: Path) -> None:
    """Remove what kills left behind: half written files and texts staged for a promise that was never
    made. Only for whom holds the lock."""
    for folder in (root, work, *(root / kind for kind in ("sheets", "levels", "animations", "art"))):
        remove_own(folder, TEMPORARY)
    if not (work / PROMISE).exists():
        remove_own(work, re.compile(re.escape(SECOND)))
        remove_own(work, STAGED)
    with contextlib.suppress(OSError):
        for entry in list(os.scandir(work)):
            if STAGING.fullmatch(entry.name) and entry.is_dir(follow_symlinks=False):
                _drop_staging(Path(entry.path))


def _drop_staging(folder: Path) -> None:
    if STAGING.fullmatch(folder.name):
        remove_own(folder, IN_STAGING)
        with contextlib.suppress(OSError):
            folder.rmdir()


def inside(root: Path, relative: str) -> Path:
    """A place in the project, whose folder is no link that leads out of it. Raises StoreError."""
    if not relative or relative.startswith("/") or "\0" in relative or ".." in relative.split("/"):
        raise StoreError(
            f"{relative!r} lies outside {root.name}.", "Use the files that Rushweed has written."
        )
    path = root / relative
    try:
        home = path.parent.resolve()
    except (OSError, RuntimeError, ValueError) as error:
        raise StoreError(
            f"{relative} leads nowhere: {error}.", "Put a folder in place of the link."
        ) from error
    if not home.is_relative_to(root.resolve()):
        link = relative.split("/")[0]
        raise StoreError(
            f"{link} in {root.name} is a link that leads to {home}.",
            "Put a folder in its place, then try again.",
        )
    return path
