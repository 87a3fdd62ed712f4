"""Whole levels as small pictures, made beside the window and kept until the level changes."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from rushweed.core.document.model.level import Level
from rushweed.core.level.overview import mean_colours, overview
from rushweed.ui.desk.images import image_of

if TYPE_CHECKING:
    from rushweed.ui.session.jobs import Job
    from rushweed.ui.session.session import Session


class _Made(NamedTuple):
    """A picture, what it was made of, and the mean colours of the level's tiles."""

    of: tuple[object, ...]
    colours: np.ndarray
    image: QImage


class SmallLevels(QObject):
    """Pictures of at most `most` px, each cell as the mean colour of its tile."""

    made = pyqtSignal()

    def __init__(self, session: Session, most: tuple[int, int], parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._most = session, most
        self._kept: dict[str, _Made] = {}
        self._begun: dict[str, tuple[object, ...]] = {}  # by level: what its last picture is or was made of

    def of(self, level: Level) -> QImage | None:
        """The picture of a level, or the one before while a new one is made; None if there was none."""
        known, now = self._kept.get(level.id), self._what(level)
        begun = self._begun.get(level.id)
        if begun is None or not _same(begun, now):
            self._make(level, now, known)
        return known.image if known is not None else None

    def _what(self, level: Level) -> tuple[object, ...]:
        return level.table, self._session.project.sheets, level.layers, level.bounds

    def _make(self, level: Level, now: tuple[object, ...], known: _Made | None) -> None:
        project, pixels_of = self._session.project, self._session.stock.pixels_or_blank

        def work(_job: Job) -> _Made:
            if known is not None and _same(known.of[:2], now[:2]):
                colours = known.colours
            else:
                colours = mean_colours(project, level, pixels_of)
            return _Made(now, colours, image_of(overview(level, colours, self._most).rgba))

        def done(made: _Made) -> None:
            self._kept[level.id] = made
            self.made.emit()

        self._begun[level.id] = now
        words = f"Drawing {level.name} small"
        self._session.jobs.start(words, work, done, stale=lambda: self._begun[level.id] is not now)


def _same(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    return all(a is b for a, b in zip(one, other, strict=True))
