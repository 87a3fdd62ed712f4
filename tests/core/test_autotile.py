"""Sets of tiles that choose themselves."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import AutoPart, AutoSet
from rushweed.core.document.model.sheet import Cell, Sheet, Source
from rushweed.core.level.autopaint import paint_auto, rejoin, unjoined
from rushweed.core.level.brush import rectangle
from rushweed.core.level.chunks import cell_at, region
from rushweed.core.level.edit import erase, paint
from rushweed.core.level.levels import add_level
from rushweed.core.level.stamp import single
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.autotile import (
    CORNERS,
    By,
    add_set,
    case_words,
    cases,
    change_set,
    gaps,
    in_several,
    lay_template,
    reduced,
    remove_set,
    set_joins,
    set_weight,
    template,
)
from tests.conftest import named
from tests.joints import wrong_joints


def project_with(by: By, twice: bool = False) -> tuple[Project, AutoSet, str, str]:
    """A project with a complete set (and a second tile for each case), a level and its layer."""
    wanted = list(cases(by)) * (2 if twice else 1)
    cells = tuple(Cell(f"c{i}", f"c{i}", (i * 8, 0, 8, 8), (0, 0)) for i in range(len(wanted)))
    sheet = Sheet("s", "s.png", Source("art/s.png", "0", (8 * len(cells), 8)), cells=cells)
    autoset = AutoSet("a", "a", by, tuple(AutoPart(c.id, m) for c, m in zip(cells, wanted, strict=True)))
    project = Project("p", "p", (sheet,), autosets=(autoset,))
    project, level = add_level(project, "l", (8, 8), size=(12, 9))
    return project, autoset, level, project.levels[0].layers[0].id


def held(project: Project, autoset: AutoSet) -> dict[tuple[int, int], int]:
    """Which case stands where."""
    level = project.levels[0]
    layer = level.layers[0]
    assert isinstance(layer, TileLayer)
    case_of = {p.cell: p.joins for p in autoset.tiles}
    left, top, columns, rows = level.bounds
    cells = region(layer.tiles, left, top, columns, rows) >> 3
    return {
        (x + left, y + top): case_of[level.table[cells[y, x] - 1]]
        for y, x in zip(*np.nonzero(cells), strict=True)
    }


@pytest.mark.parametrize(("by", "count"), [("edges", 16), ("corners", 16), ("both", 47)])
def test_a_set_has_as_many_cases_as_its_kind_and_the_template_holds_each_once(by: By, count: int) -> None:
    assert len(cases(by)) == count
    laid = [case for row in template(by) for case in row if case is not None]
    assert sorted(laid) == sorted(cases(by))


def test_a_corner_counts_by_both_only_between_two_sides_that_join() -> None:
    table = reduced("both")
    assert table[2] == 0 and table[1 | 2] == 1 and table[1 | 2 | 4] == 7 and table[255] == 255
    assert set(reduced("edges").tolist()) == set(cases("edges"))


@pytest.mark.parametrize("by", ["edges", "corners", "both"])
@settings(max_examples=40, deadline=None)
@given(st.integers(0, 2**31))
def test_random_maps_have_no_wrong_joint_when_the_set_is_complete(by: By, seed: int) -> None:
    rng = np.random.default_rng(seed)
    project, autoset, level, layer = project_with(by)
    for _ in range(int(rng.integers(1, 5))):
        count = int(rng.integers(1, 30))
        spots = rng.integers(0, 12, count), rng.integers(0, 9, count)
        project = paint_auto(project, level, layer, autoset, spots, on=bool(rng.random() < 0.75))
        assert wrong_joints(project, level, layer, autoset) == []


@pytest.mark.parametrize("by", ["edges", "both"])
def test_a_block_gets_its_rim_and_a_hole_gets_one_again(by: By) -> None:
    project, autoset, level, layer = project_with(by)
    ys, xs = (v.ravel() for v in np.mgrid[2:6, 3:8])
    project = paint_auto(project, level, layer, autoset, (xs, ys))
    found = held(project, autoset)
    assert len(found) == 20 and found[(5, 4)] == {"edges": 85, "both": 255}[by]
    assert found[(3, 2)] & 85 == 4 | 16 and found[(7, 5)] & 85 == 1 | 64
    project = paint_auto(project, level, layer, autoset, (np.array([5]), np.array([4])), on=False)
    found = held(project, autoset)
    assert (5, 4) not in found and not found[(4, 4)] & 4 and not found[(5, 3)] & 16
    if by == "both":
        assert not found[(4, 3)] & 8 and found[(4, 3)] & 4


def test_by_corners_one_cell_draws_the_shore_around_it() -> None:
    project, autoset, level, layer = project_with("corners")
    project = paint_auto(project, level, layer, autoset, (np.array([5]), np.array([4])))
    found = held(project, autoset)
    assert found[(5, 4)] == 170 and len(found) == 9
    assert found[(4, 3)] == 8 and found[(6, 5)] == 128 and found[(5, 3)] == 8 | 32
    project = paint_auto(project, level, layer, autoset, (np.array([5]), np.array([4])), on=False)
    assert set(held(project, autoset).values()) == {0}  # the set has a tile for no corner


def test_of_several_tiles_the_heavier_comes_more_often_and_each_place_keeps_its_own() -> None:
    project, autoset, level, layer = project_with("edges", twice=True)
    project = set_weight(project, "a", [f"c{i}" for i in range(16, 32)], 3)
    autoset = project.autosets[0]
    ys, xs = (v.ravel() for v in np.mgrid[0:60, 0:60])
    one = paint_auto(project, level, layer, autoset, (xs, ys))
    tiles = one.levels[0].layers[0]
    assert isinstance(tiles, TileLayer)
    table = one.levels[0].table
    inner = [table[(cell_at(tiles.tiles, x, y) >> 3) - 1] for x in range(1, 59) for y in range(1, 59)]
    share = sum(int(name[1:]) >= 16 for name in inner) / len(inner)
    assert len(set(inner)) == 2 and 0.7 < share < 0.8
    order = np.random.default_rng(0).permutation(len(xs))
    other = paint_auto(project, level, layer, autoset, (xs[order], ys[order]))
    again = other.levels[0].layers[0]
    assert isinstance(again, TileLayer)
    assert (region(again.tiles, 0, 0, 60, 60) >> 3 == region(tiles.tiles, 0, 0, 60, 60) >> 3).all()
    with pytest.raises(EditError, match="weight"):
        set_weight(project, "a", ["c0"], 0)


def test_a_missing_case_is_named_and_filled_by_the_nearest() -> None:
    project, autoset, level, layer = project_with("edges")
    project = set_joins(project, "a", "c15", None)
    assert (
        gaps(project.autosets[0]) == (85,) and case_words(85, "edges") == "above and right and below and left"
    )
    ys, xs = (v.ravel() for v in np.mgrid[0:3, 0:3])
    project = paint_auto(project, level, layer, project.autosets[0], (xs, ys))
    assert held(project, autoset)[(1, 1)].bit_count() == 3
    assert wrong_joints(project, level, layer, project.autosets[0]) == [(1, 1)]
    with pytest.raises(EditError, match="no tiles"):
        paint_auto(project, level, layer, AutoSet("b", "b"), (xs, ys))


def test_tiles_of_several_sets_are_found() -> None:
    project, _set, _level, _layer = project_with("edges")
    project, other = add_set(project, "a", "corners")
    assert other.name == "a_2"
    project = set_joins(project, other.id, "c3", 255)
    assert project.autosets[1].tiles == (AutoPart("c3", 170),)
    assert in_several(project) == {"c3": ["a", "a_2"]}
    assert not in_several(remove_set(project, other.id))


def test_sets_are_named_counted_otherwise_and_refuse_what_is_wrong() -> None:
    project, _set, _level, _layer = project_with("both")
    made = change_set(project, "a", by="edges", name="shore")
    assert {p.joins for p in made.autosets[0].tiles} == set(cases("edges")) and made.autosets[
        0
    ].name == "shore"
    with pytest.raises(EditError):
        change_set(project, "a", name=" ")
    with pytest.raises(EditError):
        change_set(project, "nobody", name="x")
    with pytest.raises(EditError):
        set_joins(project, "a", "nobody", 1)


def test_the_template_is_laid_on_the_sheet_from_any_cell(demo: tuple[Project, PixelCache]) -> None:
    project, _stock = demo
    assert [gaps(s) for s in project.autosets] == [(), (), ()]
    marsh = named(project, "marsh.png")
    project, made = add_set(project, "once more", "corners")
    first = next(c.id for c in marsh.cells if c.name == "grass_00")
    project = lay_template(project, made.id, marsh, first)
    ours, theirs = project.autosets[-1], project.autosets[1]
    assert {p.cell: p.joins for p in ours.tiles} == {p.cell: p.joins for p in theirs.tiles}
    with pytest.raises(EditError):
        lay_template(project, made.id, marsh, "nobody")


def test_the_demo_paints_shores_that_match_their_art(demo: tuple[Project, PixelCache]) -> None:
    """Where two tiles meet, their px along the edge are of the same ground."""
    project, stock = demo
    marsh = named(project, "marsh.png")
    level = next(v for v in project.levels if v.name == "saltings")
    layer = replace(
        next(x for x in level.layers if isinstance(x, TileLayer)),
        id="new",
        tiles=type(level.layers[0].tiles)(),
    )  # type: ignore[union-attr]
    project = replace(project, levels=(replace(level, layers=(layer,)),))
    rng = np.random.default_rng(3)
    spots = rng.integers(4, 20, 40), rng.integers(4, 16, 40)
    made = paint_auto(project, level.id, "new", project.autosets[0], spots)
    assert wrong_joints(made, level.id, "new", made.autosets[0]) == []
    rgba = stock.pixels(marsh)
    by_case = {p.joins: next(c for c in marsh.cells if c.id == p.cell) for p in made.autosets[0].tiles}
    corner_px = {128: (1, 1), 2: (14, 1), 8: (14, 14), 32: (1, 14)}
    mud = {
        tuple(rgba[by_case[170].rect[1] + y, by_case[170].rect[0] + x]) for x in range(16) for y in range(16)
    }
    for case, cell in by_case.items():
        for corner in CORNERS:
            x, y = corner_px[corner]
            assert (tuple(rgba[cell.rect[1] + y, cell.rect[0] + x]) in mud) == bool(case & corner)


@pytest.mark.parametrize("by", ["edges", "both"])
def test_tiles_placed_by_hand_are_joined_only_when_asked_and_gaps_are_told(by: By) -> None:
    project, autoset, level_id, layer_id = project_with(by)
    first = single(autoset.tiles[0].cell)
    spots = rectangle(3, 3, 6, 5)
    project = paint(project, level_id, layer_id, first, spots)
    assert set(held(project, autoset).values()) == {autoset.tiles[0].joins}
    joined = rejoin(project, level_id, layer_id, autoset, rectangle(0, 0, 11, 8))
    assert held(joined, autoset) == held(
        paint_auto(erase(project, level_id, layer_id, spots), level_id, layer_id, autoset, spots), autoset
    )
    assert rejoin(joined, level_id, layer_id, autoset, rectangle(0, 0, 11, 8)) is joined
    level = joined.levels[0]
    layer = level.layers[0]
    assert isinstance(layer, TileLayer) and not len(unjoined(level, layer, autoset))
    corner = held(joined, autoset)[3, 3]
    fewer = replace(autoset, tiles=tuple(p for p in autoset.tiles if p.joins != corner))
    made = rejoin(project, level_id, layer_id, fewer, rectangle(3, 3, 6, 5))
    layer = made.levels[0].layers[0]
    assert isinstance(layer, TileLayer)
    assert unjoined(made.levels[0], layer, fewer).tolist() == [[3, 3]]


@pytest.mark.parametrize("by", ["edges", "both"])
def test_a_stroke_beside_tiles_placed_by_hand_leaves_them(by: By) -> None:
    project, autoset, level_id, layer_id = project_with(by)
    project = paint_auto(project, level_id, layer_id, autoset, rectangle(2, 2, 8, 5))
    odd = autoset.tiles[0]
    project = paint(project, level_id, layer_id, single(odd.cell), (np.array([4]), np.array([5])))
    made = paint_auto(project, level_id, layer_id, autoset, rectangle(3, 6, 5, 7))
    assert held(made, autoset)[4, 5] == odd.joins
    joined = rejoin(made, level_id, layer_id, autoset, rectangle(2, 2, 8, 7))
    assert held(joined, autoset)[4, 5] != odd.joins
    fresh = paint_auto(project, level_id, layer_id, autoset, rectangle(2, 2, 8, 5))
    fresh = paint_auto(fresh, level_id, layer_id, autoset, rectangle(3, 6, 5, 7))
    assert held(joined, autoset) == held(fresh, autoset)
