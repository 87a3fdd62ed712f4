"""What is drawn of selected things."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.document.edit import put_level
from rushweed.core.document.model.project import Project
from rushweed.core.level.edit import paint
from rushweed.core.level.many_things import change_things, move_things, order_things, remove_things
from rushweed.core.level.stamp import single
from rushweed.core.level.things import place_thing
from rushweed.ui.desk import canvas
from rushweed.ui.stages.paint import kept_layers
from rushweed.ui.stages.paint.stage import PaintStage
from rushweed.ui.stages.paint.tools import thing_marks
from rushweed.ui.stages.paint.tools.things import Things
from tests.ui.conftest import Hands
from tests.ui.test_panels import desk_pixels


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
        pictures.append(desk_pixels(hands).copy())
    bare, marked, washed = pictures
    assert (marked != bare).any() and (marked[inside] == bare[inside]).all(), "marks stand around it"
    assert (washed[inside] != bare[inside]).all(axis=(0, 1)).any(), "a wash lies on it"


@pytest.mark.parametrize(("zoom", "with_far_layers"), [(1, True), (1, False), (2, False), (0.5, True)])
def test_things_that_were_moved_are_drawn_as_if_all_was_drawn_anew(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, zoom: float, with_far_layers: bool
) -> None:
    """Only what they covered before and cover now is drawn, in strips; far layers move with the middle."""
    hands.open_level("pier", "Boardwalk")
    session, desk, overlay = hands.session, hands.window.desk, hands.window.stage("paint")
    assert isinstance(overlay, PaintStage)
    level_id, layer = session.selection.level_id, session.selection.layer_id
    crate = hands.sheet("crate.png").cells[0]
    spots = [(40 + 37 * n % 420, 60 + 23 * n % 90) for n in range(40)]

    def filled(project: Project) -> Project:
        for spot in spots:
            project = place_thing(project, level_id, crate.id, spot, layer)[0]
        made = project.levels[0]
        near = tuple(x for x in made.layers if x.keeps_up == (1, 1) and x.offset == (0, 0))
        return project if with_far_layers else put_level(project, replace(made, layers=near))

    session.document.edit("Place", filled)
    ids = [t.id for t in session.project.levels[0].things][-40:]
    desk.zoom_to(zoom)
    desk.look_at(200, 100)
    turned = {"turn": 30.0, "scale": (2.0, 2.0), "mirrored": True}
    for change in (
        lambda p: move_things(p, level_id, ids[3:4], 3, 2), lambda p: move_things(p, level_id, ids, -5, 1),
        lambda p: change_things(p, level_id, ids[::7], **turned),
        lambda p: order_things(p, level_id, ids[:9], nearer=True),
        lambda p: remove_things(p, level_id, ids[10:20]),
    ):  # fmt: skip
        monkeypatch.setattr(kept_layers, "MOST_IN_STRIP", 5)
        session.document.edit("Change", change)
        shown = desk_pixels(hands).copy()
        monkeypatch.setattr(kept_layers, "MOST_IN_STRIP", 10_000)
        overlay.overlay.level.picture.forget()
        differ = (shown != desk_pixels(hands).copy()).any(axis=2)
        assert differ.sum() <= (3 if zoom < 1 else 0), "a px of a turned thing that is halved may round apart"


@pytest.mark.parametrize("offset", [(0.0, 0.0), (5.0, -3.0)])
def test_a_stroke_before_far_layers_is_drawn_as_if_all_was_drawn_anew(
    hands: Hands, offset: tuple[float, float]
) -> None:
    hands.open_level("pier", "Boardwalk")
    session, desk, stage = hands.session, hands.window.desk, hands.window.stage("paint")
    assert isinstance(stage, PaintStage)
    layer_id = session.selection.layer_id

    def moved(project: Project) -> Project:
        level = project.levels[0]
        layers = tuple(replace(x, offset=offset) if x.id == layer_id else x for x in level.layers)
        return put_level(project, replace(level, layers=layers))

    session.document.edit("Offset", moved)
    cell = hands.cell("boardwalk.png", "bank_top_a")
    session.selection.choose_stamp(single(cell.id))
    desk.zoom_to(2)
    desk.look_at(200, 100)
    desk_pixels(hands).copy()
    stage.use("brush")
    hands.drag((150, 80), (260, 120))
    session.document.undo()
    session.document.redo()
    shown = desk_pixels(hands).copy()
    stage.overlay.level.picture.forget()
    assert (shown == desk_pixels(hands).copy()).all()


@pytest.mark.parametrize("zoom", [1, 3])
def test_shapes_in_strips_are_drawn_as_those_in_one(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, zoom: float
) -> None:
    hands.open_level("pier", "Boardwalk")
    desk, stage = hands.window.desk, hands.window.stage("paint")
    assert isinstance(stage, PaintStage)
    stage.state.shown.shapes.show_value(True)
    desk.zoom_to(zoom)
    desk.look_at(200, 100)
    pictures, turns = [], []
    for most in (10, 100_000):
        monkeypatch.setattr(kept_layers, "MOST_SHAPED", most)
        monkeypatch.setattr(kept_layers, "AT_ONCE", most)
        stage.overlay.shapes.picture.forget()
        desk.grab()
        turns.append(stage.overlay.shapes.is_left)
        pictures.append(desk_pixels(hands).copy())
    assert turns[1] is False and (pictures[0] == pictures[1]).all()


def test_what_took_long_or_is_all_drawn_anew_is_drawn_in_the_next_turn(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.open_level("pier", "Boardwalk")
    desk, session = hands.window.desk, hands.session
    level_id, layer, cell = (
        session.selection.level_id,
        session.selection.layer_id,
        hands.sheet("crate.png").cells[0],
    )
    hands.wait(desk.updatesEnabled)
    for column, seconds, waits in ((1, 10.0, False), (2, 0.0, True)):
        monkeypatch.setattr(canvas, "SLOW_S", seconds)
        spot = np.array([column]), np.array([2])
        session.document.edit("Paint", lambda p, s=spot: paint(p, level_id, layer, single(cell.id), s))
        assert desk.updatesEnabled() is not waits
        hands.wait(desk.updatesEnabled)
    monkeypatch.setattr(canvas, "SLOW_S", 10.0)
    session.document.edit("Name", lambda p: replace(p, name="another"))
    assert not desk.updatesEnabled()
    hands.wait(desk.updatesEnabled)
    hands.window.turn_to("walk")
    assert not desk.updatesEnabled(), "the stage's panels come first"
    hands.wait(desk.updatesEnabled)
