"""Saving by itself, and going back to an earlier save, in the real window."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from rushweed.core.document.edit import rename
from rushweed.core.document.model.project import FORMAT
from rushweed.core.store.folder import Folder
from rushweed.ui.app import Application
from rushweed.ui.window import Window
from tests.ui.conftest import Hands


def renamed(hands: Hands, name: str) -> None:
    level = hands.session.project.levels[0]
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, name))


def saved(hands: Hands) -> None:
    hands.session.saver.save()
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)


def test_an_earlier_save_is_listed_with_its_picture_and_gone_back_to(
    window: Window, hands: Hands, qtbot: QtBot
) -> None:
    for name in ("one", "two", "three"):
        renamed(hands, name)
        saved(hands)
    window.commands.run_id("file.earlier")
    shown = window.later.earlier.list
    hands.wait(lambda: shown.count() == 3 and window.later.earlier.isVisible(), 15_000)
    assert "\npier" in shown.item(0).text() and not shown.item(0).icon().isNull()
    shown.setCurrentRow(1)
    qtbot.keyClick(shown, Qt.Key.Key_Return)
    assert hands.session.project.levels[0].name == "two" and hands.session.saver.unsaved
    assert not window.later.earlier.isVisible()
    hands.keys("Ctrl+Z")
    assert hands.session.project.levels[0].name == "three"


def test_the_window_saves_by_itself_unless_told_not_to(
    window: Window, hands: Hands, demo_folder: Path
) -> None:
    renamed(hands, "by itself")
    window.later.autosave.save()
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)
    assert Folder(demo_folder).open().levels[0].name == "by itself"
    window.commands.run_id("file.autosave")
    assert "only when you ask" in window.notice.words.text()
    renamed(hands, "not by itself")
    window.later.autosave.save()
    hands.qtbot.wait(100)
    assert hands.session.saver.unsaved and not hands.session.saver.saving
    window.commands.run_id("file.autosave")
    window.later.autosave.application_left(Qt.ApplicationState.ApplicationInactive)
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)


def test_a_save_asked_while_one_is_under_way_takes_in_what_came_between(
    hands: Hands, demo_folder: Path
) -> None:
    renamed(hands, "first")
    hands.session.saver.save()
    assert hands.session.saver.saving
    renamed(hands, "second")
    hands.session.saver.save()
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving)
    assert Folder(demo_folder).open().levels[0].name == "second"


def test_a_window_that_was_closed_without_saving_saves_nothing_later(
    window: Window, hands: Hands, demo_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    renamed(hands, "not wanted")
    monkeypatch.setattr(
        "rushweed.ui.window.may_close", lambda _window: True
    )  # as "Close without saving" answers
    window.close()
    window.later.autosave.application_left(Qt.ApplicationState.ApplicationInactive)
    window.later.autosave.save()
    assert not window.session.document.edit("Rename", lambda p: p) and not window.later.watch._watcher.files()
    hands.qtbot.wait(200)
    assert Folder(demo_folder).open().levels[0].name == "pier"


def test_a_project_of_a_newer_format_is_opened_to_look_at(
    application: Application, demo_folder: Path, qtbot: QtBot
) -> None:
    head = demo_folder / "rushweed.json"
    head.write_text(head.read_text().replace(f'"format": {FORMAT}', f'"format": {FORMAT + 1}'))
    window = application.open(demo_folder)
    window.complete()
    qtbot.wait(100)
    assert window.session.document.read_only and "newer Rushweed" in window.notice.words.text()
    level = window.session.project.levels[0]
    assert not window.session.document.edit("Rename", lambda p: rename(p, level.id, "quay"))
