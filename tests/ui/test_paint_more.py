"""Paint: layers of all kinds, rooms, the Tray by sheets, kept stamps, many cells at once, what is shown."""

from __future__ import annotations

import subprocess
import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image
from PyQt6.QtCore import QMimeData, QPoint, QPointF, QRectF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtWidgets import QApplication, QColorDialog, QFileDialog, QInputDialog, QPushButton
from pytestqt.qtbot import QtBot

from rushweed.core.document.edit import put_level
from rushweed.core.document.model.level import BackdropLayer, Level, PictureLayer, ThingLayer, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box
from rushweed.core.level.chunks import region
from rushweed.core.level.edit import paint
from rushweed.core.level.levels import add_level, is_empty, set_cell
from rushweed.core.level.render import Seen, level_picture
from rushweed.core.level.stamp import from_grid, single
from rushweed.core.level.wide import places_of
from rushweed.core.shape.edit import set_shapes
from rushweed.core.store.folder import Folder
from rushweed.ui.app import Application
from rushweed.ui.desk import level_paint
from rushweed.ui.kit.controls import Chip
from rushweed.ui.panels.sheet_case import laid_out
from rushweed.ui.stages.paint import small_levels
from rushweed.ui.stages.paint.stage import PaintStage
from rushweed.ui.stages.paint.tools.board import LevelBoard
from rushweed.ui.stages.paint.tools.measure import Measure
from tests.ui.conftest import LEFT, Hands
from tests.ui.test_panels import desk_pixels


def stage(hands: Hands) -> PaintStage:
    made = hands.window.stage("paint")
    assert isinstance(made, PaintStage)
    return made


def level(hands: Hands) -> Level:
    found = hands.session.selection.level
    assert found is not None
    return found


@pytest.fixture
def open_pier(hands: Hands) -> PaintStage:
    hands.open_level("pier", "Boardwalk")
    hands.window.desk.zoom_to(2)
    hands.window.desk.look_at(200, 150)
    return stage(hands)


def held(hands: Hands, x: int, y: int, layer: str = "Boardwalk") -> str:
    """The name of the tile at a cell."""
    now = level(hands)
    found = next(v for v in now.layers if v.name == layer)
    assert isinstance(found, TileLayer)
    value = int(region(found.tiles, x, y, 1, 1)[0, 0])
    cells = hands.session.cells_by_id
    return cells[now.table[(value >> 3) - 1]][1].name if value else ""


def cell(x: int, y: int) -> tuple[float, float]:
    return x * 16 + 8, y * 16 + 8


def pick(hands: Hands, name: str) -> str:
    """A tile of the demo in hand, by its name; returns its id."""
    found = next(c for s in hands.session.project.sheets for c in s.cells if c.name == name)
    hands.window.tray.case.choose_cell(found.id)
    return found.id


def drag_on(hands: Hands, widget, *points: QPointF) -> None:  # type: ignore[no-untyped-def]
    hands.qtbot.mousePress(widget, LEFT, pos=points[0].toPoint())
    for point in points[1:]:
        hands.qtbot.mouseMove(widget, point.toPoint())
    hands.qtbot.mouseRelease(widget, LEFT, pos=points[-1].toPoint())


# -- layers ----------------------------------------------------------------------------------------------


def test_layers_of_all_kinds_are_added_from_the_list(hands: Hands, open_pier: PaintStage) -> None:
    layers = open_pier.card.layers
    before = len(level(hands).layers)
    hands.session.selection.choose_sheet(hands.sheet("sky.png").id)
    for words, kind in (
        ("Tiles", TileLayer), ("Things", ThingLayer), ("Backdrop", BackdropLayer), ("Picture", PictureLayer),
    ):  # fmt: skip
        next(a for a in layers.kinds().actions() if a.text().startswith(words)).trigger()
        chosen = next(x for x in level(hands).layers if x.id == hands.session.selection.layer_id)
        assert type(chosen) is kind
        hands.qtbot.wait(120)  # the card follows
        assert open_pier.card.layer_rows.what.text() == kind.__struct_config__.tag
    assert len(level(hands).layers) == before + 4


