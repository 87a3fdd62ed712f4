"""How somebody walks in a level: laws that hold in every level, and the moves one by one."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.limits import check_run
from rushweed.core.document.model.animation import Animation, Frame, Path, State
from rushweed.core.document.model.level import Level, Thing, TileLayer, Tiles, Walker
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box, CollisionGroup, Polygon, Shape, Told
from rushweed.core.document.model.sheet import Cell
from rushweed.core.level.chunks import put_region
from rushweed.core.level.levels import add_level
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.primitives import common
from rushweed.core.walk import terms as k
from rushweed.core.walk import tiles
from rushweed.core.walk.edges import overlaps
from rushweed.core.walk.held_keys import keys_of, told
from rushweed.core.walk.jump import leap
from rushweed.core.walk.record import Walk
from rushweed.core.walk.runs import arrives, begin, change_run, keep_run, remove_run, replay
from rushweed.core.walk.walkers import (
    HEAVY,
    LIGHT,
    body_of,
    gravity_of,
    ready_name,
    set_walker,
    show_when,
    shown_when,
    take_ready,
)
from rushweed.core.walk.world import World, enters, free_place
from tests.conftest import project_with, sheet_of_size

Demo = tuple[Project, PixelCache]
SIZE = (16, 16)
L, R, U, D, J = k.LEFT, k.RIGHT, k.UP, k.DOWN, k.JUMP


def tile(name: str, *shapes: Shape, traits: tuple[Told, ...] = ()) -> Cell:
    return Cell(name, name, (0, 0, 16, 16), (8, 16), shapes, traits=traits)


# What the letters of the maps below stand for.
TILES = {
    "#": tile("solid", Box(0, 0, 16, 16)),
    "/": tile("up", common("slope up", SIZE)),
    "\\": tile("down", common("slope down", SIZE)),
    "(": tile("gentle up a", common("gentle slope up, lower", SIZE)),
    "[": tile("gentle up b", common("gentle slope up, upper", SIZE)),
    "]": tile("gentle down a", common("gentle slope down, upper", SIZE)),
    ")": tile("gentle down b", common("gentle slope down, lower", SIZE)),
    "_": tile("ledge", Box(0, 0, 16, 4, "one-way")),
    "H": tile("ladder", Box(3, 0, 10, 16, "sensor"), traits=(Told("climb", True),)),
    "T": tile(
        "trapdoor", Box(0, 0, 16, 4, "one-way"), Box(3, 0, 10, 16, "sensor"), traits=(Told("climb", True),)
    ),
    "l": tile("low", Box(0, 13, 16, 3)),
    "h": tile("half", Box(0, 8, 16, 8)),
    "i": tile("ice", Box(0, 0, 16, 16, friction=0.02)),
    "b": tile("rubber", Box(0, 0, 16, 16, bounce=0.8)),
    "^": tile("steep", Polygon(((0, 16), (16, -16), (16, 16)))),
    "~": tile("water", Box(0, 4, 16, 12, "sensor")),
    "g": tile("ghost", Box(0, 0, 16, 16, group="g")),
    "n": tile("gate", Box(0, 0, 0.5, 0.5, "sensor"), traits=(Told("entry", "left right"),)),
    "d": tile("wedge", Polygon(((0, 0), (16, 16), (0, 16)))),
}  # fmt: skip
CELLS = tuple(TILES.values())


def level_of_map(
    rows: list[str], view: str = "side", left: int = 0, top: int = 0,
    start: tuple[float, float] | None = None,
    cells: tuple[Cell, ...] = CELLS, **fields: object,
) -> tuple[Project, Level]:  # fmt: skip
    """A level drawn in letters; @ is where the feet stand, in the middle of a cell's foot."""
    names = list(TILES)
    held = np.array([[names.index(c) * 8 + 8 if c in TILES else 0 for c in row] for row in rows], np.uint32)
    for y, row in enumerate(rows):
        if "@" in row:
            start = ((row.index("@") + left) * 16 + 8, (y + top) * 16 + 16)
    groups = (CollisionGroup("g", "ghosts"), CollisionGroup("me", "walkers", ("g",)))
    project, level_id = add_level(
        project_with(sheet_of_size(16, 16, cells=cells)), "quay", SIZE, view, (8, 8)
    )  # type: ignore[arg-type]
    level = replace(
        project.levels[0], table=tuple(c.id for c in cells), start=start or (8, 16),
        bounds=(left, top, len(rows[0]), len(rows)),
        layers=(TileLayer("l", "l", put_region(Tiles(), left, top, held)),), **fields,
    )  # fmt: skip
    return replace(project, levels=(level,), groups=groups), level


