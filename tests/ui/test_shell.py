"""The window stands on the screen before it is loaded, and comes into what stands there."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from rushweed.core.document.edit import rename
from rushweed.core.store.folder import Folder
from rushweed.ui.app import Application
from rushweed.ui.desk.images import array_of
from rushweed.ui.kit.theme import Look
from rushweed.ui.shell import Shell
from rushweed.ui.window import Window


@pytest.fixture
def shell(application: Application, qapp: QApplication) -> Iterator[Shell]:
    made = Shell(Look("dusk"), application.settings)
    made.show_at_once(qapp)
    yield made
    made.deleteLater()


@pytest.fixture
def inside(application: Application, shell: Shell, demo_folder: Path, qtbot: QtBot) -> Window:
    made = application.open(demo_folder, shell)
    qtbot.waitExposed(shell)
    made.complete()
    qtbot.wait(20)
    return made


def test_it_is_painted_in_the_theme_before_there_is_a_project(shell: Shell) -> None:
    drawn = array_of(shell.grab().toImage())[..., :3].reshape(-1, 3)
    for role in ("paper", "rule", "reed", "rust", "ink"):
        colour = shell.look.colour(role)
        wanted = np.array((colour.red(), colour.green(), colour.blue()))
        assert (drawn == wanted).all(1).any(), role


def test_a_window_comes_into_it_and_is_worked_as_one_on_its_own(
    shell: Shell, inside: Window, qtbot: QtBot
) -> None:
    assert not inside.isWindow() and inside.size() == shell.size() and inside.on_screen is shell
    assert shell.windowTitle() == "Tidelamp - Rushweed"
    shell.activateWindow()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is inside.desk)
    qtbot.keyClick(inside.desk, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    assert inside.desk.view.zoom == 3
    level = inside.session.project.levels[0].id
    inside.session.document.edit("Rename", lambda p: rename(p, level, "quay"))
    assert shell.windowTitle() == "*Tidelamp - Rushweed"
    qtbot.keyClick(inside.desk, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert inside.session.project.levels[0].name == "pier"


def test_closed_by_its_title_bar_it_asks_what_is_in_it(
    shell: Shell, inside: Window, answers: list[str], demo_folder: Path
) -> None:
    level = inside.session.project.levels[0].id
    inside.session.document.edit("Rename", lambda p: rename(p, level, "quay"))
    answers += ["Stay", "Save and close"]
    assert not shell.close() and shell.isVisible() and inside.isVisible()
    inside.session.document.edit("Rename", lambda p: rename(p, level, "mole"))  # it goes on
    assert shell.close() and not shell.isVisible() and not answers
    assert Folder(demo_folder).open().levels[0].name == "mole"


def test_closed_from_within_it_leaves_the_screen_and_comes_back_where_it_was(
    application: Application, shell: Shell, inside: Window
) -> None:
    shell.resize(800, 640)
    inside.close()
    assert not shell.isVisible()
    again = Shell(Look("day"), application.settings)
    assert (again.width(), again.height()) == (800, 640)


SCRIPT = """
import sys
from rushweed.ui import shell
painted = shell.Shell.paintEvent
def first(self, event):
    painted(self, event)
    print("painted", *(name for name in ("numpy", "typer", "msgspec", "PIL") if name in sys.modules))
    sys.exit(0)
shell.Shell.paintEvent = first
sys.argv = ["rushweed", sys.argv[1]]
from rushweed.__main__ import main
main()
"""


def test_nothing_heavy_is_loaded_before_it_is_painted(demo_folder: Path, tmp_path: Path) -> None:
    settings = {"QT_QPA_PLATFORM": "offscreen", "RUSHWEED_SETTINGS": str(tmp_path / "s.ini")}
    ran = subprocess.run(
        [sys.executable, "-c", SCRIPT, str(demo_folder)],
        env={**os.environ, **settings}, capture_output=True, text=True, timeout=60,
    )  # fmt: skip
    assert ran.stdout == "painted\n", ran.stderr
