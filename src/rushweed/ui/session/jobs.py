"""Work off the window's thread: a snapshot goes in, progress comes out, the result comes back."""

from __future__ import annotations

import logging
import threading
import time
from collections import deque
from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from PyQt6.QtCore import (
    QCoreApplication,
    QObject,
    QRunnable,
    QThreadPool,
    QTimer,
    pyqtBoundSignal,
    pyqtSignal,
)

from rushweed.core.document.errors import RushweedError
from rushweed.core.memory import give_back
from rushweed.ui.session.later import later

log = logging.getLogger("rushweed")

DRAWN_S = 0.2  # after the Desk last said that it draws on, for as long others wait
LONGEST_S, LOOK_MS = 1.0, 20  # how long a job waits for others at most, and how often it is looked
IDLE_MS = 200  # without a job, after which freed memory goes back to the system


class Cancelled(Exception):
    """Raised inside work whose person changed their mind."""


class _Mail(QObject):
    """Brings calls from the threads of jobs to the window's thread. It lives as long as the application: a
    signal of an object that goes while its delivery is under way would call what is gone."""

    arrived = pyqtSignal(object)

    def __init__(self, parent: QObject | None) -> None:
        super().__init__(parent)
        self.arrived.connect(self._call)

    def _call(self, call: Callable[[], object]) -> None:
        call()

    @classmethod
    def of_application(cls) -> _Mail:
        """The one of the application under way."""
        app = QCoreApplication.instance()
        return (app.findChild(cls) if app is not None else None) or cls(app)


class How(NamedTuple):
    """Whether a job writes files of the project, whether it takes so long that others go first, how many ms
    it waits, and whether it begins once nothing is being written."""

    writes: bool = False
    slow: bool = False
    after_ms: int = 0
    after_files: bool = False


class Job(QObject):
    """One piece of work. All signals are sent on the window's thread; a cancelled job reports no more."""

    progress = pyqtSignal(float, str)
    done = pyqtSignal(object)
    failed = pyqtSignal(object)
    ended = pyqtSignal()

    def __init__(self, label: str, mail: _Mail, how: How) -> None:
        super().__init__()
        self._mail = mail
        self.label, self.how = label, how
        self.since, self.share, self.words = time.monotonic(), 0.0, label  # when it began, how far it is
        self._stop = threading.Event()
        self.progress.connect(self._heard)

    def _heard(self, share: float, words: str) -> None:
        self.share, self.words = share, words

    def cancel(self) -> None:
        self._stop.set()

    @property
    def cancelled(self) -> bool:
        return self._stop.is_set()

    def tell(self, share: float, words: str) -> None:
        """Called by the work: reports, and leaves it by Cancelled if it is no longer wanted."""
        if self._stop.is_set():
            raise Cancelled
        self._mail.arrived.emit(partial(self.progress.emit, share, words))

    def _send(self, signal: pyqtBoundSignal, value: object) -> None:
        """Called by the work's thread: a result that comes too late is dropped."""
        self._mail.arrived.emit(lambda: None if self.cancelled else signal.emit(value))

    def _send_end(self) -> None:
        self._mail.arrived.emit(self.ended.emit)


class _Runner(QRunnable):
    def __init__(self, job: Job, work: Callable[[Job], Any]) -> None:
        super().__init__()
        self.job, self.work = job, work

    def run(self) -> None:
        job, began = self.job, time.perf_counter()
        try:
            if not job.cancelled:
                job._send(job.done, self.work(job))
        except Cancelled:
            pass
        except RushweedError as error:
            job._send(job.failed, error)
        except Exception as error:  # a defect of ours: tell it in a sentence, keep the window alive
            told = RushweedError(
                f"{job.label} stopped on a fault of Rushweed ({type(error).__name__}: {error}).",
                "Nothing was changed; the log says more.",
            )
            job._send(job.failed, told)
            log.exception("%s failed", job.label)
        log.debug("job %r took %.1f ms", job.label, (time.perf_counter() - began) * 1000)
        job._send_end()


class JobPool(QObject):
    """Runs jobs, several at once; those that write files one after another, and so those that take
    long, which never keep the others waiting.

    A failure that whoever started the job does not take care of is told here, once.
    """

    unheard = pyqtSignal(object)  # RushweedError
    began = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._closed = False
        self._many = QThreadPool()
        self._many.setMaxThreadCount(2)
        self._slow = QThreadPool()
        self._slow.setMaxThreadCount(1)
        self._files = QThreadPool()
        self._files.setMaxThreadCount(1)
        self._running: set[Job] = set()
        self._over: deque[Job] = deque(maxlen=64)  # kept until their own threads have let them go
        self._mail = _Mail.of_application()
        self._waiting: list[_Runner] = []
        self._desk_until = 0.0
        self._look_again = later(self, LOOK_MS, self._launch)
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.setInterval(IDLE_MS)
        self._idle.timeout.connect(self._rest)

    def start(
        self,
        label: str,
        work: Callable[[Job], Any],
        done: Callable[[Any], object] | None = None,
        failed: Callable[[RushweedError], object] | None = None,
        stale: Callable[[], bool] | None = None,
        how: How = How(),  # noqa: B008
    ) -> Job:
        """Begin when the window's thread is next idle, and `how.after_ms` have passed.

        On the window's thread `done` gets the result, unless it is `stale` by then; `failed` gets the error,
        which is told to the person where there is no `failed`. Nothing is tried again by itself.
        """
        job = Job(label, self._mail, how)
        if self._closed:
            job.cancel()
            return job
        self._running.add(job)
        self.began.emit()
        job.ended.connect(lambda: self._end(job))
        if done is not None:
            job.done.connect(lambda result: None if stale is not None and stale() else done(result))
        job.failed.connect(failed if failed is not None else self.unheard.emit)
        self._waiting.append(_Runner(job, work))
        QTimer.singleShot(how.after_ms, self._launch)
        return job

    def _end(self, job: Job) -> None:
        self._running.discard(job)
        self._over.append(job)
        if not self._running:
            self._idle.start()

    def _rest(self) -> None:
        """Nothing has run for a moment: what the last jobs held is free."""
        if not self._running and not self._closed:
            threading.Thread(target=give_back, daemon=True).start()

    @property
    def running(self) -> set[Job]:
        """The jobs that have been started and not ended."""
        return self._running

    def desk_draws_on(self, on: bool) -> None:
        """Whether some of the Desk is left to be drawn in the next turns of the event loop. Until it is whole
        nothing begins that would keep it from that, but what writes files."""
        self._desk_until = time.monotonic() + DRAWN_S if on else 0.0

    def _launch(self, now: bool = False) -> None:
        waiting, self._waiting = self._waiting, []
        for runner in waiting:
            how = runner.job.how
            if not now and self._waits(runner.job):
                self._waiting.append(runner)
            else:
                (self._files if how.writes else self._slow if how.slow else self._many).start(runner)
        if self._waiting:
            self._look_again.start()

    def _waits(self, job: Job) -> bool:
        at, how = time.monotonic(), job.how
        since = job.since + how.after_ms / 1000
        if at < since or how.writes or at > since + LONGEST_S:
            return at < since
        return at < self._desk_until or (how.after_files and any(one.how.writes for one in self._running))

    def close(self) -> None:
        """Finish, for good: what is begun from here on never runs."""
        self.finish()
        self._closed = True

    def finish(self) -> None:
        """Wait until everything that writes files is on disk, and drop the rest."""
        for job in list(self._running):
            if not job.how.writes:
                job.cancel()
        self._launch(now=True)
        self._files.waitForDone()
        self._many.waitForDone()
        self._slow.waitForDone()
