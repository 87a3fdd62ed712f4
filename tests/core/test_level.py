"""Chunks, brushes, stamps and level edits."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rushweed.core.document.edit import level_of, remove_sheet
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import CHUNK, Level, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.brush import flood, line, rectangle
from rushweed.core.level.caution import caution
from rushweed.core.level.chunks import FARTHEST, cell_at, changed_chunks, put, put_region, region, used_values
from rushweed.core.level.edit import (
    erase,
    erase_gone,
    fill,
    fill_spots,
    gone_tiles,
    paint,
    paint_pattern,
    rearrange_region,
    take,
)
from rushweed.core.level.layers import add_backdrop, add_layer, change_layer, move_layer, remove_layer
from rushweed.core.level.levels import add_level, resize
from rushweed.core.level.render import TileSet, level_picture
from rushweed.core.level.stamp import (
    Stamp,
    flip_orientation,
    from_grid,
    from_level,
    mirror_orientation,
    orient,
    single,
    turn_orientation,
)
from rushweed.core.pixels.cache import PixelCache
from tests.conftest import named, project_with, sheet_of_size


@pytest.fixture
def small() -> tuple[Project, str, str]:
    """A project with four tiles t0..t3 of 8 px and a level of 10 x 6 cells with one layer."""
    cells = tuple(Cell(f"t{i}", f"t{i}", (i * 8, 0, 8, 8), (0, 0)) for i in range(4))
    project, level = add_level(project_with(sheet_of_size(32, 8, cells=cells)), "quay", (8, 8), size=(10, 6))
    return project, level, level_of(project, level).layers[0].id


def at(*spots: tuple[int, int]) -> tuple[np.ndarray, np.ndarray]:
    return np.array([x for x, _ in spots]), np.array([y for _, y in spots])


def held(project: Project, level: str, layer: str) -> np.ndarray:
    made = level_of(project, level)
    return take(project, level, layer, made.bounds)


@settings(max_examples=60)
@given(st.lists(st.tuples(st.integers(-90, 90), st.integers(-90, 90), st.integers(0, 9)), max_size=60))
def test_chunks_hold_what_was_put_wherever_it_was(puts: list[tuple[int, int, int]]) -> None:
    tiles, model = Tiles(), {}
    for x, y, value in puts:
        tiles = put(tiles, np.array([x]), np.array([y]), np.array([value], np.uint32))
        model[x, y] = value
    for (x, y), value in model.items():
        assert cell_at(tiles, x, y) == value
    area = region(tiles, -95, -95, 190, 190)
    assert int((area > 0).sum()) == sum(v > 0 for v in model.values())
    assert used_values(tiles).tolist() == sorted({v for v in model.values() if v})


def test_a_stroke_copies_only_the_chunk_it_touches() -> None:
    tiles = put_region(Tiles(), 0, 0, np.ones((4 * CHUNK, 4 * CHUNK), np.uint32))
    made = put(tiles, np.array([40]), np.array([70]), np.array([5], np.uint32))
    assert changed_chunks(tiles, made) == [(1, 2)]
    assert sum(a is b for a, b in zip(tiles.chunks, made.chunks, strict=True)) == 15
    assert put(made, np.array([40]), np.array([70]), np.array([5], np.uint32)) is made
    assert not made.chunks[0].cells.flags.writeable


def test_the_last_value_for_a_cell_named_twice_holds() -> None:
    tiles = put(Tiles(), np.array([1, 1]), np.array([1, 1]), np.array([3, 4], np.uint32))
    assert cell_at(tiles, 1, 1) == 4


@given(*[st.integers(-30, 30)] * 4)
def test_a_line_is_joined_ends_where_it_should_and_names_no_cell_twice(
    x0: int, y0: int, x1: int, y1: int
) -> None:
    xs, ys = line(x0, y0, x1, y1)
    assert (xs[0], ys[0], xs[-1], ys[-1]) == (x0, y0, x1, y1)
    assert np.abs(np.diff(xs)).max(initial=0) <= 1 and np.abs(np.diff(ys)).max(initial=0) <= 1
    assert len(set(zip(xs.tolist(), ys.tolist(), strict=True))) == len(xs)


def test_rectangles_whole_and_outline() -> None:
    assert rectangle(3, 2, 1, 1)[0].size == 6
    xs, ys = rectangle(0, 0, 4, 3, outline=True)
    assert xs.size == 14 and not ((xs == 2) & (ys == 1)).any()


def test_flood_stops_at_other_tiles_and_does_not_cross_corners() -> None:
    cells = np.array([[0, 1, 0], [1, 0, 0], [0, 0, 1]])
    assert flood(cells, 0, 0).tolist() == [[True, False, False], [False] * 3, [False] * 3]
    assert flood(cells, 1, 1).sum() == 5


def test_orientations_form_the_eight_of_the_square() -> None:
    tile = np.arange(9).reshape(3, 3)
    for o in range(8):
        assert (orient(tile, turn_orientation(o)) == np.rot90(orient(tile, o), -1)).all()
        assert (orient(tile, mirror_orientation(o)) == orient(tile, o)[:, ::-1]).all()
        assert (orient(tile, flip_orientation(o)) == orient(tile, o)[::-1]).all()


def test_painting_fills_the_table_and_the_level_grows_in_any_direction(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = paint(project, level, layer, single("t2"), at((0, 0), (12, 2)))
    project = paint(project, level, layer, single("t1"), at((-3, -2)))
    made = level_of(project, level)
    assert made.table == ("t2", "t1") and made.bounds == (-3, -2, 16, 8)
    cells = held(project, level, layer)
    assert (cells[2, 3], cells[4, 15], cells[0, 0]) == (8, 8, 16)
    with pytest.raises(EditError):
        paint(project, level, layer, single("t1"), at((FARTHEST + 1, 0)))


def test_a_large_stamp_leaves_its_empty_places_alone(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = paint(project, level, layer, single("t0"), rectangle(0, 0, 9, 5))
    project = paint(project, level, layer, from_grid([["t1", None], [None, "t2"]]), at((2, 2)))
    cells = held(project, level, layer) >> 3
    assert cells[2:4, 2:4].tolist() == [[2, 1], [1, 3]]


def test_a_stamp_taken_from_the_level_paints_the_same_again_turned(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = paint(project, level, layer, from_grid([["t0", "t1", "t2"]]), at((0, 0)))
    stamp = from_level(level_of(project, level).table, take(project, level, layer, (0, 0, 3, 1)))
    project = paint(project, level, layer, stamp.turned(), at((5, 1)))
    cells = held(project, level, layer)
    assert cells[1:4, 5].tolist() == [8 + 1, 16 + 1, 24 + 1]
    assert stamp.mirrored().mirrored().slots.tolist() == stamp.slots.tolist()
    assert stamp.turned().size == (1, 3)


def test_fill_reaches_joined_cells_and_replace_all_alike(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = paint(project, level, layer, single("t0"), line(4, 0, 4, 5))
    filled = fill(project, level, layer, single("t1"), (0, 0))
    assert (held(filled, level, layer)[:, :4] >> 3 == 2).all()
    assert (held(filled, level, layer)[:, 5:] == 0).all()
    everywhere = fill(project, level, layer, single("t1"), (0, 0), everywhere=True)
    assert (held(everywhere, level, layer) >> 3 == 2).sum() == 54
    assert not held(fill(filled, level, layer, None, (0, 0)), level, layer)[:, :4].any()
    checked = held(fill(project, level, layer, from_grid([["t1", "t2"]]), (0, 0)), level, layer) >> 3
    assert checked[2, :4].tolist() == [2, 3, 2, 3]
    holes = held(fill(project, level, layer, from_grid([["t1", None]]), (0, 0)), level, layer) >> 3
    assert holes[2, :4].tolist() == [2, 0, 2, 0]
    spots = fill_spots(project, level, layer, (0, 0))
    some = held(paint_pattern(project, level, layer, from_grid([["t1", "t2"]]), spots, 3), level, layer) >> 3
    assert set(np.unique(some[:, :4]).tolist()) == {2, 3}
    with pytest.raises(EditError):
        fill(project, level, layer, single("t1"), (99, 0))


def test_a_pattern_repeats_from_the_level_and_scatter_follows_the_stamp(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    stamp = from_grid([["t0", "t1"]])
    made = held(paint_pattern(project, level, layer, stamp, rectangle(1, 1, 6, 1)), level, layer) >> 3
    assert made[1, 1:7].tolist() == [2, 1, 2, 1, 2, 1]
    spots = rectangle(0, 0, 99, 99)
    often = from_grid([["t0", "t0"], ["t0", "t1"]])
    some = held(paint_pattern(project, level, layer, often, spots, 7), level, layer) >> 3
    assert 0.70 < (some == 1).mean() < 0.80
    again = held(paint_pattern(project, level, layer, often, spots, 7), level, layer) >> 3
    assert (some == again).all()


def test_erasing_does_not_grow_the_level(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = paint(project, level, layer, single("t0"), at((1, 1)))
    made = erase(project, level, layer, at((1, 1), (50, 50)))
    assert not held(made, level, layer).any() and level_of(made, level).bounds == (0, 0, 10, 6)
    assert erase(made, level, layer, at((1, 1))) is made


def test_areas_mirror_and_turn(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = paint(project, level, layer, from_grid([["t0", "t1"], ["t2", "t3"]]), at((0, 0)))
    turned, area = rearrange_region(project, level, layer, (0, 0, 2, 2), "turn")
    cells = held(turned, level, layer)[:2, :2]
    assert (cells >> 3).tolist() == [[3, 1], [4, 2]] and set((cells & 7).ravel().tolist()) == {1}
    assert area == (0, 0, 2, 2)


def test_locked_layers_backdrops_and_wrong_sizes_are_refused(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    level = project.levels[0]
    tile = named(project, "boardwalk.png").cells[0].id
    locked = change_layer(project, level.id, level.layers[2].id, locked=True)
    with pytest.raises(EditError, match="locked"):
        paint(locked, level.id, level.layers[2].id, single(tile), at((0, 0)))
    with pytest.raises(EditError, match="holds no tiles"):
        paint(project, level.id, level.layers[0].id, single(tile), at((0, 0)))
    with pytest.raises(EditError, match="24 x 32"):
        paint(
            project, level.id, level.layers[2].id, single(named(project, "wren.png").cells[0].id), at((0, 0))
        )
    with pytest.raises(EditError):
        paint(project, level.id, level.layers[2].id, single("nowhere"), at((0, 0)))


def test_layers_are_added_moved_renamed_and_removed(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project, upper = add_layer(project, level, "Ground")
    assert [x.name for x in level_of(project, level).layers] == ["Ground", "Ground_2"]
    project = move_layer(project, level, upper, -1)
    assert [x.id for x in level_of(project, level).layers] == [upper, layer]
    assert move_layer(project, level, upper, -5) is project
    project = change_layer(project, level, upper, name="Far", opacity_percent=40)
    with pytest.raises(EditError):
        change_layer(project, level, upper, opacity_percent=140)
    project = remove_layer(project, level, layer)
    with pytest.raises(EditError):
        remove_layer(project, level, upper)


def test_a_level_is_resized_from_any_side_and_what_is_outside_goes(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = paint(project, level, layer, single("t0"), rectangle(0, 0, 9, 5))
    grown = resize(project, level, 2, 1, 3, 0)
    assert level_of(grown, level).bounds == (-2, -1, 15, 7)
    assert (held(grown, level, layer) > 0).sum() == 60
    small_again = resize(project, level, -4, 0, -1, -2)
    assert level_of(small_again, level).bounds == (4, 0, 5, 4)
    back = resize(small_again, level, 4, 0, 1, 2)
    assert (held(back, level, layer) > 0).sum() == 20
    with pytest.raises(EditError):
        resize(project, level, -5, 0, -5, 0)


def test_a_nearer_layer_that_would_hide_the_stroke_is_named(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project, near = add_layer(project, level, "Near")
    project = paint(project, level, near, single("t0"), at((1, 1)))
    made = level_of(project, level)
    assert warned(made, layer, (1, 1)) == "behind Near" and warned(made, layer, (2, 1)) == ""
    assert warned(made, near, (1, 1)) == ""


def warned(level: Level, layer: str, *spots: tuple[int, int], erasing: bool = False) -> str:
    found = caution(level, layer, at(*spots), erasing)
    return found.short if found else ""


def test_erasing_where_only_another_layer_holds_a_tile_is_warned_of(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project, near = add_layer(project, level, "Near")
    project = paint(project, level, near, single("t0"), at((1, 1)))
    made = level_of(project, level)
    assert warned(made, layer, (1, 1), (4, 4), erasing=True) == "on Near"
    assert warned(made, layer, (4, 4), erasing=True) == "" == warned(made, near, (1, 1), erasing=True)
    found = caution(made, layer, at((1, 1)), True)
    assert found is not None and found.text("Ground") == "Ground holds nothing there, Near does."


def test_work_on_a_hidden_layer_is_warned_of(small) -> None:  # type: ignore[no-untyped-def]
    project, level, layer = small
    project = change_layer(project, level, layer, shown=False)
    found = caution(level_of(project, level), layer, at((1, 1)))
    assert found is not None and found.short == "hidden" and "hidden" in found.text("Ground")


def test_a_level_may_show_any_number_of_different_tiles() -> None:
    """The images of a tile set grow; a picture asked for at that moment is of the grown ones."""
    rng = np.random.default_rng(3)
    sheet = rng.integers(0, 255, (4, 40 * 4, 4), np.uint8)
    sheet[..., 3] = 255
    cells = tuple(Cell(f"t{i}", f"t{i}", (i * 4, 0, 4, 4), (0, 0)) for i in range(40))
    project, level = add_level(project_with(sheet_of_size(160, 4, cells=cells)), "quay", (4, 4), size=(40, 8))
    made = level_of(project, level)
    stamp = Stamp(tuple(c.id for c in cells), np.arange(1, 41)[None], np.zeros((1, 40), np.int64))
    spots = np.array([0]), np.array([0])
    for turn in range(8):
        turned = stamp._replace(turns=np.full((1, 40), turn))
        project = paint(project, level, made.layers[0].id, turned, (spots[0], spots[1] + turn))
    made = level_of(project, level)
    tiles = TileSet(project, made, lambda _s: sheet)
    picture = level_picture(project, made, lambda _s: sheet, (0, 0, 160, 32), tiles)
    for turn in range(8):
        for i in range(40):
            tile = orient(sheet[:, i * 4 : i * 4 + 4], turn)
            assert (picture[turn * 4 : turn * 4 + 4, i * 4 : i * 4 + 4] == tile).all()
    fresh = TileSet(project, made, lambda _s: sheet)
    values = [int(v) for v in used_values(made.layers[0].tiles)]  # type: ignore[union-attr]
    assert all(
        (fresh.tile(v) == orient(sheet[:, (v // 8 - 1) * 4 : v // 8 * 4], v % 8)).all() for v in values
    )


def test_tiles_whose_cell_is_gone_are_counted_and_can_be_erased(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    less = remove_sheet(project, named(project, "boardwalk.png").id)
    level = less.levels[0]
    before = sum(
        int((region(x.tiles, *level.bounds) > 0).sum()) for x in level.layers if isinstance(x, TileLayer)
    )
    assert sum(gone_tiles(less, level).values()) == before > 100
    assert not gone_tiles(project, project.levels[0])
    assert not gone_tiles(erase_gone(less, level.id), level_of(erase_gone(less, level.id), level.id))


def test_a_level_is_drawn_as_its_tiles_say_layer_over_layer(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    sheet = named(project, "marsh.png")
    art = stock.pixels(sheet)
    by_name = {c.name: c for c in sheet.cells}
    project, level = add_level(project, "test", (16, 16), size=(3, 2))
    layer = level_of(project, level).layers[0].id
    water, bloom = by_name["water_0"], by_name["loose_bloom"]
    project = paint(
        project, level, layer, Stamp((water.id,), np.ones((1, 1), int), np.full((1, 1), 1)), at((1, 1))
    )
    project, near = add_layer(project, level, "Near")
    project = paint(project, level, near, single(bloom.id), at((1, 1)))
    made: Level = level_of(project, level)
    picture = level_picture(project, made, stock.pixels, (0, 0, 48, 32))
    x, y, w, h = water.rect
    ground = np.rot90(art[y : y + h, x : x + w], -1)
    bx, by, bw, bh = bloom.rect
    over = art[by : by + bh, bx : bx + bw]
    expected = np.where(over[..., 3:] > 0, over, ground)
    assert (picture[16:32, 16:32] == expected).all()
    assert not picture[:16].any()
    part = level_picture(project, made, stock.pixels, (20, 19, 9, 7))
    assert (part == picture[19:26, 20:29]).all()


def test_a_gone_cell_draws_nothing_and_a_backdrop_repeats(demo: tuple[Project, PixelCache]) -> None:
    project, stock = demo
    level = project.levels[0]
    less = remove_sheet(project, named(project, "boardwalk.png").id)
    tiles = TileSet(less, less.levels[0], stock.pixels)
    assert not tiles.tile(8).any() and not tiles.tile(999_999).any()
    project, bare = add_level(project, "bare", (16, 16), size=(100, 10))
    project = add_backdrop(project, bare, named(project, "sky.png").id, 1.0, 0)
    picture = level_picture(project, level_of(project, bare), stock.pixels, (0, 0, 1600, 160))
    assert (picture[:, :512] == picture[:, 512:1024]).all() and picture[..., 3].min() == 255
    assert level.name == "pier"


@settings(max_examples=40)
@given(st.integers(-10, 10), st.integers(-10, 10), st.integers(0, 7))
def test_a_registered_shift_moves_the_art_of_a_tile_within_its_cell(dx: int, dy: int, turn: int) -> None:
    rng = np.random.default_rng(1)
    sheet = rng.integers(1, 255, (8, 16, 4), np.uint8)
    cells = tuple(Cell(f"t{i}", f"t{i}", (i * 8, 0, 8, 8), (0, 0), shift=(dx, dy)) for i in range(2))
    project, level = add_level(project_with(sheet_of_size(16, 8, cells=cells)), "quay", (8, 8), size=(2, 1))
    stamp = Stamp(("t1",), np.ones((1, 1), np.int64), np.full((1, 1), turn))
    project = paint(project, level, level_of(project, level).layers[0].id, stamp, at((0, 0)))
    picture = level_picture(project, level_of(project, level), lambda _s: sheet, (0, 0, 16, 8))
    wanted = np.zeros((8, 8, 4), np.uint8)
    for y in range(8):
        for x in range(8):
            if 0 <= y - dy < 8 and 0 <= x - dx < 8:
                wanted[y, x] = sheet[y - dy, 8 + x - dx]
    assert (picture[:, :8] == orient(wanted, turn)).all() and not picture[:, 8:].any()