def test_the_numbers_of_a_layer_change_what_is_drawn(
    hands: Hands, open_pier: PaintStage, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = open_pier.card.layer_rows

    def layer() -> TileLayer:
        found = hands.session.selection.layer
        assert found is not None
        return found

    hands.type(rows.tint, "#80ff40")
    assert layer().tint == (128, 255, 64)
    hands.type(rows.tint, "no colour")
    assert layer().tint == (128, 255, 64) and rows.tint.text() == "#80ff40"
    monkeypatch.setattr(QColorDialog, "getColor", lambda *_a: QColorDialog().currentColor())
    hands.press_widget(rows.tint, rows.tint.width() - 8, 12)
    assert layer().tint == (255, 255, 255)
    hands.type(rows.tint, " ")
    assert layer().tint is None
    hands.type(rows.parallax, "0.5 x 1")
    assert layer().keeps_up == (0.5, 1) and not layer().collides
    hands.type(rows.parallax, "1 x 1")
    before = hands.at(0, 0)
    hands.type(rows.offset, "5, -3")
    assert layer().offset == (5, -3)
    for _ in range(3):
        hands.window.desk.grab()
    assert hands.at(0, 0) == before  # the layer moves, the view does not
    hands.press_widget(rows.solid, 5, 12)
    hands.press_widget(rows.front, 5, 12)
    assert layer().front and not layer().solid
    stage(hands).leave()
    at = hands.at(150, 150)
    for toggle in (open_pier.state.shown.shapes, open_pier.state.shown.edge, open_pier.state.shown.rooms):
        toggle.show_value(False)
    hands.window.desk.update()
    seen = desk_pixels(hands)[at.y() : at.y() + 200 : 2, at.x() : at.x() + 300 : 2, :3]
    picture = level_picture(
        hands.session.project, level(hands), hands.session.stock.pixels, (150, 150, 150, 100),
        seen=Seen(with_backdrops=False),
    )  # fmt: skip
    opaque = picture[..., 3] == 255
    assert opaque.any() and (seen[opaque] == picture[..., :3][opaque]).all()


def test_layers_are_dragged_in_the_list_and_shown_alone(hands: Hands, open_pier: PaintStage) -> None:
    rows = open_pier.card.layers.rows
    names = [x.name for x in reversed(level(hands).layers)]
    start, end = QPointF(100, 14 + 16), QPointF(100, 14 + 32 * 2 + 4)
    drag_on(hands, rows, start, QPointF(100, 60), end)
    assert [x.name for x in reversed(level(hands).layers)] == [names[1], names[0], *names[2:]]
    hands.qtbot.mouseClick(
        rows, LEFT, Qt.KeyboardModifier.ControlModifier, QPoint(rows.width() - 12, 14 + 16)
    )
    assert [x.shown for x in reversed(level(hands).layers)] == [True] + [False] * (len(names) - 1)
    hands.session.selection.choose_layer(next(x.id for x in level(hands).layers if x.shown))
    hands.keys("Shift+J")
    assert all(x.shown for x in level(hands).layers)
    hands.keys("Shift+J")
    assert sum(x.shown for x in level(hands).layers) == 1


def test_other_layers_fade_while_one_paints(hands: Hands, open_pier: PaintStage) -> None:
    open_pier.leave()
    hands.window.desk.grab()
    before = desk_pixels(hands).copy()
    hands.keys("J")
    assert hands.window.desk.level_painter.alone == hands.session.selection.layer_id
    assert (desk_pixels(hands) != before).any()
    hands.keys("J")
    assert hands.window.desk.level_painter.alone == ""


# -- levels and rooms ------------------------------------------------------------------------------------


def test_the_level_is_seen_from_the_top_drawn_by_foot_grouped_copied_and_moved(
    hands: Hands, open_pier: PaintStage
) -> None:
    rows = open_pier.card.level_rows
    rows.view.edited.emit("top")
    rows.order.edited.emit("foot")
    hands.type(rows.group, "coast")
    now = level(hands)
    assert (now.view, now.order, now.group) == ("top", "foot", "coast")
    hands.window.commands.run_id("paint.copy_level")
    assert level(hands).id != now.id and level(hands).order == "foot"
    ids = [v.id for v in hands.session.project.levels]
    hands.window.commands.run_id("paint.earlier")
    assert [v.id for v in hands.session.project.levels][:2] == [ids[1], ids[0]]


def test_rooms_are_drawn_snapped_resized_named_and_gone_to(hands: Hands, open_pier: PaintStage) -> None:
    bare = replace(level(hands), rooms=())
    hands.session.document.edit("No rooms", lambda p: put_level(p, bare))
    hands.keys("Q")
    hands.drag(cell(1, 1), cell(5, 5), cell(11, 8))
    (room,) = level(hands).rooms
    assert room.area == (0, 0, 12, 9)  # snapped to the level's corner
    hands.drag(cell(14, 5), cell(16, 6), cell(20, 9))
    second = level(hands).rooms[1]
    assert second.area == (12, 5, 9, 4)
    rows = open_pier.room_rows
    hands.type(rows.name, "jetty")
    rows.camera.edited.emit("across")
    assert (level(hands).rooms[1].name, level(hands).rooms[1].camera) == ("jetty", "across")
    hands.drag((21 * 16, 7 * 16 + 8), (22 * 16, 7 * 16 + 8), (24 * 16 + 2, 7 * 16 + 8))
    assert level(hands).rooms[1].area == (12, 5, 12, 4)
    hands.drag(cell(15, 6), cell(12, 5), cell(10, 4))
    assert level(hands).rooms[1].area == (12, 5, 12, 4)  # it would lie over the first
    assert "lie over" in hands.window.notice.words.text()
    hands.type(rows.area, "4 x 4")
    assert level(hands).rooms[1].area == (12, 5, 4, 4)
    open_pier.room_rows.go_to(room.id)
    assert open_pier.state.room_id == room.id
    seen = hands.window.desk.view.to_content(hands.window.desk.room.center())
    assert abs(seen.x() - 6 * 16) < 16 and abs(seen.y() - 4.5 * 16) < 16
    hands.keys("Delete")
    assert [r.name for r in level(hands).rooms] == ["jetty"]
    hands.session.document.undo()
    assert len(level(hands).rooms) == 2


# -- the Tray --------------------------------------------------------------------------------------------


def test_the_tray_shows_the_sheet_as_it_was_drawn_and_a_rectangle_is_a_stamp(
    hands: Hands, open_pier: PaintStage
) -> None:
    tray = hands.window.tray
    tray.way.edited.emit("sheet")
    pictures = tray.sheets.pictures
    n = next(i for i, one in enumerate(pictures.laid) if one.sheet.name == "boardwalk.png")
    one, box = pictures.laid[n], pictures.boxes()[n]
    zoom = pictures.zoom

    def middle(column: int, row: int) -> QPointF:
        return QPointF(box.left() + (one.x[column] + 8) * zoom, box.top() + (one.y[row] + 8) * zoom)

    drag_on(hands, pictures, middle(0, 1), middle(1, 2), middle(2, 2))
    stamp = hands.session.selection.stamp
    assert stamp is not None and stamp.size == (3, 2)
    wanted = [[int(one.places[row, column]) for column in (0, 1, 2)] for row in (1, 2)]
    for row in (0, 1):
        for column in (0, 1, 2):
            slot = int(stamp.slots[row, column])
            cell_id = stamp.cells[slot - 1] if slot else None
            place = wanted[row][column]
            assert cell_id == (one.sheet.cells[place].id if place >= 0 else None)
    tray.find_field.setText("deck")
    assert pictures.found and all("deck" in hands.session.cells_by_id[i][1].name for i in pictures.found)
    assert zoom * 16 == 32  # a tile is about as large as in the type case
    tray.sheets.zoom_by(1)
    assert pictures.zoom == 3
    tray.sheets.zoom_by(9)
    assert pictures.zoom == 4
    tray.sheets.zoom_by(-9)
    assert pictures.zoom == 0.25
    tray.sheets.zoom_by(1)
    tray.refresh()
    drag_on(hands, pictures, QPointF(pictures.boxes()[n].left() + 4, pictures.boxes()[n].top() + 4))
    assert pictures.zoom == 0.5 and hands.session.selection.stamp is not stamp


def test_large_tiles_are_shown_smaller_in_the_tray(hands: Hands, open_pier: PaintStage) -> None:
    pictures = hands.window.tray.sheets.pictures
    wren = hands.sheet("wren.png")
    for side, zoom in ((8, 4), (24, 1), (64, 0.5), (128, 0.25), (500, 0.25)):
        cells = tuple(replace(cell, rect=(0, 0, side, side)) for cell in wren.cells)
        laid = laid_out(replace(wren, cells=cells), (side, side))
        assert laid is not None
        pictures.show_laid([laid], frozenset())
        assert pictures.zoom == zoom


def test_where_chips_have_no_room_sheets_are_shown_and_hidden_in_a_list(
    hands: Hands, open_pier: PaintStage
) -> None:
    tray = hands.window.tray
    assert not tray.which.isVisible()
    hands.press_widget(tray.aside, 8, 8)
    hands.wait(lambda: tray.width() < 400)
    hands.wait(tray.which.isVisible)
    assert (
        tray.find_field.isVisible() and tray.find_field.y() == tray.which.y() and tray.second_line.isVisible()
    )
    names = [t.words for t in tray.which.fill()]  # type: ignore[misc]
    assert "boardwalk.png" in names and any("24 × 32 px" in name for name in names)
    toggle = next(t for t in tray.which.fill() if t.words == "boardwalk.png")  # type: ignore[misc]
    before = tray.which.words
    toggle.toggle()
    assert all(s.name != "boardwalk.png" for g in tray.case.groups for s, _c in g.tiles)
    assert tray.which.words != before and not tray.which.fill()[names.index("boardwalk.png")].on  # type: ignore[misc]
    toggle.toggle()
    next(t for t in tray.which.fill() if "24 × 32 px" in t.words and "wren" in t.words).toggle()  # type: ignore[misc]
    assert "wren.png has tiles of 24 × 32 px" in hands.window.notice.words.text()
    hands.press_widget(tray.aside, 8, 8)
    hands.wait(lambda: tray.height() < 400)
    hands.wait(tray.find_field.isVisible)
    assert not tray.second_line.isVisible() and not tray.which.isVisible()


def test_the_tray_goes_to_a_column_at_the_right_and_back(hands: Hands, open_pier: PaintStage) -> None:
    tray, across = hands.window.tray, hands.window.parts.across
    hands.press_widget(tray.aside, 8, 8)
    assert across.indexOf(tray) == 2 and tray.isVisible() and tray.height() > 400
    hands.open_sheet("wren.png", "cut")
    assert not tray.isVisible() and hands.window.strip.isVisible()
    hands.open_level("pier")
    assert tray.isVisible()
    hands.press_widget(tray.aside, 8, 8)
    hands.wait(lambda: tray.height() < 400)
    assert across.indexOf(tray) == -1 and tray.isVisible()


def test_a_stamp_is_kept_over_several_layers_and_put_with_all_of_them(
    hands: Hands, open_pier: PaintStage, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("stilts", True))
    hands.keys("V")
    hands.drag(cell(12, 11), cell(14, 12), cell(16, 14))
    hands.keys("Ctrl+K")
    kept = hands.session.project.stamps[-1]
    assert kept.name == "stilts" and len(kept.parts) >= 2
    tray = hands.window.tray
    tray.way.edited.emit("kept")
    place = tray.kept.stamps.place(2).center()  # after those of the demo
    hands.qtbot.mouseClick(tray.kept.stamps, LEFT, pos=place.toPoint())
    assert hands.session.selection.whole_stamp is kept
    hands.keys("B")
    before = {
        layer.name: held(hands, 14, 12, layer.name)
        for layer in level(hands).layers
        if isinstance(layer, TileLayer)
    }
    hands.click(*cell(12, 2))
    after = {
        layer.name: held(hands, 14, 3, layer.name)
        for layer in level(hands).layers
        if isinstance(layer, TileLayer)
    }
    assert after == before and any(after.values())
    hands.session.document.undo()
    assert held(hands, 14, 3, "Boardwalk") == ""
    menu = tray.kept.stamps.menu(2)
    next(a for a in menu.actions() if a.text() == "Remove").trigger()
    assert kept not in hands.session.project.stamps


def test_stamps_painted_with_are_listed_as_recent(hands: Hands, open_pier: PaintStage) -> None:
    for name in ("deck_mid_a", "crate"):
        pick(hands, name)
        hands.click(*cell(14, 3))
    hands.window.tray.way.edited.emit("kept")
    listed = hands.window.tray.kept.stamps.listed()[len(hands.session.project.stamps) :]
    names = [hands.session.cells_by_id[s.cells[0]][1].name for s, _n in listed]  # type: ignore[union-attr]
    assert names[:2] == ["crate", "deck_mid_a"]


# -- many cells ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("way", ["across", "down", "both"])
def test_symmetry_paints_the_other_side_too(hands: Hands, open_pier: PaintStage, way: str) -> None:
    open_pier.state.stamp_line.symmetry.show_value(way)
    pick(hands, "rail_left")
    hands.session.selection.choose_layer(next(x.id for x in level(hands).layers if x.name == "Boardwalk"))
    hands.click(*cell(14, 3))
    left, top, columns, rows = level(hands).bounds
    spots = {"across": [(columns - 1 - 14, 3)], "down": [(14, rows - 1 - 3)]}
    spots["both"] = [*spots["across"], *spots["down"], (columns - 1 - 14, rows - 1 - 3)]
    assert held(hands, 14, 3) == "rail_left" and (left, top) == (0, 0)
    assert all(held(hands, *spot) == "rail_left" for spot in spots[way])
    hands.keys("E")
    hands.click(*cell(14, 3))
    assert not any(held(hands, *spot) for spot in (*spots[way], (14, 3)))


def test_tiles_alike_are_selected_moved_and_by_an_outline(hands: Hands, open_pier: PaintStage) -> None:
    pick(hands, "crate")
    for x in (12, 14, 16):
        hands.click(*cell(x, 3))
    hands.keys("V")
    hands.click(*cell(14, 3), keys=Qt.KeyboardModifier.AltModifier)
    assert open_pier.state.chosen is not None and open_pier.state.chosen.mask.sum() >= 3
    hands.keys("O")
    assert open_pier.state.chosen is not None
    hands.drag(cell(11, 2), cell(15, 2), cell(15, 4), cell(11, 4), (11 * 16 + 1, 2 * 16))
    assert (
        open_pier.state.chosen.holds(12, 3)
        and open_pier.state.chosen.holds(14, 3)
        and not open_pier.state.chosen.holds(16, 3)
    )
    hands.keys("Down")
    assert held(hands, 12, 4) == held(hands, 14, 4) == "crate" and held(hands, 16, 3) == "crate"
    hands.keys("Delete")
    assert not held(hands, 12, 4) and held(hands, 16, 3) == "crate"
    open_pier.state.at = (16, 3)
    hands.keys("Shift+V")
    assert open_pier.state.chosen is not None and open_pier.state.chosen.holds(16, 3)


def test_cells_are_copied_cut_and_pasted_into_another_level_with_a_picture(
    hands: Hands, open_pier: PaintStage
) -> None:
    pick(hands, "crate")
    hands.click(*cell(14, 3))
    hands.keys("V")
    hands.drag(cell(13, 2), cell(14, 3), cell(15, 4))
    hands.keys("Ctrl+X")
    assert held(hands, 14, 3) == ""
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    image = clipboard.image()
    assert isinstance(image, QImage) and (image.width(), image.height()) == (48, 48)
    hands.window.commands.run_id("paint.copy_level")
    hands.session.selection.choose_layer(next(x.id for x in level(hands).layers if x.name == "Boardwalk"))
    hands.keys("Ctrl+Shift+V")
    assert open_pier.tool == "brush" and hands.session.selection.stamp is not None
    hands.click(*cell(16, 3))
    assert held(hands, 17, 4) == "crate"
    clipboard.setText("only words")
    hands.window.commands.run_id("paint.paste")
    assert "holds no tiles" in hands.window.notice.words.text()


def test_a_tile_is_replaced_in_all_levels_and_holes_are_filled(hands: Hands, open_pier: PaintStage) -> None:
    crate = pick(hands, "crate")
    hands.keys("R")
    hands.drag(cell(12, 2), cell(13, 3), cell(15, 5))
    hands.keys("E")
    hands.click(*cell(13, 3))
    pick(hands, "deck_mid_a")
    hands.window.commands.run_id("paint.holes")
    assert held(hands, 13, 3) == "deck_mid_a"
    open_pier.state.at = (12, 2)
    hands.keys("Shift+X")
    assert held(hands, 12, 2) == "deck_mid_a" and places_of(level(hands), crate) == {}


def test_a_sheet_is_replaced_by_the_one_shown(
    hands: Hands, open_pier: PaintStage, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_a, **_k: ("boardwalk.png", True))
    hands.session.selection.choose_sheet(hands.sheet("wren.png").id)
    hands.window.commands.run_id("paint.swap_sheet")
    assert "not cut as" in hands.window.notice.words.text()


# -- what is shown ---------------------------------------------------------------------------------------


def test_the_outline_is_drawn_and_measured_and_follows(hands: Hands, open_pier: PaintStage) -> None:
    open_pier.state.shown.merged.toggle()
    hands.window.desk.grab()
    text = open_pier.overlay.outline.drawn.text
    assert "corners instead of" in text and not open_pier.overlay.outline.drawn.faults
    pick(hands, "deck_mid_a")
    hands.click(*cell(14, 3))
    hands.window.desk.grab()
    assert open_pier.overlay.outline.drawn.text != text


def test_the_overview_goes_where_it_is_dragged(hands: Hands, open_pier: PaintStage) -> None:
    open_pier.state.shown.small.toggle()
    small = open_pier.overview.window
    assert small is not None and small.isVisible()
    hands.wait(lambda: small.image is not None)
    drag_on(hands, small, QPointF(20, 20), QPointF(small.width() * 0.75, small.height() / 2))
    x = hands.window.desk.view.to_content(hands.window.desk.room.center()).x()
    assert abs(x - open_pier.content().width() * 0.75) < 60
    frame = small.frame()
    assert QRectF(small.rect()).contains(frame.center())
    hands.open_sheet("wren.png", "cut")
    assert not small.isVisible()


def test_the_overview_lies_over_no_other_board(hands: Hands, open_pier: PaintStage) -> None:
    desk = hands.window.desk
    board = QPushButton("in the corner", desk)
    board.setGeometry(desk.width() - 120, desk.height() - 80, 110, 70)
    board.show()
    open_pier.state.shown.small.toggle()
    small = open_pier.overview.window
    assert small is not None
    hands.wait(lambda: small.image is not None)
    assert not small.geometry().intersects(board.geometry()) and desk.rect().contains(small.geometry())


def test_the_tape_tells_cells_units_and_px(hands: Hands, open_pier: PaintStage) -> None:
    hands.keys("I")
    hands.drag((100, 100), (120, 110), (148, 140))
    text = open_pier.the(Measure).text()
    assert text.startswith("3 × 2.5 cells   3 × 2.5 u   62.48 px   he jumps it, ")
    hands.window.desk.grab()
    hands.keys("Escape")
    assert open_pier.the(Measure).ends is None


def test_lines_come_every_few_cells_and_one_goes_to_a_cell(
    hands: Hands, open_pier: PaintStage, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.keys("Shift+C")
    assert open_pier.state.every == 2 and open_pier.state.shown.grid.on
    hands.window.desk.grab()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("50, 12", True))
    hands.keys("G")
    middle = hands.window.desk.view.to_content(hands.window.desk.room.center())
    assert abs(middle.x() - 50.5 * 16) < 17 and abs(middle.y() - 12.5 * 16) < 17
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("over there", True))
    hands.keys("G")
    assert "is no cell" in hands.window.notice.words.text()


