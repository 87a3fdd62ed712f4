"""Cuts that are proposed: drawn before they are taken, stepped through, chosen by sight, given to others."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QPoint, Qt

from bench.kinds import draw
from rushweed.core.cut.take import Choices, Ranked
from rushweed.core.document.model.cut import CountCut, GridCut, HandCut, PiecesCut
from rushweed.ui.kit.controls import Chip
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.cut.proposals import PASSED_MS, Found
from rushweed.ui.stages.cut.stage import CutStage
from tests.ui.conftest import Hands


def stage(hands: Hands) -> CutStage:
    made = hands.window.stage("cut")
    assert isinstance(made, CutStage)
    return made


def bring(hands: Hands, tmp_path: Path, **pictures: np.ndarray) -> None:
    folder = tmp_path / "new"
    folder.mkdir(exist_ok=True)
    for name, rgba in pictures.items():
        Image.fromarray(rgba).save(folder / f"{name}.png")
    hands.window.stage("gather").bringing.bring([folder])  # type: ignore[attr-defined]
    names = {f"{name}.png" for name in pictures}
    hands.wait(lambda: names <= {s.name for s in hands.session.project.sheets}, 8000)


def opened(hands: Hands, name: str) -> CutStage:
    hands.open_sheet(name, "cut")
    cut = stage(hands)
    hands.wait(lambda: cut.proposals.of(hands.sheet(name)) is not None, 20_000)
    hands.qtbot.wait(30)
    return cut


def key(hands: Hands, code: Qt.Key) -> None:
    hands.window.desk.setFocus()
    hands.qtbot.keyClick(hands.window.desk, code)
    hands.qtbot.wait(10)


def test_the_likeliest_cut_is_drawn_at_once_and_enter_takes_it(hands: Hands, tmp_path: Path) -> None:
    drawn = draw("lined", 4)
    bring(hands, tmp_path, reeds=drawn.rgba)
    cut = opened(hands, "reeds.png")
    shown = cut.proposals.shown()
    assert shown is not None and isinstance(shown[0].cut, GridCut) and hands.sheet("reeds.png").cells == ()
    x, y = drawn.margin[0] + drawn.cell[0] + drawn.spacing[0] / 2, drawn.margin[1] - drawn.spacing[1] / 2
    hands.window.desk.look_at(x, y)
    at = hands.at(x, y)
    straw = hands.window.look.colour("art_straw").name()
    near = {
        hands.pixel(hands.window.desk, at.x() + dx, at.y() + dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1)
    }
    assert straw in near
    key(hands, Qt.Key.Key_Return)
    sheet = hands.sheet("reeds.png")
    assert isinstance(sheet.cut, GridCut) and sheet.cut.cell == drawn.cell and sheet.cells
    assert cut.proposals.shown() is None
    key(hands, Qt.Key.Key_Return)
    assert hands.sheet("reeds.png") is sheet, "there is nothing more to take"


def test_a_key_steps_through_the_ways_and_back(hands: Hands) -> None:
    cut = opened(hands, "lamps.png")
    found = cut.proposals.of(hands.sheet("lamps.png"))
    assert found is not None and isinstance(found.ways[0].cut, PiecesCut) and len(found.rects[0]) > 5
    seen = []
    for _ in range(len(found.ways)):
        now = cut.proposals.shown()
        assert now is not None
        seen.append(now[0].words)
        key(hands, Qt.Key.Key_Period)
    assert len(set(seen)) == len(seen) and cut.proposals.shown() == (found.ways[0], found.rects[0])
    key(hands, Qt.Key.Key_Comma)
    last = cut.proposals.shown()
    assert last is not None and last[0] == found.ways[-1]
    key(hands, Qt.Key.Key_Comma)
    key(hands, Qt.Key.Key_Return)
    assert hands.sheet("lamps.png").cut == found.ways[-2].cut


def test_pieces_are_drawn_as_boxes_while_their_chip_is_hovered(hands: Hands) -> None:
    hands.open_sheet("lamps.png", "cut")
    hands.session.document.edit("Cut", lambda p: p)
    cut = opened(hands, "lamps.png")
    key(hands, Qt.Key.Key_Return)
    assert cut.proposals.shown() is None
    chip = next(c for c in cut.proposals.line.findChildren(Chip) if "pieces" in c.words)
    before = hands.window.desk.grab().toImage()
    chip.hovered.emit(True)
    hands.qtbot.wait(20)
    assert hands.window.desk.grab().toImage() != before
    chip.hovered.emit(False)


def doubtful(hands: Hands, name: str) -> CutStage:
    """A sheet whose proposals are made to look doubtful."""
    cut = opened(hands, name)
    sheet = hands.sheet(name)
    found = cut.proposals.of(sheet)
    assert found is not None
    cuts = (GridCut((32, 32)), GridCut((16, 16)), CountCut(1, 1))
    ways = [Ranked(c, w, "a guess", 0.3) for c, w in zip(cuts, ("32 × 32", "16 × 16", "One"), strict=True)]
    wide, high = sheet.source.size
    rects = [
        [(x, y, side, side) for y in range(0, high, side) for x in range(0, wide, side)] for side in (32, 16)
    ]
    rects.append([(0, 0, wide, high)])
    choice = Choices(found.choices.grids, 0, 0, None, 0.5, 0.5)
    assert choice.doubtful and not choice.sure
    cut.proposals._found[sheet.source.key] = Found(choice, ways, rects)
    cut.proposals.refresh()
    hands.qtbot.wait(20)
    return cut


def test_what_is_unsure_shows_small_pictures_and_a_press_takes_one(hands: Hands) -> None:
    steps = hands.window.later.first_hour.steps
    steps.begin()
    cut = doubtful(hands, "lamps_4x.png")
    which = cut.proposals.which
    assert which.isVisible() and len(which.images) == 3 and which.images[0] != which.images[1]
    assert hands.window.desk.rect().contains(which.geometry()) and not steps.isVisible()
    spot = which.box_of(1).center().toPoint()
    hands.qtbot.mouseMove(which, spot)
    now = cut.proposals.shown()
    assert now is not None and now[0].words == "16 × 16"
    hands.qtbot.mouseClick(which, Qt.MouseButton.LeftButton, pos=spot)
    assert hands.sheet("lamps_4x.png").cut == GridCut((16, 16)) and not which.isVisible()
    assert steps.isVisible()


def test_the_small_pictures_can_be_closed_and_leave_with_their_sheet(hands: Hands) -> None:
    cut = doubtful(hands, "lamps_4x.png")
    which = cut.proposals.which
    hands.open_sheet("wren.png", "cut")
    assert not which.isVisible()
    hands.open_sheet("lamps_4x.png", "cut")
    assert which.isVisible()
    hands.press_widget(which.close_button)
    assert not which.isVisible()
    hands.open_sheet("wren.png", "cut")
    hands.open_sheet("lamps_4x.png", "cut")
    assert not which.isVisible()
    assert hands.window.desk.childAt(QPoint(5, 5)) is not which


def test_a_cut_of_ones_own_is_offered_to_uncut_sheets_of_the_same_size(hands: Hands, tmp_path: Path) -> None:
    one, other = draw("padded", 3).rgba, draw("padded", 3).rgba.copy()
    other[..., :3] = 255 - other[..., :3]
    bring(hands, tmp_path, tide_a=one, tide_b=other)
    cut = opened(hands, "tide_a.png")
    hands.type(cut.cell, "13x17")
    assert "1 other sheet has the same size" in hands.window.notice.words.text()
    hands.press_widget(hands.window.notice.holder.itemAt(0).widget())
    assert hands.sheet("tide_b.png").cut == hands.sheet("tide_a.png").cut and hands.sheet("tide_b.png").cells
    hands.session.document.undo()
    assert hands.sheet("tide_b.png").cut is None and hands.sheet("tide_a.png").cut is not None


def test_sheets_of_one_size_vote_for_each_other(hands: Hands, tmp_path: Path) -> None:
    one = draw("lined", 9)
    two = one.rgba.copy()
    two[..., :3] = 255 - two[..., :3]
    bring(hands, tmp_path, bank_a=one.rgba, bank_b=two)
    cut = opened(hands, "bank_a.png")
    key(hands, Qt.Key.Key_Return)
    opened(hands, "bank_b.png")
    shown = cut.proposals.shown()
    assert shown is not None and "as 1 other sheet of this size" in shown[0].evidence


@pytest.mark.parametrize("seed", [2, 8])
def test_strips_of_differing_cells_are_cut_at_once(hands: Hands, tmp_path: Path, seed: int) -> None:
    from bench.kinds import STACKED

    drawn = draw(STACKED, seed)
    bring(hands, tmp_path, strips=drawn.rgba)
    cut = opened(hands, "strips.png")
    found = cut.proposals.of(hands.sheet("strips.png"))
    assert found is not None
    way = next(w for w in found.ways if w.words == f"{drawn.pieces} strips")
    cut.proposals.take(way)
    sheet = hands.sheet("strips.png")
    assert isinstance(sheet.cut, HandCut) and [c.rect for c in sheet.cells] == list(way.rects)


@pytest.mark.parametrize(
    ("stage", "work"), [("cut", "Proposing a cut"), ("gather", "Looking at the picture")]
)
def test_a_stage_that_is_left_at_once_looks_at_no_sheet(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, stage: str, work: str
) -> None:
    session, started = hands.session, list[str]()
    begin = session.jobs.start

    def start(label: str, *words: Any, **named: Any) -> Job:
        started.append(label)
        return begin(label, *words, **named)

    monkeypatch.setattr(session.jobs, "start", start)
    session.go("tune")
    session.selection.choose_sheet(hands.sheet("wren.png").id)
    session.go(stage)
    session.go("tune")
    hands.qtbot.wait(PASSED_MS + 100)
    assert work not in started
    session.go(stage)
    hands.wait(lambda: work in started)
