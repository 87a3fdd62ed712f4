"""What is drawn of selected things."""

from __future__ import annotations

import pytest

from rushweed.core.level.things import place_thing
from rushweed.ui.desk.images import array_of
from rushweed.ui.stages.paint.stage import PaintStage
from rushweed.ui.stages.paint.tools import thing_marks
from rushweed.ui.stages.paint.tools.things import Things
from tests.ui.conftest import Hands


def test_very_many_selected_things_get_a_wash_in_place_of_marks(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.open_level("pier", "Boardwalk")
    desk, stage, made = hands.window.desk, hands.window.stage("paint"), []
    assert isinstance(stage, PaintStage)
    level, layer = hands.session.selection.level_id, hands.session.selection.layer_id
    crate = hands.sheet("crate.png").cells[0]
    for x in (150, 200, 250):
        hands.session.document.edit(
            "Place",
            lambda p, x=x: made.append(place_thing(p, level, crate.id, (x, 100), layer)) or made[-1][0],
        )
    ids = tuple(made_id for _project, made_id in made)[-3:]
    desk.zoom_to(2)
    desk.look_at(200, 100)
    monkeypatch.setattr(thing_marks, "MOST_MARKED", 2)
    stage.use(Things.id)
    tool = stage.the(Things)
    x, y, wide, high = crate.rect
    at = desk.view.to_screen(150 - crate.pivot[0] + wide / 2, 100 - crate.pivot[1] + high / 2).toPoint()
    inside = (slice(at.y() - 4, at.y() + 4), slice(at.x() - 4, at.x() + 4))
    pictures = []
    for chosen in ((), ids[:2], ids):
        tool.ids_chosen = chosen
        desk.grab()
        hands.wait(lambda: not desk.level_painter.unfinished)
        pictures.append(array_of(desk.grab().toImage()))
    bare, marked, washed = pictures
    assert (marked != bare).any() and (marked[inside] == bare[inside]).all(), "marks stand around it"
    assert (washed[inside] != bare[inside]).all(axis=(0, 1)).any(), "a wash lies on it"