def git(folder: Path, *words: str) -> None:
    name = ("-c", "user.name=A", "-c", "user.email=a@b.c")
    subprocess.run(["git", *name, *words], cwd=folder, check=True, capture_output=True)


def test_what_changed_since_the_last_commit_is_told_and_marked(
    hands: Hands, open_pier: PaintStage, demo_folder: Path
) -> None:
    open_pier.state.shown.since.toggle()
    hands.wait(lambda: "not under version control" in hands.window.notice.words.text(), 15_000)
    assert not open_pier.state.shown.since.on
    git(demo_folder, "init", "-q")
    (demo_folder / ".gitignore").write_text(".rushweed/\n")
    git(demo_folder, "add", ".")
    git(demo_folder, "commit", "-qm", "start")
    layer = hands.session.selection.layer
    now = level(hands)
    assert layer is not None
    spot = np.array([14]), np.array([3])
    hands.session.document.edit("Paint", lambda p: paint(p, now.id, layer.id, single(now.table[0]), spot))
    open_pier.state.shown.since.toggle()
    hands.wait(lambda: open_pier.changes.base is not None, 15_000)
    assert "1 tile painted" in hands.window.notice.words.text()
    found = open_pier.changes.changes(level(hands))
    assert found is not None and found[2].sum() == 1
    hands.window.desk.grab()
    hands.session.document.undo()
    found = open_pier.changes.changes(level(hands))
    assert found is not None and not found[2].any()


