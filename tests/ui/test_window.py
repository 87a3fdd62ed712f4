"""The window as a whole: stages, zoom, finder, themes, saving, second windows, dropped files."""

import re
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QFocusEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton, QScrollBar, QWidget
from pytestqt.qtbot import QtBot

from rushweed.core.document.edit import rename
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store.folder import Folder
from rushweed.core.store.recovery import recovered
from rushweed.ui.app import Application
from rushweed.ui.session import STAGES
from rushweed.ui.window import Window
from tests.ui.conftest import MIDDLE, Hands


def wheel(hands: Hands, at: QPoint, turn: int) -> None:
    desk = hands.window.desk
    event = QWheelEvent(
        QPointF(at), desk.mapToGlobal(QPointF(at)), QPoint(), QPoint(0, turn), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(desk, event)


def test_each_stage_shows_its_options_its_card_and_draws(hands: Hands) -> None:
    seen = set()
    for index, stage in enumerate(STAGES):
        hands.press_widget(hands.window.rail.tabs, x=44 + 88 * index, y=14)
        assert hands.session.stage == stage
        assert hands.window.stages[stage].option_line.isVisible()
        assert hands.window.stages[stage].card.isVisible()
        hands.qtbot.wait(60)
        image = hands.window.grab().toImage()
        seen.add(bytes(image.scaled(64, 40).bits().asstring(64 * 40 * 4)))
    assert len(seen) == len(STAGES)


def test_the_wheel_zooms_at_the_pointer(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    view, at = hands.window.desk.view, QPoint(300, 250)
    under = view.to_content(QPointF(at))
    before = view.zoom
    wheel(hands, at, 120)
    assert view.zoom > before
    moved = view.to_content(QPointF(at)) - under
    assert abs(moved.x()) < 0.5 and abs(moved.y()) < 0.5
    for _ in range(30):
        wheel(hands, at, -120)
    assert view.zoom == 0.0625
    hands.keys("Ctrl+0")
    assert view.zoom >= 3 and view.zoom == int(view.zoom)


def test_middle_button_and_space_pan(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    desk, view = hands.window.desk, hands.window.desk.view
    start = QPointF(view.offset)
    hands.drag((20, 20), (40, 30), button=MIDDLE)
    assert view.offset != start
    start, chosen = QPointF(view.offset), hands.session.selection.cell_ids
    hands.qtbot.keyPress(desk, Qt.Key.Key_Space)
    hands.drag((20, 20), (30, 20))
    hands.qtbot.keyRelease(desk, Qt.Key.Key_Space)
    assert view.offset.x() > start.x() and hands.session.selection.cell_ids == chosen


def test_the_finder_runs_what_is_typed_and_says_why_not(hands: Hands) -> None:
    window = hands.window
    hands.keys("Ctrl+Shift+F")
    assert window.later.finder.isVisible()
    hands.qtbot.keyClicks(window.later.finder.field, "go to shape")
    hands.qtbot.keyClick(window.later.finder.field, Qt.Key.Key_Return)
    assert hands.session.stage == "shape" and not window.later.finder.isVisible()
    hands.keys("Ctrl+Shift+F")
    hands.qtbot.keyClicks(window.later.finder.field, "redo")
    assert window.later.finder.rows[0].needs() == "There is nothing to redo."
    hands.qtbot.keyClick(window.later.finder.field, Qt.Key.Key_Return)
    assert window.later.finder.isVisible()
    hands.qtbot.keyClick(window.later.finder.field, Qt.Key.Key_Escape)
    assert not window.later.finder.isVisible()


def test_every_command_has_words_and_no_key_means_two_things_in_one_stage(hands: Hands) -> None:
    rows = hands.window.commands.rows
    assert len({r.id for r in rows}) == len(rows) > 60
    for stage in STAGES:
        keys = [k for r in rows if not r.stages or stage in r.stages for k in r.keys]
        assert len(keys) == len(set(keys)), sorted(k for k in keys if keys.count(k) > 1)


def test_themes_change_the_colours_and_are_remembered(application: Application, hands: Hands) -> None:
    day = hands.pixel(hands.window.rail, 700, 20)
    hands.keys("Ctrl+Shift+D")
    assert (day, hands.pixel(hands.window.rail, 700, 20)) == ("#f3eee2", "#24211c")
    assert application.settings.value("theme") == "dusk"
    hands.keys("Ctrl+Shift+D")
    assert hands.pixel(hands.window.rail, 700, 20) == "#ffffff" and hands.window.look.theme == "stark"
    hands.keys("Ctrl+Shift+D")
    assert hands.pixel(hands.window.rail, 700, 20) == day


def test_edits_are_saved_and_found_again(hands: Hands, demo_folder: Path) -> None:
    session = hands.session
    session.document.edit("Rename", lambda p: rename(p, p.levels[0].id, "quay"))
    assert hands.window.windowTitle().startswith("*")
    hands.wait(
        lambda: (
            "kept safe" in session.saver.save_state()[1] and (demo_folder / ".rushweed/kept.json").exists()
        )
    )
    hands.keys("Ctrl+S")
    hands.wait(lambda: not session.saver.unsaved and not session.saver.saving)
    assert Folder(demo_folder).open().levels[0].name == "quay"
    assert session.saver.save_state()[1].startswith("Saved") and not hands.window.windowTitle().startswith(
        "*"
    )
    assert not (demo_folder / ".rushweed/kept.json").exists()


def test_a_save_that_fails_says_so_and_the_edits_stay(hands: Hands, demo_folder: Path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    from rushweed.core.store import files

    def full(_handle: int) -> None:
        raise OSError(28, "No space left on device")

    session = hands.session
    monkeypatch.setattr(files.os, "fsync", full)
    session.document.edit("Rename", lambda p: rename(p, p.levels[0].id, "quay"))
    hands.keys("Ctrl+S")
    hands.wait(lambda: not session.saver.saving)
    hands.wait(lambda: hands.window.notice.isVisible())
    assert "no space" in hands.window.notice.words.text() and session.saver.unsaved
    monkeypatch.undo()
    hands.keys("Ctrl+S")
    hands.wait(lambda: not session.saver.unsaved)


def test_a_second_window_on_the_project_may_look_only(
    application: Application, hands: Hands, demo_folder: Path
) -> None:
    second = application.open(demo_folder)
    assert second.session.document.read_only and second.notice.isVisible()
    before = second.session.project
    assert not second.session.document.edit("Rename", lambda p: rename(p, p.levels[0].id, "x"))
    assert second.session.project is before and not hands.session.document.read_only


def test_edits_of_a_window_that_was_killed_are_offered_and_taken_back(
    application: Application, demo_folder: Path, qtbot: QtBot
) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    folder.keep(rename(project, project.levels[0].id, "quay"), 3)
    window = application.open(demo_folder)
    assert question(window) == "3 edits" and window.session.project.levels[0].name == "pier"
    press(window, "Take them back", qtbot)
    assert window.session.project.levels[0].name == "quay" and window.session.saver.edits == 3
    assert not window.recovery.isVisible()
    window.session.document.undo()
    assert window.session.project.levels[0].name == "pier"


def question(window: Window) -> str:
    """The number of edits that the strip asks about, empty if it does not ask."""
    found = re.search(r"\d+ edits?", window.recovery.words.text())
    return found[0] if window.recovery.isVisible() and found else ""


def press(window: Window, words: str, qtbot: QtBot) -> None:
    holder = window.recovery.holder
    buttons = [holder.itemAt(i).widget() for i in range(holder.count())]
    qtbot.mouseClick(next(b for b in buttons if b.text() == words), Qt.MouseButton.LeftButton)


def test_edits_left_behind_outlive_other_edits_saves_notices_and_another_opening(
    application: Application, demo_folder: Path, qtbot: QtBot
) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    folder.keep(rename(project, project.levels[0].id, "quay"), 3)
    window = application.open(demo_folder)
    window.session.document.edit("Rename", lambda p: rename(p, p.levels[1].id, "flats"))
    window.session.tell("fault", "Something else happened.")
    window.session.saver.save()
    qtbot.waitUntil(lambda: not window.session.saver.unsaved, timeout=15_000)
    assert question(window) == "3 edits"
    window.close()
    again = application.open(demo_folder)
    assert question(again) == "3 edits" and again.session.project.levels[1].name == "flats"
    press(again, "Take them back", qtbot)
    assert again.session.project.levels[0].name == "quay"
    again.session.saver.save()
    qtbot.waitUntil(lambda: not again.session.saver.unsaved, timeout=15_000)
    again.close()
    assert question(application.open(demo_folder)) == ""


def test_discarding_asks_once_more_and_what_was_discarded_can_be_taken_back(
    application: Application, demo_folder: Path, qtbot: QtBot
) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    folder.keep(rename(project, project.levels[0].id, "quay"), 2)
    window = application.open(demo_folder)
    window.complete()
    press(window, "Discard ...", qtbot)
    press(window, "Back", qtbot)
    assert question(window) == "2 edits"
    press(window, "Discard ...", qtbot)
    press(window, "Discard", qtbot)
    assert question(window) == "" and window.session.project.levels[0].name == "pier"
    window.commands.run_id("file.recovered")
    holder = window.recovery.holder
    words = holder.itemAt(0).widget().text()
    assert words.startswith("2 edits")
    press(window, words, qtbot)
    assert window.session.project.levels[0].name == "quay"


def test_closing_asks_and_each_answer_does_what_it_says(
    application: Application, window: Window, hands: Hands, answers: list[str], demo_folder: Path
) -> None:
    hands.session.document.edit("Rename", lambda p: rename(p, p.levels[0].id, "quay"))
    answers += ["Stay", "Save and close"]
    assert not window.close() and window.isVisible()
    assert window.close() and not answers
    assert Folder(demo_folder).open().levels[0].name == "quay"
    again = application.open(demo_folder)
    again.session.document.edit("Rename", lambda p: rename(p, p.levels[0].id, "wharf"))
    answers += ["Close without saving"]
    assert again.close()
    fresh = Folder(demo_folder)
    assert fresh.open().levels[0].name == "quay" and fresh.kept() is None
    (left,) = recovered(fresh)
    assert left.answer == "discarded" and left.project().levels[0].name == "wharf"


def test_dropped_pictures_join_the_shelf_and_bad_ones_are_named(
    hands: Hands, picture, tmp_path: Path
) -> None:  # type: ignore[no-untyped-def]
    (tmp_path / "bad.png").write_bytes(b"words")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in (tmp_path / "bad.png", picture("mine.png", 48, 48))])
    drop = QDropEvent(
        QPointF(400, 400), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier, QEvent.Type.Drop,
    )  # fmt: skip
    hands.window.event(drop)
    hands.wait(lambda: any(s.name == "mine.png" for s in hands.session.project.sheets))
    assert hands.session.selection.sheet is not None and hands.session.selection.sheet.name == "mine.png"
    assert "bad.png" in hands.window.notice.words.text()
    hands.keys("Ctrl+Z")
    assert all(s.name != "mine.png" for s in hands.session.project.sheets)


def test_a_finding_is_shown_at_its_place_and_fixed(hands: Hands) -> None:
    bar = hands.window.findings
    hands.open_sheet("boardwalk.png", "paint")
    hands.wait(lambda: bool(hands.session.checker.findings))
    assert bar.finding is not None and "9 px below row 5" in bar.finding.text
    hands.press_widget(bar.show_button)
    assert hands.session.stage == "cut"
    count = len(hands.session.checker.findings)
    hands.press_widget(bar.fix_button)
    hands.wait(lambda: len(hands.session.checker.findings) == count - 1)
    assert hands.session.document.history.undo_label == "Call it waste"


def test_panel_edges_are_remembered(application: Application, window: Window, demo_folder: Path) -> None:
    window.parts.across.setSizes([240, 700, 340])
    sizes = window.parts.across.sizes()
    window.close()
    again = application.open(demo_folder)
    again.resize(window.size())
    assert abs(again.parts.across.sizes()[0] - sizes[0]) <= 2


def test_an_empty_project_says_what_to_do(application: Application, tmp_path: Path, qtbot: QtBot) -> None:
    Folder.create(tmp_path / "empty", "Empty")
    window = application.open(tmp_path / "empty")
    for stage in STAGES:
        window.session.go(stage)
        qtbot.wait(20)
        assert window.desk.scene.view_key() == "" and all(window.desk.scene.empty_words())
        assert not window.grab().isNull()
    window.stages["paint"].level_work.new_level()  # type: ignore[attr-defined]
    assert "no sheet is cut" in window.notice.words.text()


def test_a_large_picture_is_read_beside_the_window_before_it_is_shown(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = hands.session
    sheet, small, stock = hands.sheet("wren.png"), hands.sheet("marsh.png"), hands.session.stock
    large = replace(sheet, source=replace(sheet.source, size=(4096, 4096)))
    read: list[str] = []

    class Slow(PixelCache):
        def holds(self, asked: Sheet) -> bool:
            return asked is not large or bool(read)

        def pixels_or_blank(self, asked: Sheet) -> np.ndarray:
            if asked is large:
                read.append(asked.name)
            return stock.pixels_or_blank(sheet if asked is large else asked)

    monkeypatch.setattr(session, "stock", Slow(stock.folder))
    shown: list[str] = []
    session.bring([large], lambda: shown.append("large"))
    assert not shown, "it waits"
    hands.wait(lambda: shown == ["large"])
    assert read == ["wren.png"]
    read.clear()
    session.bring([large], lambda: shown.append("never"))
    session.bring([small], lambda: shown.append("small"))
    assert shown == ["large", "small"], "what is chosen later goes first"
    hands.qtbot.wait(200)
    assert shown == ["large", "small"]


def test_a_desk_that_goes_while_it_has_the_focus_raises_nothing(window: Window) -> None:
    """What Python no longer needs is emptied before Qt removes it."""
    desk = window.desk
    held = dict(desk.__dict__)
    desk.__dict__.clear()
    try:
        QApplication.sendEvent(desk, QFocusEvent(QEvent.Type.FocusOut))
    finally:
        desk.__dict__.update(held)


def test_nothing_that_is_seen_is_without_the_rules_of_the_theme(hands: Hands) -> None:
    """Large parts get them in pieces: what is in none of these would look like no part of the window."""

    def is_bare(part: QWidget) -> bool:
        known: QWidget | None = part
        while known is not None and not known.styleSheet():
            known = known.parentWidget()
        return known is None

    for stage in STAGES:
        hands.window.turn_to(stage)
        seen = [
            part
            for kind in (QLineEdit, QPushButton, QComboBox, QScrollBar)
            for part in hands.window.findChildren(kind)
            if part.isVisible()
        ]
        assert seen and not [(stage, type(part).__name__) for part in seen if is_bare(part)]
