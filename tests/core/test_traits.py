"""Traits, groups, materials, bodies of characters, kinds of placed things."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.animate.body import below_feet, set_body, set_tile, shared_body
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Told
from rushweed.core.document.model.sheet import Cell
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape import groups, traits
from rushweed.core.shape.edit import set_shapes
from rushweed.core.store.folder import Folder
from tests.conftest import named


def cell_of(project: Project, sheet: str, name: str) -> Cell:
    return next(c for c in named(project, sheet).cells if c.name == name)


def test_ready_traits_are_told_of_tiles_and_taken_back(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    ids = [c.id for c in named(project, "marsh.png").cells[:3]]
    made = traits.tell(project, ids, "surface", "mud")
    made = traits.tell(made, ids, "over", 12)
    made = traits.tell(made, ids[:1], "entry", "left top")
    cell = named(made, "marsh.png").cells[0]
    assert cell.traits == (Told("entry", "top left"), Told("over", 12.0), Told("surface", "mud"))
    assert traits.value_of(cell, "over") == 12 and traits.value_of(cell, "nothing") is None
    again = traits.tell(made, ids, "over", None)
    assert traits.value_of(named(again, "marsh.png").cells[1], "over") is None
    assert traits.tell(made, ids, "surface", "mud") is made


def test_recoloured_copies_say_what_their_originals_do_until_changed(
    demo: tuple[Project, PixelCache],
) -> None:
    project, _ = demo
    marsh = named(project, "marsh.png")
    copy = replace(marsh, id="copy", name="copy.png",
                   cells=tuple(replace(c, id=f"{c.id}x", copy_of=c.id) for c in marsh.cells[:2]))  # fmt: skip
    project = replace(project, sheets=(*project.sheets, copy))
    made = traits.tell(project, [marsh.cells[0].id], "surface", "mud")
    assert traits.value_of(made.sheets[-1].cells[0], "surface") == "mud"
    own = traits.tell(made, [f"{marsh.cells[0].id}x"], "surface", "stone")
    again = traits.tell(own, [marsh.cells[0].id], "surface", "wood")
    assert traits.value_of(again.sheets[-1].cells[0], "surface") == "stone"


@pytest.mark.parametrize(
    ("trait", "value"),
    [("surface", "jam"), ("surface", True), ("over", "high"), ("over", float("nan")), ("over", True),
     ("entry", "inside"), ("entry", ""), ("gone", True)],
)  # fmt: skip
def test_what_a_trait_does_not_take_is_refused(
    demo: tuple[Project, PixelCache], trait: str, value: object
) -> None:
    project, _ = demo
    with pytest.raises(EditError):
        traits.tell(project, [named(project, "marsh.png").cells[0].id], trait, value)  # type: ignore[arg-type]


def test_traits_of_ones_own_are_added_changed_and_removed_from_every_tile(
    demo: tuple[Project, PixelCache],
) -> None:
    project, _ = demo
    made, slippery = traits.add_trait(project, "slippery", "yes-no")
    made, smell = traits.add_trait(made, "slippery", "choice", ("salt", "peat"))
    assert smell.name == "slippery_2" and traits.traits_of(made)[-2:] == (slippery, smell)
    ids = [c.id for c in named(made, "marsh.png").cells[:2]]
    made = traits.tell(traits.tell(made, ids, slippery.id, True), ids, smell.id, "peat")
    made = traits.change_trait(made, smell.id, name="smell", choices=("peat",))
    assert traits.short_value(traits.trait_of(made, smell.id), "peat") == "peat"
    made = traits.remove_trait(made, slippery.id)
    assert [t.trait for t in named(made, "marsh.png").cells[0].traits] == [smell.id]
    with pytest.raises(EditError, match="called"):
        traits.change_trait(made, smell.id, name="surface")
    more = traits.change_trait(made, "surface", choices=("wood", "ice"))
    assert traits.trait_of(more, "surface").choices == ("wood", "ice")
    assert traits.trait_of(traits.remove_trait(more, "surface"), "surface") == traits.SURFACE


def test_groups_say_which_touch_which_both_ways(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    ids = {g.name: g.id for g in project.groups}
    assert not groups.touches(project, ids["ground"], ids["marsh lights"])
    assert not groups.touches(project, ids["marsh lights"], ids["ground"])
    assert groups.touches(project, ids["ground"], ids["people"]) and groups.touches(
        project, "", ids["ground"]
    )
    made = groups.set_touch(project, ids["people"], ids["people"], False)
    assert not groups.touches(made, ids["people"], ids["people"])
    made = groups.set_touch(made, ids["marsh lights"], ids["ground"], True)
    assert groups.touches(made, ids["ground"], ids["marsh lights"])
    assert groups.set_touch(made, ids["ground"], ids["people"], True) is made
    with pytest.raises(EditError, match="called"):
        groups.rename_group(made, ids["ground"], "people")
    gone = groups.remove_group(project, ids["ground"])
    assert all(s.group == "" for x in gone.sheets for c in x.cells for s in c.shapes)
    assert ids["ground"] not in gone.groups[-1].ignores


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 3), st.booleans()), max_size=12))
def test_touching_is_always_the_same_from_both_sides(steps: list[tuple[int, int, bool]]) -> None:
    project = Project("p", "p")
    made = []
    for n in range(4):
        project, group = groups.add_group(project, f"g{n}")
        made.append(group.id)
    wanted = {}
    for a, b, on in steps:
        project = groups.set_touch(project, made[a], made[b], on)
        wanted[frozenset((a, b))] = on
    for a in range(4):
        for b in range(4):
            assert groups.touches(project, made[a], made[b]) == wanted.get(frozenset((a, b)), True)


def test_friction_bounce_and_group_of_one_shape_or_all(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    cell = cell_of(project, "boardwalk.png", "crate")
    project = set_shapes(project, [cell.id], (Box(0, 0, 4, 4), Box(4, 4, 4, 4)))
    made = groups.set_material(project, [cell.id], 1, friction=0.1, bounce=0.5, group=project.groups[0].id)
    one, two = cell_of(made, "boardwalk.png", "crate").shapes
    assert (one.friction, two.friction, two.bounce, two.group) == (0.8, 0.1, 0.5, project.groups[0].id)
    both = groups.set_material(made, [cell.id], friction=0.3)
    assert {s.friction for s in cell_of(both, "boardwalk.png", "crate").shapes} == {0.3}
    for wrong in ({"friction": -1}, {"bounce": float("inf")}, {"group": "nobody"}):
        with pytest.raises(EditError):
            groups.set_material(project, [cell.id], **wrong)  # type: ignore[arg-type]


def test_all_of_it_is_saved_and_opened_again(demo: tuple[Project, PixelCache], demo_folder) -> None:  # type: ignore[no-untyped-def]
    project, _ = demo
    walk = next(a for a in project.animations if a.name == "walk")
    made = set_body(project, walk.id, (-6, -28, 11, 28))
    made, _own = traits.add_trait(made, "damp", "number")
    level = made.levels[0]
    thing = replace(level.things[0], motion="pushed", turns=True, weight=3, damping=0.5, pin=(4, -2))
    made = replace(made, levels=(replace(level, things=(thing,)), *made.levels[1:]))
    folder = Folder(demo_folder)
    folder.open()
    folder.save(made)
    folder.unlock()
    again = Folder(demo_folder).open()
    assert (again.groups, again.traits, again.autosets) == (made.groups, made.traits, made.autosets)
    assert again.sheets == made.sheets and again.animations == made.animations
    assert again.levels[0].things == (thing,)


# -- bodies ------------------------------------------------------------------------------------------------


def frames_of(demo: tuple[Project, PixelCache], name: str) -> list[tuple[Cell, np.ndarray]]:
    project, stock = demo
    sheet = named(project, "wren.png")
    rgba = stock.pixels(sheet)
    cells = {c.id: c for c in sheet.cells}
    found = [cells[f.cell] for a in project.animations if a.name == name for f in a.frames]
    return [(c, rgba[c.rect[1] : c.rect[1] + c.rect[3], c.rect[0] : c.rect[0] + c.rect[2]]) for c in found]


@pytest.mark.parametrize("name", ["idle", "walk", "climb", "light"])
def test_a_body_is_steady_whole_and_never_below_the_feet(demo: tuple[Project, PixelCache], name: str) -> None:
    frames = frames_of(demo, name)
    body = shared_body(frames)
    assert body is not None and all(isinstance(v, int) for v in body)
    x, y, w, h = body
    assert 6 <= w <= 16 and 20 <= h <= 32 and y + h <= 0 and below_feet(body, frames) == 0
    for cell, pixels in frames:  # its inside is nearly all ink
        left, top = int(cell.pivot[0]) + x, int(cell.pivot[1]) + y
        part = pixels[top : top + h, left : left + w, 3] > 127
        assert part.mean() > 0.7


def test_bodies_that_are_wrong_are_refused_and_empty_frames_have_none(
    demo: tuple[Project, PixelCache],
) -> None:
    project, _ = demo
    assert shared_body([]) is None
    empty = Cell("e", "e", (0, 0, 4, 4), (2, 4))
    assert shared_body([(empty, np.zeros((4, 4, 4), np.uint8))]) is None
    walk = next(a for a in project.animations if a.name == "walk")
    with pytest.raises(EditError):
        set_body(project, walk.id, (0, 0, 0, 4))
    assert below_feet((-4, -8, 8, 11), frames_of(demo, "idle")) == 3
    made = set_tile(set_body(project, walk.id, (-5, -20, 10, 20)), walk.id, True)
    found = next(a for a in made.animations if a.name == "walk")
    assert found.body == (-5, -20, 10, 20) and found.tile and set_tile(made, walk.id, True) is made
