"""Names for many cells at once, by a pattern or by replacing words; always unique within the sheet."""

from __future__ import annotations

import re
from collections.abc import Collection
from pathlib import Path

from msgspec.structs import replace

from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import unique_name
from rushweed.core.document.model import Cell, Project, Sheet

TOKENS = {
    "n": "number among the cells named, from 0",
    "i": "number on the sheet, from 0",
    "row": "row on the sheet, from 0",
    "col": "place in its row, from 0",
    "name": "the name it has",
    "sheet": "the sheet's name",
}
TOKEN = re.compile(r"\{(\w+)(?::0(\d))?\}")


def name_cells(project: Project, sheet_id: str, cell_ids: Collection[str], pattern: str) -> Project:
    """Name some cells of a sheet by a pattern such as `walk_{n}` or `{sheet}_{row}_{col:02}`.

    `{n:02}` pads with zeros. A pattern without a number gets `_0`, `_1` and so on where it must. Raises
    EditError for an unknown token or an empty name.
    """
    sheet = sheet_of(project, sheet_id)
    wanted = set(cell_ids)
    chosen = [cell for cell in sheet.cells if cell.id in wanted]
    if not chosen:
        raise EditError("No cell is selected to be named.", "Select cells on the Desk or in the Strip.")
    rows = _rows(sheet)
    fresh = [_filled(pattern, sheet, cell, n, rows) for n, cell in enumerate(chosen)]
    if len(chosen) > 1 and len(set(fresh)) == 1:
        fresh = [f"{name}_{n}" for n, name in enumerate(fresh)]
    return _named(project, sheet, dict(zip((c.id for c in chosen), fresh, strict=True)))


def replace_in_names(
    project: Project, sheet_id: str, cell_ids: Collection[str], find: str, put: str
) -> Project:
    """Put one text in place of another in the names of some cells."""
    if not find:
        raise EditError("There is nothing to look for.", "Type the part of the names to replace.")
    sheet, wanted = sheet_of(project, sheet_id), set(cell_ids)
    fresh = {c.id: c.name.replace(find, put) for c in sheet.cells if c.id in wanted and find in c.name}
    if any(not name.strip() for name in fresh.values()):
        raise EditError("A name would be left empty.", "Keep at least one letter.")
    return _named(project, sheet, fresh)


def _named(project: Project, sheet: Sheet, fresh: dict[str, str]) -> Project:
    """The cells in `fresh` renamed, each unique; the others keep their names before anything else."""
    taken = {cell.name for cell in sheet.cells if cell.id not in fresh}
    cells = []
    for cell in sheet.cells:
        if cell.id in fresh:
            name = unique_name(fresh[cell.id], taken)
            taken.add(name)
            cell = cell if cell.name == name else replace(cell, name=name)
        cells.append(cell)
    if all(a is b for a, b in zip(cells, sheet.cells, strict=True)):
        return project
    return put_sheet(project, replace(sheet, cells=tuple(cells)))


def _rows(sheet: Sheet) -> dict[str, tuple[int, int]]:
    """The row of each cell on the sheet and its place in that row, by its top edge."""
    tops = sorted({cell.rect[1] for cell in sheet.cells})
    places: dict[str, tuple[int, int]] = {}
    for row, top in enumerate(tops):
        members = sorted((c for c in sheet.cells if c.rect[1] == top), key=lambda c: c.rect[0])
        places |= {cell.id: (row, column) for column, cell in enumerate(members)}
    return places


def _filled(pattern: str, sheet: Sheet, cell: Cell, n: int, rows: dict[str, tuple[int, int]]) -> str:
    row, column = rows[cell.id]
    index = next(i for i, other in enumerate(sheet.cells) if other is cell)
    values = {
        "n": n, "i": index, "row": row, "col": column, "name": cell.name, "sheet": Path(sheet.name).stem,
    }  # fmt: skip

    def put(match: re.Match[str]) -> str:
        token, width = match[1], match[2]
        if token not in values:
            known = ", ".join(f"{{{name}}}" for name in TOKENS)
            raise EditError(f"{{{token}}} is no part of a name pattern.", f"Use {known}.")
        value = values[token]
        return f"{value:0{width}d}" if width and isinstance(value, int) else str(value)

    name = TOKEN.sub(put, pattern).strip()
    if not name:
        raise EditError("A name cannot be empty.", "Type a pattern such as walk_{n}.")
    return name
