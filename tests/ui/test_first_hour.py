"""What a newcomer meets: ways to begin, first steps, the guide, all edits, projects of late, themes."""

import os
from dataclasses import fields
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from bench.guide import made
from rushweed.core.document.edit import rename
from rushweed.core.store.folder import Folder
from rushweed.core.tune.figure import plain_figure
from rushweed.ui import app as app_module
from rushweed.ui.app import Application, recent_projects, remember_project
from rushweed.ui.kit.theme import THEMES, Colours, Look
from rushweed.ui.panels.first_steps import STEPS
from rushweed.ui.panels.guide import PAGE
from rushweed.ui.session import STAGES
from rushweed.ui.settings import OWN_SIZE, use_size
from rushweed.ui.stages.walk.keys import USUAL, name_of
from tests.ui.conftest import Hands

TEXT = ("ink", "quiet", "reed", "rust", "straw_deep", "fault")
GROUNDS = ("paper", "raised", "straw_wash", "rust_wash")


# -- themes --------------------------------------------------------------------------------------------


def brightness(colour: str) -> float:
    """Relative luminance, as WCAG 2 counts it."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


@pytest.mark.parametrize("name", THEMES)
def test_all_text_can_be_read_on_all_grounds(name: str) -> None:
    theme, least = THEMES[name], 7.0 if name == "stark" else 4.5
    for text in TEXT:
        for ground in GROUNDS:
            high, low = sorted(map(brightness, (getattr(theme, text), getattr(theme, ground))), reverse=True)
            assert (high + 0.05) / (low + 0.05) >= least, (text, ground)


def test_a_theme_of_an_older_rushweed_is_kept(qapp: object, tmp_path: Path) -> None:
    look = Look("no such theme")
    assert look.theme == "day"
    look.set_theme("stark")
    assert {f.name: look.colour(f.name).name().upper() for f in fields(Colours)}["paper"] == "#FFFFFF"


# -- ways to begin -------------------------------------------------------------------------------------


@pytest.fixture
def newcomer(application: Application, tmp_path: Path, qtbot: QtBot) -> Hands:
    Folder.create(tmp_path / "my game", "my game")
    made = application.open(tmp_path / "my game")
    made.resize(1280, 800)
    made.complete()
    hands = Hands(made, qtbot)
    hands.wait(lambda: made.isVisible())
    return hands


def test_an_empty_shelf_offers_ways_to_begin(newcomer: Hands, demo_folder: Path) -> None:
    window = newcomer.window
    asked = []
    window.wants_project.connect(asked.append)
    assert window.later.first_hour.welcome.isVisible() and len(window.later.first_hour.welcome.buttons) == 3
    assert window.desk.rect().contains(window.later.first_hour.welcome.geometry())
    window.take_in([demo_folder / "art" / "wren.png"])
    newcomer.wait(lambda: bool(newcomer.session.project.sheets))
    assert not window.later.first_hour.welcome.isVisible()
    newcomer.session.document.undo()
    newcomer.wait(lambda: window.later.first_hour.welcome.isVisible())


def test_projects_of_late_are_a_press_away(
    newcomer: Hands, application: Application, demo_folder: Path
) -> None:
    application.open(demo_folder)
    window = newcomer.window
    asked: list[tuple[str, Path]] = []
    window.wants_project.connect(asked.append)
    assert [p.name for p in window.projects.recent()] == ["tidelamp", "my game"]
    window.later.first_hour.welcome.show_recent(window.projects.recent()[:1])
    press = next(
        b
        for b in window.later.first_hour.welcome.findChildren(
            type(window.later.first_hour.welcome.buttons[0])
        )
        if b.text() == "tidelamp"
    )
    newcomer.press_widget(press)
    assert asked == [("open", demo_folder)]


def test_projects_that_are_gone_are_not_offered(tmp_path: Path) -> None:
    saved = QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat)
    for n in range(15):
        Folder.create(tmp_path / f"p{n}", f"p{n}")
        remember_project(saved, tmp_path / f"p{n}")
    remember_project(saved, tmp_path / "p3")
    assert [p.name for p in recent_projects(saved)][:3] == ["p3", "p14", "p13"]
    assert len(recent_projects(saved)) == 12
    (tmp_path / "p14" / "rushweed.json").unlink()
    assert [p.name for p in recent_projects(saved)][:2] == ["p3", "p13"]


def test_the_first_steps_watch_what_is_done(newcomer: Hands, demo_folder: Path) -> None:
    window, steps = newcomer.window, newcomer.window.later.first_hour.steps
    assert steps.isVisible() and steps.heading.text() == "Bring in a picture"
    window.take_in([demo_folder / "art" / "wren.png"])
    newcomer.wait(lambda: bool(newcomer.session.project.sheets))
    assert steps.done[0] and steps.heading.text() != "Bring in a picture"
    shown = steps.now
    newcomer.session.document.edit("Nothing", lambda p: replace(p, name="other"))
    assert steps.now == shown
    newcomer.press_widget(steps.go_button)
    steps.close_for_good()
    assert steps.isHidden() and window.settings.value("first_steps") == "closed"
    window.commands.run_id("view.steps")
    assert steps.isVisible()


def test_the_first_steps_make_room_for_what_asks(newcomer: Hands) -> None:
    window, steps = newcomer.window, newcomer.window.later.first_hour.steps
    assert steps.isVisible()
    window.desk.asks.emit(True)
    assert steps.isHidden() and steps.open
    steps.begin()
    assert steps.isHidden()
    window.desk.asks.emit(False)
    assert steps.isVisible()
    window.desk.asks.emit(True)
    steps.close_for_good()
    window.desk.asks.emit(False)
    assert steps.isHidden() and not steps.open


def test_the_first_steps_never_lie_over_the_ways_to_begin(newcomer: Hands, tmp_path: Path) -> None:
    window, steps = newcomer.window, newcomer.window.later.first_hour.steps
    welcome = window.later.first_hour.welcome
    assert steps.isVisible() and not welcome.geometry().intersects(steps.geometry())
    welcome.show_recent([tmp_path / f"p{n}" for n in range(5)])
    for high in (640, 800, 1000, 640):
        window.resize(1280, high)
        newcomer.qtbot.wait(30)
        assert steps.open and steps.isVisible() == (not welcome.geometry().intersects(steps.geometry()))
    assert steps.isHidden()
    steps.refresh()
    assert steps.isHidden()
    welcome.hide()
    steps.avoid(None)
    assert steps.isVisible()


def test_the_steps_name_keys_that_are_so(hands: Hands) -> None:
    how = {step.stage: step.how for step in STEPS}
    assert f"{name_of(USUAL['jump'][0])} jumps" in how["walk"]
    assert {"Ctrl+L"} == set(hands.window.commands.row("paint.new").keys) and "Ctrl+L" in how["paint"]
    assert {step.stage for step in STEPS} <= set(STAGES)


def test_on_a_whole_project_the_steps_need_only_walking_and_shipping(hands: Hands) -> None:
    steps = hands.window.later.first_hour.steps
    assert steps.isHidden() and not hands.window.later.first_hour.welcome.isVisible()
    steps.begin()
    assert steps.done == [True] * 5 + [False] * 2 and steps.heading.text() == "Walk in it"
    hands.open_level("pier")
    hands.session.go("walk")
    assert steps.heading.text() == "Ship it"
    hands.session.note_shipped(hands.session.project)
    assert steps.heading.text() == "That is the whole way"


def test_a_stranger_is_measured_by_a_plain_figure(newcomer: Hands, demo_folder: Path) -> None:
    proof = newcomer.window.proof
    proof.refresh()
    assert np.array_equal(proof.props.figure, plain_figure())


def test_a_projects_own_character_stands_in_the_proof(hands: Hands) -> None:
    proof = hands.window.proof
    proof.refresh()
    assert proof.props.figure.shape == (32, 24, 4) and not np.array_equal(proof.props.figure, plain_figure())
    hands.session.document.edit("No states", lambda p: replace(
        p, sheets=tuple(replace(s, states=()) for s in p.sheets)))  # fmt: skip
    proof.refresh()
    assert np.array_equal(proof.props.figure, plain_figure())


# -- the guide -----------------------------------------------------------------------------------------


def test_the_guide_in_the_package_is_that_of_the_docs() -> None:
    assert PAGE.read_text(encoding="utf-8") == made(), "run: python -m bench.guide"


def test_f1_opens_the_guide_at_the_stage(hands: Hands) -> None:
    for stage in STAGES:
        hands.session.go(stage)
        hands.keys("F1")
        guide = hands.window.later.opened.guide
        assert guide is not None and guide.isVisible()
        assert guide.places[guide.heads.currentRow()] == stage
        cursor = guide.page.cursorForPosition(guide.page.viewport().rect().topLeft())  # type: ignore[union-attr]
        block = cursor.block()
        assert stage in block.text().lower() or stage in block.next().text().lower()
        guide.close()
        hands.window.activateWindow()
        hands.wait(lambda: hands.window.isActiveWindow())


def test_words_are_found_in_the_guide(hands: Hands) -> None:
    hands.keys("F1")
    guide = hands.window.later.opened.guide
    assert guide is not None
    hands.qtbot.keyClicks(guide.search, "onion")
    count = int(guide.found_words.text().split()[0])
    assert count == len(guide.page.extraSelections()) > 0
    guide.find_next()
    assert guide.page.textCursor().selectedText().lower() == "onion"
    hands.qtbot.keyClicks(guide.search, "xyzzy")
    assert guide.found_words.text() == "0 found" and not guide.page.extraSelections()
    hands.qtbot.keyClick(guide, Qt.Key.Key_Escape)
    assert not guide.isVisible()


# -- all edits -----------------------------------------------------------------------------------------


def test_one_press_goes_back_and_forth_among_all_edits(hands: Hands) -> None:
    session, window = hands.session, hands.window
    level = session.project.levels[0].id
    names = ["quay", "mole", "jetty", "dock"]
    for name in names:
        session.document.edit(f"Call it {name}", lambda p, name=name: rename(p, level, name))
    hands.keys("Ctrl+Alt+Z")
    shown = window.later.opened.edits
    words = [shown.list.item(n).text() for n in range(shown.list.count())]  # type: ignore[union-attr]
    assert words == ["Call it dock", "Call it jetty", "Call it mole", "Call it quay", "As it was opened"]
    shown.list.itemClicked.emit(shown.list.item(3))
    assert session.project.levels[0].name == "quay" and session.document.history.redo_label == "Call it mole"
    window.later.opened.open_edits()
    assert shown.head.text() == "1 made, 3 undone" and shown.list.currentRow() == 3
    shown.list.itemClicked.emit(shown.list.item(0))
    assert session.project.levels[0].name == "dock"
    window.later.opened.open_edits()
    shown.list.itemClicked.emit(shown.list.item(4))
    assert session.project.levels[0].name == "pier" and session.document.history.undo_label is None


def test_the_right_button_on_undo_lists_the_edits(hands: Hands) -> None:
    hands.session.document.edit("Other name", lambda p: replace(p, name="other"))
    hands.qtbot.mouseClick(hands.window.rail.undo, Qt.MouseButton.RightButton)
    assert hands.window.later.opened.edits.isVisible()
    hands.qtbot.keyClick(hands.window.later.opened.edits, Qt.Key.Key_Escape)
    assert not hands.window.later.opened.edits.isVisible() and hands.session.project.name == "other"


# -- settings ------------------------------------------------------------------------------------------


def test_settings_hold_at_once_and_show_what_is(hands: Hands) -> None:
    window = hands.window
    hands.keys("Ctrl+Alt+S")
    board = window.later.opened.settings
    assert board is not None and board.isVisible() and board.theme.value == "day" and board.saves.on
    board.theme.edited.emit("stark")
    assert window.look.theme == "stark" and window.settings.value("theme") == "stark"
    for check in (board.saves, board.tray, board.steps):
        hands.press_widget(check)
    assert (
        not window.later.autosave.on
        and window.parts.tray_is_aside
        and not window.later.first_hour.steps.isHidden()
    )
    hands.qtbot.keyClick(board, Qt.Key.Key_Escape)
    window.later.opened.open_settings()
    shown = board.theme.value, board.saves.on, board.tray.on, board.steps.on
    assert shown == ("stark", False, True, True)


def test_the_size_of_all_holds_from_the_next_start(
    hands: Hands, application: Application, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = hands.window
    window.later.opened.open_settings()
    board = window.later.opened.settings
    assert board is not None and board.scale.value == "100" and board.anew.isHidden()
    board.scale.choose(3)
    assert window.settings.value("size", 100, int) == 150 and not board.anew.isHidden()
    begun: list[Path] = []
    monkeypatch.setattr(app_module, "again", begun.append)
    hands.press_widget(board.anew)
    assert begun == [hands.session.folder.path] and not window.isVisible()
    monkeypatch.delenv("QT_SCALE_FACTOR", raising=False)
    monkeypatch.setenv(OWN_SIZE, "")
    use_size(window.settings)
    assert os.environ["QT_SCALE_FACTOR"] == "1.5"
    assert window.settings.value("size_now", 0, int) == 150


def test_a_size_of_the_environment_goes_first(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    hands.window.settings.setValue("size", 200)
    monkeypatch.setenv("QT_SCALE_FACTOR", "1.25")
    monkeypatch.delenv(OWN_SIZE, raising=False)
    use_size(hands.window.settings)
    assert os.environ["QT_SCALE_FACTOR"] == "1.25"


def test_nothing_moves_by_itself_on_request(hands: Hands) -> None:
    window = hands.window
    window.proof.mode.edited.emit("turns")
    assert window.proof.ticks.isActive()
    window.keep_still(True)
    assert not window.proof.ticks.isActive() and QApplication.cursorFlashTime() == 0
    assert window.settings.value("still", False, bool)
    window.keep_still(False)
    assert QApplication.cursorFlashTime() > 0


def test_a_picture_opens_in_the_program_that_is_named(hands: Hands, tmp_path: Path) -> None:
    written = tmp_path / "opened.txt"
    script = tmp_path / "draw it"
    script.write_text(f'#!/bin/sh\necho "$1|$2" > "{written}"\n')
    script.chmod(0o755)
    hands.open_sheet("wren.png", "gather")
    hands.keys("Ctrl+Alt+S")
    board = hands.window.later.opened.settings
    assert board is not None
    hands.type(board.editor, f'"{script}" --fast')
    board.hide()
    hands.window.commands.run_id("gather.open")
    hands.wait(lambda: written.exists() and written.read_text().endswith("wren.png\n"))
    assert written.read_text().startswith("--fast|")
    hands.window.settings.setValue("editor", str(tmp_path / "nowhere"))
    hands.window.commands.run_id("gather.open")
    assert "could not be started" in hands.window.notice.words.text()


def test_a_size_that_is_none_is_passed_over(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    hands.window.settings.setValue("size", "large")
    monkeypatch.setenv("QT_SCALE_FACTOR", "1")
    monkeypatch.setenv(OWN_SIZE, "1")
    use_size(hands.window.settings)
    assert os.environ["QT_SCALE_FACTOR"] == "1"


def test_the_art_is_shown_though_a_stage_is_turned_to_before_it_was_read(
    application: Application, demo_folder: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    monkeypatch.setattr("rushweed.ui.session.session.READ_AT_ONCE", 0)
    window = application.open(demo_folder)
    window.complete()
    window.turn_to("tune")
    assert not window.desk.images.ready
    qtbot.waitUntil(lambda: window.session.stage == "tune" and window.desk.images.ready, timeout=15_000)
