"""A walk under way: step by step, back in time, and as a run that can be kept and walked again."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.ids import new_id
from rushweed.core.document.model.level import Run
from rushweed.core.walk import kernels
from rushweed.core.walk import terms as k
from rushweed.core.walk.bodies import Bodies, Push, no_bodies
from rushweed.core.walk.edges import room_near, shifted
from rushweed.core.walk.held_keys import told
from rushweed.core.walk.walkers import body_of, numbers_of, units_of, walker_of
from rushweed.core.walk.world import World, enters

DEEP = 8  # cells below the level from which he is put back

WORDS = {
    k.JUMPED: "jumped", k.LANDING: "landed", k.BUMPED: "bumped", k.DROPPED: "dropped", k.GRABBED: "climbed",
    k.LET_GO: "let go", k.BOUNCED: "bounced", k.CRUSHED: "crushed",
}  # fmt: skip


class Event(NamedTuple):
    """Something that happened at a step: jumped, landed, bumped, dropped, climbed, let go, bounced, crushed,
    pushed, fell, entered, left. `what` names what was met, `speed` is units a second, `at` level px."""

    step: int
    kind: str
    at: tuple[float, float]
    what: str = ""
    speed: float = 0.0


class Walk:
    """One walker in a world. `advance` by keys; `back_to` any step of the last minute."""

    def __init__(self, world: World, start: tuple[float, float] | None = None, still: bool = False) -> None:
        """With `still` pushed things stand where they were put."""
        self.world, self._still = world, still
        level, project = world.level, world.project
        self.walker = walker_of(level)
        self.ppu = units_of(project, level)
        self.body = body_of(project, self.walker, self.ppu, level.view != "side")
        self.numbers = numbers_of(self.walker, self.body, self.ppu, level.view != "side")
        self.start = level.start if start is None else start
        self.state = standing_state(self.start)
        self.bodies = (
            Bodies(world, self.ppu, self.walker.strength, level.view == "side")
            if world.pushed
            else no_bodies()
        )
        self.step = 0
        self.falls = 0
        self.events: list[Event] = []
        self.keys: list[int] = []
        self._states = [self.state.copy()]
        self._path = np.zeros((k.LONGEST_S * k.STEPS + 1, 2))
        self._path[0] = self.feet
        self._first = 0  # the step of the first kept state
        self._inside: tuple[str, ...] = ()  # names of sensors
        self._room = room_near()
        self._body_edges = self.bodies.edges()
        self._moving = world.moving_edges(0, self._body_edges)
        self._shown: tuple[object, ...] = ()  # what of the tiles that play is met
        self._play(0)

    # -- where he is -----------------------------------------------------------------------------------

    @property
    def feet(self) -> tuple[float, float]:
        """The middle of the body's foot, level px."""
        return float(self.state[k.X]) / k.SUB, float(self.state[k.Y]) / k.SUB

    @property
    def box(self) -> tuple[int, int, int, int]:
        """The body: left, top, right, bottom, 1/65536 px."""
        return box_of(self.state, self.numbers)

    @property
    def ms(self) -> float:
        """Since the walk began."""
        return self.step * 1000 / k.STEPS

    def kept_from(self) -> int:
        """The earliest step to go back to."""
        return self._first

    def state_at(self, step: int) -> np.ndarray:
        """The state after so many steps, as far as it is kept."""
        return self._states[min(max(step, self._first), self.step) - self._first]

    # -- moving ----------------------------------------------------------------------------------------

    def _ground(self) -> k.Ground:
        """What stands still now: the world may have come to know more."""
        return k.Ground(self.world.grid, self.world.climbs, *self._room)

    def advance(self, keys: int) -> list[Event]:
        """One step with these keys held; what happened in it."""
        crushed, box, push = False, self.box, self.pushes()
        for owner, mover in enumerate(self.world.movers):
            (x0, y0), (x1, y1) = mover.at(self.step), mover.at(self.step + 1)
            if (x0, y0) != (x1, y1) and len(mover.edges):
                crushed |= self._carried(owner, x1 - x0, y1 - y0)
        if self.bodies.count and not self._still:
            self._push(box, push)
        crushed |= self._play(self.step + 1)
        kernels.step(self.state, keys, self.numbers, self._ground(), self._moving)
        self.step += 1
        self.keys.append(keys)
        happened = self._happened(crushed)
        if crushed or self._is_out():
            self._put_back()
        self.events += happened
        self._keep()
        return happened

    def _carried(self, owner: int, dx: int, dy: int) -> bool:
        crushed = kernels.carry(self.state, self.numbers, self._ground(), self._moving, owner, (dx, dy))
        mine = self._moving[:, k.EDGE_OWNER] == owner
        self._moving[mine] = shifted(self._moving[mine], dx, dy)
        return bool(crushed)

    def _push(self, box: tuple[int, int, int, int], push: Push | None) -> None:
        """The bodies go on by a step, and take along who stands on one."""
        before = self.bodies.places()
        moves = [m.at(self.step + 1) for m in self.world.movers]
        self.bodies.advance(self.step, box, push, moves)
        first = len(self.world.movers)
        for n, ((x0, y0), (x1, y1)) in enumerate(zip(before, self.bodies.places(), strict=True)):
            if (x0, y0) != (x1, y1):
                self._carried(first + n, x1 - x0, y1 - y0)
        edges = self.bodies.edges()
        if edges is self._body_edges:
            return
        self._body_edges = edges
        fixed = self._moving[self._moving[:, k.EDGE_OWNER] < first]
        self._moving = np.concatenate((fixed, edges))
        kernels.settle(self.state, self.numbers, self._ground(), self._moving)

    def _play(self, step: int) -> bool:
        """Meet the tiles that play as they are after a step; whether one has closed on him."""
        playing = self.world.playing
        if not len(playing):
            return False
        frames, box = playing.frames_at(step), self.box
        wide = max(self.world.level.cell) * k.SUB
        now = (frames, box[0] // wide, box[1] // wide)
        if now == self._shown:
            return False
        closes, self._shown = bool(self._shown) and frames != self._shown[0], now
        met = playing.edges(frames, box)
        self._moving = np.concatenate((self._moving[self._moving[:, k.EDGE_OWNER] >= 0], met))
        return closes and enters(met, box)

    def pushes(self) -> Push | None:
        """The pushed body that he leans on, and which way."""
        return push_of(self.state, len(self.world.movers))

    def _pushed_lately(self, push: Push) -> bool:
        """Whether he leaned on the same body in the last half second: a push goes on with gaps."""
        before = self._states[-k.STEPS // 2 :]
        return any(push_of(state, len(self.world.movers)) == push for state in before)

    def _is_out(self) -> bool:
        left, _top, right, bottom = self.world.box
        cw, ch = self.world.level.cell
        x, y = self.feet
        return y > bottom + DEEP * ch or x < left - 64 * cw or x > right + 64 * cw

    def _put_back(self) -> None:
        """At the last safe place."""
        self.falls += 1
        fresh = standing_state((0.0, 0.0))
        fresh[k.X], fresh[k.Y] = self._safe_place()
        fresh[k.SAFE_X], fresh[k.SAFE_Y] = fresh[k.X], fresh[k.Y]
        fresh[k.KEYS], fresh[k.FACING] = self.state[k.KEYS], self.state[k.FACING]
        self.state[:] = fresh

    def _safe_place(self) -> tuple[int, int]:
        """The last place where he stood safely and which no tile that plays fills now; else the start."""
        place = int(self.state[k.SAFE_X]), int(self.state[k.SAFE_Y])
        if not self._shown:
            return place
        tried = set()
        for state in (self.state, *reversed(self._states)):
            place = int(state[k.SAFE_X]), int(state[k.SAFE_Y])
            if place not in tried and not self._is_filled(state, place):
                return place
            tried.add(place)
        start = standing_state(self.start)
        return int(start[k.X]), int(start[k.Y])

    def _is_filled(self, state: np.ndarray, place: tuple[int, int]) -> bool:
        there = state.copy()
        there[k.X], there[k.Y] = place
        box = box_of(there, self.numbers)
        return enters(self.world.playing.edges(self.world.playing.frames_at(self.step), box), box)

    def _happened(self, crushed: bool) -> list[Event]:
        at, state = self.feet, self.state
        made = [Event(self.step, "crushed", at)] if crushed else []
        events = int(state[k.EVENTS])
        for bit, word in WORDS.items():
            if bit == k.LANDING and int(state[k.SPEED]) < 4 * int(self.numbers[k.P_GRAVITY]):
                continue  # he was only put there
            if events & bit:
                speed = float(state[k.SPEED]) / k.SUB * k.STEPS / self.ppu if bit == k.LANDING else 0.0
                what = self.stands_on() if bit == k.LANDING else ""
                made.append(Event(self.step, word, at, what, round(speed, 2)))
        pushed = self.pushes()
        if pushed is not None and not self._pushed_lately(pushed):
            made.append(Event(self.step, "pushed", at, self.bodies.name(pushed[0])))
        if not crushed and self._is_out():
            made.append(Event(self.step, "fell", at))
        return made + self._sensed(at)

    def stands_on(self) -> str:
        """The name of the tile or thing under his feet."""
        owner = int(self.state[k.OWNER])
        if owner >= len(self.world.movers):
            return self.bodies.name(owner - len(self.world.movers))
        if owner >= 0:
            return self.world.movers[owner].cell.name
        left, _top, right, bottom = self.box
        under = self.world.touched((left, bottom, right, bottom + k.SUB // 2))
        middle = (left + right) / 2
        wide = self.world.level.cell[0] * k.SUB
        nearest = min(under, key=lambda one: abs((one[1][0] + 0.5) * wide - middle), default=None)
        return nearest[0].name if nearest is not None else ""

    def _sensed(self, at: tuple[float, float]) -> list[Event]:
        """Sensors entered and left; those of one kind side by side are one."""
        before, self._inside = self._inside, self._sensors()
        made = [Event(self.step, "entered", at, name) for name in self._inside if name not in before]
        return made + [Event(self.step, "left", at, name) for name in before if name not in self._inside]

    def _sensors(self) -> tuple[str, ...]:
        """The names of the sensors he is in."""
        return tuple(dict.fromkeys(self.world.sensors(self.box, self.step)))

    def _keep(self) -> None:
        self._states.append(self.state.copy())
        if len(self._states) > len(self._path):
            del self._states[0]
            self._first += 1
            self._path[:-1] = self._path[1:]
        self._path[len(self._states) - 1] = self.feet

    # -- back in time ----------------------------------------------------------------------------------

    def back_to(self, step: int) -> None:
        """Be where he was after so many steps; what came later is gone."""
        step = min(max(step, self._first), self.step)
        if step == self.step:
            return
        del self._states[step - self._first + 1 :]
        del self.keys[step:]
        self.events = [e for e in self.events if e.step <= step]
        self.state[:] = self._states[-1]
        self.step = step
        if self.bodies.count and not self._still:
            self.bodies.back_to(
                step,
                lambda n: (
                    box_of(self.state_at(n), self.numbers),
                    push_of(self.state_at(n), len(self.world.movers)),
                ),
            )
        self._body_edges = self.bodies.edges()
        self._moving = self.world.moving_edges(step, self._body_edges)
        self._shown = ()
        self._play(step)
        self._inside = self._sensors()

    def path(self) -> np.ndarray:
        """Where his feet were after each kept step: float (n, 2), level px."""
        return self._path[: len(self._states)].copy()

    def run(self, name: str = "run", must: bool = False) -> Run:
        """The walk so far, to be kept."""
        return Run(
            new_id(), name, self.world.level.id, self.start, len(self.keys), told(self.keys), self.feet, must
        )


def standing_state(feet: tuple[float, float]) -> np.ndarray:
    """The state of somebody who is put at a place."""
    state = np.zeros(k.STATE_SIZE, np.int64)
    state[k.X] = state[k.SAFE_X] = round(feet[0] * 256) * 256
    state[k.Y] = state[k.SAFE_Y] = round(feet[1] * 256) * 256
    state[k.OWNER], state[k.FACING], state[k.LANDED] = -1, 1, k.STEPS
    return state


def push_of(state: np.ndarray, movers: int) -> Push | None:
    """Which body, after so many movers, somebody in a state leans on, and which way."""
    owner = int(state[k.PUSHES]) // 4 - 1 - movers
    return Push(owner, k.PUSH_WAYS[int(state[k.PUSHES]) % 4]) if owner >= 0 else None


def box_of(state: np.ndarray, numbers: np.ndarray) -> tuple[int, int, int, int]:
    """The body of a state: left, top, right, bottom, 1/65536 px."""
    half, x, y = int(numbers[k.P_WIDE]) // 2, int(state[k.X]), int(state[k.Y])
    return x - half, y - int(numbers[k.P_HIGH]), x + half, y
