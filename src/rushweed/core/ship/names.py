"""The names of shipped files."""

from __future__ import annotations

from pathlib import PurePath

from rushweed.core.document.ids import unique_name
from rushweed.core.document.model.level import Level, Room
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.shipping import Way
from rushweed.core.store.folder import file_name

MOST_PICTURE = 64 * 1024 * 1024  # px of a level's picture

MANIFEST, CREDITS = "manifest.json", "CREDITS.txt"


class Names:
    """Of one shipment: the same project and way give the same names."""

    def __init__(self, project: Project, way: Way) -> None:
        self._ending = way.picture
        self._sheets = unique_files({s.id: file_name(PurePath(s.name).stem) for s in project.sheets})
        self._levels = unique_files({v.id: file_name(v.name) for v in project.levels})
        self._rooms: dict[str, str] = {}
        for level in project.levels:
            rooms = unique_files({r.id: file_name(r.name) for r in level.rooms})
            self._rooms |= {f"{level.id} {room}": stem for room, stem in rooms.items()}

    def page(self, number: int) -> str:
        """Of a page's picture."""
        return f"atlas_{number}.{self._ending}"

    def texture(self, number: int) -> str:
        """Of a page's texture."""
        return f"atlas_{number}.ktx2"

    def normals(self, number: int) -> str:
        """Of the normals beside a page."""
        return f"atlas_{number}_normals.png"

    def normals_texture(self, number: int) -> str:
        """Of the texture of those normals."""
        return f"atlas_{number}_normals.ktx2"

    def larger(self, number: int, scale: int) -> str:
        """Of a page enlarged so many times."""
        return f"atlas_{number}@{scale}x.{self._ending}"

    def level_stem(self, level: Level) -> str:
        """What the files of a level begin with."""
        return self._levels[level.id]

    def level(self, level: Level) -> str:
        """Of a level."""
        return f"levels/{self._levels[level.id]}.json"

    def level_picture(self, level: Level) -> str | None:
        """Of its picture, or None where none is shipped."""
        return f"levels/{self._levels[level.id]}.png" if has_picture(level) else None

    def room_picture(self, level: Level, room: Room) -> str | None:
        """Of the picture of a room, or None."""
        if not has_picture(level):
            return None
        return f"levels/{self._levels[level.id]}/{self._rooms[f'{level.id} {room.id}']}.png"

    def sheet_stem(self, sheet: Sheet) -> str:
        """What the files of a sheet begin with."""
        return self._sheets[sheet.id]

    def sheet_picture(self, sheet: Sheet) -> str:
        """Of a sheet's whole picture."""
        return f"pictures/{self._sheets[sheet.id]}.png"


def has_picture(level: Level, scale: int = 1) -> bool:
    """Whether a level is shipped as a picture too: it is not empty and not too large."""
    _left, _top, columns, rows = level.bounds
    return 0 < columns * level.cell[0] * scale * rows * level.cell[1] * scale <= MOST_PICTURE


def unique_files(wanted: dict[str, str]) -> dict[str, str]:
    """File names by what they are for, each made unique whatever the case of its letters."""
    taken: set[str] = set()
    made = {}
    for key, name in wanted.items():
        free = (
            unique_name(name, taken) if name.casefold() not in taken else unique_name(name.casefold(), taken)
        )
        taken |= {free, free.casefold()}
        made[key] = free
    return made
