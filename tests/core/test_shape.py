"""Common shapes, their mirrors and turns, and edits for many tiles."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, Circle, Polygon
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.drag import dragged, grips, with_vertex, without_vertex
from rushweed.core.shape.edit import (
    add_shape,
    clear_shapes,
    copy_shapes,
    give_common,
    put_shape,
    rearrange,
    remove_shape,
    set_role,
    shaped_counts,
)
from rushweed.core.shape.primitives import (
    COMMON,
    Points,
    area,
    bounds,
    check,
    clockwise,
    common,
    contains,
    corners,
    crossed,
    crossings,
    flipped,
    is_whole,
    mirrored,
    signed_area,
    snapped,
    turned,
)
from tests.conftest import named

SHARES = {"full": 1, "half": 0.5, "quarter": 0.25, "gentle slope up, upper": 0.75}


@pytest.mark.parametrize("name", COMMON)
def test_common_shapes_fill_the_share_their_name_says(name: str) -> None:
    shape = common(name, (16, 12))
    share = area(shape) / (16 * 12)
    if name.startswith("gentle"):
        assert share == (0.75 if name.endswith("upper") != ("hanging" in name) else 0.25)
    elif name.startswith("slope"):
        assert share == 0.5
    elif name.endswith("corner cut"):
        assert share == 0.875
    else:
        assert share == SHARES[name.split()[-1]]
    assert signed_area(corners(shape)) > 0
    assert check(shape) == shape
    left, top, right, bottom = bounds(shape)
    assert 0 <= left < right <= 16 and 0 <= top < bottom <= 12


@given(st.sampled_from(list(COMMON)), st.sampled_from(["top", "right", "bottom", "left"]))
def test_mirrors_and_turns_come_back_and_keep_the_area(name: str, blocks_from: str) -> None:
    shape = common(name, (16, 16), "one-way", blocks_from)  # type: ignore[arg-type]
    assert _same(mirrored(mirrored(shape, 16), 16), shape)
    assert _same(flipped(flipped(shape, 16), 16), shape)
    around = shape
    for _ in range(4):
        around = turned(around, (16, 16))
        assert area(around) == area(shape) and signed_area(corners(around)) > 0
    assert _same(around, shape)


def _same(a: Box | Polygon, b: Box | Polygon) -> bool:
    return set(corners(a)) == set(corners(b)) and a.blocks_from == b.blocks_from and type(a) is type(b)


def test_mirroring_a_slope_gives_the_other_slope_and_turns_sides() -> None:
    up = common("slope up", (16, 16))
    assert set(corners(mirrored(up, 16))) == set(corners(common("slope down", (16, 16))))
    left = Box(0, 0, 4, 16, "one-way", "left")
    assert mirrored(left, 16).blocks_from == "right" and turned(left, (16, 16)).blocks_from == "top"


def test_either_drawing_direction_is_made_uniform() -> None:
    ring = ((0.0, 0.0), (0.0, 8.0), (8.0, 8.0))
    made = check(Polygon(ring))
    assert isinstance(made, Polygon) and made.points == clockwise(ring) == tuple(reversed(ring))


@pytest.mark.parametrize(
    "shape",
    [Box(0, 0, 0, 4), Box(0, 0, 4, -1), Box(float("nan"), 0, 4, 4), Polygon(((0, 0), (1, 1))),
     Polygon(((0, 0), (1, 1), (2, 2))), Box(0, 0, 1e9, 1)],
)  # fmt: skip
def test_shapes_without_an_inside_are_refused(shape: Box | Polygon) -> None:
    with pytest.raises(EditError):
        check(shape)


def test_snapping() -> None:
    assert [snapped(3.3, s, 16) for s in ("px", "half", "quarter", "free")] == [3, 3.5, 4, 3.3]  # type: ignore[arg-type]
    assert snapped(2.5, "px", 16) == 3 and snapped(-0.4, "px", 16) == 0
    assert is_whole(Box(1, 2, 3, 4)) and not is_whole(Box(1, 2.5, 3, 4))


def test_a_point_is_inside_a_slope_only_below_it() -> None:
    slope = common("slope up", (16, 16))
    assert contains(slope, 12, 12) and not contains(slope, 3, 3)


def test_dragging_a_side_about_the_centre_moves_the_other_as_much() -> None:
    box = Box(4, 4, 8, 8)
    assert dragged(box, "r", ((12, 8), (14.2, 8)), (16, 16), "px") == Box(4, 4, 10, 8)
    assert dragged(box, "r", ((12, 8), (14.2, 8)), (16, 16), "px", about_centre=True) == Box(2, 4, 12, 8)
    assert dragged(box, "lt", ((4, 4), (2, 1)), (16, 16), "px") == Box(2, 1, 10, 11)
    assert dragged(box, "l", ((4, 8), (15, 8)), (16, 16), "px") == Box(12, 4, 3, 8)
    assert dragged(box, "body", ((5, 5), (6.6, 5)), (16, 16), "px") == Box(6, 4, 8, 8)
    assert dragged(box, "t", ((8, 4), (8, 6.5)), (16, 16), "half") == Box(4, 6.5, 8, 5.5)
    assert set(grips(box)) == {"lt", "rt", "rb", "lb", "t", "r", "b", "l"}
    slope = common("slope up", (16, 16))
    assert dragged(slope, "1", ((16, 0), (16, 4.4)), (16, 16), "px").points[1] == (16, 4)


def test_one_shape_is_given_to_many_tiles_and_the_rest_is_shared(demo: tuple[Project, PixelCache]) -> None:
    project, _ = demo
    sheet = named(project, "wren.png")
    ids = [c.id for c in sheet.cells[:5]]
    made = give_common(project, ids, "bottom half", "one-way", "top")
    cells = named(made, "wren.png").cells
    assert {c.shapes for c in cells[:5]} == {(Box(0, 16, 24, 16, "one-way"),)}
    assert cells[5] is sheet.cells[5] and made.sheets[0] is project.sheets[0]
    assert shaped_counts(made, sheet.id) == (5, 17)
    assert give_common(made, ids, "bottom half", "one-way", "top") is made


def test_several_shapes_a_tile_can_be_added_changed_copied_and_taken_away(
    demo: tuple[Project, PixelCache],
) -> None:
    project, _ = demo
    one, two = (c.id for c in named(project, "wren.png").cells[:2])
    project = add_shape(project, [one], Box(0, 0, 8, 8))
    project = add_shape(project, [one], Box(8, 8, 8, 8, "sensor"))
    project = put_shape(project, one, 1, Box(9, 9, 4, 4, "sensor"))
    project = copy_shapes(project, one, [one, two])
    a, b = named(project, "wren.png").cells[:2]
    assert a.shapes == b.shapes == (Box(0, 0, 8, 8), Box(9, 9, 4, 4, "sensor"))
    project = remove_shape(project, one, 0)
    project = set_role(project, [one], "one-way", "left")
    assert named(project, "wren.png").cells[0].shapes == (Box(9, 9, 4, 4, "one-way", "left"),)
    project = rearrange(project, [one], "mirror")
    assert named(project, "wren.png").cells[0].shapes == (Box(11, 9, 4, 4, "one-way", "right"),)
    assert named(clear_shapes(project, [one, two]), "wren.png").cells[0].shapes == ()
    with pytest.raises(EditError):
        put_shape(project, one, 7, Box(0, 0, 1, 1))


# -- circles, crossings, vertices ------------------------------------------------------------------------


def test_circles_are_measured_mirrored_turned_and_dragged() -> None:
    circle = check(Circle(4, 6, 3, "one-way", "left"))
    assert bounds(circle) == (1, 3, 7, 9) and area(circle) == pytest.approx(28.27, abs=0.01)
    assert contains(circle, 4, 8.9) and not contains(circle, 6.9, 8.9)
    assert mirrored(circle, 16) == Circle(12, 6, 3, "one-way", "right")
    assert turned(circle, (16, 16)) == Circle(10, 4, 3, "one-way", "top")
    assert len(corners(circle)) == 32 and is_whole(circle)
    assert dragged(circle, "r", ((7, 6), (9.2, 6)), (16, 16), "px") == replace(circle, radius=5)
    assert dragged(circle, "body", ((4, 6), (5, 8)), (16, 16), "px") == replace(circle, x=5, y=8)
    with pytest.raises(EditError, match="without a radius"):
        check(Circle(1, 1, 0))


def test_where_edges_cross_is_told() -> None:
    assert crossings(((0, 0), (8, 8), (8, 0), (0, 8))) == ((4, 4),)
    assert crossings(((0, 0), (8, 0), (8, 8), (0, 8))) == ()


@given(
    st.lists(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), max_size=9).map(tuple), max_size=20)
)
def test_rings_that_cross_are_told_all_at_once(rings: list[Points]) -> None:
    assert crossed(rings).tolist() == [bool(crossings(ring)) for ring in rings]


def test_vertices_come_and_go_and_three_stay() -> None:
    ring = Polygon(((0, 0), (8, 0), (8, 8)))
    more = with_vertex(ring, 2, (4, 6))
    assert more.points == ((0, 0), (8, 0), (8, 8), (4, 6))
    assert without_vertex(more, 3) == ring
    with pytest.raises(EditError, match="at least three"):
        without_vertex(ring, 0)
