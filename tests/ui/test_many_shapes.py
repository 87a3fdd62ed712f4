"""The shapes of very many cells: made some at a time, and only those that changed."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from rushweed.core.document.model.shape import Box, Polygon, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.ui.desk import many_shapes, shape_marks
from rushweed.ui.desk.images import array_of
from rushweed.ui.desk.many_shapes import GROUP, ManyShapes
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.view import View
from rushweed.ui.kit.theme import Look
from rushweed.ui.stages.shape.stage import ShapeStage
from tests.ui.conftest import Hands

ALL = QRectF(0, 0, 1024, 1024)


def shape(n: int) -> Shape:
    """No two alike."""
    if n % 3 == 0:
        return Box(0, n % 11, 16, 2 + n / 4096, "one-way" if n % 2 else "sensor")
    return Polygon(((0, 16), (16, n / 4096), (16, 16)))


def cells_of(count: int) -> tuple[Cell, ...]:
    return tuple(
        Cell(f"c{n}", f"c{n}", (n % 64 * 16, n // 64 * 16, 16, 16), (0, 0), (shape(n),)) for n in range(count)
    )


def test_only_groups_with_changed_shapes_are_made_anew() -> None:
    many, cells = ManyShapes(), cells_of(3 * GROUP)
    many.groups(cells, ALL)
    while not many.complete:
        many.make()
    before = many.groups(cells, ALL)
    assert len(before) == 3 and sum(len(group.cells) for group in before) == len(cells)
    changed = list(cells)
    changed[GROUP + 5] = replace(changed[GROUP + 5], shapes=(Box(0, 0, 4, 4),))
    after = many.groups(tuple(changed), ALL)
    assert after[0] is before[0] and after[1] is not before[1] and after[2] is before[2]
    assert len(many.groups(tuple(changed), QRectF(0, 0, 1024, 16))) == 1  # the others are not in sight


def test_what_is_not_ready_is_shown_as_it_was_and_made_a_turn_at_a_time(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    many, cells = ManyShapes(), cells_of(3 * GROUP)
    many.groups(cells, ALL)
    while not many.complete:
        many.make()
    before = many.groups(cells, ALL)
    monkeypatch.setattr(many_shapes, "TURN_S", 0.0)
    bare = tuple(replace(cell, shapes=(Box(0, 0, 8, 8),)) for cell in cells)
    first = many.groups(bare, ALL)
    assert not many.complete and first[0] is not before[0] and first[1:] == before[1:]
    assert many.groups(bare, ALL) == first  # to be painted again makes no more of them
    for _ in range(2):
        many.make()
    assert many.complete and [tuple(g.cells) for g in many.groups(bare, ALL)] == [
        bare[n : n + GROUP] for n in range(0, len(bare), GROUP)
    ]


def test_the_desk_shows_all_of_them_in_the_end(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(shape_marks, "MANY", 5)
    monkeypatch.setattr(shape_marks, "MOST_STAMPS", 0)
    hands.open_sheet("marsh.png", "shape")
    stage, desk = hands.window.stage("shape"), hands.window.desk
    assert isinstance(stage, ShapeStage)
    whole = array_of(desk.grab().toImage())
    monkeypatch.setattr(many_shapes, "TURN_S", 0.0)
    monkeypatch.setattr(many_shapes, "GROUP", 2)
    stage.marks = ShapeMarks(hands.window.look)
    assert (array_of(desk.grab().toImage()) != whole).any()
    hands.wait(lambda: bool((array_of(desk.grab().toImage()) == whole).all()))


def test_they_look_the_same_in_groups_as_in_one(monkeypatch: pytest.MonkeyPatch, hands: Hands) -> None:
    def drawn() -> np.ndarray:
        marks, view = ShapeMarks(Look()), View()
        image = QImage(1024, 256, QImage.Format.Format_ARGB32_Premultiplied)
        complete = False
        while not complete:
            image.fill(0)
            painter = QPainter(image)
            complete = marks.paint_cells(painter, view, cells, cells)
            painter.end()
            marks.make_rest()
        return array_of(image)

    cells = cells_of(1024)
    in_groups = drawn()
    monkeypatch.setattr(many_shapes, "GROUP", 4096)
    assert (drawn() == in_groups).all() and in_groups.any()


def test_proposals_are_drawn_a_few_at_a_time_and_all_in_the_end(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.open_sheet("marsh.png", "shape")
    stage, desk = hands.window.stage("shape"), hands.window.desk
    assert isinstance(stage, ShapeStage)
    stage.pixels.propose()
    hands.wait(lambda: len(stage.pixels.proposed) > 4)
    whole = array_of(desk.grab().toImage())
    monkeypatch.setattr(many_shapes, "TURN_S", 0.0)
    monkeypatch.setattr(many_shapes, "GROUP", 2)
    stage.pixels._paths = ManyShapes()
    assert (array_of(desk.grab().toImage()) != whole).any()
    hands.wait(lambda: bool((array_of(desk.grab().toImage()) == whole).all()))
