"""Cutting again keeps who a cell is, and says first what would be lost."""

import itertools

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.cut.edit import cut_sheet
from rushweed.core.cut.match_cells import match_by_overlap, recut
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box
from rushweed.core.level.edit import cells_used
from rushweed.core.level.losses import loss_words, lost, tiles_by_cell
from rushweed.core.pixels.cache import PixelCache
from tests.conftest import named, project_with, sheet_of_size

Rect = tuple[int, int, int, int]


def common(a: Rect, b: Rect) -> int:
    across = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    down = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    return max(across, 0) * max(down, 0)


@st.composite
def grids(draw: st.DrawFn) -> list[Rect]:
    """The cells of some grid on a sheet of 120 x 120 px."""
    w, h = draw(st.integers(7, 40)), draw(st.integers(7, 40))
    mx, my, sx, sy = (draw(st.integers(0, 9)) for _ in range(4))
    xs, ys = range(mx, 121 - w, w + sx), range(my, 121 - h, h + sy)
    return [(x, y, w, h) for y, x in itertools.product(ys, xs)]


@settings(max_examples=200)
@given(grids(), grids())
def test_no_id_is_lost_that_overlaps_by_more_than_half(old: list[Rect], new: list[Rect]) -> None:
    matched = match_by_overlap(old, new)
    assert len(set(matched.values())) == len(matched)
    for i, j in itertools.product(range(len(old)), range(len(new))):
        both = common(old[i], new[j])
        if 2 * both > old[i][2] * old[i][3] + new[j][2] * new[j][3] - both:
            assert matched[j] == i


@settings(max_examples=60)
@given(grids(), grids())
def test_of_cells_that_lie_mostly_in_new_ones_as_many_live_on_as_can(
    old: list[Rect], new: list[Rect]
) -> None:
    """Each new cell has one heir only: as many old cells survive as there are new ones that hold one."""
    matched = match_by_overlap(old, new)
    holding = {j for o in old for j, n in enumerate(new) if 2 * common(o, n) > o[2] * o[3]}
    assert len(matched) >= len(holding)


@settings(max_examples=40)
@given(st.lists(st.tuples(*[st.integers(0, 60)] * 2, *[st.integers(1, 30)] * 2), max_size=14), st.randoms())
def test_hand_drawn_cells_in_any_order_find_themselves_again(old: list[Rect], random) -> None:  # type: ignore[no-untyped-def]
    new = old[:]
    random.shuffle(new)
    matched = match_by_overlap(old, new)
    assert len(matched) == len(old)
    assert all(old[i] == new[j] for j, i in matched.items())


def test_a_tangle_is_solved_for_the_greatest_whole_and_not_pair_by_pair() -> None:
    """The largest overlap alone would give the middle cell away and leave one old cell without an heir."""
    old = [(0, 0, 10, 10), (10, 0, 10, 10)]
    new = [(4, 0, 11, 10), (15, 0, 6, 10)]
    assert match_by_overlap(old, new) == {0: 0, 1: 1}


def test_thousands_of_cells_that_do_not_line_up_are_matched() -> None:
    old = [(x, y, 16, 16) for y in range(0, 1024, 16) for x in range(0, 1024, 16)]
    new = [(x, y, 17, 17) for y in range(0, 1003, 17) for x in range(0, 1003, 17)]
    matched = match_by_overlap(old, new)
    assert len(matched) == len(new)
    assert all(common(old[i], new[j]) for j, i in matched.items())


def test_a_cell_that_moves_keeps_its_shapes_on_the_art() -> None:
    sheet = cut_sheet(project_with(sheet_of_size(64, 64)), "sheet1", GridCut((16, 16)),
                      np.full((64, 64, 4), 255, np.uint8)).sheets[0]  # fmt: skip
    first = replace(sheet.cells[0], shapes=(Box(4, 4, 8, 8),))
    cells = recut(replace(sheet, cells=(first, *sheet.cells[1:])), [(2, 2, 16, 16)])
    assert cells[0].id == first.id
    assert cells[0].shapes == (Box(2, 2, 8, 8),)


def test_what_a_new_cut_would_lose_is_named_with_its_users(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "boardwalk.png")
    after = cut_sheet(project, sheet.id, GridCut((32, 32), (1, 1), (1, 1)), stock.pixels(sheet))
    losses = lost(project, after)
    there = {c.id for c in after.sheets[project.sheets.index(sheet)].cells}
    level = project.levels[0]
    painted = set(cells_used(level)) & {c.id for c in sheet.cells}
    gone = {c.name for c in sheet.cells if c.id in painted - there}
    assert gone
    assert gone <= {loss.cell for loss in losses}
    assert any("tiles of pier" in use for loss in losses for use in loss.uses)
    words = loss_words(losses)
    assert words.startswith(f"This loses {len(losses)} cells in use: {losses[0].cell} (")
    assert lost(project, project) == []


def test_tiles_are_counted_by_cell(demo: tuple[Project, PixelCache]) -> None:
    level = demo[0].levels[0]
    counts = tiles_by_cell(level)
    assert set(counts) == set(cells_used(level))
    painted = sum(int(np.count_nonzero(c.cells)) for x in level.layers if hasattr(x, "tiles")
                  for c in x.tiles.chunks if c is not None)  # fmt: skip
    assert sum(counts.values()) == painted
