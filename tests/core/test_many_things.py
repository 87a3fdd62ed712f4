"""Many things at once: moved, aligned, spread, ordered, scattered, and edges that meet."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.edit import level_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.levels import add_level
from rushweed.core.level.many_things import (
    Chance,
    align_things,
    boxes_of,
    change_things,
    copy_things,
    meeting,
    move_things,
    order_things,
    rearrange_things,
    remove_things,
    scatter_things,
    scattered_spots,
    spread_things,
    things_in,
)
from rushweed.core.level.things import PlacedThings, changed_box, place_thing, placed_things, things_over
from tests.conftest import project_with, sheet_of_size

CELLS = (Cell("a", "a", (0, 0, 8, 8), (4, 8)), Cell("b", "b", (8, 0, 16, 8), (8, 4)))


def placed(*spots: tuple[float, float]) -> tuple[Project, str, tuple[str, ...]]:
    """A level with things, one after another of cell a and b."""
    project, level_id = add_level(project_with(sheet_of_size(24, 8, cells=CELLS)), "quay", (8, 8))
    layer, ids = level_of(project, level_id).layers[0].id, []
    for n, spot in enumerate(spots):
        project, made = place_thing(project, level_id, "ab"[n % 2], spot, layer)
        ids.append(made)
    return project, level_id, tuple(ids)


def boxes(project: Project, level_id: str) -> dict[str, tuple[float, float, float, float]]:
    return boxes_of(project, level_of(project, level_id))


spots = st.lists(st.tuples(st.integers(-50, 200), st.integers(-50, 200)), min_size=3, max_size=7)


@settings(max_examples=60, deadline=None)
@given(spots, st.sampled_from(["left", "centre", "right", "top", "middle", "bottom"]))
def test_aligned_sides_lie_on_one_line(where: list[tuple[int, int]], side: str) -> None:
    project, level_id, ids = placed(*where)
    made = boxes(align_things(project, level_id, ids, side), level_id)  # type: ignore[arg-type]
    lines = {
        "left": [b[0] for b in made.values()], "right": [b[2] for b in made.values()],
        "top": [b[1] for b in made.values()], "bottom": [b[3] for b in made.values()],
        "centre": [(b[0] + b[2]) / 2 for b in made.values()],
        "middle": [(b[1] + b[3]) / 2 for b in made.values()],
    }[side]  # fmt: skip
    assert max(lines) - min(lines) <= 1  # whole px


@settings(max_examples=60, deadline=None)
@given(spots, st.booleans())
def test_spread_things_keep_their_ends_and_have_even_gaps(where: list[tuple[int, int]], across: bool) -> None:
    project, level_id, ids = placed(*where)
    axis = 0 if across else 1
    before = sorted(boxes(project, level_id).values(), key=lambda b: b[axis] + b[axis + 2])
    made = boxes(spread_things(project, level_id, ids, across), level_id)
    after = sorted(made.values(), key=lambda b: b[axis] + b[axis + 2])
    assert abs(min(b[axis] for b in after) - before[0][axis]) <= max(16, 1)
    in_order = [
        made[i]
        for i, _b in sorted(boxes(project, level_id).items(), key=lambda o: o[1][axis] + o[1][axis + 2])
    ]
    gaps = [b[axis] - a[axis + 2] for a, b in zip(in_order, in_order[1:], strict=False)]
    assert max(gaps) - min(gaps) <= 2


def test_things_are_moved_copied_set_and_removed_together() -> None:
    project, level_id, ids = placed((10, 10), (30, 30), (50, 50))
    made = move_things(project, level_id, ids[:2], 5, -2)
    assert [t.at for t in level_of(made, level_id).things] == [(15, 8), (35, 28), (50, 50)]
    made, copies = copy_things(project, level_id, ids[1:], 100, 0)
    assert [t.at for t in level_of(made, level_id).things[3:]] == [(130, 30), (150, 50)] and len(copies) == 2
    made = change_things(project, level_id, ids[:2], turn=90.0, tint=(1, 2, 3), scale=(2.0, 2.0))
    things = level_of(made, level_id).things
    assert [(t.turn, t.tint) for t in things] == [(90, (1, 2, 3))] * 2 + [(0, None)]
    assert change_things(made, level_id, ids[:2], turn=90.0) is made
    flipped = rearrange_things(made, level_id, ids[1:], "flip")
    assert [(t.turn, t.mirrored) for t in level_of(flipped, level_id).things] == [
        (90, False), (270, True), (180, True),
    ]  # fmt: skip
    turned = rearrange_things(
        rearrange_things(flipped, level_id, ids[1:], "mirror"), level_id, ids[1:], "turn"
    )
    assert [(t.turn, t.mirrored) for t in level_of(turned, level_id).things][1:] == [(0, False), (270, False)]
    assert [t.id for t in level_of(remove_things(project, level_id, ids[:2]), level_id).things] == [ids[2]]
    for fields, problem in (
        ({"scale": (0.0, 1.0)}, "scaled"),
        ({"id": "x"}, "no id"),
        ({"size": 2}, "no size"),
    ):
        with pytest.raises(EditError, match=problem):
            change_things(project, level_id, ids, **fields)


def test_things_go_to_the_front_and_to_the_back() -> None:
    project, level_id, ids = placed((10, 10), (30, 30), (50, 50))
    front = order_things(project, level_id, ids[:1], True)
    assert [t.id for t in level_of(front, level_id).things] == [ids[1], ids[2], ids[0]]
    back = order_things(front, level_id, ids[:1], False)
    assert level_of(back, level_id).things == level_of(project, level_id).things


def test_edges_and_middles_meet_with_the_lines_told() -> None:
    other = (100.0, 40.0, 120.0, 60.0)
    found = meeting((82.0, 43.0, 98.0, 51.0), [other])
    assert (found.dx, found.dy) == (2, -3)
    assert (100.0, 40.0, 60.0) in found.upright and (40.0, 84.0, 120.0) in found.level
    assert meeting((0.0, 0.0, 8.0, 8.0), [other]) == (0.0, 0.0, (), ())
    middle = meeting((80.0, 47.0, 90.0, 56.0), [other])
    assert middle.dy == -1.5 and middle.level == ((50.0, 80.0, 120.0),)


def test_what_touches_a_rectangle_is_selected() -> None:
    project, level_id, ids = placed((10, 10), (30, 30), (90, 90))
    level = level_of(project, level_id)
    assert (
        things_in(project, level, (0, 0, 40, 40)) == ids[:2]
        and things_in(project, level, (60, 0, 70, 9)) == ()
    )


def test_scattered_things_are_by_chance_and_the_same_for_the_same_seed() -> None:
    project, level_id, _ids = placed()
    layer = level_of(project, level_id).layers[0].id
    places = scattered_spots(200, 200, 64, 0.5, (8, 8), 7)
    assert all(math.hypot(x - 200, y - 200) <= 65 for x, y in places)
    expected = 0.5 * math.pi * 64**2 / 64
    assert expected * 0.6 < len(places) < expected * 1.4
    made = scatter_things(project, level_id, layer, ("a", "b"), places, Chance(7, 25, (3.0, 1.0)))
    again = scatter_things(project, level_id, layer, ("a", "b"), places, Chance(7, 25, (3.0, 1.0)))
    things = level_of(made, level_id).things
    key = [(t.shows, t.at, t.mirrored) for t in things]
    assert key == [(t.shows, t.at, t.mirrored) for t in level_of(again, level_id).things]
    share = np.mean([t.shows == "a" for t in things])
    assert 0.5 < share < 0.95 and 0.05 < np.mean([t.mirrored for t in things]) < 0.5
    with pytest.raises(EditError, match="nothing to scatter"):
        scatter_things(project, level_id, layer, (), places, Chance())
    with pytest.raises(EditError, match="weights"):
        scatter_things(project, level_id, layer, ("a", "b"), places, Chance(weights=(0.0, 0.0)))


# -- which of them are seen --------------------------------------------------------------------------------


@given(spots, st.tuples(*[st.integers(-60, 200)] * 2, *[st.integers(1, 120)] * 2), st.data())
def test_only_what_may_be_seen_is_gone_through_and_none_of_it_is_missed(
    places: list[tuple[int, int]], area: tuple[int, int, int, int], data: st.DataObject
) -> None:
    project, level_id, ids = placed(*places)
    layer = level_of(project, level_id).layers[0].id
    for _edit in range(3):
        chosen = data.draw(st.sets(st.sampled_from(ids)))
        turn, dx = data.draw(st.integers(0, 360)), data.draw(st.integers(-40, 40))
        project = change_things(project, level_id, chosen, turn=float(turn), scale=(2.0, 0.5))
        project = move_things(project, level_id, chosen, dx, 3)
        level = level_of(project, level_id)
        x, y, w, h = area
        seen = {s.thing.id for s in things_over(project, level, layer, area=area)}
        touching = {
            i for i, (x0, y0, x1, y1) in boxes(project, level_id).items()
            if x0 < x + w and x1 > x and y0 < y + h and y1 > y
        }  # fmt: skip
        assert touching <= seen
        assert [s.thing for s in things_over(project, level, layer)] == list(level.things)


@given(spots, st.lists(st.tuples(st.sampled_from([0.0, 360.0, 30.0, -77.5]), st.sampled_from([0.5, 1.0, 2.0]),
    st.booleans()), min_size=7, max_size=7))  # fmt: skip
def test_the_boxes_of_turned_and_scaled_things_lie_a_px_around_them(
    where: list[tuple[int, int]], looks: list[tuple[float, float, bool]]
) -> None:
    project, level_id, ids = placed(*where)
    for one, (turn, scale, mirrored) in zip(ids, looks, strict=False):
        project = change_things(project, level_id, [one], turn=turn, scale=(scale, 1.0), mirrored=mirrored)
    things = PlacedThings(project, level_of(project, level_id).things, None)
    for n in range(len(ids)):
        shown = things.shown(n)
        assert shown is not None
        x, y, wide, high = shown.box()
        assert things.boxes[n] == pytest.approx((x - 1, y - 1, x + wide + 1, y + high + 1))


def test_what_moves_by_itself_may_be_anywhere_and_what_stays_is_looked_at_once() -> None:
    project, level_id, ids = placed((0, 0), (500, 0), (900, 0))
    project = change_things(project, level_id, ids[2:], path=Path((-900.0, 0.0), ms=1000))
    before = placed_things(project, level_of(project, level_id))
    first, second = before.shown(0), before.shown(1)
    assert before.within((0, -20, 40, 40)) == [0, 2]
    project = move_things(project, level_id, ids[1:2], -490, 0)
    after = placed_things(project, level_of(project, level_id))
    assert after.within((0, -20, 40, 40)) == [0, 1, 2]
    assert after.shown(0) is first and after.shown(1) is not second
    project = remove_things(project, level_id, ids[:1])
    left = placed_things(project, level_of(project, level_id))
    assert left.within((0, -20, 40, 40)) == [0, 1] and left.shown(0) is after.shown(1)
    project = replace(project, sheets=tuple(replace(sheet, cells=()) for sheet in project.sheets))
    gone = placed_things(project, level_of(project, level_id))
    assert [gone.shown(0), gone.shown(1)] == [None, None] and not list(
        things_over(project, level_of(project, level_id), "x")
    )


@given(spots, st.data())
def test_where_two_versions_differ_is_told(places: list[tuple[int, int]], data: st.DataObject) -> None:
    project, level_id, ids = placed(*places)

    def now(project: Project) -> PlacedThings:
        return placed_things(project, level_of(project, level_id))

    before = now(project)
    assert changed_box(before, now(replace(project, name="another"))) is None
    chosen = data.draw(st.sets(st.sampled_from(ids), min_size=1))
    kind = data.draw(st.sampled_from(["move", "remove", "copy", "order"]))
    if kind == "move":
        changed = move_things(project, level_id, chosen, 7, -3)
    elif kind == "remove":
        changed = remove_things(project, level_id, chosen)
    elif kind == "copy":
        changed, _made = copy_things(project, level_id, chosen, 30, 0)
    else:
        changed = order_things(project, level_id, chosen, nearer=True)
    after = now(changed)
    box = changed_box(before, after)
    same = {id(t) for t in before.things} & {id(t) for t in after.things}
    for one in (before, after):
        for n, thing in enumerate(one.things):
            if id(thing) not in same:
                assert box is not None
                left, top, right, bottom = one.boxes[n]
                assert box[0] <= left and box[1] <= top and right <= box[2] and bottom <= box[3]
    order = [[t.id for t in one.things if id(t) in same] for one in (before, after)]
    assert box is not None or order[0] == order[1]


def test_a_pushed_thing_is_seen_wherever_it_was_pushed_from() -> None:
    project, level_id, ids = placed((500, 0))
    project = change_things(project, level_id, ids, motion="pushed")
    assert placed_things(project, level_of(project, level_id)).within((0, 0, 10, 10)) == [0]
