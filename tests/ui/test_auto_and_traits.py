"""Traits, groups, auto-tile sets, bodies and things in the real window."""

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from rushweed.core.document.model.level import TileLayer
from rushweed.core.level.chunks import cell_at
from rushweed.core.shape import groups, traits
from rushweed.core.shape.autotile import gaps
from rushweed.ui.desk.images import array_of
from rushweed.ui.stages.animate.stage import AnimateStage
from rushweed.ui.stages.paint.stage import PaintStage
from rushweed.ui.stages.paint.tools.things import Things
from rushweed.ui.stages.shape.stage import ShapeStage
from tests.joints import wrong_joints
from tests.ui.conftest import LEFT, RIGHT, Hands
from tests.ui.test_panels import desk_pixels


def shape_stage(hands: Hands) -> ShapeStage:
    stage = hands.window.stage("shape")
    assert isinstance(stage, ShapeStage)
    return stage


def paint_stage(hands: Hands) -> PaintStage:
    stage = hands.window.stage("paint")
    assert isinstance(stage, PaintStage)
    return stage


def middle(hands: Hands, sheet: str, name: str) -> tuple[float, float]:
    x, y, w, h = hands.cell(sheet, name).rect
    return x + w / 2, y + h / 2


# -- traits ------------------------------------------------------------------------------------------------


def test_a_trait_is_brushed_over_tiles_in_one_step_and_taken_back(hands: Hands) -> None:
    hands.open_sheet("marsh.png", "shape")
    stage = shape_stage(hands)
    hands.keys("T")
    stage.traits.set_value("water")
    hands.drag(middle(hands, "marsh.png", "water_0"), middle(hands, "marsh.png", "water_3"))
    told = [traits.value_of(hands.cell("marsh.png", f"water_{n}"), "surface") for n in range(4)]
    assert told == ["water"] * 4
    hands.drag(middle(hands, "marsh.png", "water_0"), middle(hands, "marsh.png", "water_1"), button=RIGHT)
    assert traits.value_of(hands.cell("marsh.png", "water_1"), "surface") is None
    assert traits.value_of(hands.cell("marsh.png", "water_2"), "surface") == "water"
    hands.session.document.undo()
    hands.session.document.undo()
    assert traits.value_of(hands.cell("marsh.png", "water_2"), "surface") is None


def test_a_trait_of_ones_own_is_made_and_given_to_the_selected(hands: Hands) -> None:
    sheet = hands.open_sheet("marsh.png", "shape")
    stage = shape_stage(hands)
    stage.use("trait")
    stage.traits.name.setText("slippery")
    QTest.keyClick(stage.traits.name, Qt.Key.Key_Return)
    own = hands.session.project.traits[-1]
    assert own.name == "slippery" and stage.traits.chosen == own.id
    hands.session.selection.choose_cells(tuple(c.id for c in sheet.cells[:5]))
    stage.traits.give(True)
    assert all(traits.value_of(c, own.id) is True for c in hands.sheet("marsh.png").cells[:5])
    assert any("5 tiles" in chip.evidence for chip in stage.traits.findChildren(type(_chip(stage))))
    stage.traits.give(None)
    assert hands.sheet("marsh.png").cells[0].traits == sheet.cells[0].traits


def _chip(stage: ShapeStage):  # type: ignore[no-untyped-def]
    from rushweed.ui.kit.controls import Chip

    return stage.traits.findChildren(Chip)[0]


