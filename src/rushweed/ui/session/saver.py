"""Saving, and putting edits where a crash cannot take them."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.store.folder import ChangedOutside, Folder
from rushweed.core.store.recovery import Recovered, answer, put_away
from rushweed.core.store.saves import save_and_remember
from rushweed.ui.kit.text import many
from rushweed.ui.session.document import Document
from rushweed.ui.session.jobs import How, Job, JobPool

KEEP_AFTER_MS = 60  # an edit is painted before it is put on disk


class Saver(QObject):
    """What was told saved or kept safe is on the disk."""

    saved = pyqtSignal()  # the save state reads differently
    outside = pyqtSignal()  # a save found files that other programs have changed
    told = pyqtSignal(str, str, str)  # kind, text, cure

    def __init__(self, document: Document, folder: Folder, jobs: JobPool) -> None:
        super().__init__()
        self._document, self.folder, self.jobs = document, folder, jobs
        self._saved_project = document.history.project
        self.edits = 0  # since the last save
        self.saving = self._save_again = False
        self._keeping = self._keep_again = False
        self.keep_fault: RushweedError | None = None

    def note_edits(self, number: int) -> None:
        """The history has moved: put what is not saved where a crash cannot take it."""
        self.edits = max(self.edits + number, 0)
        self.keep_edits()

    @property
    def unsaved(self) -> bool:
        return self._document.history.project is not self._saved_project

    def save(self) -> Job | None:
        """Save in the background; the save state tells when it is done."""
        self._document.settling.emit()
        if self._document.refuses():
            return None
        if self.saving:
            self._save_again = True  # what was done since the one under way began is wanted too
            return None
        self.saving, self._save_again = True, False
        project, edits = self._document.history.project, self.edits
        job = self.jobs.start(
            "Saving",
            lambda _job: save_and_remember(self.folder, project),
            lambda _n: self._after_save(project, edits),
            self._save_failed,
            how=How(writes=True),
        )
        self.saved.emit()
        return job

    def _after_save(self, project: Project, edits: int) -> None:
        self.saving = False
        self._saved_project = project
        self.edits -= edits
        self.keep_fault = None
        if self.unsaved:
            self.save() if self._save_again else self.keep_edits()
        self.saved.emit()

    def _save_failed(self, error: RushweedError) -> None:
        self.saving = False
        self.keep_edits()
        if isinstance(error, ChangedOutside):
            self.outside.emit()
        else:
            self.told.emit("fault", error.problem, error.cure)
        self.saved.emit()

    def note_saved(self) -> None:
        """What is shown is on disk, because it was read from there."""
        self._saved_project, self.edits = self._document.history.project, 0
        self.keep_edits()
        self.saved.emit()

    def keep_edits(self) -> None:
        """Put the edits on disk now; if that is under way already, once more when it is done."""
        if self._document.read_only or self.saving:
            return
        if self._keeping:
            self._keep_again = True
            return
        self._keeping, self._keep_again = True, False
        project, edits, unsaved = self._document.history.project, self.edits, self.unsaved

        def work(_job: Job) -> None:
            if unsaved:
                self.folder.keep(project, edits)
            else:
                self.folder.forget_kept()

        done = lambda _n: self._kept(None)  # noqa: E731
        self.jobs.start("Keeping", work, done, self._kept, how=How(writes=True, after_ms=KEEP_AFTER_MS))

    def _kept(self, fault: RushweedError | None) -> None:
        self._keeping = False
        if fault is not None and self.keep_fault is None:
            self.told.emit("fault", fault.problem, fault.cure)
        self.keep_fault = fault
        if self._keep_again:
            self.keep_edits()
        self.saved.emit()

    def take_back(self, found: Recovered) -> None:
        """Take up edits that a crash left behind; undo leaves them again."""
        try:
            project = found.project()
            held = self._document.edit(f"Take back {many(found.edits, 'edit')}", lambda _p: project)
            if held:
                self.edits += found.edits - 1
                answer(found, "taken")
        except RushweedError as error:
            self.told.emit("fault", error.problem, error.cure)
        self.saved.emit()

    def discard(self, found: Recovered) -> None:
        """Let edits that a crash left behind be; they are kept for 30 days."""
        try:
            answer(found, "discarded")
            self.told.emit(
                "told", f"{many(found.edits, 'edit')} discarded.", f"They stay in {found.path} for 30 days."
            )
        except RushweedError as error:
            self.told.emit("fault", error.problem, error.cure)

    def leave_unsaved(self) -> None:
        """Close without saving: what was not saved is put where discarded edits are kept."""
        if self.unsaved:
            put_away(self.folder, self._document.history.project, self.edits, answer="discarded")
        self.folder.forget_kept()

    def save_state(self) -> tuple[bool, str]:
        """Whether all is safe, and the words for it."""
        if self._document.read_only:
            return True, "Read-only"
        if self.saving:
            return True, "Saving ..."
        if self.keep_fault is not None:
            return False, f"{self._edit_words()} not yet safe"
        at = time.strftime("%H:%M", time.localtime(self.folder.saved_at or time.time()))
        if not self.unsaved:
            return True, f"Saved {at}"
        return True, f"Saved {at}. {self._edit_words()} since, kept safe"

    def _edit_words(self) -> str:
        return many(self.edits, "edit")
