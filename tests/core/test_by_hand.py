"""Cells by hand and guides: exact on the px, never outside the sheet, ids kept."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.cut import guides, hand
from rushweed.core.cut.edit import cut_sheet, leave_out, pulled_in, spots_of
from rushweed.core.cut.grid import grid_of
from rushweed.core.cut.names import name_cells, name_rows, natural_order, reading_order_ids
from rushweed.core.cut.seam import seam, seamless_within
from rushweed.core.document.errors import CutError, EditError
from rushweed.core.document.model.cut import GridCut, GuidesCut, HandCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box
from rushweed.core.document.model.sheet import Cell
from tests.conftest import project_with, sheet_of_size

FULL = np.full((64, 64, 4), 255, np.uint8)


def cut(size: int = 16) -> Project:
    return cut_sheet(project_with(sheet_of_size(64, 64)), "sheet1", GridCut((size, size)), FULL)


def cells(project: Project) -> tuple[Cell, ...]:
    return project.sheets[0].cells


def test_a_drawn_cell_is_cut_off_at_the_sheet_and_named_apart() -> None:
    project, made = hand.draw_cell(cut(), "sheet1", (60, -4, 10, 10))
    new = next(c for c in cells(project) if c.id == made)
    assert new.rect == (60, 0, 4, 6)
    assert len({c.name for c in cells(project)}) == 17
    assert isinstance(project.sheets[0].cut, HandCut)
    with pytest.raises(CutError, match="outside the sheet"):
        hand.draw_cell(project, "sheet1", (64, 0, 5, 5))


@given(st.integers(-99, 99), st.integers(-99, 99))
def test_moved_cells_stop_together_at_the_edge(dx: int, dy: int) -> None:
    before = cut()
    ids = [c.id for c in cells(before)[:2]]
    after = hand.move_cells(before, "sheet1", ids, dx, dy)
    steps = {
        (b.rect[0] - a.rect[0], b.rect[1] - a.rect[1])
        for a, b in zip(cells(before)[:2], cells(after)[:2], strict=True)
    }
    assert len(steps) == 1
    for cell in cells(after):
        x, y, w, h = cell.rect
        assert 0 <= x <= 64 - w and 0 <= y <= 64 - h


@given(
    st.sampled_from(["l", "t", "r", "b", "lt", "rb", "lb", "rt"]), st.integers(-80, 80), st.integers(-80, 80)
)
def test_dragged_edges_leave_at_least_a_px_on_the_sheet(sides: str, dx: int, dy: int) -> None:
    before = cut()
    wanted = cells(before)[5]
    x, y, w, h = hand.drag_edges(before, "sheet1", {wanted.id}, sides, dx, dy).sheets[0].cells[5].rect
    assert w >= 1 and h >= 1 and x >= 0 and y >= 0 and x + w <= 64 and y + h <= 64
    ox, oy, ow, oh = wanted.rect
    for side, old, new in (("l", ox, x), ("t", oy, y), ("r", ox + ow, x + w), ("b", oy + oh, y + h)):
        assert side in sides or old == new


def test_trimming_leaves_what_is_inked_and_keeps_shapes_on_the_art() -> None:
    mask = np.zeros((64, 64), bool)
    mask[20:24, 18:25] = True
    before = cut()
    cell = cells(before)[5]
    before = replace(before, sheets=(replace(before.sheets[0], cells=tuple(
        replace(c, shapes=(Box(2, 4, 7, 4),)) if c is cell else c for c in cells(before))),))  # fmt: skip
    after = hand.trim_cells(before, "sheet1", {c.id for c in cells(before)}, mask)
    assert cells(after)[5].rect == (18, 20, 7, 4)
    assert cells(after)[5].shapes == (Box(0, 0, 7, 4),)
    assert cells(after)[4].rect == cells(before)[4].rect  # nothing in it to trim to


def test_joined_cells_live_on_in_the_first() -> None:
    before = cut()
    ids = [cells(before)[5].id, cells(before)[0].id]
    after = hand.join_cells(before, "sheet1", ids)
    assert len(cells(after)) == 15
    assert next(c for c in cells(after) if c.id == ids[0]).rect == (0, 0, 32, 32)
    with pytest.raises(CutError, match="two cells"):
        hand.join_cells(before, "sheet1", ids[:1])


def test_a_split_cell_lives_on_at_its_top_left() -> None:
    before = cut(32)
    first = cells(before)[0]
    after, parts = hand.split_cells(before, "sheet1", {first.id}, [10], [20])
    assert [c.rect for c in cells(after)[:4]] == [
        (0, 0, 10, 20),
        (10, 0, 22, 20),
        (0, 20, 10, 12),
        (10, 20, 22, 12),
    ]
    assert cells(after)[0].id == first.id and cells(after)[0].name == first.name
    assert parts == tuple(c.id for c in cells(after)[:4])
    with pytest.raises(CutError, match="does not run through"):
        hand.split_cells(before, "sheet1", {first.id}, [40], [])


@given(st.integers(1, 9), st.integers(1, 9), st.integers(9, 40), st.integers(9, 40))
def test_split_parts_cover_their_cell_exactly(columns: int, rows: int, w: int, h: int) -> None:
    before, made = hand.draw_cell(project_with(sheet_of_size(64, 64)), "sheet1", (3, 5, w, h))
    after, parts = hand.split_evenly(before, "sheet1", {made}, columns, rows)
    assert len(parts) == columns * rows
    count = np.zeros((64, 64), int)
    for cell in cells(after):
        x, y, cw, ch = cell.rect
        count[y : y + ch, x : x + cw] += 1
    assert count[5 : 5 + h, 3 : 3 + w].min() == count.max() == 1
    assert count.sum() == w * h
    widths = {c.rect[2] for c in cells(after)}
    assert max(widths) - min(widths) <= 1


def test_a_cell_too_small_to_split_is_named() -> None:
    before, made = hand.draw_cell(project_with(sheet_of_size(64, 64)), "sheet1", (0, 0, 2, 2))
    with pytest.raises(CutError, match="too small for 3 x 1"):
        hand.split_evenly(before, "sheet1", {made}, 3, 1)


def test_doubles_stand_beside_their_originals_with_their_shapes() -> None:
    before, made = hand.draw_cell(project_with(sheet_of_size(64, 64)), "sheet1", (50, 0, 14, 10))
    after, copies = hand.double_cells(before, "sheet1", {made})
    assert [c.rect for c in cells(after)] == [(50, 0, 14, 10), (50, 10, 14, 10)]
    assert len({c.id for c in cells(after)}) == len({c.name for c in cells(after)}) == 2
    assert copies == (cells(after)[1].id,)


# -- guides ------------------------------------------------------------------------------------------


def test_guides_from_a_grid_make_the_same_cells() -> None:
    for grid_cut in (GridCut((16, 16)), GridCut((10, 12), (1, 2), (3, 1)), GridCut((64, 64))):
        by_grid = cut_sheet(project_with(sheet_of_size(64, 64)), "sheet1", grid_cut, FULL)
        made = guides.guides_of(grid_of(grid_cut, (64, 64)))
        by_guides = cut_sheet(by_grid, "sheet1", made, FULL)
        assert [c.rect for c in cells(by_guides)] == [c.rect for c in cells(by_grid)]
        assert [c.id for c in cells(by_guides)] == [c.id for c in cells(by_grid)]


@given(st.integers(0, 1), st.integers(0, 4), st.integers(-200, 200))
def test_a_guide_can_be_moved_anywhere_and_always_leaves_cells(axis: int, index: int, to: int) -> None:
    start = guides.guides_of(grid_of(GridCut((12, 12), (1, 1), (4, 4)), (64, 64)))
    index = min(index, len(start.columns) - 1)
    moved = guides.move_guide(start, axis, index, to, (64, 64))
    guides.check_guides(moved, (64, 64))
    for rect in guides.guide_rects(moved, np.ones((64, 64), bool)):
        assert rect[0] >= 0 and rect[1] >= 0 and rect[0] + rect[2] <= 64 and rect[1] + rect[3] <= 64


def test_guides_follow_the_art_to_the_nearest_gap() -> None:
    mask = np.zeros((64, 64), bool)
    for x in (2, 19, 37, 50):
        mask[4:60, x : x + 11] = True
    start = guides.guides_of(grid_of(GridCut((16, 64)), (64, 64)))
    after = guides.follow_art(start, mask)
    for line in after.columns[1:-1]:
        assert not (mask[:, line - 1] & mask[:, line]).any()
    inked = mask.any(axis=0)
    inside = [inked[a:b].sum() for a, b in zip(after.columns, after.columns[1:], strict=False)]
    assert inside == [11, 11, 11, 11]
    assert guides.follow_art(after, mask) == after


def test_guides_are_added_and_removed() -> None:
    start = GuidesCut((0, 32, 64), (0, 64))
    more = guides.add_guide(start, 0, 40, (64, 64))
    assert more.columns == (0, 32, 40, 64)
    assert guides.remove_guide(more, 0, 2) == start
    with pytest.raises(CutError, match="least"):
        guides.remove_guide(start, 1, 0)
    with pytest.raises(CutError, match="no px between"):
        guides.add_guide(replace(start, spacing=(2, 2)), 0, 33, (64, 64))
    with pytest.raises(CutError, match="outside"):
        guides.check_guides(GuidesCut((0, 70), (0, 64)), (64, 64), "wren.png")


def test_a_place_between_guides_is_left_out_and_kept() -> None:
    project = cut_sheet(
        project_with(sheet_of_size(64, 64)), "sheet1", GuidesCut((0, 20, 64), (0, 30, 64)), FULL
    )
    spots = spots_of(project.sheets[0], [cells(project)[3].id])
    assert spots == [(1, 1)]
    out = leave_out(project, "sheet1", spots, True, FULL)
    assert [c.rect for c in cells(out)] == [(0, 0, 20, 30), (20, 0, 44, 30), (0, 30, 20, 34)]
    assert len(cells(leave_out(out, "sheet1", spots, False, FULL))) == 4


# -- names and order -----------------------------------------------------------------------------------


def test_rows_give_their_cells_a_name() -> None:
    project = cut()
    ids = [c.id for c in cells(project)]
    after = name_rows(project, "sheet1", ids, ["idle", " walk "])
    names = [c.name for c in cells(after)]
    assert names[:8] == ["idle_0", "idle_1", "idle_2", "idle_3", "walk_0", "walk_1", "walk_2", "walk_3"]
    assert names[8:] == [c.name for c in cells(project)][8:]
    with pytest.raises(EditError, match="more than the 4 rows"):
        name_rows(project, "sheet1", ids, list("abcde"))
    with pytest.raises(EditError, match="between two commas"):
        name_rows(project, "sheet1", ids, ["a", ""])


def test_ragged_rows_count_as_rows_in_a_pattern() -> None:
    project = project_with(sheet_of_size(64, 64))
    for rect in ((0, 0, 10, 20), (20, 3, 10, 15), (0, 30, 10, 10)):
        project, _made = hand.draw_cell(project, "sheet1", rect)
    after = name_cells(project, "sheet1", [c.id for c in cells(project)], "{row}-{col}")
    assert [c.name for c in cells(after)] == ["0-0", "0-1", "1-0"]


def test_cells_are_put_in_natural_and_in_reading_order() -> None:
    project = project_with(sheet_of_size(64, 64))
    for rect in ((40, 0, 4, 4), (0, 0, 4, 4), (0, 40, 4, 4)):
        project, _made = hand.draw_cell(project, "sheet1", rect)
    for cell, name in zip(cells(project), ("run_10", "run_2", "run_1"), strict=True):
        project = name_cells(project, "sheet1", [cell.id], name)
    by_name = hand.order_cells(project, "sheet1", natural_order(project.sheets[0]))
    assert [c.name for c in cells(by_name)] == ["run_1", "run_2", "run_10"]
    by_place = hand.order_cells(by_name, "sheet1", reading_order_ids(by_name.sheets[0]))
    assert [c.name for c in cells(by_place)] == ["run_2", "run_10", "run_1"]


# -- seams ---------------------------------------------------------------------------------------------


def test_pulling_the_edges_in_takes_a_border_of_the_neighbours_away() -> None:
    tile = np.full((12, 12, 4), 255, np.uint8)
    tile[..., :3] = 90
    tile[:, 0, :3] = 250  # a column that belongs to another tile
    assert not seam(tile, 0).seamless
    assert seamless_within(tile) == 1
    assert seamless_within(tile[:, 1:]) == 0
    grid = GridCut((12, 12), (1, 1), (2, 2))
    assert pulled_in(grid, 1) == GridCut((10, 10), (2, 2), (4, 4))
    assert pulled_in(pulled_in(grid, 1), -1) == grid
    with pytest.raises(CutError, match="overlap"):
        pulled_in(GridCut((12, 12)), -1)
    with pytest.raises(CutError, match="cannot be pulled in"):
        pulled_in(GridCut((4, 12)), 2)
