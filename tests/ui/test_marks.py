"""What the Desk works out from where cells lie."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from rushweed.core.cut.grid import grid_of
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.sheet import Cell
from rushweed.ui.desk import marks, sheet_paint
from rushweed.ui.desk.images import array_of
from rushweed.ui.desk.marks import covered, paint_plumbs, rects_of, same_places
from rushweed.ui.desk.sheet_paint import border_lines
from rushweed.ui.kit.theme import Look
from tests.ui.conftest import Hands

SIZE = 24, 18
RECT = st.tuples(st.integers(0, 23), st.integers(0, 17), st.integers(1, 12), st.integers(1, 12))
ROWS = st.sampled_from([(0, 4), (4, 4), (2, 9)])
IN_ROWS = st.tuples(st.integers(0, 23), ROWS, st.integers(1, 12)).map(
    lambda t: (t[0], t[1][0], t[2], t[1][1])
)


@given(st.lists(RECT, max_size=30) | st.lists(IN_ROWS, min_size=12, max_size=60))
def test_cells_cover_the_same_px_in_rows_and_one_by_one(rects: list[tuple[int, int, int, int]]) -> None:
    wide, high = SIZE
    by_one = np.zeros((high, wide), bool)
    for x, y, w, h in rects:
        by_one[y : y + h, x : x + w] = True
    assert (covered(np.array(rects, np.int64).reshape(-1, 4), SIZE) == by_one).all()


def test_cells_with_other_names_or_shapes_lie_where_they_did() -> None:
    cells = tuple(Cell(f"c{n}", f"c{n}", (n * 16, 0, 16, 16), (0, 0)) for n in range(4))
    named = tuple(Cell(c.id, "other", (*c.rect,), (1, 1)) for c in cells)
    moved = (*named[:3], Cell("c3", "c3", (64, 0, 16, 16), (0, 0)))
    assert same_places(cells, named) and not same_places(cells, moved)
    assert not same_places(None, cells) and not same_places(cells, cells[:3])
    assert rects_of(()).shape == (0, 4) and rects_of(cells)[:, 0].tolist() == [0, 16, 32, 48]


@given(st.integers(0, 2), st.data())
def test_borders_that_touch_are_one_line_over_the_same_px(spacing: int, data: st.DataObject) -> None:
    grid = grid_of(GridCut((4, 3), spacing=(spacing, spacing)), (30, 20), "a")
    shape = (grid.rows, grid.columns)
    flags = st.lists(st.booleans(), min_size=shape[0] * shape[1], max_size=shape[0] * shape[1])
    right, below = (np.array(data.draw(flags), bool).reshape(shape) for _ in range(2))
    lines = [(line.x1(), line.y1(), line.x2(), line.y2()) for line in border_lines(grid, right, below)]
    drawn = {
        (x, y)
        for x1, y1, x2, y2 in lines
        for x in np.arange(x1, x2 + 0.25, 0.5)
        for y in np.arange(y1, y2 + 0.25, 0.5)
    }
    wanted = set()
    for cut, across in ((right, True), (below, False)):
        for row, column in np.argwhere(cut).tolist():
            x, y = column * (4 + spacing), row * (3 + spacing)
            steps = np.arange(0, (3 if across else 4) + 0.25, 0.5)
            wanted |= {(x + 4, y + s) if across else (x + s, y + 3) for s in steps}
    assert drawn == wanted
    if not spacing:
        assert len(lines) <= np.count_nonzero(right) + np.count_nonzero(below)
        assert len(border_lines(grid, np.ones(shape, bool), np.zeros(shape, bool))) == grid.columns


def test_very_many_selected_cells_get_a_wash_and_no_other_px_does(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.open_sheet("boardwalk.png", "cut")
    desk, sheet = hands.window.desk, hands.sheet("boardwalk.png")
    monkeypatch.setattr(sheet_paint, "MOST_MARKED", 1)

    def shown(rect: tuple[int, int, int, int]) -> QColor:
        x, y, w, h = rect
        at = desk.view.to_screen(x + w / 2 + 0.1, y + h / 2 + 0.1).toPoint()
        return desk.grab().toImage().pixelColor(at)

    hands.session.selection.choose_cells(())
    first, last = sheet.cells[0], sheet.cells[-1]
    before = shown(first.rect), shown(last.rect)
    hands.session.selection.choose_cells((first.id, sheet.cells[1].id))
    assert shown(first.rect) != before[0] and shown(last.rect) == before[1]


def test_of_very_many_plumb_marks_one_is_drawn_in_each_square(
    monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    look = Look()

    def drawn(tips: list[tuple[float, float]]) -> np.ndarray:
        image = QImage(120, 60, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(0)
        painter = QPainter(image)
        points = np.array(tips, float)
        paint_plumbs(painter, points, points[:, 1] - 20, look)
        painter.end()
        return array_of(image)

    crowd = [(20.0, 40.0), (21.0, 40.0), (90.0, 40.0)]
    monkeypatch.setattr(marks, "MOST_PLUMBS", 2)
    assert (drawn(crowd) == drawn([crowd[0], crowd[2]])).all()
    monkeypatch.setattr(marks, "MOST_PLUMBS", 3)
    assert (drawn(crowd) != drawn([crowd[0], crowd[2]])).any()