def walk_on(rows: list[str], **fields: object) -> Walk:
    return begin(World.of(*level_of_map(rows, **fields)))  # type: ignore[arg-type]


def go(walk: Walk, keys: int, steps: int) -> np.ndarray:
    """Walk on; where the feet were after each step, px."""
    return np.array([(walk.advance(keys), walk.feet)[1] for _ in range(steps)])


def events(walk: Walk, *kinds: str) -> list[tuple[str, str]]:
    return [(e.kind, e.what) for e in walk.events if not kinds or e.kind in kinds]


# -- laws --------------------------------------------------------------------------------------------------

maps = st.lists(st.text("#/\\()[]_Hlh.....", min_size=12, max_size=12), min_size=5, max_size=7)
inputs = st.lists(st.tuples(st.integers(0, 31), st.integers(1, 40)), min_size=1, max_size=12)


def drawn(rows: list[str]) -> list[str]:
    """A map with room for the walker above and a floor below."""
    wide = len(rows[0])
    return ["." * wide, ".@" + "." * (wide - 2), *(("..." + row)[:wide] for row in rows), "#" * wide]


def walked(project: Project, level: Level, keys: list[tuple[int, int]]) -> Walk:
    walk = Walk(World.of(project, level))
    for held, steps in keys:
        for _ in range(steps):
            walk.advance(held)
    return walk


@settings(max_examples=40, deadline=None)
@given(maps, inputs)
def test_never_inside_a_solid(rows: list[str], keys: list[tuple[int, int]]) -> None:
    project, level = level_of_map(drawn(rows))
    world = World.of(project, level)
    walk = Walk(world)
    solids = [
        ring + np.array([x * 16 * k.SUB, y * 16 * k.SUB])
        for y, row in enumerate(drawn(rows)) for x, c in enumerate(row) if c in TILES
        for shape, ring in world.tiles.rings_of(TILES[c], 0) if shape.role == "solid"
    ]  # fmt: skip
    for held, steps in keys:
        for _ in range(steps):
            walk.advance(held)
            assert not any(overlaps(ring, walk.box) for ring in solids), (walk.step, walk.feet)


@settings(max_examples=30, deadline=None)
@given(maps, inputs)
def test_a_mirrored_run_in_a_mirrored_level_is_the_mirrored_run(
    rows: list[str], keys: list[tuple[int, int]]
) -> None:
    swap = str.maketrans("/\\()[]", "\\/)(][")
    rows = drawn(rows)
    wide = len(rows[0])
    other = [row[::-1].translate(swap) for row in rows]
    turned = [
        (held & ~(L | R) | (L if held & R else 0) | (R if held & L else 0), steps) for held, steps in keys
    ]
    one, two = walked(*level_of_map(rows), keys), walked(*level_of_map(other), turned)
    a, b = one.path(), two.path()
    assert np.array_equal(a[:, 1], b[:, 1]) and np.array_equal(a[:, 0], wide * 16 - b[:, 0])


@settings(max_examples=30, deadline=None)
@given(maps, inputs, st.integers(-300, 300), st.integers(-300, 300))
def test_a_level_moved_by_cells_gives_the_same_run(
    rows: list[str], keys: list[tuple[int, int]], left: int, top: int
) -> None:
    one = walked(*level_of_map(drawn(rows)), keys)
    two = walked(*level_of_map(drawn(rows), left=left, top=top), keys)
    assert np.array_equal(one.path() + np.array([left * 16, top * 16]), two.path())
    assert [e[:1] + e[1:2] for e in one.events] == [e[:1] + e[1:2] for e in two.events]


@settings(max_examples=30, deadline=None)
@given(maps, inputs)
def test_cutting_solids_up_gives_the_same_run(rows: list[str], keys: list[tuple[int, int]]) -> None:
    """Every tile's solid in four parts, or whole: the walk is the same to the last bit."""
    parts = {"#": [Box(0, 0, 7, 16), Box(7, 0, 9, 5), Box(7, 5, 9, 11)],
             "h": [Box(0, 8, 3, 8), Box(3, 8, 13, 8)],
             "l": [Box(0, 13, 16, 1), Box(0, 14, 9, 2), Box(9, 14, 7, 2)]}  # fmt: skip
    cut = tuple(replace(cell, shapes=tuple(parts[c])) if c in parts else cell for c, cell in TILES.items())
    one, two = walked(*level_of_map(drawn(rows)), keys), walked(*level_of_map(drawn(rows), cells=cut), keys)
    assert np.array_equal(one.path(), two.path())


