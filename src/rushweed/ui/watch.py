"""Follows the project's pictures while other programs write them."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer

from rushweed.core.cut.outside import Reread, reread, take_up
from rushweed.core.document.edit import put_sheet
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model import Sheet
from rushweed.core.pixels.outside import Moved
from rushweed.core.pixels.prepare import Way
from rushweed.ui.jobs import Job
from rushweed.ui.session import Session, later

SETTLE_MS = 120  # after the last sign of a change
PATIENCE_S = 12.0  # how long a half-written file is waited for


class Watch(QObject):
    """Rereads a sheet when one of its files changes; a file that is half written is tried again."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._watcher = QFileSystemWatcher(self)
        self._states: dict[str, tuple[int, int] | None] = {}
        self._since: dict[str, float] = {}
        self._busy = False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLE_MS)
        self._timer.timeout.connect(self._look)
        self._watcher.fileChanged.connect(lambda _p: self._timer.start())
        self._watcher.directoryChanged.connect(lambda _p: self._timer.start())
        self._follow_soon = later(self, 60, self.follow)
        session.changed.connect(
            lambda old, new: self._follow_soon.start() if old.sheets is not new.sheets else None
        )
        self.follow()

    def follow(self) -> None:
        """Watch the files of all sheets, and their folders for files that are written anew and renamed."""
        root = str(self.session.folder.path)
        wanted = {path for sheet in self.session.project.sheets for path in sheet.source.files}
        for path in wanted - set(self._states):
            self._states[path] = _state(f"{root}/{path}")
        for path in set(self._states) - wanted:
            del self._states[path]
        there = {*self._watcher.files(), *self._watcher.directories()}
        files = {f"{root}/{path}" for path in wanted}
        fresh = [p for p in (files | {os.path.dirname(f) for f in files}) - there if os.path.exists(p)]
        if fresh:
            self._watcher.addPaths(fresh)

    def _look(self) -> None:
        """Find the files whose state is another, and read their sheets again in the background."""
        root = str(self.session.folder.path)
        changed = {path for path, state in self._states.items() if _state(f"{root}/{path}") != state}
        sheets = [s for s in self.session.history.project.sheets if changed.intersection(s.source.files)]
        self.follow()
        if self._busy or not sheets or self.session.read_only:
            if self._busy and sheets:
                self._timer.start()
            return
        self._busy = True
        states = {path: _state(f"{root}/{path}") for path in changed}
        stock = self.session.stock

        def work(job: Job) -> list[tuple[Sheet, Reread | RushweedError | None]]:
            found: list[tuple[Sheet, Reread | RushweedError | None]] = []
            for sheet in sheets:
                try:
                    found.append((sheet, reread(sheet, stock)))
                except RushweedError as fault:
                    found.append((sheet, fault))
            return found

        job = self.session.jobs.start(
            "Reading pictures again", work, lambda found: self._reread(found, states)
        )
        job.ended.connect(self._free)

    def _free(self) -> None:
        self._busy = False

    def _reread(
        self,
        found: list[tuple[Sheet, Reread | RushweedError | None]],
        states: dict[str, tuple[int, int] | None],
    ) -> None:
        again = False
        for sheet, result in found:
            if isinstance(result, RushweedError):
                begun = self._since.setdefault(sheet.id, time.monotonic())
                if time.monotonic() - begun < PATIENCE_S:
                    again = True
                    continue
                self.session.tell("fault", result.problem, result.cure)
            elif result is not None:
                self._take(sheet, result)
            self._since.pop(sheet.id, None)
            self._states |= {path: states[path] for path in sheet.source.files if path in states}
        if again:
            self._timer.start()

    def _take(self, sheet: Sheet, result: Reread) -> None:
        session, stock = self.session, self.session.stock
        words = f"{sheet.name} was changed by another program"
        if not result.moves:
            session.edit(words, lambda p: take_up(p, result, None, stock))
            session.tell("told", f"{words}; its new pixels are shown.")
            return
        best = result.moves[0]

        def choose(move: Moved | None) -> None:
            session.edit(words, lambda p: take_up(put_sheet(p, sheet), result, move, stock))

        choose(best)
        others: list[tuple[str, Callable[[], object]]] = [
            (_button(m), partial(choose, m)) for m in result.moves[1:3] if m.share > 0.02
        ]
        if best.way != Way() and not any(m.way == Way() for m in result.moves[1:3]):
            others.append(("Cells stay", partial(choose, None)))
        w, h = result.source.size
        text = f"{sheet.name} is {w} × {h} px now: {best.words} ({best.share:.0%} of its px agree)."
        session.ask(text, [("That is right", lambda: None), *others], lambda: None)


def _button(move: Moved) -> str:
    if move.way.xx != 1:
        return f"Scale the cells by {move.way.xx:g}"
    if move.way.dx or move.way.dy:
        return f"Move the cells by {move.way.dx:g}, {move.way.dy:g}"
    return "Cells stay"


def _state(path: str) -> tuple[int, int] | None:
    try:
        stat = os.stat(path)
    except OSError:
        return None
    return stat.st_size, stat.st_mtime_ns
