"""Kept stamps, the clipboard, and work on many cells of a level at once."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.edit import level_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.chunks import cell_at, region
from rushweed.core.level.clipboard import from_text, holds_tiles, to_text
from rushweed.core.level.edit import erase, paint
from rushweed.core.level.kept import (
    area_stamp,
    as_stamp,
    brush_stamp,
    keep,
    put_stamp,
    remove_stamp,
    rename_stamp,
    size_of,
)
from rushweed.core.level.layers import add_layer, change_layer
from rushweed.core.level.levels import add_level
from rushweed.core.level.stamp import Stamp, from_grid, from_level, single
from rushweed.core.level.things import place_thing
from rushweed.core.level.wide import (
    Selected,
    fill_holes,
    inside_outline,
    middle_of,
    move_selected,
    places_of,
    rectangle_of,
    reflections,
    replace_sheet,
    replace_tile,
    same_tiles,
    tiles_with_trait,
    trimmed,
)
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.traits import tell
from tests.conftest import project_with, sheet_of_size

Demo = tuple[Project, PixelCache]
CELLS = tuple(Cell(f"c{i}", f"t{i}", (i * 8, 0, 8, 8), (0, 0)) for i in range(6))


def ground() -> tuple[Project, str, str]:
    """An empty level of 12 x 10 cells with one layer, and six tiles."""
    project, level_id = add_level(
        project_with(sheet_of_size(48, 8, cells=CELLS)), "quay", (8, 8), size=(12, 10)
    )
    return project, level_id, level_of(project, level_id).layers[0].id


def at(project: Project, level_id: str, layer_id: str, x: int, y: int) -> str:
    level = level_of(project, level_id)
    layer = next(v for v in level.layers if v.id == layer_id)
    assert isinstance(layer, TileLayer)
    value = cell_at(layer.tiles, x, y)
    return f"{level.table[(value >> 3) - 1]}.{value & 7}" if value else ""


def put(
    project: Project, level_id: str, layer_id: str, cell: str, *spots: tuple[int, int], turn: int = 0
) -> Project:
    xs, ys = (np.array(v) for v in zip(*spots, strict=True))
    stamp = Stamp((cell,), np.array([[1]]), np.array([[turn]]))
    return paint(project, level_id, layer_id, stamp, (xs, ys))


def test_an_area_over_several_layers_with_its_things_is_kept_and_put_elsewhere() -> None:
    project, level_id, low = ground()
    project, high = add_layer(project, level_id, "High")
    project = put(project, level_id, low, "c0", (1, 1), (2, 1))
    project = put(project, level_id, high, "c1", (2, 2), turn=5)
    project, _made = place_thing(project, level_id, "c2", (20.0, 20.0), high)
    project, kept = keep(project, area_stamp(project, level_id, (1, 1, 2, 2), (low, high)), "arch")
    assert kept.name == "arch" and size_of(kept) == (2, 2) and as_stamp(kept) is None
    assert [p.layer for p in kept.parts] == ["Ground", "High"] and kept.things[0].at == (12.0, 12.0)
    made = put_stamp(project, level_id, kept, 6, 5, low)
    assert at(made, level_id, low, 6, 5) == at(made, level_id, low, 7, 5) == "c0.0"
    assert at(made, level_id, high, 7, 6) == "c1.5" and at(made, level_id, high, 6, 5) == ""
    new = level_of(made, level_id).things[-1]
    assert new.at == (60.0, 52.0) and new.layer == high and new.id != kept.things[0].id
    other, other_id = add_level(made, "other", (8, 8))
    bare = level_of(other, other_id).layers[0].id
    made = put_stamp(other, other_id, kept, 0, 0, bare)
    assert at(made, other_id, bare, 1, 1) == "c1.5"  # no layer of that name: where one paints
    with pytest.raises(EditError, match="cannot be painted"):
        put_stamp(change_layer(project, level_id, high, locked=True), level_id, kept, 0, 0, low)


def test_a_stamp_is_kept_renamed_and_removed() -> None:
    project, _level, _layer = ground()
    stamp = from_grid([["c0", None], ["c1", "c2"]])
    project, kept = keep(project, brush_stamp(project, stamp.turned(), "Ground"), "gate")
    again = as_stamp(kept)
    assert again is not None and again.size == (2, 2) and set(again.cells) == {"c0", "c1", "c2"}
    for a, b in zip(np.argwhere(again.slots), np.argwhere(stamp.turned().slots), strict=True):
        assert (a == b).all()
    project, second = keep(project, brush_stamp(project, stamp, "Ground"), "gate")
    assert second.name != "gate"
    with pytest.raises(EditError, match="cannot be called"):
        rename_stamp(project, second.id, "gate")
    project = rename_stamp(project, second.id, "arch")
    assert [s.name for s in remove_stamp(project, kept.id).stamps] == ["arch"]
    with pytest.raises(EditError, match="nothing in the stamp"):
        brush_stamp(project, from_grid([[None]]), "Ground")


def test_what_is_copied_is_found_again_in_another_project_by_sheet_and_name() -> None:
    project, level_id, low = ground()
    project = put(project, level_id, low, "c3", (0, 0))
    kept = area_stamp(project, level_id, (0, 0, 2, 2), (low,))
    text = to_text(project, kept)
    assert holds_tiles(text) and from_text(project, text) == kept
    others = tuple(replace(c, id=f"z{i}") for i, c in enumerate(CELLS))
    other = project_with(sheet_of_size(48, 8, cells=others))
    assert from_text(other, text).table == ("z3",)
    with pytest.raises(EditError, match="no t3 of sheet.png"):
        from_text(project_with(), text)
    for broken in ("", "{", text[:-4], text.replace('"cell":[8,8]', '"cell":[0,8]'), "[" * 5000):
        with pytest.raises(EditError):
            from_text(project, broken)


def test_a_tile_is_replaced_in_the_layer_the_level_or_all_levels() -> None:
    project, level_id, low = ground()
    project, high = add_layer(project, level_id, "High")
    project, second = add_level(project, "second", (8, 8))
    layers = {(level_id, low), (level_id, high), (second, level_of(project, second).layers[0].id)}
    for level, layer in layers:
        project = put(project, level, layer, "c0", (1, 1), turn=3)
        project = put(project, level, layer, "c1", (2, 1))
    for where, count in (("layer", 1), ("level", 2), ("project", 3)):
        made = replace_tile(project, level_id, low, "c0", "c1", where)  # type: ignore[arg-type]
        assert sum(at(made, v, x, 1, 1) == "c1.3" for v, x in layers) == count
        assert all(at(made, v, x, 2, 1) == "c1.0" for v, x in layers)
    with pytest.raises(EditError, match="locked"):
        replace_tile(change_layer(project, level_id, high, locked=True), level_id, low, "c0", "c1", "level")


def test_a_sheet_is_replaced_by_another_of_the_same_cells() -> None:
    project, level_id, low = ground()
    others = tuple(replace(c, id=f"z{i}") for i, c in enumerate(CELLS))
    winter = replace(sheet_of_size(48, 8, "winter.png", cells=others), id="winter")
    project = replace(project, sheets=(*project.sheets, winter))
    project = put(project, level_id, low, "c2", (0, 0), turn=2)
    project = put(project, level_id, low, "z2", (1, 0))
    project, _made = place_thing(project, level_id, "c4", (0.0, 0.0), low)
    made = replace_sheet(project, project.sheets[0].id, "winter")
    assert at(made, level_id, low, 0, 0) == "z2.2" and at(made, level_id, low, 1, 0) == "z2.0"
    assert level_of(made, level_id).things[0].shows == "z4"
    few = replace(winter, id="few", cells=others[:3])
    with pytest.raises(EditError, match="not cut as"):
        replace_sheet(replace(project, sheets=(*project.sheets, few)), project.sheets[0].id, "few")


def test_holes_that_tiles_shut_in_are_filled_and_bays_are_not() -> None:
    project, level_id, low = ground()
    ring = [(x, y) for x in range(1, 6) for y in range(1, 5) if x in (1, 5) or y in (1, 4)]
    project = put(project, level_id, low, "c0", *ring)
    bay = [(x, y) for x in range(7, 11) for y in range(1, 5) if x in (7, 10) or y == 4]
    project = put(project, level_id, low, "c0", *bay)
    made = fill_holes(project, level_id, low, single("c1"))
    held = region(level_of(made, level_id).layers[0].tiles, 0, 0, 12, 10) >> 3  # type: ignore[union-attr]
    assert (held == 2).sum() == 6 and (held[2:4, 2:5] == 2).all()
    assert fill_holes(made, level_id, low, single("c1")) is made


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.integers(0, 11), st.integers(0, 9)), min_size=1, max_size=8),
    st.sampled_from(["across", "down", "both"]),
)
def test_what_is_painted_mirrored_is_its_own_mirror_image(spots: list[tuple[int, int]], way: str) -> None:
    project, level_id, low = ground()
    stamp = from_grid([["c0", "c1"], ["c2", None]])
    xs, ys = (np.array(v) for v in zip(*spots, strict=True))
    axes = middle_of((0, 0, 12, 10))
    for x, y in zip(xs, ys, strict=True):  # one after another, as a stroke does
        for one, (ax, ay) in reflections(stamp, (np.array([x]), np.array([y])), axes, way):  # type: ignore[arg-type]
            project = paint(project, level_id, low, one, (ax, ay))
    level = level_of(project, level_id)
    held = region(level.layers[0].tiles, -2, -2, 16, 14)  # type: ignore[union-attr]
    lone = len(spots) == 1 or len(set(spots)) == 1
    if lone and (xs[0] + 2 <= 6 or xs[0] >= 6) and (ys[0] + 2 <= 5 or ys[0] >= 5):
        whole = from_level(level.table, held)
        other = whole.mirrored() if way != "down" else whole.flipped()
        assert (whole.slots == other.slots).all()
        assert (whole.turns[whole.slots > 0] == other.turns[other.slots > 0]).all()
    assert ((held > 0) == (held > 0)[:, ::-1]).all() or way == "down" or not lone


def test_cells_are_selected_by_tile_trait_and_outline_and_moved_by_themselves() -> None:
    project, level_id, low = ground()
    project = put(project, level_id, low, "c0", (1, 1), (3, 1), (3, 4))
    project = put(project, level_id, low, "c1", (2, 1))
    level = level_of(project, level_id)
    layer = level.layers[0]
    assert isinstance(layer, TileLayer)
    chosen = same_tiles(level, layer, 3, 4)
    assert chosen is not None and chosen.area == (1, 1, 3, 4) and chosen.mask.sum() == 3
    assert same_tiles(level, layer, 9, 9) is None
    made = move_selected(project, level_id, low, chosen, (0, 2))
    assert [at(made, level_id, low, *spot) for spot in ((1, 3), (3, 3), (3, 6))] == ["c0.0"] * 3
    assert at(made, level_id, low, 2, 1) == "c1.0" and at(made, level_id, low, 1, 1) == ""
    copied = move_selected(project, level_id, low, chosen, (1, 0), copy=True)
    assert at(copied, level_id, low, 1, 1) == at(copied, level_id, low, 2, 1) == "c0.0"
    told = tell(project, ["c1"], "surface", "wood")
    found = tiles_with_trait(told, level_of(told, level_id), layer, "surface")
    assert found is not None and found.area == (2, 1, 1, 1)
    assert chosen.holds(3, 4) and not chosen.holds(2, 1) and not chosen.holds(-1, 0)


def test_an_outline_selects_the_cells_whose_middles_lie_in_it() -> None:
    square = inside_outline([(1.2, 1.2), (4.4, 1.2), (4.4, 3.6), (1.2, 3.6)])
    assert square is not None and square.area == (1, 1, 3, 3) and square.whole
    corner = inside_outline([(0, 0), (6.1, 0), (0, 6.1)])
    assert corner is not None
    wanted = np.add.outer(np.arange(6) + 0.5, np.arange(6) + 0.5) < 6.1
    assert (corner.mask == wanted[: corner.mask.shape[0], : corner.mask.shape[1]]).all()
    assert inside_outline([(0, 0), (1, 1)]) is None and inside_outline([(0, 0), (0.2, 0), (0, 0.2)]) is None


def test_masks_are_trimmed_and_tell_their_cells() -> None:
    mask = np.zeros((5, 6), bool)
    mask[2, 3] = mask[3, 4] = True
    chosen = trimmed(10, 20, mask)
    assert chosen is not None and chosen.area == (13, 22, 2, 2) and not chosen.whole
    assert set(zip(*(v.tolist() for v in chosen.spots()), strict=True)) == {(13, 22), (14, 23)}
    assert rectangle_of(1, 2, 3, 4).whole and trimmed(0, 0, np.zeros((2, 2), bool)) is None
    assert isinstance(chosen.moved(1, 1), Selected) and chosen.moved(1, 1).left == 14


def test_the_places_of_a_tile_are_all_told(demo: Demo) -> None:
    project, level_id, low = ground()
    project = put(project, level_id, low, "c0", (1, 1), (3, 7))
    level = level_of(project, level_id)
    assert places_of(level, "c0")[low].tolist() == [[1, 1], [3, 7]] and places_of(level, "c5") == {}
    spots = np.array([1, 3]), np.array([1, 7])
    assert places_of(level_of(erase(project, level_id, low, spots), level_id), "c0") == {}