@settings(max_examples=40, deadline=None)
@given(inputs, st.sampled_from("#hlib"))
def test_energy_never_grows_on_flat_ground(keys: list[tuple[int, int]], ground: str) -> None:
    """Speed and height together, while no key is held."""
    walk = walked(*level_of_map(["." * 40] * 8 + [".." + "." * 17 + "@" + "." * 20, ground * 40]), keys)
    gravity = int(walk.numbers[k.P_GRAVITY])

    def energy() -> int:
        vx, vy, y = (int(walk.state[n]) for n in (k.VX, k.VY, k.Y))
        vy = vy - gravity // 2 if walk.state[k.MODE] == k.AIR else 0
        return vx * vx + vy * vy - 2 * gravity * y

    go(walk, 0, 15)  # a jump that was asked for before landing is over
    for _ in range(240):
        before = energy()
        walk.advance(0)
        if walk.falls:
            break
        assert energy() <= before + 4 * gravity * gravity + 4 * abs(gravity * int(walk.state[k.VY])) // 256


@settings(max_examples=25, deadline=None)
@given(maps, inputs)
def test_a_run_gives_the_same_bytes_again_and_after_going_back(
    rows: list[str], keys: list[tuple[int, int]]
) -> None:
    project, level = level_of_map(drawn(rows))
    first = walked(project, level, keys)
    again = replay(World.of(project, level), first.run("again"))
    assert first.path().tobytes() == again.path().tobytes() and first.events == again.events
    middle = first.step // 2
    later = first.keys[middle:]
    first.back_to(middle)
    for held in later:
        first.advance(held)
    assert first.path().tobytes() == again.path().tobytes() and first.events == again.events


def test_the_compiled_step_is_the_one_that_is_written(monkeypatch: pytest.MonkeyPatch) -> None:
    """The same walk by the plain loops, uncompiled."""
    from rushweed.core.walk.script import MODULES

    keys = [(R, 60), (R | J, 30), (L, 20), (U, 30), (D, 40), (R | D, 50), (J, 3), (0, 40)]
    rows = drawn(["....H...._..", "....H..(]...", "_._.H./#\\.h.", "............"])
    fast = walked(*level_of_map(rows), keys).path()
    for module in MODULES:
        for name, function in vars(module).items():
            if hasattr(function, "py_func"):
                monkeypatch.setattr(module, name, function.py_func)
    with np.errstate(over="raise"):
        assert np.array_equal(walked(*level_of_map(rows), keys).path(), fast)


# -- the moves one by one ----------------------------------------------------------------------------------


def test_a_jump_is_as_high_and_as_long_as_it_says() -> None:
    walk = walk_on(["." * 9] * 8 + ["....@....", "#########"])
    ground = walk.feet[1]
    go(walk, 0, 10)
    way = go(walk, J, 120)
    assert abs(ground - way[:, 1].min() - LIGHT.jump * 16) < 0.1
    assert abs(int(way[:, 1].argmin()) + 1 - LIGHT.jump_s * k.STEPS) <= 1
    assert math.isclose(gravity_of(LIGHT), 2 * 2.75 / 0.34**2)
    low = walk_on(["." * 9] * 8 + ["....@....", "#########"])
    go(low, 0, 10)
    go(low, J, 4)
    assert ground - go(low, 0, 120)[:, 1].min() < LIGHT.jump * 16 * 0.5


def test_full_speed_after_its_time_and_no_faster() -> None:
    walk = walk_on(["." * 60, "." + "@" + "." * 58, "#" * 60])
    way = go(walk, R, 120)
    speed = np.diff(way[:, 0]) * k.STEPS / 16
    assert (
        abs(speed.max() - LIGHT.run) < 0.01
        and (speed[round(LIGHT.run_s * k.STEPS) :] > LIGHT.run * 0.99).all()
    )


@pytest.mark.parametrize("hill", ["/\\", "()"])
@pytest.mark.parametrize(("keys", "start"), [(R, 24.0), (L, 200.0)])
def test_no_hop_on_slopes(hill: str, keys: int, start: float) -> None:
    """Up, over the crest and down again without leaving the ground."""
    rows = {"/\\": ["....../\\......", "...../##\\....."], "()": ["." * 14, "...([##])....."]}[hill]
    project, level = level_of_map(["." * 14, *rows, "#" * 14], start=(start, 48.0))
    walk = begin(World.of(project, level))
    go(walk, 0, 20)
    top = walk.feet[1]
    for _ in range(260):
        walk.advance(keys)
        assert walk.state[k.MODE] == k.GROUND, walk.feet
        top = min(top, walk.feet[1])
        if not 20 < walk.feet[0] < 204:
            break
    assert top <= 32 and not 20 < walk.feet[0] < 204 and not events(walk, "jumped", "fell")


