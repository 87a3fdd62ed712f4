"""What can be reached: against every way of pressing keys in small levels, and against the runs it tells."""

from __future__ import annotations

from collections import deque

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.level import Level, Room, Thing, Walker
from rushweed.core.document.model.project import Project
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.walk import kernels
from rushweed.core.walk import terms as k
from rushweed.core.walk.camera import Camera, Followed, follow, look_at
from rushweed.core.walk.catches import catches
from rushweed.core.walk.edges import NO_EDGES, room_near
from rushweed.core.walk.reach import reach, stands_where_told
from rushweed.core.walk.reached import Reach, spread
from rushweed.core.walk.record import Walk
from rushweed.core.walk.runs import arrives, begin, replay
from rushweed.core.walk.world import World
from tests.core.test_walk import level_of_map, with_thing

Demo = tuple[Project, PixelCache]
L, R, U, D, J = k.LEFT, k.RIGHT, k.UP, k.DOWN, k.JUMP
EVERY = 6  # steps between two decisions of the brute force


def found_in(rows: list[str], **fields: object) -> tuple[World, Reach]:
    world = World.of(*level_of_map(rows, **fields))  # type: ignore[arg-type]
    return world, reach(world)


def squares(found: Reach) -> set[tuple[int, int]]:
    return {(int(p.x // found.side), int((p.y - 1) // found.side)) for p in found.places}


def by_brute_force(project: Project, level: Level, most: int = 12_000) -> set[tuple[int, int]]:
    """Cells in which a somewhat weaker walker comes to stand, whatever keys are pressed every few steps."""
    weak = replace(level, walker=Walker(run=5.6, jump=2.5, jump_s=0.32))
    world = World.of(replace(project, levels=(weak,)), weak)
    walk = Walk(world)
    ground = k.Ground(world.grid, world.climbs, *room_near())
    lowest = round((world.box[3] + 40) * k.SUB)

    def key(state: np.ndarray) -> tuple[int, ...]:
        parts = (state[k.X] // (4 * k.SUB), state[k.Y] // (4 * k.SUB), state[k.MODE], np.sign(state[k.VX]),
                 state[k.VY] // (k.SUB * 3 // 4), state[k.RISING])  # fmt: skip
        return tuple(int(v) for v in parts)

    seen = {key(walk.state)}
    queue = deque([walk.state.copy()])
    stood: set[tuple[int, int]] = set()
    while queue and len(seen) < most:
        state = queue.popleft()
        for keys in (0, L, R, J, L | J, R | J, D, U):
            now = state.copy()
            for _ in range(EVERY):
                kernels.step(now, keys, walk.numbers, ground, NO_EDGES)
            if now[k.Y] > lowest or abs(now[k.X]) > 60 * 16 * k.SUB:
                continue
            if now[k.MODE] == k.GROUND and now[k.VX] == 0 and 0 <= now[k.X] < 12 * 16 * k.SUB:
                stood.add((int(now[k.X]) // (16 * k.SUB), (int(now[k.Y]) - 1) // (16 * k.SUB)))
            if key(now) not in seen:
                seen.add(key(now))
                queue.append(now)
    return stood


rows_of_letters = st.lists(st.text("#_/\\H.....", min_size=10, max_size=10), min_size=3, max_size=4)


@settings(max_examples=2, deadline=None, derandomize=True, phases=[Phase.generate])
@given(rows_of_letters)
def test_all_that_brute_force_reaches_is_reached(rows: list[str]) -> None:
    rows = ["." * 10, "." * 10, ".@........", *rows, "#" * 10]
    project, level = level_of_map(rows)
    mine = {(int(p.x // 16), int((p.y - 1) // 16)) for p in reach(World.of(project, level)).places}
    missing = by_brute_force(project, level) - mine
    beside = {(x + dx, y + dy) for x, y in mine for dx in (-1, 0, 1) for dy in (-1, 0, 1)}
    assert not missing - beside, missing


@settings(max_examples=8, deadline=None, phases=[Phase.generate])
@given(rows_of_letters)
def test_each_reached_place_is_stood_on_by_the_keys_told(rows: list[str]) -> None:
    rows = ["." * 10, "." * 10, ".@........", *rows, "#" * 10]
    world, found = found_in(rows)
    for place in found.places[:: max(len(found.places) // 12, 1)]:
        assert stands_where_told(world, found, place.x, place.y)


def test_a_gap_too_wide_and_a_ledge_too_high_are_never_reached() -> None:
    rows = ["." * 30, "....................__........", "." * 30, "." * 30, "..........................__..",
            "." * 30, "@.............................", "######...###........#########."]  # fmt: skip
    world, found = found_in([*rows, "." * 30, "." * 30])
    near = {x // 16 for x, _y in found.never}
    assert any(20 <= x <= 28 for x in near)  # beyond the gap of 8
    assert any(9 <= p.x // 16 <= 11 for p in found.places)  # across the gap of 3
    high = replace(world.level, walker=Walker(jump=8.0, jump_s=0.6, run=9.0))
    stronger = reach(World.of(replace(world.project, levels=(high,)), high))
    assert len(stronger.never) < len(found.never)


def test_a_pit_has_no_way_back() -> None:
    rows = ["." * 16, "@...............", "####......######", "####......######", "####......######",
            "####......######", "################"]  # fmt: skip
    _world, found = found_in(rows)
    below = [p for p in found.places if p.y > 90]
    assert below and not any(p.back for p in below) and found.no_way_back >= len(below)
    assert all(p.back for p in found.places if p.y < 40 and p.x < 60)


def test_things_and_sensors_nobody_touches_are_told() -> None:
    rows = [
        "......~.........",
        "." * 16,
        "." * 16,
        "." * 16,
        "." * 16,
        "." * 16,
        "@...........~...",
        "#" * 16,
    ]
    lamp = Thing("t", "low", (200.0, 16.0), "l")
    near = Thing("u", "low", (100.0, 111.0), "l")
    world = World.of(*with_thing(rows, lamp, near, start=(8.0, 112.0)))
    missed = {(m.kind, m.spot) for m in reach(world).missed}
    assert ("thing", (12, 0)) in missed and not any(spot == (6, 6) for _kind, spot in missed)
    assert not any(kind == "sensor" for kind, _spot in missed)  # one of the waters is walked through


def test_what_moves_takes_one_across() -> None:
    rows = ["." * 30] * 5 + ["@" + "." * 29, "####......................####"] + ["." * 30] * 3
    project, level = level_of_map(rows)
    without = reach(World.of(project, level))
    assert not any(p.x > 26 * 16 for p in without.places)
    raft = Thing(
        "t", "ledge", (5 * 16.0 + 8, 7 * 16.0), "l", path=Path((18 * 16.0, 0), 4000), motion="moving"
    )
    level = replace(level, things=(raft,))
    world = World.of(replace(project, levels=(level,)), level)
    found = reach(world)
    across = [p for p in found.places if p.x > 26 * 16 and p.y < 100]
    assert across and stands_where_told(world, found, across[0].x, across[0].y)


def test_large_cells_are_crossed_by_somebody_small() -> None:
    """Places are half a cell wide; he walks on until he is in the next."""
    rows = ["." * 8, ".@......", "########"]
    for view in ("side", "top"):
        project, level = level_of_map(rows, view=view, walker=Walker(run=1.0, body=(-3, -6, 6, 6)))
        found = reach(World.of(project, level))
        assert {int(p.x // 16) for p in found.places} >= set(range(8)), view


def test_a_way_is_a_run_that_arrives(demo: Demo) -> None:
    project, level = demo[0], demo[0].levels[0]
    world = World.of(project, level)
    found = reach(world)
    ledge = min(found.places, key=lambda p: abs(p.x - 22 * 16) + abs(p.y - 7 * 16))
    run = found.run_to(ledge.x, ledge.y)
    assert run is not None and found.run_to(-4000, 0) is None
    walk = begin(world, still=True)
    for keys in found.keys_to(ledge.x, ledge.y) or []:
        walk.advance(keys)
    assert abs(walk.feet[1] - 112) < 1
    assert arrives(replay(world, replace(run, end=walk.feet)), replace(run, end=walk.feet))
    assert spread((L, 2, J, 1), 5) == [L, L, J, 0, 0]


def test_from_above_walls_shut_off(demo: Demo) -> None:
    rows = ["." * 12, ".@...#......", ".....#......", ".....#......", ".....#......"]
    rows = [row[:5] + "#" + row[6:] for row in rows]
    project, level = level_of_map(rows, view="top", walker=Walker(body=(-4, -8, 8, 8)))
    found = reach(World.of(project, level))
    assert found.never and all(x > 96 for x, _y in found.never) and all(p.x < 80 for p in found.places)


def test_a_level_nobody_can_walk_in_is_said() -> None:
    with pytest.raises(EditError, match="solid"):
        reach(World.of(*level_of_map(["." * 8] * 4)))


# -- camera ------------------------------------------------------------------------------------------------


def test_the_camera_keeps_to_the_room_and_stands_still_for_small_moves() -> None:
    _project, level = level_of_map(["." * 60] * 30)
    level = replace(level, rooms=(Room("a", "a", (0, 0, 30, 30)), Room("b", "b", (30, 0, 30, 30), "still")))
    camera = look_at(level, (200.0, 300.0), (256, 144), 30)
    assert camera.corner((256, 144)) == (72.0, 213.0)
    moved = follow(camera, level, (256, 144), Followed((210.0, 300.0), 30, 1, 0.0), 60)
    assert abs(moved.x - camera.x) < 1
    edge = follow(camera, level, (256, 144), Followed((470.0, 300.0), 30, 1, 24.0), 600)
    assert edge.x == 480 - 128  # never past the room's edge
    other = follow(edge, level, (256, 144), Followed((490.0, 300.0), 30, 1, 24.0), 1)
    assert (other.x, other.y, other.room) == (720.0, 240.0, "b")
    small = replace(level, rooms=(Room("c", "c", (0, 0, 4, 4)),))
    assert look_at(small, (10.0, 30.0), (256, 144), 30) == Camera(32.0, 32.0, 0.0, "c")


# -- nothing catches ---------------------------------------------------------------------------------------


def test_level_ground_does_not_catch_whatever_it_is_made_of() -> None:
    rows = ["." * 20, "." * 20, "." * 20, "@.....(####)........", "####################"]
    assert catches(World.of(*level_of_map(rows))) == []


def test_places_that_catch_are_told(demo: Demo) -> None:
    from rushweed.core.document.model.shape import Box
    from tests.core.test_walk import TILES, tile

    raised = tile("raised", Box(0, -0.5, 16, 16.5))
    cells = tuple(raised if c == "g" else cell for c, cell in TILES.items())
    rows = ["." * 20, "." * 20, "." * 20, "@...................", "########g###########"]
    found = catches(World.of(*level_of_map(rows, cells=cells)))
    assert {(c.kind, round(c.at[0])) for c in found} >= {("step", 128)} and len(found) <= 2
    assert catches(World.of(demo[0], demo[0].levels[0])) == []
