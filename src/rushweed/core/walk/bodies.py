"""Things that are pushed: bodies with weight, damping, turning and pins. Their physics is pymunk's.

The space is made anew at each whole second from places and speeds alone, so that a second begins the same
whether it was walked to or gone back to. Only what is solid near the bodies is in it, what moves, and the
walker as a box that gives way to nothing; how he moves is never asked of it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from rushweed.core.document.model.shape import Circle, Shape
from rushweed.core.level.things import Shown
from rushweed.core.shape.convex import convex_parts
from rushweed.core.walk import edge_kernels
from rushweed.core.walk import terms as k
from rushweed.core.walk.edges import NO_EDGES, ROOM, ring_edges

if TYPE_CHECKING:
    import pymunk

    from rushweed.core.walk.world import World

AROUND = 640  # px around a body from which solids count for the next second
GRAVITY = 40.0  # units a second squared
TURNS = 1 << 16  # of a radian: turned by less a body has the same edges
UNITS = 256  # of a px: where bodies are told to be
EVERY = k.STEPS  # steps between two makings of the space
THICK = 0.1  # px by which solid lines are thickened


class Place(NamedTuple):
    """Where a body is and how it moves: px, px a second, radians."""

    x: float
    y: float
    vx: float
    vy: float
    turn: float
    spin: float


class Push(NamedTuple):
    """Which body is leaned on, and which way (x, y)."""

    body: int
    way: tuple[int, int]


Box = tuple[int, int, int, int]


class Bodies:
    """All pushed things of a level, as they are after some step."""

    def __init__(self, world: World, ppu: float, strength: float, falls: bool) -> None:
        self._world, self._ppu, self._strength, self._falls = world, ppu, strength, falls
        self.things: list[tuple[Shown, list[Shape]]] = list(world.pushed)
        self._places = [Place(*shown.foot, 0.0, 0.0, 0.0, 0.0) for shown, _shapes in self.things]
        self.parts = [[_convex(shown, s) for s in shapes] for shown, shapes in self.things]
        self._kept: dict[int, list[Place]] = {0: list(self._places)}  # by whole seconds
        self._history: list[list[Place]] = [list(self._places)]
        self._edges: tuple[list[tuple[int, int, int]], np.ndarray] = (
            [],
            np.zeros((0, k.EDGE_COLUMNS), np.int64),
        )
        self._space: pymunk.Space
        self._made: list[pymunk.Body] = []
        self._walker: pymunk.Body
        self._movers: list[pymunk.Body] = []

    @property
    def count(self) -> int:
        """How many there are."""
        return len(self.things)

    def name(self, n: int) -> str:
        """Of the cell that a body shows."""
        return self.things[n][0].cell.name

    def at(self, step: int) -> list[Place]:
        """Where all bodies were after a step."""
        return self._history[min(step, len(self._history) - 1)]

    def places(self) -> list[tuple[int, int]]:
        """Where they are now, 1/65536 px on whole 1/256 px."""
        return [(_whole(p.x), _whole(p.y)) for p in self._places]

    def edges(self) -> np.ndarray:
        """What the walker meets of them."""
        key = [(*whole, round(p.turn * TURNS)) for whole, p in zip(self.places(), self._places, strict=True)]
        if key == self._edges[0]:
            return self._edges[1]
        made, first = [NO_EDGES], len(self._world.movers)
        for n, (place, parts, (_shown, shapes)) in enumerate(
            zip(self._places, self.parts, self.things, strict=True)
        ):
            cos, sin = np.cos(place.turn), np.sin(place.turn)
            for rings, shape in zip(parts, shapes, strict=True):
                for ring in rings:
                    x = ring[:, 0] * cos - ring[:, 1] * sin + place.x
                    y = ring[:, 0] * sin + ring[:, 1] * cos + place.y
                    whole = np.rint(np.stack((x, y), 1) * UNITS).astype(np.int64) * (k.SUB // UNITS)
                    made.append(ring_edges(whole, shape, first + n))
        self._edges = (key, np.concatenate(made))
        return self._edges[1]

    def advance(self, step: int, box: Box, push: Push | None, moves: list[tuple[int, int]]) -> None:
        """From `step` on by one, with the walker's box where it is and what he pushes, to which side."""
        if step % EVERY == 0 or not self._made:
            self._make(step, box)
        self._walker.position = (box[0] + box[2]) / 2 / k.SUB, (box[1] + box[3]) / 2 / k.SUB
        for body, (dx, dy) in zip(self._movers, moves, strict=True):
            there = dx / k.SUB, dy / k.SUB
            body.velocity = ((there[0] - body.position.x) * k.STEPS, (there[1] - body.position.y) * k.STEPS)
        if push is not None:
            body, force = self._made[push.body], self._strength * self._ppu
            body.apply_force_at_world_point(
                (push.way[0] * force, push.way[1] * force), (body.position.x, body.position.y)
            )
        for body, (shown, _shapes) in zip(self._made, self.things, strict=True):
            slower = max(1 - shown.thing.damping / k.STEPS, 0.0)
            if not self._falls:
                slower *= 1 - 6 / k.STEPS  # nothing glides for long on the ground that is seen from above
            body.velocity = body.velocity * slower
            body.angular_velocity *= slower
        self._space.step(1 / k.STEPS)
        self._places = [
            Place(*b.position, *b.velocity, float(b.angle), float(b.angular_velocity)) for b in self._made
        ]
        del self._history[step + 1 :]
        self._history.append(list(self._places))

    def back_to(self, step: int, walked: Callable[[int], tuple[Box, Push | None]]) -> None:
        """As they were after an earlier step: from the whole second before on, with the walker's box and what
        he leaned on after each step as they are known."""
        start = step // EVERY * EVERY
        self._places = list(self._history[start])
        del self._history[start + 1 :]
        self._made = []
        for n in range(start, step):
            self.advance(n, *walked(n), [m.at(n + 1) for m in self._world.movers])

    def _make(self, step: int, box: tuple[int, int, int, int]) -> None:
        """The space of the next second."""
        import pymunk

        self._space = space = pymunk.Space()
        space.gravity = (0, GRAVITY * self._ppu) if self._falls else (0, 0)
        space.iterations = 20
        self._made, self._movers = [], []
        for place, parts, (shown, shapes) in zip(self._places, self.parts, self.things, strict=True):
            self._made.append(self._add_body(space, place, parts, shown, shapes))
        self._walker = pymunk.Body(body_type=pymunk.Body.KINEMATIC)
        wide, high = (box[2] - box[0]) / k.SUB, (box[3] - box[1]) / k.SUB
        figure = pymunk.Poly.create_box(self._walker, (max(wide - 1, 0.5), max(high - 1, 0.5)))
        figure.friction = 0.2
        self._walker.position = (box[0] + box[2]) / 2 / k.SUB, (box[1] + box[3]) / 2 / k.SUB
        space.add(self._walker, figure)
        for mover in self._world.movers:
            body = pymunk.Body(body_type=pymunk.Body.KINEMATIC)
            x, y = mover.at(step)
            body.position = x / k.SUB, y / k.SUB
            lines = [_line(body, row) for row in mover.edges.tolist()]
            space.add(body, *lines)
            self._movers.append(body)
        for row in self._solids():
            space.add(_line(space.static_body, row))

    def _add_body(
        self,
        space: pymunk.Space,
        place: Place,
        parts: list[list[np.ndarray]],
        shown: Shown,
        shapes: list[Shape],
    ) -> pymunk.Body:
        import pymunk

        thing = shown.thing
        made = pymunk.Body()
        figures = []
        for rings, shape in zip(parts, shapes, strict=True):
            for ring in rings:
                figure = pymunk.Poly(made, [(float(x), float(y)) for x, y in ring])
                figure.density, figure.friction, figure.elasticity = (
                    1.0,
                    shape.friction,
                    min(shape.bounce, 1.0),
                )
                figures.append(figure)
        area = sum(figure.area for figure in figures)
        for figure in figures:
            figure.density = max(thing.weight, 0.01) / max(area, 1.0)
        space.add(made, *figures)
        if not thing.turns:
            made.moment = float("inf")
        made.angle = place.turn  # before the place: it turns about the middle of its weight
        made.position, made.velocity = (place.x, place.y), (place.vx, place.vy)
        made.angular_velocity = place.spin
        if thing.pin is not None:
            at = shown.thing.at[0] + thing.pin[0], shown.thing.at[1] + thing.pin[1]
            local = at[0] - shown.foot[0], at[1] - shown.foot[1]
            space.add(pymunk.PivotJoint(space.static_body, made, at, local))
        return made

    def _solids(self) -> list[list[int]]:
        """The edges around the bodies that they can meet in the next second, in an order of their own."""
        near = np.zeros((ROOM * 4, k.EDGE_COLUMNS), np.int64)
        found: set[tuple[int, ...]] = set()
        for place in self._places:
            x, y, far = round(place.x * k.SUB), round(place.y * k.SUB), AROUND * k.SUB
            box = np.array([x - far, y - far, x + far, y + far], np.int64)
            count = edge_kernels.near_edges(self._world.grid, NO_EDGES, box, near)
            found.update(tuple(row) for row in near[:count].tolist())
        return [list(row) for row in sorted(found)]


