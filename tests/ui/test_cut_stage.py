"""Cutting in the real window: by hand, by guides, by rows, and what a new cut would lose."""

from pathlib import Path

import numpy as np
from PIL import Image
from PyQt6.QtCore import Qt

from rushweed.core.document.model.cut import GridCut, GuidesCut, HandCut, PiecesCut
from rushweed.ui.kit.controls import Chip
from rushweed.ui.stages.cut.stage import CutStage
from tests.ui.conftest import RIGHT, Hands

SHIFT = Qt.KeyboardModifier.ShiftModifier
CTRL = Qt.KeyboardModifier.ControlModifier


def stage(hands: Hands) -> CutStage:
    made = hands.window.stage("cut")
    assert isinstance(made, CutStage)
    return made


def lamps(hands: Hands) -> CutStage:
    """The free-form sheet of the demo, cut into its pieces."""
    hands.open_sheet("lamps.png", "cut")
    cut = stage(hands)
    hands.wait(lambda: cut.proposals.best() is not None)
    hands.keys("Ctrl+Return")
    assert isinstance(hands.sheet("lamps.png").cut, PiecesCut)
    return cut


def rects(hands: Hands, sheet: str) -> list[tuple[int, int, int, int]]:
    return [c.rect for c in hands.sheet(sheet).cells]


def test_a_box_is_drawn_on_whole_px_and_undone(hands: Hands) -> None:
    lamps(hands)
    before = rects(hands, "lamps.png")
    hands.keys("B")
    hands.drag((46.3, 70.2), (50, 80), (58.4, 89.6))
    after = hands.sheet("lamps.png")
    assert after.cells[-1].rect == (46, 70, 12, 20)
    assert isinstance(after.cut, HandCut)
    assert hands.session.selection.cell_ids == (after.cells[-1].id,)
    hands.keys("Ctrl+Z")
    assert rects(hands, "lamps.png") == before


def test_a_selected_cell_is_moved_and_its_edges_are_dragged(hands: Hands) -> None:
    lamps(hands)
    hands.keys("B")
    cell = hands.sheet("lamps.png").cells[2]
    x, y, w, h = cell.rect
    hands.click(x + w / 2, y + h / 2)
    assert hands.session.selection.cell_ids == (cell.id,)
    hands.drag((x + w / 2, y + h / 2), (x + w / 2 + 3, y + h / 2 + 1))
    assert hands.session.selection.cells[0].rect == (x + 3, y + 1, w, h)
    hands.drag((x + 3 + w, y + 1 + h), (x + 7 + w, y + 3 + h))  # the lower right corner
    assert hands.session.selection.cells[0].rect == (x + 3, y + 1, w + 4, h + 2)
    assert hands.session.selection.cells[0].id == cell.id
    assert hands.session.document.history.undo_label == "Resize 1 cell"
    hands.keys("Ctrl+Z", "Ctrl+Z")
    assert hands.sheet("lamps.png").cells[2].rect == (x, y, w, h)


def test_shift_keeps_a_move_straight_and_escape_takes_it_back(hands: Hands) -> None:
    lamps(hands)
    hands.keys("B")
    x, y, w, h = hands.sheet("lamps.png").cells[2].rect
    hands.click(x + w / 2, y + h / 2)
    hands.drag((x + w / 2, y + h / 2), (x + w / 2 + 5, y + h / 2 + 2), keys=SHIFT)
    # a press with Shift selects a span; the cell under it stays selected and moves straight
    assert hands.sheet("lamps.png").cells[2].rect[1] == y


def test_arrows_nudge_by_one_and_ten_as_one_step(hands: Hands) -> None:
    lamps(hands)
    hands.keys("B")
    cell = hands.sheet("lamps.png").cells[0]
    hands.session.selection.choose_cells((cell.id,))
    x, y, w, h = cell.rect
    for key, keys in ((Qt.Key.Key_Right, None), (Qt.Key.Key_Down, SHIFT), (Qt.Key.Key_Right, CTRL)):
        hands.qtbot.keyClick(hands.window.desk, key, keys or Qt.KeyboardModifier.NoModifier)
    assert hands.session.selection.cells[0].rect == (x + 1, y + 10, w + 1, h)
    hands.keys("Ctrl+Z", "Ctrl+Z")
    assert hands.sheet("lamps.png").cells[0].rect == cell.rect


