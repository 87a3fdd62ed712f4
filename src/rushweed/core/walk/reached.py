"""What was found of where he gets: places, with the keys that lead there."""

from __future__ import annotations

from typing import NamedTuple

from rushweed.core.document.ids import new_id
from rushweed.core.document.model.level import Run
from rushweed.core.walk.held_keys import told

Key = tuple[int, int, int]  # column and row of a place, and of what moves its number from 1


class Place(NamedTuple):
    """A place that was reached: where the feet are, level px; whether there is a way back to the start, and
    whether he hangs on a ladder there."""

    x: float
    y: float
    back: bool
    climbs: bool


class Missed(NamedTuple):
    """A thing or a kind of sensor that cannot be touched, and its cell in the level."""

    kind: str
    name: str
    spot: tuple[int, int]


class Reach(NamedTuple):
    """All that was found out; `never` are places to stand, level px, that nothing leads to."""

    level: str
    side: float  # px of a place
    places: tuple[Place, ...]
    never: tuple[tuple[float, float], ...]
    missed: tuple[Missed, ...]
    keys: tuple[Key, ...]  # of the places
    parents: dict[Key, tuple[Key | None, tuple[int, ...], int]]
    start: tuple[float, float]

    @property
    def no_way_back(self) -> int:
        """How many places are reached from which the start is not."""
        return sum(not place.back for place in self.places)

    def keys_to(self, x: float, y: float) -> list[int] | None:
        """The keys of each step from the start that end standing at a reached place; None for another."""
        number = min(
            range(len(self.places)),
            key=lambda n: abs(self.places[n].x - x) + abs(self.places[n].y - y),
            default=-1,
        )
        if number < 0 or abs(self.places[number].x - x) + abs(self.places[number].y - y) > 2 * self.side:
            return None
        key: Key | None = self.keys[number]
        parts: list[tuple[tuple[int, ...], int]] = []
        while key is not None:
            before, program, steps = self.parents[key]
            parts.append((program, steps))
            key = before
        keys: list[int] = []
        for program, steps in reversed(parts):
            keys += spread(program, steps)
        return keys

    def run_to(self, x: float, y: float) -> Run | None:
        """A run from the start to a reached place."""
        keys = self.keys_to(x, y)
        if keys is None:
            return None
        return Run(new_id(), "way there", self.level, self.start, len(keys), told(keys))


def spread(program: tuple[int, ...], steps: int) -> list[int]:
    """A program as keys by step: those it was walked with, then none until it was over."""
    keys: list[int] = []
    for n in range(0, len(program), 2):
        keys += [program[n]] * program[n + 1]
    return [*keys, *[0] * (steps - len(keys))][:steps]
