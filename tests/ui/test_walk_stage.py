"""Walk in the real window: keys, time, runs, the way back to Paint."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from rushweed.core.level.edit import fill
from rushweed.core.level.levels import resize
from rushweed.core.level.stamp import single
from rushweed.core.walk import terms as k
from rushweed.core.walk.walkers import HEAVY
from rushweed.ui.desk.event import event_at
from rushweed.ui.stages.walk.commands import commands
from rushweed.ui.stages.walk.stage import WalkStage
from rushweed.ui.window import Window
from tests.ui.conftest import Hands

Key = Qt.Key
SLOW = 120_000  # ms: the first walk on a machine compiles the mover


def walk_of(hands: Hands, level: str = "pier") -> WalkStage:
    """Go to Walk in a level, and stop time, so that steps are the test's."""
    found = next(v for v in hands.session.project.levels if v.name == level)
    hands.session.selection.choose_level(found.id)
    hands.session.go("walk")
    stage = hands.window.stage("walk")
    assert isinstance(stage, WalkStage)
    wait_for(hands, stage)
    stage.play.pause()
    return stage


def wait_for(hands: Hands, stage: WalkStage) -> None:
    hands.qtbot.waitUntil(lambda: stage.play.ready or stage.play.fault is not None, timeout=SLOW)


def hold(hands: Hands, stage: WalkStage, key: Key, steps: int) -> None:
    """A key held on the Desk while so many steps pass."""
    QTest.keyPress(hands.window.desk, key)
    stage.play.timer.stop()
    stage.play.advance(steps)
    QTest.keyRelease(hands.window.desk, key)


def test_keys_walk_jump_and_stop(hands: Hands) -> None:
    stage = walk_of(hands)
    walk = stage.play.walk
    assert walk is not None
    start = walk.feet[0]
    stage.play.advance(20)
    hold(hands, stage, Key.Key_D, 60)
    assert walk.feet[0] > start + 30 and stage.play.held == 0
    ground = walk.feet[1]
    hold(hands, stage, Key.Key_Space, 40)
    assert walk.feet[1] < ground - 30
    stage.play.advance(90)
    assert walk.feet[1] == ground and stage.play.log.jumps and "u high" in stage.play.log.jumps[-1].text
    assert any(row.kind == "landed" for row in hands.window.walk_log.list.rows)


def test_time_runs_by_the_clock_and_stands_when_focus_is_lost(hands: Hands) -> None:
    stage = walk_of(hands)
    now = [0.0]
    stage.play.clock = lambda: now[0]
    stage.play.go()
    stage.play.timer.stop()
    before = stage.play.walk.step  # type: ignore[union-attr]
    now[0] += 0.1
    stage.play.tick()
    assert stage.play.walk.step == before + 12  # type: ignore[union-attr]
    stage.line.speed.edited.emit("4")
    now[0] += 0.1
    stage.play.tick()
    assert stage.play.walk.step == before + 15  # type: ignore[union-attr]
    now[0] += 30
    stage.play.tick()  # the machine slept: he does not leap
    assert stage.play.walk.step <= before + 15 + 24  # type: ignore[union-attr]
    hands.window.desk.clearFocus()
    stage.focus_lost()
    assert stage.play.paused