def test_no_row_of_the_card_is_wider_than_the_card(hands: Hands, open_pier: PaintStage) -> None:
    """What is too high scrolls; nothing is cut at the right, whatever is chosen."""
    card, layers = open_pier.card, level(hands).layers
    for layer in layers:
        hands.session.selection.choose_layer(layer.id)
        for tool in ("thing", "scatter", "room", "brush"):
            open_pier.use(tool)
            hands.qtbot.wait(20)
            below = card.layer_rows.parentWidget()
            assert below is not None and below.minimumSizeHint().width() <= card.width(), (layer.name, tool)


# -- things ----------------------------------------------------------------------------------------------


def things_at(hands: Hands) -> list[tuple[float, float]]:
    return [t.at for t in level(hands).things]


def test_many_things_are_selected_moved_copied_aligned_and_turned(
    hands: Hands, open_pier: PaintStage
) -> None:
    before = len(level(hands).things)
    pick(hands, "crate")
    hands.keys("N")
    for x, y in ((200, 60), (240, 64), (300, 70)):
        hands.click(x, y)
    new = things_at(hands)[before:]
    assert new == [(200, 60), (240, 64), (300, 70)]
    hands.drag((180, 30), (250, 50), (330, 100), keys=Qt.KeyboardModifier.ShiftModifier)
    assert len(open_pier.things.things) == 3
    rows = open_pier.thing_rows
    hands.press_widget(rows.aligned["bottom"])
    assert len({y for _x, y in things_at(hands)[before:]}) == 1
    hands.press_widget(rows.spread[True])
    xs = sorted(x for x, _y in things_at(hands)[before:])
    assert abs((xs[1] - xs[0]) - (xs[2] - xs[1])) <= 1
    hands.keys("Right", "Right")
    assert sorted(x for x, _y in things_at(hands)[before:]) == [x + 2 for x in xs]
    hands.type(rows.turn, "45")
    hands.type(rows.scale, "2 , 1.5")
    made = level(hands).things[before:]
    assert all(t.turn == 45 and t.scale == (2, 1.5) for t in made) and "uneven" in rows.warning.text()
    hands.type(rows.tint, "#ff8000")
    assert all(t.tint == (255, 128, 0) for t in level(hands).things[before:])
    hands.window.desk.grab()
    x, y = things_at(hands)[before]
    hands.drag((x, y + 6), (x + 10, y + 6), (x + 40, y - 14), keys=Qt.KeyboardModifier.ControlModifier)
    assert len(level(hands).things) == before + 6 and len(open_pier.things.things) == 3
    assert things_at(hands)[before + 3] == (x + 40, y - 20)
    hands.press_widget(rows.farther)
    assert {t.id for t in level(hands).things[:3]} == set(open_pier.things.ids_chosen)
    hands.keys("Delete")
    assert len(level(hands).things) == before + 3


