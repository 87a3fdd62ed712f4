"""The project's own files changed by other programs while its window is open."""

from __future__ import annotations

import json
from pathlib import Path

from PyQt6.QtWidgets import QAbstractButton

from rushweed.core.document.edit import rename
from rushweed.core.store.folder import Folder
from rushweed.core.tune.edit import tune_sheets
from rushweed.ui.window import Window
from tests.conftest import named
from tests.ui.conftest import Hands


def change_level(folder: Path, name: str) -> None:
    """As another program does: the file is written anew."""
    path = folder / "levels" / "pier.json"
    data = json.loads(path.read_text())
    data["name"] = name
    path.write_text(json.dumps(data))


def answers(window: Window, words: str) -> list[QAbstractButton]:
    return [b for b in window.notice.findChildren(QAbstractButton) if b.text() == words and b.isVisible()]


def answer(hands: Hands, words: str) -> None:
    hands.wait(lambda: bool(answers(hands.window, words)), 15_000)
    assert "changed both here and outside" in hands.window.notice._words.text()
    answers(hands.window, words)[0].click()


def test_a_level_changed_outside_is_shown_at_once_and_nothing_is_unsaved(
    hands: Hands, demo_folder: Path
) -> None:
    change_level(demo_folder, "harbour")
    hands.wait(lambda: hands.session.project.levels[0].name == "harbour", 15_000)
    assert not hands.session.saver.unsaved and "harbour" in hands.window.notice._words.text()
    hands.session.document.undo()
    assert hands.session.project.levels[0].name == "pier" and hands.session.saver.unsaved


def test_edits_here_and_changes_there_are_saved_together(hands: Hands, demo_folder: Path) -> None:
    wren = hands.sheet("wren.png")
    hands.session.document.edit("Tune", lambda p: tune_sheets(p, [wren.id], ppu=48))
    change_level(demo_folder, "harbour")
    hands.session.saver.save()
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)
    saved = Folder(demo_folder).open()
    assert saved.levels[0].name == "harbour" and named(saved, "wren.png").tune.ppu == 48


def test_the_same_level_changed_on_both_sides_is_asked(
    window: Window, hands: Hands, demo_folder: Path
) -> None:
    level = hands.session.project.levels[0]
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "mine"))
    change_level(demo_folder, "theirs")
    hands.session.saver.save()
    hands.wait(lambda: bool(answers(window, "Keep mine")), 15_000)
    assert json.loads((demo_folder / "levels/pier.json").read_text())["name"] == "theirs"
    answer(hands, "Keep mine")
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)
    assert Folder(demo_folder).open().levels[0].name == "mine"
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "mine again"))
    change_level(demo_folder, "theirs again")
    hands.session.saver.save()
    answer(hands, "Take theirs")
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)
    assert Folder(demo_folder).open().levels[0].name == "theirs again" == hands.session.project.levels[0].name


def test_files_that_make_no_project_yet_are_waited_for(hands: Hands, demo_folder: Path) -> None:
    path = demo_folder / "levels" / "pier.json"
    whole = path.read_text()
    path.write_text(whole[:100])
    hands.qtbot.wait(900)
    assert hands.session.project.levels[0].name == "pier"
    path.write_text(whole.replace('"pier"', '"harbour"', 1))
    hands.wait(lambda: hands.session.project.levels[0].name == "harbour", 15_000)
