"""Where the picture looks: after the walker with a dead zone, ahead of him, and never out of his room."""

from __future__ import annotations

from typing import NamedTuple

from rushweed.core.document.model.level import Level
from rushweed.core.level.rooms import room_at

QUIET = (1 / 8, 1 / 5)  # of the picture's width and height, each way from its middle: there it stands still
EASE = 1 / 24  # of the way it goes a step
STEPS_A_SECOND = 120

Box = tuple[float, float, float, float]


class Camera(NamedTuple):
    """The middle of the picture, level px, and how far it looks ahead of him."""

    x: float
    y: float
    ahead: float = 0.0
    room: str = ""

    def corner(self, picture: tuple[float, float], whole: bool = True) -> tuple[float, float]:
        """The upper left of the picture, on whole px where wished."""
        left, top = self.x - picture[0] / 2, self.y - picture[1] / 2
        return (float(round(left)), float(round(top))) if whole else (left, top)


def bounds_at(level: Level, feet: tuple[float, float]) -> tuple[Box, str, str]:
    """The room he is in, or the level: left, top, right, bottom in px; how its camera goes, and its id."""
    room = room_at(level, feet[0], feet[1] - 1)
    x, y, columns, rows = level.bounds if room is None else room.area
    cw, ch = level.cell
    box = (float(x * cw), float(y * ch), float((x + columns) * cw), float((y + rows) * ch))
    return box, "follows" if room is None else room.camera, "" if room is None else room.id


def inside(middle: float, side: float, low: float, high: float) -> float:
    """The middle of a picture of that side kept within low..high; in their middle where they are too near."""
    if high - low <= side:
        return (low + high) / 2
    return min(max(middle, low + side / 2), high - side / 2)


def look_at(level: Level, feet: tuple[float, float], picture: tuple[float, float], high: float) -> Camera:
    """At somebody `high` px tall who has just come there."""
    return _kept(level, feet, picture, feet[0], feet[1] - high / 2, 0.0)


class Followed(NamedTuple):
    """Somebody `high` px tall with his feet at a place, who faces left (-1) or right (1); the camera looks so
    many px ahead of him."""

    feet: tuple[float, float]
    high: float
    facing: int
    lead: float


def follow(camera: Camera, level: Level, picture: tuple[float, float], him: Followed, steps: int) -> Camera:
    """So many steps later. In another room it is there at once."""
    feet, high, facing, lead = him
    if bounds_at(level, feet)[2] != camera.room:
        return look_at(level, feet, picture, high)
    x, y, now = camera.x, camera.y, camera.ahead
    for _ in range(min(steps, STEPS_A_SECOND)):
        now += (facing * lead - now) * EASE
        for_x, for_y = feet[0] + now, feet[1] - high / 2
        reach_x, reach_y = picture[0] * QUIET[0], picture[1] * QUIET[1]
        x += (min(max(x, for_x - reach_x), for_x + reach_x) - x) * EASE * 4
        y += (min(max(y, for_y - reach_y), for_y + reach_y) - y) * EASE * 4
    return _kept(level, feet, picture, x, y, now)


def _kept(
    level: Level, feet: tuple[float, float], picture: tuple[float, float], x: float, y: float, ahead: float
) -> Camera:
    (left, top, right, bottom), goes, room = bounds_at(level, feet)
    if goes in ("still", "down"):
        x = (left + right) / 2
    if goes in ("still", "across"):
        y = (top + bottom) / 2
    return Camera(inside(x, picture[0], left, right), inside(y, picture[1], top, bottom), ahead, room)