def test_edges_of_things_meet_with_a_line(hands: Hands, open_pier: PaintStage) -> None:
    pick(hands, "crate")
    hands.keys("N")
    hands.click(200, 60)
    hands.click(260, 90)
    before = len(level(hands).things)
    open_pier.thing_rows.snap.edited.emit("edges")
    hands.drag((262, 92), (240, 70), (219, 63))
    (ax, ay), (bx, by) = things_at(hands)[before - 2 : before]
    assert by == ay and bx - ax == 16  # side by side
    assert open_pier.things.meeting_lines is None


def test_tiles_are_strewn_about_as_things(hands: Hands, open_pier: PaintStage) -> None:
    before = len(level(hands).things)
    pick(hands, "crate")
    hands.keys("W")
    rows = open_pier.thing_rows
    hands.type(rows.density, "0.5")
    hands.type(rows.radius, "3")
    hands.type(rows.chance, "100")
    hands.drag((200, 80), (220, 80), (300, 90))
    made = level(hands).things[before:]
    assert len(made) > 4 and all(t.mirrored for t in made)
    hands.session.document.undo()
    assert len(level(hands).things) == before


def test_the_figure_stands_by_its_foot_and_is_moved_only_to_look(hands: Hands, open_pier: PaintStage) -> None:
    start = level(hands).start
    hands.keys("T")
    hands.drag((150, 100), (160, 120), button=Qt.MouseButton.RightButton)
    hands.window.desk.grab()
    walker = hands.window.desk.level_painter.walker
    assert walker is not None and walker[1] == (160, 120) and level(hands).start == start
    hands.keys("Escape")
    hands.window.desk.grab()
    walker = hands.window.desk.level_painter.walker
    assert walker is not None and walker[1] == start


