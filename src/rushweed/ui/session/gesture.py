"""One drag or stroke: shown while it lasts, one step of the history when it is committed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from rushweed.core.document.model.project import Project

Edit = Callable[[Project], Project]


class Carrier(Protocol):
    """What shows a gesture and keeps what came of it: the document."""

    def carry(self, gesture: Gesture, change: Edit, anew: bool = False) -> bool:
        """Show one more step, or this one alone. Returns whether it held."""

    def commit(self, gesture: Gesture, label: str) -> bool:
        """Make it a step of the history. Returns whether anything changed."""


class Gesture:
    """Keeps a log of its steps, so that they can be taken again on an edit that comes in between. Without a
    `label` it is a preview: nobody draws it, and any edit ends it."""

    def __init__(self, document: Carrier, label: str) -> None:
        self._document, self.label = document, label
        self.log: list[Edit] = []
        self.shown: Project | None = None

    def update(self, change: Edit) -> bool:
        """Add to what was done so far, as a brush does. Returns whether it held."""
        return self._document.carry(self, change)

    def replace(self, change: Edit) -> bool:
        """Do this instead of what was done so far, as a drag does. Returns whether it held."""
        return self._document.carry(self, change, anew=True)

    def on(self, project: Project) -> Project:
        """All steps, on another project."""
        for change in self.log:
            project = change(project)
        return project

    def commit(self, label: str = "") -> bool:
        """Make it a step of the history. Returns whether anything changed."""
        return self._document.commit(self, label or self.label)
