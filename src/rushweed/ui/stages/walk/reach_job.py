"""The search for what can be reached, beside the window; begun anew when the level or the walker changes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.findings.finding import Finding
from rushweed.ui.session import Session, later
from rushweed.ui.session.jobs import How, Job

if TYPE_CHECKING:
    from rushweed.core.walk.reached import Reach

WAIT_MS = 400  # of quiet before a search begins


class ReachJob(QObject):
    """Keeps the last result for as long as it is of the level as it stands."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Reach | None = None
        self.progress, self.why = "", ""
        self.aimed: tuple[float, float] | None = None  # a reached place that was pressed
        self._for: tuple[object, ...] = ()
        self._job: Job | None = None
        self._soon = later(self, WAIT_MS, self._begin)

    def _key(self) -> tuple[object, ...]:
        level, project = self.session.selection.level, self.session.project
        walked = (
            None if level is None else (level.view, level.layers, level.things, level.table, level.bounds)
        )
        return walked, level.walker if level else None, level.start if level else None, project.sheets, level

    def _same(self) -> bool:
        now, then = self._key(), self._for
        if not then or now[4] is None or then[4] is None:
            return False
        return now[:3] == then[:3] and now[3] is then[3] and now[4].id == then[4].id  # type: ignore[attr-defined]

    def follow(self) -> None:
        """Begin a search if there is none of the level as it is."""
        if self._same():
            return
        self.stop()
        self._for = self._key()
        self.found, self.aimed, self.progress, self.why = None, None, "waits", ""
        self.session.checker.add_found(f"walk {self.session.selection.level_id}", [])
        self.changed.emit()
        self._soon.start()

    def stop(self) -> None:
        """Nobody looks: what is not finished is begun anew the next time."""
        self._soon.stop()
        if self._job is not None:
            self._job.cancel()
            self._job, self._for = None, ()
        self.progress = ""

    def _begin(self) -> None:
        level, project = self.session.selection.level, self.session.project
        if level is None:
            self.progress = ""
            return

        def search(job: Job) -> tuple[Reach, list[Finding]]:
            from rushweed.core.findings.walk import of_level

            return of_level(project, level, job.tell)

        def done(result: tuple[Reach, list[Finding]]) -> None:
            self._job, self.progress, self.found = None, "", result[0]
            self.session.checker.add_found(f"walk {level.id}", result[1])
            self.changed.emit()

        def failed(error: RushweedError) -> None:
            self._job, self.progress, self.why = None, "", error.problem
            self.changed.emit()

        def told(share: float, words: str) -> None:
            self.progress = f"{share:.0%}, {words}"
            self.changed.emit()

        self._job = self.session.jobs.start(
            "Finding what can be reached", search, done, failed, how=How(slow=True)
        )
        self._job.progress.connect(told)
