"""Rooms: named rectangles of a level, in cells, that do not lie over one another."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import level_of, put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.level import Level, Room
from rushweed.core.document.model.project import Project

Area = tuple[int, int, int, int]
CAMERAS = ("follows", "still", "across", "down")
NEAR = 2  # cells within which an edge snaps to that of another room or the level
GAP = 4  # cells: narrower strips between rooms are told as gaps


class RoomFault(NamedTuple):
    """Two rooms that lie over each other, or leave a narrow gap between them; `area` is that place."""

    what: str
    rooms: tuple[str, ...]
    area: Area


def room_of(level: Level, room_id: str) -> Room:
    """Raises EditError if the level has none with that id."""
    found = next((room for room in level.rooms if room.id == room_id), None)
    if found is None:
        raise EditError("That room is gone.", "Choose another.")
    return found


def room_at(level: Level, x: float, y: float) -> Room | None:
    """The room at a place, level px; of several the smallest."""
    column, row = x // level.cell[0], y // level.cell[1]
    there = [r for r in level.rooms if _holds(r.area, column, row)]
    return min(there, key=lambda r: r.area[2] * r.area[3], default=None)


def _holds(area: Area, column: float, row: float) -> bool:
    return area[0] <= column < area[0] + area[2] and area[1] <= row < area[1] + area[3]


def add_room(
    project: Project, level_id: str, area: Area, name: str = "", overlap: bool = False
) -> tuple[Project, str]:
    """A new room; returns its id too. Raises EditError where it would lie over another, unless `overlap`."""
    level = level_of(project, level_id)
    room = Room(new_id(), unique_name(name.strip() or "room", (r.name for r in level.rooms)), area)
    _check_free(level, room, overlap)
    return put_level(project, replace(level, rooms=(*level.rooms, room))), room.id


def change_room(
    project: Project, level_id: str, room_id: str, overlap: bool = False, **fields: Any
) -> Project:
    """Rename a room, move or resize it, or set its camera. Raises EditError where it would lie over another,
    unless `overlap`, and for a name that another has."""
    level = level_of(project, level_id)
    old = room_of(level, room_id)
    room = replace(old, **fields)
    if room == old:
        return project
    if not room.name.strip() or any(r.name == room.name for r in level.rooms if r.id != room_id):
        raise EditError(f"A room cannot be called {room.name!r}.", "Use a name that no other room has.")
    if room.camera not in CAMERAS:
        raise EditError(f"A camera cannot be {room.camera!r}.", f"Use {', '.join(CAMERAS)}.")
    if room.area != old.area:
        _check_free(level, room, overlap)
    rooms = tuple(room if r.id == room_id else r for r in level.rooms)
    return put_level(project, replace(level, rooms=rooms))


def remove_room(project: Project, level_id: str, room_id: str) -> Project:
    """Only the room goes; what stands in it stays."""
    level = level_of(project, level_id)
    return put_level(project, replace(level, rooms=tuple(r for r in level.rooms if r.id != room_id)))


def _check_free(level: Level, room: Room, overlap: bool) -> None:
    other = next((r for r in level.rooms if r.id != room.id and shared(r.area, room.area)), None)
    if other is not None and not overlap:
        raise EditError(
            f"{room.name} would lie over {other.name}.", "Draw it beside, or hold Shift to let it."
        )


def shared(a: Area, b: Area) -> Area | None:
    """The cells in both of two rectangles; None if there are none."""
    left, top = max(a[0], b[0]), max(a[1], b[1])
    right, bottom = min(a[0] + a[2], b[0] + b[2]), min(a[1] + a[3], b[1] + b[3])
    return (left, top, right - left, bottom - top) if right > left and bottom > top else None


def snapped(level: Level, area: Area, but: str = "") -> Area:
    """The area with each edge on that of another room or the level, where one is within two cells."""
    x, y, columns, rows = area
    others = [level.bounds, *(r.area for r in level.rooms if r.id != but)]
    across = np.array([v for a in others for v in (a[0], a[0] + a[2])])
    down = np.array([v for a in others for v in (a[1], a[1] + a[3])])
    left, right = _near(x, across), _near(x + columns, across)
    top, bottom = _near(y, down), _near(y + rows, down)
    if right <= left or bottom <= top:
        return area
    return left, top, right - left, bottom - top


def _near(value: int, lines: np.ndarray) -> int:
    nearest = int(lines[np.abs(lines - value).argmin()])
    return nearest if abs(nearest - value) <= NEAR else value


def room_faults(level: Level) -> list[RoomFault]:
    """Overlaps, and gaps of at most four cells between rooms that face each other."""
    faults = []
    for n, a in enumerate(level.rooms):
        for b in level.rooms[n + 1 :]:
            both = shared(a.area, b.area)
            if both is not None:
                faults.append(RoomFault("overlap", (a.name, b.name), both))
                continue
            gap = _between(a.area, b.area)
            if gap is not None and not any(shared(gap, r.area) for r in level.rooms):
                faults.append(RoomFault("gap", (a.name, b.name), gap))
    return faults


def _between(a: Area, b: Area) -> Area | None:
    """The narrow strip between two rectangles that face each other."""
    for across in (True, False):
        one, two = (a, b) if across else (_turned(a), _turned(b))
        if one[0] > two[0]:
            one, two = two, one
        left, right = one[0] + one[2], two[0]
        top, bottom = max(one[1], two[1]), min(one[1] + one[3], two[1] + two[3])
        if 0 < right - left <= GAP and bottom > top:
            strip = (left, top, right - left, bottom - top)
            return strip if across else _turned(strip)
    return None


def _turned(area: Area) -> Area:
    return area[1], area[0], area[3], area[2]


def room_of_thing(level: Level, thing_id: str) -> Room | None:
    """The room in which a thing stands by its pivot."""
    thing = next((t for t in level.things if t.id == thing_id), None)
    return room_at(level, *thing.at) if thing is not None else None
