"""A project from the bytes of its files."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from rushweed.core.document.errors import StoreError
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import FORMAT, Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.store.form import Head, decode, read_animation, read_head, read_level, read_sheet
from rushweed.core.store.migrate import RENAMED_IN, check_format, present_names

HEAD = "rushweed.json"

Part = Sheet | Level | Animation
Text = Callable[[str], bytes]  # the bytes of a file by its path; raises StoreError
Note = Callable[[str, Part | None, bytes], object]  # told of every file that was read, and what it holds


class _Format(msgspec.Struct):
    format: int


def read_project(text: Text, note: Note) -> tuple[Project, int]:
    """The project and the format it is in. One of a newer format is read as far as it can be, to be looked
    at. Raises StoreError."""
    data = text(HEAD)
    only: _Format = decode(bytes(decode(data, msgspec.Raw, HEAD)), _Format, HEAD)
    if only.format > FORMAT:
        try:
            return _read_parts(data, text, note), only.format
        except StoreError:
            pass  # what it holds is not known here: told as that
    check_format(only.format, HEAD)
    return _read_parts(data, text, note, only.format < RENAMED_IN), only.format


def _read_parts(data: bytes, text: Text, note: Note, renamed: bool = False) -> Project:
    """Where fields were `renamed` since it was written, they are read by the names they had."""
    now = present_names if renamed else bytes
    head: Head = read_head(now(data), HEAD)
    for path in (*head.sheets, *head.levels, *head.animations):
        if path.startswith("/") or ".." in path.split("/"):
            raise StoreError(f"{HEAD} names a file outside the project: {path}.", "Put it right.")
        if not path.endswith(".json") or "\0" in path:
            raise StoreError(f"{HEAD} names {path!r}, which is no file of a project.", "Put it right.")
    sheets, levels, animations = [], [], []
    for path in head.sheets:
        body = text(path)
        sheets.append(read_sheet(now(body), path))
        note(path, sheets[-1], body)
    for path in head.levels:
        body = text(path)
        levels.append(read_level(now(body), path))
        note(path, levels[-1], body)
    for path in head.animations:
        body = text(path)
        animations.append(read_animation(now(body), path))
        note(path, animations[-1], body)
    project = Project(head.id, head.name, tuple(sheets), tuple(levels), tuple(animations), head.recipes,
                      head.groups, head.traits, head.autosets, head.stamps, head.ways,
                      head.left_alone)  # fmt: skip
    _check_ids(project)
    note(HEAD, None, data)
    return project


def _check_ids(project: Project) -> None:
    seen: dict[str, str] = {}
    parts = [(level.id, level.name) for level in project.levels]
    parts += [(animation.id, animation.name) for animation in project.animations]
    for sheet in project.sheets:
        cells = (*sheet.cells, *(one.cell for one in sheet.aside))
        parts += [(sheet.id, sheet.name), *((c.id, c.name) for c in cells)]
    for part_id, name in parts:
        if part_id in seen:
            raise StoreError(
                f"The id {part_id} stands for both {seen[part_id]} and {name}.",
                "Give one of them another id; copied files keep their ids.",
            )
        seen[part_id] = name