def test_time_runs_back_and_the_line_scrubs(hands: Hands) -> None:
    stage = walk_of(hands)
    walk = stage.play.walk
    assert walk is not None
    hold(hands, stage, Key.Key_Right, 120)
    far, last = walk.feet[0], walk.step
    QTest.keyPress(hands.window.desk, Key.Key_Backspace)
    now = [0.0]
    stage.play.clock = lambda: now[0]
    stage.play.last_tick = 0.0
    stage.play.timer.stop()
    now[0] += 0.25
    stage.play.tick()
    assert 59 <= last - walk.step <= 61 and walk.feet[0] < far
    QTest.keyRelease(hands.window.desk, Key.Key_Backspace)
    assert not stage.play.back
    hands.window.desk.repaint()
    line = stage.game.line
    x = line.x_of(10)
    at = QPoint(round(x), round(line.box.center().y()))
    QTest.mouseClick(hands.window.desk, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    assert abs(walk.step - 10) <= 5 and stage.play.paused


def test_one_key_to_walk_where_the_pointer_is_and_back_with_the_view(hands: Hands) -> None:
    hands.open_level("pier")
    desk = hands.window.desk
    desk.zoom_to(2)
    desk.look_at(20 * 16, 9 * 16)
    offset = desk.view.offset
    place = desk.view.to_screen(24 * 16 + 8, 5 * 16).toPoint()
    QTest.mouseMove(desk, place)
    hands.window.stage("paint").hover(event_at(desk.view, _move(place)))
    hands.keys("P")
    stage = hands.window.stage("walk")
    assert isinstance(stage, WalkStage) and hands.session.stage == "walk"
    wait_for(hands, stage)
    assert stage.play.walk is not None and abs(stage.play.walk.start[0] - (24 * 16 + 8)) <= 1
    stage.play.pause()
    hold(hands, stage, Key.Key_Right, 60)
    hands.keys("P")
    assert hands.session.stage == "paint" and desk.view.zoom == 2 and desk.view.offset == offset
    assert hands.session.walked is not None and len(hands.session.walked.path) > 60


def _move(place: QPoint):  # type: ignore[no-untyped-def]
    from PyQt6.QtCore import QEvent, QPointF
    from PyQt6.QtGui import QMouseEvent

    none = Qt.MouseButton.NoButton
    return QMouseEvent(QEvent.Type.MouseMove, QPointF(place), none, none, Qt.KeyboardModifier.NoModifier)


def test_escape_leaves(hands: Hands) -> None:
    walk_of(hands)
    QTest.keyClick(hands.window.desk, Key.Key_Escape)
    assert hands.session.stage == "paint"


def test_shift_press_stands_him_there_and_dragging_carries(hands: Hands) -> None:
    stage = walk_of(hands)
    desk = hands.window.desk
    desk.repaint()
    at = desk.view.to_screen(18 * 16, 11 * 16).toPoint()
    to = at + QPoint(40, -30)
    QTest.mousePress(desk, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at)
    assert stage.play.walk is not None and abs(stage.play.walk.feet[0] - 18 * 16) <= 1
    QTest.mouseRelease(desk, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at)
    wait_for(hands, stage)
    stage.play.pause()
    stage.use("carry")
    desk.repaint()
    began = desk.view.to_content(_pointf(at))
    QTest.mousePress(desk, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    QTest.mouseMove(desk, to)
    QTest.mouseRelease(desk, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, to)
    assert stage.play.walk is not None and abs(stage.play.walk.start[0] - began.x()) < 40


def _pointf(at: QPoint):  # type: ignore[no-untyped-def]
    from PyQt6.QtCore import QPointF

    return QPointF(at)


def test_the_card_changes_the_walker_and_the_walk_goes_on(hands: Hands) -> None:
    stage = walk_of(hands)
    hold(hands, stage, Key.Key_Right, 60)
    feet = stage.play.walk.feet  # type: ignore[union-attr]
    stage.walk_card.kind.edited.emit("heavy")
    assert hands.session.selection.level.walker.run == HEAVY.run  # type: ignore[union-attr]
    wait_for(hands, stage)
    assert abs(stage.play.walk.feet[0] - feet[0]) < 2  # type: ignore[union-attr]
    field = stage.walk_card.number_fields["jump"]
    field.setFocus()
    field.setText("3.5")
    field.textEdited.emit("3.5")
    field.editingFinished.emit()
    level = hands.session.selection.level
    assert level is not None and level.walker is not None and level.walker.jump == 3.5
    assert stage.walk_card.kind.value == "own" and "u/s²" in stage.walk_card.gravity.text()
    hands.session.document.undo()
    hands.session.document.undo()
    assert hands.session.selection.level.walker is None  # type: ignore[union-attr]


def test_runs_are_kept_shown_tested_and_exported(
    hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    stage = walk_of(hands)
    hold(hands, stage, Key.Key_Right, 80)
    stage.play.advance(40)
    end = stage.play.walk.feet  # type: ignore[union-attr]
    stage.runs.keep()
    level = hands.session.selection.level
    assert level is not None and level.runs[-1].end == end
    rows = stage.walk_card.runs
    rows.chosen = level.runs[-1].id
    stage.refresh()
    rows.must.edited.emit(True)
    rows.name.edited.emit("to the ladder")
    run = hands.session.selection.level.runs[-1]  # type: ignore[union-attr]
    assert run.must and run.name == "to the ladder"
    rows.show_run(run.id)
    wait_for(hands, stage)
    stage.play.pause()
    stage.play.advance(run.steps)
    assert stage.play.walk.feet == end  # type: ignore[union-attr]
    stage.runs.test()
    hands.qtbot.waitUntil(lambda: bool(stage.runs.arrived), timeout=20_000)
    assert len(stage.runs.arrived) == 2 and all(stage.runs.arrived.values())
    file = tmp_path / "walk.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(file), ""))
    stage.runs.export()
    assert json.loads(file.read_text())["level"] == level.id
    rows.remove()
    assert len(hands.session.selection.level.runs) == 1  # type: ignore[union-attr]


def test_reach_is_found_beside_the_window_and_a_place_is_walked_to(hands: Hands) -> None:
    stage = walk_of(hands)
    hands.qtbot.waitUntil(lambda: stage.reach.found is not None, timeout=SLOW)
    found = stage.reach.found
    assert found is not None and len(found.places) > 100
    assert "places" in stage.walk_card.reach.lines["reached"].text()
    place = min(found.places, key=lambda p: abs(p.x - 22 * 16) + abs(p.y - 7 * 16))
    stage.reach.aimed = (place.x, place.y)
    stage.runs.show_way()
    wait_for(hands, stage)
    stage.play.pause()
    stage.play.advance(len(stage.play.replaying))
    assert abs(stage.play.walk.feet[1] - place.y) < 40  # type: ignore[union-attr]


def test_keys_can_be_set_and_are_remembered(hands: Hands) -> None:
    stage = walk_of(hands)
    field = stage.walk_card.keys["jump"]
    field.pressed.emit()
    QTest.keyClick(field, Key.Key_J)
    assert stage.keys.action(Key.Key_J) == "jump" and stage.keys.action(Key.Key_Space) == "jump"
    stage.walk_card.keys["left"].edited.emit(int(Key.Key_D))
    assert stage.keys.action(Key.Key_D) == "left" and stage.keys.action(Key.Key_Right) == "right"
    assert "walk_keys/jump" in hands.window.settings.allKeys()
    stage.walk_card.reset_keys()
    assert stage.keys.action(Key.Key_D) == "right"


def test_an_edit_in_paint_changes_the_world(hands: Hands) -> None:
    """The ground under him goes: back in Walk he falls."""
    from rushweed.core.level.brush import rectangle
    from rushweed.core.level.edit import erase

    stage = walk_of(hands)
    level = hands.session.selection.level
    assert level is not None
    layer = next(x.id for x in level.layers if x.name == "Boardwalk")
    hands.session.go("paint")
    hands.session.document.edit("Erase", lambda p: erase(p, level.id, layer, rectangle(10, 12, 29, 12)))
    hands.session.go("walk")
    wait_for(hands, stage)
    stage.play.pause()
    stage.play.advance(60)
    assert stage.play.walk.feet[1] > 12 * 16 + 20  # type: ignore[union-attr]


def test_the_three_ways_to_see_it_and_the_top_view_draw(hands: Hands, qtbot: QtBot) -> None:
    stage = walk_of(hands)
    for mode in ("picture", "window", "both"):
        stage.line.mode.show_value(mode)
        stage._resized()
        stage.line.shapes.show_value(mode == "window")
        assert not hands.window.desk.grab().isNull()
    assert stage.game.box.width() == 256 * hands.window.desk.view.zoom
    stage.game.set_wipe(stage.game.box.topLeft())
    assert stage.game.wipe == 0
    hands.session.selection.choose_level(hands.session.project.levels[1].id)
    wait_for(hands, stage)
    stage.play.pause()
    hold(hands, stage, Key.Key_S, 40)
    assert stage.play.walk.numbers[k.P_TOP] == 1 and not hands.window.desk.grab().isNull()  # type: ignore[union-attr]


def test_a_level_that_cannot_be_walked_is_said_and_the_window_goes_on(hands: Hands) -> None:
    from rushweed.core.level.levels import add_level

    made: list[str] = []

    def add(project):  # type: ignore[no-untyped-def]
        project, level_id = add_level(project, "bare", (16, 16), "side", (8, 8))
        made.append(level_id)
        return project

    hands.session.document.edit("New level", add)
    bank = next(c for c in hands.sheet("boardwalk.png").cells if not c.shapes)
    hands.session.selection.choose_level(made[0])
    level = hands.session.selection.level
    assert level is not None
    hands.session.document.edit(
        "Ground", lambda p: fill(p, level.id, level.layers[0].id, single(bank.id), (0, 0))
    )
    hands.session.go("walk")
    stage = hands.window.stage("walk")
    assert isinstance(stage, WalkStage)
    wait_for(hands, stage)
    assert stage.play.fault is not None and "is solid" in hands.window.notice.words.text()
    middle = stage.game.box.center().toPoint()
    shown = hands.window.desk.grab().toImage()
    assert len({shown.pixelColor(middle.x() + n, middle.y() + n).rgb() for n in range(40)}) > 3  # the level
    hands.qtbot.waitUntil(lambda: "solid" in stage.reach.why, timeout=SLOW)
    answers = [b for b in hands.window.notice.findChildren(QPushButton) if b.text() == "See it from above"]
    hands.press_widget(answers[0])
    hands.qtbot.waitUntil(lambda: stage.play.walk is not None, timeout=SLOW)
    hands.qtbot.waitUntil(lambda: stage.reach.found is not None, timeout=SLOW)
    assert hands.session.document.history.undo_label == "See from above"
    hands.session.selection.choose_level(hands.session.project.levels[0].id)
    hands.qtbot.waitUntil(lambda: stage.play.walk is not None, timeout=SLOW)


def test_all_commands_of_walk_run(hands: Hands, window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    stage = walk_of(hands)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: ("", ""))
    calls: list[Callable[[], object]] = [row.run for row in commands(stage) if row.id != "walk.here"]
    for call in calls:
        call()
        wait_for(hands, stage)
    assert hands.session.stage == "walk"


def test_the_tape_in_paint_tells_whether_he_can_jump_it(hands: Hands) -> None:
    from rushweed.ui.stages.paint.stage import PaintStage
    from rushweed.ui.stages.paint.tools.measure import Measure

    hands.open_level("pier")
    stage = hands.window.stage("paint")
    assert isinstance(stage, PaintStage)
    tape = stage.the(Measure)
    stage.use(tape.id)
    hands.window.desk.zoom_to(2)
    hands.window.desk.look_at(20 * 16, 9 * 16)
    for end, words in (((300, 192), "he jumps it"), ((420, 192), "too wide"), ((260, 120), "too high")):
        hands.drag((240, 192), end)
        assert words in tape.text(), tape.text()


def test_a_place_that_catches_is_a_finding_with_its_cure(hands: Hands) -> None:
    from rushweed.core.document.model.shape import Box
    from rushweed.core.shape.edit import set_shapes

    cell, level = hands.cell("boardwalk.png", "bank_top_c").id, hands.session.project.levels[0].id
    hands.session.document.edit("The part about the start", lambda p: resize(p, level, 0, 0, -36, 0))
    hands.session.document.edit("Half a px", lambda p: set_shapes(p, [cell], (Box(0, -0.5, 16, 16.5),)))
    stage = walk_of(hands)
    hands.qtbot.waitUntil(lambda: stage.reach.found is not None, timeout=SLOW)
    found = [f for f in hands.session.checker.findings if f.rule == "catches"]
    assert found and found[0].fix is not None and found[0].place.spot is not None
    hands.session.show(found[0].place)
    assert hands.session.stage == "walk" and stage.play.paused
    before = stage.reach.found
    hands.session.document.edit("Mend", found[0].fix.edit)
    hands.qtbot.waitUntil(lambda: stage.reach.found not in (None, before), timeout=SLOW)
    assert not [f for f in hands.session.checker.findings if f.rule == "catches"]


def test_without_a_level_there_are_no_numbers_of_a_walker(hands: Hands) -> None:
    stage = walk_of(hands)
    assert stage.walk_card.isVisible()
    hands.session.document.edit("Remove all levels", lambda p: replace(p, levels=()))
    assert not stage.walk_card.isVisible() and stage.empty_words()[0] == "No level yet"
    hands.session.document.undo()
    assert stage.walk_card.isVisible()
