"""Puts what was shipped into its folder as one: at every moment the last shipment stands there whole, or the
new.

The new folder is made beside the old one: what stays, and all that is not ours, goes along as a second name
of the same file. Then the two change places in one step of the system (renameat2, RENAME_EXCHANGE), and of
the old one only names are removed that stand in the new one or were shipped before. Where a system cannot do
that, or somebody else's folders stand in it, the files are changed by a promise, as those of a project are.
"""

from __future__ import annotations

import contextlib
import ctypes
import fcntl
import os
import shutil
from collections.abc import Collection, Iterator, Mapping
from pathlib import Path

import msgspec

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.document.ids import new_id
from rushweed.core.store.files import digest_of, keep_promise, read_file, sync_folder, write_together

LIST, FORMER_LIST = "files.json", ".rushweed-ship.json"
WORK = ".rushweed-ship"  # for promises
AT_FDCWD, EXCHANGE = -100, 2
MOST_FOREIGN = 20_000  # files that are not ours, for which a second name is made


class Listed(msgspec.Struct, frozen=True):
    """A shipped file: its bytes, its SHA-256, and a digest of all that it was made from."""

    bytes: int
    sha256: str
    made_from: str


class Shipment(msgspec.Struct, frozen=True):
    """What was shipped last into a folder, by name: `files.json`. `way` is the way's name."""

    format: int
    rushweed: str
    way: str
    files: dict[str, Listed]


class _CannotExchange(Exception):
    pass


def last_shipment(out: Path) -> Shipment | None:
    """What stands in a folder by its list; None if there is none that can be read."""
    with contextlib.suppress(OSError, msgspec.DecodeError, ValueError):
        found = msgspec.json.decode(read_file(out / LIST), type=Shipment)
        if all(is_name(name) for name in found.files):
            return found
    return _former_shipment(out) if not (out / LIST).exists() else None


class _FormerList(msgspec.Struct):
    """What earlier versions noted: size and time in ns of each file."""

    files: dict[str, tuple[int, int]]


def _former_shipment(out: Path) -> Shipment | None:
    """What an earlier version shipped, as far as it stands as it was written."""
    try:
        files = msgspec.json.decode(read_file(out / FORMER_LIST), type=_FormerList).files
    except (OSError, msgspec.DecodeError, ValueError):
        return None
    listed = {}
    for name, (size, written_ns) in {**files, FORMER_LIST: (-1, -1)}.items():
        with contextlib.suppress(OSError):
            state = (out / name).lstat()
            if is_name(name) and (size, written_ns) in ((state.st_size, state.st_mtime_ns), (-1, -1)):
                listed[name] = Listed(state.st_size, digest_of(read_file(out / name)), "")
    return Shipment(1, "", "", listed)


def is_name(name: str) -> bool:
    """Whether a name of a shipped file stays in its folder."""
    return bool(name) and not name.startswith("/") and "\0" not in name and ".." not in name.split("/")


def stands(out: Path, name: str, listed: Listed) -> bool:
    """Whether a file is there as it was shipped."""
    path = out / name
    try:
        if path.is_symlink() or path.stat().st_size != listed.bytes:
            return False
        return digest_of(read_file(path, listed.bytes + 1)) == listed.sha256
    except (OSError, StoreError):
        return False


def finish(out: Path) -> None:
    """Finish a change that a kill has left half done, before anything is compared with what stands there.
    Raises StoreError."""
    if (out / WORK).is_dir() and not (out / WORK).is_symlink():
        with alone(out):
            keep_promise(out, out / WORK)


def check_room(out: Path, names: Collection[str], before: Shipment | None) -> None:
    """Raises StoreError where something stands in the way that was not shipped."""
    if out.exists() and not out.is_dir():
        raise StoreError(f"{out} is a file.", "Choose a folder to ship to.")
    for name in sorted(names):
        if os.path.lexists(out / name) and (before is None or name not in before.files):
            raise StoreError(
                f"{out} holds {name} already, which was not shipped by Rushweed.",
                "Choose another folder, or move that file away.",
            )


def put_in_place(
    out: Path, made: Mapping[str, bytes], kept: Collection[str], before: Shipment | None
) -> None:
    """Let `out` hold the files `made` and those `kept` of the last shipment, and of others only what is not
    ours. Raises StoreError; then everything is as it was."""
    gone = [n for n, one in (before.files if before else {}).items() if n not in made and n not in kept]
    gone = [name for name in gone if stands(out, name, before.files[name])] if before else []
    if not made and not gone:
        return
    try:
        out.mkdir(parents=True, exist_ok=True)
        with alone(out):
            _tidy(out)
            try:
                _exchange(out, made, kept, gone, before)
            except _CannotExchange:
                write_together(out, out / WORK, {**made, **dict.fromkeys(gone)})
                with contextlib.suppress(OSError):
                    (out / WORK).rmdir()
                _drop_empty(out, gone)
    except OSError as error:
        raise StoreError(
            f"{out} could not be written: {file_reason(error)}.",
            "What was shipped before stands as it was; make room, or choose a folder you may write to.",
        ) from error


