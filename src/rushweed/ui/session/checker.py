"""Findings, looked for beside the window a moment after each edit."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import LeftAlone
from rushweed.core.pixels.cache import PixelCache
from rushweed.ui.session.document import Document
from rushweed.ui.session.jobs import How, Job, JobPool
from rushweed.ui.session.later import later
from rushweed.ui.session.patience import Patience

if TYPE_CHECKING:
    from rushweed.core.findings.finding import Finding
    from rushweed.core.findings.rule import Checks

AFTER_MS, SLOW_MS = 100, 1500  # of quiet, for most rules and for those that take long


class Checker(QObject):
    """Keeps what was found last: what counts, and what a person leaves as it is."""

    found = pyqtSignal()  # new findings

    def __init__(self, document: Document, stock: PixelCache, jobs: JobPool) -> None:
        super().__init__()
        self._document, self.stock, self.jobs = document, stock, jobs
        self.findings: list[Finding] = []
        self.left: list[tuple[Finding, LeftAlone]] = []
        self._checks: Checks | None = None
        self._of_project: list[Finding] = []
        self._added: dict[str, list[Finding]] = {}  # found by longer searches, by their name
        self._job: Job | None = None
        self._fault = ""
        self._stopped = False
        self._looked_at: set[str] = set()  # sheets by id: only of these are rules asked that take long
        self._soon = later(self, AFTER_MS, self._find)
        self._slowly = later(self, SLOW_MS, partial(self._find, True))
        self._left_then: tuple[LeftAlone, ...] = ()

    def find_soon(self) -> None:
        if self._document.history.project.left_alone != self._left_then:
            self._gather()
        self._soon.start()
        self._slowly.start()

    def look_at(self, sheet_id: str) -> None:
        """A person sees this sheet: look at it with all rules."""
        if sheet_id and sheet_id not in self._looked_at:
            self._looked_at.add(sheet_id)
            self._slowly.start()

    def stop(self) -> None:
        """Look for nothing any more: the window goes."""
        self._stopped = True
        self._soon.stop()
        self._slowly.stop()

    def _find(self, slow: bool = False) -> None:
        if self._job is not None:
            self._job.cancel()
        if self._stopped:
            return
        project = self._document.history.project

        looked_at = frozenset(self._looked_at if slow else ())

        def work(job: Job) -> list[Finding]:
            from rushweed.core.findings.check import checks

            if self._checks is None:
                self._checks = checks()
            return self._checks.run(project, self.stock, looked_at, Patience(self._document, job))

        how = How(after_files=True)
        self._job = self.jobs.start("Checking", work, self._show_found, self._failed, how=how)

    def _failed(self, error: RushweedError) -> None:
        """Told once, not after each edit."""
        if error.problem != self._fault:
            self._fault = error.problem
            self.jobs.unheard.emit(error)

    def _show_found(self, findings: list[Finding]) -> None:
        self._of_project = findings
        self._gather()

    def add_found(self, name: str, findings: list[Finding]) -> None:
        """What a longer search found, in place of what it found before."""
        if findings or self._added.get(name):
            self._added[name] = findings
            self._gather()

    def _gather(self) -> None:
        from rushweed.core.findings.check import left_alone

        project = self._document.history.project
        every = [*self._of_project, *(f for found in self._added.values() for f in found)]
        self.left = left_alone(project, every)
        aside = {id(finding) for finding, _left in self.left}
        self.findings = sorted((f for f in every if id(f) not in aside), key=lambda f: f.weight != "fault")
        self._left_then = project.left_alone
        self.found.emit()
