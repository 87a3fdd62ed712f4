"""Work off the window's thread: a snapshot goes in, progress comes out, the result comes back."""

from __future__ import annotations

import contextlib
import logging
import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from rushweed.core.document.errors import RushweedError

log = logging.getLogger("rushweed")


class Cancelled(Exception):
    """Raised inside work whose person changed their mind."""


class Job(QObject):
    """One piece of work. All signals arrive on the window's thread; a cancelled job reports nothing more."""

    progress = pyqtSignal(float, str)
    done = pyqtSignal(object)
    failed = pyqtSignal(object)
    ended = pyqtSignal()
    _result = pyqtSignal(object)
    _fault = pyqtSignal(object)

    def __init__(self, label: str, writes: bool, slow: bool = False) -> None:
        super().__init__()
        self.label, self.writes, self.slow = label, writes, slow
        self._stop = threading.Event()
        self._result.connect(self._deliver)
        self._fault.connect(self._report)

    def _deliver(self, result: object) -> None:
        """On the window's thread: a result that came too late is dropped."""
        if not self.cancelled:
            self.done.emit(result)

    def _report(self, error: RushweedError) -> None:
        if not self.cancelled:
            self.failed.emit(error)

    def cancel(self) -> None:
        self._stop.set()

    @property
    def cancelled(self) -> bool:
        return self._stop.is_set()

    def tell(self, share: float, words: str) -> None:
        """Called by the work: reports, and leaves it by Cancelled if it is no longer wanted."""
        if self._stop.is_set():
            raise Cancelled
        self.progress.emit(share, words)


class _Runner(QRunnable):
    def __init__(self, job: Job, work: Callable[[Job], Any]) -> None:
        super().__init__()
        self.job, self.work = job, work

    def run(self) -> None:
        job = self.job
        with contextlib.suppress(RuntimeError):  # the window went while the work was under way
            self._work(job)

    def _work(self, job: Job) -> None:
        if job.cancelled:
            job.ended.emit()
            return
        try:
            result = self.work(job)
        except Cancelled:
            pass
        except RushweedError as error:
            job._fault.emit(error)
        except Exception as error:  # a defect of ours: tell it in a sentence, keep the window alive
            job._fault.emit(
                RushweedError(
                    f"{job.label} stopped on a fault of Rushweed ({type(error).__name__}: {error}).",
                    "Nothing was changed; the log says more.",
                )
            )
            log.exception("%s failed", job.label)
        else:
            job._result.emit(result)
        job.ended.emit()


class JobPool(QObject):
    """Runs jobs, several at once; those that write files one after another, and so those that take
    long, which never keep the others waiting.

    A failure that whoever started the job does not take care of is told here, once.
    """

    unheard = pyqtSignal(object)  # RushweedError

    def __init__(self) -> None:
        super().__init__()
        self._many = QThreadPool()
        self._many.setMaxThreadCount(2)
        self._slow = QThreadPool()
        self._slow.setMaxThreadCount(1)
        self._files = QThreadPool()
        self._files.setMaxThreadCount(1)
        self._running: set[Job] = set()
        self._waiting: list[_Runner] = []

    def start(
        self,
        label: str,
        work: Callable[[Job], Any],
        done: Callable[[Any], object] | None = None,
        failed: Callable[[RushweedError], object] | None = None,
        stale: Callable[[], bool] | None = None,
        writes: bool = False,
        slow: bool = False,
    ) -> Job:
        """Begin when the window's thread is next idle.

        On the window's thread `done` gets the result, unless it is `stale` by then; `failed` gets the error,
        which is told to the person where there is no `failed`. Nothing is tried again by itself.
        """
        job = Job(label, writes, slow)
        self._running.add(job)
        job.ended.connect(lambda: self._running.discard(job))
        if done is not None:
            job.done.connect(lambda result: None if stale is not None and stale() else done(result))
        job.failed.connect(failed if failed is not None else self.unheard.emit)
        self._waiting.append(_Runner(job, work))
        QTimer.singleShot(0, self._launch)
        return job

    @property
    def running(self) -> set[Job]:
        """The jobs that have been started and not ended."""
        return self._running

    def _launch(self) -> None:
        waiting, self._waiting = self._waiting, []
        for runner in waiting:
            job = runner.job
            (self._files if job.writes else self._slow if job.slow else self._many).start(runner)

    def finish(self) -> None:
        """Wait until everything that writes files is on disk, and drop the rest."""
        for job in list(self._running):
            if not job.writes:
                job.cancel()
        self._launch()
        self._files.waitForDone()
        self._many.waitForDone()
        self._slow.waitForDone()
