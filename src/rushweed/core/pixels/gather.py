"""Bring pictures into a project: copied into its art folder, one sheet each."""

from __future__ import annotations

import re
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace

from rushweed.core.document.errors import PictureError, RushweedError, file_reason
from rushweed.core.document.ids import natural_key, new_id, unique_name
from rushweed.core.document.model import Project, Sheet, Source
from rushweed.core.pixels.read import ENDINGS, Picture, read_picture
from rushweed.core.store.files import write_file


class Gathered(NamedTuple):
    """What came of one file: a new `sheet`, or the `same` one that was there, or the `fault`."""

    path: Path
    sheet: Sheet | None = None
    picture: Picture | None = None
    same: str | None = None
    fault: RushweedError | None = None


def files_in(paths: list[Path]) -> list[Path]:
    """The files to read: folders are opened, their pictures taken in natural order."""
    found: list[Path] = []
    for path in paths:
        if path.is_dir():
            inside = [p for p in path.rglob("*") if p.suffix.lower() in ENDINGS and p.is_file()]
            found += sorted(inside, key=lambda p: natural_key(str(p)))
        else:
            found.append(path)
    return found


def gather_file(folder: Path, path: Path, known: dict[str, str], taken: set[str]) -> Gathered:
    """Read one picture and copy it under `folder`/art. `known` maps content hashes to sheet names,
    `taken` holds the paths in use; both are kept up to date. Never raises RushweedError."""
    try:
        picture = read_picture(path)
        if picture.sha256 in known:
            return Gathered(path, same=known[picture.sha256])
        stem = re.sub(r"[^\w.-]+", "_", path.stem).strip("._")[:60] or "picture"
        ending = "." + picture.format.lower()
        names = {Path(p).stem for p in taken}
        relative = f"art/{unique_name(stem, names)}{ending}"
        while (folder / relative).exists() and (folder / relative).read_bytes() != picture.data:
            names.add(Path(relative).stem)
            relative = f"art/{unique_name(stem, names)}{ending}"
        write_file(folder / relative, picture.data)
    except RushweedError as fault:
        return Gathered(path, fault=fault)
    except OSError as error:
        return Gathered(path, fault=PictureError(f"{path.name}: {file_reason(error)}.", "Check the file."))
    height, width = picture.rgba.shape[:2]
    name = Path(relative).name
    known[picture.sha256] = name
    taken.add(relative)
    sheet = Sheet(new_id(), name, Source(relative, picture.sha256, (width, height)))
    return Gathered(path, sheet, picture)


def known_pictures(project: Project) -> tuple[dict[str, str], set[str]]:
    """What `gather_file` wants to know of a project: hashes with names, and paths in use."""
    return {s.source.sha256: s.name for s in project.sheets}, {s.source.path for s in project.sheets}


def add_sheets(project: Project, sheets: list[Sheet]) -> Project:
    """Put new sheets at the end of the Shelf, each under a name of its own."""
    names = {sheet.name for sheet in project.sheets}
    added = []
    for sheet in sheets:
        name = unique_name(sheet.name, names)
        names.add(name)
        added.append(sheet if name == sheet.name else replace(sheet, name=name))
    return replace(project, sheets=(*project.sheets, *added)) if added else project