def test_low_steps_are_walked_up_and_high_ones_stop() -> None:
    walk = walk_on(["." * 12, "@...l...h...", "############"])
    go(walk, R, 200)
    assert (
        walk.feet[1] == 32.0 and walk.feet[0] + walk.body[2] / 2 == 128.0
    )  # past the low one, at the high one
    assert walk.path()[:, 1].min() == 29.0


def test_a_slope_that_is_too_steep_is_slid_down() -> None:
    project, level = level_of_map(["." * 8, "." * 8, "." * 8, "....^...", "########"], start=(76.0, 20.0))
    walk = begin(World.of(project, level))
    way = go(walk, 0, 200)
    assert way[-1, 1] == 64.0 and way[-1, 0] + walk.body[2] / 2 <= 64.5
    go(walk, R, 200)
    assert walk.feet[1] == 64.0  # nor climbed


def test_one_way_from_below_and_down_through() -> None:
    walk = walk_on(["." * 8, "." * 8, "." * 8, "." * 8, "..___...", "...@....", "########"])
    go(walk, 0, 5)
    go(walk, J, 60)
    go(walk, 0, 60)
    assert walk.feet[1] == 64.0 and ("landed", "ledge") in events(walk)
    go(walk, D, 90)
    assert walk.feet[1] == 96.0 and ("dropped", "") in events(walk)
    go(walk, D, 30)
    assert walk.feet[1] == 96.0  # solid ground holds


def test_a_ladder_up_through_a_trapdoor_and_down_again() -> None:
    walk = walk_on(["." * 8, "." * 8, "..__T_..", "....H...", "....H...", "....@...", "########"])
    go(walk, 0, 5)
    go(walk, U, 5)
    assert walk.state[k.MODE] != k.CLIMB  # the ladder ends above
    project, level = level_of_map(
        ["." * 8, "." * 8, "..__T_..", "....H...", "....H...", "....H...", "########"], start=(72.0, 96.0)
    )
    walk = begin(World.of(project, level))
    go(walk, 0, 5)
    go(walk, U, 200)
    assert walk.feet[1] == 32.0 and walk.state[k.MODE] == k.GROUND and ("climbed", "") in events(walk)
    go(walk, L, 40)
    assert walk.feet[1] == 32.0
    go(walk, R, 34)
    go(walk, D, 200)
    assert walk.feet[1] == 96.0 and walk.state[k.MODE] == k.GROUND


def test_grace_after_an_edge_and_before_landing() -> None:
    walk = walk_on(
        ["." * 20] * 4 + ["....@..............."] + ["#######............."] + ["." * 20] * 6 + ["#" * 20]
    )
    while walk.state[k.MODE] == k.GROUND or walk.step < 5:
        walk.advance(R)
    go(walk, R, 5)
    walk.advance(R | J)
    assert events(walk, "jumped")
    high = walk_on(["." * 9] * 8 + ["....@....", "#########"])
    go(high, 0, 5)
    go(high, J, 70)
    go(high, 0, 1)
    before = len(events(high, "jumped"))
    while high.state[k.VY] < 0 or high.feet[1] < 136:
        high.advance(0)
    go(high, J, 12)  # pressed before the ground is there
    assert len(events(high, "jumped")) == before + 1


def test_heads_bump_and_rubber_throws_back() -> None:
    walk = walk_on(["#########", "." * 9, "....@....", "#########"])
    go(walk, 0, 5)
    way = go(walk, J, 60)
    assert ("bumped", "") in events(walk) and way[:, 1].min() >= 16 + walk.body[3]
    rubber = walk_on(["." * 9, "....@....", "." * 9, "." * 9, "." * 9, "bbbbbbbbb"])
    go(rubber, 0, 300)
    assert events(rubber, "bounced") and ("landed", "rubber") in events(rubber)


def test_ice_holds_less() -> None:
    stop = {}
    for ground in "#i":
        walk = walk_on(["." * 60, "." + "@" + "." * 58, "#" * 8 + ground * 52])
        go(walk, R, 150)
        at = walk.feet[0]
        go(walk, 0, 120)
        stop[ground] = walk.feet[0] - at
    assert stop["i"] > 10 * stop["#"]


def test_a_group_that_misses_lets_him_through() -> None:
    rows = ["." * 12, "@...g.......", "############"]
    blocked = walk_on(rows)
    go(blocked, R, 200)
    assert blocked.feet[0] < 64
    project, level = level_of_map(rows, walker=Walker(group="me"))
    through = begin(World.of(project, level, "me"))
    go(through, R, 100)
    assert through.feet[0] > 80


