"""Whole levels: made, copied, ordered, resized, set."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from rushweed.core.document.edit import level_of, put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.limits import MOST_CELL_SIDE
from rushweed.core.document.model.level import Level, TileLayer, View
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import FARTHEST, put_region, region

START_SIZE = (40, 22)
SETTINGS = ("view", "order", "group", "board")


def add_level(
    project: Project,
    name: str,
    cell: tuple[int, int],
    view: View = "side",
    size: tuple[int, int] = START_SIZE,
) -> tuple[Project, str]:
    """A new level with one empty layer; returns the project and the level's id."""
    if min(cell) < 1:
        raise EditError(f"A level cell of {cell[0]} x {cell[1]} px has no pixels.", "Cut a sheet first.")
    if max(cell) > MOST_CELL_SIDE:
        raise EditError(
            f"A level cannot have cells of {cell[0]} x {cell[1]} px.",
            f"Use at most {MOST_CELL_SIDE} px a side.",
        )
    level = Level(
        new_id(),
        unique_name(name, (v.name for v in project.levels)),
        view,
        cell,
        (0, 0, *size),
        layers=(TileLayer(new_id(), "Ground"),),
        start=(cell[0] * 2.0, cell[1] * (size[1] // 2)),
    )
    return replace(project, levels=(*project.levels, level)), level.id


def set_start(project: Project, level_id: str, x: float, y: float) -> Project:
    """Set where a walk begins, level px."""
    level = level_of(project, level_id)
    return project if level.start == (x, y) else put_level(project, replace(level, start=(x, y)))


def resize(project: Project, level_id: str, left: int, top: int, right: int, bottom: int) -> Project:
    """Grow (or with negative numbers shrink) a level at each side by cells. What lies outside the new
    bounds is removed; growing again does not bring it back, undo does."""
    level = level_of(project, level_id)
    x, y, columns, rows = level.bounds
    bounds = (x - left, y - top, columns + left + right, rows + top + bottom)
    if bounds[2] < 1 or bounds[3] < 1:
        raise EditError(f"{level.name} would have no cells left.", "Take away fewer.")
    if max(abs(bounds[0]), abs(bounds[1]), bounds[0] + bounds[2], bounds[1] + bounds[3]) > FARTHEST:
        raise EditError(f"A level reaches at most {FARTHEST:,} cells from cell 0, 0.", "Grow it less.")
    layers = []
    for layer in level.layers:
        if isinstance(layer, TileLayer) and min(left, top, right, bottom) < 0:
            kept = region(layer.tiles, *bounds)
            layer = replace(layer, tiles=put_region(type(layer.tiles)(), bounds[0], bounds[1], kept))
        layers.append(layer)
    return put_level(project, replace(level, bounds=bounds, layers=tuple(layers)))


def change_level(project: Project, level_id: str, **fields: Any) -> Project:
    """Set how a level is looked at (`view`), what is drawn over what (`order`), the `group` it is listed in,
    or where it stands on the `board`. Raises EditError for anything else."""
    level = level_of(project, level_id)
    choices = {"view": ("side", "top", "free"), "order": ("layer", "foot")}
    for name, value in fields.items():
        if name not in SETTINGS or value not in choices.get(name, (value,)):
            raise EditError(f"A level cannot have the {name} {value!r}.", "Choose another.")
        wanted = str if name in ("view", "order", "group") else (tuple, type(None))
        if not isinstance(value, wanted) or isinstance(value, tuple) and len(value) != 2:
            raise EditError(f"A level cannot have the {name} {value!r}.", "Choose another.")
    if all(getattr(level, name) == value for name, value in fields.items()):
        return project
    return put_level(project, replace(level, **fields))


def duplicate_level(project: Project, level_id: str) -> tuple[Project, str]:
    """A copy right after the level, with ids of its own; returns its id too."""
    level = level_of(project, level_id)
    layers = tuple(replace(layer, id=new_id()) for layer in level.layers)
    new = {old.id: made.id for old, made in zip(level.layers, layers, strict=True)}
    copy_id = new_id()
    copy = replace(
        level,
        id=copy_id,
        name=unique_name(level.name, (v.name for v in project.levels)),
        layers=layers,
        things=tuple(replace(t, id=new_id(), layer=new.get(t.layer, t.layer)) for t in level.things),
        rooms=tuple(replace(room, id=new_id()) for room in level.rooms),
        runs=tuple(replace(run, id=new_id(), level=copy_id) for run in level.runs),
        board=None,
    )
    at = next(i for i, v in enumerate(project.levels) if v.id == level_id) + 1
    return replace(project, levels=(*project.levels[:at], copy, *project.levels[at:])), copy.id


def move_level(project: Project, level_id: str, later: int) -> Project:
    """Move a level in the order of levels by some places (negative: earlier)."""
    level = level_of(project, level_id)
    levels = [v for v in project.levels if v.id != level_id]
    at = next(i for i, v in enumerate(project.levels) if v.id == level_id)
    target = min(max(at + later, 0), len(levels))
    levels.insert(target, level)
    return project if target == at else replace(project, levels=tuple(levels))


def board_places(project: Project) -> dict[str, tuple[int, int]]:
    """Where cell 0, 0 of each level stands on the board, px, by id: where it was put, else to the right of
    all that stand there already, two cells away, level with their tops."""
    places = {v.id: v.board for v in project.levels if v.board is not None}
    known = [v for v in project.levels if v.board is not None]
    edge, top = 0, 0
    if known:
        edge = max(v.board[0] + (v.bounds[0] + v.bounds[2]) * v.cell[0] for v in known if v.board)
        top = min(v.board[1] + v.bounds[1] * v.cell[1] for v in known if v.board)
    for level in project.levels:
        if level.board is None:
            (left, first, columns, _rows), (cw, ch) = level.bounds, level.cell
            gap = 2 * cw if places else 0
            places[level.id] = (edge + gap - left * cw, top - first * ch)
            edge += gap + columns * cw
    return places


def set_cell(project: Project, level_id: str, cell: tuple[int, int]) -> Project:
    """Give an empty level the cell size of its first tiles, px. Raises EditError if tiles stand in it."""
    level = level_of(project, level_id)
    if level.cell == cell:
        return project
    if min(cell) < 1 or max(cell) > MOST_CELL_SIDE:
        raise EditError(
            f"A level cannot have cells of {cell[0]} x {cell[1]} px.", f"Use 1 to {MOST_CELL_SIDE}."
        )
    if not is_empty(level):
        raise EditError(
            f"{level.name} holds tiles of {level.cell[0]} x {level.cell[1]} px.", "Make another level."
        )
    x, y = (at / old * new for at, old, new in zip(level.start, level.cell, cell, strict=True))
    return put_level(project, replace(level, cell=cell, table=(), start=(round(x), round(y))))


def is_empty(level: Level) -> bool:
    """Whether no tile stands in a level."""
    tiled = (layer.tiles for layer in level.layers if isinstance(layer, TileLayer))
    return all(chunk is None for tiles in tiled for chunk in tiles.chunks)
