"""What is known of a project's files on disk: as they were read or written last, and what became of them."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from rushweed.core.store.files import FileState, read_file

GLANCED_AT = 100  # files whose times are looked at in one go


class KnownFiles:
    """The files under `root` by their path from it: the part each holds, its bytes, and how it stood."""

    def __init__(self, root: Path) -> None:
        self._root = root
        self._held: dict[str, tuple[object, bytes]] = {}
        self._states: dict[str, FileState] = {}
        self._either: dict[str, tuple[bytes, ...]] = {}  # what a save that failed may have left there
        self._glanced = 0  # which file is looked at next

    @property
    def paths(self) -> list[str]:
        """All that are known."""
        return list(self._held)

    def forget(self) -> None:
        """Know nothing, as before the first reading."""
        self._held.clear()
        self._states.clear()

    def look_at(self, path: str) -> None:
        """Note how a file stands; before it is read, so that what changes meanwhile is seen."""
        state = self._state_of(path)
        if state is not None:
            self._states[path] = state

    def note(self, path: str, part: object, data: bytes) -> None:
        """What a file holds that was read."""
        self._held[path] = (part, data)

    def part(self, path: str) -> object:
        """The part that a file holds, or None."""
        return self._held.get(path, (None, b""))[0]

    def data(self, path: str) -> bytes | None:
        """The bytes of a file, or None of one that is not known."""
        held = self._held.get(path)
        return None if held is None else held[1]

    def texts(self) -> dict[str, bytes]:
        """The bytes of all files by path."""
        return {path: data for path, (_part, data) in self._held.items()}

    def written(self, held: dict[str, tuple[object, bytes]], changed: Iterable[str]) -> None:
        """All files are `held` now; those of `changed` were just written or removed."""
        self._held = held
        for path in changed:
            state = self._state_of(path)
            if state is None:
                self._states.pop(path, None)
            else:
                self._states[path] = state
        self._either.clear()

    def distrust(self, texts: dict[str, bytes]) -> None:
        """After a save of `texts` that failed nobody knows which files are on disk: all are written anew the
        next time, and edits are kept whole."""
        for path, data in (*self.texts().items(), *texts.items()):
            if data:
                self._either[path] = tuple({*self._either.get(path, ()), data})
        self._held = dict.fromkeys((*self._held, *texts), (None, b""))

    def take_up(self, other: KnownFiles) -> None:
        """Believe what another reading of the same folder found."""
        self._held, self._states = dict(other._held), dict(other._states)
        self._either.clear()

    def _state_of(self, path: str) -> FileState | None:
        """How a file stands now; None if it is not there."""
        try:
            state = (self._root / path).stat()
        except (OSError, ValueError):
            return None
        return state.st_size, state.st_mtime_ns, state.st_ino

    def look_changed(self) -> bool:
        """Whether a file's size or time is another than when it was read or written. Quick: where there are
        very many files, each call looks at the next hundred."""
        paths = list(self._states)
        first = self._glanced % max(len(paths), 1)
        self._glanced = first + GLANCED_AT
        turn = (paths[first:] + paths[:first])[:GLANCED_AT]
        now = ((self._state_of(path), self._states.get(path)) for path in turn)
        return any(there is not None and there != state for there, state in now)

    def changed(self) -> tuple[list[str], list[str]]:
        """Paths of files that another program has changed since, and of those that are gone."""
        changed, gone = [], []
        for path, state in list(self._states.items()):
            now = self._state_of(path)
            if now is None:
                gone.append(path)
            elif now != state:
                try:
                    ours = (self._held[path][1], *self._either.get(path, ()))
                    same = read_file(self._root / path) in ours
                except OSError:
                    same = False
                if same:
                    self._states[path] = now
                else:
                    changed.append(path)
        return changed, gone