# -- the level itself ------------------------------------------------------------------------------------


def test_the_level_is_resized_from_any_side_by_dragging_its_edge(hands: Hands, open_pier: PaintStage) -> None:
    hands.keys("V")
    hands.window.desk.zoom_fit()
    left, top, columns, rows = level(hands).bounds
    tile = held(hands, 12, 12)
    outside = 4 / hands.window.desk.view.zoom
    hands.drag((-outside, 100), (-20, 100), (-2 * 16 - outside, 100))
    assert level(hands).bounds == (left - 2, top, columns + 2, rows)
    x = (left + columns) * 16 + outside
    y = (top + rows) * 16 + outside
    hands.drag((x, y), (x + 20, y + 10), (x + 3 * 16, y + 16))
    assert level(hands).bounds == (left - 2, top, columns + 5, rows + 1) and held(hands, 12, 12) == tile
    hands.drag((100, -outside), (100, 20), (100, 2 * 16 - outside))
    assert level(hands).bounds == (left - 2, top + 2, columns + 5, rows - 1)
    hands.session.document.undo()
    assert level(hands).bounds == (left - 2, top, columns + 5, rows + 1)


def test_levels_stand_beside_each_other_and_touch(hands: Hands, open_pier: PaintStage) -> None:
    hands.keys("Z")
    board = open_pier.the(LevelBoard)
    hands.window.desk.zoom_to(0.5)
    (other,) = board.boxes()
    box, content = board.boxes()[other], open_pier.content()
    assert box.left() >= content.right() + 16
    hands.window.desk.look_at(content.right(), 100)
    start = (box.left() + 40, box.top() + 40)
    hands.drag(
        start, (start[0] - 20, start[1]), (start[0] - (box.left() - content.right()) + 3, start[1] + 2)
    )
    made = {v.id: v.board for v in hands.session.project.levels}
    assert None not in made.values()
    box = board.boxes()[other]
    assert box.left() == content.right() and box.top() == content.top()
    hands.window.desk.grab()
    hands.click(box.left() + 30, box.top() + 30)
    assert level(hands).id == other


def test_an_empty_level_takes_the_size_of_the_first_tiles_painted(
    hands: Hands, open_pier: PaintStage
) -> None:
    hands.session.selection.choose_sheet(hands.sheet("wren.png").id)
    hands.window.commands.run_id("paint.new")
    assert level(hands).cell != (16, 16) and is_empty(level(hands))
    pick(hands, "deck_mid_a")
    hands.window.desk.look_at(40, 40)
    hands.click(40, 40)
    assert level(hands).cell == (16, 16) and held(hands, 2, 2, "Ground") == "deck_mid_a"
    hands.session.document.undo()
    hands.session.document.undo()
    assert level(hands).cell != (16, 16)


def test_a_first_level_from_an_unknown_tileset_takes_six_gestures(
    application: Application, tmp_path: Path, qtbot: QtBot
) -> None:
    """Drop the picture, take its cut, make the level, take a tile, paint, and it saves by itself."""
    rng = np.random.default_rng(4)
    tiles = np.full((64, 64, 4), 255, np.uint8)
    colours = rng.integers(40, 220, (4, 4, 1, 1, 3))
    grain = rng.integers(-20, 20, (4, 4, 16, 16, 1))
    tiles[..., :3] = np.clip(colours + grain, 0, 255).transpose(0, 2, 1, 3, 4).reshape(64, 64, 3)
    tiles[::16, :, :3] = tiles[:, ::16, :3] = 20  # each tile has a dark edge
    Image.fromarray(tiles).save(tmp_path / "ground.png")
    Folder.create(tmp_path / "mine", "Mine")[0].unlock()
    window = application.open(tmp_path / "mine")
    window.resize(1280, 800)
    qtbot.waitExposed(window)
    window.complete()
    hands, gestures = Hands(window, qtbot), 0
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "ground.png"))])
    drop = QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(drop)
    gestures += 1
    hands.wait(lambda: bool(hands.session.project.sheets))
    if not hands.session.project.sheets[0].cells:
        window.rail.tabs.chosen.emit("cut")
        hands.wait(lambda: bool(window.stage("cut").proposal_line), 15_000)
        qtbot.wait(1500)
        hands.keys("Return")
        gestures += 2
    hands.wait(lambda: len(hands.session.project.sheets[0].cells) == 16)
    hands.keys("Ctrl+L")
    gestures += 1
    hands.wait(lambda: hands.session.stage == "paint")
    case = window.tray.case
    hands.qtbot.mouseClick(case, LEFT, pos=QPoint(24, 34))
    gestures += 1
    hands.drag((20, 20), (60, 20), (100, 20))
    gestures += 1
    assert sum(len(v) for v in places_of(level(hands), hands.session.selection.stamp.cells[0]).values()) >= 5  # type: ignore[union-attr]
    assert gestures <= 6


