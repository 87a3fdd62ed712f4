"""Edits of the steps by which pictures are prepared; long ones are worked out in the background."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from rushweed.core.cut.transform_cells import set_steps
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.steps import KeyColour, Reduce, Step
from rushweed.ui.kit.text import many
from rushweed.ui.session import Session
from rushweed.ui.session.beside import worked_out
from rushweed.ui.session.jobs import Job

AT_ONCE = 1 << 20  # px of a picture that is prepared without leaving the window's thread


def _cleaning(steps: tuple[Step, ...]) -> int:
    """How many steps clean soft edges because that was asked."""
    return sum(isinstance(s, KeyColour) and s.on and s.fringe is True for s in steps)


class StepWork:
    """Makes them for the sheets selected; `added` shows the list, `refused` what stands as it was."""

    def __init__(self, session: Session, added: Callable[[], object], refused: Callable[[], object]) -> None:
        self._session, self._added, self._refused = session, added, refused
        self._preparing: Job | None = None

    def add(self, step: Step) -> None:
        """Put a step at the end of the list of every sheet selected; reducing comes before all others."""

        def longer(steps: tuple[Step, ...]) -> tuple[Step, ...]:
            return (step, *steps) if isinstance(step, Reduce) else (*steps, step)

        self._edit_steps("Add a preparation step", longer)
        self._added()

    def _edit_steps(
        self, words: str, change: Callable[[tuple[Step, ...]], tuple[Step, ...]], merge: object = None
    ) -> None:
        ids = [s.id for s in self._session.selection.sheets]

        def edit(project: Project) -> Project:
            for sheet in project.sheets:
                if sheet.id in ids:
                    steps = change(sheet.source.steps)
                    project = set_steps(project, sheet.id, steps, self._session.stock)
            return project

        self._prepared_edit(words, edit, merge)

    def _prepared_edit(
        self, words: str, edit: Callable[[Project], Project], merge: object = None,
        then: Callable[[], object] = lambda: None,
    ) -> None:  # fmt: skip
        """Make an edit of the steps: at once where the pictures are small, else once they have been prepared
        in the background. A later one takes the place of one that is not yet made."""
        session, stock = self._session, self._session.stock
        self.leave()

        def change(project: Project) -> Project:
            made = edit(project)
            for sheet in made.sheets:
                if all(sheet is not old for old in project.sheets):
                    stock.pixels_or_blank(sheet)
            return made

        def make(ready: Callable[[Project], Project]) -> None:
            self._preparing = None
            if session.document.edit(words, ready, merge):
                then()
            else:
                self._refused()

        sizes = [s.source.raw or s.source.size for s in session.selection.sheets]
        long = any(math.prod(size) > AT_ONCE for size in sizes)
        self._preparing = worked_out(session, "Preparing", change if long else edit, make, long)

    def leave(self) -> None:
        """What is being prepared is not wanted any more."""
        if self._preparing is not None:
            self._preparing.cancel()
            self._preparing = None

    def edited(self, steps: tuple[Step, ...], words: str) -> None:
        """The list of the sheet shown, changed; a run of changes of one number is one step to undo."""
        sheet = self._session.selection.sheet
        if sheet is None:
            return
        asked = _cleaning(steps) > _cleaning(sheet.source.steps)
        self._prepared_edit(
            words, lambda p: set_steps(p, sheet.id, steps, self._session.stock), ("steps", words, sheet.id),
            (lambda: self._tell_cleaned(sheet)) if asked else (lambda: None),
        )  # fmt: skip

    def _tell_cleaned(self, before: Sheet) -> None:
        """Say what cleaning the edges has done, also where it was nothing."""
        now = self._session.selection.sheet
        old, new = (
            self._session.stock.pixels_or_blank(before),
            self._session.stock.pixels_or_blank(now or before),
        )
        changed = int(np.count_nonzero((old != new).any(axis=-1))) if old.shape == new.shape else 0
        if changed:
            self._session.tell("told", f"{many(changed, 'px')} on soft edges lost the key's tint.")
        else:
            self._session.tell("told", "No soft edges were found: the edges of this art are hard.")
