"""Findings that came later: names, pivots, edges, uneven px, shapes that nearly meet; what is left alone."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from rushweed.core.animate.edges import SIDES, Side, flat_sides, goes_on_beyond, lacks_part_of
from rushweed.core.animate.register import set_shifts
from rushweed.core.animate.timeline import animate
from rushweed.core.cut.edit import cut_sheet
from rushweed.core.document.edit import change_cells, put_level, put_sheet
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Circle, Polygon
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.steps import Fit
from rushweed.core.findings import reports
from rushweed.core.findings.check import check, checks, left_alone
from rushweed.core.findings.edit import cure_all, leave_alone, tell_again
from rushweed.core.findings.finding import Finding, Place
from rushweed.core.findings.rule import Checks, Rule
from rushweed.core.level.edit import paint
from rushweed.core.level.joints import MOST_PAIRED, joints
from rushweed.core.level.levels import add_level
from rushweed.core.level.stamp import single
from rushweed.core.level.things import place_thing
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.edit import ended_at, set_shapes
from rushweed.core.store.folder import Folder
from rushweed.core.tune.edit import set_pivot_px
from tests.conftest import named, project_with, sheet_of_size

Demo = tuple[Project, PixelCache]


class Shown(PixelCache):
    """Gives the same picture for every sheet."""

    def __init__(self, rgba: np.ndarray) -> None:
        super().__init__(Path("nowhere"))
        self.rgba = rgba

    def pixels_or_blank(self, sheet: Sheet) -> np.ndarray:
        return self.rgba

    def pixels(self, sheet: Sheet) -> np.ndarray:
        return self.rgba


def found(project: Project, stock: PixelCache, rule: str) -> list[Finding]:
    return [f for f in check(project, stock) if f.rule == rule]


def strip(frames: list[np.ndarray]) -> tuple[Project, PixelCache]:
    """A project of one strip, each frame a bool (height, width), played as one animation."""
    rgba = np.zeros((*np.hstack(frames).shape, 4), np.uint8)
    rgba[np.hstack(frames)] = (90, 60, 40, 255)
    high, wide = frames[0].shape
    project = project_with(sheet_of_size(wide * len(frames), high))
    project = cut_sheet(project, "sheet1", GridCut((wide, high)), rgba)
    project, _id = animate(project, [c.id for c in project.sheets[0].cells], "walk")
    return project, Shown(rgba)


def figure(left: int = 4, top: int = 4, wide: int = 8, high: int = 12, size: int = 16) -> np.ndarray:
    made = np.zeros((size, size), bool)
    made[top : top + high, left : left + wide] = True
    return made


# -- frames --------------------------------------------------------------------------------------------------


def test_a_frame_off_its_line_is_told_but_not_one_that_bends() -> None:
    moved = strip([figure(), figure(), figure(top=2), figure()])
    (finding,) = found(*moved, "feet-drift")
    assert "2 px in 1 of 4 frames" in finding.text and finding.fix and len(finding.place.cells) == 1
    assert not found(finding.fix.edit(moved[0]), moved[1], "feet-drift")
    assert not found(
        *strip([figure(), figure(), figure(top=6, high=8), figure(top=2, high=10)]), "feet-drift"
    )


def test_a_figure_that_lifts_its_feet_or_turns_does_not_drift() -> None:
    lifted = figure(top=3)
    lifted[3:9] = figure()[3:9]  # head and body stay where they are
    lifted[3] = False
    assert not found(*strip([figure(), figure(), lifted, figure()]), "feet-drift")
    turned = figure(left=2, wide=12, high=8)
    assert not found(*strip([figure(high=9), figure(high=9), turned, figure(high=9)]), "feet-drift")
    assert not found(*strip([figure(), figure(), figure(left=8, top=2, wide=6), figure()]), "feet-drift")


def test_a_frame_with_a_shift_or_pivot_of_its_own_drifts_where_it_is_shown() -> None:
    project, stock = strip([figure(), figure(), figure(top=2), figure()])
    ids = [c.id for c in project.sheets[0].cells]
    assert not found(set_shifts(project, {ids[2]: (0, 2)}), stock, "feet-drift")
    assert not found(set_pivot_px(project, [ids[2]], 8, 14), stock, "feet-drift")
    project, stock = strip([figure()] * 4)
    second = project.sheets[0].cells[1].id
    (finding,) = found(set_shifts(project, {second: (0, -3)}), stock, "feet-drift")
    assert finding.place.cells == (second,)


def test_pivots_that_wander_where_the_art_does_not() -> None:
    project, stock = strip([figure(), figure(), figure()])
    assert not found(project, stock, "pivot-drift")
    cell = project.sheets[0].cells[1].id
    project = set_pivot_px(project, [cell], 10, 14)
    (finding,) = found(project, stock, "pivot-drift")
    assert finding.place.cells == (cell,) and finding.fix
    assert not found(finding.fix.edit(project), stock, "pivot-drift")


def test_pivots_that_follow_the_art_are_no_fault() -> None:
    project, stock = strip([figure(), figure(left=6), figure()])
    project = set_pivot_px(project, [project.sheets[0].cells[1].id], 10, 16)
    assert not found(project, stock, "pivot-drift")


def test_a_frame_cut_off_at_its_edge() -> None:
    cut = figure(left=10, wide=6)
    (finding,) = found(*strip([figure(), figure(), cut, figure()]), "touches-edge")
    assert "right edge" in finding.text and len(finding.place.cells) == 1
    ends = figure(left=10, wide=6)
    ends[:, 15] = False
    ends[8:10, 15] = True  # a nose that just reaches the edge
    assert not found(*strip([figure(), figure(), ends, figure()]), "touches-edge")
    assert not found(*strip([cut, cut, cut]), "touches-edge"), "all of them: it is meant"


def test_art_that_is_drawn_up_to_the_edge_is_not_cut_off() -> None:
    other = figure(left=11, top=8, wide=5, high=6)  # nothing that another frame has more of
    assert not found(*strip([figure(), figure(), other, figure()]), "touches-edge")
    passing = [figure(left=x, wide=min(8, 16 - x)) for x in (2, 6, 10, 14)]  # leaves by the right
    assert not found(*strip([*passing, figure(left=1)]), "touches-edge")
    ground = np.ones((16, 16), bool)
    assert not found(*strip([figure(), figure(), ground, figure()]), "touches-edge")


def test_art_that_goes_on_in_the_next_cell_is_cut_off() -> None:
    other, rest = figure(left=11, top=8, wide=5, high=6), figure(left=0, top=6, wide=10, high=9)
    rest[:8] = rest[14:] = False
    rest[:, 9] |= figure(left=9, wide=1)[:, 9]
    project, stock = strip([figure(), figure(), other, rest, figure(), figure()])
    (finding,) = found(project, stock, "touches-edge")
    cells = [c.id for c in project.sheets[0].cells]
    assert set(finding.place.cells) == {cells[2], cells[3]}, "one thing, cut in two"
    assert "is cut off at the left edge of its cell, and 1 more." in finding.text


@pytest.mark.parametrize("side", SIDES)
def test_a_side_is_told_from_the_others(side: Side) -> None:
    turns = {"left": 0, "top": 3, "right": 2}[side]
    ink = np.rot90(figure(left=0, top=3, wide=5, high=9), turns)
    assert flat_sides(ink) == {side}
    whole = np.rot90(figure(left=6, top=4, wide=7, high=9), turns)
    assert lacks_part_of(ink, whole, side)
    assert not lacks_part_of(ink, np.rot90(figure(left=6, top=4, wide=4, high=5), turns), side)
    sheet = np.zeros((48, 48, 4), np.uint8)
    sheet[16:32, 16:32][ink] = (90, 60, 40, 255)
    cell = (16, 16, 16, 16)
    assert not goes_on_beyond(sheet, cell, side)
    sheet[16:32, 16:32][ink] = 0
    sheet[10:38, 10:38] = (90, 60, 40, 255)
    assert goes_on_beyond(sheet, cell, side)
    sheet[16:32, 16:32] = (200, 230, 240, 255)
    assert not goes_on_beyond(sheet, cell, side), "of another colour"
    assert not goes_on_beyond(sheet, (0, 0, 48, 48), side), "the end of the picture"


def test_shapes_below_the_feet_are_ended_there() -> None:
    project, stock = strip([figure(), figure(high=10), figure()])
    ids = [c.id for c in project.sheets[0].cells]
    project = set_shapes(project, ids, (Box(4, 4, 8, 12),))
    (finding,) = found(project, stock, "shape-below-feet")
    assert finding.place.cells == (ids[1],) and finding.fix
    cured = finding.fix.edit(project)
    assert not found(cured, stock, "shape-below-feet")
    assert cured.sheets[0].cells[1].shapes == (Box(4, 4, 8, 10),)


def test_every_form_of_shape_ends_at_a_line() -> None:
    cell = strip([figure(), figure()])[0].sheets[0].cells[0]
    shapes = (
        Circle(8, 8, 4),
        Polygon(((0, 0), (16, 0), (8, 16))),
        Box(0, 13, 4, 3),
        Box(0, 14, 2, 2, "sensor"),
    )
    ended = ended_at(replace(cell, shapes=shapes), 10).shapes
    assert ended == (
        Circle(8, 7, 3), Polygon(((0, 0), (16, 0), (8, 10))), Box(0, 14, 2, 2, "sensor"),
    )  # fmt: skip


# -- names, sheets, px ---------------------------------------------------------------------------------------


def test_names_that_differ_in_capitals_alone(demo: Demo) -> None:
    project, stock = demo
    wren = named(project, "wren.png")
    other = replace(named(project, "lamps.png"), name="Wren.PNG")
    clash = put_sheet(project, other)
    (finding,) = found(clash, stock, "name-clash")
    assert "Wren.PNG" in finding.text or "wren.png" in finding.text
    assert finding.fix and not found(finding.fix.edit(clash), stock, "name-clash")
    assert wren.id in {s.id for s in finding.fix.edit(clash).sheets}
    level = replace(project.levels[0], id="another1")
    twice = replace(project, levels=(*project.levels, level))
    (finding,) = found(twice, stock, "name-clash")
    assert finding.place.level == "another1" and finding.fix
    assert not found(finding.fix.edit(twice), stock, "name-clash")
    walk = replace(project.animations[0], id="another2")
    again = replace(project, animations=(*project.animations, walk))
    (finding,) = found(again, stock, "name-clash")
    assert finding.fix and not found(finding.fix.edit(again), stock, "name-clash")


def test_sheets_that_nothing_shows(demo: Demo) -> None:
    project, stock = demo
    told = {f.place.sheet for f in found(project, stock, "unused-sheet")}
    assert named(project, "eel.bmp").id in told and named(project, "wren.png").id not in told
    assert named(project, "lamps.png").id not in told, "it is not cut yet"
    alone = replace(project, levels=(), animations=())
    assert not found(alone, stock, "unused-sheet"), "nothing is shown yet"
    few = replace(project, levels=(), animations=project.animations[:1])
    assert not found(few, stock, "unused-sheet"), "hardly anything is"
    (one,) = [
        f for f in found(project, stock, "unused-sheet") if f.place.sheet == named(project, "eel.bmp").id
    ]
    assert one.fix and len(one.fix.edit(project).sheets) == len(project.sheets) - 1


def test_pixel_art_at_an_uneven_size(demo: Demo) -> None:
    project, stock = demo
    sheet = named(project, "crate.png")
    w, h = sheet.source.size
    for size, told in (((w * 3 // 2, h * 3 // 2), True), ((w * 2, h * 3), False)):
        source = replace(sheet.source, raw=(w, h), size=size, steps=(Fit(size),))
        assert bool(found(put_sheet(project, replace(sheet, source=source)), stock, "uneven-px")) is told
    level = project.levels[0]
    layer = level.layers[-1].id
    project, thing = place_thing(project, level.id, sheet.cells[0].id, (40, 40), layer)
    assert not found(project, stock, "uneven-px")
    level = next(v for v in project.levels if v.id == level.id)
    things = tuple(replace(t, scale=(1.5, 1.5)) if t.id == thing else t for t in level.things)
    project = put_level(project, replace(level, things=things))
    (finding,) = found(project, stock, "uneven-px")
    assert "1.5 times" in finding.text and finding.fix
    assert not found(finding.fix.edit(project), stock, "uneven-px")


# -- levels --------------------------------------------------------------------------------------------------


@pytest.fixture
def ground() -> tuple[Project, PixelCache, Level]:
    """A level of one row of three tiles of 16 px, the third another one."""
    rgba = np.full((16, 48, 4), 255, np.uint8)
    project = cut_sheet(project_with(sheet_of_size(48, 16)), "sheet1", GridCut((16, 16)), rgba)
    project, level_id, _layer = _level(project)
    a, b, _c = (cell.id for cell in project.sheets[0].cells)
    layer = project.levels[0].layers[0].id
    for x, cell in enumerate((a, a, b)):
        project = paint(project, level_id, layer, single(cell), (np.array([x]), np.array([2])))
    return project, Shown(rgba), project.levels[0]


def _level(project: Project) -> tuple[Project, str, str]:
    project, level_id = add_level(project, "shore", (16, 16))
    level = next(v for v in project.levels if v.id == level_id)
    return project, level_id, level.layers[0].id


@pytest.mark.parametrize("paired", [0, MOST_PAIRED])
def test_neighbours_that_nearly_meet(
    ground: tuple[Project, PixelCache, Level], monkeypatch: pytest.MonkeyPatch, paired: int
) -> None:
    """Whether values are held against each other first, or their places looked at right away."""
    monkeypatch.setattr("rushweed.core.level.joints.MOST_PAIRED", paired)
    project, stock, level = ground
    a, b, _c = project.sheets[0].cells
    shaped = set_shapes(project, [a.id], (Box(0, 4, 16, 12),))
    for top, told in ((4, False), (5, True), (6, True), (9, False)):
        made = set_shapes(shaped, [b.id], (Box(0, top, 16, 16 - top),))
        assert bool(found(made, stock, "do-not-meet")) is told, top
    (joint,) = joints(set_shapes(shaped, [b.id], (Box(0, 5, 16, 11),)), level)
    assert (joint.left, joint.right, joint.what, joint.px, joint.spot) == (a.id, b.id, "step", 1, (2, 2))
    slot = set_shapes(shaped, [b.id], (Box(1, 4, 15, 12),))
    assert [(j.what, j.px) for j in joints(slot, level)] == [("slot", 1)]
    thing = set_shapes(shaped, [b.id], (Box(1, 4, 14, 12),))
    assert not joints(thing, level), "a crate stands free on both sides"


def test_what_stands_on_top_hides_a_step(ground: tuple[Project, PixelCache, Level]) -> None:
    project, _stock, level = ground
    a, b, c = project.sheets[0].cells
    project = set_shapes(
        set_shapes(project, [a.id, c.id], (Box(0, 0, 16, 16),)), [b.id], (Box(0, 1, 16, 15),)
    )
    assert joints(project, project.levels[0])
    covered = paint(project, level.id, level.layers[0].id, single(c.id), (np.array([1]), np.array([1])))
    assert not joints(covered, covered.levels[0])


def test_ground_without_a_shape(ground: tuple[Project, PixelCache, Level]) -> None:
    project, stock, level = ground
    a, b, c = project.sheets[0].cells
    assert not found(project, stock, "without-shape"), "nothing has a shape yet"
    shaped = set_shapes(project, [a.id], (Box(0, 0, 16, 16),))
    spots = (np.arange(3, 9), np.full(6, 2))
    shaped = paint(shaped, level.id, level.layers[0].id, single(a.id), spots)
    (finding,) = found(shaped, stock, "without-shape")
    assert finding.place.cells == (b.id,) and finding.fix
    assert not found(finding.fix.edit(shaped), stock, "without-shape")
    tuft = Shown(np.zeros((16, 48, 4), np.uint8))
    assert not found(shaped, tuft, "without-shape"), "what does not fill its cell is no ground"


# -- only what changed ---------------------------------------------------------------------------------------


def test_a_rule_is_asked_anew_only_where_something_changed(demo: Demo) -> None:
    project, stock = demo
    asked: list[str] = []

    def sheets(sheet: Sheet, _stock: PixelCache) -> Iterator[Finding]:
        asked.append(sheet.name)
        yield Finding("cut-art", "hint", sheet.name, Place("cut", sheet=sheet.id))

    def frames(animation: Animation, _project: Project, _stock: PixelCache) -> Iterator[Finding]:
        asked.append(animation.name)
        yield from ()

    def levels(level: Level, _project: Project, _stock: PixelCache) -> Iterator[Finding]:
        asked.append(level.name)
        yield from ()

    one = Checks([Rule("sheet", sheets, {}), Rule("animation", frames, {}), Rule("level", levels, {})])
    first = one.run(project, stock)
    assert len(first) == len(project.sheets)
    asked.clear()
    assert one.run(project, stock) == first and not asked
    wren = named(project, "wren.png")
    changed = change_cells(project, [wren.cells[0].id], lambda c: replace(c, name="other"))
    one.run(changed, stock)
    shown = {f.cell: a.name for a in project.animations for f in a.frames}
    walks = {
        a.name for a in project.animations if any(f.cell in {c.id for c in wren.cells} for f in a.frames)
    }
    assert asked[0] == "wren.png" and walks <= set(asked) and shown
    assert set(asked) == {"wren.png", *walks, *(v.name for v in project.levels)}
    asked.clear()
    gone = replace(changed, sheets=tuple(s for s in changed.sheets if s.id != wren.id))
    assert "wren.png" not in {f.text for f in one.run(gone, stock)}


def test_a_slow_rule_waits_and_goes_on_where_it_was(demo: Demo) -> None:
    project, stock = demo
    asked: list[str] = []

    def look(sheet: Sheet, _stock: PixelCache) -> Iterator[Finding]:
        asked.append(sheet.name)
        yield Finding("cut-art", "hint", sheet.name, Place("cut", sheet=sheet.id))

    one = Checks([Rule("sheet", look, {}, slow=True)])
    assert one.run(project, stock, slow=()) == [] and not asked
    assert one.run(project, stock, go_on=lambda: len(asked) < 2) == [] and len(asked) == 2
    assert len(one.run(project, stock, slow=())) == 2
    crate = named(project, "crate.png")
    assert len(one.run(project, stock, slow={crate.id})) == 3 and asked[-1] == "crate.png"
    assert len(one.run(project, stock)) == len(asked) == len(project.sheets)


def test_a_picture_that_is_back_is_looked_at_again(demo: Demo) -> None:
    project, stock = demo
    path = stock.folder / "art" / "boardwalk.png"
    held = path.read_bytes()
    path.unlink()
    fresh, one = PixelCache(stock.folder), checks()
    names = {f.rule for f in one.run(project, fresh) if f.place.sheet == named(project, "boardwalk.png").id}
    assert "missing-source" in names and "grid-remainder" not in names
    path.write_bytes(held)
    names = {f.rule for f in one.run(project, fresh) if f.place.sheet == named(project, "boardwalk.png").id}
    assert "missing-source" not in names and "grid-remainder" in names


# -- left alone ----------------------------------------------------------------------------------------------


def test_what_is_left_alone_is_kept_in_the_project_and_told_with_its_reason(demo: Demo) -> None:
    project, stock = demo
    findings = check(project, stock)
    chosen = [f for f in findings if f.rule == "missing-licence"]
    project = leave_alone(project, chosen, "  drawn   by us ")
    again = check(project, stock)
    assert [(f.rule, left.why) for f, left in left_alone(project, again)] == [
        ("missing-licence", "drawn by us")
    ] * len(chosen)
    assert len(again) == len(findings), "it is still found"
    rows = reports.rows(project, again, {})
    assert sum(row["left_alone"] == "drawn by us" for row in rows) == len(chosen)
    made = reports.sarif(project, again, {})["runs"][0]["results"]
    assert sum("suppressions" in result for result in made) == len(chosen)
    assert "left as it is (drawn by us)" in reports.junit(project, again)
    folder = Folder(stock.folder)
    folder.lock()
    folder.save(project)
    folder.unlock()
    opened = Folder(stock.folder).open()
    assert opened.left_alone == project.left_alone
    told = tell_again(opened, [chosen[0].key])
    assert len(left_alone(told, again)) == len(chosen) - 1 and tell_again(told, ["x"]) is told
    with pytest.raises(EditError, match="reason"):
        leave_alone(project, chosen, "  ")


def test_what_comes_to_mean_more_is_told_again(demo: Demo) -> None:
    project, stock = demo
    cells = named(project, "crate.png").cells[:1]
    outside = set_shapes(project, [cells[0].id], (Box(-1, 0, 8, 8),))
    (finding,) = found(outside, stock, "shape-outside")
    left = leave_alone(outside, [finding], "it leans out")
    assert left_alone(left, [finding])
    more = finding._replace(place=finding.place._replace(cells=("a", "b")))
    assert not left_alone(left, [more])
    twice = leave_alone(left, [more], "both do")
    assert len(twice.left_alone) == 1 and left_alone(twice, [more])


def test_all_of_a_kind_are_cured_in_one_edit(demo: Demo) -> None:
    project, stock = demo
    unused = found(project, stock, "unused-sheet")
    cured, told = cure_all(project, unused)
    assert len(cured.sheets) == len(project.sheets) - len(unused) and not told
    assert not found(cured, stock, "unused-sheet")
    with pytest.raises(EditError, match="None of them"):
        cure_all(project, found(project, stock, "missing-licence"))
    again, told = cure_all(project, [*unused, unused[0]])
    assert len(told) == 1 and len(again.sheets) == len(cured.sheets)
