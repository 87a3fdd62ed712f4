"""Work about what is shown, such as proposals for a sheet."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject

from rushweed.core.document.errors import RushweedError
from rushweed.ui.session.jobs import Job, JobPool
from rushweed.ui.session.later import later

SOON_MS = 60  # that something has to be shown before work on it begins


class ShownWork(QObject):
    """Begins when something has been shown for a moment, and is let be as soon as something else is: who
    goes through many sheets starts nothing. Each is worked on once."""

    def __init__(self, jobs: JobPool, label: str) -> None:
        super().__init__()
        self._jobs, self._label = jobs, label
        self._over: set[str] = set()  # what is worked out, or has failed
        self._wanted: tuple[str, Callable[[Job], Any], Callable[[Any], object]] | None = None
        self._job: Job | None = None
        self._soon = later(self, SOON_MS, self._begin)

    def want(
        self, key: str, work: Callable[[Job], Any], done: Callable[[Any], object], soon_ms: int = SOON_MS
    ) -> None:
        """This is shown now; what `work` makes of it comes to `done`, unless it is known."""
        if self._wanted is not None and self._wanted[0] == key:
            return
        self.leave()
        if key not in self._over:
            self._wanted = key, work, done
            self._soon.start(soon_ms)

    def leave(self) -> None:
        """Nothing that it is about is shown any more."""
        if self._job is not None:
            self._job.cancel()
        self._soon.stop()
        self._job = self._wanted = None

    def _begin(self) -> None:
        if self._wanted is None:
            return
        key, work, done = self._wanted

        def ended() -> None:
            self._over.add(key)
            self._job = self._wanted = None

        def taken(result: Any) -> None:
            ended()
            done(result)

        def failed(error: RushweedError) -> None:
            ended()
            self._jobs.unheard.emit(error)

        self._job = self._jobs.start(self._label, work, taken, failed)
