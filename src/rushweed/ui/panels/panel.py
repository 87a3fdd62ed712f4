"""What the panels share: each names what it reads, and is brought up to date once a turn while it is seen."""

from __future__ import annotations

from functools import partial

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QWidget

from rushweed.core.document.model.project import Project
from rushweed.ui.session import Session
from rushweed.ui.session.later import later


class Panel(QWidget):
    """`topics` are parts of the project by their names, "selection" and "stage". When one of them is another,
    the panel follows in the next turn of the window if it is seen; else it is refreshed when it comes into
    sight."""

    topics: frozenset[str] = frozenset()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._stale = True
        self._heard: set[str] = set()
        self._this_turn = later(self, 0, self._catch_up)
        session.document.changed.connect(self._project_changed)
        if "selection" in self.topics:
            session.selection.focused.connect(partial(self.hear, "selection"))
        if "stage" in self.topics:
            session.staged.connect(lambda _stage: self.hear("stage"))

    def _project_changed(self, old: Project, new: Project) -> None:
        """A gesture that became a step shows nothing new, but what waited for its end goes on."""
        parts = self.topics & set(Project.__struct_fields__)
        if old is new or any(getattr(old, part) is not getattr(new, part) for part in parts):
            self.hear("project")

    def hear(self, topic: str) -> None:
        """Something that it reads is another."""
        if self.isVisible():
            self._heard.add(topic)
            self._this_turn.start()
        else:
            self._stale = True

    def _catch_up(self) -> None:
        heard, self._heard = frozenset(self._heard), set()
        if self.isVisible():
            self.follow(heard)
        else:
            self._stale = True

    def follow(self, topics: frozenset[str]) -> None:
        """While it is seen: some of the project, the selection and the stage have changed."""
        self.refresh()

    def refresh(self) -> None:
        """Show what it reads as it is now."""

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._stale:
            self._stale = False
            self.come_into_sight()

    def come_into_sight(self) -> None:
        """It is seen, and what it reads has changed since it was last."""
        self.refresh()
