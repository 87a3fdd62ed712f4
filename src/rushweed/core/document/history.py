"""Undo and redo: snapshots of the project, which share all that did not change."""

from __future__ import annotations

from typing import NamedTuple

from rushweed.core.document.model.project import Project

MOST_STEPS = 1000


class Step(NamedTuple):
    """The project after an edit, what the edit is called, and with which it may become one."""

    label: str
    project: Project
    merge: object | None


class History:
    """The project now, what it was, and what was undone."""

    def __init__(self, project: Project) -> None:
        self._past: list[Step] = [Step("", project, None)]
        self._future: list[Step] = []
        self.whole = True  # whether the first step is still the project as it was opened

    @property
    def project(self) -> Project:
        """As it is now."""
        return self._past[-1].project

    @property
    def undo_label(self) -> str | None:
        """What undo would take back, or None."""
        return self._past[-1].label if len(self._past) > 1 else None

    @property
    def redo_label(self) -> str | None:
        """What redo would make again, or None."""
        return self._future[-1].label if self._future else None

    @property
    def labels(self) -> list[str]:
        """Every step that was made or undone, oldest first."""
        return [*(step.label for step in self._past[1:]), *(step.label for step in reversed(self._future))]

    @property
    def place(self) -> int:
        """How many of `labels` are made now."""
        return len(self._past) - 1

    def go_to(self, place: int) -> bool:
        """Undo or redo until so many steps are made; False if that is so already."""
        place = min(max(place, 0), len(self.labels))
        moved = place != self.place
        while self.place > place:
            self.undo()
        while self.place < place:
            self.redo()
        return moved

    def do(self, label: str, project: Project, merge: object | None = None) -> bool:
        """Make `project` the present. Steps in a row with the same `merge` become one step.

        Returns False, and keeps no step, if nothing changed.
        """
        if project is self.project:
            return False
        self._future.clear()
        step = Step(label, project, merge)
        if merge is not None and self._past[-1].merge == merge and len(self._past) > 1:
            self._past[-1] = step
        else:
            self._past.append(step)
            if len(self._past) > MOST_STEPS + 1:
                del self._past[0]
                self.whole = False
        return True

    def seal(self) -> None:
        """End a run of merged steps: the next one starts anew."""
        last = self._past[-1]
        self._past[-1] = last._replace(merge=None)

    @property
    def mark(self) -> Step:
        """The present as something to go `back_to`."""
        return self._past[-1]

    def back_to(self, mark: Step | None) -> bool:
        """Drop the steps made since `mark`, without redo; False if it is not there or nothing was made."""
        if not any(step is mark for step in self._past) or self._past[-1] is mark:
            return False
        while self._past[-1] is not mark:
            self._past.pop()
        return True

    def undo(self) -> str | None:
        """Step back; returns the label of what was undone, or None at the start."""
        if len(self._past) == 1:
            return None
        step = self._past.pop()
        self._future.append(step)
        return step.label

    def redo(self) -> str | None:
        """Step forward again; returns the label, or None if nothing was undone."""
        if not self._future:
            return None
        step = self._future.pop()
        self._past.append(step._replace(merge=None))
        return step.label
