"""What a person is drawing survives what comes in between, and selections survive what it takes away."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QEvent, Qt
from pytestqt.qtbot import QtBot

from rushweed.core.document.model.level import TileLayer
from rushweed.core.level.chunks import region
from rushweed.core.level.layers import change_layer
from rushweed.core.level.stamp import single
from rushweed.core.shape.edit import give_common
from rushweed.ui.window import Window
from tests.ui.conftest import LEFT, NONE, Hands


def tiles(hands: Hands, name: str, area: tuple[int, int, int, int]) -> np.ndarray:
    level = hands.session.selection.level
    assert level is not None
    layer = next(x for x in level.layers if x.name == name)
    assert isinstance(layer, TileLayer)
    return region(layer.tiles, *area)


def press(hands: Hands, x: float, y: float, kind: QEvent.Type, held: Qt.MouseButton = LEFT) -> None:
    none = Qt.MouseButton.NoButton
    button = none if kind == QEvent.Type.MouseMove else LEFT
    hands.event(kind, hands.at(x, y), button, held, NONE)


def begin_stroke(hands: Hands, row: int) -> None:
    hands.open_level("pier", "Rails and lamps")
    hands.session.selection.choose_stamp(single(hands.cell("boardwalk.png", "post").id))
    hands.keys("B")
    press(hands, 3 * 16 + 8, row * 16 + 8, QEvent.Type.MouseMove, Qt.MouseButton.NoButton)
    press(hands, 3 * 16 + 8, row * 16 + 8, QEvent.Type.MouseButtonPress)
    for column in range(4, 8):
        press(hands, column * 16 + 8, row * 16 + 8, QEvent.Type.MouseMove)


def end_stroke(hands: Hands, row: int) -> None:
    press(hands, 7 * 16 + 8, row * 16 + 8, QEvent.Type.MouseButtonRelease, Qt.MouseButton.NoButton)


def test_a_stroke_outlives_a_picture_that_changes_on_disk_in_its_middle(
    window: Window, hands: Hands, qtbot: QtBot
) -> None:
    begin_stroke(hands, 1)
    path = window.session.folder.path / hands.sheet("marsh.png").source.path
    old = hands.sheet("marsh.png").source.sha256
    rgba = np.array(Image.open(path).convert("RGBA"))
    rgba[:8, :8] = (200, 10, 10, 255)
    Image.fromarray(rgba).save(path)
    hands.wait(lambda: hands.sheet("marsh.png").source.sha256 != old)
    assert (tiles(hands, "Rails and lamps", (3, 1, 5, 1)) > 0).all(), (
        "what is being drawn stays on the screen"
    )
    end_stroke(hands, 1)
    assert (tiles(hands, "Rails and lamps", (3, 1, 5, 1)) > 0).all()
    window.session.document.undo()
    assert not tiles(hands, "Rails and lamps", (3, 1, 5, 1)).any()
    assert hands.sheet("marsh.png").source.sha256 != old, "undoing the stroke leaves the new picture"


def test_undo_in_the_middle_of_a_stroke_takes_only_the_stroke_back(window: Window, hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    window.session.document.edit(
        "Name", lambda p: give_common(p, [hands.cell("boardwalk.png", "post").id], "full", "solid", "top")
    )
    before = window.session.document.history.project
    begin_stroke(hands, 1)
    window.session.document.undo()
    end_stroke(hands, 1)
    assert window.session.project is before


def test_an_edit_that_takes_the_ground_from_a_stroke_ends_it_and_says_so(
    window: Window, hands: Hands
) -> None:
    begin_stroke(hands, 1)
    level, layer = window.session.selection.level_id, window.session.selection.layer_id
    window.session.document.edit("Lock", lambda p: change_layer(p, level, layer, locked=True))
    assert "was stopped" in window.notice.words.text()
    end_stroke(hands, 1)
    assert not tiles(hands, "Rails and lamps", (3, 1, 5, 1)).any()


def test_shapes_that_are_selected_can_be_brushed_away(window: Window, hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "shape")
    cell = next(c for c in sheet.cells if c.shapes)
    x, y, w, h = cell.rect
    hands.session.selection.choose_cells((cell.id,), len(cell.shapes) - 1)
    hands.keys("E")
    hands.click(x + w / 2, y + h / 2)
    assert not hands.cell("boardwalk.png", cell.name).shapes and hands.session.selection.shape_index is None


def test_a_box_just_drawn_can_be_erased_and_the_second_shape_given_over(window: Window, hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "shape")
    cell = next(c for c in sheet.cells if c.name == "post")
    x, y, w, h = cell.rect
    hands.keys("B")
    for inset in (1, 3):
        hands.drag((x + inset, y + inset), (x + w - inset, y + h - inset))
    assert hands.session.selection.shape_index == len(hands.cell("boardwalk.png", "post").shapes) - 1 > 0
    hands.keys("G")
    hands.click(x + w / 2, y + h / 2)
    assert len(hands.cell("boardwalk.png", "post").shapes) == 1
    hands.keys("E")
    hands.click(x + w / 2, y + h / 2)
    assert not hands.cell("boardwalk.png", "post").shapes


def test_painting_on_a_hidden_layer_is_said_and_the_layer_can_be_shown(window: Window, hands: Hands) -> None:
    hands.open_level("pier", "Rails and lamps")
    level, layer = window.session.selection.level_id, window.session.selection.layer_id
    window.session.document.edit("Hide", lambda p: change_layer(p, level, layer, shown=False))
    begin_stroke(hands, 1)
    assert window.stage("paint").state.warned.short == "hidden"  # type: ignore[attr-defined]
    end_stroke(hands, 1)
    assert window.notice.isVisible() and "Rails and lamps is hidden" in window.notice.words.text()
    hands.press_widget(window.notice.holder.itemAt(0).widget())
    assert window.session.selection.layer is not None and window.session.selection.layer.shown


def test_erasing_what_lies_on_another_layer_offers_to_go_there(window: Window, hands: Hands) -> None:
    begin_stroke(hands, 1)
    end_stroke(hands, 1)
    level = window.session.selection.level
    assert level is not None
    window.session.selection.choose_layer(next(x.id for x in level.layers if x.name == "Bank"))
    hands.keys("E")
    hands.click(4 * 16 + 8, 24)
    assert "Bank holds nothing there, Rails and lamps does." in window.notice.words.text()
    hands.press_widget(window.notice.holder.itemAt(0).widget())
    assert (
        window.session.selection.layer is not None
        and window.session.selection.layer.name == "Rails and lamps"
    )


@pytest.mark.parametrize("stage", ["gather", "cut", "tune", "shape"])
@pytest.mark.parametrize("sheet", ["boardwalk.png", "eel.bmp", "wren.png"])
def test_what_any_tool_does_in_one_drag_is_undone_in_one_step(hands: Hands, stage: str, sheet: str) -> None:
    hands.open_sheet(sheet, stage)
    history, made, changed = hands.session.document.history, hands.window.stage(stage), []
    for tool in made.tools:
        made.use(tool.id)
        before, steps = hands.session.project, history.place
        wide, high = hands.session.selection.sheet.source.size  # type: ignore[union-attr]
        hands.drag((wide * 0.2, high * 0.2), (wide * 0.5, high * 0.4), (wide * 0.8, high * 0.7))
        hands.session.jobs.finish()
        hands.keys("Escape")
        if hands.is_one_step(before, steps, tool.id):
            changed.append(tool.id)
    assert changed or stage == "gather", "else nothing was tried"
