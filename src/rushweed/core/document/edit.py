"""Edits that any stage needs: find, replace, rename and remove parts of the project."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from functools import partial
from typing import TypeVar

from msgspec.structs import replace

from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import unique_name
from rushweed.core.document.limits import check_level
from rushweed.core.document.model.level import BackdropLayer, Layer, Level, PictureLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Credit, Sheet
from rushweed.core.document.remembered import Remembered

Part = TypeVar("Part", Sheet, Level)


def sheet_of(project: Project, sheet_id: str) -> Sheet:
    """The sheet with that id; raises EditError if the project has none."""
    for sheet in project.sheets:
        if sheet.id == sheet_id:
            return sheet
    raise EditError(f"The project has no sheet {sheet_id!r}.", "Choose one from the Shelf.")


def level_of(project: Project, level_id: str) -> Level:
    """The level with that id; raises EditError if the project has none."""
    for level in project.levels:
        if level.id == level_id:
            return level
    raise EditError(f"The project has no level {level_id!r}.", "Choose one from the Shelf.")


def layer_of(level: Level, layer_id: str) -> Layer:
    """The layer of a level with an id. Raises EditError if there is none."""
    for layer in level.layers:
        if layer.id == layer_id:
            return layer
    has = f"has no layer {layer_id!r}" if layer_id else "has no layer of tiles in use"
    raise EditError(f"{level.name} {has}.", "Choose one from the list of layers.")


_homes: Remembered[tuple[Sheet, ...], dict[str, tuple[Sheet, Cell]]] = Remembered(
    lambda sheets: {cell.id: (sheet, cell) for sheet in sheets for cell in sheet.cells}, most=2
)


def cell_homes(project: Project) -> dict[str, tuple[Sheet, Cell]]:
    """Every cell by its id, with its sheet; made once for as long as the sheets stay the same, and not to be
    changed."""
    return _homes(project.sheets)


def updated_cells(
    before: tuple[Sheet, ...], known: dict[str, tuple[Sheet, Cell]], sheets: tuple[Sheet, ...]
) -> dict[str, tuple[Sheet, Cell]]:
    """Every cell by its id, with its sheet, from what is `known` of the sheets `before`: only those that are
    others are gone through. The same dictionary is changed and returned."""
    old, new = {id(s): s for s in before}, {id(s): s for s in sheets}
    for key, sheet in old.items():
        if key not in new:
            for cell in sheet.cells:
                known.pop(cell.id, None)
    for key, sheet in new.items():
        if key not in old:
            for cell in sheet.cells:
                known[cell.id] = (sheet, cell)
    return known


def kept_ids(project: Project) -> set[str]:
    """The ids of all cells, also of those that are kept aside until their picture holds them again."""
    return {c.id for s in project.sheets for c in (*s.cells, *(one.cell for one in s.aside))}


def put_sheet(project: Project, sheet: Sheet) -> Project:
    """`project` with `sheet` in the place of the one with the same id."""
    return replace(project, sheets=_put(project.sheets, sheet))


def put_level(project: Project, level: Level) -> Project:
    """The project with a level in place of the one of its id. Raises EditError if it is beyond a limit."""
    check_level(level)
    return replace(project, levels=_put(project.levels, level))


def put_layer(project: Project, level_id: str, layer: Layer) -> Project:
    """The project with a layer in place of the one of its id in a level."""
    level = level_of(project, level_id)
    layers = tuple(layer if old.id == layer.id else old for old in level.layers)
    return put_level(project, replace(level, layers=layers))


def _put(parts: tuple[Part, ...], part: Part) -> tuple[Part, ...]:
    return tuple(part if old.id == part.id else old for old in parts)


def change_cells(project: Project, cell_ids: Collection[str], change: Callable[[Cell], Cell]) -> Project:
    """`change` applied to the cells with those ids; every other cell is shared with `project`."""
    wanted = set(cell_ids)
    sheets = []
    for sheet in project.sheets:
        if wanted.isdisjoint(ids_of(sheet)):
            sheets.append(sheet)
            continue
        cells = tuple(change(cell) if cell.id in wanted else cell for cell in sheet.cells)
        same = all(a is b for a, b in zip(cells, sheet.cells, strict=True))
        sheets.append(sheet if same else replace(sheet, cells=cells))
    if all(a is b for a, b in zip(sheets, project.sheets, strict=True)):
        return project
    return replace(project, sheets=tuple(sheets))


def rename_cell(project: Project, cell_id: str, name: str) -> Project:
    """Give a cell a name; a name that another cell of the sheet has gets a number."""
    wanted = name.strip()
    if not wanted:
        raise EditError("A cell needs a name.", "Type at least one letter.")
    for sheet in project.sheets:
        if any(cell.id == cell_id for cell in sheet.cells):
            free = unique_name(wanted, (c.name for c in sheet.cells if c.id != cell_id))
            return change_cells(project, [cell_id], partial(_named, name=free))
    raise EditError(f"The project has no cell {cell_id!r}.", "Choose one in the Strip.")


def _named(cell: Cell, name: str) -> Cell:
    return cell if cell.name == name else replace(cell, name=name)


def rename(project: Project, part_id: str, name: str) -> Project:
    """Rename a sheet or a level; names stay unique among their kind."""
    wanted = name.strip()
    if not wanted:
        raise EditError("A name cannot be empty.", "Type at least one letter.")
    for sheet in project.sheets:
        if sheet.id == part_id:
            taken = (s.name for s in project.sheets if s.id != part_id)
            return put_sheet(project, replace(sheet, name=unique_name(wanted, taken)))
    level = level_of(project, part_id)
    taken = (other.name for other in project.levels if other.id != part_id)
    return put_level(project, replace(level, name=unique_name(wanted, taken)))


def set_credit(project: Project, sheet_ids: Iterable[str], **fields: str) -> Project:
    """Fill in author, title, link or licence of some sheets."""
    for sheet_id in sheet_ids:
        sheet = sheet_of(project, sheet_id)
        credit: Credit = replace(sheet.credit, **{k: v.strip() for k, v in fields.items()})
        if credit != sheet.credit:
            project = put_sheet(project, replace(sheet, credit=credit))
    return project


def uses_of_sheet(project: Project, sheet_id: str) -> list[str]:
    """The names of the levels that paint with the sheet, then of the animations that show its cells."""
    sheet = sheet_of(project, sheet_id)
    cells = {cell.id for cell in sheet.cells}
    levels = [
        level.name
        for level in project.levels
        if any(cell in cells for cell in level.table) or sheet_id in pictured_sheets(level)
    ]
    return levels + [a.name for a in project.animations if any(f.cell in cells for f in a.frames)]


def pictured_sheets(level: Level) -> set[str]:
    """The ids of the sheets of a level's backdrops and pictures."""
    return {layer.sheet for layer in level.layers if isinstance(layer, (BackdropLayer, PictureLayer))}


