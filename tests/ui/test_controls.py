"""Fields and buttons take values silently and speak only when a person edits."""

from __future__ import annotations

import gc

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QWheelEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from rushweed.core.document.errors import EditError
from rushweed.ui.commands.command import Command, Commands
from rushweed.ui.desk.desk import apart
from rushweed.ui.desk.images import array_of, checker, image_of
from rushweed.ui.desk.view import STEPS, View
from rushweed.ui.kit import theme
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, Chip, IconButton, dots, elided, tag
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import FocusRing
from rushweed.ui.kit.theme import DAY, DUSK, STARK, Look
from rushweed.ui.panels.notice import NoticeStrip
from rushweed.ui.panels.rail import StageTabs
from rushweed.ui.panels.tile_case import groups_of, kind_of
from rushweed.ui.session import TITLES, Notice
from rushweed.ui.session.jobs import How, JobPool

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def look(qapp: QApplication) -> Look:
    made = Look()
    made.apply()
    return made


@pytest.fixture
def icons(qapp: QApplication) -> Icons:
    return Icons()


def heard(signal: object) -> list[object]:
    """Everything a signal says from now on."""
    said: list[object] = []
    signal.connect(said.append)  # type: ignore[attr-defined]
    return said


def shown(widget: QWidget, qtbot: QtBot) -> QWidget:
    qtbot.addWidget(widget)
    widget.show()
    return widget


# -- numbers ------------------------------------------------------------------------------------------


def test_a_number_shown_is_silent_and_a_number_typed_is_told_at_every_key(look: Look, qtbot: QtBot) -> None:
    field = NumbersField(1, "px", Numbers(0, 100), look)
    shown(field, qtbot)
    said = heard(field.edited)
    field.show_value(7)
    assert field.text() == "7" and said == []
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "42")
    assert said == [(4,), (42,)] and field.values == (42,)


def test_two_numbers_are_read_with_any_mark_between(look: Look, qtbot: QtBot) -> None:
    field = NumbersField(2, "px", Numbers(1, 999), look)
    shown(field, qtbot)
    for text, wanted in (("16x24", (16, 24)), ("8, 9", (8, 9)), ("5 × 6 px", (5, 6)), ("12", (12, 12))):
        field.setText("")
        qtbot.keyClicks(field, text)
        assert field.values == wanted, text


@pytest.mark.parametrize("text", ["0", "1000", "abc", "1.5", "-3", "1 2 3", "--"])
def test_what_is_no_number_of_the_range_is_marked_and_not_told(look: Look, qtbot: QtBot, text: str) -> None:
    field = NumbersField(1, "px", Numbers(1, 999), look)
    shown(field, qtbot)
    field.show_value(16)
    said = heard(field.edited)
    field.setFocus()
    field.setText("")
    qtbot.keyClicks(field, text)
    assert 1 <= field.values[0] <= 999 and all(1 <= v[0] <= 999 for v in said)  # type: ignore[index]
    assert field.property("wrong") == "true"
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.property("wrong") == "false" and field.text() == str(int(field.values[0]))