def test_rooms_are_gone_through_and_the_one_at_hand_is_exported(
    hands: Hands, open_pier: PaintStage, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    names = [room.name for room in level(hands).rooms]
    for name in (*names, names[0]):
        hands.keys(".")
        assert next(r for r in level(hands).rooms if r.id == open_pier.state.room_id).name == name
    hands.keys(",")
    assert next(r for r in level(hands).rooms if r.id == open_pier.state.room_id).name == names[-1]
    out = tmp_path / "stilts.png"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a: (str(out), ""))
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_a: (2, True))
    hands.window.commands.run_id("paint.export")
    hands.wait(out.exists)
    area = next(r for r in level(hands).rooms if r.id == open_pier.state.room_id).area
    hands.wait(lambda: "stilts.png" in hands.window.notice.words.text())
    assert Image.open(out).size == (area[2] * 32, area[3] * 32)


def test_levels_of_a_group_are_listed_under_it(hands: Hands, open_pier: PaintStage) -> None:
    hands.type(open_pier.card.level_rows.group, "coast")
    rows = [part for kind, part, _y in hands.window.shelf.list.entries() if kind == "head"]
    assert "\x01coast\t1" in rows


def test_every_brush_draws_by_chance_while_scattering(hands: Hands, open_pier: PaintStage) -> None:
    ids = [c.id for c in hands.sheet("boardwalk.png").cells[:4]]
    hands.session.selection.choose_stamp(from_grid([ids]))
    hands.keys("D", "B")
    hands.drag(cell(12, 2), cell(16, 2), cell(21, 2))
    drawn = [held(hands, x, 2) for x in range(12, 22)]
    assert all(drawn) and len(set(drawn)) > 1
    hands.keys("L")
    hands.drag(cell(12, 3), cell(21, 3))
    assert len({held(hands, x, 3) for x in range(12, 22)} - {""}) > 1
    hands.keys("D")


def test_a_set_is_joined_anew_where_tiles_were_placed_by_hand(hands: Hands, open_pier: PaintStage) -> None:
    auto = hands.session.project.autosets[0]
    lone = min(auto.tiles, key=lambda part: part.joins.bit_count()).cell
    hands.session.selection.choose_stamp(single(lone))
    hands.keys("R")
    hands.drag(cell(13, 2), cell(16, 4))
    before = {(x, y): held(hands, x, y) for x in range(13, 17) for y in range(2, 5)}
    assert len(set(before.values())) == 1
    hands.window.commands.run_id("paint.rejoin")
    assert "no auto-tile set in hand" in hands.window.notice.words.text()
    hands.session.selection.choose_stamp(single(lone), auto.id)
    hands.window.commands.run_id("paint.rejoin")
    after = {(x, y): held(hands, x, y) for x in range(13, 17) for y in range(2, 5)}
    assert set(after.values()).isdisjoint(before.values()) and len(set(after.values())) <= 3
    assert held(hands, 12, 1) and held(hands, 17, 5)  # the shore around


def test_the_places_of_a_tile_are_counted_and_gone_to(hands: Hands, open_pier: PaintStage) -> None:
    tile = pick(hands, "crate")
    number = sum(len(spots) for spots in places_of(level(hands), tile).values())
    seen = set()
    for _ in range(number):
        hands.keys("Shift+G")
        assert f"of {number} places" in hands.window.notice.words.text() or number == 1
        seen.add(open_pier.state.at)
    assert len(seen) == number
    case = hands.window.tray.case
    cell_now = hands.session.cells_by_id[tile][1]
    assert f"{number:,} in pier" in case.used(cell_now)


def test_shapes_slide_along_with_the_view_as_if_drawn_anew(hands: Hands, open_pier: PaintStage) -> None:
    for toggle in (open_pier.state.shown.edge, open_pier.state.shown.rooms):
        toggle.show_value(False)
    open_pier.leave()
    desk, layers = hands.window.desk, (open_pier.overlay.level, open_pier.overlay.shapes)
    desk.grab()
    for dx, dy in ((-9, 0), (14, -5), (0, 23), (-31, -17), (3, 3)):
        desk.view.pan(dx, dy)
        slid = desk_pixels(hands).copy()
        for layer in layers:
            layer.picture.forget()  # drawn anew
        assert (desk_pixels(hands) == slid).all()


def test_places_to_catch_on_are_marked_and_mended(hands: Hands, open_pier: PaintStage) -> None:
    hands.window.commands.run_id("paint.mend")
    assert "No place to catch on" in hands.window.notice.words.text()
    bank = hands.cell("boardwalk.png", "bank_top_b")
    solid = next(s for s in bank.shapes if s.role == "solid")
    assert isinstance(solid, Box)
    lower = replace(solid, y=solid.y + 0.3, h=solid.h - 0.3)
    hands.session.document.edit("Shape", lambda p: set_shapes(p, [bank.id], (lower,)))
    hands.keys("Shift+H")
    hands.window.desk.grab()
    assert "to catch on" in open_pier.overlay.outline.drawn.text
    hands.window.commands.run_id("paint.mend")
    hands.window.desk.grab()
    assert not open_pier.overlay.outline.drawn.faults
    assert hands.cell("boardwalk.png", "bank_top_b").shapes == (solid,)


def test_a_sheet_of_another_size_is_asked_about(hands: Hands, open_pier: PaintStage) -> None:
    tray = hands.window.tray
    chips = [chip for chip in tray.findChildren(Chip) if chip.evidence]
    assert chips
    chip = next(c for c in chips if c.words == "wren.png")
    chip.pressed.emit()
    assert "wren.png has tiles of 24 × 32 px" in hands.window.notice.words.text()
    answer = next(
        b for b in hands.window.notice.findChildren(QPushButton) if b.text() == "Make a level for them"
    )
    hands.press_widget(answer)
    assert level(hands).cell == (24, 32) and is_empty(level(hands))