def painted_sheets(project: Project, levels: Iterable[Level] | None = None) -> set[str]:
    """The ids of the sheets that a level shows, or one of some levels."""
    levels = project.levels if levels is None else tuple(levels)
    cells = {cell for level in levels for cell in level.table}
    cells |= {thing.shows for level in levels for thing in level.things}
    used = set().union(*(pictured_sheets(level) for level in levels))
    return used | _sheets_with(project, cells)


def animated_sheets(project: Project) -> set[str]:
    """The ids of the sheets that an animation shows cells of."""
    return _sheets_with(project, {f.cell for animation in project.animations for f in animation.frames})


def _sheets_with(project: Project, cells: set[str]) -> set[str]:
    return {s.id for s in project.sheets if not cells.isdisjoint(ids_of(s))}


_ids: Remembered[tuple[Cell, ...], frozenset[str]] = Remembered(lambda cells: frozenset(c.id for c in cells))


def ids_of(sheet: Sheet) -> frozenset[str]:
    """The ids of a sheet's cells; remembered until they change."""
    return _ids(sheet.cells)


def unused_sheets(project: Project) -> list[Sheet]:
    """The sheets that no level and no animation uses, and of which no copy was made."""
    originals = {cell.copy_of for sheet in project.sheets for cell in sheet.cells if cell.copy_of}
    used = painted_sheets(project) | animated_sheets(project)
    return [s for s in project.sheets if s.id not in used and originals.isdisjoint(c.id for c in s.cells)]


def set_group(project: Project, sheet_ids: Iterable[str], group: str) -> Project:
    """Put sheets under a head of their own on the Shelf; an empty name puts them back among the rest."""
    for sheet_id in sheet_ids:
        sheet = sheet_of(project, sheet_id)
        if sheet.group != group.strip():
            project = put_sheet(project, replace(sheet, group=group.strip()))
    return project


def remove_sheet(project: Project, sheet_id: str) -> Project:
    """Take a sheet off the Shelf; its picture stays in the project folder. Levels keep their tiles,
    which are found as gone until the sheet is back; an animation with no frame left goes too."""
    gone = {cell.id for cell in sheet_of(project, sheet_id).cells}
    animations = tuple(
        a for a in project.animations if not (a.frames and all(f.cell in gone for f in a.frames))
    )
    sheets = tuple(s for s in project.sheets if s.id != sheet_id)
    return replace(project, sheets=sheets, animations=animations)


def remove_level(project: Project, level_id: str) -> Project:
    """Take a level out. Raises EditError if there is none with that id."""
    level_of(project, level_id)
    return replace(project, levels=tuple(level for level in project.levels if level.id != level_id))