def test_sensors_are_told_once_while_side_by_side() -> None:
    walk = walk_on(["." * 12, "@...~~~.....", "############"])
    go(walk, R, 220)
    assert events(walk, "entered", "left") == [("entered", "water"), ("left", "water")]


def test_who_is_in_many_sensors_at_once_asks_one_of_a_name(monkeypatch: pytest.MonkeyPatch) -> None:
    """A wide body in deep water met each of a thousand tiles at each step."""
    world = World.of(*level_of_map(["~" * 60] * 20))
    asked: list[np.ndarray] = []
    real = tiles.overlaps

    def listen(ring: np.ndarray, box: tuple[int, int, int, int]) -> bool:
        asked.append(ring)
        return real(ring, box)

    monkeypatch.setattr(tiles, "overlaps", listen)
    inside = (100 * k.SUB, 100 * k.SUB, 900 * k.SUB, 300 * k.SUB)
    assert world.sensors(inside) == ["water"] and len(asked) == 1
    assert world.sensors((0, 0, 16 * k.SUB, 4 * k.SUB)) == [] and len(asked) == 1, (
        "above the water of its tile"
    )


def test_who_falls_out_is_put_back_and_counted() -> None:
    walk = walk_on(["." * 12, "@...........", "####........"])
    go(walk, R, 400)
    assert walk.falls >= 1 and ("fell", "") in events(walk)


# -- what moves --------------------------------------------------------------------------------------------


def with_thing(rows: list[str], *things: Thing, **fields: object) -> tuple[Project, Level]:
    project, level = level_of_map(rows, **fields)  # type: ignore[arg-type]
    level = replace(level, things=things)
    return replace(project, levels=(level,)), level


def test_carried_by_what_moves() -> None:
    raft = Thing("t", "ledge", (40.0, 80.0), "l", path=Path((96, -32), 2000), motion="moving")
    walk = begin(World.of(*with_thing(["." * 16] * 6 + ["#" * 16], raft, start=(40.0, 64.0))))
    way = go(walk, 0, 480)
    assert not walk.falls and way[:, 0].max() == pytest.approx(136, abs=0.5)
    assert way[:, 1].min() == pytest.approx(32, abs=0.2) and way[-1, 0] == pytest.approx(40, abs=0.5)


def test_crushed_between_a_wall_and_what_moves() -> None:
    press = Thing("t", "solid", (40.0, 96.0), "l", path=Path((64, 0), 1500), motion="moving")
    walk = begin(
        World.of(
            *with_thing(["." * 12] * 5 + ["..." + "...." + "#....", "#" * 12], press, start=(80.0, 96.0))
        )
    )
    go(walk, 0, 200)
    assert ("crushed", "") in events(walk)


def test_a_crate_is_pushed_and_stood_on() -> None:
    crate = Thing("t", "solid", (104.0, 96.0), "l", motion="pushed", weight=2.0)
    project, level = with_thing(["." * 20] * 6 + ["#" * 20], crate, start=(40.0, 96.0))
    walk = begin(World.of(project, level))
    go(walk, R, 300)
    place = walk.bodies.at(walk.step)[0]
    assert place.x > 130 and ("pushed", "solid") in events(walk) and abs(place.y - 96) < 1
    assert walk.feet[0] + walk.body[2] / 2 <= place.x - 8 + 0.6
    heavy = replace(crate, weight=60.0)
    slow = begin(World.of(*with_thing(["." * 20] * 6 + ["#" * 20], heavy, start=(40.0, 96.0))))
    go(slow, R, 300)
    assert slow.bodies.at(slow.step)[0].x < place.x - 20
    on_top = begin(World.of(*with_thing(["." * 20] * 6 + ["#" * 20], crate, start=(104.0, 60.0))))
    go(on_top, 0, 200)
    assert abs(on_top.feet[1] - 80) < 1 and ("landed", "solid") in events(on_top)


def test_going_back_while_a_crate_is_pushed_gives_the_same_again() -> None:
    crate = Thing("t", "solid", (84.0, 96.0), "l", motion="pushed", turns=True)
    project, level = with_thing(["." * 20] * 6 + ["#" * 20], crate, start=(40.0, 96.0))
    walk = begin(World.of(project, level))
    keys = [R] * 150 + [R | J] * 40 + [R] * 110
    for held in keys:
        walk.advance(held)
    path, places = walk.path(), walk.bodies.at(walk.step)
    walk.back_to(170)
    for held in keys[170:]:
        walk.advance(held)
    assert np.array_equal(walk.path(), path) and walk.bodies.at(walk.step) == places