def test_position_and_size_are_typed_for_many_cells_at_once(hands: Hands) -> None:
    cut = lamps(hands)
    first, second = hands.sheet("lamps.png").cells[0], hands.sheet("lamps.png").cells[2]
    hands.session.selection.choose_cells((first.id, second.id))
    assert cut.numbers.extent.text() == "" and cut.numbers.extent.placeholderText() == "mixed"
    hands.type(cut.numbers.extent, "20 x 22")
    assert [c.rect[2:] for c in hands.session.selection.cells] == [(20, 22), (20, 22)]
    assert [c.rect[:2] for c in hands.session.selection.cells] == [first.rect[:2], second.rect[:2]]
    hands.session.selection.choose_cells((first.id,))
    hands.type(cut.numbers.position, "3, 4")
    assert hands.session.selection.cells[0].rect == (3, 4, 20, 22)


def test_cells_are_trimmed_joined_split_and_doubled(hands: Hands) -> None:
    cut = lamps(hands)
    cell = hands.sheet("lamps.png").cells[0]
    number = len(hands.sheet("lamps.png").cells)
    hands.session.selection.choose_cells((cell.id,))
    hands.type(cut.numbers.extent, "10 x 18")
    hands.keys("T")
    assert hands.session.selection.cells[0].rect == cell.rect
    hands.session.selection.choose_cells(tuple(c.id for c in hands.sheet("lamps.png").cells[5:8]))
    hands.keys("J")
    assert len(hands.sheet("lamps.png").cells) == number - 2
    hands.session.selection.choose_cells((cell.id,))
    hands.keys("Shift+K")
    assert len(hands.session.selection.cell_ids) == 2
    assert sum(c.rect[2] for c in hands.session.selection.cells) == cell.rect[2]
    hands.session.selection.choose_cells((cell.id,))
    hands.keys("Ctrl+D")
    assert len(hands.sheet("lamps.png").cells) == number
    assert hands.session.selection.cell_ids != (cell.id,)


def test_a_line_splits_where_it_is_pressed(hands: Hands) -> None:
    lamps(hands)
    hands.keys("K")
    cell = hands.sheet("lamps.png").cells[2]
    x, y, w, h = cell.rect
    hands.click(x + 3, y + h / 2)
    assert [c.rect for c in hands.session.selection.cells] == [(x, y, 3, h), (x + 3, y, w - 3, h)]
    hands.session.selection.choose_cells(())
    hands.click(x + 1, y + 10, keys=SHIFT)
    assert [c.rect for c in hands.session.selection.cells] == [(x, y, 3, 10), (x, y + 10, 3, h - 10)]


def test_delete_takes_a_cell_cut_by_hand_out(hands: Hands) -> None:
    lamps(hands)
    cells = hands.sheet("lamps.png").cells
    hands.session.selection.choose_cells((cells[1].id,))
    hands.keys("Delete")
    assert [c.id for c in hands.sheet("lamps.png").cells] == [c.id for c in cells if c is not cells[1]]


def test_guides_start_from_the_grid_and_are_dragged_added_and_removed(hands: Hands) -> None:
    hands.open_sheet("eel.bmp", "cut")
    ids = [c.id for c in hands.sheet("eel.bmp").cells]
    hands.keys("G")
    cut = hands.sheet("eel.bmp").cut
    assert isinstance(cut, GuidesCut) and cut.columns == (0, 53, 106, 159) and cut.rows == (0, 48, 96)
    hands.drag((53, 20), (55, 20), (57, 20))
    assert hands.sheet("eel.bmp").cut.columns == (0, 57, 106, 159)  # type: ignore[union-attr]
    assert [c.id for c in hands.sheet("eel.bmp").cells] == ids
    assert hands.session.document.history.undo_label == "Move a guide"
    hands.click(80, 20)
    assert hands.sheet("eel.bmp").cut.columns == (0, 57, 80, 106, 159)  # type: ignore[union-attr]
    hands.click(80, 20, button=RIGHT)
    hands.click(20, 70, keys=SHIFT)
    assert hands.sheet("eel.bmp").cut.columns == (0, 57, 106, 159)  # type: ignore[union-attr]
    assert hands.sheet("eel.bmp").cut.rows == (0, 48, 70, 96)  # type: ignore[union-attr]


def test_guides_follow_the_art(hands: Hands) -> None:
    hands.open_sheet("eel.bmp", "cut")
    hands.keys("G")
    hands.drag((53, 20), (60, 20))  # into an eel
    hands.keys("Shift+G")
    sheet = hands.sheet("eel.bmp")
    ink = (hands.session.stock.pixels(sheet)[..., :3] != (255, 0, 255)).any(axis=-1)
    assert isinstance(sheet.cut, GuidesCut)
    for line in sheet.cut.columns[1:-1]:
        assert not (ink[:, line - 1] & ink[:, line]).any()


