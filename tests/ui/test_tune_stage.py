"""The Tune stage in the real window: recipes, textures, nine-slice, and how the Proof is set."""

import threading

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.sheet import Cell, Sheet, Source, Tune
from rushweed.core.tune.sample import Placed, Texture, draw, texture_of
from rushweed.core.tune.scene import Staging
from rushweed.ui.desk.images import array_of
from rushweed.ui.panels.proof import DRIFT_PX, DRIFT_S, Proof, drift_at
from rushweed.ui.session import textures
from rushweed.ui.session.textures import Textures
from rushweed.ui.stages.tune import units
from rushweed.ui.stages.tune.stage import TuneStage
from rushweed.ui.stages.tune.tools.shown import ShowTexture
from tests.ui.conftest import LEFT, Hands


def tune_stage(hands: Hands) -> TuneStage:
    stage = hands.window.stage("tune")
    assert isinstance(stage, TuneStage)
    return stage


def shown(proof: Proof) -> np.ndarray:
    assert proof.picture.image is not None
    return array_of(proof.picture.image)


# -- recipes -----------------------------------------------------------------------------------------------


def test_forty_sheets_follow_a_recipe_in_three_gestures(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    sheets = hands.session.project.sheets
    hands.session.selection.choose_sheets(tuple(s.id for s in sheets))  # one: all of the Shelf
    line = tune_stage(hands).line
    hands.wait(lambda: line.chips.count() > 2)  # the art is looked at beside the window
    smooth = next(
        line.chips.itemAt(i).widget()
        for i in range(line.chips.count())
        if getattr(line.chips.itemAt(i).widget(), "words", "") == "Smooth art"
    )
    hands.press_widget(smooth)  # two: the recipe
    made = hands.session.project.sheets
    assert {(s.tune.recipe, s.tune.filter, s.tune.gutter, s.tune.mipmaps) for s in made} == {
        ("smooth", "linear", 4, True)
    }
    hands.type(tune_stage(hands).ppu, "32")  # three: their px a unit
    assert {s.tune.ppu for s in hands.session.project.sheets} == {32}


def test_mixed_settings_read_as_mixed(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    stage = tune_stage(hands)
    hands.press_widget(stage.mipmaps)
    assert hands.sheet("wren.png").tune.mipmaps and hands.sheet("wren.png").tune.recipe == ""
    hands.session.selection.choose_sheets((hands.sheet("wren.png").id, hands.sheet("lamps.png").id))
    assert stage.mipmaps._on is None
    hands.press_widget(stage.mipmaps)
    assert hands.sheet("lamps.png").tune.mipmaps and hands.sheet("wren.png").tune.mipmaps


def test_settings_are_kept_as_a_recipe_named_changed_and_taken_away(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    stage = tune_stage(hands)
    stage.tuning.tune("Set gutter", gutter=3)
    stage.tuning.save_recipe()
    assert stage.tool == "recipes" and hands.session.project.recipes[0].gutter == 3
    own = hands.session.project.recipes[0]
    assert hands.sheet("wren.png").tune.recipe == own.id == stage.recipes.open
    from rushweed.ui.kit.controls import Check, IconButton
    from rushweed.ui.kit.fields import TextField

    card = stage.recipes
    name = next(f for f in card.findChildren(TextField) if f.text() == own.name)
    hands.type(name, "Lamplight")
    assert hands.session.project.recipes[0].name == "Lamplight"
    hands.qtbot.wait(20)
    mipmaps = next(c for c in card.findChildren(Check) if c.isVisible())
    hands.press_widget(mipmaps)
    assert hands.sheet("wren.png").tune.mipmaps  # it follows
    hands.qtbot.wait(20)
    away = [b for b in card.findChildren(IconButton) if b.glyph == "trash" and b.isVisible()]
    hands.press_widget(away[0])
    assert not hands.session.project.recipes and hands.sheet("wren.png").tune.recipe == ""
    assert hands.sheet("wren.png").tune.gutter == 3
    hands.session.document.undo()
    assert hands.session.project.recipes[0].name == "Lamplight"


# -- textures ----------------------------------------------------------------------------------------------


def test_every_codec_is_tried_advised_and_chosen_by_a_press(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "tune")
    stage = tune_stage(hands)
    stage.use("texture")
    textures = hands.session.textures
    hands.wait(lambda: stage.texture.advised is not None, 20_000)
    assert stage.texture.advised == "indexed" and "exact" in stage.texture.reason.text()
    table = stage.texture.table
    hands.press_widget(table, x=40, y=18 + 24 * 4 + 12)
    assert hands.sheet("wren.png").tune.codec == "bc7"
    cost = textures.cost(hands.sheet("wren.png"), "bc7")
    assert cost is not None and cost.rgba.shape[:2] == (sheet.source.size[1], sheet.source.size[0])
    table.setFocus()
    QTest.keyClick(table, Qt.Key.Key_Up)
    assert hands.sheet("wren.png").tune.codec == "bc3"


def test_the_desk_shows_where_px_are_off(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    stage = tune_stage(hands)
    before = array_of(hands.window.desk.grab().toImage())
    stage.tuning.tune("Compression", codec="bc1")
    stage.use("texture")
    hands.wait(lambda: hands.session.textures.cost(hands.sheet("wren.png"), "bc1") is not None, 20_000)
    hands.qtbot.wait(30)
    after = array_of(hands.window.desk.grab().toImage())
    assert (before != after).any() and "dB" in stage.the(ShowTexture).verdict
    assert "Worst block" in stage.texture.worst.text()


def test_the_proof_shows_the_compressed_texture_when_it_is_ready(hands: Hands) -> None:
    hands.open_sheet("wren.png", "tune")
    proof = hands.window.proof
    plain = hands.proof()
    tune_stage(hands).tuning.tune("Compression", codec="bc1")
    proof.refresh()
    assert (shown(proof) == plain).all() and "compressing" in proof.picture.words
    hands.wait(lambda: not proof.picture.words, 20_000)
    assert (hands.proof() != plain).any()


def test_bleeding_shows_at_a_fractional_zoom_and_the_offered_fix_ends_it(hands: Hands) -> None:
    sheet = hands.open_sheet("marsh.png", "tune")
    stage, proof = tune_stage(hands), hands.window.proof
    proof.controls.set(zoom=1.37, backdrop="dark", turn=7)
    rgba = hands.session.stock.pixels(sheet).astype(int)

    def contrast(cell: Cell) -> float:
        x, y, w, h = cell.rect
        return float(np.abs(rgba[y : y + h, x + w] - rgba[y : y + h, x + w - 1]).mean())

    edge = max((c for c in sheet.cells if c.rect[0] + c.rect[2] < rgba.shape[1]), key=contrast)
    hands.session.selection.choose_cells((edge.id,))
    hands.press_widget(stage.filter, x=stage.filter.width() - 10)
    assert hands.sheet("marsh.png").tune.filter == "linear"
    bleeding = shown(proof)
    stage.use("texture")
    hands.qtbot.wait(20)
    assert stage.texture.cure.isVisible()
    hands.press_widget(stage.texture.cure)
    assert hands.sheet("marsh.png").tune.gutter == 1
    cured = shown(proof)
    off = np.abs(bleeding.astype(int) - cured).max(axis=2)
    assert off.max() > 12 and (off > 0).sum() < 600  # only along the tile's edges
    assert not stage.texture.cure.isVisible()


def test_padding_gutter_pages_and_groups_are_set_for_all_chosen(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "tune")
    hands.session.selection.choose_sheets((hands.sheet("boardwalk.png").id, hands.sheet("marsh.png").id))
    stage = tune_stage(hands)
    stage.use("texture")
    hands.qtbot.wait(20)
    card = stage.texture
    stage.tuning.tune("Compression", codec="bc3")
    assert "multiple of 4" in card.rule.text()
    stage.texture.pad_to_fit()
    assert hands.sheet("boardwalk.png").tune.pad == "four" and not card.rule.isVisible()
    hands.type(card.gutter, "2")
    hands.type(card.limit, "512")
    hands.type(card.group, "marsh tiles")
    hands.press_widget(card.wrap, x=card.wrap.width() - 10)
    hands.press_widget(card.alpha, x=card.alpha.width() - 10)
    for name in ("boardwalk.png", "marsh.png"):
        tune = hands.sheet(name).tune
        assert (tune.gutter, tune.limit, tune.group, tune.wrap, tune.alpha) == (
            2, 512, "marsh tiles", "repeat", "premultiplied",
        )  # fmt: skip
    hands.session.selection.choose_sheets((hands.sheet("boardwalk.png").id, hands.sheet("wren.png").id))
    assert card.group.placeholderText() == "mixed" and card.group.text() == ""


# -- nine-slice --------------------------------------------------------------------------------------------


def test_guides_are_dragged_alone_and_with_shift_in_pairs(hands: Hands) -> None:
    hands.open_sheet("panel.png", "tune")
    stage = tune_stage(hands)
    stage.use("nine")
    hands.drag((16, 30), (20, 30))
    stretch = hands.sheet("panel.png").cells[0].stretch
    assert stretch is not None and (stretch.left, stretch.top, stretch.right, stretch.bottom) == (
        20,
        16,
        16,
        16,
    )
    hands.drag((20, 30), (12, 30), keys=Qt.KeyboardModifier.ShiftModifier)
    stretch = hands.sheet("panel.png").cells[0].stretch
    assert stretch is not None and (stretch.left, stretch.right) == (12, 12)
    hands.session.document.undo()
    assert hands.sheet("panel.png").cells[0].stretch.left == 20  # type: ignore[union-attr]


def test_the_proof_stretches_the_panel_and_its_corner_is_dragged(hands: Hands) -> None:
    hands.open_sheet("panel.png", "tune")
    stage, proof = tune_stage(hands), hands.window.proof
    proof.controls.set(zoom=1)
    stage.use("nine")
    hands.press_widget(stage.nine.propose)
    picture = proof.picture
    before = hands.proof()
    assert picture.box is not None and (picture.box.width(), picture.box.height()) == (96, 48)
    corner = picture.box.bottomRight().toPoint()
    QTest.mousePress(picture, LEFT, pos=corner)
    QTest.mouseMove(picture, corner + QPoint(40, 20))
    QTest.mouseRelease(picture, LEFT, pos=corner + QPoint(40, 20))
    after = hands.proof()
    assert (picture.box.width(), picture.box.height()) == (136, 68)
    assert "136 × 68 px" in picture.words and (after != before).any()
    hands.press_widget(stage.nine.fills["top_fill"], x=stage.nine.fills["top_fill"].width() - 10)
    assert hands.sheet("panel.png").cells[0].stretch.top_fill == "repeat"  # type: ignore[union-attr]
    hands.type(stage.nine.margins["left"], "9")
    assert hands.sheet("panel.png").cells[0].stretch.left == 9  # type: ignore[union-attr]
    hands.press_widget(stage.nine.remove)
    hands.proof()
    assert hands.sheet("panel.png").cells[0].stretch is None and proof.picture.box is None


# -- pivots ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("at_once", [64, 0])  # what takes long is worked out beside the window
def test_pivots_go_to_the_feet(hands: Hands, at_once: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(units, "AT_ONCE", at_once)
    hands.open_sheet("wren.png", "tune")
    before = [c.pivot for c in hands.sheet("wren.png").cells]
    hands.press_widget(tune_stage(hands).units.feet)
    hands.wait(lambda: [c.pivot for c in hands.sheet("wren.png").cells] != before)
    assert {c.pivot[1] for c in hands.sheet("wren.png").cells} <= {30, 31, 32}
    assert "at the feet" in hands.session.document.history.undo_label


def test_a_share_is_typed_for_many_pivots_in_one_step(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "tune")
    hands.session.selection.choose_cells(tuple(c.id for c in sheet.cells[:3]))
    share = tune_stage(hands).units.share
    hands.type(share[0], "25")
    assert [c.pivot for c in hands.sheet("wren.png").cells[:3]] == [(6, c.pivot[1]) for c in sheet.cells[:3]]
    hands.keys("Ctrl+Z")
    assert hands.sheet("wren.png").cells == sheet.cells


def test_a_sheet_beside_one_of_other_units_is_warned_of(hands: Hands) -> None:
    hands.open_sheet("boardwalk.png", "tune")
    card = tune_stage(hands).units
    assert not card.others.isVisible()
    hands.type(tune_stage(hands).ppu, "32")
    assert card.others.isVisible() and "px a unit" in card.others.text()


# -- how the Proof is set ----------------------------------------------------------------------------------


@pytest.fixture
def proof(hands: Hands) -> Proof:
    hands.open_sheet("wren.png", "tune")
    hands.press_widget(hands.window.proof.fold)
    hands.qtbot.wait(100)
    return hands.window.proof


def test_the_wheel_zooms_by_parts_and_a_double_click_fits(hands: Hands, proof: Proof) -> None:
    picture = proof.picture
    at = QPointF(picture.width() / 2, picture.height() / 2)
    event = QWheelEvent(
        at, QPointF(picture.mapToGlobal(at.toPoint())), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(picture, event)
    assert proof.controls.staging.zoom == 3.3 and proof.foot[3].text() == "×3.3"
    QTest.mouseDClick(picture, LEFT, pos=at.toPoint())
    assert proof.controls.staging.zoom == 0 and proof.foot[3].text() == "×3"


def test_every_control_changes_the_picture(hands: Hands, proof: Proof) -> None:
    controls, seen = proof.controls, [shown(proof).tobytes()]

    def changed(words: str) -> None:
        seen.append(shown(proof).tobytes())
        assert seen[-1] != seen[-2], words

    hands.type(controls.zoom, "2.37")
    changed("zoom")
    hands.type(controls.turn, "20")
    changed("turn")
    hands.press_widget(controls.soft)
    changed("soft edges")
    hands.press_widget(controls.picture, x=controls.picture.width() - 10)
    changed("art px")
    hands.press_widget(controls.backdrop, x=controls.backdrop.width() - 10)
    changed("backdrop")
    hands.type(controls.figure, "1.5")
    changed("figure")
    assert controls.staging == Staging(2.37, 20, (0, 0), "low", True, True, "checker", 1.5)


def test_a_divider_is_dragged_between_before_and_after(hands: Hands, proof: Proof) -> None:
    tune_stage(hands).tuning.tune("Filter", filter="linear")
    proof.controls.set(zoom=2.5)
    hands.press_widget(proof.controls.divider)
    picture = proof.picture
    assert picture.before is not None
    assert (array_of(picture.before) != shown(proof)).any()
    middle = QPoint(round(picture.width() * picture.divider), 40)
    QTest.mousePress(picture, LEFT, pos=middle)
    QTest.mouseMove(picture, QPoint(round(picture.width() * 0.8), 40))
    QTest.mouseRelease(picture, LEFT, pos=QPoint(round(picture.width() * 0.8), 40))
    assert abs(picture.divider - 0.8) < 0.02
    grabbed = array_of(picture.grab().toImage())
    left, right = round(picture.width() * 0.6), round(picture.width() * 0.95)
    rows = slice(60, 110)  # between the yardstick's tag and the words below
    assert (grabbed[rows, left, :3] == array_of(picture.before)[rows, left, :3]).all()
    assert (grabbed[rows, right, :3] == shown(proof)[rows, right, :3]).all()


def test_it_turns_and_drifts_by_the_clock(hands: Hands, proof: Proof) -> None:
    now = [0.0]
    proof.clock = lambda: now[0]
    hands.press_widget(proof.mode, x=proof.mode.width() // 2)
    assert proof.mode.value == "turn" and proof.ticks.isActive()
    now[0] = 1.0
    assert proof.staging().turn == 24
    hands.press_widget(proof.mode, x=proof.mode.width() - 10)
    hands.press_widget(proof.controls.snap)
    assert not proof.controls.staging.snap
    first = shown(proof).copy()
    now[0] = 1.5
    proof.refresh()
    assert (shown(proof) != first).any()
    hands.press_widget(proof.mode, x=10)
    assert proof.mode.value == "still" and not proof.ticks.isActive()


def test_drifting_goes_there_and_back_by_parts_of_a_px() -> None:
    steps = np.array([drift_at(t) for t in np.arange(0, DRIFT_S, 1 / 60)])
    assert np.abs(np.diff(steps[:, 0])).max() < 0.1
    assert abs(np.ptp(steps[:, 0]) - DRIFT_PX) < 0.1 and np.allclose(
        drift_at(0), drift_at(DRIFT_S), atol=0.05
    )


def test_the_figure_and_the_backdrop_are_found_again(hands: Hands, proof: Proof) -> None:
    hands.type(proof.controls.figure, "1.75")
    proof.controls.set(backdrop="light")
    hands.window.parts.remember()
    from rushweed.ui.panels.proof_controls import ProofControls

    other = ProofControls(hands.window.look, hands.window.icons)
    other.restore(hands.window.settings)
    assert (other.staging.figure_units, other.staging.backdrop) == (1.75, "light")


# -- textures kept -----------------------------------------------------------------------------------------


class Fixed:
    """A stock of one picture."""

    def __init__(self, rgba: np.ndarray) -> None:
        self.rgba = rgba

    def pixels_or_blank(self, sheet: Sheet) -> np.ndarray:
        return self.rgba


def test_one_texture_serves_all_cells_of_a_sheet(hands: Hands) -> None:
    sheet = hands.open_sheet("wren.png", "tune")
    textures = hands.session.textures
    one, first, _waiting = textures.of(sheet, sheet.cells[0])
    two, second, _waiting = textures.of(sheet, sheet.cells[5])
    assert one is two and first == sheet.cells[0].rect and second == sheet.cells[5].rect
    tune_stage(hands).tuning.tune("Gutter", gutter=2)
    other, rect, _waiting = textures.of(hands.sheet("wren.png"), sheet.cells[5])
    assert other is not one and rect != second


@pytest.mark.parametrize("mipmaps", [False, True])
@pytest.mark.parametrize("spot", [(0, 0), (500, 700), (1260, 1000)])
def test_the_part_of_a_large_sheet_is_drawn_as_the_whole_is(
    hands: Hands, mipmaps: bool, spot: tuple[int, int]
) -> None:
    rgba = np.random.default_rng(0).integers(0, 256, (1024, 1280, 4)).astype(np.uint8)
    cell = Cell("c", "c", (spot[0], spot[1], 20, 24), (0, 0))
    sheet = Sheet(
        "s", "s.png", Source("art/s.png", f"{spot}", (1280, 1024)), cells=(cell,),
        tune=Tune(filter="linear", mipmaps=mipmaps),
    )  # fmt: skip
    texture, rect, _waiting = Textures(Fixed(rgba), hands.session.jobs).of(sheet, cell)  # type: ignore[arg-type]
    assert texture.levels[0].shape[0] < 300 and rect[2:] == (20, 24)

    def drawn(texture: Texture, rect: tuple[int, int, int, int]) -> np.ndarray:
        picture = np.zeros((60, 60, 4), np.float32)
        draw(picture, Placed(texture, rect, (0, 0), (9.3, 7.6), 0.6 if mipmaps else 1.7, 15))
        return picture

    whole = texture_of(rgba, "linear", mipmaps, alpha="straight")
    assert np.abs(drawn(texture, rect) - drawn(whole, cell.rect)).max() < 0.01


def test_a_codec_that_fails_is_told_once_and_not_tried_again(hands: Hands, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    calls: list[str] = []

    def broken(*_args: object) -> None:
        calls.append("tried")
        raise ZeroDivisionError("a block went wrong")

    sheet = hands.open_sheet("crate.png", "tune")
    monkeypatch.setattr("rushweed.core.tune.codec.compress.costs", broken)
    textures = hands.session.textures
    textures.cost(sheet, "bc3")
    hands.wait(lambda: textures.failed(sheet, "bc3"))
    assert "a block went wrong" in hands.window.notice.words.text()
    for _ in range(20):
        assert textures.cost(sheet, "bc3") is None
        hands.qtbot.wait(5)
    assert calls == ["tried"]


def test_a_job_nobody_listens_to_tells_its_failure_and_a_stale_result_is_dropped(hands: Hands) -> None:
    def fail(_job: object) -> None:
        raise RushweedError("The tide came in.", "Wait for the ebb.")

    hands.session.jobs.start("Waiting", fail)
    hands.wait(lambda: "The tide came in." in hands.window.notice.words.text())
    got: list[int] = []
    hands.session.jobs.start("Counting", lambda _job: 3, got.append, stale=lambda: True)
    hands.session.jobs.start("Counting", lambda _job: 4, got.append, stale=lambda: False)
    hands.wait(lambda: got == [4])


def test_the_texture_of_a_large_cell_is_made_beside_the_window(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Until it is there the Proof shows the scene without it."""
    sheet = hands.open_sheet("wren.png", "tune")
    made, here = hands.session.textures, []
    cell = sheet.cells[3]
    at_once, rect, _waiting = made.of(sheet, cell)
    real = textures.texture_of

    def listen(*of: object) -> Texture:
        here.append(threading.current_thread() is threading.main_thread())
        return real(*of)  # type: ignore[arg-type]

    monkeypatch.setattr(textures, "MOST_AT_ONCE", 0)
    monkeypatch.setattr(textures, "texture_of", listen)
    other, told = sheet.cells[1], []
    made.ready.connect(lambda: told.append(True))
    for wanted in (other, cell):
        told.clear()
        monkeypatch.setattr(made, "_texture", None)
        assert made.of(sheet, wanted)[0] is textures.NOTHING
        hands.wait(lambda: bool(told))
        assert made.of(sheet, wanted)[0] is not textures.NOTHING
    assert here and not any(here)
    assert (made.of(sheet, cell)[0].levels[0] == at_once.levels[0]).all()
    assert made.of(sheet, cell)[1] == rect
