"""What can be reached from the start, and what cannot: found by walking, with the keys that get there.

From every place where he can stand the mover walks a set of programs: runs, jumps of several lengths, with
and without a run-up and from the very edge, drops, ladders. Each new place where one ends is walked on from
in turn. Tiles that play count with their first frame. A place is a square of half a cell; of each the first
state that stood there is kept, with what led to it, so that the keys from the start can be told and walked
again. Pushed things stand where they were put.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable

import numpy as np

from rushweed.core.level.things import shown_at
from rushweed.core.walk import terms as k
from rushweed.core.walk.edges import NO_EDGES, grid_of, room_near
from rushweed.core.walk.reached import Key, Missed, Place, Reach
from rushweed.core.walk.runs import begin
from rushweed.core.walk.world import World, displaced

L, R, U, D, J = k.LEFT, k.RIGHT, k.UP, k.DOWN, k.JUMP
PARTS = 6  # of a program at most: keys and steps in turn
PHASES = 4  # of a round of something that moves, at which one may wait for it
BESIDE = 2  # px from a thing within which it is touched
NEAR_PX = 6  # that a place may lie above or below the one it counts for
FAR_CELLS = 64  # outside the level: he is lost


def side_programs(climbs: bool, stride: int) -> list[tuple[int, ...]]:
    """What is tried from a place in a side view: keys and steps in turn; -1 steps hold until in the air. A
    `stride` is so many steps that he comes to the next place."""
    made: list[tuple[int, ...]] = [(J, 40), (J, 12)]
    for way, back in ((L, R), (R, L)):
        made += [(way, n) for n in sorted({2, 4, 6, 8, 12, stride, 40, stride * 2})]
        made += [(way | J, hold, way, after) for hold in (2, 12, 60) for after in (0, 40)]
        made += [(way, 18, way | J, 60, way, after) for after in (0, 40)] + [(way, 18, way | J, 2, way, 40)]
        made += [(way, -1, way | J, hold, way, after) for hold in (2, 12, 60) for after in (0, 40)]
        made += [(J, wait, way | J, 40) for wait in (8, 20)]
        made += [(D, 2, way, 24), (way, -1, way, 40), (way, -1, back, 40), (way | J, 30, back, 40)]
    made.append((D, 2))
    if climbs:
        made += [(key, n) for key in (U, D) for n in (12, 60, 240)]
        made += [(U, 12, way | J, 24) for way in (L, R)] + [(way, 12) for way in (L, R)]
    return made


def drop_programs() -> list[tuple[int, ...]]:
    """What is tried besides from something one-way: a few px aside, and down through it."""
    return [(way, n, 0, 12, D, 2) for way in (L, R) for n in (2, 4, 6, 8, 10)]


def _leaps(program: tuple[int, ...]) -> bool:
    """Whether he leaves the ground, which is what one waits for something that moves for."""
    return any(keys & J for keys in program[::2]) or -1 in program[1::2]


def top_programs(stride: int) -> list[tuple[int, ...]]:
    """What is tried from a place seen from above."""
    ways = (L, R, U, D, L | U, L | D, R | U, R | D)
    return [(way, n) for way in ways for n in sorted({3, 8, stride, stride * 2})]


class _Search:
    """One search; `go` does some of it at a time."""

    def __init__(self, world: World) -> None:
        from rushweed.core.walk import reach_kernels

        self.kernels = reach_kernels
        self.world = world
        walk = begin(world, still=True)
        grid = world.grid
        if len(world.playing):  # tiles that play count as they begin
            begun = world.playing.edges(world.playing.frames_at(0))
            grid = grid_of(np.concatenate((world.grid.edges, begun)), max(world.level.cell))
        self.numbers, self.top = walk.numbers, world.level.view != "side"
        self.start = walk.start
        self.side = max(min(world.level.cell) // 2, 4)
        sub = self.side * k.SUB
        left, top, right, bottom = (round(v) for v in world.box)
        self.columns, self.rows = -(-(right - left) // self.side) + 8, -(-(bottom - top) // self.side) + 24
        out = FAR_CELLS * max(world.level.cell) if not self.top else 0
        corner = [(left - 4 * self.side) * k.SUB, (top - 16 * self.side) * k.SUB, sub]
        lowest = bottom + (8 * world.level.cell[1] if not self.top else 0)
        limits = [(left - out) * k.SUB, (right + out) * k.SUB, (top - out) * k.SUB, lowest * k.SUB]
        self.frame = np.array([*corner, *limits], np.int64)
        self.seen = np.zeros((self.rows, self.columns), np.int64)
        moving = np.concatenate([NO_EDGES, *(m.edges for m in world.movers), walk.bodies.edges()])
        self.bodies = walk.bodies.edges()
        self.tables, self.rounds = self._tables()
        self.programs = self._programs()
        self.most = len(self.programs)  # that are tried where nothing one-way is under him
        self.programs += drop_programs() if not self.top else []
        self.all = np.arange(len(self.programs))
        self.leaping = np.array([n for n in self.all if self.top or _leaps(self.programs[n])], np.int64)
        self.padded = np.zeros((len(self.programs), PARTS), np.int64)
        for n, program in enumerate(self.programs):
            self.padded[n, : len(program)] = program
        self.ground = k.Ground(grid, world.climbs, *room_near())
        self.search = reach_kernels.Search(
            self.numbers, self.ground, moving, self.tables, self.rounds, np.zeros_like(moving),
            np.zeros(5, np.int64), self.seen, self.frame,
        )  # fmt: skip
        self.states: dict[Key, tuple[np.ndarray, int]] = {}
        self.parents: dict[Key, tuple[Key | None, tuple[int, ...], int]] = {}
        self.ways: dict[Key, set[Key]] = {}  # by where they lead, where they come from
        self.queue: deque[Key] = deque()
        self._first(walk.state.copy())

    def _tables(self) -> tuple[np.ndarray, np.ndarray]:
        """Where all that moves is after each step of a round."""
        rows, rounds, at = [np.zeros((1, 2), np.int64)], [], 1
        for mover in self.world.movers:
            once = mover.path is not None and mover.path.play == "once"
            count = round(mover.path.ms * k.STEPS / 1000) + 2 if once and mover.path else mover.period
            rows.append(np.array([displaced(mover.path, n) for n in range(count)], np.int64).reshape(-1, 2))
            low = mover.edges[:, [k.EDGE_X0, k.EDGE_Y0]].min(0) if len(mover.edges) else np.full(2, k.FAR)
            high = mover.edges[:, [k.EDGE_X1, k.EDGE_Y1]].max(0) if len(mover.edges) else np.full(2, -k.FAR)
            rounds += [at, count, 0 if once else 1, *low.tolist(), *high.tolist()]
            at += count
        return np.concatenate(rows), np.array(rounds, np.int64)

    def _programs(self) -> list[tuple[int, ...]]:
        stride = -(-self.side * k.SUB // max(int(self.numbers[k.P_RUN]), 1)) + 2
        if self.top:
            return top_programs(stride)
        return side_programs(len(self.world.climbs) > 0, stride)

    def _waits(self, key: Key, state: np.ndarray) -> list[int]:
        """How long to wait before a try: only where something moves near, that he does not stand on."""
        if not self.world.movers or key[2]:
            return [0]
        reach = 4 * max(self.world.level.cell) * k.SUB
        waits = [0]
        for owner, mover in enumerate(self.world.movers):
            at, count, turns = self.rounds[owner * 7 : owner * 7 + 3].tolist()
            if not len(mover.edges):
                continue
            way = self.tables[at : at + count]
            low = mover.edges[:, [k.EDGE_X0, k.EDGE_Y0]].min(0) + way.min(0) - reach
            high = mover.edges[:, [k.EDGE_X1, k.EDGE_Y1]].max(0) + way.max(0) + reach
            if low[0] <= state[k.X] <= high[0] and low[1] <= state[k.Y] <= high[1]:
                waits += [count * n // PHASES for n in range(1, PHASES if turns else 1)]
        return sorted(set(waits))

    def _key(self, state: np.ndarray, now: int) -> Key:
        sub, owner = self.side * k.SUB, int(state[k.OWNER])
        if owner >= 0 and owner < len(self.world.movers):  # on what moves, by where on it and when
            dx, dy = self.world.movers[owner].at(now)
            count = int(self.rounds[owner * 7 + 1])
            return (int(state[k.X] - dx) // sub, int(state[k.Y] - dy - 1) // sub,
                    (owner + 1) * PHASES + now % count * PHASES // count)  # fmt: skip
        return int(state[k.X]) // sub, int(state[k.Y] - 1) // sub, 0

    def _first(self, state: np.ndarray) -> None:
        """Let him come to stand at the start, and where he steers to before that if he starts in the air."""
        programs = [(), *(tuple(max(v, 0) for v in p) for p in self.programs[: self.most])]
        padded = np.concatenate((np.zeros((1, PARTS), np.int64), np.maximum(self.padded[: self.most], 0)))
        ends, took, _air = self._walk(state, 0, padded)
        for n in np.flatnonzero(took >= 0).tolist():
            key = self._key(ends[n], int(took[n]))
            if key not in self.states:
                self.states[key] = (ends[n].copy(), int(took[n]))
                self.parents[key] = (None, programs[n], int(took[n]))
                self.queue.append(key)

    def _walk(
        self, state: np.ndarray, began: int, programs: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Walk programs from a state: where they end, their steps (-1 where he is lost), and for how many of
        these the keys were held that are held until he is in the air."""
        ends = np.zeros((len(programs), k.STATE_SIZE), np.int64)
        took, air = np.zeros(len(programs), np.int64), np.zeros(len(programs), np.int64)
        out = self.kernels.Walked(ends, took, air)
        self.kernels.run_programs(state, began, programs, out, self.search)
        return ends, took, air

    def go(self) -> bool:
        """Walk on from one place; whether there are more."""
        if not self.queue:
            return False
        key = self.queue.popleft()
        state, now = self.states[key]
        for wait in self._waits(key, state):
            begun, at = state, now
            lead: tuple[tuple[int, int], ...] = ()
            if wait:
                waited, took, _air = self._walk(state, now, np.array([[0, wait, 0, 0, 0, 0]], np.int64))
                if took[0] < 0:
                    continue
                self._note(key, waited[0], now, (0, wait), int(took[0]))
                begun, at = waited[0].copy(), now + int(took[0])
                lead = ((0, int(took[0])),)
            if key[2]:  # ride on
                ridden = int(self.rounds[(key[2] // PHASES - 1) * 7 + 1]) // PHASES
                ends, took, _air = self._walk(begun, at, np.array([[0, ridden, 0, 0, 0, 0]], np.int64))
                if took[0] >= 0:
                    self._note(key, ends[0], at, (0, ridden), int(took[0]))
            tried = self.leaping if wait else self.all if begun[k.ONE_WAY] else self.all[: self.most]
            ends, took, air = self._walk(begun, at, self.padded[tried])
            for n in np.flatnonzero(took >= 0).tolist():
                program = self.programs[tried[n]]
                if program[1] == -1:  # as it was held
                    program = (program[0], int(air[n]), *program[2:])
                self._note(key, ends[n], at, program, int(took[n]), lead)
        return True

    def _note(
        self, key: Key, end: np.ndarray, began: int, program: tuple[int, ...], took: int,
        lead: tuple[tuple[int, int], ...] = (),
    ) -> None:  # fmt: skip
        now = began + took
        there = self._key(end, now)
        self.ways.setdefault(there, set()).add(key)
        if there in self.states:
            return
        keys = tuple(v for part in lead for v in part)
        self.states[there] = (end.copy(), now)
        total = took + sum(steps for _keys, steps in lead)
        self.parents[there] = (key, (*keys, *program), total)
        self.queue.append(there)

    # -- what came of it -------------------------------------------------------------------------------

    def result(self) -> Reach:
        back = self._with_way_back()
        places = tuple(
            Place(float(s[k.X]) / k.SUB, float(s[k.Y]) / k.SUB, key in back, bool(s[k.MODE] == k.CLIMB))
            for key, (s, _t) in self.states.items()
        )
        reached = {(key[0], key[1]) for key in self.states}
        never = [
            (x / k.SUB, y / k.SUB) for x, y in self._standing().tolist()
            if not any((x // (self.side * k.SUB), (y - 1 + d * k.SUB) // (self.side * k.SUB)) in reached
                       for d in (0, -NEAR_PX, NEAR_PX))
        ]  # fmt: skip
        return Reach(self.world.level.id, float(self.side), places, tuple(never), tuple(self._missed()),
                     tuple(self.states), self.parents, self.start)  # fmt: skip

    def _with_way_back(self) -> set[Key]:
        """The places from which the first one can be reached again."""
        first = next(iter(self.states), None)
        if first is None:
            return set()
        found, queue = {first}, deque([first])
        while queue:
            for before in self.ways.get(queue.popleft(), ()):
                if before not in found:
                    found.add(before)
                    queue.append(before)
        return found

    def _standing(self) -> np.ndarray:
        """Every place where he could stand, int64 (n, 2), 1/65536 px, within the level."""
        state = np.zeros(k.STATE_SIZE, np.int64)
        left, top, right, bottom = (round(v * k.SUB) for v in self.world.box)
        room = 4096
        while True:
            out = np.zeros((room, 2), np.int64)
            if self.top:
                area = np.array([left, top, right, bottom, self.side * k.SUB], np.int64)
                count = self.kernels.free_places(self.ground, self.bodies, self.numbers, area, out, state)
            else:
                count = self.kernels.standing_places(
                    self.ground, self.bodies, self.numbers, self.side * k.SUB, out, state
                )
            if count <= room:
                break
            room = count
        out = np.unique(out[:count], axis=0)
        return out[(out[:, 0] >= left) & (out[:, 0] <= right) & (out[:, 1] <= bottom + k.SUB)]

    def _missed(self) -> list[Missed]:
        """Things and sensors that no step of any program touched."""
        level, cw, ch = self.world.level, *self.world.level.cell
        found = []
        for thing in level.things:
            shown = shown_at(thing, self.world.cells, self.world.project)
            if shown is None or not any(x.id == thing.layer and x.keeps_up == (1, 1) for x in level.layers):
                continue
            x, y, wide, high = shown.box()
            if not self._touched(x - BESIDE, y - BESIDE, x + wide + BESIDE, y + high + BESIDE):
                found.append(
                    Missed(
                        "thing", shown.cell.name, (int(shown.foot[0] // cw), int((shown.foot[1] - 1) // ch))
                    )
                )
        for name, spots in self.world.sensor_spots().items():
            if not any(self._touched(x * cw, y * ch, (x + 1) * cw, (y + 1) * ch) for x, y in spots):
                found.append(Missed("sensor", name, spots[0]))
        return found

    def _touched(self, left: float, top: float, right: float, bottom: float) -> bool:
        x, y = self.frame[0] / k.SUB, self.frame[1] / k.SUB
        columns = slice(max(int((left - x) // self.side), 0), max(int((right - 1 - x) // self.side) + 1, 0))
        rows = slice(max(int((top - y) // self.side), 0), max(int((bottom - 1 - y) // self.side) + 1, 0))
        return bool(self.seen[rows, columns].any())


def reach(world: World, tell: Callable[[float, str], None] = lambda _share, _words: None) -> Reach:
    """Search all of a level. `tell` is told how far it is and may leave it by an exception. Raises EditError
    for a level nobody can walk in."""
    search = _Search(world)
    total = max(len(search._standing()), 1)
    count = 0
    while search.go():
        count += 1
        if count % 16 == 0:
            tell(min(count / total, 0.99), f"{count} places")
    return search.result()


def stands_where_told(world: World, found: Reach, x: float, y: float) -> bool:
    """Whether the keys to a reached place, walked again, do stand there."""
    keys = found.keys_to(x, y)
    if keys is None:
        return False
    walk = begin(world, still=True)
    for held in keys:
        walk.advance(held)
    return bool(walk.state[k.MODE] != k.AIR and abs(walk.feet[0] - x) < 0.01 and abs(walk.feet[1] - y) < 0.01)
