"""Shelf, Strip, Tray, layers, Proof and what the Desk paints."""

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QApplication

from rushweed.core.document.edit import set_credit
from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.shape import Box
from rushweed.core.level.brush import rectangle
from rushweed.core.level.chunks import region
from rushweed.core.level.edit import erase, paint
from rushweed.core.level.many_things import move_things
from rushweed.core.level.render import level_picture
from rushweed.core.level.stamp import single
from rushweed.core.tune.edit import set_pivot_px
from rushweed.ui.desk.images import array_of
from rushweed.ui.desk.laid_shapes import outer_edges, placed_shapes
from rushweed.ui.desk.shape_marks import ShapeMarks, comb
from rushweed.ui.desk.view import View
from rushweed.ui.kit.theme import DAY, Look
from rushweed.ui.panels.panel import Panel
from rushweed.ui.panels.shelf import stage_states
from rushweed.ui.session import Session
from rushweed.ui.stages.paint.stage import PaintStage
from tests.ui.conftest import Hands

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def row_of(hands: Hands, name: str) -> int:
    """The middle of a row of the Shelf, px from its top."""
    entries = hands.window.shelf.list.entries()
    return next(y + 16 for kind, part, y in entries if kind == "row" and part.name == name)  # type: ignore[union-attr]


# -- Shelf --------------------------------------------------------------------------------------------


def test_a_sheet_is_shown_by_a_press_and_a_level_opens_paint(hands: Hands) -> None:
    rows = hands.window.shelf.list
    hands.press_widget(rows, 60, row_of(hands, "wren.png"))
    assert hands.session.selection.sheet is not None and hands.session.selection.sheet.name == "wren.png"
    hands.press_widget(rows, 60, row_of(hands, "saltings"))
    assert hands.session.stage == "paint" and hands.session.selection.level is not None
    assert hands.session.selection.level.name == "saltings"
    hands.press_widget(rows, 60, row_of(hands, "wren.png"))
    assert hands.session.stage == "cut"


def test_ctrl_and_shift_select_several_sheets(hands: Hands) -> None:
    rows = hands.window.shelf.list
    hands.press_widget(rows, 60, row_of(hands, "marsh.png"))
    hands.press_widget(rows, 60, row_of(hands, "eel.bmp"), keys=SHIFT)
    assert len(hands.session.selection.sheet_ids) == 4
    hands.press_widget(rows, 60, row_of(hands, "lamps.png"), keys=CTRL)
    assert len(hands.session.selection.sheet_ids) == 3
    hands.press_widget(rows, 60, row_of(hands, "crate.png"), keys=CTRL)
    assert [s.name for s in hands.session.selection.sheets][-1] == "crate.png"


def test_the_shelf_is_searched_and_its_plus_makes_a_level(hands: Hands) -> None:
    shelf = hands.window.shelf
    shelf.toggle_find()
    hands.qtbot.keyClicks(shelf._find, "wre")
    names = [p.name for kind, p, _y in shelf.list.entries() if kind == "row"]  # type: ignore[union-attr]
    assert names == ["wren.png"]
    shelf.toggle_find()
    head = next(y for kind, p, y in shelf.list.entries() if kind == "head" and str(p).startswith("Levels"))
    hands.press_widget(shelf.list, shelf.list.width() - 14, head + 12)
    assert len(hands.session.project.levels) == 3


def test_the_dots_tell_what_is_done_and_where_a_fault_is(hands: Hands) -> None:
    project = hands.session.project
    sheet = hands.sheet("boardwalk.png")
    states = stage_states(project, [], frozenset())[sheet.id]
    assert states["cut"] == states["shape"] == states["paint"] == "done" and states["ship"] == "open"
    assert stage_states(project, [], frozenset([sheet.id]))[sheet.id]["ship"] == "done"
    (hands.session.folder.path / "art" / "wren.png").unlink()
    hands.session.stock._arrays.clear()
    hands.session.checker.find_soon()
    hands.wait(lambda: any(f.weight == "fault" for f in hands.session.checker.findings))
    wren = hands.sheet("wren.png").id
    assert hands.window.shelf.list.states[wren]["gather"] == "fault"