def test_arrows_step_shift_by_ten_and_stop_at_the_ends(look: Look, qtbot: QtBot) -> None:
    field = NumbersField(1, "px", Numbers(0, 25), look)
    shown(field, qtbot)
    field.show_value(8)
    qtbot.keyClick(field, Qt.Key.Key_Up)
    qtbot.keyClick(field, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert field.values == (19,)
    qtbot.keyClick(field, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert field.values == (25,)
    qtbot.keyClick(field, Qt.Key.Key_Down)
    assert field.values == (24,)


def test_the_wheel_changes_only_a_field_in_use(look: Look, qtbot: QtBot) -> None:
    field = NumbersField(1, "px", Numbers(0, 99), look)
    shown(field, qtbot)
    field.show_value(8)

    def turn() -> None:
        centre = QPointF(field.rect().center())
        QApplication.sendEvent(field, QWheelEvent(
            centre, field.mapToGlobal(centre), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False))  # fmt: skip

    field.clearFocus()
    turn()
    assert field.values == (8,)
    qtbot.mouseClick(field, LEFT, pos=QPoint(6, 10))
    field.setFocus()
    if field.hasFocus():
        turn()
        assert field.values == (9,)


def test_dragging_the_unit_changes_the_number_and_settles_once(look: Look, qtbot: QtBot) -> None:
    field = NumbersField(1, "px", Numbers(0, 99), look)
    field.setFixedWidth(80)
    shown(field, qtbot)
    field.show_value(10)
    settled: list[int] = []
    field.settled.connect(lambda: settled.append(1))
    qtbot.mousePress(field, LEFT, pos=QPoint(72, 12))
    qtbot.mouseMove(field, QPoint(76, 12))
    qtbot.mouseMove(field, QPoint(79, 12))
    qtbot.mouseRelease(field, LEFT, pos=QPoint(79, 12))
    assert len(settled) == 1 and field.values[0] >= 10


def test_mixed_values_show_as_mixed_and_escape_takes_typing_back(look: Look, qtbot: QtBot) -> None:
    field = NumbersField(1, "px", Numbers(0, 99), look)
    shown(field, qtbot)
    field.show_value(5)
    field.show_value(None)
    assert field.text() == "" and field.placeholderText() == "mixed"
    field.show_value(5)
    assert field.text() == "5"
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "77")
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "5" and field.values == (5,)


def test_text_is_told_once_at_enter_and_escape_leaves_it(qtbot: QtBot) -> None:
    field = TextField("name")
    shown(field, qtbot)
    said = heard(field.edited)
    field.show_value("lamp")
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "post")
    assert said == []
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert said == ["post"]
    field.setFocus()
    qtbot.keyClicks(field, "xx")
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "post" and said == ["post"]


# -- choices ------------------------------------------------------------------------------------------


def test_a_choice_is_told_only_when_pressed_or_stepped(look: Look, qtbot: QtBot) -> None:
    choice = ChoiceRow(look, [("a", "One"), ("b", "Two"), ("c", "Three")])
    shown(choice, qtbot)
    said = heard(choice.edited)
    choice.show_value("b")
    choice.show_value(None)
    assert said == [] and choice.value is None
    qtbot.mouseClick(choice, LEFT, pos=QPoint(5, 10))
    qtbot.mouseClick(choice, LEFT, pos=QPoint(5, 10))
    qtbot.keyClick(choice, Qt.Key.Key_Right)
    qtbot.keyClick(choice, Qt.Key.Key_Left)
    assert said == ["a", "b", "a"]
    assert not choice.grab().isNull()


def test_a_check_a_button_and_a_chip_answer_pointer_and_keys(look: Look, icons: Icons, qtbot: QtBot) -> None:
    check = Check(look, icons, "Trim")
    button = IconButton(look, icons, "plus", "Add  (A)")
    chip = Chip(look, "16 × 16", "no line cut", True)
    for widget in (check, button, chip):
        shown(widget, qtbot)
    ticks, presses, chips = heard(check.edited), [], []
    button.pressed.connect(lambda: presses.append(1))
    chip.pressed.connect(lambda: chips.append(1))
    check.show_value(True)
    assert ticks == []
    qtbot.mouseClick(check, LEFT)
    qtbot.keyClick(check, Qt.Key.Key_Space)
    assert ticks == [False, True]
    qtbot.mouseClick(button, LEFT)
    qtbot.keyClick(button, Qt.Key.Key_Return)
    button.setEnabled(False)
    qtbot.mouseClick(button, LEFT)
    qtbot.mouseClick(chip, LEFT)
    qtbot.keyClick(chip, Qt.Key.Key_Space)
    assert len(presses) == 2 and len(chips) == 2
    assert button.accessibleName() == "Add  (A)"


