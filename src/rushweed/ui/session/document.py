"""The project and its history; nothing of what is selected or shown."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from typing import Protocol

from PyQt6.QtCore import QObject, pyqtBoundSignal, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.history import History, Step
from rushweed.core.document.limits import check_project
from rushweed.core.document.model.project import Project
from rushweed.ui.session.gesture import Edit, Gesture

log = logging.getLogger("rushweed")


class Typed(Protocol):
    """A field that tells when a run of small edits begins, is settled, and is taken back."""

    begun: pyqtBoundSignal
    settled: pyqtBoundSignal
    escaped: pyqtBoundSignal


class Document(QObject):
    """Every edit goes through here: one step of the history each, or a gesture that becomes one."""

    changed = pyqtSignal(object, object)  # old project, new project, as shown
    edited = pyqtSignal(int)  # the history has moved: by how many edits since the last save
    accepted = pyqtSignal()  # an edit was possible: what the last refusal said is over
    refused = pyqtSignal(str, str)  # what was not possible, and the cure
    settling = pyqtSignal()  # a field being typed in should finish now

    def __init__(self, project: Project) -> None:
        super().__init__()
        self.history = History(project)
        self.read_only = False
        self._gesture: Gesture | None = None
        self._run_mark: Step | None = None
        self.began = 0.0  # when the last change was asked for, by the clock of time.perf_counter

    @property
    def project(self) -> Project:
        """What is shown: what a gesture under way makes of the present, else the present."""
        shown = self._gesture.shown if self._gesture is not None else None
        return shown if shown is not None else self.history.project

    @property
    def gesturing(self) -> bool:
        """Whether a gesture is under way: what is slow to draw waits for its end."""
        return self._gesture is not None and self._gesture.shown is not None

    def edit(self, label: str, change: Edit, merge: object = None) -> bool:
        """Make one edit. A refusal is told in the strip, and nothing changes. Returns whether it held.

        While a gesture is under way the edit comes from elsewhere: it is made first, and what was drawn
        is drawn again on it. A preview that nobody draws on ends with the edit.
        """
        if self.refuses():
            return False
        old = self.project
        drawn = self._gesture if self._gesture is not None and self._gesture.label else None
        if drawn is None:
            self._gesture = None
        self.began = time.perf_counter()
        try:
            new = change(self.history.project)
            check_project(self.history.project, new)
        except RushweedError as error:
            self.refused.emit(error.problem, error.cure)
            if old is not self.project:
                self.changed.emit(old, self.project)
            return False
        self.accepted.emit()
        log.debug("edit %r worked out in %.1f ms", label, (time.perf_counter() - self.began) * 1000)
        made = self.history.do(label, new, merge)
        if made:
            if drawn is not None:
                self._draw_again(drawn)
            self.edited.emit(1)
        if made or old is not self.project:
            self.changed.emit(old, self.project)
        return True

    def refuses(self) -> bool:
        """Whether the project may not be changed, which is told."""
        if self.read_only:
            self.refused.emit("This project is read-only.", "Copy its folder to change it.")
        return self.read_only

    def _draw_again(self, drawn: Gesture) -> None:
        """What a gesture did so far, on an edit that came from elsewhere."""
        try:
            drawn.shown = drawn.on(self.history.project)
        except RushweedError as error:
            self._gesture = None
            self.refused.emit(f"{drawn.label} was stopped by another change: {error.problem}", error.cure)

    def gesture(self, label: str) -> Gesture:
        """Begin a drag or stroke, which is one step of the history once it is committed."""
        self.preview(None)
        self._gesture = Gesture(self, label)
        return self._gesture

    def carry(self, gesture: Gesture, change: Edit, anew: bool = False) -> bool:
        """Show one more step of a gesture, or with `anew` this one alone. A refusal leaves what was shown."""
        if self._gesture is not gesture or self.refuses():
            return False
        old, self.began = self.project, time.perf_counter()
        try:
            shown = change(self.history.project if anew else old)
            check_project(self.history.project, shown)
            gesture.shown = shown
        except RushweedError as error:
            self.refused.emit(error.problem, error.cure)
            return False
        gesture.log = [change] if anew else [*gesture.log, change]
        if old is not self.project:
            self.changed.emit(old, self.project)
        return True

    def commit(self, gesture: Gesture, label: str, merge: object = None) -> bool:
        """Make what a gesture shows one step of the history. Returns whether there was anything to make."""
        if self._gesture is not gesture:
            return False
        shown, self._gesture = gesture.shown, None
        if shown is None or shown is self.history.project:
            return False
        log.debug("gesture %r, %d steps", label, len(gesture.log))
        made = self.history.do(label, shown, merge)
        self.accepted.emit()
        self.edited.emit(1)
        self.changed.emit(shown, shown)
        return made

    def preview(self, change: Edit | None) -> bool:
        """Show an edit that is not made yet; None takes it away, and what a gesture under way has drawn. A
        refusal leaves the last preview."""
        if change is not None:
            if self._gesture is None or self._gesture.label:
                self._gesture = Gesture(self, "")
            return self.carry(self._gesture, change, anew=True)
        old, self._gesture = self.project, None
        if old is not self.project:
            self.changed.emit(old, self.project)
        return True

    def seal(self) -> None:
        """The run of small edits of one field is over; the next is a step of its own."""
        self.history.seal()

    def follow(self, field: Typed) -> None:
        """Make each run of small edits of a field one step, which Escape takes back whole."""
        field.begun.connect(self._mark_run)
        field.escaped.connect(self._take_run_back)
        field.settled.connect(self.seal)

    def _mark_run(self) -> None:
        self.history.seal()
        self._run_mark = self.history.mark

    def _take_run_back(self) -> None:
        old = self.project
        self._gesture = None
        if self.history.back_to(self._run_mark):
            self.edited.emit(-1)
        if old is not self.project:
            self.changed.emit(old, self.project)

    def undo(self) -> None:
        self.settling.emit()
        self._step(self.history.undo)

    def redo(self) -> None:
        self.settling.emit()
        self._step(self.history.redo)

    def go_to(self, place: int) -> None:
        """Undo or redo until so many edits are made."""
        self.settling.emit()
        self._step(lambda: "" if self.history.go_to(place) else None)

    def _step(self, move: Callable[[], str | None]) -> None:
        """Undo or redo; in the middle of a gesture only that is taken back."""
        if self._gesture is not None and self._gesture.label and self.gesturing:
            self.preview(None)
            return
        old, self.began = self.project, time.perf_counter()
        self._gesture = None
        if move() is not None:
            self.edited.emit(1)
        if old is not self.project:
            self.changed.emit(old, self.project)
