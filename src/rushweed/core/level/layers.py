"""The layers of a level: made, ordered, shown, set, removed."""

from __future__ import annotations

import re
from typing import Any

from msgspec.structs import replace

from rushweed.core.document.edit import layer_of, level_of, put_layer, put_level, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.level import BackdropLayer, Level, PictureLayer, ThingLayer, TileLayer
from rushweed.core.document.model.project import Project

MOST_PARALLAX = 8


def add_layer(project: Project, level_id: str, name: str, at: int | None = None) -> tuple[Project, str]:
    """A new tile layer, nearest of all or at a place counted from the farthest."""
    level = level_of(project, level_id)
    layer = TileLayer(new_id(), unique_name(name, (item.name for item in level.layers)))
    spot = len(level.layers) if at is None else at
    layers = (*level.layers[:spot], layer, *level.layers[spot:])
    return put_level(project, replace(level, layers=layers)), layer.id


def add_backdrop(project: Project, level_id: str, sheet_id: str, parallax: float, top: float) -> Project:
    """Put a sheet behind everything, repeated across."""
    level = level_of(project, level_id)
    name = _name_after(project, level, sheet_id)
    layer = BackdropLayer(id=new_id(), name=name, sheet=sheet_id, parallax=parallax, top=top)
    return put_level(project, replace(level, layers=(layer, *level.layers)))


def add_picture(project: Project, level_id: str, sheet_id: str, at: tuple[float, float]) -> Project:
    """Put the whole picture of a sheet on a layer of its own, nearest of all; `at` is its upper left, level
    px."""
    level = level_of(project, level_id)
    name = _name_after(project, level, sheet_id)
    layer = PictureLayer(id=new_id(), name=name, sheet=sheet_id, offset=at)
    return put_level(project, replace(level, layers=(*level.layers, layer)))


def add_thing_layer(project: Project, level_id: str, name: str) -> tuple[Project, str]:
    """A new layer for things alone, nearest of all; returns its id too."""
    level = level_of(project, level_id)
    layer = ThingLayer(id=new_id(), name=unique_name(name, (item.name for item in level.layers)))
    return put_level(project, replace(level, layers=(*level.layers, layer))), layer.id


def _name_after(project: Project, level: Level, sheet_id: str) -> str:
    name = re.sub(r"\.\w+$", "", sheet_of(project, sheet_id).name)
    return unique_name(name, (item.name for item in level.layers))


def change_layer(project: Project, level_id: str, layer_id: str, **fields: Any) -> Project:
    """Show, hide, lock, rename, fade, tint or move a layer. Raises EditError for what its kind has not."""
    layer = layer_of(level_of(project, level_id), layer_id)
    unknown = next((name for name in fields if name not in layer.__struct_fields__), None)
    if unknown is not None:
        raise EditError(f"{layer.name} has no {unknown}.", "Choose a layer of another kind.")
    if "name" in fields and not str(fields["name"]).strip():
        raise EditError("A layer needs a name.", "Type at least one letter.")
    if not 0 <= fields.get("opacity_percent", 0) <= 100:
        raise EditError("Opacity goes from 0 to 100 %.", "Use a number between.")
    for name in ("parallax", "parallax_y"):
        if not -MOST_PARALLAX <= (fields.get(name) or 0) <= MOST_PARALLAX:
            raise EditError(
                f"Parallax goes from {-MOST_PARALLAX} to {MOST_PARALLAX}.", "Use a number between."
            )
    changed = replace(layer, **fields)
    if all(getattr(layer, key) == value for key, value in fields.items()):
        return project
    return put_layer(project, level_id, changed)


def remove_layer(project: Project, level_id: str, layer_id: str) -> Project:
    """Take a layer out. Raises EditError if it is the last."""
    level = level_of(project, level_id)
    layers = tuple(item for item in level.layers if item.id != layer_id)
    if not layers:
        raise EditError(f"{level.name} needs at least one layer.", "Add another before removing this one.")
    return put_level(project, replace(level, layers=layers))


def move_layer(project: Project, level_id: str, layer_id: str, nearer: int) -> Project:
    """Move a layer towards the viewer by `nearer` places (negative: away)."""
    level = level_of(project, level_id)
    index = next((i for i, item in enumerate(level.layers) if item.id == layer_id), None)
    if index is None:
        raise EditError("That layer is gone.", "Choose another.")
    target = min(max(index + nearer, 0), len(level.layers) - 1)
    if target == index:
        return project
    layers = list(level.layers)
    layers.insert(target, layers.pop(index))
    return put_level(project, replace(level, layers=tuple(layers)))


def place_layer(project: Project, level_id: str, layer_id: str, place: int) -> Project:
    """Put a layer at a place counted from the farthest."""
    level = level_of(project, level_id)
    at = next((i for i, item in enumerate(level.layers) if item.id == layer_id), 0)
    return move_layer(project, level_id, layer_id, place - at)


def show_alone(project: Project, level_id: str, layer_id: str) -> Project:
    """Hide all layers but one; where that is so already, show all again."""
    level = level_of(project, level_id)
    layer_of(level, layer_id)
    alone = all(item.shown == (item.id == layer_id) for item in level.layers)
    layers = tuple(replace(item, shown=alone or item.id == layer_id) for item in level.layers)
    return put_level(project, replace(level, layers=layers))
