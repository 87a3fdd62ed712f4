"""Findings, looked for beside the window a moment after each edit."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.pixels.stock import Stock
from rushweed.ui.session.document import Document
from rushweed.ui.session.jobs import Job, JobPool
from rushweed.ui.session.later import later

if TYPE_CHECKING:
    from rushweed.core.findings.finding import Finding

AFTER_MS = 250  # of quiet


class Checker(QObject):
    """Keeps what was found last."""

    found = pyqtSignal()  # new findings

    def __init__(self, document: Document, stock: Stock, jobs: JobPool) -> None:
        super().__init__()
        self._document, self.stock, self.jobs = document, stock, jobs
        self.findings: list[Finding] = []
        self._of_project: list[Finding] = []
        self._added: dict[str, list[Finding]] = {}  # found by longer searches, by their name
        self._finding_job: Job | None = None
        self._finding_fault = ""
        self._find_timer = later(self, AFTER_MS, self._find)

    def find_soon(self) -> None:
        self._find_timer.start()

    def _find(self) -> None:
        if self._finding_job is not None:
            self._finding_job.cancel()
        project = self._document.history.project

        def work(job: Job) -> list[Finding]:
            from rushweed.core.findings.check import check

            return check(project, self.stock)

        self._finding_job = self.jobs.start("Checking", work, self._show_findings, self._find_failed)

    def _find_failed(self, error: RushweedError) -> None:
        """Told once, not after each edit."""
        if error.problem != self._finding_fault:
            self._finding_fault = error.problem
            self.jobs.unheard.emit(error)

    def _show_findings(self, findings: list[Finding]) -> None:
        self._of_project = findings
        self._gather()

    def add_found(self, name: str, findings: list[Finding]) -> None:
        """What a longer search found, in place of what it found before."""
        if findings or self._added.get(name):
            self._added[name] = findings
            self._gather()

    def _gather(self) -> None:
        every = [*self._of_project, *(f for found in self._added.values() for f in found)]
        self.findings = sorted(every, key=lambda f: f.weight != "fault")
        self.found.emit()