# -- from above --------------------------------------------------------------------------------------------


def test_from_above_along_walls_and_around_corners() -> None:
    rows = ["." * 10, "." * 10, "...#......", "." * 10, "." * 10]
    project, level = level_of_map(rows, view="top", start=(20.0, 44.0), walker=Walker(body=(-6, -12, 12, 12)))
    walk = begin(World.of(project, level))
    go(walk, R, 120)
    assert walk.feet[0] == 42.0  # it stands full in front of the wall
    corner = begin(World.of(project, replace(level, start=(20.0, 34.0))))
    go(corner, R, 120)
    assert corner.feet[0] > 60 and abs(corner.feet[1] - 32) < 0.01  # 2 px hung on the corner
    square = replace(level, walker=Walker(body=(-6, -12, 12, 12), corner_px=0), start=(20.0, 34.0))
    hangs = begin(World.of(project, square))
    go(hangs, R, 120)
    assert hangs.feet[0] == 42.0
    aslant = begin(World.of(project, replace(level, start=(20.0, 44.0))))
    go(aslant, R | D, 60)
    assert aslant.feet[1] > 48  # along the wall


def test_from_above_a_slanted_wall_is_followed() -> None:
    rows = ["." * 8, "....d...", "...d#...", "." * 8, "." * 8, "." * 8]
    rows = ["." * 8, ".d......", ".#d.....", ".##d....", ".###d...", "." * 8]
    project, level = level_of_map(rows, view="top", start=(70.0, 20.0), walker=Walker(body=(-4, -8, 8, 8)))
    walk = begin(World.of(project, level))
    way = go(walk, D, 200)
    assert way[-1, 1] > 60 and way[-1, 0] > 74


def test_from_above_one_enters_from_the_sides_named() -> None:
    rows = ["." * 8, "." * 8, "...n....", "." * 8, "." * 8]
    body = Walker(body=(-4, -8, 8, 8))
    project, level = level_of_map(rows, view="top", start=(56.0, 20.0), walker=body)
    down = begin(World.of(project, level))
    go(down, D, 100)
    assert down.feet[1] == 32.0
    project, level = level_of_map(rows, view="top", start=(20.0, 44.0), walker=body)
    across = begin(World.of(project, level))
    go(across, R, 100)
    assert across.feet[0] > 70
    inside = begin(World.of(project, replace(level, start=(56.0, 44.0))))
    go(inside, U, 100)
    assert inside.feet[1] < 32  # one may leave anywhere


def test_from_above_diagonals_are_no_faster() -> None:
    project, level = level_of_map(["." * 40] * 40, view="top", start=(100.0, 100.0))
    walk = Walk(World.of(project, level))
    way = go(walk, R | D, 60)
    speed = np.hypot(*np.diff(way, axis=0).T).max() * k.STEPS / 16
    assert abs(speed - LIGHT.run) < 0.02


@pytest.mark.parametrize("walker", [LIGHT, HEAVY])
@pytest.mark.parametrize("rise", [-2, 0, 1])
def test_a_leap_told_is_a_leap_made(walker: Walker, rise: int) -> None:
    """Gaps cell by cell: what is said to be jumped with room is jumped, what is too wide by far is not."""
    for gap in range(2, 12):
        rows = ["." * 40] * 6 + ["#" * 12 + "." * 28] * 6
        rows = [row[: 12 + gap] + ("#" if y >= 6 - rise else ".") * (28 - gap) for y, row in enumerate(rows)]
        project, level = level_of_map(rows, start=(40.0, 96.0), walker=walker)
        walk = begin(World.of(project, level))
        go(walk, 0, 5)
        while walk.feet[0] + 5.8 + walk.body[2] / 2 - walk.body[2] < 12 * 16 - 1:
            walk.advance(R)
        go(walk, R | J, 50)
        go(walk, R, 60)
        made = not walk.falls and walk.feet[1] <= 96 - rise * 16 + 0.1 and walk.feet[0] > (12 + gap) * 16 - 8
        told = leap(walker, walk.body[2] / 16, gap, rise)
        if told.can and told.spare > 0.6:
            assert made, (gap, told)
        if not told.can and told.spare < -0.3:
            assert not made, (gap, told)
    assert leap(LIGHT, 0.8, 2, 3).text == "too high to jump by 0.25 u"


# -- the walker, runs, bad input -----------------------------------------------------------------------------


