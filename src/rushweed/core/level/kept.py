"""Kept stamps: tiles of one or several layers, and things, under a name in the project."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import cell_homes, layer_of, level_of, put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.limits import MOST_STAMP_SIDE, check_stamp
from rushweed.core.document.model.level import KeptStamp, Layer, Level, StampPart, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import put_region, region
from rushweed.core.level.edit import indices_of, put_cells
from rushweed.core.level.render import PixelsOf, level_picture
from rushweed.core.level.stamp import Stamp, from_level

Area = tuple[int, int, int, int]


def stamp_of(project: Project, stamp_id: str) -> KeptStamp:
    """Raises EditError if the project keeps none with that id."""
    found = next((s for s in project.stamps if s.id == stamp_id), None)
    if found is None:
        raise EditError("That stamp is gone.", "Choose another.")
    return found


def brush_stamp(project: Project, stamp: Stamp, layer: str) -> KeptStamp:
    """What the brush paints, as a stamp that can be kept; `layer` is the name of the layer it is for. Raises
    EditError if there is nothing in it, or a tile of it is gone."""
    if not stamp.cells:
        raise EditError("There is nothing in the stamp to keep.", "Take one in the Tray or from the level.")
    cells = cell_homes(project)
    if any(cell not in cells for cell in stamp.cells):
        raise EditError("A tile of the stamp is gone from its sheet.", "Choose another in the Tray.")
    first = cells[stamp.cells[0]][1]
    values = np.where(stamp.slots > 0, stamp.slots * 8 + stamp.turns, 0)
    part = StampPart(layer, tuple(tuple(row) for row in values.tolist()))
    return KeptStamp(new_id(), first.name, (first.rect[2], first.rect[3]), stamp.cells, (part,))


def area_stamp(
    project: Project, level_id: str, area: Area, layer_ids: tuple[str, ...], name: str = "stamp"
) -> KeptStamp:
    """An area of a level (left, top, columns, rows) as a stamp: the tiles of some layers, and the things
    whose pivot stands there on them. Raises EditError if there is nothing."""
    level = level_of(project, level_id)
    left, top, columns, rows = area
    if not (1 <= columns <= MOST_STAMP_SIDE and 1 <= rows <= MOST_STAMP_SIDE):
        raise EditError(f"A stamp has 1 to {MOST_STAMP_SIDE} cells a side.", "Select a smaller area.")
    held = {}
    for layer in level.layers:
        if layer.id in layer_ids and isinstance(layer, TileLayer):
            cells = region(layer.tiles, left, top, columns, rows)
            if cells.any():
                held[layer.name] = cells
    cw, ch = level.cell
    things = tuple(
        replace(t, at=(t.at[0] - left * cw, t.at[1] - top * ch), layer=_layer_name(level, t.layer))
        for t in level.things
        if t.layer in layer_ids
        and left * cw <= t.at[0] < (left + columns) * cw
        and top * ch <= t.at[1] < (top + rows) * ch
    )
    if not held and not things:
        raise EditError("There is nothing there to keep.", "Select an area with tiles or things.")
    used = sorted({int(i) for cells in held.values() for i in np.unique(cells >> 3) if i})
    used = [i for i in used if i <= len(level.table)]
    number = np.zeros(len(level.table) + 1, np.uint32)
    number[used] = np.arange(1, len(used) + 1)
    parts = []
    for layer_name, cells in held.items():
        index = number[np.minimum(cells >> 3, len(level.table))]
        values = np.where(index > 0, index * 8 + (cells & 7), 0)
        parts.append(StampPart(layer_name, tuple(tuple(row) for row in values.tolist())))
    table = tuple(level.table[i - 1] for i in used)
    return KeptStamp(new_id(), name, level.cell, table, tuple(parts), things)


def keep(project: Project, stamp: KeptStamp, name: str = "") -> tuple[Project, KeptStamp]:
    """Keep a stamp in the project under a name that no other has."""
    check_stamp(stamp)
    made = replace(stamp, id=new_id(), name=_name(project, name.strip() or stamp.name or "stamp"))
    return replace(project, stamps=(*project.stamps, made)), made


def rename_stamp(project: Project, stamp_id: str, name: str) -> Project:
    """Raises EditError for a name that another has."""
    stamp, name = stamp_of(project, stamp_id), name.strip()
    if not name or any(s.name == name for s in project.stamps if s.id != stamp_id):
        raise EditError(f"A stamp cannot be called {name!r}.", "Use a name that no other has.")
    if name == stamp.name:
        return project
    stamps = tuple(replace(s, name=name) if s.id == stamp_id else s for s in project.stamps)
    return replace(project, stamps=stamps)


def remove_stamp(project: Project, stamp_id: str) -> Project:
    """What was painted with it stays."""
    stamp_of(project, stamp_id)
    return replace(project, stamps=tuple(s for s in project.stamps if s.id != stamp_id))


def as_stamp(kept: KeptStamp) -> Stamp | None:
    """What the brush paints, if all of it lies on one layer and nothing but tiles are in it."""
    if len(kept.parts) != 1 or kept.things:
        return None
    return from_level(kept.table, np.array(kept.parts[0].rows, np.uint32))


def size_of(kept: KeptStamp) -> tuple[int, int]:
    """Columns and rows; of things alone those they stand in."""
    if kept.parts:
        return len(kept.parts[0].rows[0]), len(kept.parts[0].rows)
    across = max((int(t.at[0] // kept.cell[0]) for t in kept.things), default=0) + 1
    return across, max((int(t.at[1] // kept.cell[1]) for t in kept.things), default=0) + 1


def put_stamp(
    project: Project, level_id: str, kept: KeptStamp, x: int, y: int, layer_id: str = ""
) -> Project:
    """Put a stamp with its upper left at a cell, each part on the layer of its name; a part whose layer
    the level has not goes on `layer_id`. Raises EditError if that is locked or holds no tiles."""
    check_stamp(kept)
    level = level_of(project, level_id)
    if kept.cell != level.cell:
        raise EditError(
            f"{kept.name} has tiles of {kept.cell[0]} x {kept.cell[1]} px, {level.name} cells of "
            f"{level.cell[0]} x {level.cell[1]} px.",
            "Choose a stamp of that size.",
        )
    if kept.parts:
        level, index = indices_of(project, level, kept.table)
        project = put_level(project, level)
    for part in kept.parts:
        level = level_of(project, level_id)
        layer = _layer_for(level, part.layer, layer_id)
        if not isinstance(layer, TileLayer) or layer.locked:
            raise EditError(f"{layer.name} cannot be painted on.", "Choose a layer of tiles that is open.")
        values = np.array(part.rows, np.uint32)
        rows, columns = np.nonzero(values)
        held = values[rows, columns]
        made = index[held >> 3] * 8 + (held & 7)
        project = put_cells(project, level, layer, columns + x, rows + y, made.astype(np.uint32))
    level = level_of(project, level_id)
    cw, ch = level.cell
    things = tuple(
        replace(
            t,
            id=new_id(),
            at=(t.at[0] + x * cw, t.at[1] + y * ch),
            layer=_layer_for(level, t.layer, layer_id).id,
        )
        for t in kept.things
    )
    return put_level(project, replace(level, things=(*level.things, *things))) if things else project


def _layer_for(level: Level, name: str, otherwise: str) -> Layer:
    found = next((layer for layer in level.layers if layer.name == name), None)
    return found if found is not None else layer_of(level, otherwise)


def _layer_name(level: Level, layer_id: str) -> str:
    return next((layer.name for layer in level.layers if layer.id == layer_id), "")


def _name(project: Project, name: str) -> str:
    return unique_name(name, (s.name for s in project.stamps))


def stamp_picture(project: Project, kept: KeptStamp, pixels_of: PixelsOf) -> np.ndarray:
    """What a stamp looks like, uint8 RGBA; parts lie over one another in their order, things on top."""
    columns, rows = size_of(kept)
    layers = tuple(
        TileLayer(f"part {n}", "", put_region(Tiles(), 0, 0, np.array(part.rows, np.uint32)))
        for n, part in enumerate(kept.parts)
    )
    level = Level(
        kept.id, "", "free", kept.cell, (0, 0, columns, rows), kept.table, layers, (0, 0), kept.things
    )
    if not layers:
        level = replace(level, layers=(TileLayer("none", ""),))
    return level_picture(project, level, pixels_of, (0, 0, columns * kept.cell[0], rows * kept.cell[1]))
