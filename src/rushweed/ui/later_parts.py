"""What a window needs only once it is on screen; not even its modules are read before."""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING

from rushweed.ui.commands.finder import Finder
from rushweed.ui.first_hour import FirstHour
from rushweed.ui.kit.readers import tell_readers_if_any
from rushweed.ui.opened import Opened
from rushweed.ui.panels.both_sides import BothSidesBoard
from rushweed.ui.panels.earlier import EarlierSaves
from rushweed.ui.session.autosave import Autosave
from rushweed.ui.session.outside import Outside
from rushweed.ui.session.watch import Watch
from rushweed.ui.window_commands import window_commands

if TYPE_CHECKING:
    from rushweed.ui.window import Window


def add_boards(window: Window) -> None:
    """What can be opened, and the commands of the window and of all stages."""
    session = window.session
    window.finder = Finder(window.look, window.commands, window)
    window.autosave = Autosave(session, window.settings)
    window.earlier = EarlierSaves(session, window)
    window.opened = Opened(window)
    window.first_hour = FirstHour(window)
    for part in (window.finder, window.earlier, window.opened.edits):
        window.look.dress(part)
    stages = window.stages
    window.commands.add(window_commands(window))
    for key, stage in stages.items():
        of_the_stage = importlib.import_module(f"rushweed.ui.stages.{key}.commands")
        window.commands.add(of_the_stage.commands(stage))


def watch_outside(window: Window) -> None:
    """Follow what becomes of the pictures and of the project's files."""
    window.watch = Watch(window.session)
    window.outside = Outside(window.session)
    window.both_sides = BothSidesBoard(window.look, window.session, window)
    window.outside.asked.connect(window.both_sides.ask)
    tell_readers_if_any(window)
    window.findings.wants_all.connect(window.opened.open_findings)
