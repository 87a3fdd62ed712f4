"""What tiles, shapes and things say reaches the manifest; findings about sets and bodies; broken files."""

import json
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.animate.body import set_body
from rushweed.core.document.edit import put_level
from rushweed.core.document.errors import EditError, StoreError
from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import AutoPart, Circle
from rushweed.core.document.model.sheet import NineSlice
from rushweed.core.findings import shape as rules
from rushweed.core.findings.check import check
from rushweed.core.level.autopaint import paint_auto
from rushweed.core.level.edit import fill, fill_spots
from rushweed.core.level.layers import change_layer
from rushweed.core.level.stamp import single
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape import traits
from rushweed.core.shape.autotile import add_set, set_joins
from rushweed.core.shape.edit import role_counts, set_shapes
from rushweed.core.shape.groups import set_material
from rushweed.core.ship.build import ship
from rushweed.core.store.form import read_animation, read_sheet, sheet_text
from tests.conftest import named

Demo = tuple[Project, PixelCache]


def told(demo: Demo, tmp_path: Path, project: Project) -> dict:  # type: ignore[type-arg]
    ship(project, demo[1], tmp_path / "out")
    return json.loads((tmp_path / "out" / "manifest.json").read_text())  # type: ignore[no-any-return]


# -- the manifest ------------------------------------------------------------------------------------------


def test_traits_groups_and_materials_are_shipped(demo: Demo, tmp_path: Path) -> None:
    project, _ = demo
    project, damp = traits.add_trait(project, "damp", "yes-no")
    crate = next(c for c in named(project, "boardwalk.png").cells if c.name == "crate")
    project = traits.tell(project, [crate.id], damp.id, True)
    project = traits.tell(project, [crate.id], "over", 5)
    project = set_material(project, [crate.id], friction=0.2, bounce=0.6, group=project.groups[1].id)
    manifest = told(demo, tmp_path, project)
    assert [t["name"] for t in manifest["traits"]] == ["surface", "draw over", "entry sides", "climb", "damp"]
    assert manifest["traits"][0]["choices"] == ["wood", "grass", "mud", "water", "stone"]
    frame = next(f for f in manifest["frames"] if f["id"] == crate.id)
    assert frame["traits"] == {"damp": True, "draw over": 5}
    shape = frame["shapes"][0]
    assert (shape["friction"], shape["bounce"], shape["group"]) == (0.2, 0.6, project.groups[1].id)
    groups = {g["name"]: g for g in manifest["groups"]}
    assert groups["ground"]["ignores"] == [groups["marsh lights"]["id"]]


def test_bodies_tiles_that_play_and_things_are_shipped(demo: Demo, tmp_path: Path) -> None:
    project, _ = demo
    walk = next(a for a in project.animations if a.name == "walk")
    project = set_body(project, walk.id, (-5, -26, 10, 26))
    level = project.levels[0]
    thing = replace(level.things[0], motion="pushed", weight=7, pin=(1, -2))
    project = put_level(project, replace(level, things=(thing,)))
    manifest = told(demo, tmp_path, project)
    by_name = {a["name"]: a for a in manifest["animations"]}
    assert by_name["walk"]["body_px"] == [-5, -26, 10, 26] and "body_px" not in by_name["idle"]
    assert by_name["water"]["tile"]
    pier = json.loads((tmp_path / "out" / "levels" / "pier.json").read_text())
    made = pier["things"][0]
    assert (made["motion"], made["weight"], made["pin_px"]) == ("pushed", 7, [1, -2])


# -- findings ----------------------------------------------------------------------------------------------


def test_a_set_that_misses_a_case_is_found(demo: Demo) -> None:
    project, stock = demo
    assert not list(rules.auto_gaps(project, stock)) and not list(rules.auto_conflicts(project, stock))
    first = project.autosets[0]
    part = next(p for p in first.tiles if p.joins == 170)
    less = set_joins(project, first.id, part.cell, None)
    finding = next(rules.auto_gaps(less, stock))
    assert "mud has no tile that joins upper left" in finding.text
    assert finding.place.sheet == named(project, "marsh.png").id


def test_tiles_of_two_sets_and_of_none_are_found(demo: Demo) -> None:
    project, stock = demo
    first = project.autosets[0]
    project, other = add_set(project, "second", "edges")
    both = set_joins(project, other.id, first.tiles[0].cell, 4)
    finding = next(rules.auto_conflicts(both, stock))
    assert "more than one" in finding.text and finding.place.cells == (first.tiles[0].cell,)
    gone = replace(project, autosets=(replace(other, tiles=(AutoPart("nobody", 0),)),))
    finding = next(rules.auto_conflicts(gone, stock))
    assert finding.weight == "fault" and finding.fix is not None
    assert finding.fix.edit(gone).autosets[0].tiles == ()


def test_a_body_below_the_feet_is_found_and_ended_there(demo: Demo) -> None:
    project, stock = demo
    walk = next(a for a in project.animations if a.name == "walk")
    low = set_body(project, walk.id, (-5, -20, 10, 24))
    (finding,) = [f for f in check(low, stock) if f.rule == "body-below-feet"]
    assert "4 px below its feet" in finding.text and finding.fix is not None
    cured = finding.fix.edit(low)
    assert not [f for f in check(cured, stock) if f.rule == "body-below-feet"]
    assert next(a for a in cured.animations if a.name == "walk").body == (-5, -20, 10, 20)


