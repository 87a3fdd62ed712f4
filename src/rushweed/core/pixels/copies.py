"""Recoloured copies: new cells of the same picture in other colours, with the shapes of their originals."""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path

from msgspec.structs import replace

from rushweed.core.document.edit import sheet_of
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.cut import HandCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.steps import Recolour, ReplaceColour


def recoloured_copy(
    project: Project, sheet_id: str, cell_ids: Collection[str], step: Recolour | ReplaceColour, name: str = ""
) -> tuple[Project, str]:
    """A sheet of the same picture in other colours, after its original; returns its id too.

    `cell_ids` limits it to some cells; empty takes all. The file is shared, the colours are a preparation
    step; shapes follow the originals until they are changed.
    """
    sheet = sheet_of(project, sheet_id)
    path = Path(sheet.name)
    wanted = name.strip() or f"{path.stem}_recoloured{path.suffix}"
    chosen = [c for c in sheet.cells if not cell_ids or c.id in cell_ids]
    raw = sheet.source.raw or sheet.source.size
    source = replace(sheet.source, steps=(*sheet.source.steps, step), raw=raw)
    copy = replace(
        sheet,
        id=new_id(),
        name=unique_name(wanted, (s.name for s in project.sheets)),
        source=source,
        cut=sheet.cut if len(chosen) == len(sheet.cells) else HandCut(),
        cells=tuple(replace(c, id=new_id(), copy_of=c.id) for c in chosen),
    )
    at = next(i for i, s in enumerate(project.sheets) if s.id == sheet_id) + 1
    sheets = (*project.sheets[:at], copy, *project.sheets[at:])
    return replace(project, sheets=sheets), copy.id
