"""Whether the files of a shipment stand as they were written.

Their bytes are read once; after that it is enough that the system has noted no change of a file since.
"""

from __future__ import annotations

import contextlib
import time
from collections.abc import Iterable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from rushweed.core.ship.placing import Listed, stands

State = tuple[int, int, int, int]  # of a file: its number, bytes, and times of change, ns
TICK_NS = 10_000_000  # the system notes times at least this often: a later change gets another time


def state_of(path: Path) -> State | None:
    """What the system notes of a file, None if it is not there."""
    try:
        found = path.lstat()
    except (OSError, ValueError):
        return None
    return found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns


def settled(out: Path, names: Iterable[str]) -> dict[str, State]:
    """The states of files that are known to stand in a folder now, by their paths; waits a moment where one
    was written just now, so that any change after this can be told by its state."""
    states = {str(out / name): state for name in names if (state := state_of(out / name)) is not None}
    since = time.time_ns() - max((state[3] for state in states.values()), default=0)
    if 0 <= since < TICK_NS:
        time.sleep((TICK_NS - since) / 1e9)
        return {path: state for path, state in states.items() if state == state_of(Path(path))}
    return states if since > 0 else {}


class Standing:
    """What is known, and what is being read by other threads."""

    def __init__(self, known: set[str], asked: dict[str, Future[bool]]) -> None:
        self._known, self._asked = known, asked

    def __contains__(self, name: str) -> bool:
        """Whether a file stands as it was written; waits for it."""
        return name in self._known or (name in self._asked and self._asked[name].result())


@contextlib.contextmanager
def standing(
    out: Path, listed: Mapping[str, Listed], states: Mapping[str, State], jobs: int
) -> Iterator[Standing]:
    """Look at the files of a shipment, so many at a time; `states` are those in which files were found right
    before."""
    known = {name for name in listed if states.get(str(out / name), 0) == state_of(out / name)}
    with ThreadPoolExecutor(max(jobs, 1)) as threads:
        asked = {n: threads.submit(stands, out, n, one) for n, one in listed.items() if n not in known}
        try:
            yield Standing(known, asked)
        finally:
            threads.shutdown(cancel_futures=True)