def test_sheets_of_differing_units_in_one_level_are_brought_together(demo: Demo) -> None:
    project, stock = demo
    board = named(project, "boardwalk.png")
    odd = replace(board, tune=replace(board.tune, ppu=20))
    project = replace(project, sheets=tuple(odd if s is board else s for s in project.sheets))
    finding = next(f for f in check(project, stock) if f.rule == "mixed-ppu")
    assert finding.fix is not None and finding.fix.label == "All 16 px a unit"
    assert named(finding.fix.edit(project), "boardwalk.png").tune.ppu == 16


def test_the_demo_has_no_faults(demo: Demo) -> None:
    assert [f.text for f in check(*demo) if f.weight == "fault"] == []


# -- painting ----------------------------------------------------------------------------------------------


def test_a_locked_layer_or_a_backdrop_is_not_painted_on_by_a_set(demo: Demo) -> None:
    project, _ = demo
    level = next(v for v in project.levels if v.name == "saltings")
    layer = next(x for x in level.layers if isinstance(x, TileLayer))
    locked = change_layer(project, level.id, layer.id, locked=True)
    spots = (np.array([3]), np.array([3]))
    with pytest.raises(EditError, match="locked"):
        paint_auto(locked, level.id, layer.id, project.autosets[0], spots)
    pier = next(v for v in project.levels if v.name == "pier")
    with pytest.raises(EditError, match="holds no tiles"):
        paint_auto(project, pier.id, pier.layers[0].id, project.autosets[0], spots)
    nowhere = paint_auto(project, level.id, layer.id, project.autosets[0], (np.array([]), np.array([])))
    assert nowhere is project


def test_a_fill_covers_the_places_it_says(demo: Demo) -> None:
    project, _ = demo
    level = next(v for v in project.levels if v.name == "saltings")
    layer = next(x for x in level.layers if isinstance(x, TileLayer))
    xs, ys = fill_spots(project, level.id, layer.id, (0, 0))
    cell = next(c for c in named(project, "marsh.png").cells if c.name == "loose_stump")
    made = fill(project, level.id, layer.id, single(cell.id), (0, 0))
    from rushweed.core.level.chunks import cell_at

    tiles = next(x for x in made.levels[1].layers if x.id == layer.id)
    assert isinstance(tiles, TileLayer)
    wanted = made.levels[1].table.index(cell.id) + 1
    assert all(cell_at(tiles.tiles, int(x), int(y)) >> 3 == wanted for x, y in zip(xs, ys, strict=True))
    with pytest.raises(EditError, match="inside the level"):
        fill_spots(project, level.id, layer.id, (-1, 0))


def test_roles_are_counted_by_cells(demo: Demo) -> None:
    project, _ = demo
    ids = [c.id for c in named(project, "wren.png").cells[:2]]
    made = set_shapes(project, ids, (Circle(4, 4, 2, "sensor"), Circle(9, 9, 2, "sensor"), Circle(5, 5, 2)))
    assert role_counts(named(made, "wren.png")) == {"sensor": 2, "solid": 2}


# -- broken files ------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"tune": {"gutter": 99}}, "gutter or page size"),
        ({"tune": {"limit": -4}}, "gutter or page size"),
        ({"tune": {"codec": "zip"}}, "codec"),
        ({"tune": {"ppu": 0}}, "pixels per unit"),
    ],
)
def test_impossible_settings_in_a_file_are_told(demo: Demo, change: dict, words: str) -> None:  # type: ignore[type-arg]
    body = json.loads(sheet_text(named(demo[0], "panel.png")))
    body["tune"] = {**body.get("tune", {}), **change["tune"]}
    with pytest.raises(StoreError, match=words) as error:
        read_sheet(json.dumps(body).encode(), "sheets/panel.json")
    assert "sheets/panel.json" in str(error.value)


@pytest.mark.parametrize("margins", [(40, 0, 40, 0), (0, -1, 0, 0), (0, 30, 0, 30)])
def test_nine_slice_margins_that_do_not_fit_are_told(demo: Demo, margins: tuple[int, int, int, int]) -> None:
    panel = named(demo[0], "panel.png")
    wrong = replace(panel, cells=(replace(panel.cells[0], stretch=NineSlice(*margins)),))
    with pytest.raises(StoreError, match="nine-slice"):
        read_sheet(sheet_text(wrong), "sheets/panel.json")


def test_an_animation_file_holds_its_body_and_whether_it_is_a_tile() -> None:
    text = b'{"id": "a", "name": "a", "play": "loop", "body": [-4, -8, 8, 8], "tile": true, "frames": []}'
    made = read_animation(text, "animations/a.json")
    assert made.body == (-4, -8, 8, 8) and made.tile
    with pytest.raises(StoreError, match="animations/a.json"):
        read_animation(text.replace(b"8, 8]", b"8]"), "animations/a.json")
