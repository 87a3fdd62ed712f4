"""Shipping by one way or by several, and what is told of it."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Way
from rushweed.core.ship.build import Shipped, ship
from rushweed.core.ship.ways import ways_of
from rushweed.ui.kit.text import many
from rushweed.ui.session import Session
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.ship.board import size_words


class Shipping:
    """Writes what the ways make, in the background: the way that is shown, for which a folder can be chosen,
    or all. `told` is given what was written, `last` is what was shipped last."""

    def __init__(
        self, session: Session, way: Callable[[], Way], choose_folder: Callable[[], bool],
        told: Callable[[str], object],
    ) -> None:  # fmt: skip
        self._session, self._way, self._choose_folder, self._told = session, way, choose_folder, told
        self.last: Shipped | None = None

    def ship_now(self) -> None:
        """Ship the way that is shown; where it has no folder yet, one is asked for."""
        if self._way().folder or self._choose_folder():
            self.ship_to(self._session.folder.path / self._way().folder)

    def ship_all(self) -> None:
        """Ship every way that has a folder, one after the other."""
        home = self._session.folder.path
        self._begin([(w, home / w.folder) for w in ways_of(self._session.project) if w.folder])

    def ship_to(self, folder: Path) -> Job:
        """Write what the way makes into a folder, in the background."""
        return self._begin([(self._way(), folder)])

    def _begin(self, wanted: list[tuple[Way, Path]]) -> Job:
        project: Project = self._session.document.history.project
        stock, jobs = self._session.stock, os.cpu_count() or 2

        def work(job: Job) -> list[Shipped]:
            made = []
            for n, (way, folder) in enumerate(wanted):
                tell = job.tell if len(wanted) == 1 else _share(job, n, len(wanted), way.name)
                made.append(ship(project, stock, folder, way, tell, jobs))
            return made

        def shipped(done: list[Shipped]) -> None:
            self._shipped(done)
            self._session.note_shipped(project)

        if not wanted:
            raise EditError("No way to ship has a folder.", "Choose one.")
        job = self._session.jobs.start("Shipping", work, shipped)
        self._session.working.emit(job)
        return job

    def _shipped(self, done: list[Shipped]) -> None:
        self.last = done[-1]
        lines = []
        for one in done:
            size = size_words(sum(file.bytes for file in one.listed.values()))
            lines.append(f"{one.folder}\n{many(len(one.files), 'file')}, {size}; {len(one.made)} made anew")
        self._told("\n".join(lines))
        frames, files = done[-1].frames, sum(len(one.files) for one in done)
        where = done[-1].folder if len(done) == 1 else f"{len(done)} folders"
        self._session.tell("told", f"Shipped {many(frames, 'frame')} in {many(files, 'file')} to {where}.")


def _share(job: Job, number: int, count: int, name: str) -> Callable[[float, str], None]:
    """How much is done of several ways."""
    return lambda share, words: job.tell((number + share) / count, f"{name}: {words}")
