"""Pictures of levels as the game draws them, made beside the window one after another."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.ui.session.jobs import Job, JobPool

if TYPE_CHECKING:
    from rushweed.core.level.render import Seen, TileSet


class Wanted(NamedTuple):
    """A part of a level, left, top, width and height in level px, and how it is seen, if not plainly."""

    project: Project
    level: Level
    area: tuple[int, int, int, int]
    seen: Seen | None = None


class TileSets:
    """The drawn tiles of levels, each made anew only when its table, its cell or a sheet changes. For one
    thread at a time."""

    def __init__(self, stock: PixelCache) -> None:
        self._stock = stock
        self._known: dict[str, tuple[tuple[Sheet, ...], TileSet]] = {}

    def of(self, project: Project, level: Level) -> TileSet:
        from rushweed.core.level.render import TileSet

        known = self._known.get(level.id)
        if (
            known is None
            or known[0] is not project.sheets
            or (known[1].table, known[1].cell) != (level.table, level.cell)
        ):
            made = TileSet(project, level, self._stock.pixels_or_blank)
            known = self._known[level.id] = (project.sheets, made)
        return known[1]


class LevelPictures:
    """Draws what is wanted in turn; of what is wanted for the same place only the latest."""

    def __init__(self, stock: PixelCache, jobs: JobPool) -> None:
        self._stock, self._jobs = stock, jobs
        self._tiles = TileSets(stock)  # used by one job at a time
        self._waiting: dict[str, tuple[Wanted, Callable[[np.ndarray], object]]] = {}
        self._job: Job | None = None

    def draw(self, place: str, wanted: Wanted, then: Callable[[np.ndarray], object]) -> None:
        """Call `then` with the picture, uint8 RGBA, on the window's thread."""
        self._waiting.pop(place, None)
        self._waiting[place] = wanted, then
        if self._job is None:
            self._begin()

    def _begin(self) -> None:
        place = next(iter(self._waiting), None)
        if place is None:
            self._job = None
            return
        wanted, then = self._waiting.pop(place)

        def work(_job: Job) -> np.ndarray:
            from rushweed.core.level.render import Seen, level_picture

            project, level, area, seen = wanted
            tiles, pixels_of = self._tiles.of(project, level), self._stock.pixels_or_blank
            return level_picture(project, level, pixels_of, area, tiles, seen or Seen())

        self._job = self._jobs.start(f"Drawing {wanted.level.name}", work, then)
        self._job.ended.connect(self._begin)
