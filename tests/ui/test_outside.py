"""The project's own files changed by other programs while its window is open."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from rushweed.core.document.edit import rename
from rushweed.core.document.model.level import TileLayer
from rushweed.core.level.edit import paint
from rushweed.core.level.stamp import single
from rushweed.core.store.folder import Folder
from rushweed.core.tune.edit import tune_sheets
from rushweed.ui.panels.both_sides import BothSidesBoard
from tests.conftest import named
from tests.ui.conftest import Hands


def change_level(folder: Path, name: str) -> None:
    """As another program does: the file is written anew."""
    path = folder / "levels" / "pier.json"
    data = json.loads(path.read_text())
    data["name"] = name
    path.write_text(json.dumps(data))


def asked(hands: Hands) -> BothSidesBoard:
    board = hands.window.later.both_sides
    hands.wait(board.isVisible, 15_000)
    return board


def press(hands: Hands, widget: QWidget) -> None:
    hands.qtbot.mouseClick(widget, Qt.MouseButton.LeftButton)


def test_a_level_changed_outside_is_shown_at_once_and_nothing_is_unsaved(
    hands: Hands, demo_folder: Path
) -> None:
    change_level(demo_folder, "harbour")
    hands.wait(lambda: hands.session.project.levels[0].name == "harbour", 15_000)
    assert not hands.session.saver.unsaved and "harbour" in hands.window.notice.words.text()
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


def settled(hands: Hands) -> None:
    hands.wait(lambda: not hands.session.saver.unsaved and not hands.session.saver.saving, 15_000)


def test_the_same_level_changed_on_both_sides_is_asked_with_both_shown(
    hands: Hands, demo_folder: Path
) -> None:
    level = hands.session.project.levels[0]
    layer = next(x for x in level.layers if isinstance(x, TileLayer))
    spot = np.array([2]), np.array([3])
    stamp = single(level.table[0])
    hands.session.document.edit("Paint", lambda p: paint(p, level.id, layer.id, stamp, spot))
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "mine"))
    change_level(demo_folder, "theirs")
    hands.session.saver.save()
    board = asked(hands)
    here, there = board.sides[level.id]
    assert "1 tile painted" in here.facts and "was pier" in here.facts and "was pier" in there.facts
    assert not here.image.isNull() and here.image != there.image
    assert json.loads((demo_folder / "levels/pier.json").read_text())["name"] == "theirs"
    assert here.chosen and not there.chosen
    press(hands, board.done)
    settled(hands)
    assert Folder(demo_folder).open().levels[0].name == "mine" and not board.isVisible()
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "mine again"))
    change_level(demo_folder, "theirs again")
    hands.session.saver.save()
    press(hands, asked(hands).sides[level.id][1])
    press(hands, board.done)
    settled(hands)
    assert Folder(demo_folder).open().levels[0].name == "theirs again" == hands.session.project.levels[0].name


def test_each_part_changed_on_both_sides_is_chosen_by_itself_and_later_edits_count(
    hands: Hands, demo_folder: Path
) -> None:
    level, wren = hands.session.project.levels[0], hands.sheet("wren.png")
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "mine"))
    hands.session.document.edit("Tune", lambda p: tune_sheets(p, [wren.id], ppu=48))
    change_level(demo_folder, "theirs")
    other = Folder(demo_folder)
    theirs = tune_sheets(other.open(), [wren.id], ppu=8)
    other.save(theirs)
    board = asked(hands)
    hands.session.document.edit("Gutter", lambda p: tune_sheets(p, [hands.sheet("crate.png").id], gutter=3))
    press(hands, board.sides[wren.id][1])
    press(hands, board.done)
    project = hands.session.project
    assert project.levels[0].name == "mine" and named(project, "wren.png").tune.ppu == 8
    assert named(project, "crate.png").tune.gutter == 3


def test_a_question_left_for_later_saves_nothing_and_comes_again_with_the_next_save(
    hands: Hands, demo_folder: Path
) -> None:
    level = hands.session.project.levels[0]
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "mine"))
    change_level(demo_folder, "theirs")
    board = asked(hands)
    hands.qtbot.keyClick(board, Qt.Key.Key_Escape)
    assert not board.isVisible() and hands.session.project.levels[0].name == "mine"
    hands.session.saver.save()
    press(hands, asked(hands).done)
    settled(hands)
    assert Folder(demo_folder).open().levels[0].name == "mine"


def test_files_that_make_no_project_yet_are_waited_for(hands: Hands, demo_folder: Path) -> None:
    path = demo_folder / "levels" / "pier.json"
    whole = path.read_text()
    path.write_text(whole[:100])
    hands.qtbot.wait(900)
    assert hands.session.project.levels[0].name == "pier"
    path.write_text(whole.replace('"pier"', '"harbour"', 1))
    hands.wait(lambda: hands.session.project.levels[0].name == "harbour", 15_000)
