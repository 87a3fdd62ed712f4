"""Tools of Paint as objects: a new one is a class and a place in the table."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, Qt

from rushweed.core.level.brush import rectangle
from rushweed.core.level.chunks import region
from rushweed.core.level.edit import paint
from rushweed.core.level.stamp import single
from rushweed.ui.stages.paint.stage import PaintStage
from rushweed.ui.stages.paint.tools import TOOLS, toolbox
from rushweed.ui.stages.paint.tools.tool import PaintTool, Place
from tests.ui.conftest import LEFT, NONE, RIGHT, Hands

NONE_HELD = Qt.MouseButton.NoButton


class Diamond(PaintTool):
    """A made-up tool: the stamp on the four corners around the press."""

    id, words, icon, key, help = "diamond", "Diamond", "diamond", "", "Press the middle of a diamond"
    paints = True

    def dragged(self, start: Place, end: Place, at: object) -> None:
        stamp, ids = self.ready_stamp(), self.ids
        x, y = end
        for xs, ys in (rectangle(x - 1, y, x - 1, y), rectangle(x + 1, y, x + 1, y)):
            self.session.document.edit(
                "Draw a diamond", lambda p, spots=(xs, ys): paint(p, *ids, stamp, spots)
            )


@pytest.fixture
def with_diamond(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(toolbox, "TOOLS", (*TOOLS, Diamond))


def held_cells(hands: Hands) -> int:
    layer, level = hands.session.selection.layer, hands.session.selection.level
    assert layer is not None and level is not None
    return int((region(layer.tiles, *level.bounds) > 0).sum())


def test_a_made_up_tool_needs_its_class_and_a_place_in_the_table(with_diamond: None, hands: Hands) -> None:
    hands.open_level("pier", "Boardwalk")
    column = hands.window.tool_column
    assert "diamond" in column.buttons and "Press the middle" in column.buttons["diamond"].toolTip()
    hands.press_widget(column.buttons["diamond"])
    hands.session.selection.choose_stamp(single(hands.cell("boardwalk.png", "deck_mid_a").id))
    before = held_cells(hands)
    hands.window.desk.look_at(10 * 16, 2 * 16)
    hands.click(10 * 16 + 8, 2 * 16 + 8)
    assert held_cells(hands) == before + 2
    hands.drag((9 * 16 + 8, 2 * 16 + 8), (9 * 16 + 9, 2 * 16 + 9), button=RIGHT)
    assert held_cells(hands) == before + 1, "the right button erases with any tool that lays the stamp"


def test_escape_in_a_stroke_takes_it_back_and_lets_the_tool_go(hands: Hands) -> None:
    hands.open_level("pier", "Boardwalk")
    stage = hands.window.stage("paint")
    assert isinstance(stage, PaintStage)
    hands.keys("E")
    before, desk = held_cells(hands), hands.window.desk
    layer, level = hands.session.selection.layer, hands.session.selection.level
    assert layer is not None and level is not None
    row, column = np.argwhere(region(layer.tiles, *level.bounds))[0]
    x, y = (int(column) + level.bounds[0]) * 16 + 8, (int(row) + level.bounds[1]) * 16 + 8
    desk.look_at(x, y)
    spots = [hands.at(x, y), hands.at(x + 32, y)]
    hands.event(QEvent.Type.MouseButtonPress, spots[0], LEFT, LEFT, NONE)
    hands.event(QEvent.Type.MouseMove, spots[1], Qt.MouseButton.NoButton, LEFT, NONE)
    assert held_cells(hands) < before and stage.toolbox.held is not None
    hands.qtbot.keyClick(desk, Qt.Key.Key_Escape)
    hands.event(QEvent.Type.MouseButtonRelease, spots[1], LEFT, NONE_HELD, NONE)
    assert stage.toolbox.held is None and held_cells(hands) == before
    hands.keys("V")
    hands.drag((8, 8), (40, 24))
    assert stage.active.selects
    stage.use("brush")
    stage.use("point")
    assert not stage.active.selects, "another tool lets the selection be"