def test_a_place_between_guides_is_left_out_by_pressing_it(hands: Hands) -> None:
    hands.open_sheet("eel.bmp", "cut")
    hands.keys("G", "X")
    hands.click(60, 20)
    assert len(hands.sheet("eel.bmp").cells) == 5
    hands.click(60, 20)
    assert len(hands.sheet("eel.bmp").cells) == 6


def test_a_cut_that_would_lose_painted_tiles_asks_first(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    before = hands.sheet("boardwalk.png")
    hands.type(stage(hands).cell, "32 x 32")
    notice = hands.window.notice
    assert notice.isVisible()
    assert "tiles of pier" in notice.words.text()
    assert hands.session.document.history.project is not hands.session.project  # shown, not made
    keep = [b for b in notice.findChildren(type(notice.buttons)) if getattr(b, "text", str)() == "Cancel"]
    keep[-1].click()  # type: ignore[attr-defined]
    assert hands.sheet("boardwalk.png") is before
    assert not notice.isVisible()
    assert stage(hands).cell.values == (16, 16)
    hands.type(stage(hands).cell, "32 x 32")
    act = [b for b in notice.findChildren(type(notice.buttons)) if getattr(b, "text", str)() == "Cut anyway"]
    act[-1].click()  # type: ignore[attr-defined]
    assert hands.sheet("boardwalk.png").cut == GridCut((32, 32), (1, 1), (1, 1))
    assert hands.session.document.history.project is hands.session.project


def test_closing_the_question_keeps_the_cells(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    before = hands.sheet("boardwalk.png")
    hands.type(stage(hands).cell, "32 x 32")
    hands.press_widget(hands.window.notice.close_button)
    assert hands.sheet("boardwalk.png") is before


def test_hand_and_back_to_a_grid_keeps_the_ids(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    ids = [c.id for c in hands.sheet("boardwalk.png").cells]
    cut = stage(hands)
    hands.press_widget(cut.method, cut.method.width() - 10, 12)
    assert isinstance(hands.sheet("boardwalk.png").cut, HandCut)
    assert cut.tool == "box"
    hands.press_widget(cut.method, 10, 12)
    assert isinstance(hands.sheet("boardwalk.png").cut, GridCut)
    assert [c.id for c in hands.sheet("boardwalk.png").cells] == ids


def test_edges_are_pulled_in_over_a_whole_grid(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    hands.press_widget(stage(hands).numbers.pull_in)
    assert hands.sheet("boardwalk.png").cut.cell == (14, 14)  # type: ignore[union-attr]
    assert hands.sheet("boardwalk.png").cells[0].rect == (2, 2, 14, 14)
    assert len(hands.sheet("boardwalk.png").cells[0].shapes) == 1


def test_rows_are_named_by_a_list_in_the_strip(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    hands.keys("Ctrl+A")
    hands.type(hands.window.strip.pattern, "deck, post")
    names = [c.name for c in hands.sheet("boardwalk.png").cells]
    assert names[0] == "deck_0" and "post_0" in names
    row = [c for c in hands.sheet("boardwalk.png").cells if c.rect[1] == 18]
    assert [c.name for c in row] == [f"post_{n}" for n in range(len(row))]


def test_many_cells_show_only_their_marks_while_a_number_changes(hands: Hands, tmp_path: Path) -> None:
    rgba = np.zeros((1024, 1024, 4), np.uint8)
    rgba[:, ::2] = (60, 110, 83, 255)
    Image.fromarray(rgba).save(tmp_path / "reeds.png")
    gather = hands.window.stage("gather")
    gather.bringing.bring([tmp_path / "reeds.png"])  # type: ignore[attr-defined]
    hands.wait(lambda: any(s.name == "reeds.png" for s in hands.session.project.sheets))
    hands.open_sheet("reeds.png", "cut")
    cut = stage(hands)
    field = cut.cell
    field.setFocus()
    field.selectAll()
    hands.qtbot.keyClicks(field, "8 x 16")
    trial = hands.window.desk.sheet_painter.trial
    assert trial is not None and trial[0].cell == (8, 16) and trial[1].all()
    assert hands.sheet("reeds.png").cells == ()
    hands.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert hands.window.desk.sheet_painter.trial is None
    assert len(hands.sheet("reeds.png").cells) == 8192


def test_proposals_are_chips_and_hovering_one_shows_its_marks(hands: Hands) -> None:
    hands.open_sheet("wren.png", "cut")
    cut = stage(hands)
    hands.wait(lambda: cut.proposals.best() is not None)
    assert cut.proposal_line is not None
    chips = cut.proposal_line.findChildren(Chip)
    assert cut.proposals.shown() is None, "nothing is drawn over a cut that is made"
    chips[1].hovered.emit(True)
    assert cut.proposals.shown() is not None
    chips[1].hovered.emit(False)
    assert cut.proposals.shown() is None
