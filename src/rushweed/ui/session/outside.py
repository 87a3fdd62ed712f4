"""Takes up what other programs do to the project's own files while it is open: a pull, another branch."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, QTimer

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model import Project
from rushweed.core.level.merge import Merged, merge
from rushweed.core.store.folder import Folder
from rushweed.ui.session import Session, later
from rushweed.ui.session.jobs import Job

GLANCE_MS = 1000
SETTLE_MS = 400  # after the last sign of a change: version control writes many files
PATIENCE_S = 6.0  # how long files that make no project yet are waited for
QUIET_S = 60.0  # before files that cannot be read are told again
SHOWN = 3  # names that are told


class Outside(QObject):
    """Watches the project's files and brings changes made there together with those made here."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._look_soon = later(self, SETTLE_MS, self._look)
        self._glance = QTimer(self)
        self._glance.timeout.connect(self._glanced)
        self._glance.start(GLANCE_MS)
        self._quiet_until = 0.0
        self._since = 0.0  # when files were first seen that make no project
        self._asking = False
        self._save_after = False
        session.saver.outside.connect(self._before_saving)

    def stop(self) -> None:
        """The window has gone: nothing is read for it any more."""
        self._glance.stop()
        self._look_soon.stop()

    def _glanced(self) -> None:
        """Files are rewritten in place as well as renamed, so their times are looked at now and then."""
        session = self.session
        idle = not (session.saver.saving or self._asking or self._look_soon.isActive())
        idle = idle and time.monotonic() >= self._quiet_until
        if idle and not session.document.read_only and session.folder.looks_changed():
            self._look_soon.start()

    def _before_saving(self) -> None:
        """A save found changes from outside: it goes on once they are taken up."""
        self._save_after = True
        self._look()

    def _look(self) -> None:
        session = self.session
        if session.document.read_only or self._asking:
            return
        if session.saver.saving:
            self._look_soon.start()
            return
        folder, ours = session.folder, session.document.history.project

        def work(_job: Job) -> tuple[Folder, Project, Project, Merged] | None:
            if not folder.changed_outside() or folder.on_disk is None:
                return None
            other = Folder(folder.path)
            theirs = other.open()
            return other, ours, theirs, merge(folder.on_disk, ours, theirs)

        session.jobs.start("Reading what changed outside", work, self._found, self._unreadable, writes=True)

    def _unreadable(self, error: RushweedError) -> None:
        """Files in the middle of being written are waited for; after that it is told."""
        now = time.monotonic()
        if not self._since:
            self._since = now
        if now - self._since < PATIENCE_S:
            self._look_soon.start()
            return
        self._since, self._save_after, self._quiet_until = 0.0, False, now + QUIET_S
        self.session.tell("fault", error.problem, error.cure)

    def _found(self, read: tuple[Folder, Project, Project, Merged] | None) -> None:
        self._since = 0.0
        if read is None:
            self._go_on()
            return
        other, ours, theirs, merged = read
        if ours is not self.session.document.history.project:
            self._look_soon.start()  # edited meanwhile
            return
        if not merged.clashes:
            self._take(other, merged)
            return
        base = self.session.folder.on_disk
        assert base is not None
        self._asking = True
        self.session.ask(
            f"{_names(merged.clashes)} changed both here and outside.",
            [
                ("Keep mine", lambda: self._answer(other, merged)),
                ("Take theirs", lambda: self._answer(other, merge(base, ours, theirs, prefer_theirs=True))),
            ],
            self._leave,
        )

    def _leave(self) -> None:
        self._asking = self._save_after = False

    def _answer(self, other: Folder, merged: Merged) -> None:
        self._asking = False
        self._take(other, merged)

    def _take(self, other: Folder, merged: Merged) -> None:
        session = self.session
        session.folder.take_up(other)
        clean = not session.saver.unsaved
        before = session.document.history.project
        if merged.project is not before:
            session.document.edit("Changes from outside", lambda _p: merged.project)
            session.tell("told", f"{_names(merged.brought) or 'The project'} changed outside; taken up here.")
        if clean and not merged.clashes:
            session.saver.note_saved()  # what is shown now is what is on disk
        self._go_on()

    def _go_on(self) -> None:
        if self._save_after:
            self._save_after = False
            self.session.saver.save()


def _names(names: tuple[str, ...]) -> str:
    more = len(names) - SHOWN
    return ", ".join(names[:SHOWN]) + (f" and {more} more" if more > 0 else "")