def test_the_wheel_over_a_list_changes_nothing(look: Look, qtbot: QtBot) -> None:
    box = PickBox(look, ["top", "bottom"])
    shown(box, qtbot)
    centre = QPointF(box.rect().center())
    event = QWheelEvent(
        centre, box.mapToGlobal(centre), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(box, event)
    assert box.currentText() == "top" and not event.isAccepted()


# -- painting -----------------------------------------------------------------------------------------


def canvas(width: int = 60, height: int = 20) -> QImage:
    image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(0xFF000000)
    return image


def test_dots_say_done_fault_and_open_by_colour_and_shape(look: Look) -> None:
    image = canvas()
    painter = QPainter(image)
    dots(painter, look, 0, 0, ["done", "fault", "open"])
    painter.end()
    assert image.pixelColor(1, 1).name() == DAY.reed.lower()
    assert image.pixelColor(7, 1).name() == DAY.fault.lower()
    assert (
        image.pixelColor(12, 0).name() == DAY.rule_deep.lower()
        and image.pixelColor(13, 1).name() == "#000000"
    )


def test_long_words_are_cut_and_tags_hold_theirs(look: Look) -> None:
    image = canvas(200, 40)
    painter = QPainter(image)
    painter.setFont(look.font(12))
    assert elided(painter, "a very long name of a tile", 60).endswith("…")
    box = tag(painter, look, 4, 4, "16 × 16 px")
    painter.end()
    assert box.width() > 40 and image.pixelColor(8, 6).name() == DAY.art_paper.lower()


def test_images_and_arrays_are_the_same_both_ways(qapp: QApplication, look: Look) -> None:
    import numpy as np

    rgba = np.zeros((5, 7, 4), np.uint8)
    rgba[1:4, 2:6] = (200, 100, 50, 255)
    assert (array_of(image_of(rgba)) == rgba).all()
    assert checker(look).texture().width() == 16


def test_both_themes_have_every_colour_and_readable_ink() -> None:
    def light(code: str) -> float:
        parts = [int(code[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        parts = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    def contrast(a: str, b: str) -> float:
        low, high = sorted((light(a), light(b)))
        return (high + 0.05) / (low + 0.05)

    for colours in (DAY, DUSK):
        for ground in (colours.paper, colours.raised):
            assert contrast(colours.ink, ground) >= 7
            assert contrast(colours.quiet, ground) > 4.2
            assert contrast(colours.reed, ground) > 4.2 and contrast(colours.fault, ground) > 4.2
            assert contrast(colours.rust, ground) > 4.2


def test_every_icon_in_use_is_in_the_face(icons: Icons) -> None:
    import re
    from pathlib import Path

    import rushweed.ui

    text = "\n".join(p.read_text() for p in Path(rushweed.ui.__file__).parent.rglob("*.py"))
    named = set(re.findall(r'IconButton\(\s*(?:self\.)?look, (?:self\.)?icons, "([a-z-]+)"', text))
    named |= set(re.findall(r'Tool\(\s*"\w+",\s*"[^"]+",\s*"([a-z-]+)"', text))
    named |= {
        "warning-circle-fill",
        "info-fill",
        "check-circle",
        "download-simple",
        "lock-simple",
        "eye-slash",
    }
    assert len(named) > 18
    for name in named:
        assert len(icons.glyph(name)) == 1
    assert not icons.icon("plus", Look().colour("ink")).isNull()


# -- the view -----------------------------------------------------------------------------------------


def test_fitting_takes_the_greatest_step_that_fits_and_centres() -> None:
    view, room = View(), QRectF(24, 24, 776, 512)
    view.fit(QRectF(0, 0, 171, 112), room)
    assert view.zoom == 4
    middle = view.to_screen(85.5, 56)
    assert abs(middle.x() - room.center().x()) <= 1 and abs(middle.y() - room.center().y()) <= 1
    view.fit(QRectF(0, 0, 9000, 9000), room)
    assert view.zoom in STEPS and view.zoom < 1 and view.words().startswith("1/")


def test_a_view_nobody_moved_is_fitted_to_another_room() -> None:
    view, content = View(), QRectF(0, 0, 640, 352)
    view.fit(content, QRectF(0, 0, 800, 600))
    assert view.zoom == 1
    view.grow(0, -30, content, QRectF(0, 0, 800, 570))  # a notice comes: all is still in sight
    assert view.zoom == 1 and view.shows_all
    view.grow(-400, 0, content, QRectF(0, 0, 400, 570))
    assert view.zoom == 0.5 and view.to_screen(320, 176).x() == 200
    view.grow(400, 30, content, QRectF(0, 0, 800, 600))
    assert view.zoom == 1
    view.pan(40, 0)
    middle = view.to_screen(320, 176)
    view.grow(-400, 0, content, QRectF(0, 0, 400, 600))  # somebody looks at a part of it: that stays
    assert view.zoom == 1 and view.to_screen(320, 176).x() == middle.x() - 200


def test_content_never_gets_lost_out_of_sight() -> None:
    view, room, content = View(), QRectF(0, 0, 400, 300), QRectF(0, 0, 50, 50)
    view.pan(5000, -5000)
    view.keep_near(content, room)
    assert view.rect(0, 0, 50, 50).intersects(room)


def test_steps_stop_at_the_ends_and_keep_whole_multiples() -> None:
    view, at = View(), QPointF(10, 10)
    seen = []
    for _ in range(30):
        view.step(1, at)
        seen.append(view.zoom)
    assert view.zoom == STEPS[-1] and all(z == int(z) for z in seen)


def test_parts_of_a_repaint_that_overlap_become_one() -> None:
    a, b, c = QRect(0, 0, 10, 10), QRect(5, 5, 10, 10), QRect(40, 40, 5, 5)
    assert sorted(r.width() for r in apart([a, b, c])) == [5, 15]
    chain = [QRect(0, 0, 10, 10), QRect(20, 0, 10, 10), QRect(8, 0, 14, 10)]
    assert apart(chain) == [QRect(0, 0, 30, 10)]


# -- the rail, the notice, the tray, the commands, work --------------------------------------------------


def test_the_rail_shows_a_bar_when_there_are_many_sheets(look: Look, qtbot: QtBot) -> None:
    tabs = StageTabs(look, list(TITLES.items()))
    shown(tabs, qtbot)
    tabs.resize(tabs.sizeHint())
    tabs.show_stage("cut")
    tabs.show_states({"gather": ["done"] * 5})
    few = tabs.grab().toImage().pixelColor(44, 29).name()
    tabs.show_states({"gather": ["done"] * 40 + ["fault"] * 40})
    image = tabs.grab().toImage()
    assert image.pixelColor(20, 29).name() == DAY.reed.lower()
    assert image.pixelColor(70, 29).name() == DAY.fault.lower()
    assert few
    chosen = heard(tabs.chosen)
    qtbot.mouseClick(tabs, LEFT, pos=QPoint(88 * 5 + 10, 10))
    assert chosen == ["paint"]


def test_the_notice_tells_asks_and_shows_progress(look: Look, icons: Icons, qtbot: QtBot) -> None:
    strip = NoticeStrip(look, icons)
    qtbot.addWidget(strip)
    strip.show_notice(Notice("fault", "a.png is empty.", "Save it again."))
    assert strip.isVisibleTo(None) or not strip.isHidden()
    assert strip.words.text() == "a.png is empty. Save it again."
    strip.show_notice(None)
    assert strip.isHidden()
    answers: list[str] = []
    strip.ask("Take back?", [("Yes", lambda: answers.append("yes"))])
    strip.show_notice(None)
    assert not strip.isHidden()
    qtbot.mouseClick(strip.holder.itemAt(0).widget(), LEFT)  # type: ignore[union-attr]
    assert answers == ["yes"] and strip.isHidden()


def test_tiles_are_grouped_by_the_first_word_of_their_name() -> None:
    from rushweed.core.document.model.sheet import Cell
    from tests.conftest import sheet_of_size

    assert [kind_of(n) for n in ("deck_left", "lamp2", "crate", "_x")] == ["deck", "lamp", "crate", "_x"]
    sheet = sheet_of_size(16, 16)
    cells = [Cell(n, n, (0, 0, 8, 8), (0, 0)) for n in ("deck_a", "crate", "post", "deck_b")]
    groups = groups_of([(sheet, c) for c in cells])
    assert [(g.name, len(g.tiles)) for g in groups] == [("deck", 2), ("others", 2)]


def test_commands_are_found_by_any_of_their_words(qtbot: QtBot) -> None:
    window = QWidget()
    qtbot.addWidget(window)
    commands, ran = Commands(window, lambda: "cut"), []
    commands.add([
        Command("a", "Save", ("Ctrl+S",), "Write the project.", lambda: ran.append("save")),
        Command("b", "Mirror the stamp", ("M",), "Across.", lambda: ran.append("m"), stages=("paint",)),
        Command("c", "Mirror the shapes", ("M",), "In each cell.", lambda: ran.append("s"), stages=("cut",)),
        Command("d", "Redo", (), "Again.", lambda: ran.append("redo"), lambda: "Nothing to redo."),
    ])  # fmt: skip
    assert [r.id for r in commands.search("mirror")] == ["c", "b"]
    assert [r.id for r in commands.search("project write")] == ["a"]
    commands._pressed("M")
    commands.run_id("d")
    assert ran == ["s"]


def test_work_brings_results_errors_and_progress_and_drops_what_is_cancelled(qtbot: QtBot) -> None:
    shop = JobPool()
    job = shop.start("Count", lambda job: (job.tell(0.5, "half"), 42)[1])
    steps: list[tuple[float, str]] = []
    job.progress.connect(lambda share, words: steps.append((share, words)))
    with qtbot.waitSignal(job.done) as done:
        pass
    assert done.args == [42]
    qtbot.waitUntil(lambda: steps == [(0.5, "half")])

    def fails(_job: object) -> None:
        raise EditError("No.", "Do it otherwise.")

    def breaks(_job: object) -> None:
        raise ZeroDivisionError("of ours")

    for work, words in ((fails, "No."), (breaks, "fault of Rushweed")):
        job = shop.start("Try", work)
        with qtbot.waitSignal(job.failed) as failed:
            pass
        assert words in str(failed.args[0])
    job = shop.start("Late", lambda job: 1)
    said = heard(job.done)
    job.cancel()
    with qtbot.waitSignal(job.ended):
        pass
    qtbot.wait(20)
    assert said == []


def test_files_are_written_even_when_the_window_closes_at_once(qtbot: QtBot) -> None:
    shop, written = JobPool(), []
    shop.start("Save", lambda job: written.append(1), how=How(writes=True))
    shop.start("Guess", lambda job: written.append(2))
    shop.finish()
    assert written == [1]


def test_the_ring_around_the_focus_goes_quietly_with_its_window(look: Look, qtbot: QtBot) -> None:
    """The focus goes on while a window is taken apart, and the ring is told of it."""
    window, other = QWidget(), QLineEdit()
    qtbot.addWidget(other)
    ring = FocusRing(window, look)
    sip.delete(window)
    ring.follow(None, other)


def test_a_part_that_is_gone_is_dressed_no_more(qtbot: QtBot) -> None:
    look, left = Look(), QWidget()
    parts = [QWidget() for _ in range(20)]
    for part in (*parts, left):
        look.dress(part)
        part.kept = (part, look)  # type: ignore[attr-defined]  # in a circle, as widgets are
    look.set_theme("dusk")
    sip.delete(parts[0])
    del part, parts
    gc.collect()
    qtbot.waitUntil(lambda: not look.dressing)
    assert DUSK.ink in left.styleSheet()
    look.set_theme("day")
    qtbot.waitUntil(lambda: not look.dressing)
    assert DAY.ink in left.styleSheet()


def test_a_large_part_is_dressed_piece_by_piece(qtbot: QtBot) -> None:
    look, card = Look(), QWidget()
    box = QVBoxLayout(card)
    for n in range(2 * theme.MOST_IN_PART):
        box.addWidget(QLineEdit(str(n)))
    area = scrolled(card)
    qtbot.addWidget(area)
    look.dress(area)
    assert not area.styleSheet()
    bars = area.verticalScrollBar().parentWidget()
    assert bars is not None
    dressed = [bars, *card.findChildren(QLineEdit)]
    assert all(DAY.ink in part.styleSheet() for part in dressed)
    look.set_theme("dusk")
    qtbot.waitUntil(lambda: not look.dressing)
    assert not area.styleSheet()
    assert all(DUSK.ink in part.styleSheet() for part in dressed)
    for part in dressed[10:]:
        sip.delete(part)
    look.set_theme("stark")
    qtbot.waitUntil(lambda: not look.dressing)
    assert all(STARK.ink in part.styleSheet() for part in dressed[:10]), "fewer now, but still by pieces"


def test_what_is_not_shown_yet_waits_for_its_rules_until_it_is(qtbot: QtBot) -> None:
    look, page, never = Look(), QWidget(), QWidget()
    box = QVBoxLayout(page)
    fields = [QLineEdit() for _ in range(2 * theme.MOST_IN_PART)]
    for field in fields:
        box.addWidget(field)
    fields[-1].hide()
    for part in (page, never):
        qtbot.addWidget(part)
        look.dress_later(part)
    look.dress_now(page)
    assert [bool(field.styleSheet()) for field in fields] == [True] * (len(fields) - 1) + [False]
    assert not never.styleSheet()
    qtbot.waitUntil(lambda: not look.dressing)
    assert DAY.ink in fields[-1].styleSheet() and DAY.ink in never.styleSheet()
