"""Names for many cells at once, by a pattern or by replacing words; always unique within the sheet."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from pathlib import Path

from msgspec.structs import replace

from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import natural_key, unique_names
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.document.rows import reading_order, row_lines

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
    index = {cell.id: i for i, cell in enumerate(sheet.cells)}
    fresh = [_filled(pattern, sheet, c, n, index[c.id], rows[c.id]) for n, c in enumerate(chosen)]
    if len(chosen) > 1 and len(set(fresh)) == 1:
        fresh = [f"{name}_{n}" for n, name in enumerate(fresh)]
    return _named(project, sheet, dict(zip((c.id for c in chosen), fresh, strict=True)))


def name_rows(project: Project, sheet_id: str, cell_ids: Collection[str], rows: Sequence[str]) -> Project:
    """Give each row of the cells a name of its own and number its cells from 0: `idle_0`, `idle_1`, `walk_0`.

    Rows are what stands side by side on the sheet, top to bottom; those beyond the last name keep theirs.
    Raises EditError for an empty name or more names than rows.
    """
    sheet, wanted = sheet_of(project, sheet_id), set(cell_ids)
    stems = [row.strip() for row in rows]
    if not all(stems):
        raise EditError("A row has no name between two commas.", "Write them as idle, walk, climb.")
    chosen = [cell for cell in sheet.cells if cell.id in wanted]
    by_rect = {cell.rect: cell for cell in chosen}
    lines = row_lines([cell.rect for cell in chosen])
    if len(stems) > len(lines):
        many = "1 row" if len(lines) == 1 else f"{len(lines)} rows"
        raise EditError(f"{len(stems)} names are more than the {many} selected.", "Select more rows.")
    fresh = {
        by_rect[rect].id: f"{stem}_{n}"
        for stem, line in zip(stems, lines, strict=False)
        for n, rect in enumerate(line)
    }
    return _named(project, sheet, fresh)


def natural_order(sheet: Sheet) -> list[str]:
    """The ids of a sheet's cells by name, 2 before 10."""
    return [cell.id for cell in sorted(sheet.cells, key=lambda c: natural_key(c.name))]


def reading_order_ids(sheet: Sheet) -> list[str]:
    """The ids of a sheet's cells row by row, each from left to right."""
    place = {rect: n for n, rect in enumerate(reading_order([cell.rect for cell in sheet.cells]))}
    return [cell.id for cell in sorted(sheet.cells, key=lambda c: place[c.rect])]


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
    taken = (cell.name for cell in sheet.cells if cell.id not in fresh)
    wanted = [fresh[cell.id] for cell in sheet.cells if cell.id in fresh]
    names = iter(unique_names(wanted, taken))
    cells = []
    for cell in sheet.cells:
        if cell.id in fresh:
            name = next(names)
            cell = cell if cell.name == name else replace(cell, name=name)
        cells.append(cell)
    if all(a is b for a, b in zip(cells, sheet.cells, strict=True)):
        return project
    return put_sheet(project, replace(sheet, cells=tuple(cells)))


def _rows(sheet: Sheet) -> dict[str, tuple[int, int]]:
    """The row of each cell on the sheet and its place in that row."""
    by_rect = {cell.rect: cell.id for cell in sheet.cells}
    lines = row_lines(list(by_rect))
    places = {by_rect[rect]: (row, n) for row, line in enumerate(lines) for n, rect in enumerate(line)}
    return {cell.id: places[by_rect[cell.rect]] for cell in sheet.cells}


def _filled(pattern: str, sheet: Sheet, cell: Cell, n: int, index: int, place: tuple[int, int]) -> str:
    row, column = place
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