def test_two_ready_walkers_and_ones_own(demo: Demo) -> None:
    project, level_id = demo[0], demo[0].levels[0].id
    assert ready_name(LIGHT) == "light" and ready_name(HEAVY) == "heavy"
    project = take_ready(project, level_id, "heavy")
    walker = project.levels[0].walker
    assert walker is not None and walker.run == HEAVY.run
    project = set_walker(project, level_id, jump=3.5)
    assert ready_name(project.levels[0].walker) == "own"  # type: ignore[arg-type]
    for wrong in (
        {"jump_s": 0.0},
        {"slope": 90.0},
        {"run": math.nan},
        {"body": (0, 0, 0, 4)},
        {"group": "x"},
    ):
        with pytest.raises(EditError):
            set_walker(project, level_id, **wrong)
    with pytest.raises(EditError):
        take_ready(project, level_id, "tiny")


def test_states_are_guessed_by_name_and_set_by_hand(demo: Demo) -> None:
    project = demo[0]
    shown = {moment: a.name for moment, a in shown_when(project, LIGHT).items()}
    assert shown["standing"] == "idle" and shown["running"] == "walk" and shown["climbing"] == "climb"
    light = next(a.id for a in project.animations if a.name == "light")
    project = show_when(project, project.levels[0].id, "landing", light)
    walker = project.levels[0].walker
    assert walker is not None and walker.states == (State("landing", light),)
    assert shown_when(project, walker)["landing"].name == "light"
    body = body_of(project, walker, 16)
    assert body[2] < 24 and body[3] <= 32
    with pytest.raises(EditError):
        show_when(project, project.levels[0].id, "dancing", light)


def test_runs_are_kept_told_and_tested(demo: Demo) -> None:
    project, level = demo[0], demo[0].levels[0]
    walk = begin(World.of(project, level))
    go(walk, R, 40)
    go(walk, 0, 60)
    run = walk.run("to the ladder", must=True)
    assert run.keys == ((0, "r"), (40, "")) and list(keys_of(run)) == walk.keys
    assert told(list(keys_of(run))) == run.keys
    project, run_id = keep_run(project, level.id, run)
    kept = project.levels[0].runs[-1]
    assert kept.id == run_id and arrives(replay(World.of(project, project.levels[0]), kept), kept)
    project = set_walker(project, level.id, run=2.0)
    assert not arrives(replay(World.of(project, project.levels[0]), kept), kept)
    project = change_run(project, level.id, run_id, name="short", must=False)
    assert project.levels[0].runs[-1].name == "short"
    assert remove_run(project, level.id, run_id).levels[0].runs == level.runs
    for wrong in (
        replace(run, keys=((3, "x"),)),
        replace(run, keys=((5, "r"), (2, ""))),
        replace(run, steps=-1),
    ):
        with pytest.raises(EditError):
            check_run(wrong)
    with pytest.raises(EditError, match="another level"):
        replay(World.of(project, project.levels[1]), run)


def test_the_run_of_the_demo_arrives_to_the_last_bit(demo: Demo) -> None:
    """Kept when it was first walked: on every machine it ends in the same place."""
    level = demo[0].levels[0]
    run = level.runs[0]
    walk = replay(World.of(demo[0], level), run)
    assert run.must and walk.feet == run.end and ("climbed", "") in events(walk)


def test_what_cannot_be_walked_is_said_in_a_sentence(demo: Demo) -> None:
    project, level = level_of_map(["." * 8] * 4)
    with pytest.raises(EditError, match="solid"):
        begin(World.of(project, level))
    project, level = level_of_map(["." * 8, "####....", "########"], start=(24.0, 30.0))
    with pytest.raises(EditError, match="does not fit"):
        begin(World.of(project, level))
    world = World.of(*level_of_map(["." * 8, "." * 8, "########"]))
    assert free_place(world, (24.0, 32.0), (12, 29)) and not free_place(world, (24.0, 33.0), (12, 29))
    gone = Thing("t", "nothing", (0.0, 0.0), "l", motion="pushed")
    assert not World.of(
        *with_thing(["." * 8, "." * 8, "########"], gone)
    ).pushed  # a thing whose cell is gone


def test_a_part_of_a_level_gives_the_same_walk_as_all_of_it() -> None:
    rows = ["." * 700] * 3 + ["." * 20 + "@" + "." * 679, "#" * 700]
    project, level = level_of_map(rows)
    world = World()
    world.update(project, level, area=(0, 0, 100, 5))
    part, whole = begin(world), walk_on(rows)
    assert not world.knows(400, 64) and len(world.grid.edges) < len(whole.world.grid.edges)
    for _ in range(120):
        part.advance(R)
        whole.advance(R)
    world.complete()
    assert world.knows(400, 64)
    for _ in range(120):
        part.advance(R | J)
        whole.advance(R | J)
    assert np.array_equal(part.path(), whole.path())
    assert np.array_equal(np.unique(world.grid.edges, axis=0), np.unique(whole.world.grid.edges, axis=0))