@contextlib.contextmanager
def alone(out: Path) -> Iterator[None]:
    """Only one ships into a folder at a time. Raises StoreError."""
    handle = os.open(out, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise StoreError(f"Another Rushweed is shipping into {out}.", "Wait until it is done.") from None
        yield
    finally:
        os.close(handle)


def _exchange(
    out: Path,
    made: Mapping[str, bytes],
    kept: Collection[str],
    gone: Collection[str],
    before: Shipment | None,
) -> None:
    """Make the new folder beside `out` and let the two change places. Raises _CannotExchange with nothing
    changed, or OSError likewise."""
    out = out.resolve()
    if _is_below(Path.cwd(), out) or out.is_mount():
        raise _CannotExchange
    new = out.with_name(f".{out.name}.shipping-{new_id()}")
    try:
        new.mkdir()
    except OSError:
        raise _CannotExchange from None
    try:
        # its list comes first: what a kill leaves is known by it
        for name in sorted(made, key=lambda n: n != LIST):
            write_beside(new / name, made[name])
        ours = {str(p) for name in (*made, *(before.files if before else ())) for p in Path(name).parents}
        _link_all(out, new, {*made, *gone}, ours)
        missing = [name for name in kept if not (new / name).exists()]
        if missing:
            raise _CannotExchange
        shutil.copymode(out, new)
        _sync(new)
        swap(new, out)
    except BaseException:
        _clear(new, out)
        raise
    sync_folder(out.parent)
    _clear(new, out)


def _is_below(path: Path, folder: Path) -> bool:
    return path == folder or folder in path.parents


def write_beside(path: Path, data: bytes) -> None:
    """Write a file of the shipment that is made beside the last one, with its folders. Raises OSError."""
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data)


def _link_all(old: Path, new: Path, but: Collection[str], ours: Collection[str]) -> None:
    """A second name in `new` for every file of `old` whose name is not in `but`. Raises _CannotExchange, also
    where there is a folder that is not one of `ours`: it must stay itself."""
    count = 0
    for folder, folders, files in os.walk(old):
        here = Path(folder).relative_to(old)
        links = [n for n in folders if os.path.islink(os.path.join(folder, n))]
        for name in folders:
            if name not in links and (here.parts or name != WORK):
                if str(here / name) not in ours:
                    raise _CannotExchange
                _make_folder(Path(folder, name), new / here / name)
        for name in (*files, *links):
            count += 1
            if str(here / name) in but:
                continue
            if count > MOST_FOREIGN:
                raise _CannotExchange
            try:
                os.link(Path(folder, name), new / here / name, follow_symlinks=False)
            except OSError:
                raise _CannotExchange from None
    for name in but:  # folders in which nothing is left
        _drop_empty(new, [name])


def _make_folder(old: Path, new: Path) -> None:
    if old.is_mount():
        raise _CannotExchange
    new.mkdir(exist_ok=True)
    shutil.copymode(old, new)


def _drop_empty(root: Path, names: Collection[str]) -> None:
    """Remove the folders of names in which nothing stands any more."""
    for name in names:
        for parent in list(Path(name).parents)[:-1]:
            with contextlib.suppress(OSError):
                (root / parent).rmdir()


def _libc() -> ctypes.CDLL:
    return ctypes.CDLL(None, use_errno=True)


def _sync(folder: Path) -> None:
    """Wait until the file system that holds a folder is on the disk."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        if _libc().syncfs(handle) != 0:
            raise OSError(ctypes.get_errno(), "it could not be brought to the disk", str(folder))
    finally:
        os.close(handle)


def swap(one: Path, other: Path) -> None:
    """Let two folders change places. Raises _CannotExchange."""
    renameat2 = getattr(_libc(), "renameat2", None)
    if renameat2 is None:
        raise _CannotExchange
    if renameat2(AT_FDCWD, os.fsencode(one), AT_FDCWD, os.fsencode(other), EXCHANGE) != 0:
        raise _CannotExchange


def _clear(left: Path, out: Path) -> None:
    """Remove a folder that was changed for `out`, or never was: all in it that stands in `out` too, or is
    named in its own list. Anything else is somebody's: it goes to `out`."""
    listed = last_shipment(left)
    names = set(listed.files) if listed else set()
    for folder, folders, files in os.walk(left, topdown=False):
        here = Path(folder).relative_to(left)
        links = [n for n in folders if os.path.islink(os.path.join(folder, n))]
        for name in (*files, *links):
            path, there = Path(folder, name), out / here / name
            if not here.parts and name == LIST:
                continue  # it goes last: by it the rest is known
            with contextlib.suppress(OSError):
                if str(here / name) in names or _is_same(path, there):
                    path.unlink()
                elif not os.path.lexists(there):
                    there.parent.mkdir(parents=True, exist_ok=True)
                    os.rename(path, there)
        with contextlib.suppress(OSError):
            if not here.parts and os.listdir(folder) == [LIST]:
                os.unlink(os.path.join(folder, LIST))
            os.rmdir(folder)


def _is_same(one: Path, other: Path) -> bool:
    """Whether two names are of one file."""
    try:
        a, b = one.lstat(), other.lstat()
    except OSError:
        return False
    return (a.st_dev, a.st_ino) == (b.st_dev, b.st_ino)


def _tidy(out: Path) -> None:
    """Clear what a kill has left beside a folder."""
    out = out.resolve()
    start = f".{out.name}.shipping-"
    with contextlib.suppress(OSError):
        for entry in list(os.scandir(out.parent)):
            if entry.name.startswith(start) and entry.is_dir(follow_symlinks=False):
                _clear(Path(entry.path), out)
