"""The stages used as a person uses them: pointer and keys in, the document out."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from rushweed.core.document.model.cut import GridCut, PiecesCut
from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.shape import Box, Polygon
from rushweed.core.level.chunks import cell_at, region
from rushweed.core.ship.ways import change_way
from rushweed.core.store.folder import Folder
from rushweed.core.tune.edit import tune_sheets
from rushweed.ui.desk.images import array_of
from rushweed.ui.panels import strip
from rushweed.ui.stages.cut.stage import CutStage
from rushweed.ui.stages.gather.stage import GatherStage
from rushweed.ui.stages.paint.stage import PaintStage
from rushweed.ui.stages.shape.stage import ShapeStage
from rushweed.ui.stages.ship.stage import ShipStage
from rushweed.ui.stages.tune.stage import TuneStage
from tests.ui.conftest import RIGHT, Hands

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier


def shown(hands: Hands) -> np.ndarray:
    return array_of(hands.window.desk.grab().toImage())


# -- Gather -----------------------------------------------------------------------------------------


def test_a_licence_typed_for_two_sheets_at_once(hands: Hands) -> None:
    hands.open_sheet("lamps.png", "gather")
    hands.session.selection.choose_sheets((hands.sheet("lamps_4x.png").id, hands.sheet("lamps.png").id))
    gather = hands.window.stages["gather"]
    assert isinstance(gather, GatherStage)
    gather.show_tab("credit")
    hands.type(gather.credit["licence"], "CC-BY-4.0")
    assert {hands.sheet(n).credit.licence for n in ("lamps.png", "lamps_4x.png")} == {"CC-BY-4.0"}
    hands.wait(lambda: not any(f.rule == "missing-licence" for f in hands.session.checker.findings))


def test_a_folder_of_pictures_is_gathered_with_progress_and_can_be_cancelled(
    hands: Hands, picture, tmp_path: Path
) -> None:  # type: ignore[no-untyped-def]
    for i in range(40):
        picture(f"many/p_{i}.png", 30 + i, 20)
    gather = hands.window.stages["gather"]
    assert isinstance(gather, GatherStage)
    gather.as_one.show_value(False)
    before = len(hands.session.project.sheets)
    job = gather.bringing.bring([tmp_path / "many"])
    assert job is not None and hands.window.notice.isVisible()
    hands.wait(lambda: len(hands.session.project.sheets) == before + 40)
    job = gather.bringing.bring([tmp_path / "many"])
    assert job is not None
    job.cancel()
    hands.wait(lambda: not hands.window.notice.isVisible())
    assert len(hands.session.project.sheets) == before + 40


def test_a_sheet_in_use_is_taken_off_with_a_word_about_who_uses_it(hands: Hands) -> None:
    hands.open_sheet("marsh.png", "gather")
    hands.window.commands.run_id("gather.remove")
    assert "saltings" in hands.window.notice.words.text()
    hands.keys("Ctrl+Z")
    assert hands.sheet("marsh.png")


# -- Cut --------------------------------------------------------------------------------------------


def cut_stage(hands: Hands) -> CutStage:
    stage = hands.window.stages["cut"]
    assert isinstance(stage, CutStage)
    return stage


def test_cells_follow_while_a_size_is_typed_and_no_name_is_lost_on_the_way(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "cut")
    stage, names = cut_stage(hands), [c.name for c in sheet.cells]
    hands.type(stage.cell, "2", enter=False)
    trial = hands.window.desk.sheet_painter.trial  # so many that only their marks follow
    assert trial is not None and trial[0].cell == (2, 2)
    assert len(hands.session.document.history.project.sheets[2].cells) == 22
    hands.qtbot.keyClicks(stage.cell, "4x32")
    hands.qtbot.keyClick(stage.cell, Qt.Key.Key_Return)
    assert [c.name for c in hands.sheet("wren.png").cells] == names
    hands.type(stage.cell, "48x32")
    cells = hands.sheet("wren.png").cells
    assert len(cells) == 11 and cells[0].id == sheet.cells[0].id
    hands.keys("Ctrl+Z")
    assert hands.sheet("wren.png").cells == sheet.cells


def test_an_impossible_size_is_told_and_nothing_changes(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "cut")
    hands.type(cut_stage(hands).cell, "900x900")
    assert "192 px wide" in hands.window.notice.words.text()
    assert hands.sheet("wren.png") is sheet
    assert cut_stage(hands).cell.text() == "24 × 32"


def test_the_first_proposal_is_shown_and_a_press_on_its_chip_cuts(hands: Hands) -> None:
    hands.open_sheet("wren.png", "cut")
    hands.session.document.edit("Uncut", lambda p: p)
    stage = cut_stage(hands)
    hands.type(stage.cell, "40x40")
    hands.wait(lambda: stage.proposals.best() is not None)
    hands.qtbot.wait(30)
    assert stage.proposals.best() == GridCut((24, 32))
    chip = stage.proposals.chips.itemAt(1).widget()
    assert "24 × 32" in chip.words  # type: ignore[union-attr]
    hands.press_widget(chip)
    assert isinstance(hands.sheet("wren.png").cut, GridCut) and hands.sheet("wren.png").cut.cell == (24, 32)  # type: ignore[union-attr]


def test_counts_make_the_cell_size(hands: Hands) -> None:
    hands.open_sheet("eel.bmp", "cut")
    stage = cut_stage(hands)
    assert stage.method.value == "count"
    hands.type(stage.counts, "4 x 3")
    assert {c.rect[2:] for c in hands.sheet("eel.bmp").cells} == {(40, 32)}


def test_pieces_are_cut_with_a_live_join_distance_and_one_is_left_out(hands: Hands) -> None:
    hands.open_sheet("lamps.png", "cut")
    stage = cut_stage(hands)
    hands.press_widget(stage.method, x=int(sum(stage.method._widths()[:3])) + 10)
    assert len(hands.sheet("lamps.png").cells) >= 11
    hands.type(stage.join, "0")
    assert len(hands.sheet("lamps.png").cells) == 17
    hands.type(stage.join, "8", enter=False)
    assert len(hands.sheet("lamps.png").cells) == 11
    hands.qtbot.keyClick(stage.join, Qt.Key.Key_Return)
    hands.press_widget(stage.fit, x=stage.fit.width() - 20)
    assert len({c.rect[2:] for c in hands.sheet("lamps.png").cells}) == 1
    assert hands.sheet("lamps.png").cut == PiecesCut(8, fit="feet")
    hands.session.selection.choose_cells((hands.sheet("lamps.png").cells[0].id,))
    hands.keys("Delete")
    assert len(hands.sheet("lamps.png").cells) == 10
    assert not hands.window.grab().isNull()


def test_a_place_is_left_out_and_kept_again_with_the_tool(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    before = shown(hands)
    hands.keys("X")
    hands.click(25, 8)
    assert len(hands.sheet("boardwalk.png").cells) == 56
    spot = hands.at(22, 3)
    after = shown(hands)
    assert (before[spot.y(), spot.x()] != after[spot.y(), spot.x()]).any()  # dimmed as waste
    hands.click(25, 8)
    assert len(hands.sheet("boardwalk.png").cells) == 57
    hands.keys("V")
    hands.click(8, 8)
    hands.click(25, 8, keys=CTRL)
    hands.keys("Delete")
    assert len(hands.sheet("boardwalk.png").cells) == 55


def test_cells_are_selected_by_click_ctrl_drag_and_arrows(hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "cut")
    hands.click(8, 8)
    assert hands.session.selection.cell is not None and hands.session.selection.cell.name == "deck_left"
    hands.qtbot.keyClick(hands.window.desk, Qt.Key.Key_Right)
    assert hands.session.selection.cell.name == "deck_mid_a"
    hands.click(8, 8, keys=CTRL)
    assert len(hands.session.selection.cell_ids) == 2
    hands.drag((164, 100), (60, 60), (0, 50))
    assert {c.name for c in hands.session.selection.cells} >= {"mud_a", "crate"}
    hands.keys("Ctrl+A")
    assert len(hands.session.selection.cells) == len(sheet.cells)


def test_a_name_is_changed_in_the_strip(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    hands.click(8, 8)
    film = hands.window.strip.film
    hands.keys("F2")
    hands.type(film.editor, "gangway")
    assert hands.sheet("boardwalk.png").cells[0].name == "gangway"


def test_the_card_says_whether_a_tile_repeats(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    repeats = cut_stage(hands).numbers.repeats
    hands.session.selection.choose_cells((hands.cell("boardwalk.png", "deck_mid_a").id,))
    assert [v.text() for v, _d in repeats.verdicts] == ["no seam", "not joined"]
    hands.session.selection.choose_cells(())
    assert repeats.nine.image is None


def test_many_names_follow_a_pattern_while_it_is_typed(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "cut")
    hands.session.selection.choose_cells(tuple(c.id for c in sheet.cells[4:12]))
    field = hands.window.strip.pattern
    hands.type(field, "go_{n", enter=False)
    assert hands.sheet("wren.png").cells == sheet.cells
    hands.qtbot.keyClicks(field, "}")
    assert hands.sheet("wren.png").cells[4].name == "go_0"
    assert hands.session.document.history.project.sheets[2].cells == sheet.cells
    hands.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert [c.name for c in hands.sheet("wren.png").cells[4:12]] == [f"go_{n}" for n in range(8)]
    assert hands.session.document.history.undo_label == "Name 8 cells"
    hands.keys("Ctrl+Z")
    hands.type(field, "walk -> stroll")
    assert hands.sheet("wren.png").cells[4].name == "stroll_0"
    hands.keys("Ctrl+Z")
    hands.type(field, "{colour}")
    assert "{colour}" in hands.window.notice.words.text() and hands.sheet("wren.png").cells == sheet.cells


def test_very_many_names_are_worked_out_beside_the_window(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(strip, "AT_ONCE", 4)
    sheet = hands.open_sheet("wren.png", "cut")
    ids = tuple(c.id for c in sheet.cells[4:12])
    hands.session.selection.choose_cells(ids)
    field, history = hands.window.strip.pattern, hands.session.document.history
    hands.type(field, "go_{n}", enter=False)
    assert hands.sheet("wren.png").cells == sheet.cells
    hands.wait(lambda: hands.sheet("wren.png").cells[4].name == "go_0")
    assert history.project.sheets[2].cells == sheet.cells
    hands.qtbot.keyClick(field, Qt.Key.Key_Return)
    hands.wait(lambda: history.undo_label == "Name 8 cells")
    assert [c.name for c in hands.sheet("wren.png").cells[4:12]] == [f"go_{n}" for n in range(8)]
    hands.keys("Ctrl+Z")
    hands.type(field, "run_{n}", enter=False)
    hands.qtbot.keyClick(field, Qt.Key.Key_Escape)  # taken back before it was worked out
    hands.wait(lambda: not hands.session.jobs.running)
    assert hands.sheet("wren.png").cells == sheet.cells


# -- Tune -------------------------------------------------------------------------------------------


def tune_stage(hands: Hands) -> TuneStage:
    stage = hands.window.stages["tune"]
    assert isinstance(stage, TuneStage)
    return stage


def test_pixels_per_unit_show_in_the_proof_while_they_are_typed(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    stage, proof = tune_stage(hands), hands.window.proof
    before = hands.proof()
    hands.type(stage.ppu, "3", enter=False)
    hands.qtbot.keyClicks(stage.ppu, "2")
    assert hands.sheet("wren.png").tune.ppu == 32
    assert (before != hands.proof()).any()
    assert "32 PPU" in proof.foot[2].text() and proof.foot[1].text() == "0.75 × 1.00 u"
    hands.qtbot.keyClick(stage.ppu, Qt.Key.Key_Return)
    hands.keys("Ctrl+Z")
    assert hands.sheet("wren.png").tune.ppu == 16  # all that was typed is one step


def test_mixed_values_read_as_mixed_and_one_move_sets_them_all(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    stage = tune_stage(hands)
    hands.type(stage.ppu, "24")
    hands.session.selection.choose_sheets(tuple(s.id for s in hands.session.project.sheets))
    assert stage.ppu.text() == "" and stage.ppu.placeholderText() == "mixed"
    assert stage.filter.value is None
    hands.press_widget(stage.filter, x=stage.filter.width() - 12)
    assert {s.tune.filter for s in hands.session.project.sheets} == {"linear"}
    hands.type(stage.ppu, "8")
    assert {s.tune.ppu for s in hands.session.project.sheets} == {8}


def test_the_filter_shows_in_the_proof(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    before = hands.proof()
    stage = tune_stage(hands)
    hands.press_widget(stage.filter, x=stage.filter.width() - 12)
    assert (before != hands.proof()).any()
    assert hands.window.proof.foot[0].text() == "linear"


def test_the_plumb_mark_is_dragged_on_whole_pixels_for_all_selected(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "tune")
    hands.session.selection.choose_cells(tuple(c.id for c in sheet.cells[:3]))
    x, y = sheet.cells[0].rect[:2]
    hands.drag((x + 12, y + 32), (x + 10.3, y + 30), (x + 9.6, y + 28.7))
    cells = hands.sheet("wren.png").cells
    assert {c.pivot for c in cells[:3]} == {(10, 29)} and cells[3].pivot == (12, 32)
    assert hands.session.document.history.undo_label == "Move the pivot of 3 cells"
    hands.keys("Ctrl+Z")
    assert hands.sheet("wren.png").cells == sheet.cells
    hands.press_widget(tune_stage(hands).units.snap, x=tune_stage(hands).units.snap.width() - 10)
    hands.drag((x + 12, y + 32), (x + 9.6, y + 28.3))
    assert hands.sheet("wren.png").cells[0].pivot == (9.5, 28.5)


def test_escape_leaves_a_drag_as_if_it_had_not_begun(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "tune")
    hands.session.selection.choose_cells((sheet.cells[0].id,))
    hands.keys("P")
    desk = hands.window.desk
    from PyQt6.QtCore import QEvent

    none, left = Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton
    hands.event(QEvent.Type.MouseButtonPress, hands.at(12, 31), left, left, Qt.KeyboardModifier.NoModifier)
    hands.event(QEvent.Type.MouseMove, hands.at(5, 5), none, left, Qt.KeyboardModifier.NoModifier)
    assert hands.sheet("wren.png").cells[0].pivot == (5, 5)
    hands.qtbot.keyClick(desk, Qt.Key.Key_Escape)
    hands.event(QEvent.Type.MouseButtonRelease, hands.at(5, 5), left, none, Qt.KeyboardModifier.NoModifier)
    assert hands.sheet("wren.png") is sheet and hands.session.document.history.undo_label is None


def test_places_shares_and_drift(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "tune")
    stage = tune_stage(hands)
    hands.keys("7")
    assert {c.pivot for c in hands.sheet("wren.png").cells} == {(0, 0)}
    hands.session.selection.choose_cells((sheet.cells[1].id,))
    hands.type(stage.units.share[1], "75")
    hands.type(stage.units.px[0], "13")
    assert hands.sheet("wren.png").cells[1].pivot == (13, 24)
    hands.session.selection.choose_cells(tuple(c.id for c in sheet.cells[:2]))
    assert stage.units.drift.text() == "13, 24 px over 2 cells"
    hands.session.selection.choose_cells((sheet.cells[1].id,))
    hands.press_widget(stage.units.all)
    assert {c.pivot for c in hands.sheet("wren.png").cells} == {(13, 24)}


# -- Shape ------------------------------------------------------------------------------------------


def test_keys_give_common_shapes_to_all_selected_tiles_in_one_step(hands: Hands) -> None:
    hands.open_sheet("wren.png", "shape")
    hands.keys("Ctrl+A", "3")
    assert {c.shapes for c in hands.sheet("wren.png").cells} == {(Box(0, 16, 24, 16),)}
    hands.keys("Ctrl+Z")
    assert not any(c.shapes for c in hands.sheet("wren.png").cells)


def test_a_box_is_drawn_moved_and_reshaped_on_whole_pixels(hands: Hands) -> None:
    hands.open_sheet("wren.png", "shape")
    hands.keys("B")
    hands.drag((4.2, 5.9), (10, 10), (19.8, 30.1))
    assert hands.sheet("wren.png").cells[0].shapes == (Box(4, 6, 16, 24),)
    hands.keys("V")
    hands.drag((12, 18), (13, 18), (14.4, 16.8))
    assert hands.sheet("wren.png").cells[0].shapes == (Box(6, 5, 16, 24),)
    hands.drag((22, 17), (20.2, 17))
    assert hands.sheet("wren.png").cells[0].shapes == (Box(6, 5, 14, 24),)
    hands.drag((20, 17), (21, 17), keys=ALT)
    assert hands.sheet("wren.png").cells[0].shapes == (Box(5, 5, 16, 24),)
    stage = hands.window.stages["shape"]
    assert isinstance(stage, ShapeStage)
    hands.type(stage.main.extent, "10 x 8")
    hands.type(stage.main.place, "2, 3")
    assert hands.sheet("wren.png").cells[0].shapes == (Box(2, 3, 10, 8),)
    hands.keys("M")
    assert hands.sheet("wren.png").cells[0].shapes == (Box(12, 3, 10, 8),)
    hands.keys("Delete")
    assert hands.sheet("wren.png").cells[0].shapes == ()


def test_a_corner_of_a_slope_is_dragged_and_copied_to_others(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    ramp, other = hands.cell("boardwalk.png", "ramp_up_b"), hands.cell("boardwalk.png", "stair_down")
    hands.session.selection.choose_cells((ramp.id,))
    x, y = ramp.rect[:2]
    hands.drag((x, y + 8), (x, y + 7), (x + 0.2, y + 4.1))
    shape = hands.cell("boardwalk.png", "ramp_up_b").shapes[0]
    assert isinstance(shape, Polygon) and shape.points[0] == (0, 4)
    hands.session.selection.choose_cells((other.id, ramp.id))
    hands.keys("Ctrl+D")
    assert hands.cell("boardwalk.png", "stair_down").shapes == (shape,)


def test_shapes_are_brushed_over_tiles_as_one_step(hands: Hands) -> None:
    hands.open_sheet("marsh.png", "shape")
    hands.keys("2", "G")
    hands.drag((8, 8), (24, 8), (40, 8), (40, 24))
    shaped = [c for c in hands.sheet("marsh.png").cells if c.shapes == (Box(0, 0, 16, 8),)]
    assert len(shaped) == 4
    hands.keys("Ctrl+Z")
    assert not [c for c in hands.sheet("marsh.png").cells if c.shapes == (Box(0, 0, 16, 8),)]


def test_a_changed_shape_shows_in_the_level_at_once(hands: Hands) -> None:
    hands.open_level("pier")
    hands.window.desk.zoom_to(2)
    hands.window.desk.look_at(15 * 16, 12 * 16)
    before = shown(hands)
    from rushweed.core.shape.edit import clear_shapes

    ids = [c.id for c in hands.sheet("boardwalk.png").cells]
    hands.session.document.edit("Clear", lambda p: clear_shapes(p, ids))
    assert (before != shown(hands)).any()


# -- Paint ------------------------------------------------------------------------------------------


@pytest.fixture
def painting(hands: Hands) -> Hands:
    """Paint on the Boardwalk layer of the pier with deck_mid_a, near its upper left."""
    hands.open_level("pier", "Boardwalk")
    hands.window.tray.refresh()
    hands.window.tray.case.choose_cell(hands.cell("boardwalk.png", "deck_mid_a").id)
    hands.window.desk.zoom_to(2)
    hands.window.desk.look_at(12 * 16, 6 * 16)
    return hands


def spot(x: int, y: int) -> tuple[float, float]:
    return x * 16 + 8, y * 16 + 8


def tiles(hands: Hands) -> TileLayer:
    layer = hands.session.selection.layer
    assert layer is not None
    return layer


def test_a_stroke_is_one_step_without_gaps_and_shows_at_once(painting: Hands) -> None:
    before = shown(painting)
    painting.drag(spot(4, 3), spot(9, 3), spot(9, 6))
    held = region(tiles(painting).tiles, 0, 0, 64, 20)
    assert (held[3, 4:10] > 0).all() and (held[3:7, 9] > 0).all()
    assert painting.session.document.history.undo_label == "Paint on Boardwalk"
    at = painting.at(*spot(5, 3))
    assert (before[at.y(), at.x()] != shown(painting)[at.y(), at.x()]).any()
    painting.keys("Ctrl+Z")
    painting.window.stages["paint"].leave()
    assert not region(tiles(painting).tiles, 4, 3, 6, 4).any()


def test_line_rectangle_fill_replace_and_erase(painting: Hands) -> None:
    painting.keys("R")
    painting.drag(spot(2, 1), spot(8, 4), keys=SHIFT)
    painting.keys("F")
    painting.window.tray.case.choose_cell(painting.cell("boardwalk.png", "mud_a").id)
    painting.click(*spot(4, 2))
    held = region(tiles(painting).tiles, 2, 1, 7, 4)
    assert len(np.unique(held)) == 2 and (held[1:3, 1:6] == held[1, 1]).all()
    painting.keys("L")
    painting.drag(spot(10, 1), spot(14, 1))
    assert (region(tiles(painting).tiles, 10, 1, 5, 1) == held[1, 1]).all()
    painting.keys("X")
    painting.window.tray.case.choose_cell(painting.cell("boardwalk.png", "mud_b").id)
    painting.click(*spot(12, 1))
    assert cell_at(tiles(painting).tiles, 12, 1) == cell_at(tiles(painting).tiles, 4, 2) != held[1, 1]
    painting.keys("E")
    painting.drag(spot(10, 1), spot(14, 1))
    assert not region(tiles(painting).tiles, 10, 1, 5, 1).any()
    painting.keys("B")
    painting.drag(spot(3, 2), spot(5, 2), button=RIGHT)
    assert not region(tiles(painting).tiles, 3, 2, 3, 1).any()


def test_painting_beyond_the_edge_grows_the_level(painting: Hands) -> None:
    painting.window.desk.look_at(0, 0)
    painting.click(*spot(-2, -1))
    level = painting.session.selection.level
    assert level is not None and level.bounds == (-2, -1, 66, 21)


def test_a_stamp_taken_from_the_level_is_turned_and_painted(painting: Hands) -> None:
    painting.window.desk.look_at(13 * 16, 11 * 16)
    painting.keys("K")
    painting.drag(spot(10, 12), spot(12, 12))
    stamp = painting.session.selection.stamp
    assert stamp is not None and stamp.size == (3, 1)
    assert painting.window.tray.case.chosen is None
    painting.keys("U")
    painting.window.desk.look_at(13 * 16, 6 * 16)
    painting.click(*spot(5, 3))
    column = region(tiles(painting).tiles, 5, 3, 1, 3)[:, 0]
    source = region(tiles(painting).tiles, 10, 12, 3, 1)[0]
    assert ((column >> 3) == (source >> 3)).all() and ((column & 7) == 1).all()


def test_alt_takes_the_tile_under_the_pointer(painting: Hands) -> None:
    painting.window.desk.look_at(13 * 16, 11 * 16)
    painting.click(*spot(10, 12), keys=ALT)
    stamp = painting.session.selection.stamp
    assert stamp is not None and stamp.cells == (painting.cell("boardwalk.png", "deck_left").id,)


def test_an_area_is_selected_moved_copied_and_erased(painting: Hands) -> None:
    painting.drag(spot(2, 2), spot(3, 2))
    painting.keys("V")
    painting.drag(spot(1, 1), spot(4, 3))
    painting.drag(spot(2, 2), spot(2, 5))
    held = region(tiles(painting).tiles, 0, 0, 12, 8)
    assert not held[2].any() and (held[5, 2:4] > 0).all()
    painting.drag(spot(2, 5), spot(7, 5), keys=CTRL)
    held = region(tiles(painting).tiles, 0, 0, 12, 8)
    assert (held[5, 2:4] > 0).all() and (held[5, 7:9] > 0).all()
    painting.keys("Delete")
    assert not region(tiles(painting).tiles, 7, 5, 2, 1).any()


def test_a_locked_layer_a_backdrop_and_no_stamp_are_told(painting: Hands) -> None:
    rows = painting.window.stages["paint"].card.layers.rows  # type: ignore[attr-defined]
    index = [x.name for x in rows.layers()].index("Boardwalk")
    painting.press_widget(rows, x=rows.width() - 38, y=14 + index * 32 + 16)
    painting.click(*spot(4, 3))
    assert "locked" in painting.window.notice.words.text()
    painting.press_widget(rows, x=rows.width() - 14, y=14 + index * 32 + 16)
    level = painting.session.selection.level
    assert level is not None and not next(x for x in level.layers if x.name == "Boardwalk").shown
    painting.session.selection.choose_stamp(None)
    painting.click(*spot(4, 3))
    assert "no stamp" in painting.window.notice.words.text()


def test_a_nearer_layer_in_the_way_is_named_before_painting(painting: Hands) -> None:
    stage = painting.window.stages["paint"]
    assert isinstance(stage, PaintStage)
    painting.window.desk.look_at(22 * 16, 8 * 16)
    painting.drag(spot(22, 6))
    assert stage.state.warned is not None and stage.state.warned.short == "behind Rails and lamps"


def test_levels_are_made_named_and_resized(hands: Hands) -> None:
    hands.open_sheet("marsh.png", "cut")
    hands.keys("Ctrl+L")
    level = hands.session.selection.level
    assert level is not None and level.cell == (16, 16) and hands.session.stage == "paint"
    card = hands.window.stages["paint"].card
    hands.type(card.level_rows.name, "shoal")  # type: ignore[attr-defined]
    hands.type(card.level_rows.sides, "50 x 30")  # type: ignore[attr-defined]
    hands.type(card.level_rows.first, "-5, 0")  # type: ignore[attr-defined]
    level = hands.session.selection.level
    assert level is not None and level.name == "shoal" and level.bounds == (-5, 0, 55, 30)


def test_a_level_is_removed_and_brought_back(hands: Hands) -> None:
    hands.open_level("saltings")
    hands.window.commands.run_id("paint.remove")
    assert [v.name for v in hands.session.project.levels] == ["pier"]
    assert hands.session.selection.level is not None and hands.session.selection.level.name == "pier"
    hands.keys("Ctrl+Z")
    assert len(hands.session.project.levels) == 2


def test_a_size_half_typed_takes_no_tile_away(hands: Hands) -> None:
    hands.open_level("pier")
    card, before = hands.window.stages["paint"].card, hands.session.selection.level
    hands.type(card.level_rows.sides, "64 x 2", enter=False)  # type: ignore[attr-defined]
    assert hands.session.selection.level is not None and hands.session.selection.level.bounds[3] == 2
    hands.qtbot.keyClicks(card.level_rows.sides, "0")  # type: ignore[attr-defined]
    hands.qtbot.keyClick(card.level_rows.sides, Qt.Key.Key_Return)  # type: ignore[attr-defined]
    assert hands.session.selection.level is before


def test_scatter_draws_different_tiles(painting: Hands) -> None:
    from rushweed.core.level.stamp import from_grid

    ids = [painting.cell("boardwalk.png", n).id for n in ("mud_a", "mud_b", "mud_c")]
    painting.session.selection.choose_stamp(from_grid([ids]))
    painting.keys("D", "R")
    painting.drag(spot(1, 1), spot(10, 5))
    held = region(tiles(painting).tiles, 1, 1, 10, 5)
    assert len(np.unique(held)) == 3 and len({tuple(r) for r in held.tolist()}) == 5


# -- Ship -------------------------------------------------------------------------------------------


def ship_stage(hands: Hands) -> ShipStage:
    stage = hands.window.stages["ship"]
    assert isinstance(stage, ShipStage)
    return stage


def on_board(stage: ShipStage, name: str) -> tuple[float, float]:
    """The middle of a frame on the Desk, px."""
    assert stage.board is not None
    frame = next(f for f in stage.board.plan.frames if f.cell.name == name)
    x, y, w, h = stage.board.places_of({frame.cell.id})[0]
    return x + w / 2, y + h / 2


def test_the_atlas_is_shown_and_shipped(hands: Hands, tmp_path: Path, qtbot: QtBot) -> None:
    hands.open_sheet("wren.png", "ship")
    stage = ship_stage(hands)
    hands.wait(lambda: stage.board is not None)
    hands.click(*on_board(stage, "walk_3"))
    assert hands.session.selection.cell is not None and hands.session.selection.cell.name == "walk_3"
    job = stage.shipping.ship_to(tmp_path / "out")
    with qtbot.waitSignal(job.done, timeout=10_000):
        pass
    states = hands.window.shelf.list.states
    assert states[hands.sheet("wren.png").id]["ship"] == "done"
    assert states[hands.sheet("lamps.png").id]["ship"] == "open"
    hands.session.document.edit("Tune", lambda p: tune_sheets(p, [hands.sheet("wren.png").id], ppu=20))
    hands.wait(lambda: hands.window.shelf.list.states[hands.sheet("wren.png").id]["ship"] == "open")
    assert (tmp_path / "out" / "manifest.json").exists()
    hands.session.document.undo()
    hands.wait(lambda: hands.window.shelf.list.states[hands.sheet("wren.png").id]["ship"] == "done")
    job = stage.shipping.ship_to(tmp_path / "out")
    with qtbot.waitSignal(job.done, timeout=10_000):
        pass
    assert "Shipped" in hands.window.notice.words.text()
    hands.press_widget(stage.settings.limit, x=8)
    hands.wait(lambda: stage.fault is not None)
    assert "516 x 340" in hands.window.notice.words.text()
    hands.session.document.undo()
    hands.wait(lambda: stage.board is not None)


def test_ways_to_ship_are_made_changed_and_shipped(hands: Hands, tmp_path: Path, qtbot: QtBot) -> None:
    hands.open_sheet("wren.png", "ship")
    stage = ship_stage(hands)
    hands.wait(lambda: stage.board is not None)
    hands.press_widget(stage.add_button)
    assert stage.way.name == "Desktop game 2" and hands.session.project.ways == (stage.way,)
    hands.type(stage.settings.name, "mine")
    assert stage.way.name == "mine" and stage.ways_box.currentText() == "mine"
    hands.press_widget(stage.settings.sides, x=8)
    hands.press_widget(stage.settings.turned)
    hands.press_widget(stage.settings.picture, x=60)
    assert (stage.way.pages.sides, stage.way.pages.turned, stage.way.picture) == ("any", True, "webp")
    pier = hands.session.project.levels[0]
    stage.settings.picks["levels"].menu().actions()[2].trigger()
    assert stage.way.levels == (pier.id,) and stage.settings.picks["levels"].words == "1 of 2"
    hands.session.document.edit("To", lambda p: change_way(p, stage.way.id, folder=str(tmp_path / "mine")))
    stage.show_way("plain")
    hands.session.document.edit("To", lambda p: change_way(p, "plain", folder="../plain"))
    stage.refresh()
    hands.wait(lambda: stage.board is not None and len(stage.board.items) > 100)
    hands.click(*on_board(stage, "walk_3"))
    assert hands.session.selection.cell is not None and hands.session.selection.cell.name == "walk_3"
    hands.press_widget(stage.all_button)
    plain = hands.session.folder.path.parent / "plain"
    hands.wait(
        lambda: (plain / "files.json").exists() and (tmp_path / "mine" / "files.json").exists(), 20_000
    )
    assert not (tmp_path / "mine" / "levels" / "saltings.json").exists()
    assert (tmp_path / "mine" / "atlas_0.webp").exists() and (
        plain / "frames" / "wren" / "walk_3.png"
    ).exists()
    stage.show_way(next(w.id for w in hands.session.project.ways if w.name == "mine"))
    hands.press_widget(stage.remove_button)
    assert [w.name for w in hands.session.project.ways] == ["Plain files"]
    hands.session.document.undo()
    assert "mine" in [w.name for w in hands.session.project.ways]


# -- from a picture to a level that ships --------------------------------------------------------------


def test_the_whole_way_from_a_picture_to_shipped_files(
    application, picture, tmp_path: Path, qtbot: QtBot
) -> None:  # type: ignore[no-untyped-def]
    rng = np.random.default_rng(3)
    rgba = np.zeros((32, 64, 4), np.uint8)
    rgba[:, :, :3] = rng.integers(0, 255, (32, 64, 3))
    rgba[:16, :, 3] = rgba[16:, :32, 3] = 255
    Folder.create(tmp_path / "game", "Game")
    window = application.open(tmp_path / "game")
    window.resize(1280, 800)
    hands = Hands(window, qtbot)
    window.stages["gather"].bringing.bring([picture("ground.png", rgba=rgba)])  # type: ignore[attr-defined]
    hands.wait(lambda: bool(hands.session.project.sheets))
    hands.open_sheet("ground.png", "cut")
    hands.type(cut_stage(hands).cell, "16x16")
    assert len(hands.sheet("ground.png").cells) == 6
    hands.window.rail.tabs.chosen.emit("tune")
    hands.press_widget(tune_stage(hands).one)
    hands.window.rail.tabs.chosen.emit("shape")
    hands.keys("Ctrl+A", "1", "Ctrl+L")
    window.tray.refresh()
    window.tray.case.choose_cell(hands.sheet("ground.png").cells[2].id)
    hands.keys("R")
    hands.drag(spot(2, 10), spot(20, 12))
    level = hands.session.selection.level
    assert level is not None and (region(tiles(hands).tiles, 2, 10, 19, 3) > 0).all()
    hands.keys("Ctrl+S")
    hands.wait(lambda: not hands.session.saver.unsaved)
    job = window.stages["ship"].shipping.ship_to(tmp_path / "out")  # type: ignore[attr-defined]
    with qtbot.waitSignal(job.done, timeout=10_000):
        pass
    opened = Folder(tmp_path / "game").open()
    assert opened.sheets == hands.session.project.sheets and opened.levels[0].bounds == level.bounds
    assert (tmp_path / "out" / "atlas_0.png").exists()