# -- tiles that play ---------------------------------------------------------------------------------------


def gates(project: Project, shut_ms: int = 500, open_ms: int = 500) -> Project:
    """A floor with a gate in the way: a tile that plays, solid for a while and then not there."""
    sheet = next(s for s in project.sheets if s.name == "boardwalk.png")
    solid, clear = [c for c in sheet.cells if c.name.startswith("post")][:2]
    box = (Box(0, 0, 16, 16),)
    cells = tuple(
        replace(c, shapes=box) if c.id == solid.id else replace(c, shapes=()) if c.id == clear.id else c
        for c in sheet.cells
    )
    sheets = tuple(replace(s, cells=cells) if s.id == sheet.id else s for s in project.sheets)
    gate = Animation("gate", "gate", (Frame(solid.id, shut_ms), Frame(clear.id, open_ms)), tile=True)
    floor = next(c for c in sheet.cells if c.shapes and c.shapes[0].role == "solid" and c.id != solid.id)
    floor_cells = tuple(replace(c, shapes=box) if c.id == floor.id else c for c in cells)
    sheets = tuple(replace(s, cells=floor_cells) if s.id == sheet.id else s for s in sheets)
    tiles = put_region(Tiles(), 0, 10, np.full((1, 40), 8, np.uint32))
    tiles = put_region(tiles, 20, 8, np.full((2, 1), 16, np.uint32))
    layer = TileLayer("l", "l", tiles)
    level = Level(
        "v", "gates", "side", (16, 16), (0, 0, 40, 12), (floor.id, solid.id), (layer,), (160.0, 160.0)
    )
    return replace(project, sheets=sheets, levels=(level,), animations=(gate,))


def test_a_tile_that_plays_stops_him_only_while_it_is_solid(demo: Demo) -> None:
    project = gates(demo[0])
    world = World.of(project, project.levels[0])
    assert len(world.playing) == 1 and all(x < 19 * 16 * k.SUB or x > 21 * 16 * k.SUB for x in edges_x(world))
    walk = begin(world, (296.0, 160.0))
    for _ in range(40):
        walk.advance(k.RIGHT)
    assert walk.feet[0] < 320, "the gate is shut"
    for _ in range(60):
        walk.advance(k.RIGHT)
    assert walk.feet[0] > 330, "it has opened"
    walk.back_to(30)
    for _ in range(10):
        walk.advance(k.RIGHT)
    assert walk.feet[0] < 320, "back in time it is shut again"


def edges_x(world: World) -> list[int]:
    """Where the upright edges stand that do not move."""
    rows = world.grid.edges
    return rows[rows[:, k.EDGE_X0] == rows[:, k.EDGE_X1], k.EDGE_X0].tolist()  # type: ignore[no-any-return]


def test_a_gate_that_closes_on_him_crushes_and_is_told(demo: Demo) -> None:
    project = gates(demo[0], 2000, 500)
    world = World.of(project, project.levels[0])
    walk = begin(world, (300.0, 160.0))
    kinds = set()
    for n in range(330):
        keys = k.RIGHT if n < 270 else 0  # he stands in the gate as it shuts
        kinds |= {event.kind for event in walk.advance(keys if walk.feet[0] < 328 else 0)}
    assert "crushed" in kinds and walk.falls == 1
    met = world.playing.edges(world.playing.frames_at(walk.step))
    assert not enters(met, walk.box) and walk.feet[0] < 320, "he is put back outside of it"
    with pytest.raises(EditError, match="does not fit"):
        begin(world, (328.0, 160.0))


def test_reach_counts_tiles_that_play_as_they_begin(demo: Demo) -> None:
    from rushweed.core.walk.reach import reach

    shut = gates(demo[0])
    far = [p for p in reach(World.of(shut, shut.levels[0])).places if p.x > 400]
    assert far, "he jumps over two tiles"
    wall = put_region(shut.levels[0].layers[0].tiles, 20, 0, np.full((10, 1), 16, np.uint32))  # type: ignore[union-attr]
    level = replace(shut.levels[0], layers=(replace(shut.levels[0].layers[0], tiles=wall),))
    tall = replace(shut, levels=(level,))
    assert not [p for p in reach(World.of(tall, level)).places if p.x > 400]