def test_layers_enlarged_at_once_look_as_one_by_one(
    open_pier: PaintStage, hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk, session, now = hands.window.desk, hands.session, level(hands)
    ground = next(v for v in now.layers if isinstance(v, TileLayer) and v.name == "Boardwalk")
    faint = replace(ground, id="faint", name="Faint", opacity_percent=60)
    moved = replace(ground, id="moved", name="Moved", offset=(5, 3))
    more = replace(now, layers=(*now.layers, faint, moved), things=())
    session.document.edit("More layers", lambda project: put_level(project, more))
    for zoom in (2, 3):
        desk.zoom_to(zoom)
        flat = desk_pixels(hands).astype(int)
        with monkeypatch.context() as patched:
            patched.setattr(level_paint, "lies_flat", lambda draw: False)
            desk.update()
            alone = desk_pixels(hands).astype(int)
        assert np.abs(flat - alone).max() <= 3, zoom
        assert flat.std() > 20


def test_every_tool_is_let_be_in_a_level_of_backdrops_only(hands: Hands, open_pier: PaintStage) -> None:
    """No layer of tiles is left: nothing can be painted or taken, and each tool says so or does nothing."""
    now = level(hands)
    rest = tuple(layer for layer in now.layers if isinstance(layer, BackdropLayer))
    hands.session.document.edit("Only far", lambda p: put_level(p, replace(now, layers=rest, things=())))
    assert level(hands).layers and hands.session.selection.layer is None
    hands.session.selection.choose_stamp(single(hands.cell("boardwalk.png", "deck_mid_a").id))
    before, told = hands.session.project, list[str]()
    hands.session.told.connect(lambda notice: told.append(notice.text if notice is not None else ""))
    held = Qt.KeyboardModifier
    for tool in open_pier.tools:
        for keys in (held.NoModifier, held.ShiftModifier, held.AltModifier):
            for button in (LEFT, Qt.MouseButton.RightButton):
                open_pier.use(tool.id)
                hands.drag((200, 150), (230, 170), (250, 160), button=button, keys=keys)
                hands.window.desk.grab()
    assert hands.session.project.levels[0].layers == before.levels[0].layers
    assert any(text.startswith("The layer in use holds no tiles.") for text in told)


def test_an_empty_level_of_another_cell_size_is_drawn_anew(open_pier: PaintStage, hands: Hands) -> None:
    made: list[str] = []

    def add(project: Project) -> Project:
        project, level_id = add_level(project, "shore", (16, 16), (24, 12))
        made.append(level_id)
        return project

    hands.session.document.edit("Level", add)
    hands.session.selection.choose_level(made[0])
    hands.wait(lambda: hands.session.tiles(level(hands)).cell == (16, 16))
    hands.session.document.edit("Cell size", lambda p: set_cell(p, made[0], (24, 8)))
    assert hands.session.tiles(level(hands)).cell == (24, 8)
    stock, project = hands.session.stock, hands.session.project
    shown = level_picture(
        project, level(hands), stock.pixels_or_blank, (0, 0, 60, 60), hands.session.tiles(level(hands))
    )
    assert shown.shape == (60, 60, 4)
    assert desk_pixels(hands).size
    hands.keys("Ctrl+Z")
    assert hands.session.tiles(level(hands)).cell == (16, 16)


def test_levels_beside_the_one_in_use_are_drawn_without_waiting_for_pictures(
    hands: Hands, open_pier: PaintStage, monkeypatch: pytest.MonkeyPatch
) -> None:
    """On the window's thread no picture is asked for; what is drawn follows an edit."""
    asked, real = [], small_levels.mean_colours

    def listen(*of: Any) -> np.ndarray:
        asked.append(threading.current_thread() is threading.main_thread())
        return real(*of)

    small = small_levels.SmallLevels(hands.session, (64, 64), open_pier.desk)
    monkeypatch.setattr(small_levels, "mean_colours", listen)
    level = next(v for v in hands.session.project.levels if v.id != hands.session.selection.level.id)
    assert small.of(level) is None
    hands.wait(lambda: small.of(level) is not None)
    assert asked and not any(asked)
    before = small.of(level)
    hands.session.document.edit("Hide", lambda p: put_level(p, replace(level, layers=())))
    level = next(v for v in hands.session.project.levels if v.id == level.id)
    assert small.of(level) is before, "the old one is shown until the new one is made"
    hands.wait(lambda: small.of(level) is not before)
    image = small.of(level)
    assert image is not None and image.pixelColor(0, 0).alpha() == 0


KEPT_AS_IT_IS = {"take", "tape", "outline"}  # tools that take, measure or select


def test_what_any_tool_does_in_one_drag_is_undone_in_one_step(hands: Hands, open_pier: PaintStage) -> None:
    pick(hands, "deck_mid_b")
    history, changed = hands.session.document.history, set()
    layers = (hands.session.selection.layer_id, level(hands).things[0].layer)
    for tool in open_pier.tools:
        for layer_id in layers:
            hands.session.selection.choose_layer(layer_id)
            open_pier.use(tool.id)
            before, steps = hands.session.project, history.place
            hands.drag(cell(9, 4), cell(11, 12), cell(14, 12))
            if hands.is_one_step(before, steps, tool.id):
                changed.add(tool.id)
    assert {"brush", "line", "box", "fill", "erase", "start", "thing", "scatter"} <= changed
    assert not changed & KEPT_AS_IT_IS


def test_without_a_level_the_card_offers_one_and_has_no_rows(hands: Hands, open_pier: PaintStage) -> None:
    card, document = open_pier.card, hands.session.document
    level_rows = card.level_rows
    assert level_rows.isVisible() and not card.new_level.isVisible()
    document.edit("Remove all levels", lambda p: replace(p, levels=()))
    assert not level_rows.isVisible() and not card.layers.isVisible()
    hands.press_widget(card.new_level)
    assert len(hands.session.project.levels) == 1
    assert level_rows.isVisible() and not card.new_level.isVisible()
    document.undo()
    assert card.new_level.isVisible() and not card.layers.isVisible()
