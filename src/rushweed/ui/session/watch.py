"""Follows the project's pictures while other programs write them."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer

from rushweed.core.cut.reload import Reread, reread, take_up
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.losses import aside_words
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.prepare import Affine
from rushweed.core.pixels.reload import Moved
from rushweed.ui.session import Session, later
from rushweed.ui.session.jobs import Job

SETTLE_MS = 120  # after the last sign of a change
PATIENCE_S = 12.0  # how long a half-written file is waited for


def _other_sources(old: Project, new: Project) -> bool:
    """Whether the sheets come from other pictures than before."""
    if old.sheets is new.sheets:
        return False
    if len(old.sheets) != len(new.sheets):
        return True
    return any(a.source is not b.source for a, b in zip(old.sheets, new.sheets, strict=True))


class Watch(QObject):
    """Rereads a sheet when one of its files changes; a file that is half written is tried again."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._watcher = QFileSystemWatcher(self)
        self._states: dict[str, tuple[int, int] | None] = {}
        self._since: dict[str, float] = {}
        self._busy = False
        self._apart: set[str] = set()  # sheets that show an earlier picture than their file holds
        self._kept = {s.source.sha256 for s in session.project.sheets}  # of which there is a copy
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLE_MS)
        self._timer.timeout.connect(self._look)
        self._watcher.fileChanged.connect(lambda _p: self._timer.start())
        self._watcher.directoryChanged.connect(lambda _p: self._timer.start())
        self._follow_soon = later(self, 60, self._sheets_changed)
        session.document.changed.connect(
            lambda old, new: self._follow_soon.start() if _other_sources(old, new) else None
        )
        self.follow()
        self._check_all()

    def stop(self) -> None:
        """The window has gone: nothing is followed for it any more."""
        self._timer.stop()
        self._follow_soon.stop()
        paths = [*self._watcher.files(), *self._watcher.directories()]
        if paths:
            self._watcher.removePaths(paths)

    def _check_all(self) -> None:
        """At opening: take up the pictures that were changed while nobody looked, and keep copies of all, so
        that the next change can be compared."""
        project, stock = self.session.project, self.session.stock
        if self.session.document.read_only:
            return
        stock.holds_on = True
        states = {path: _state(f"{stock.folder}/{path}") for s in project.sheets for path in s.source.files}

        def work(job: Job) -> list[tuple[Sheet, Reread | RushweedError | None]]:
            changed = []
            for n, sheet in enumerate(project.sheets):
                job.tell(n / len(project.sheets), "Checking the pictures")
                if stock.seen.has_changed(sheet.source):
                    changed.append((sheet, _read_again(sheet, stock)))
            taken = [f.source for _sheet, f in changed if isinstance(f, Reread)]
            stock.seen.keep([*(s.source for s in project.sheets), *taken], stock.to_keep, prune=True)
            return changed

        self._busy = True
        job = self.session.jobs.start(
            "Checking the pictures", work, lambda found: self._reread(found, states)
        )
        job.ended.connect(self._free)

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
        sources = {s.source.sha256: s.source for s in self.session.project.sheets}
        unkept = [source for sha, source in sources.items() if sha not in self._kept]
        if unkept and not self.session.document.read_only:
            self._kept.update(sources)
            stock = self.session.stock
            self.session.jobs.start("Keeping pictures", lambda _job: stock.seen.keep(unkept, stock.to_keep))

    def _sheets_changed(self) -> None:
        self.follow()
        self._tell_apart()

    def _tell_apart(self) -> None:
        """Say that a sheet shows an earlier picture than its file holds, once undo has brought that about."""
        root = str(self.session.folder.path)
        apart = {
            s.id: s
            for s in self.session.document.history.project.sheets
            if all(self._states.get(path) == _state(f"{root}/{path}") for path in s.source.files)
            and self.session.stock.stands_apart(s.source)
        }
        new = [sheet for i, sheet in apart.items() if i not in self._apart]
        self._apart = set(apart)
        if new and not self._busy:
            text = f"{new[0].name} shows its earlier picture again; {new[0].source.path} stays as it is."
            self.session.tell("told", text, "The finding below takes the file's picture.")

    def _look(self) -> None:
        """Find the files whose state is another, and read their sheets again in the background."""
        root = str(self.session.folder.path)
        changed = {path for path, state in self._states.items() if _state(f"{root}/{path}") != state}
        sheets = [
            s for s in self.session.document.history.project.sheets if changed.intersection(s.source.files)
        ]
        self.follow()
        if self._busy or not sheets or self.session.document.read_only:
            if self._busy and sheets:
                self._timer.start()
            return
        self._busy = True
        states = {path: _state(f"{root}/{path}") for path in changed}
        stock = self.session.stock

        def work(job: Job) -> list[tuple[Sheet, Reread | RushweedError | None]]:
            return [(sheet, _read_again(sheet, stock)) for sheet in sheets]

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
        words, before = f"{sheet.name} was changed by another program", session.document.history.project
        if not any(s.id == sheet.id for s in before.sheets):
            return  # it went in the meantime
        if not result.moves:
            session.document.edit(words, lambda p: take_up(p, result, None, stock))
            aside = aside_words(before, session.document.history.project, sheet.id)
            session.tell("told", f"{words}; its new pixels are shown. {aside}".strip())
            return
        best = result.moves[0]
        old = sheet_of(before, sheet.id)

        def choose(move: Moved | None) -> None:
            session.document.edit(words, lambda p: take_up(put_sheet(p, old), result, move, stock))

        choose(best)
        others: list[tuple[str, Callable[[], object]]] = [
            (_button(m), partial(choose, m)) for m in result.moves[1:3] if m.share > 0.02
        ]
        if best.way != Affine() and not any(m.way == Affine() for m in result.moves[1:3]):
            others.append(("Cells stay", partial(choose, None)))
        w, h = result.source.size
        agree = f" ({best.share:.0%} of its px agree)" if best.share else ""
        aside = aside_words(before, session.document.history.project, sheet.id)
        text = f"{sheet.name} is {w} × {h} px now: {best.words}{agree}. {aside}".strip()
        session.ask(text, [("That is right", lambda: None), *others], lambda: None)


def _read_again(sheet: Sheet, stock: PixelCache) -> Reread | RushweedError | None:
    try:
        return reread(sheet, stock)
    except RushweedError as fault:
        return fault


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