# -- Strip and Tray -----------------------------------------------------------------------------------


def test_frames_are_selected_walked_and_spanned_in_the_strip(hands: Hands) -> None:
    hands.open_sheet("wren.png", "cut")
    film = hands.window.strip.film
    hands.press_widget(film, 8 + 80 * 2 + 10, 30)
    assert hands.session.selection.cell is not None and hands.session.selection.cell.name == "idle_2"
    hands.qtbot.keyClick(film, Qt.Key.Key_Right)
    assert hands.session.selection.cell.name == "idle_3"
    hands.press_widget(film, 8 + 10, 30, SHIFT)
    assert len(hands.session.selection.cells) == 4
    hands.press_widget(film, 8 + 10, 30, CTRL)
    assert len(hands.session.selection.cells) == 3
    film.reveal(hands.sheet("wren.png").cells[-1].id)
    assert film.scroll_px > 0


def test_the_strip_shows_tiles_with_and_without_a_shape(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "shape")
    strip = hands.window.strip
    hands.press_widget(strip.which, strip.which.width() - 10)
    shown = {c.name for c in strip.film.cells}
    assert "stair_down" in shown and "mud_a" not in shown
    strip.which.choose(1)
    assert {c.name for c in strip.film.cells}.isdisjoint(shown)


def test_a_stamp_of_several_tiles_is_dragged_in_the_tray(hands: Hands) -> None:
    hands.open_level("pier", "Boardwalk")
    case = hands.window.tray.case
    left = int(case.lefts()[1])  # beside the auto-tile sets
    hands.qtbot.mousePress(case, Qt.MouseButton.LeftButton, pos=QPoint(left + 5, 20))
    hands.qtbot.mouseMove(case, QPoint(left + 40, 55))
    hands.qtbot.mouseRelease(case, Qt.MouseButton.LeftButton, pos=QPoint(left + 40, 55))
    stamp = hands.session.selection.stamp
    assert stamp is not None and stamp.size == (2, 2) and len(stamp.cells) == 4
    tray = hands.window.tray
    tray.toggle_sheet(hands.sheet("boardwalk.png").id)
    assert all(s.name != "boardwalk.png" for g in case.groups for s, _c in g.tiles)
    tray.toggle_sheet(hands.sheet("boardwalk.png").id)
    hands.qtbot.keyClicks(tray.find_field, "lamp")
    assert {c.name for g in case.groups for _s, c in g.tiles} == {"lamp_dark", "lamp_lit"}


# -- layers -------------------------------------------------------------------------------------------


def test_layers_are_chosen_hidden_moved_and_added(hands: Hands) -> None:
    hands.open_level("pier", "Boardwalk")
    stage = hands.window.stage("paint")
    assert isinstance(stage, PaintStage)
    rows = stage.card.layers.rows
    hands.press_widget(rows, 100, 14 + 16)
    assert (
        hands.session.selection.layer is not None and hands.session.selection.layer.name == "Rails and lamps"
    )
    hands.keys("PgDown")
    assert [x.name for x in rows.layers()][:2] == ["Boardwalk", "Rails and lamps"]
    hands.keys("PgUp")
    hands.window.commands.run_id("paint.layer")
    assert hands.session.selection.layer.name == "Layer" and len(rows.layers()) == 7
    hands.type(stage.card.layer_rows.name, "Mist")
    hands.type(stage.card.layer_rows.opacity, "40")
    layer = hands.session.selection.layer
    assert (layer.name, layer.opacity_percent) == ("Mist", 40)
    stage.card.layer_rows.remove_layer()
    assert len(rows.layers()) == 6 and not rows.grab().isNull()


