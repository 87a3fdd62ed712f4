"""Pictures of levels made beside the window: the Proof, thumbnails of levels and of layers."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.level.render import level_picture
from rushweed.ui.desk.images import array_of
from rushweed.ui.panels import layers
from rushweed.ui.panels.layers import LayerList
from rushweed.ui.session.level_pictures import LevelPictures, Wanted
from tests.ui.conftest import Hands


def test_of_what_is_wanted_for_one_place_only_the_latest_is_drawn(hands: Hands) -> None:
    session, level, drawn = hands.session, hands.session.project.levels[0], []
    pictures = LevelPictures(session.stock, session.jobs)
    for place, x in (("proof", 0), ("proof", 16), ("proof", 32), ("thumbnail", 48), ("proof", 64)):
        wanted = Wanted(session.project, level, (x, 0, 40, 30))
        pictures.draw(place, wanted, lambda rgba, x=x: drawn.append((x, rgba)))
    hands.wait(lambda: len(drawn) == 3)
    assert [x for x, _rgba in drawn] == [0, 48, 64], "the first was under way"
    for x, rgba in drawn:
        expected = level_picture(session.project, level, session.stock.pixels, (x, 0, 40, 30))
        assert np.array_equal(rgba, expected)


def test_a_picture_that_fails_does_not_hold_up_the_next(hands: Hands) -> None:
    session, level, drawn, told = hands.session, hands.session.project.levels[0], [], []
    pictures = LevelPictures(session.stock, session.jobs)
    session.jobs.unheard.connect(told.append)
    nonsense = Wanted(session.project, level, (0, 0, -5, 30))
    pictures.draw("proof", nonsense, drawn.append)
    pictures.draw("thumbnail", Wanted(session.project, level, (0, 0, 8, 8)), drawn.append)
    hands.wait(lambda: len(drawn) == 1)
    assert told and drawn[0].shape == (8, 8, 4)


def test_a_level_that_was_left_meanwhile_is_not_put_into_the_proof(hands: Hands) -> None:
    hands.open_level("pier", "Boardwalk")
    proof = hands.window.proof
    hands.wait(lambda: proof.picture.words == "at the start")
    document, level_id = hands.session.document, hands.session.selection.level_id
    document.edit("Rename", lambda p: replace(p, levels=(replace(p.levels[0], name="x"), *p.levels[1:])))
    proof.refresh()
    hands.open_sheet("wren.png", "tune")
    hands.wait(lambda: not hands.session.jobs.running)
    assert proof.picture.scene is not None and proof.picture.words != "at the start"
    assert hands.session.selection.level_id == level_id


def test_thumbnails_of_layers_come_a_few_a_turn(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    hands.open_level("pier", "Boardwalk")
    (shown,) = hands.window.findChildren(LayerList)
    icons, images = shown.rows.icons, hands.window.desk.images

    def list_of_layers() -> LayerList:
        made = LayerList(hands.window.look, icons, hands.session, images)
        hands.qtbot.addWidget(made)
        made.rows.relayout()
        made.resize(280, 400)
        return made

    def seen(made: LayerList) -> np.ndarray:
        made.grab()
        hands.qtbot.wait(5)  # what was missing is drawn in the next turn
        return array_of(made.grab().toImage()).copy()

    monkeypatch.setattr(layers, "THUMBS_S", 60.0)
    whole, many = seen(list_of_layers()), len(shown.rows.layers())
    monkeypatch.setattr(layers, "THUMBS_S", -1.0)
    slowly = list_of_layers()
    pictures = [seen(slowly) for _turn in range(many)]
    assert np.array_equal(pictures[-1], whole)
    assert not any(np.array_equal(one, whole) for one in pictures[:3])
