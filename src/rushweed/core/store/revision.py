"""A project as it was at a revision of git, read by git's own command and written to another folder.

Only plumbing that runs no filter and no hook is called, so that nothing in the project can start a program.
"""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

from rushweed.core.document.errors import StoreError
from rushweed.core.store.files import MOST_BYTES

PATIENCE_S = 60.0
NO_GIT = "git, the version control program, is not installed here."


def export_revision(project: Path, revision: str, into: Path) -> Path:
    """Write the files of a project's folder as they were at `revision` into the folder `into`, which must
    be there; returns it. Raises StoreError: no git, no such revision, no project in it."""
    if not project.is_dir():
        raise StoreError(f"{project} is no folder.", "Choose a project's folder.")
    top = _git(project, "rev-parse", "--show-toplevel").decode("utf-8", "surrogateescape").rstrip("\n")
    if not top:
        raise StoreError(
            f"{project.name} is not under version control by git.", "Commit it, or compare two folders."
        )
    root = Path(top)
    commit = _git(root, "rev-parse", "--verify", "--quiet", "--end-of-options", f"{revision}^{{commit}}")
    if not commit:
        raise StoreError(f"git knows no revision {revision!r} here.", "Use a branch, a tag or a commit's id.")
    home = os.path.relpath(project.resolve(), root.resolve())
    prefix = "" if home == "." else f"{home}/"
    listed = _git(root, "ls-tree", "-r", "-z", "--full-tree", commit.decode().strip(), "--", prefix or ".")
    entries = [line.partition(b"\t") for line in listed.split(b"\0") if line]
    wanted: list[tuple[str, str]] = []
    for facts, _tab, name in entries:
        mode, kind, identity = facts.decode().split()
        path = name.decode("utf-8", "surrogateescape").removeprefix(prefix)
        if kind == "blob" and mode.startswith("100") and _plain(path):  # no links
            wanted.append((identity, path))
    if not any(path == "rushweed.json" for _identity, path in wanted):
        raise StoreError(f"{project.name} was no project yet at {revision}.", "Choose a later revision.")
    _write(root, wanted, into)
    return into


def _plain(path: str) -> bool:
    return not path.startswith((".rushweed/", "/")) and ".." not in path.split("/")


def _write(root: Path, wanted: list[tuple[str, str]], into: Path) -> None:
    """Read the contents one after another from one process, so that 1,000 files do not start 1,000."""
    asked = "".join(f"{identity}\n" for identity, _path in wanted).encode()
    data = _git(root, "cat-file", "--batch", given=asked)
    at = 0
    for _identity, path in wanted:
        end = data.index(b"\n", at)
        size = int(data[at:end].split()[2])
        if size > MOST_BYTES:
            raise StoreError(f"{path} is too large to be compared.", "Compare without it.")
        target = into / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(data[end + 1 : end + 1 + size])
        at = end + 1 + size + 1


def _git(folder: Path, *words: str, given: bytes = b"") -> bytes:
    """What git prints; nothing where it fails. Raises StoreError where there is no git."""
    try:
        done = subprocess.run(
            ["git", "-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null", *words],
            cwd=folder,
            input=given,
            capture_output=True,
            timeout=PATIENCE_S,
            env={**os.environ, "GIT_OPTIONAL_LOCKS": "0", "GIT_TERMINAL_PROMPT": "0", "LC_ALL": "C.UTF-8"},
        )
    except FileNotFoundError:
        raise StoreError(NO_GIT, "Install it, or compare two folders.") from None
    except subprocess.TimeoutExpired:
        raise StoreError(f"git did not answer within {PATIENCE_S:.0f} s.", "Try again.") from None
    return done.stdout if done.returncode == 0 else b""