def test_a_sheet_is_put_behind_a_level(hands: Hands) -> None:
    hands.session.selection.choose_sheet(hands.sheet("sky.png").id)
    hands.open_level("saltings")
    hands.window.commands.run_id("paint.backdrop")
    level = hands.session.selection.level
    assert level is not None and level.layers[0].name == "sky"


# -- what is painted ------------------------------------------------------------------------------------


def desk_pixels(hands: Hands) -> np.ndarray:
    """What the Desk shows once nothing is left for a later turn."""
    desk = hands.window.desk
    seen = desk.grab()
    while desk.scene.unfinished:
        seen = desk.grab()
    return array_of(seen.toImage())


def test_the_desk_shows_a_level_as_the_core_draws_it_after_any_stroke(hands: Hands) -> None:
    hands.open_level("saltings", "Ground")
    stage, desk = hands.window.stage("paint"), hands.window.desk
    assert isinstance(stage, PaintStage)
    for check in (stage.state.shown.shapes, stage.state.shown.edge, stage.state.shown.rooms):
        check.toggle()
    desk.zoom_to(1)
    desk.look_at(20 * 16, 13 * 16)
    level, layer = hands.session.selection.level_id, hands.session.selection.layer_id
    tile = single(hands.cell("marsh.png", "stump").id)
    edits = [
        lambda p: paint(p, level, layer, tile, rectangle(10, 10, 14, 11)),
        lambda p: erase(p, level, layer, rectangle(12, 10, 30, 16)),
        lambda p: paint(p, level, layer, tile.turned().mirrored(), rectangle(0, 0, 39, 25)),
    ]
    for edit in edits:
        hands.session.document.edit("Stroke", edit)
        stage.leave()
        at = hands.at(100, 100)
        seen = desk_pixels(hands)[at.y() : at.y() + 200, at.x() : at.x() + 300, :3]
        project = hands.session.project
        now = hands.session.selection.level
        assert now is not None
        picture = level_picture(project, now, hands.session.stock.pixels, (100, 100, 300, 200))
        opaque = picture[..., 3] == 255
        assert opaque.any() and (seen[opaque] == picture[..., :3][opaque]).all()
    for _ in edits:
        hands.session.document.undo()


