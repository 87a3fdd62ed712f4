"""Rooms of a level, whole levels and their layers."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rushweed.core.document.edit import level_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import FORMAT, Project
from rushweed.core.level.layers import (
    add_layer,
    add_picture,
    add_thing_layer,
    change_layer,
    place_layer,
    show_alone,
)
from rushweed.core.level.levels import add_level, change_level, duplicate_level, move_level
from rushweed.core.level.rooms import (
    add_room,
    change_room,
    remove_room,
    room_at,
    room_faults,
    room_of_thing,
    shared,
    snapped,
)
from rushweed.core.level.things import place_thing
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.store.folder import Folder

Demo = tuple[Project, PixelCache]


def house() -> tuple[Project, str]:
    project, level_id = add_level(Project("p", "P"), "house", (16, 16), size=(60, 30))
    for name, area in (("hall", (0, 0, 20, 15)), ("cellar", (0, 15, 20, 15)), ("tower", (22, 0, 10, 30))):
        project, _made = add_room(project, level_id, area, name)
    return project, level_id


def test_rooms_do_not_lie_over_one_another_unless_wished() -> None:
    project, level_id = house()
    with pytest.raises(EditError, match="cave would lie over hall"):
        add_room(project, level_id, (10, 5, 5, 5), "cave")
    wished, _made = add_room(project, level_id, (10, 5, 5, 5), "cave", overlap=True)
    faults = room_faults(level_of(wished, level_id))
    assert [(f.what, f.rooms, f.area) for f in faults if f.what == "overlap"] == [
        ("overlap", ("hall", "cave"), (10, 5, 5, 5))
    ]
    hall = level_of(project, level_id).rooms[0]
    with pytest.raises(EditError, match="lie over"):
        change_room(project, level_id, hall.id, area=(1, 0, 20, 16))
    assert change_room(project, level_id, hall.id, name="hall") is project


def test_narrow_gaps_are_told_and_wide_ones_are_not() -> None:
    project, level_id = house()
    gaps = [f for f in room_faults(level_of(project, level_id)) if f.what == "gap"]
    assert {(f.rooms, f.area) for f in gaps} == {
        (("hall", "tower"), (20, 0, 2, 15)), (("cellar", "tower"), (20, 15, 2, 15)),
    }  # fmt: skip
    project, _made = add_room(project, level_id, (20, 0, 2, 30), "stairs")
    assert room_faults(level_of(project, level_id)) == []


def test_a_thing_belongs_to_the_room_it_stands_in(demo: Demo) -> None:
    project = demo[0]
    level = project.levels[0]
    thing = level.things[0]
    cell = (int(thing.at[0] // 16), int(thing.at[1] // 16))
    project, made = add_room(project, level.id, (cell[0] - 2, cell[1] - 2, 5, 5), "nest", overlap=True)
    found = room_of_thing(level_of(project, level.id), thing.id)
    assert found is not None and found.id == made
    assert room_at(level_of(project, level.id), -5000, 0) is None
    project = remove_room(project, level.id, made)
    assert thing in level_of(project, level.id).things


def test_rooms_snap_to_one_another_and_the_level() -> None:
    level = level_of(*house())
    assert snapped(level, (33, 1, 20, 28)) == (32, 0, 21, 30)
    assert snapped(level, (40, 5, 5, 5)) == (40, 5, 5, 5)


areas = st.tuples(st.integers(-20, 40), st.integers(-20, 40), st.integers(1, 20), st.integers(1, 20))


@settings(max_examples=100, deadline=None)
@given(st.lists(areas, min_size=1, max_size=6))
def test_overlaps_told_are_exactly_those_there_are(drawn: list[tuple[int, int, int, int]]) -> None:
    project, level_id = add_level(Project("p", "P"), "house", (16, 16))
    for n, area in enumerate(drawn):
        project, _made = add_room(project, level_id, area, f"r{n}", overlap=True)
    told = {f.rooms: f.area for f in room_faults(level_of(project, level_id)) if f.what == "overlap"}
    for n, a in enumerate(drawn):
        for m in range(n + 1, len(drawn)):
            cells = {(x, y) for x in range(a[0], a[0] + a[2]) for y in range(a[1], a[1] + a[3])}
            b = drawn[m]
            both = {c for c in cells if b[0] <= c[0] < b[0] + b[2] and b[1] <= c[1] < b[1] + b[3]}
            area = told.get((f"r{n}", f"r{m}"))
            assert bool(both) == (area is not None)
            if area is not None:
                assert len(both) == area[2] * area[3] and area == shared(a, b)


def test_rooms_layers_and_settings_are_saved_and_opened_again(demo_folder: Path) -> None:
    folder = Folder(demo_folder)
    project = folder.open()
    level = project.levels[0]
    project, room = add_room(project, level.id, (0, 0, 8, 8), "nook", overlap=True)
    project = change_room(project, level.id, room, camera="across")
    project = change_level(project, level.id, view="free", order="foot", group="coast", board=(160, -32))
    project, things = add_thing_layer(project, level.id, "Birds")
    project = add_picture(project, level.id, project.sheets[0].id, (12, -7))
    tiles = next(x.id for x in level.layers if hasattr(x, "tiles"))
    look = {"tint": (200, 100, 50), "parallax": 0.5, "parallax_y": 1.0, "offset": (3.0, 4.0), "front": True}
    project = change_layer(project, level.id, tiles, solid=False, **look)
    folder.save(project)
    again = Folder(demo_folder).open().levels[0]
    mine = level_of(project, level.id)
    assert again.rooms == mine.rooms and (again.view, again.order, again.group, again.board) == (
        "free", "foot", "coast", (160, -32),
    )  # fmt: skip
    for old, new in zip(mine.layers, again.layers, strict=True):
        for field in old.__struct_fields__:
            if field != "tiles":
                assert getattr(old, field) == getattr(new, field), field
    assert {type(x).__name__ for x in again.layers} >= {"ThingLayer", "PictureLayer", "TileLayer"}
    assert not next(x for x in again.layers if x.id == tiles).collides and things in {
        x.id for x in again.layers
    }


def test_layers_are_placed_and_shown_alone(demo: Demo) -> None:
    project = demo[0]
    level = project.levels[0]
    project, made = add_layer(project, level.id, "Fog")
    project = place_layer(project, level.id, made, 0)
    assert level_of(project, level.id).layers[0].id == made
    alone = show_alone(project, level.id, made)
    assert [x.shown for x in level_of(alone, level.id).layers] == [True] + [False] * len(level.layers)
    assert all(x.shown for x in level_of(show_alone(alone, level.id, made), level.id).layers)
    with pytest.raises(EditError, match="has no drift"):
        change_layer(project, level.id, made, drift=(1.0, 0.0))
    with pytest.raises(EditError, match="Parallax"):
        change_layer(project, level.id, made, parallax=9.0)


def test_levels_are_copied_whole_and_ordered(demo: Demo) -> None:
    project = demo[0]
    level = project.levels[0]
    project, room = add_room(project, level.id, (0, 0, 4, 4), "nook", overlap=True)
    project, copy_id = duplicate_level(project, level.id)
    copy, old = level_of(project, copy_id), level_of(project, level.id)
    assert [v.id for v in project.levels[:2]] == [level.id, copy_id] and copy.name != old.name
    parts = ("layers", "things", "rooms")
    ids = [{p.id for kind in parts for p in getattr(v, kind)} for v in (copy, old)]
    assert ids[0].isdisjoint(ids[1]) and len(ids[0]) == len(ids[1])
    assert {t.layer for t in copy.things} <= {x.id for x in copy.layers}
    changed, _made = place_thing(project, copy_id, old.things[0].shows, (0.0, 0.0), copy.layers[-1].id)
    assert level_of(changed, level.id) is old
    assert [v.id for v in move_level(project, copy_id, -1).levels[:2]] == [copy_id, level.id]
    assert move_level(project, level.id, -5) is project


@pytest.mark.parametrize(
    "fields", [{"view": "round"}, {"order": "size"}, {"board": (1,)}, {"cell": (8, 8)}, {"group": 5}]
)
def test_impossible_settings_of_levels_are_refused(fields: dict[str, object]) -> None:
    project, level_id = house()
    with pytest.raises(EditError, match="cannot have"):
        change_level(project, level_id, **fields)


def test_levels_of_the_former_format_are_read(demo_folder: Path) -> None:
    """A level as the former Rushweed wrote it: no rooms, no new fields, and the head says format 2."""
    head = demo_folder / "rushweed.json"
    head.write_text(head.read_text().replace(f'"format": {FORMAT}', '"format": 2'))
    path = demo_folder / "levels" / "saltings.json"
    data = json.loads(path.read_text())
    for name in ("rooms", "order"):
        del data[name]
    path.write_text(json.dumps(data))
    opened = next(v for v in Folder(demo_folder).open().levels if v.name == "saltings")
    assert opened.rooms == () and opened.order == "layer"
