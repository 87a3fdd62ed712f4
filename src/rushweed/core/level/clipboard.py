"""Parts of levels as text, to be taken to another level or project: tiles by id, else by sheet and name."""

from __future__ import annotations

import msgspec
from msgspec.structs import replace

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.errors import EditError
from rushweed.core.document.limits import check_stamp, check_values
from rushweed.core.document.model.level import KeptStamp
from rushweed.core.document.model.project import Project

MARK = "rushweed-tiles"
MOST_LETTERS = 4_000_000


class Copied(msgspec.Struct, frozen=True, tag_field="what", tag=MARK, forbid_unknown_fields=True):
    """The text: a stamp, and for each cell id in it its sheet and its name."""

    stamp: KeptStamp
    names: dict[str, tuple[str, str]]


def to_text(project: Project, stamp: KeptStamp) -> str:
    """The text for the clipboard."""
    cells = cell_homes(project)
    wanted = {*stamp.table, *(t.shows for t in stamp.things)}
    names = {i: (cells[i][0].name, cells[i][1].name) for i in sorted(wanted) if i in cells}
    animations = {a.id: ("", a.name) for a in project.animations if a.id in wanted}
    return msgspec.json.encode(Copied(stamp, {**names, **animations})).decode()


def holds_tiles(text: str) -> bool:
    """Whether a text looks like one of ours."""
    return MARK in text[:200]


def from_text(project: Project, text: str) -> KeptStamp:
    """The stamp of a text, with the ids that its cells have in this project. Raises EditError if it is none,
    or the project lacks one of its tiles."""
    try:
        if len(text) > MOST_LETTERS:
            raise ValueError
        copied = msgspec.json.decode(text, type=Copied)
        check_values(None, copied.stamp)
    except (msgspec.MsgspecError, ValueError, RecursionError):
        raise EditError("The clipboard holds no tiles.", "Select an area of a level and copy it.") from None
    check_stamp(copied.stamp)
    known = cell_homes(project)
    by_name = {(s.name, c.name): c.id for s in project.sheets for c in s.cells}
    animations = {a.name: a.id for a in project.animations}
    ids = {a.id for a in project.animations}

    def own(cell: str) -> str:
        if cell in known or cell in ids:
            return cell
        sheet, name = copied.names.get(cell, ("", cell))
        found = by_name.get((sheet, name)) if sheet else animations.get(name)
        if found is None:
            raise EditError(
                f"This project has no {name}{f' of {sheet}' if sheet else ''}.", "Gather it first."
            )
        return found

    stamp = copied.stamp
    things = tuple(replace(t, shows=own(t.shows)) for t in stamp.things)
    return replace(stamp, table=tuple(own(cell) for cell in stamp.table), things=things)
