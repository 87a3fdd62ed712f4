"""Starts the application and opens windows on projects."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from threading import Thread

from PyQt6.QtCore import QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from rushweed.app.excepthook import FaultKeeper
from rushweed.app.log import start_log
from rushweed.core import ready
from rushweed.core.document.errors import EditError, RushweedError
from rushweed.core.store.folder import Folder
from rushweed.core.store.reading import HEAD
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.motion import keep_still
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import open_session
from rushweed.ui.session.garbage import GarbageTimer
from rushweed.ui.session.jobs import JobPool
from rushweed.ui.settings import settings, theme_of
from rushweed.ui.shell import Shell
from rushweed.ui.window import Window

MOST_RECENT = 12
SETTLED_MS = 3000  # after which a window is there, and what makes it quicker may be loaded


def recent_projects(saved: QSettings) -> list[Path]:
    """The projects opened of late that are still there, the last first."""
    paths = (Path(text) for text in saved.value("recent", [], list) if isinstance(text, str))
    return [path for path in paths if (path / HEAD).is_file()]


def remember_project(saved: QSettings, path: Path) -> None:
    path = path.absolute()
    rest = [other for other in recent_projects(saved) if other != path]
    saved.setValue("recent", [str(p) for p in (path, *rest)][:MOST_RECENT])


class Application:
    """Holds what all windows share, and the windows."""

    def __init__(self, app: QApplication) -> None:
        self.app = app
        if app.findChild(GarbageTimer) is None:
            GarbageTimer(app)
        sys.setswitchinterval(0.0003)  # the window waits no longer than that for work beside it
        self.settings = settings()
        self.icons = Icons()
        self.look = Look(theme_of(self.settings))
        self.look.apply()
        keep_still(self.settings.value("still", False, bool))
        self.windows: list[Window] = []

    def open(self, path: Path, shell: Shell | None = None) -> Window:
        """A window on a project folder, in a shell that stands on the screen if there is one. Raises
        StoreError if it cannot be opened."""
        session, left = open_session(path, JobPool())
        window = Window(session, self.look, self.icons, self.settings, shell)
        window.projects.of_late = lambda: recent_projects(self.settings)
        window.wants_project.connect(self._wanted)
        self.windows.append(window)
        if shell is None:
            window.show()
        else:
            shell.take(window)
        if session.document.read_only:
            why = "is open in another window, or may not be changed here"
            if session.folder.newer:
                why = "was written by a newer Rushweed"
            session.tell("told", f"{session.project.name} {why}:", "you can look, not edit.")
        elif left:
            window.recovery.offer(left)
        self.settings.setValue("last", str(path))
        remember_project(self.settings, path)
        return window

    def start_anew(self, path: Path) -> None:
        """Close every window, which asks where something is not saved, and begin again with this project."""
        if all(window.close() for window in list(self.windows)):
            self.settings.sync()
            again(path)

    def went_wrong(self, problem: str, cure: str) -> None:
        """A fault that nobody handled: put the edits away and say so, in every window."""
        for window in self.windows:
            if not window.session.document.read_only:
                window.session.saver.keep_edits()
            window.session.tell("fault", problem, cure)

    def _wanted(self, wish: tuple[str, Path]) -> None:
        kind, path = wish
        try:
            if kind == "anew":
                self.start_anew(path)
                return
            if kind == "new":
                Folder.create(path, path.name)
            elif kind == "demo":
                from rushweed.demo.project import build

                build(path)
            self.open(path)
        except RushweedError as error:
            self.windows[-1].session.tell("fault", error.problem, error.cure)


def again(path: Path) -> None:
    """This program in place of itself, on a project."""
    os.execv(sys.executable, [sys.executable, "-m", "rushweed", "open", str(path)])


def project_and_pictures(paths: list[Path]) -> tuple[Path | None, list[Path]]:
    """Of what somebody wants opened the project, if one is named, by its folder or its rushweed.json, and the
    pictures to be taken in. Raises EditError if there are two projects, or a path is not there."""
    projects: list[Path] = []
    pictures: list[Path] = []
    for path in paths:
        if path.name == HEAD and path.is_file():
            path = path.parent
        if not path.exists():
            raise EditError(f"{path} does not exist.", "Check the path; `rushweed new` makes a project.")
        (projects if path.is_dir() else pictures).append(path.absolute())
    if len(projects) > 1:
        raise EditError("Only one project is opened at a time.", "Name one; pictures may stand beside it.")
    return (projects[0] if projects else None), pictures


def begin(app: QApplication, paths: list[Path], trace: bool = False, shell: Shell | None = None) -> int:
    """Open a window, in a shell if one is there, on a project, the last one, or a new empty one, and take in
    the pictures among `paths`; returns the exit code when all is over. With `trace` the log tells every edit
    and job."""
    whole = Application(app)
    FaultKeeper(whole.went_wrong, start_log(trace)).install()
    try:
        path, pictures = project_and_pictures(paths)
        window = whole.open(path or _last(whole.settings), shell)
        if pictures:
            window.take_in(pictures)
    except RushweedError as error:
        print(f"rushweed: {error}", file=sys.stderr)
        return 2
    loader = Thread(target=ready.load_beside, daemon=True)
    QTimer.singleShot(SETTLED_MS, loader.start)
    return app.exec()


def _last(saved: QSettings) -> Path:
    """The project opened last, or a fresh one of the person's own."""
    last = Path(str(saved.value("last", "")))
    if str(last) and (last / "rushweed.json").exists():
        return last
    import platformdirs

    path = Path(platformdirs.user_documents_dir()) / "rushweed" / "my game"
    if not (path / "rushweed.json").exists():
        Folder.create(path, "my game")
    return path
