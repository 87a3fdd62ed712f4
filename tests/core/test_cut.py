"""Grids, what they leave over, and cells that keep who they are."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.cut.edit import accept_waste, cut_sheet, leave_out, spots_of
from rushweed.core.cut.grid import cut_through, grid_of, ink, ink_sums, occupied, occupied_by_sums, places
from rushweed.core.cut.match_cells import match_by_overlap
from rushweed.core.cut.propose import propose
from rushweed.core.document.edit import rename_cell
from rushweed.core.document.errors import CutError
from rushweed.core.document.model.cut import CountCut, GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.edit import set_shapes
from tests.conftest import named, project_with, sheet_of_size


def inked(height: int, width: int) -> np.ndarray:
    return np.full((height, width, 4), 255, np.uint8)


def test_a_grid_by_size_counts_cells_and_tells_what_is_left() -> None:
    grid = grid_of(GridCut((16, 16), (1, 1), (1, 1)), (171, 112))
    assert (grid.columns, grid.rows, grid.left_over) == (10, 6, (0, 9))
    assert grid.rect(9, 5) == (154, 86, 16, 16)


def test_a_grid_by_counts_divides_and_tells_the_remainder() -> None:
    grid = grid_of(CountCut(3, 2), (160, 97))
    assert (grid.cell, grid.left_over) == ((53, 48), (1, 1))
    grid = grid_of(CountCut(10, 6, (1, 1), (1, 1)), (171, 103))
    assert (grid.cell, grid.left_over) == ((16, 16), (0, 0))


@pytest.mark.parametrize(
    "cut",
    [
        GridCut((0, 16)), GridCut((-3, 16)), GridCut((65, 16)), GridCut((16, 99)),
        CountCut(0, 1), CountCut(65, 1),
        GridCut((16, 16), (-1, 0)), GridCut((16, 16), spacing=(0, -2)), GridCut((16, 16), (60, 0)),
    ],
)  # fmt: skip
def test_impossible_grids_are_refused_with_a_cure(cut: GridCut | CountCut) -> None:
    with pytest.raises(CutError) as error:
        grid_of(cut, (64, 64), "wren.png")
    assert error.value.cure


@settings(max_examples=30)
@given(st.integers(1, 20), st.integers(1, 20), st.integers(0, 4), st.integers(0, 3), st.integers(0, 99))
def test_places_are_found_full_by_sums_as_by_looking(
    w: int, h: int, margin: int, gap: int, seed: int
) -> None:
    mask = np.random.default_rng(seed).random((40, 50)) < 0.02
    grid = grid_of(GridCut((w, h), (margin, margin), (gap, gap)), (50, 40))
    assert np.array_equal(occupied_by_sums(ink_sums(mask), grid), occupied(mask, grid))


def test_too_many_cells_are_refused() -> None:
    with pytest.raises(CutError, match="65,536"):
        grid_of(GridCut((1, 1)), (4096, 4096))


@given(
    st.tuples(st.integers(1, 300), st.integers(1, 300)), st.tuples(st.integers(1, 40), st.integers(1, 40)),
    st.tuples(st.integers(0, 9), st.integers(0, 9)), st.tuples(st.integers(0, 9), st.integers(0, 9)),
)  # fmt: skip
def test_cells_lie_inside_the_sheet_and_never_overlap(size, cell, margin, spacing) -> None:  # type: ignore[no-untyped-def]
    try:
        grid = grid_of(GridCut(cell, margin, spacing), size)
    except CutError:
        return
    cover = np.zeros(size[::-1], int)
    for row in range(grid.rows):
        for column in range(grid.columns):
            x, y, w, h = grid.rect(column, row)
            assert x + w <= size[0] and y + h <= size[1]
            cover[y : y + h, x : x + w] += 1
    assert cover.max() == 1
    assert min(grid.left_over) >= 0


def test_occupied_is_the_same_as_looking_into_each_cell() -> None:
    rng = np.random.default_rng(1)
    mask = rng.random((64, 80)) > 0.98
    grid = grid_of(GridCut((9, 7), (2, 1), (1, 3)), (80, 64))
    held = occupied(mask, grid)
    for row in range(grid.rows):
        for column in range(grid.columns):
            x, y, w, h = grid.rect(column, row)
            assert held[row, column] == mask[y : y + h, x : x + w].any()


def test_empty_cells_are_left_out_unless_kept_by_hand() -> None:
    rgba = np.zeros((32, 64, 4), np.uint8)
    rgba[4:8, 4:8] = rgba[20:24, 40:44] = 255
    project = cut_sheet(project_with(sheet_of_size(64, 32)), "sheet1", GridCut((16, 16)), rgba)
    assert spots_of(project.sheets[0], [c.id for c in project.sheets[0].cells]) == [(0, 0), (2, 1)]
    project = leave_out(project, "sheet1", [(3, 0)], False, rgba)
    project = leave_out(project, "sheet1", [(0, 0)], True, rgba)
    assert spots_of(project.sheets[0], [c.id for c in project.sheets[0].cells]) == [(3, 0), (2, 1)]
    everything = cut_sheet(project, "sheet1", GridCut((16, 16), leave_out_empty=False), rgba)
    assert len(everything.sheets[0].cells) == 8


def test_places_ignore_hand_choices_outside_the_grid() -> None:
    cut = GridCut((16, 16), kept=((9, 9), (-9, 0)), left_out=((8, 8), (-1, 0), (0, -9)))
    grid = grid_of(cut, (32, 32))
    assert places(cut, grid, np.ones((2, 2), bool)) == [(0, 0), (1, 0), (0, 1), (1, 1)]


def test_cutting_again_keeps_ids_names_and_shapes_on_the_art() -> None:
    rgba = inked(48, 48)
    project = cut_sheet(project_with(sheet_of_size(48, 48)), "sheet1", GridCut((16, 16)), rgba)
    first = project.sheets[0].cells[4]
    project = rename_cell(project, first.id, "lamp")
    project = set_shapes(project, [first.id], (Box(2, 3, 8, 8),))
    again = cut_sheet(project, "sheet1", GridCut((14, 14), (2, 2), (2, 2)), rgba)
    same = next(c for c in again.sheets[0].cells if c.id == first.id)
    assert same.name == "lamp" and same.rect == (18, 18, 14, 14)
    assert same.shapes == (Box(0, 1, 8, 8),)  # two px up and left in the cell: still on the same art


def test_a_new_pivot_share_is_kept_when_cells_change_size() -> None:
    rgba = inked(64, 64)
    project = cut_sheet(project_with(sheet_of_size(64, 64)), "sheet1", GridCut((32, 32)), rgba)
    assert project.sheets[0].cells[0].pivot == (16, 32)
    project = cut_sheet(project, "sheet1", GridCut((16, 16)), rgba)
    assert {c.pivot for c in project.sheets[0].cells} == {(8, 16)}


@settings(max_examples=30)
@given(st.integers(8, 40), st.integers(8, 40), st.integers(0, 5), st.integers(0, 3))
def test_no_cell_that_overlaps_a_new_one_by_more_than_half_of_both_is_lost(
    old_side: int, new_side: int, margin: int, spacing: int
) -> None:
    old = grid_of(GridCut((old_side, old_side)), (200, 200))
    new = grid_of(GridCut((new_side, new_side), (margin, margin), (spacing, spacing)), (200, 200))
    before = [old.rect(c, r) for r in range(old.rows) for c in range(old.columns)]
    after = [new.rect(c, r) for r in range(new.rows) for c in range(new.columns)]
    matched = match_by_overlap(before, after)
    assert len(set(matched.values())) == len(matched)
    for i, (x, y, w, h) in enumerate(before):
        for j, (nx, ny, nw, nh) in enumerate(after):
            across = min(x + w, nx + nw) - max(x, nx)
            down = min(y + h, ny + nh) - max(y, ny)
            if across > 0 and down > 0 and across * down * 2 > max(w * h, nw * nh):
                assert matched[j] == i


def test_recutting_to_the_same_grid_changes_nothing(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "boardwalk.png")
    assert sheet.cut is not None
    assert cut_sheet(project, sheet.id, sheet.cut, stock.pixels(sheet)) is project


def test_lines_through_art_are_found_and_joined_tiles_are_not() -> None:
    mask = np.zeros((32, 32), bool)
    mask[4:10, 10:22] = True  # six px high across the line at 16
    grid = grid_of(GridCut((16, 16)), (32, 32))
    assert cut_through(mask, grid).tolist() == [[True, False], [False, False]]
    assert not cut_through(np.ones((32, 32), bool), grid).any()


def test_waste_once_accepted_stays_so_until_cut_again() -> None:
    rgba = inked(40, 40)
    project = cut_sheet(project_with(sheet_of_size(40, 40)), "sheet1", GridCut((16, 16)), rgba)
    project = accept_waste(project, "sheet1")
    project = leave_out(project, "sheet1", [(0, 0)], True, rgba)
    assert project.sheets[0].waste_accepted
    assert not cut_sheet(project, "sheet1", GridCut((20, 20)), rgba).sheets[0].waste_accepted


def test_ink_is_where_alpha_is() -> None:
    rgba = np.zeros((1, 3, 4), np.uint8)
    rgba[0, 1, 3], rgba[0, 2, 3] = 7, 8
    assert ink(rgba).tolist() == [[False, False, True]]


@pytest.mark.parametrize(
    ("name", "cell", "spacing"), [("wren.png", (24, 32), (0, 0)), ("boardwalk.png", (16, 16), (1, 1))]
)
def test_the_grid_of_the_demo_sheets_is_proposed_first(demo, name, cell, spacing) -> None:  # type: ignore[no-untyped-def]
    project, stock = demo
    best = propose(stock.pixels(named(project, name))).grids[0]
    assert (best.cell, best.spacing) == (cell, spacing)
    assert "no line cut" in best.evidence


def test_a_cut_that_moves_nothing_shares_its_cells(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "wren.png")
    other = replace(sheet.cut, leave_out_empty=False)
    made = named(cut_sheet(project, sheet.id, other, stock.pixels(sheet)), "wren.png")
    assert {c.id for c in sheet.cells} < {c.id for c in made.cells}
    by_id = {c.id: c for c in made.cells}
    assert all(by_id[c.id] is c for c in sheet.cells)
