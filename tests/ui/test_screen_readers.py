"""What a screen reader is told of drawn controls: their places, the chosen one, that they can be pressed."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QRadioButton, QWidget

from rushweed.core.document.edit import remove_sheet
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.readers import ALWAYS, tell_readers, tell_readers_if_any
from tests.ui.conftest import Hands


def told(control: QWidget) -> dict[str, QRadioButton]:
    found = control.findChildren(QRadioButton, options=Qt.FindChildOption.FindDirectChildrenOnly)
    return {one.accessibleName(): one for one in found if not one.isHidden()}


def test_stages_choices_and_lists_tell_their_places(hands: Hands) -> None:
    window, tabs = hands.window, hands.window.rail.tabs
    hands.open_sheet("boardwalk.png", "cut")
    assert not told(tabs)  # nobody listens
    tell_readers(window)
    hands.wait(lambda: len(told(tabs)) == 8)
    assert told(tabs)["Cut"].isChecked() and not told(tabs)["Paint"].isChecked()
    told(tabs)["Paint"].click()
    hands.wait(lambda: hands.session.stage == "paint" and not told(tabs)["Cut"].isChecked())
    assert told(tabs)["Paint"].isChecked()
    hands.open_sheet("boardwalk.png", "cut")
    shelf = window.shelf.list
    hands.wait(lambda: any(name.startswith("wren.png") for name in told(shelf)))
    wren = next(one for name, one in told(shelf).items() if name.startswith("wren.png"))
    wren.click()
    hands.wait(lambda: hands.session.selection.sheet is not None)
    assert hands.session.selection.sheet.name == "wren.png"  # type: ignore[union-attr]
    row = next(
        c
        for c in window.stage("cut").option_line.findChildren(ChoiceRow)
        if c.isVisible() and len(c.choices) > 2
    )
    hands.wait(lambda: len(told(row)) == len(row.choices))
    words = row.choices[1][1]
    told(row)[words].click()
    assert row.value == row.choices[1][0]
    hands.wait(lambda: told(row)[words].isChecked())


def test_they_are_never_in_the_way(hands: Hands) -> None:
    tell_readers(hands.window)
    tabs = hands.window.rail.tabs
    hands.wait(lambda: len(told(tabs)) == 8)
    plain = tabs.grab().toImage()
    for one in told(tabs).values():
        assert one.testAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        assert one.focusPolicy() == Qt.FocusPolicy.NoFocus
        one.hide()
    assert tabs.grab().toImage() == plain
    hands.press_widget(tabs, 10)
    assert hands.session.stage == "gather"


def test_places_come_and_go_with_what_is_in_sight(hands: Hands) -> None:
    shelf = hands.window.shelf.list
    tell_readers(hands.window)
    hands.wait(lambda: any(name.startswith("wren.png") for name in told(shelf)))
    hands.session.document.edit("Remove", lambda p: remove_sheet(p, hands.sheet("wren.png").id))
    hands.wait(lambda: not any(name.startswith("wren.png") for name in told(shelf)))
    hands.session.document.undo()
    hands.wait(lambda: any(name.startswith("wren.png") for name in told(shelf)))
    film = hands.window.strip.film
    hands.open_sheet("wren.png", "cut")
    hands.wait(lambda: "idle_0" in told(film))
    assert len(told(film)) < len(hands.sheet("wren.png").cells)  # what is scrolled away is not told
    told(film)["idle_0"].click()
    assert hands.session.selection.cell.name == "idle_0"  # type: ignore[union-attr]
    hands.open_sheet("eel.bmp", "cut")
    hands.wait(lambda: bool(told(film)) and "idle_0" not in told(film))
    assert not any(
        one.isChecked() for one in told(hands.window.rail.plate).values()
    )  # nothing is chosen there
    assert all(
        one.geometry().intersects(shelf.visibleRegion().boundingRect()) for one in told(shelf).values()
    )


def test_they_are_there_where_the_environment_says_so(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv(ALWAYS, raising=False)
    tell_readers_if_any(hands.window)
    hands.qtbot.wait(200)
    assert not told(hands.window.rail.tabs)
    monkeypatch.setenv(ALWAYS, "1")
    tell_readers_if_any(hands.window)
    tell_readers_if_any(hands.window)  # once more changes nothing
    hands.wait(lambda: len(told(hands.window.rail.tabs)) == 8)
