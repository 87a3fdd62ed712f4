"""What moves, ships: shifts applied, animations, states, things and their paths; and comes back from disk."""

import json
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from rushweed.core.animate import register, timeline
from rushweed.core.document.edit import (
    animated_sheets,
    cell_homes,
    painted_sheets,
    put_level,
    put_sheet,
    unused_sheets,
)
from rushweed.core.document.errors import EditError, StoreError
from rushweed.core.document.model.animation import Path as MovePath
from rushweed.core.document.model.cut import GuidesCut, HandCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Circle, Polygon
from rushweed.core.findings.check import check
from rushweed.core.level.render import level_picture
from rushweed.core.level.things import change_thing, place_thing, remove_thing, shown_at, thing_under
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.store.folder import Folder
from tests.conftest import named

Demo = tuple[Project, PixelCache]


def test_a_registered_frame_ships_with_its_shift_applied(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    cell = next(c for c in named(project, "wren.png").cells if c.name == "walk_1")
    ship(project, stock, tmp_path / "a")
    ship(register.set_shifts(project, {cell.id: (2, -3)}), stock, tmp_path / "b")
    frames = []
    for out in ("a", "b"):
        manifest = json.loads((tmp_path / out / "manifest.json").read_text())
        frames.append(next(f for f in manifest["frames"] if f["id"] == cell.id))
    assert frames[1]["offset_px"] == [frames[0]["offset_px"][0] + 2, frames[0]["offset_px"][1] - 3]
    was = frames[0].get("shift_px", [0, 0])
    assert frames[1]["shift_px"] == [was[0] + 2, was[1] - 3]
    assert frames[1]["pivot_px"] == frames[0]["pivot_px"] and frames[1]["size_px"] == frames[0]["size_px"]


def test_animations_states_and_paths_are_in_the_manifest(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    ship(project, stock, tmp_path / "out")
    manifest = json.loads((tmp_path / "out" / "manifest.json").read_text())
    by_name = {a["name"]: a for a in manifest["animations"]}
    assert set(by_name) == {"heron", "idle", "walk", "climb", "light", "water"}
    assert by_name["water"]["tile"] and "tile" not in by_name["walk"]
    walk = next(a for a in project.animations if a.name == "walk")
    assert by_name["walk"]["frames"] == [[f.cell, f.ms] for f in walk.frames]
    assert by_name["heron"]["path"] == {
        "offset_px": [96, -12],
        "ms": 2400,
        "easing": "both",
        "play": "there-and-back",
    }
    states = manifest["states"][0]
    assert states["sheet"] == "wren.png" and states["states"][0] == ["idle", by_name["idle"]["id"]]


def test_things_ship_with_their_level_and_are_in_its_picture(demo: Demo, tmp_path: Path) -> None:
    project, stock = demo
    ship(project, stock, tmp_path / "out")
    level = json.loads((tmp_path / "out" / "levels" / "pier.json").read_text())
    heron = next(a for a in project.animations if a.name == "heron")
    path = {"offset_px": [56, 0], "ms": 3600, "easing": "both", "play": "there-and-back"}
    thing = {"shows": heron.id, "at_px": [496, 292], "layer": 3, "path": path}
    assert level["things"][0] == thing | {"room": "stilts", "id": project.levels[0].things[0].id}
    assert [t.get("motion", "still") for t in level["things"]] == ["still", "moving", "pushed"]
    picture = np.array(Image.open(tmp_path / "out" / "levels" / "pier.png").convert("RGBA"))
    pier = project.levels[0]
    bare = level_picture(project, replace(pier, things=pier.things[1:]), stock.pixels, (0, 0, 1024, 320))
    changed = np.argwhere((picture != bare).any(axis=-1))
    (top, left), (bottom, right) = changed.min(axis=0), changed.max(axis=0)
    assert top > 250 and bottom < 292 and left > 470 and right < 530


def test_a_thing_shows_its_frame_and_place_at_every_moment(demo: Demo) -> None:
    project, _stock = demo
    level = project.levels[0]
    thing, cells = level.things[0], cell_homes(project)
    start, middle = shown_at(thing, cells, project, 0), shown_at(thing, cells, project, 1800)
    assert start is not None and middle is not None
    assert middle.left - start.left == pytest.approx(28 - middle.cell.pivot[0] + start.cell.pivot[0])
    assert start.cell.id != middle.cell.id
    mirrored = shown_at(replace(thing, mirrored=True), cells, project, 0)
    assert mirrored is not None
    width, across = start.cell.rect[2], start.cell.pivot[0]
    assert mirrored.left - start.left == 2 * across - width
    assert thing_under(project, level, start.left + 2, start.top + 2) is thing
    assert thing_under(project, level, 0, 0) is None


def test_things_are_placed_changed_and_removed_with_checks(demo: Demo) -> None:
    project, _stock = demo
    level = project.levels[0]
    crate = named(project, "crate.png").cells[0]
    made, one = place_thing(project, level.id, crate.id, (40, 50), level.layers[1].id)
    thing = made.levels[0].things[-1]
    assert (thing.id, thing.shows, thing.at) == (one, crate.id, (40, 50))
    made = change_thing(made, level.id, replace(thing, at=(44, 50)))
    assert made.levels[0].things[-1].at == (44, 50)
    assert remove_thing(made, level.id, one).levels[0].things == level.things
    assert named(made, "crate.png").id in painted_sheets(made)
    with pytest.raises(EditError, match="nothing chosen"):
        place_thing(project, level.id, "nowhere", (0, 0), level.layers[0].id)
    with pytest.raises(EditError, match="no layer"):
        place_thing(project, level.id, crate.id, (0, 0), "gone")


def test_a_thing_whose_layer_or_cell_is_gone_does_no_harm(demo: Demo) -> None:
    project, stock = demo
    level = project.levels[0]
    lost = replace(
        level, things=(replace(level.things[0], layer="gone"), replace(level.things[0], shows="gone"))
    )
    project = put_level(project, lost)
    picture = level_picture(project, project.levels[0], stock.pixels, (470, 250, 60, 44))
    bare = level_picture(project, replace(lost, things=()), stock.pixels, (470, 250, 60, 44))
    assert (picture != bare).any()


def test_which_sheets_are_used(demo: Demo) -> None:
    project, _stock = demo
    assert {s.name for s in project.sheets if s.id in animated_sheets(project)} == {
        "wren.png",
        "heron",
        "marsh.png",
    }
    assert {s.name for s in unused_sheets(project)} == {
        "lamps.png", "eel.bmp", "panel.png", "lamps_4x.png", "crate.png",
    }  # fmt: skip


# -- on disk -------------------------------------------------------------------------------------------


def test_every_new_part_is_saved_and_opened_equal(demo: Demo, demo_folder: Path) -> None:
    project, _stock = demo
    sheet = named(project, "eel.bmp")
    ramp = Polygon(((0, 0), (4, 0), (4, 4)), "one-way", "left")
    shapes = (Circle(8, 8, 4.5, "sensor"), Box(0, 0, 2, 2), ramp)
    round_cell = replace(sheet.cells[0], shift=(3, -1), copy_of=sheet.cells[1].id, shapes=shapes)
    cut = GuidesCut((0, 50, 100, 160), (0, 40, 96), (1, 0), False, ((0, 1),), ((1, 0),))
    project = put_sheet(project, replace(sheet, cut=cut, group="Water", cells=(round_cell, *sheet.cells[1:])))
    lamps = named(project, "lamps.png")
    project = put_sheet(project, replace(lamps, cut=HandCut()))
    walk = next(a for a in project.animations if a.name == "walk")
    project = timeline.set_path(project, walk.id, MovePath((8.5, -3), 700, "in", "once"))
    folder = Folder(demo_folder)
    folder.open()
    folder.save(project)
    again = Folder(demo_folder).open()
    assert again.sheets == project.sheets and again.animations == project.animations
    assert [v.things for v in again.levels] == [v.things for v in project.levels]
    assert Folder(demo_folder).open().sheets == again.sheets


@pytest.mark.parametrize(
    ("file", "find", "put", "says"),
    [
        ("animations/walk.json", '"ms": 90', '"ms": 0', "0 ms"),
        ("animations/heron.json", '"ms": 2400', '"ms": -5', "-5 ms"),
        ("animations/walk.json", '"play": "loop"', '"play": "sideways"', "animations/walk.json"),
        ("animations/walk.json", "]\n}", "", "cut short"),
        ("sheets/heron.json", "art/heron/heron_01.png", "../../etc/heron.png", "outside the project"),
        ("sheets/heron.json", '"columns": ', '"columns": -', "impossible"),
    ],
)
def test_broken_files_are_named(demo_folder: Path, file: str, find: str, put: str, says: str) -> None:
    path = demo_folder / file
    text = path.read_text()
    assert find in text
    path.write_text(text.replace(find, put, 1))
    with pytest.raises(StoreError) as error:
        Folder(demo_folder).open()
    assert says in error.value.problem and error.value.cure


# -- findings ------------------------------------------------------------------------------------------


def rules(project: Project, stock: PixelCache) -> dict[str, str]:
    return {f.rule: f.text for f in check(project, stock)}


def test_drift_missing_states_and_gone_frames_are_found_and_cured(demo: Demo) -> None:
    project, stock = demo
    wren = named(project, "wren.png")
    project = timeline.set_state(project, wren.id, "swimming")
    idle = next(a for a in project.animations if a.name == "idle")
    lost = tuple(replace(f, cell="gone") if n == 1 else f for n, f in enumerate(idle.frames))
    project = timeline.put_animation(project, replace(idle, frames=lost))
    found = check(project, stock)
    texts = {f.rule: f for f in found}
    assert "walk: the feet drift by 1 px in 1 of 8 frames" in texts["feet-drift"].text
    assert "swimming has no animation" in texts["state-without"].text
    assert texts["frame-gone"].text == "idle: 1 frame shows a cell that is gone."
    for finding in (texts["feet-drift"], texts["frame-gone"], texts["state-without"]):
        assert finding.fix is not None
        project = finding.fix.edit(project)
    left = rules(project, stock)
    assert not {"feet-drift", "frame-gone", "state-without"} & set(left)


def test_licences_and_companions_are_checked(demo: Demo) -> None:
    project, stock = demo
    lamps = named(project, "lamps.png")
    project = put_sheet(project, replace(lamps, credit=replace(lamps.credit, licence="CC-BY-4.0")))
    assert "asks that its author is named" in rules(project, stock)["missing-attribution"]
    project = put_sheet(project, replace(lamps, credit=replace(lamps.credit, licence="free for all")))
    assert "no SPDX" in rules(project, stock)["unknown-licence"]
    crate = named(project, "crate.png")
    project = put_sheet(project, replace(crate, source=replace(crate.source, normal=lamps.source.path)))
    found = next(f for f in check(project, stock) if f.rule == "normal-map")
    assert found.fix is not None
    assert named(found.fix.edit(project), "crate.png").source.normal == ""


def test_a_shape_that_crosses_itself_is_a_fault(demo: Demo) -> None:
    project, stock = demo
    crate = named(project, "crate.png")
    tie = Polygon(((0, 0), (8, 8), (8, 0), (0, 9)))
    cells = (replace(crate.cells[0], shapes=(tie,)),)
    assert "crosses itself" in rules(put_sheet(project, replace(crate, cells=cells)), stock)["crossing-shape"]