def test_marks_of_traits_stand_on_the_desk(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    shape_stage(hands).use("trait")
    hands.window.desk.zoom_to(2)
    hands.qtbot.wait(20)
    before = array_of(hands.window.desk.grab().toImage())
    ids = [hands.cell("boardwalk.png", "rail_mid").id]
    hands.session.document.edit("x", lambda p: traits.tell(p, ids, "entry", "left right"))
    hands.qtbot.wait(20)
    after = array_of(hands.window.desk.grab().toImage())
    assert 20 < (before != after).any(axis=2).sum() < 400  # two small triangles


def test_entry_sides_are_pressed_and_never_none(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    card = shape_stage(hands).traits
    shape_stage(hands).use("trait")
    card.choose("entry")
    assert card.value() == "top"
    card.toggle_side("left")
    assert card.value() == "top left"
    card.toggle_side("left")
    card.toggle_side("top")
    assert card.value() == "top"


# -- groups and materials ----------------------------------------------------------------------------------


def test_groups_are_added_and_ticked_where_they_touch(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    stage = shape_stage(hands)
    stage.use("trait")
    stage.traits.group_name.setText("birds")
    QTest.keyClick(stage.traits.group_name, Qt.Key.Key_Return)
    found = {g.name: g.id for g in hands.session.project.groups}
    assert "birds" in found
    hands.qtbot.wait(20)
    table = stage.traits.table
    spot = table.spot_of(3, 0).center().toPoint()
    QTest.mouseClick(table, LEFT, pos=spot)
    assert not groups.touches(hands.session.project, found["ground"], found["birds"])
    QTest.mouseClick(table, LEFT, pos=spot)
    assert groups.touches(hands.session.project, found["birds"], found["ground"])


def test_friction_and_group_are_set_for_all_selected(hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "shape")
    stage = shape_stage(hands)
    decks = [c for c in sheet.cells if c.name.startswith("deck")]
    hands.session.selection.choose_cells(tuple(c.id for c in decks))
    hands.type(stage.main.material.friction, "0.25")
    stage.main.material.group.picked.emit("ground")
    ground = hands.session.project.groups[0].id
    made = [c for c in hands.sheet("boardwalk.png").cells if c.name.startswith("deck")]
    assert {(s.friction, s.group) for c in made for s in c.shapes} == {(0.25, ground)}
    assert "marsh lights" in stage.main.material.meets.text()
    hands.session.selection.choose_cells((made[0].id, hands.cell("boardwalk.png", "crate").id))
    assert (
        stage.main.material.friction.placeholderText() == "mixed"
        and stage.main.material.group.currentText() == "mixed"
    )


def test_a_role_is_brushed_and_shapes_are_copied_and_pasted(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    stage = shape_stage(hands)
    stage.roles.role.show_value("sensor")
    stage.use("role")
    hands.drag(middle(hands, "boardwalk.png", "deck_left"), middle(hands, "boardwalk.png", "deck_mid_b"))
    roles = [hands.cell("boardwalk.png", n).shapes[0].role for n in ("deck_left", "deck_mid_a", "deck_mid_b")]
    assert roles == ["sensor"] * 3 and "sensor" in stage.main.counts.text()
    stage.use("point")
    hands.session.selection.choose_cells((hands.cell("boardwalk.png", "slope_up").id,))
    hands.keys("Ctrl+Shift+C")
    hands.session.selection.choose_cells((hands.cell("boardwalk.png", "rail_mid").id,))
    hands.keys("Ctrl+Shift+V")
    slope = hands.cell("boardwalk.png", "slope_up").shapes
    assert hands.cell("boardwalk.png", "rail_mid").shapes == slope


# -- auto-tile ---------------------------------------------------------------------------------------------


def test_a_set_is_made_by_laying_the_template_and_tried_on_the_pad(hands: Hands) -> None:
    hands.open_sheet("marsh.png", "shape")
    stage = shape_stage(hands)
    hands.keys("A")
    stage.auto.add_set()
    stage.auto.by.choose(1)
    hands.session.selection.choose_cells((hands.cell("marsh.png", "plank_00").id,))
    hands.press_widget(stage.auto.lay)
    made = hands.session.project.autosets[-1]
    assert made.by == "corners" and gaps(made) == () and "all 16 cases" in stage.auto.state_words.text()
    pad = stage.auto.pad
    before = pad.tiles()
    QTest.mouseClick(pad, LEFT, pos=QPoint(int(9.5 * pad.side), int(5.5 * pad.side)))
    assert (9, 5) in pad.inside and pad.tiles() != before
    QTest.mouseClick(pad, RIGHT, pos=QPoint(int(9.5 * pad.side), int(5.5 * pad.side)))
    assert pad.tiles() == before
    assert "in another set too" in stage.auto.state_words.text()  # the demo's planks are a set already


def test_sides_that_join_are_pressed_on_the_tiles(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    stage = shape_stage(hands)
    stage.use("auto")
    stage.auto.add_set()
    x, y, w, h = hands.cell("boardwalk.png", "deck_mid_a").rect
    hands.click(x + w - 2, y + h / 2)
    hands.click(x + 2, y + h / 2)
    part = hands.session.project.autosets[-1].tiles[0]
    assert part.joins == 4 | 64
    hands.click(x + w - 2, y + h / 2)
    assert hands.session.project.autosets[-1].tiles[0].joins == 64
    hands.click(x + w / 2, y + h / 2)  # its middle takes it out
    assert hands.session.project.autosets[-1].tiles == ()
    assert "missing" in stage.auto.state_words.text()
    hands.click(x + w / 2, y + h / 2)
    hands.type(stage.auto.weight, "2.5")
    assert hands.session.project.autosets[-1].tiles[0].weight == 2.5
    hands.press_widget(stage.auto.out)
    assert hands.session.project.autosets[-1].tiles == ()


@pytest.fixture
def painting(hands: Hands) -> Hands:
    """The marsh from above with an empty layer on top, and its mud at hand."""
    hands.open_level("saltings")
    level = hands.session.selection.level
    assert level is not None
    layer = TileLayer("fresh", "Fresh")
    bare = replace(level, layers=(*level.layers, layer))
    hands.session.document.edit(
        "x", lambda p: replace(p, levels=tuple(bare if v.id == bare.id else v for v in p.levels))
    )
    hands.session.selection.choose_layer("fresh")
    hands.window.tray.refresh()
    case = hands.window.tray.case
    assert case.groups[0].name == "auto-tile" and len(case.groups[0].sets) == 3
    QTest.mouseClick(case, LEFT, pos=QPoint(int(case.lefts()[0]) + 10, 30))
    assert hands.session.selection.auto_id == hands.session.project.autosets[0].id
    return hands


def test_painting_with_a_set_joins_what_is_painted(painting: Hands) -> None:
    hands = painting
    assert "joining" in paint_stage(hands).state.stamp_line.words.text()
    autoset = hands.session.project.autosets[0]

    def wrong() -> list[tuple[int, int]]:
        return wrong_joints(hands.session.project, hands.session.selection.level_id, "fresh", autoset)

    hands.drag((10 * 16 + 8, 8 * 16 + 8), (15 * 16 + 8, 11 * 16 + 8))
    assert wrong() == []
    hands.keys("R")
    hands.drag((20 * 16 + 8, 8 * 16 + 8), (24 * 16 + 8, 12 * 16 + 8))
    assert wrong() == []
    hands.keys("B")
    hands.drag((21 * 16 + 8, 9 * 16 + 8), (22 * 16 + 8, 9 * 16 + 8), button=RIGHT)
    assert wrong() == []
    layer = hands.session.selection.layer
    assert layer is not None and layer.tiles.chunks
    hands.session.document.undo()
    hands.session.document.undo()
    hands.session.document.undo()
    layer = hands.session.selection.layer
    assert layer is not None and not any(c is not None for c in layer.tiles.chunks)


def test_the_eraser_empties_while_a_set_is_at_hand_and_the_rest_joins_anew(painting: Hands) -> None:
    hands = painting
    hands.keys("R")
    hands.drag((20 * 16 + 8, 8 * 16 + 8), (24 * 16 + 8, 12 * 16 + 8))
    hands.keys("E")
    hands.drag((22 * 16 + 8, 10 * 16 + 8), (23 * 16 + 8, 10 * 16 + 8))
    layer, autoset = hands.session.selection.layer, hands.session.project.autosets[0]
    assert layer is not None
    assert cell_at(layer.tiles, 22, 10) == cell_at(layer.tiles, 23, 10) == 0
    assert cell_at(layer.tiles, 21, 10) != 0
    assert wrong_joints(hands.session.project, hands.session.selection.level_id, "fresh", autoset) == []


def test_filling_with_a_set_and_a_plain_tile_afterwards(painting: Hands) -> None:
    hands = painting
    hands.keys("F")
    hands.click(10 * 16 + 8, 8 * 16 + 8)
    level = hands.session.selection.level
    assert level is not None
    autoset = hands.session.project.autosets[0]
    assert wrong_joints(hands.session.project, level.id, "fresh", autoset) == []
    hands.window.tray.case.choose_cell(hands.cell("marsh.png", "water_0").id)
    assert hands.session.selection.auto_id == ""


def test_tiles_that_play_change_on_the_desk_and_stand_still_otherwise(hands: Hands) -> None:
    hands.open_level("saltings", "Ground")
    stage, painter = paint_stage(hands), hands.window.desk.level_painter
    water = next(a for a in hands.session.project.animations if a.name == "water")
    assert water.tile and hands.cell("marsh.png", "water_0").id in hands.session.selection.level.table  # type: ignore[union-attr]

    def shown(ms: float) -> np.ndarray:
        painter.ms = ms
        return desk_pixels(hands)

    still = shown(0)
    assert (shown(1) == still).all()  # the first frame is what stands there
    assert (shown(300) != still).any() and (shown(0) == still).all()
    stage.the(Things).run(False)


# -- bodies and things -------------------------------------------------------------------------------------


def test_a_body_comes_from_the_frames_and_is_typed(hands: Hands) -> None:
    hands.open_sheet("wren.png", "animate")
    walk = next(a for a in hands.session.project.animations if a.name == "walk")
    hands.session.selection.choose_animation(walk.id)
    stage = hands.window.stage("animate")
    assert isinstance(stage, AnimateStage)
    card = stage.numbers
    hands.press_widget(card.find_body)

    def body() -> tuple[int, int, int, int] | None:
        return next(a for a in hands.session.project.animations if a.name == "walk").body

    found = body()
    assert found is not None and found[1] + found[3] <= 0
    hands.type(card.body_size, "10 × 24")
    assert body() == (found[0], found[1], 10, 24)
    hands.press_widget(card.tile)
    assert next(a for a in hands.session.project.animations if a.name == "walk").tile
    hands.press_widget(card.no_body)
    assert body() is None


def test_a_thing_is_made_to_be_pushed_turned_and_pinned(hands: Hands) -> None:
    hands.open_level("pier")
    stage = paint_stage(hands)
    stage.use("thing")
    rows = stage.thing_rows
    assert not rows.weight.isVisible()
    thing = hands.session.selection.level.things[0]  # type: ignore[union-attr]
    hands.window.desk.look_at(*thing.at)
    hands.click(thing.at[0], thing.at[1] - 8)
    assert rows.isVisible() and not rows.weight.isEnabled()
    hands.press_widget(rows.motion, x=rows.motion.width() - 10)
    hands.type(rows.weight, "12")
    hands.type(rows.damping, "0.4")
    hands.press_widget(rows.turns)
    hands.press_widget(rows.pinned)
    hands.type(rows.pin, "3, -9")
    made = hands.session.selection.level.things[0]  # type: ignore[union-attr]
    assert (made.motion, made.weight, made.damping, made.turns, made.pin) == (
        "pushed",
        12,
        0.4,
        True,
        (3, -9),
    )
    stage.use("brush")
    assert not rows.isVisible()


def test_a_new_tileset_is_made_solid_in_a_few_gestures(hands: Hands) -> None:
    """256 tiles: select all, one key, and the level that is open shows it at once."""
    hands.open_sheet("marsh.png", "shape")
    hands.session.selection.choose_cells(tuple(c.id for c in hands.sheet("marsh.png").cells))
    hands.keys("1")
    assert all(c.shapes for c in hands.sheet("marsh.png").cells)