class _NoBodies(Bodies):
    """A level without pushed things."""

    def __init__(self) -> None:
        self.things, self._places, self._history = [], [], [[]]

    def edges(self) -> np.ndarray:
        return np.zeros((0, k.EDGE_COLUMNS), np.int64)


def no_bodies() -> Bodies:
    """For a level in which nothing moves."""
    return _NoBodies()


def _whole(value: float) -> int:
    return round(value * UNITS) * (k.SUB // UNITS)


def _line(body: pymunk.Body, row: list[int]) -> pymunk.Segment:
    import pymunk

    a, b = (row[0] / k.SUB, row[1] / k.SUB), (row[2] / k.SUB, row[3] / k.SUB)
    line = pymunk.Segment(body, a, b, THICK)
    line.friction, line.elasticity = row[k.EDGE_FRICTION] / 256, min(row[k.EDGE_BOUNCE] / 256, 1.0)
    return line


def _convex(shown: Shown, shape: Shape) -> list[np.ndarray]:
    """The convex parts of a shape of a thing, px from its foot: float (n, 2), clockwise on screen."""
    from rushweed.core.shape.primitives import clockwise, corners

    a, b, c, d, e, f = shown.matrix()
    ring = clockwise(
        tuple(
            (a * x + b * y + e - shown.foot[0], c * x + d * y + f - shown.foot[1]) for x, y in corners(shape)
        )
    )
    if isinstance(shape, Circle):
        return [np.array(ring)]
    return [np.array(part) for part in convex_parts(ring)]
