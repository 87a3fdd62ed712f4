"""What differs between two versions of a project, in words, by place and as pictures."""

from __future__ import annotations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.model.level import Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import put, region
from rushweed.core.level.compare import (
    changed_cells,
    changed_in,
    compare,
    difference_pictures,
    level_changes,
    side_by_side,
)
from rushweed.core.level.edit import erase, paint
from rushweed.core.level.layers import add_layer, move_layer
from rushweed.core.level.levels import set_start
from rushweed.core.level.stamp import single
from rushweed.core.level.things import place_thing
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.tune.edit import tune_sheets
from tests.conftest import named

Demo = tuple[Project, PixelCache]


def layer_of(project: Project):  # type: ignore[no-untyped-def]
    level = project.levels[0]
    return level, next(x for x in level.layers if hasattr(x, "tiles"))


def test_the_same_project_differs_in_nothing(demo: Demo) -> None:
    assert compare(demo[0], demo[0]) == []


def test_tiles_things_and_layers_are_told_in_words_with_their_place(demo: Demo) -> None:
    before = demo[0]
    level, layer = layer_of(before)
    held = region(layer.tiles, *level.bounds)
    row, column = np.argwhere(held > 0)[0]
    x, y = int(column) + level.bounds[0], int(row) + level.bounds[1]
    after = erase(before, level.id, layer.id, (np.array([x]), np.array([y])))
    after = paint(after, level.id, layer.id, single(level.table[0]), (np.array([30]), np.array([1])))
    after, _new = place_thing(after, level.id, level.table[0], (40.0, 40.0), layer.id)
    after, _new = add_layer(after, level.id, "Fog")
    after = set_start(after, level.id, 50, 60)
    (found,) = compare(before, after)
    words = found.text()
    for part in (
        f"{level.name}: ", f"1 tile painted on {layer.name}", f"1 tile erased on {layer.name}",
        "1 thing more", "new layer Fog", "another start",
    ):  # fmt: skip
        assert part in words, (part, words)
    assert found.area is not None
    left, top, columns, rows = found.area
    for cx, cy in ((x, y), (30, 1), (40 // level.cell[0], 40 // level.cell[1])):
        assert left <= cx < left + columns and top <= cy < top + rows
    moved = move_layer(before, level.id, level.layers[0].id, 1)
    assert compare(before, moved)[0].facts == ("layers in another order",)


def test_sheets_animations_and_the_project_are_told(demo: Demo) -> None:
    before = demo[0]
    wren = named(before, "wren.png")
    after = tune_sheets(before, [wren.id], ppu=48)
    cells = (replace(wren.cells[0], name="odd"), *wren.cells[1:-1])
    after = replace(
        after,
        name="Other",
        sheets=tuple(
            replace(s, cells=cells) if s.id == wren.id else s for s in after.sheets
        ),
        animations=after.animations[1:],
        autosets=after.autosets[1:],
    )  # fmt: skip
    found = {d.name: d for d in compare(before, after)}
    assert found["wren.png"].facts == ("1 cell gone", "1 cell renamed", "px per unit 16 to 48")
    assert found[before.animations[0].name].facts == ("removed",)
    assert found["Other"].facts == (f"was {before.name}", "1 auto-tile set gone")
    back = {d.name: d for d in compare(after, before)}
    assert back[before.animations[0].name].facts == ("new animation",)


def test_pictures_show_the_same_part_of_both_with_what_is_the_same_dimmed(demo: Demo) -> None:
    before = demo[0]
    level, layer = layer_of(before)
    after = paint(before, level.id, layer.id, single(level.table[0]), (np.array([30]), np.array([1])))
    pixels_of = demo[1].pixels_or_blank
    (difference,) = compare(before, after)
    old, new = difference_pictures(before, after, difference, pixels_of, pixels_of)
    assert old is not None and new is not None and old.shape == new.shape
    differs = (old != new).any(-1)
    assert difference.area is not None
    ys, xs = np.nonzero(differs)
    cw, ch = level.cell
    assert set((xs // cw + difference.area[0]).tolist()) == {30}
    assert set((ys // ch + difference.area[1]).tolist()) == {1}
    assert new[differs][:, 3].max() == 255 and new[~differs][:, 3].max() < 128
    both = side_by_side(old, new)
    assert both is not None and both.shape == (old.shape[0], old.shape[1] * 2 + 8, 4)
    assert side_by_side(None, None) is None


spots = st.lists(st.tuples(st.integers(-70, 70), st.integers(-70, 70), st.integers(0, 3)), max_size=30)


@settings(max_examples=60, deadline=None)
@given(spots, spots)
def test_changed_cells_are_exactly_those_that_differ(
    first: list[tuple[int, int, int]], second: list[tuple[int, int, int]]
) -> None:
    def painted(tiles: Tiles, cells: list[tuple[int, int, int]]) -> Tiles:
        xs, ys, values = (np.array(v, np.int64) for v in zip(*cells, strict=True)) if cells else ([],) * 3
        return put(tiles, xs, ys, values.astype(np.uint32)) if cells else tiles

    one = painted(Tiles(), first)
    two = painted(one, second)
    left, top, mask = changed_cells(one, two)
    wide = region(one, -96, -96, 192, 192) != region(two, -96, -96, 192, 192)
    assert mask.sum() == wide.sum()
    for row, column in np.argwhere(mask):
        assert wide[row + top + 96, column + left + 96]


def test_an_area_tells_its_changes_whatever_the_tables(demo: Demo) -> None:
    before = demo[0]
    level, layer = layer_of(before)
    other = next(c.id for s in before.sheets for c in s.cells if c.id not in level.table)
    spots = np.array([30, 31]), np.array([1, 1])
    after = paint(before, level.id, layer.id, single(other), spots)
    mask = changed_in(level, after.levels[0], (29, 0, 5, 3))
    assert np.argwhere(mask).tolist() == [[1, 1], [1, 2]]
    turned = replace(level, table=tuple(reversed(level.table)))
    assert changed_in(level, turned, level.bounds).any() and not changed_in(level, level, level.bounds).any()


def test_a_longer_table_alone_is_no_change_of_tiles(demo: Demo) -> None:
    level = demo[0].levels[0]
    longer = replace(level, table=("unknown", *level.table))
    _left, _top, mask = level_changes(level, level)
    assert not mask.any()
    assert level_changes(level, longer)[2].any()  # the same values now mean other tiles
