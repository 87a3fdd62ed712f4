"""What the Desk works out from where cells lie."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from rushweed.core.document.model.sheet import Cell
from rushweed.ui.desk.marks import covered, rects_of, same_places

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
