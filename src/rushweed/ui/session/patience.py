"""How work beside the window lets a hand that draws go first."""

from __future__ import annotations

import time

from rushweed.ui.session.document import Document
from rushweed.ui.session.jobs import Job

LONGEST_S, STEP_S = 5.0, 0.01  # how long all waiting of a job may take, and how often it looks


class Patience:
    """Called by a job between two steps of it: waits while a gesture is under way, and says whether the job
    is still wanted."""

    def __init__(self, document: Document, job: Job) -> None:
        self._document, self._job, self._rest = document, job, LONGEST_S

    def __call__(self) -> bool:
        while self._document.gesturing and self._rest > 0 and not self._job.cancelled:
            time.sleep(STEP_S)
            self._rest -= STEP_S
        return not self._job.cancelled
