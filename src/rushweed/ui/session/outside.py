"""Takes up what other programs do to the project's own files while it is open: a pull, another branch."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.level.compare import Difference, compare, difference_pictures
from rushweed.core.level.merge import Merged, merge
from rushweed.core.level.render import PixelsOf
from rushweed.core.store.folder import Folder
from rushweed.ui.session import Session, later
from rushweed.ui.session.jobs import How, Job

GLANCE_MS = 1000
SETTLE_MS = 400  # after the last sign of a change: version control writes many files
PATIENCE_S = 6.0  # how long files that make no project yet are waited for
QUIET_S = 60.0  # before files that cannot be read are told again
SHOWN = 3  # names that are told


class SideOf(NamedTuple):
    """One side of what was changed on both: what was done there, and a picture of it, uint8 RGBA."""

    facts: str
    picture: np.ndarray | None


class PartOfBoth(NamedTuple):
    """A sheet, level or other part of the project that was changed on both sides; the project itself
    has no id."""

    id: str
    name: str
    here: SideOf
    there: SideOf


class BothSides(NamedTuple):
    """To be answered with the ids of the parts that are taken from outside, or to be left for later."""

    parts: list[PartOfBoth]
    answer: Callable[[set[str]], None]
    later: Callable[[], None]


class Read(NamedTuple):
    """What was found on disk: the folder as read, the project here when it was, and both together."""

    folder: Folder
    ours: Project
    theirs: Project
    merged: Merged
    parts: list[PartOfBoth]


class Outside(QObject):
    """Watches the project's files and brings changes made there together with those made here."""

    asked = pyqtSignal(object)  # BothSides

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

        def work(_job: Job) -> Read | None:
            base = folder.on_disk
            if not folder.changed_outside() or base is None:
                return None
            other = Folder(folder.path)
            theirs = other.open()
            merged = merge(base, ours, theirs)
            parts = _both_sides(base, ours, theirs, merged, session.stock.pixels_or_blank)
            return Read(other, ours, theirs, merged, parts)

        session.jobs.start(
            "Reading what changed outside", work, self._found, self._unreadable, how=How(writes=True)
        )

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

    def _found(self, read: Read | None) -> None:
        self._since = 0.0
        if read is None:
            self._go_on()
            return
        document = self.session.document
        if read.ours is not document.history.project or read.parts and document.gesturing:
            self._look_soon.start()  # edited meanwhile
            return
        if not read.parts:
            self._take(read.folder, read.merged)
            return
        self._asking = True
        self.asked.emit(BothSides(read.parts, lambda ids: self._answer(read, ids), self._leave))

    def _leave(self) -> None:
        """Asked again after a while, and before anything is saved."""
        self._asking = self._save_after = False
        self._quiet_until = time.monotonic() + QUIET_S

    def _answer(self, read: Read, from_outside: set[str]) -> None:
        """What was edited since the question came counts as well."""
        self._asking = False
        base = self.session.folder.on_disk
        assert base is not None
        self._take(read.folder, merge(base, self.session.document.history.project, read.theirs, from_outside))

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


def _both_sides(
    base: Project, ours: Project, theirs: Project, merged: Merged, pixels_of: PixelsOf
) -> list[PartOfBoth]:
    """What clashes, part by part, with what was done on each side since they parted."""
    ids = dict.fromkeys(clash.id for clash in merged.clashes)
    if not ids:
        return []
    between = {d.id: d for d in compare(ours, theirs)}
    mine, other = ({d.id: d for d in compare(base, side)} for side in (ours, theirs))
    parts = []
    for part_id in ids:
        names = [clash.name for clash in merged.clashes if clash.id == part_id]
        here, there = None, None
        if part_id in between:
            here, there = difference_pictures(ours, theirs, between[part_id], pixels_of, pixels_of)
        known = mine.get(part_id) or other.get(part_id) or between.get(part_id)
        parts.append(
            PartOfBoth(
                part_id,
                known.name if known else names[0],
                SideOf(_facts(mine.get(part_id)), here),
                SideOf(_facts(other.get(part_id)), there),
            )
        )
    return parts


def _facts(difference: Difference | None) -> str:
    return ", ".join(difference.facts) if difference is not None else "changed"


def _names(names: tuple[str, ...]) -> str:
    more = len(names) - SHOWN
    return ", ".join(names[:SHOWN]) + (f" and {more} more" if more > 0 else "")
