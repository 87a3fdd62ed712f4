"""In which order a level is drawn, and how its layers and things stand: moved, tinted, turned, by foot."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.edit import level_of
from rushweed.core.document.model.level import (
    BackdropLayer,
    Level,
    PictureLayer,
    Thing,
    ThingLayer,
    TileLayer,
)
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Told
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.chunks import put_region
from rushweed.core.level.levels import add_level
from rushweed.core.level.render import Figure, Seen, lay_over, level_picture, tinted
from rushweed.core.level.things import shown_at, thing_under
from tests.conftest import project_with, sheet_of_size

RNG = np.random.default_rng(3)
SHEET = np.full((8, 32, 4), 255, np.uint8)
SHEET[..., :3] = RNG.integers(0, 255, (8, 32, 3))
CELLS = tuple(Cell(f"t{i}", f"t{i}", (i * 8, 0, 8, 8), (4, 8)) for i in range(4))


def made(*layers, things=(), order="layer", cells=CELLS, start=(0, 0)) -> tuple[Project, Level]:  # type: ignore[no-untyped-def]
    project, level_id = add_level(
        project_with(sheet_of_size(32, 8, cells=cells)), "quay", (8, 8), size=(6, 4)
    )
    level = replace(
        level_of(project, level_id),
        table=tuple(c.id for c in cells),
        layers=layers,
        things=tuple(things),
        order=order,
        start=start,
    )
    return replace(project, levels=(level,)), level


def filled(name: str, value: int, **fields: object) -> TileLayer:
    """A layer whose 6 x 4 cells all hold one value."""
    return TileLayer(
        name, name, put_region(TileLayer("", "").tiles, 0, 0, np.full((4, 6), value, np.uint32)), **fields
    )  # type: ignore[arg-type]


def drawn(
    project: Project, level: Level, area: tuple[int, int, int, int] = (0, 0, 48, 32), **more
) -> np.ndarray:  # type: ignore[no-untyped-def]
    return level_picture(project, level, lambda _s: SHEET, area, seen=Seen(**more))


def tile(n: int) -> np.ndarray:
    return SHEET[:, n * 8 : n * 8 + 8]


def test_a_tint_multiplies_each_colour_rounded_and_keeps_alpha() -> None:
    values = np.arange(256, dtype=np.uint8)
    art = np.dstack([values.repeat(2).reshape(64, 8)] * 4)
    for tint in ((255, 254, 128), (127, 1, 0), (17, 201, 255)):
        wanted = [(art[..., c].astype(int) * tint[c] * 2 + 255) // 510 for c in range(3)]
        assert np.array_equal(tinted(art, tint), np.dstack([*wanted, art[..., 3]]))
    assert tinted(art[:0], (1, 2, 3)).shape == (0, 8, 4)


def test_a_layer_is_moved_tinted_and_keeps_up_with_the_picture_by_its_parallax() -> None:
    project, level = made(filled("a", 8, offset=(3, -2), tint=(255, 128, 0)))
    picture = drawn(project, level)
    assert (picture[:, :3, 3] == 0).all() and (picture[30:, :, 3] == 0).all()
    wanted = tinted(np.tile(tile(0), (4, 6, 1)), (255, 128, 0))
    assert (picture[:30, 3:] == wanted[2:, :45]).all()
    assert (wanted[..., 2] == 0).all() and (wanted[..., 0] == np.tile(tile(0), (4, 6, 1))[..., 0]).all()
    project, level = made(filled("a", 8, parallax=0.5, parallax_y=1), start=(24, 16))
    assert (drawn(project, level) == np.tile(tile(0), (4, 6, 1))).all()  # the middle is on the start
    moved = drawn(project, level, (8, 0, 48, 32))  # 8 px to the right: the layer keeps up by half of that
    assert (moved[:, :44] == np.tile(tile(0), (4, 6, 1))[:, 4:]).all() and (moved[:, 44:, 3] == 0).all()


def test_layers_in_front_come_after_the_walker_whatever_their_place() -> None:
    project, level = made(filled("front", 8, front=True), filled("back", 16))
    walker = Figure(np.full((6, 4, 4), (9, 9, 9, 255), np.uint8), (20, 20))
    assert (drawn(project, level, walker=walker)[..., :3] == np.tile(tile(0), (4, 6, 1))[..., :3]).all()
    project, level = made(filled("front", 8), filled("back", 16))
    picture = drawn(project, level, walker=walker)
    assert (picture[14:20, 18:22] == (9, 9, 9, 255)).all() and (
        picture[20:, :] == np.tile(tile(1), (4, 6, 1))[20:]
    ).all()


def test_by_foot_who_stands_lower_is_drawn_over_who_stands_higher() -> None:
    ground, things = filled("ground", 8), ThingLayer(id="things", name="things")
    near, far = Thing("n", "t1", (20, 24), "things"), Thing("f", "t2", (22, 20), "things")
    for order in ((near, far), (far, near)):
        project, level = made(ground, things, things=order, order="foot")
        picture = drawn(project, level)
        assert (picture[16:24, 16:24] == tile(1)).all()
        assert (picture[12:16, 18:26] == tile(2)[:4]).all()
    project, level = made(ground, things, things=(near, far))
    assert (drawn(project, level)[12:20, 18:26] == tile(2)).all()  # by layer the last one placed is on top


@pytest.mark.parametrize(("feet", "hidden"), [(21, True), (31, False)])
def test_a_tile_that_says_where_it_stands_covers_who_is_behind_that_line(feet: int, hidden: bool) -> None:
    """A crown two cells above its trunk stands 16 px below its own edge."""
    cells = (CELLS[0], replace(CELLS[1], traits=(Told("over", -16.0),)), *CELLS[2:])
    crown = np.zeros((4, 6), np.uint32)
    crown[0, 2] = 16
    layer = TileLayer("trees", "trees", put_region(TileLayer("", "").tiles, 0, 0, crown))
    walker = Figure(np.full((31, 4, 4), (9, 9, 9, 255), np.uint8), (20, feet))
    project, level = made(filled("ground", 8), layer, order="foot", cells=cells)
    picture = drawn(project, level, walker=walker)
    assert (picture[:8, 16:24] == tile(1)).all() == hidden
    project, level = made(filled("ground", 8), layer, cells=cells)
    assert not (drawn(project, level, walker=walker)[:8, 16:24] == tile(1)).all()


@pytest.mark.parametrize("quarters", [1, 2, 3])
@pytest.mark.parametrize("mirrored", [False, True])
def test_a_quarter_turn_and_a_whole_scale_move_px_and_change_none(quarters: int, mirrored: bool) -> None:
    cells = tuple(replace(c, pivot=(4, 4)) for c in CELLS)
    thing = Thing("n", "t1", (24, 16), "things", mirrored=mirrored, turn=90 * quarters, scale=(2, 2))
    project, level = made(ThingLayer(id="things", name="things"), things=(thing,), cells=cells)
    art = tile(1)[:, ::-1] if mirrored else tile(1)
    wanted = np.rot90(art, -quarters).repeat(2, 0).repeat(2, 1)
    picture = drawn(project, level)
    assert (picture[8:24, 16:32] == wanted).all()
    picture[8:24, 16:32] = 0
    assert not picture.any()


@settings(max_examples=80, deadline=None)
@given(
    st.floats(-400, 400), st.floats(0.25, 4), st.floats(0.25, 4), st.booleans(),
    st.floats(10, 40), st.floats(10, 30),
)  # fmt: skip
@example(-1e-158, 1.0, 1.0, True, 10.0, 10.5)  # turned by nothing, and drawn as one that is
def test_a_turned_thing_is_where_it_is_found_and_its_pivot_stays(
    turn: float, across: float, down: float, mirrored: bool, x: float, y: float
) -> None:
    cells = tuple(replace(c, pivot=(4, 4)) for c in CELLS)
    thing = Thing("n", "t1", (x, y), "things", mirrored=mirrored, turn=turn, scale=(across, down))
    project, level = made(ThingLayer(id="things", name="things"), things=(thing,), cells=cells)
    picture = drawn(project, level, (-40, -40, 128, 128))
    shown = shown_at(thing, {c.id: (project.sheets[0], c) for c in cells}, project)
    assert shown is not None
    a, b, c, d, e, f = shown.matrix()
    if not shown.plain:
        assert math.isclose(a * 4 + b * 4 + e, x, abs_tol=1e-6) and math.isclose(
            c * 4 + d * 4 + f, y, abs_tol=1e-6
        )
    ys, xs = np.nonzero(picture[..., 3])
    left, top, wide, high = shown.box()
    assert xs.size and left - 1 <= xs.min() - 40 <= left + wide and top - 1 <= ys.min() - 40 <= top + high
    for n in range(0, xs.size, 7):  # every px drawn is one of the art, found there by the pointer too
        assert thing_under(project, level, xs[n] - 40 + 0.5, ys[n] - 40 + 0.5) is thing
    colours = {tuple(px) for px in tile(1).reshape(-1, 4).tolist()}
    assert {tuple(px) for px in picture[ys, xs].tolist()} <= colours


def test_a_backdrop_repeats_both_ways_drifts_and_stretches_and_a_picture_stands() -> None:
    sky = BackdropLayer(id="sky", name="sky", sheet="", parallax=1)
    project, level = made(sky)
    sheet = project.sheets[0].id
    level = replace(level, layers=(replace(sky, sheet=sheet, repeat_y=True, top=3),))
    tiled = np.tile(SHEET, (6, 3, 1))
    assert (drawn(project, level) == tiled[5:37, :48]).all()
    drifting = replace(level, layers=(replace(sky, sheet=sheet, repeat_y=True, drift=(10, 0)),))
    assert (drawn(project, drifting, ms=500) == tiled[:32, 27:75]).all()
    wide = replace(level, layers=(replace(sky, sheet=sheet, stretch=True, repeat=False),))
    picture = drawn(project, wide, picture=(48, 32))
    assert (picture == SHEET[np.ix_(np.arange(32) * 8 // 32, np.arange(48) * 32 // 48)]).all()
    still = replace(level, layers=(PictureLayer(id="p", name="p", sheet=sheet, offset=(5, 6)),))
    picture = drawn(project, still)
    assert (picture[6:14, 5:37] == SHEET).all()
    picture[6:14, 5:37] = 0
    assert not picture.any()


def test_opacity_holds_for_what_is_tinted_turned_and_by_foot_too() -> None:
    ground = filled("ground", 8)
    things = ThingLayer(id="things", name="things", opacity_percent=50, tint=(255, 0, 255))
    thing = Thing("n", "t1", (24, 16), "things", turn=180)
    project, level = made(ground, things, things=(thing,), order="foot")
    wanted = np.tile(tile(0), (4, 6, 1)).copy()
    part = wanted[16:24, 20:28].copy()
    lay_over(part, tinted(np.rot90(tile(1), 2), (255, 0, 255)), 0.5)
    wanted[16:24, 20:28] = part
    assert (drawn(project, level) == wanted).all()