def test_waste_is_dimmed_and_pixels_get_a_grid_from_8x(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    hands.window.stage("cut").leave()
    at = hands.at(30.5, 107.5)  # in the strip of swatches below the last row
    drawn = hands.session.stock.pixels(hands.sheet("boardwalk.png"))[107, 30, :3].astype(int)
    seen = desk_pixels(hands)[at.y(), at.x(), :3].astype(int)
    grey = np.array([int(DAY.desk[i : i + 2], 16) for i in (1, 3, 5)])
    assert np.abs(seen - (0.26 * drawn + 0.74 * grey)).max() <= 3
    hands.window.desk.zoom_to(16)
    hands.window.desk.look_at(40, 8)
    corner, middle = hands.at(41, 8), hands.at(41.5, 8.5)
    picture = desk_pixels(hands)
    line = picture[middle.y(), corner.x(), :3].astype(int)
    inner = picture[middle.y(), middle.x(), :3].astype(int)
    assert (line != inner).any()


def test_merged_shapes_have_no_line_where_they_touch(qapp: QApplication) -> None:
    look = Look()
    view, marks = View(), ShapeMarks(look)
    view.zoom, view.offset = 4, QPointF(10, 10)
    box = Box(0, 0, 16, 16)

    def drawn(merged: bool) -> np.ndarray:
        image = QImage(160, 90, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(0)
        painter = QPainter(image)
        if merged:
            marks.paint_merged(painter, view, [(box, np.array([[0.0, 0.0], [16.0, 0.0]]))])
        else:
            marks.paint(painter, view, [(box, 0.0, 0.0), (box, 16.0, 0.0)])
        painter.end()
        return array_of(image)

    apart, merged = drawn(False), drawn(True)
    between = 10 + 16 * 4
    assert (apart[30:50, between, 3] > 180).all()
    assert (merged[30:50, between, 3] < 180).any()
    assert (merged[10, 20:60, 3] > 180).all()


def test_an_edge_goes_where_two_shapes_share_it_and_stays_elsewhere() -> None:
    rng = np.random.default_rng(8)
    for _ in range(20):
        places = [np.argwhere(rng.random((5, 6)) < 0.5).astype(float) * 16 for _ in range(2)]
        square = np.array([[0, 0], [16, 0], [16, 16], [0, 16]], float)
        half = np.array([[0, 8], [16, 8], [16, 16], [0, 16]], float)
        rings = [square + places[0][:, None], half + places[1][:, None] + (200, 0)]
        edges = {(*ring[n], *ring[(n + 1) % 4]) for part in rings for ring in part.tolist() for n in range(4)}
        wanted = {(ax, ay, bx, by) for ax, ay, bx, by in edges if (bx, by, ax, ay) not in edges}
        assert {tuple(edge) for edge in outer_edges(rings).tolist()} == wanted
    assert outer_edges([]).shape == (0, 4)


def test_shapes_that_layers_hold_alike_come_once(hands: Hands) -> None:
    hands.open_level("saltings")
    level = next(v for v in hands.session.project.levels if v.name == "saltings")
    twice = replace(level, layers=(*level.layers, *(replace(x, id=f"{x.id}x") for x in level.layers)))
    area = (0.0, 0.0, 640.0, 416.0)
    once, both = (
        sorted((repr(shape), sorted(places.tolist())) for shape, places in found)
        for found in (placed_shapes(v, hands.session.cells_by_id, area) for v in (level, twice))
    )
    assert once == both and sum(len(places) for _shape, places in once) > 20


@pytest.mark.parametrize(("blocks_from", "down"), [("top", 1), ("bottom", -1), ("left", 1), ("right", -1)])
def test_the_comb_hangs_on_the_side_that_lets_through(blocks_from: str, down: int) -> None:
    boxes = np.array([[0.0, 0.0, 64.0, 36.0]])
    lines = comb(boxes, blocks_from, QPointF(0, 0))  # type: ignore[arg-type]
    assert len(lines) >= 3
    for line in lines:
        along = line.dy() if blocks_from in ("top", "bottom") else line.dx()
        assert along == 7 * down


def test_the_proof_follows_the_selection_and_its_modes(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    proof = hands.window.proof

    def shown() -> bytes:
        return hands.proof().tobytes()

    proof.clock = lambda: 3.0
    seen = {shown()}
    for mode in (1, 2):
        proof.mode.choose(mode)
        seen.add(shown())
    proof.mode.choose(0)
    cell = hands.sheet("wren.png").cells[0]
    hands.session.selection.choose_cells((cell.id,))
    hands.session.document.preview(lambda p: set_pivot_px(p, [cell.id], 2, 10))
    seen.add(shown())
    hands.session.document.preview(None)
    assert len(seen) == 4


def test_the_proof_of_a_level_shows_the_start(hands: Hands) -> None:
    hands.open_level("pier", "Boardwalk")
    hands.window.proof.refresh()
    before = array_of(hands.window.proof.picture.image)  # type: ignore[arg-type]
    hands.keys("T")
    hands.window.desk.look_at(26 * 16, 10 * 16)
    hands.click(26 * 16, 12 * 16)
    level = hands.session.selection.level
    assert level is not None and level.start == (26 * 16, 12 * 16)
    hands.wait(lambda: (array_of(hands.window.proof.picture.image) != before).any())  # type: ignore[arg-type]
    assert isinstance(level.layers[2], TileLayer) and region(level.layers[2].tiles, *level.bounds).any()


def test_the_proof_of_a_level_lets_the_desk_draw_first_and_follows_while_changes_go_on(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.open_level("pier", "Boardwalk")
    proof, document, level = hands.window.proof, hands.session.document, hands.session.selection.level_id
    proof.refresh()
    before, at_once = proof.picture.image, []
    monkeypatch.setattr(proof, "refresh", lambda: at_once.append(hands.session.stage))
    ids = [t.id for t in hands.session.project.levels[0].things]
    for _ in range(100):  # one after another, before the time of the first is up
        document.edit("Move", lambda p: move_things(p, level, ids, 1, 0))
        hands.qtbot.wait(10)
        if proof.picture.image is not before:
            break
    assert proof.picture.image is not before and not at_once
    hands.open_sheet("wren.png", "tune")
    assert at_once == ["tune"]


class Counting(Panel):
    """A made-up panel: how often it was brought up to date, and why."""

    topics = frozenset({"sheets", "selection"})

    def __init__(self, session: Session) -> None:
        self.heard: list[set[str]] = []
        self.refreshed = 0
        super().__init__(session)

    def follow(self, topics: frozenset[str]) -> None:
        self.heard.append(set(topics))
        super().follow(topics)

    def refresh(self) -> None:
        self.refreshed += 1


def test_a_panel_is_refreshed_only_while_it_is_seen_and_by_what_it_reads(hands: Hands) -> None:
    session, sheet = hands.session, hands.session.project.sheets[0]
    panel = Counting(session)
    hands.qtbot.addWidget(panel)
    session.document.edit("Credit", lambda p: set_credit(p, [sheet.id], author="Wren"))
    session.selection.choose_sheet(session.project.sheets[1].id)
    assert panel.refreshed == 0 and panel.heard == [], "nobody sees it"
    panel.show()
    assert panel.refreshed == 1, "once, for all that changed meanwhile"
    session.document.edit("Name", lambda p: replace(p, name="Marsh"))
    session.go("paint")
    hands.qtbot.wait(5)
    assert panel.refreshed == 1, "it reads neither the name nor the stage"
    session.document.edit("Credit", lambda p: set_credit(p, [sheet.id], author="Eel"))
    session.selection.choose_sheet(sheet.id)
    hands.qtbot.wait(5)
    assert panel.refreshed == 2 and panel.heard == [{"project", "selection"}], "once for all of a turn"
    panel.hide()
    panel.show()
    assert panel.refreshed == 2, "it was up to date"
    session.selection.choose_sheet(session.project.sheets[2].id)
    panel.hide()
    hands.qtbot.wait(5)
    assert panel.refreshed == 2, "it was hidden before its turn came"
    panel.show()
    assert panel.refreshed == 3


def test_the_strip_and_the_timeline_rest_while_one_paints(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.open_level("pier", "Boardwalk")
    window, refreshed = hands.window, []
    for part in (window.strip, window.timeline):
        monkeypatch.setattr(part, "refresh", lambda part=part: refreshed.append(part))
    sheet = hands.sheet("marsh.png")
    hands.session.document.edit("Credit", lambda p: set_credit(p, [sheet.id], author="Wren"))
    hands.session.selection.choose_sheet(sheet.id)
    hands.qtbot.wait(5)
    assert refreshed == []
    window.rail.tabs.chosen.emit("tune")
    assert set(refreshed) == {window.strip}


def test_the_strip_stays_where_it_is_when_all_cells_are_selected(hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "cut")
    film, ids = hands.window.strip.film, tuple(c.id for c in sheet.cells)
    hands.session.selection.choose_cells(ids)
    hands.qtbot.wait(5)
    assert film.scroll_px == 0
    hands.session.selection.choose_cells(ids[1:])
    hands.qtbot.wait(5)
    assert film.scroll_px > 0, "to the one selected last"


def test_the_strip_comes_into_sight_at_what_was_selected_meanwhile(hands: Hands) -> None:
    sheet = hands.open_sheet("boardwalk.png", "cut")
    hands.open_level("pier", "Boardwalk")
    film, last = hands.window.strip.film, sheet.cells[-1]
    hands.session.selection.choose_sheet(sheet.id)
    hands.session.selection.choose_cells((last.id,))
    hands.window.rail.tabs.chosen.emit("shape")
    spot = next(s for s in film.spots() if last.name in s.words)
    assert film.rect().contains(spot.box.toRect())
