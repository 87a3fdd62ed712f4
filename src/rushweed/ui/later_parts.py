"""What a window needs only once it is on screen; not even its modules are read before."""

from __future__ import annotations

from rushweed.ui.commands.finder import Finder
from rushweed.ui.first_hour import FirstHour
from rushweed.ui.kit.readers import tell_readers_if_any
from rushweed.ui.opened import Opened
from rushweed.ui.panels.both_sides import BothSidesBoard
from rushweed.ui.panels.earlier import EarlierSaves
from rushweed.ui.projects import Projects
from rushweed.ui.session.autosave import Autosave
from rushweed.ui.session.outside import Outside
from rushweed.ui.session.watch import Watch
from rushweed.ui.window_frame import WindowFrame


class LaterParts:
    """What can be opened over the window, and what it does by itself."""

    def __init__(self, window: WindowFrame, projects: Projects) -> None:
        session = window.session
        self.window, self.projects = window, projects
        self.finder = Finder(window.look, window.commands, window)
        self.autosave = Autosave(session, window.settings)
        self.earlier = EarlierSaves(session, window)
        self.first_hour = FirstHour(window, projects)
        self.opened = Opened(window, self.autosave, self.first_hour.steps)
        for part in (self.finder, self.earlier, self.opened.edits):
            window.look.dress(part)
        window.findings.wants_all.connect(self.opened.open_findings)
        for button in (window.rail.undo, window.rail.redo):
            button.pressed_aside.connect(self.opened.open_edits)
        window.rail.finder.pressed.connect(self.open_finder)

    def open_finder(self) -> None:
        rail, window = self.window.rail, self.window
        corner = rail.finder.mapTo(window, rail.finder.rect().bottomRight())
        self.finder.open(corner.x() + 1, corner.y() + 3)

    def watch_outside(self) -> None:
        """Follow what becomes of the pictures and of the project's files."""
        window = self.window
        self.watch, self.outside = Watch(window.session), Outside(window.session)
        self.both_sides = BothSidesBoard(window.look, window.session, window)
        self.outside.asked.connect(self.both_sides.ask)
        tell_readers_if_any(window)

    def stop(self) -> None:
        """Nothing more by itself."""
        self.autosave.stop()
        self.outside.stop()
        self.watch.stop()
