"""Escape takes back what was typed, also where it has been shown live already."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from rushweed.core.tune.edit import tune_sheets
from rushweed.ui.kit.fields import NumbersField
from rushweed.ui.window import Window
from tests.ui.conftest import Hands


def typed_and_escaped(hands: Hands, field: NumbersField, text: str) -> None:
    hands.type(field, text, enter=False)
    hands.qtbot.keyClick(field, Qt.Key.Key_Escape)
    hands.qtbot.wait(20)


def test_escape_in_the_cell_field_leaves_the_cut_as_it_was(window: Window, hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    before, field = window.session.document.history.project, window.stage("cut").cell  # type: ignore[attr-defined]
    typed_and_escaped(hands, field, "8x8")
    assert window.session.project is before and window.session.document.history.project is before
    assert field.text() == "16 × 16" and not field.hasFocus()
    hands.type(field, "8x8")
    assert hands.sheet("boardwalk.png").cut.cell == (8, 8)  # type: ignore[union-attr]


def test_escape_before_any_cut_makes_none(window: Window, hands: Hands) -> None:
    hands.open_sheet("lamps.png", "cut")
    assert hands.sheet("lamps.png").cut is None
    typed_and_escaped(hands, window.stage("cut").cell, "20x20")  # type: ignore[attr-defined]
    assert hands.sheet("lamps.png").cut is None and not hands.sheet("lamps.png").cells


def test_escape_takes_the_whole_run_of_live_edits_back(window: Window, hands: Hands, qtbot: QtBot) -> None:
    hands.open_sheet("wren.png", "tune")
    field, before = window.stage("tune").ppu, window.session.document.history.project  # type: ignore[attr-defined]
    hands.type(field, "3", enter=False)
    assert hands.sheet("wren.png").tune.ppu == 3
    qtbot.keyClicks(field, "2")
    qtbot.keyClick(field, Qt.Key.Key_Up)
    assert hands.sheet("wren.png").tune.ppu == 33
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert window.session.document.history.project is before and field.text() == "16"
    assert window.session.document.history.redo_label is None, "what was never wanted cannot be redone"
    hands.type(field, "24")
    assert hands.sheet("wren.png").tune.ppu == 24
    window.session.document.undo()
    assert window.session.document.history.project is before


def test_escape_brings_mixed_values_back(window: Window, hands: Hands) -> None:
    wren, heron = hands.sheet("wren.png"), hands.sheet("heron")
    window.session.document.edit("Tune", lambda p: tune_sheets(p, [heron.id], ppu=20))
    hands.open_sheet("wren.png", "tune")
    window.session.selection.choose_sheets((wren.id, heron.id))
    field = window.stage("tune").ppu  # type: ignore[attr-defined]
    assert field.placeholderText() == "mixed"
    typed_and_escaped(hands, field, "48")
    assert hands.sheet("wren.png").tune.ppu == 16 and hands.sheet("heron").tune.ppu == 20
    assert field.placeholderText() == "mixed" and not field.text()
    hands.type(field, "16")
    assert hands.sheet("heron").tune.ppu == 16, "a number that one of them has already is given to all"


def test_escape_while_a_level_is_resized(window: Window, hands: Hands) -> None:
    hands.open_level("pier")
    card, before = window.stage("paint").card, window.session.document.history.project
    typed_and_escaped(hands, card.level_rows.sides, "10 x 10")  # type: ignore[attr-defined]
    assert window.session.document.history.project is before and window.session.project is before


@pytest.mark.parametrize("stage", ["tune", "shape", "animate"])
def test_no_number_field_keeps_what_was_escaped_from(window: Window, hands: Hands, stage: str) -> None:
    sheet = hands.open_sheet("wren.png", stage)
    window.session.selection.choose_cells((sheet.cells[0].id,), 0 if sheet.cells[0].shapes else None)
    window.session.selection.choose_animation(window.session.project.animations[1].id, (0,))
    before = window.session.document.history.project
    fields = [
        f for f in window.stage(stage).card.findChildren(NumbersField) if f.isVisible() and f.isEnabled()
    ]
    assert fields
    for field in fields:
        typed_and_escaped(hands, field, " ".join(["7"] * field.count))
        assert window.session.document.history.project is before, field.toolTip()
        assert window.session.project is before
