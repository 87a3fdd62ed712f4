"""The walk under way: keys become steps, time runs on, slowly, or back."""

from __future__ import annotations

import time
from collections.abc import Callable
from importlib import import_module
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from rushweed.core.document.errors import RushweedError
from rushweed.core.document.model.level import Level, Run
from rushweed.core.walk import camera
from rushweed.core.walk.terms import DOWN, FACING, JUMP, LEFT, RIGHT, STEPS, UP
from rushweed.ui.session import Session
from rushweed.ui.session.jobs import How, Job
from rushweed.ui.stages.walk.jump_log import JumpLog, feet_at

if TYPE_CHECKING:
    from rushweed.core.walk.record import Event, Walk
    from rushweed.core.walk.world import World

FRAME_MS = 16
LARGE, FIRST = 512 * 512, 96  # cells of a level that is made ready by parts, and how far the first reaches
MOST_STEPS = 24  # a frame: after a pause of the machine the walk does not jump ahead
ABOVE = 96  # px above the pointer at which he is looked for room
BACK_SPEED = 2.0  # of the time that runs back
LOG_S = 0.25  # between two showings of the log, while nothing happens
BITS = {"left": LEFT, "right": RIGHT, "up": UP, "down": DOWN, "jump": JUMP}


class Play(QObject):
    """One walk of one level. `moved` after each frame, `begun` when there is another walk."""

    moved = pyqtSignal()
    begun = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.clock: Callable[[], float] = time.perf_counter
        self.walk: Walk | None = None
        self.fault: RushweedError | None = None
        self.speed = 1.0
        self.paused = True
        self.back = False  # time runs back
        self.held = 0  # keys, by their bits
        self.lead = 24.0  # px that the camera looks ahead
        self.picture: tuple[float, float] = (256, 144)
        self.camera = camera.Camera(0, 0)
        self.share = 1.0  # of the step under way, for drawing
        self.replaying: list[int] = []  # keys of a run that is shown
        self.log = JumpLog()
        self._world: World | None = None
        self._made_for: tuple[object, ...] = ()
        self._job: Job | None = None
        self._rest: Job | None = None
        self.last_tick = 0.0
        self._due = self._told = 0.0
        self.timer = QTimer(self)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.setInterval(FRAME_MS)
        self.timer.timeout.connect(self.tick)

    @property
    def level(self) -> Level | None:
        return self.session.selection.level

    @property
    def ready(self) -> bool:
        """Whether there is a walk of the level as it is now."""
        return self.walk is not None and self._job is None

    @property
    def waits(self) -> bool:
        """Whether no walk is being made ready."""
        return self._job is None

    # -- beginning -------------------------------------------------------------------------------------

    def start(self, feet: tuple[float, float] | None = None, run: Run | None = None, go: bool = True) -> None:
        """Walk in the level as it is now, from a place, or from its start; with a run, that is walked."""
        level, project = self.level, self.session.project
        if self._job is not None:
            self._job.cancel()
            self._job = None
        self.fault = None
        if level is None:
            self.walk = None
            self.begun.emit()
            return
        known = self._world if self._made_for[:1] == (level.id,) else None
        key = _made_of(self.session)
        place = run.start if run is not None else feet or level.start
        area = None if known is not None and known.area is None else _first_area(level, place)

        def make(job: Job) -> World:
            from rushweed.core.walk.walkers import walker_of
            from rushweed.core.walk.world import World

            import_module(
                "rushweed.core.walk.runs"
            )  # its loops take a while to load: here, beside the window
            made = known or World()
            group = walker_of(level).group
            made.update(project, level, group, None, lambda share: job.tell(share, level.name), area)
            return made

        def done(world: World) -> None:
            self._job = None
            self._world, self._made_for = world, key
            self._begin(feet, run, go)
            if world.area is not None:
                self._complete(world)

        def failed(error: RushweedError) -> None:
            self._job, self.walk, self.fault, self._made_for = None, None, error, key
            self.look()
            self.begun.emit()

        if known is not None and _same(key, self._made_for) and known.knows(*place):
            self._begin(feet, run, go)
        else:
            self._job = self.session.jobs.start("Getting ready to walk", make, done, failed)

    def _begin(self, feet: tuple[float, float] | None, run: Run | None, go: bool) -> None:
        from rushweed.core.walk.held_keys import keys_of
        from rushweed.core.walk.runs import begin

        assert self._world is not None
        try:
            self.walk = begin(self._world, run.start if run is not None else self._free(feet))
        except RushweedError as error:
            self.walk, self.fault = None, error
            self.look()
            self.begun.emit()
            return
        self.replaying = list(keys_of(run)) if run is not None else []
        self.log, self.held, self.back, self._due, self.share = JumpLog(), 0, False, 0.0, 1.0
        self.look()
        self.begun.emit()
        if go:
            self.go()
        self._tell()

    def _free(self, feet: tuple[float, float] | None) -> tuple[float, float] | None:
        """A place for him at the pointer, or a little above; None, the start, where there is none."""
        from rushweed.core.walk.walkers import body_of, units_of, walker_of
        from rushweed.core.walk.world import free_place

        world = self._world
        if feet is None or world is None:
            return None
        project, level = world.project, world.level
        body = body_of(project, walker_of(level), units_of(project, level), level.view != "side")
        for up in range(0, ABOVE, 2):
            if free_place(world, (feet[0], feet[1] - up), body[2:]):
                return feet[0], feet[1] - up
        return None

    def _complete(self, world: World) -> None:
        """Make the rest of a large level ready while he walks already."""
        name = world.level.name
        self._rest = self.session.jobs.start(
            f"The rest of {name}",
            lambda job: world.complete(lambda share: job.tell(share, name)),
            how=How(slow=True),
        )

    def stale(self) -> bool:
        """Whether the level, or something it is made of, is another one than the walk's."""
        now = _made_of(self.session)
        return not self._made_for or not _same(now, self._made_for)

    @property
    def world(self) -> World | None:
        return self._world

    # -- time ------------------------------------------------------------------------------------------

    def go(self) -> None:
        """Let time run."""
        if self.walk is not None and self.paused:
            self.paused = False
            self.last_tick = self.clock()
            self.timer.start()
            self.moved.emit()

    def pause_or_go(self) -> None:
        """The other of the two."""
        if self.paused:
            self.go()
        else:
            self.pause()

    def pause(self) -> None:
        """Stand still; keys count as let go."""
        self.held, self.back = 0, False
        if not self.paused:
            self.paused = True
            self.timer.stop()
            self._tell()
            self.moved.emit()

    def leave(self) -> None:
        """Nobody looks: time stands, and what was to begin does not."""
        for job in (self._job, self._rest):
            if job is not None:
                job.cancel()
        self._job = self._rest = None
        self.pause()

    def tick(self) -> None:
        """A frame: as many steps as the time that has passed asks for."""
        now = self.clock()
        passed, self.last_tick = now - self.last_tick, now
        if self.walk is None:
            return
        if self.back:
            self._due -= passed * BACK_SPEED * STEPS
            steps, self._due = int(-self._due), self._due + int(-self._due)
            if steps:
                self.go_back(steps)
        else:
            self._due = min(self._due + passed * self.speed * STEPS, MOST_STEPS)
            steps, self._due = int(self._due), self._due - int(self._due)
            self.advance(steps)
            self.share = self._due
        if now - self._told > LOG_S:
            self._tell()
        self.moved.emit()

    def advance(self, steps: int) -> None:
        """So many steps with the keys held, or those of the run that is shown."""
        walk = self.walk
        if walk is None:
            return
        happened: list[Event] = []
        for _ in range(steps):
            if not walk.world.knows(*walk.feet):
                self.session.tell("told", "The rest of the level is being made ready.", "Wait a moment.")
                self.pause()
                break
            keys = self.held
            if self.replaying:
                keys = self.replaying.pop(0)
            happened += walk.advance(keys)
        if happened:
            self.log.note(walk, happened)
            self._tell()
        self._follow(steps)

    def one_step(self) -> None:
        """A single step, while time stands still."""
        self.share = 1.0
        self.advance(1)
        self.moved.emit()

    def go_back(self, steps: int) -> None:
        if self.walk is not None:
            self.to_step(self.walk.step - steps)

    def to_step(self, step: int) -> None:
        """Be where he was after so many steps."""
        walk = self.walk
        if walk is None:
            return
        walk.back_to(step)
        self.replaying, self.share = [], 1.0
        self.log.back_to(walk.step)
        self._follow(6)
        self._tell()

    def drop(self, feet: tuple[float, float]) -> None:
        """Put him somewhere else; what was walked is forgotten."""
        if self.walk is not None:
            from rushweed.core.walk.record import Walk

            self.walk = Walk(self.walk.world, feet)
            self.replaying, self.log, self._due, self.share = [], JumpLog(), 0.0, 1.0
            self._tell()
            self.moved.emit()

    # -- camera ----------------------------------------------------------------------------------------

    def look(self) -> None:
        """Bring him into the picture at once, or the start where he cannot walk."""
        if self.walk is not None:
            self.camera = camera.look_at(
                self.walk.world.level, self.walk.feet, self.picture, self.walk.body[3]
            )
        elif self.fault is not None and self.level is not None:
            self.camera = camera.look_at(self.level, self.level.start, self.picture, 0)

    def _follow(self, steps: int) -> None:
        walk = self.walk
        if walk is None:
            return
        him = camera.Followed(walk.feet, walk.body[3], int(walk.state[FACING]), self.lead)
        self.camera = camera.follow(self.camera, walk.world.level, self.picture, him, steps)

    def feet(self) -> tuple[float, float]:
        """Where he is drawn: between the last two steps."""
        assert self.walk is not None
        (x0, y0), (x1, y1) = feet_at(self.walk, self.walk.step - 1), self.walk.feet
        if self.share >= 1 or abs(x1 - x0) + abs(y1 - y0) > 32:
            return x1, y1
        return x0 + (x1 - x0) * self.share, y0 + (y1 - y0) * self.share

    # -- what happened ---------------------------------------------------------------------------------

    def _tell(self) -> None:
        """The log, newest first, and what Paint shows."""
        self._told = self.clock()
        walk = self.walk
        if walk is None:
            self.session.tell_walk(None, [])
            return
        self.session.tell_walk(self.log.walked(walk), self.log.rows(walk))


def _same(one: tuple[object, ...], two: tuple[object, ...]) -> bool:
    return one[:1] == two[:1] and all(a is b for a, b in zip(one[1:], two[1:], strict=True))


def _first_area(level: Level, feet: tuple[float, float]) -> tuple[int, int, int, int] | None:
    """Of a large level the cells around a place, which are made ready first."""
    if level.bounds[2] * level.bounds[3] <= LARGE:
        return None
    column, row = int(feet[0] // level.cell[0]), int(feet[1] // level.cell[1])
    return column - FIRST, row - FIRST, 2 * FIRST, 2 * FIRST


def _made_of(session: Session) -> tuple[object, ...]:
    """What a walk depends on."""
    level, project = session.selection.level, session.project
    if level is None:
        return ("",)
    parts = (level.layers, level.things, level.table, level.bounds, level.cell, level.view, level.walker)
    return level.id, *parts, project.sheets, project.animations, project.groups
