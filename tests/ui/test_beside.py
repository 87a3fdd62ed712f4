"""Edits that take long are worked out beside the window: made when done, left when taken back."""

from __future__ import annotations

import pytest

from rushweed.core.document.edit import rename
from rushweed.core.document.model.cut import PiecesCut
from rushweed.core.document.model.steps import Mirror, Recolour
from rushweed.core.shape.primitives import corners
from rushweed.ui.kit.controls import label, plain_tip
from rushweed.ui.window import Window
from tests.ui.conftest import Hands


@pytest.fixture
def all_long(monkeypatch: pytest.MonkeyPatch) -> None:
    for module in ("gather.step_work", "cut.making", "shape.pixels"):
        monkeypatch.setattr(f"rushweed.ui.stages.{module}.AT_ONCE", 0)


def steps(hands: Hands) -> tuple[object, ...]:
    return hands.sheet("wren.png").source.steps


def test_a_step_is_made_when_its_picture_is_ready(all_long: None, hands: Hands) -> None:
    hands.open_sheet("wren.png", "gather")
    gather = hands.window.stage("gather")
    gather.steps_work.add(Mirror("across"))  # type: ignore[attr-defined]
    assert steps(hands) == (), "the window goes on meanwhile"
    hands.wait(lambda: steps(hands) == (Mirror("across"),))
    assert hands.session.stock.holds(hands.sheet("wren.png"))
    gather.steps_work.edited((Mirror("across"), Recolour(hue=10)), "Recolour")  # type: ignore[attr-defined]
    gather.steps_work.edited((Mirror("across"), Recolour(hue=20)), "Recolour")  # type: ignore[attr-defined]
    hands.wait(lambda: steps(hands) == (Mirror("across"), Recolour(hue=20)))
    hands.qtbot.wait(150)
    hands.keys("Ctrl+Z")
    assert steps(hands) == (Mirror("across"),), "what was typed before it was ready was never made"
    gather.steps_work.edited((Recolour(hue=30),), "Recolour")  # type: ignore[attr-defined]
    gather.steps.escaped.emit()  # type: ignore[attr-defined]
    hands.qtbot.wait(150)
    assert steps(hands) == (Mirror("across"),)


def test_outlines_and_cuts_are_made_when_they_are_ready(all_long: None, window: Window, hands: Hands) -> None:
    hands.open_sheet("wren.png", "shape")
    pixels = window.stage("shape").pixels  # type: ignore[attr-defined]
    cells = [c.id for c in hands.sheet("wren.png").cells][:4]
    hands.session.selection.choose_cells(tuple(cells))
    hands.type(pixels.tolerance, "0")
    pixels.trace()
    hands.wait(lambda: all(c.shapes for c in hands.session.selection.cells))
    exact = sum(len(corners(s)) for c in hands.session.selection.cells for s in c.shapes)
    pixels.slider.setValue(12)
    hands.wait(lambda: sum(len(corners(s)) for c in hands.session.selection.cells for s in c.shapes) < exact)
    pixels.settle()
    hands.wait(lambda: hands.session.project is hands.session.document.history.project)
    hands.open_sheet("lamps.png", "cut")
    window.stage("cut").making.take(PiecesCut(8))  # type: ignore[attr-defined]
    level = hands.session.project.levels[0]
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "meanwhile"))
    hands.wait(lambda: len(hands.sheet("lamps.png").cells) == 11)
    assert hands.session.project.levels[0].name == "meanwhile", "what was done meanwhile stays"


def test_names_are_shown_as_they_are(hands: Hands) -> None:
    level = hands.session.project.levels[0]
    hands.session.document.edit("Rename", lambda p: rename(p, level.id, "<b>pier</b>"))
    hands.session.tell("told", "<b>pier</b> was renamed.")
    assert hands.window.notice.words.textFormat() == label("").textFormat()
    assert plain_tip("<b>pier</b>") == "&lt;b&gt;pier&lt;/b&gt;" and plain_tip("pier") == "pier"
