"""The texts of a project folder: fixed key order, one line a cell, one line a row of tiles."""

from __future__ import annotations

import re
from typing import Any

import msgspec

from rushweed.core.document.errors import StoreError
from rushweed.core.document.limits import MOST_CELL_SIDE, MOST_LEVEL_CELLS
from rushweed.core.document.model import (
    FORMAT,
    Animation,
    AutoSet,
    BackdropLayer,
    Cell,
    Group,
    Layer,
    Level,
    Project,
    Recipe,
    Sheet,
    Source,
    Thing,
    TileLayer,
    Tiles,
    Trait,
    View,
)
from rushweed.core.store.level_text import rows_of, tiles_of

MOST_BYTES = 512 * 1024 * 1024
MOST_DEPTH = 32
MOST_LEVEL_SIDE = 16_384
MOST_SIDE = 16_384  # px of a prepared picture


class Head(msgspec.Struct, frozen=True):
    """rushweed.json: the order of things, by id and file."""

    format: int
    id: str
    name: str
    sheets: tuple[str, ...] = ()
    levels: tuple[str, ...] = ()
    animations: tuple[str, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    groups: tuple[Group, ...] = ()
    traits: tuple[Trait, ...] = ()
    autosets: tuple[AutoSet, ...] = ()


class TileRows(msgspec.Struct, frozen=True, tag_field="kind", tag="tiles", forbid_unknown_fields=True):
    """A tile layer as it stands in a level's file."""

    id: str
    name: str
    shown: bool = True
    locked: bool = False
    opacity_percent: float = 100
    rows: tuple[str, ...] = ()


class LevelFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    id: str
    name: str
    view: str
    cell: tuple[int, int]
    bounds: tuple[int, int, int, int]
    start: tuple[float, float] = (0, 0)
    table: tuple[str, ...] = ()
    layers: tuple[TileRows | BackdropLayer, ...] = ()
    things: tuple[Thing, ...] = ()


def _line(value: Any) -> str:
    return msgspec.json.format(msgspec.json.encode(_whole(msgspec.to_builtins(value))), indent=0).decode()


def _whole(value: Any) -> Any:
    """Numbers such as 16.0 become 16, so that files stay as a person would write them."""
    if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
        return int(value)
    if isinstance(value, dict):
        return {k: _whole(v) for k, v in value.items()}
    if isinstance(value, (list, tuple)):
        return [_whole(v) for v in value]
    return value


def _block(fields: dict[str, Any], lists: dict[str, list[str]]) -> bytes:
    """A JSON object, one line a field; the items of `lists` stand one a line."""
    parts = [f"  {_line(key)}: {_line(value)}" for key, value in fields.items()]
    for key, items in lists.items():
        inner = ",\n".join(f"    {item}" for item in items)
        parts.append(f"  {_line(key)}: [\n{inner}\n  ]" if items else f"  {_line(key)}: []")
    return ("{\n" + ",\n".join(parts) + "\n}\n").encode()


def head_text(project: Project, files: dict[str, list[str]]) -> bytes:
    """rushweed.json; `files` are those of the sheets, levels and animations, in order."""
    lists = {kind: [_line(f) for f in names] for kind, names in files.items()}
    for kind in ("recipes", "groups", "traits", "autosets"):
        if getattr(project, kind):
            lists[kind] = [_line(one) for one in getattr(project, kind)]
    return _block({"format": FORMAT, "id": project.id, "name": project.name}, lists)


def animation_text(animation: Animation) -> bytes:
    fields: dict[str, Any] = {"id": animation.id, "name": animation.name, "play": animation.play}
    if animation.body is not None:
        fields["body"] = animation.body
    if animation.tile:
        fields["tile"] = True
    if animation.path is not None:
        fields["path"] = msgspec.to_builtins(animation.path)
    return _block(fields, {"frames": [_line(frame) for frame in animation.frames]})


def read_animation(data: bytes, place: str) -> Animation:
    animation: Animation = decode(data, Animation, place)
    for frame in animation.frames:
        if not 1 <= frame.ms <= 3_600_000:
            raise StoreError(f"{place} has a frame of {frame.ms} ms.", "Use 1 ms to an hour.")
    if animation.path is not None and not 1 <= animation.path.ms <= 3_600_000:
        raise StoreError(f"{place} has a path of {animation.path.ms} ms.", "Use 1 ms to an hour.")
    return animation


def sheet_text(sheet: Sheet) -> bytes:
    fields = msgspec.to_builtins(msgspec.structs.replace(sheet, aside=(), cells=()))
    lists = {"aside": [_line(one) for one in sheet.aside]} if sheet.aside else {}
    return _block(fields, {**lists, "cells": [_line(cell) for cell in sheet.cells]})


def level_text(level: Level) -> bytes:
    fields = {
        "id": level.id,
        "name": level.name,
        "view": level.view,
        "cell": level.cell,
        "bounds": level.bounds,
        "start": level.start,
    }
    layers = [_layer_text(layer, level) for layer in level.layers]
    lists = {"table": [_line(cell) for cell in level.table], "layers": layers}
    if level.things:
        lists["things"] = [_line(thing) for thing in level.things]
    return _block(fields, lists)


def _layer_text(layer: Layer, level: Level) -> str:
    if isinstance(layer, BackdropLayer):
        return _line(layer)
    head = _line(
        {
            "kind": "tiles",
            "id": layer.id,
            "name": layer.name,
            "shown": layer.shown,
            "locked": layer.locked,
            "opacity_percent": layer.opacity_percent,
        }
    )
    rows = rows_of(layer.tiles, level.bounds)
    while rows and not rows[-1]:
        rows.pop()
    inner = ",\n".join(f'      "{row}"' for row in rows)
    return f'{head[:-1]}, "rows": [\n{inner}\n    ]}}' if rows else f'{head[:-1]}, "rows": []}}'


def decode(data: bytes, kind: Any, place: str) -> Any:
    """JSON text to a struct of `kind`. Raises StoreError naming `place` and what is wrong there."""
    if len(data) > MOST_BYTES:
        raise StoreError(
            f"{place} has {len(data) / 2**20:.0f} MiB, more than a project file may have.",
            "Put the file back as it was.",
        )
    if _depth(data) > MOST_DEPTH:
        raise StoreError(f"{place} is nested too deeply to be a project file.", "Put it back as it was.")
    try:
        return msgspec.json.decode(data, type=kind)
    except msgspec.ValidationError as error:
        raise StoreError(
            f"{place} does not hold what it should: {_plain(str(error))}.",
            "Undo the change made by hand, or put the file back as it was.",
        ) from None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        raise StoreError(
            f"{place} is cut short or not JSON.", "Put the file back from your backup or version control."
        ) from None


def _plain(message: str) -> str:
    message = message[0].lower() + message[1:]
    return re.sub(r" - at `\$\.?(.*)`", r" at \1", message).replace(" - at `$`", "")


def _depth(data: bytes) -> int:
    """How deep brackets nest, at least where it matters: counts without reading strings apart."""
    if data.count(b"[") + data.count(b"{") <= MOST_DEPTH:
        return 0
    depth = most = 0
    for bracket in re.findall(rb'"(?:[^"\\]|\\.)*"|[\[\]{}]', data[: 1 << 20]):
        if bracket in b"[{":
            depth += 1
            most = max(most, depth)
            if most > MOST_DEPTH:
                break
        elif bracket in b"]}":
            depth -= 1
    return most


def read_sheet(data: bytes, place: str) -> Sheet:
    sheet: Sheet = decode(data, Sheet, place)
    width, height = sheet.source.size
    seen: set[str] = set()
    kept_aside = {one.cell.id for one in sheet.aside}
    for cell in (*sheet.cells, *(one.cell for one in sheet.aside)):
        x, y, w, h = cell.rect
        if cell.id in seen:
            raise StoreError(f"{place} has two cells with the id {cell.id}.", "Give one of them another id.")
        seen.add(cell.id)
        far = max(abs(x), abs(y), w, h) > 1 << 20
        if cell.id in kept_aside and not far and w > 0 and h > 0:
            continue
        if x < 0 or y < 0 or w < 1 or h < 1 or x + w > width or y + h > height:
            raise StoreError(
                f"{place}: cell {cell.name} at {x}, {y}, {w} x {h} px lies outside its {width} x {height} px "
                "picture.",
                "Put its rect right.",
            )
        _check_numbers(cell, place)
    for path in sheet.source.files:
        if not _safe(path):
            raise StoreError(
                f"{place} points to a picture outside the project folder, or to none: {path}.",
                "Keep pictures under art/.",
            )
    _check_source(sheet.source, place)
    if not sheet.tune.ppu > 0:
        raise StoreError(f"{place} has {sheet.tune.ppu:g} pixels per unit.", "Use a number above 0.")
    if not (0 <= sheet.tune.gutter <= 32 and 0 <= sheet.tune.limit <= 16_384):
        raise StoreError(
            f"{place} has an impossible gutter or page size.", "Use 0 to 32 px, and 16 to 16384."
        )
    return sheet


def _check_source(source: Source, place: str) -> None:
    crop = source.crop or (0, 0, 1, 1)
    if source.columns < 0 or min(crop[:2]) < 0 or min(crop[2:]) < 1:
        raise StoreError(f"{place} lays its frames out in an impossible way.", "Gather the pictures again.")
    if max(crop) > MOST_SIDE or source.columns > MOST_SIDE or not _is_size(source.size):
        raise StoreError(f"{place} has a picture of an impossible size.", "Gather the pictures again.")
    for step in source.steps:
        numbers = (getattr(step, "factor", 1), *getattr(step, "size", ()))
        shades = (getattr(step, "tolerance", 0), *getattr(step, "colour", ()))
        shades += tuple(v for pair in getattr(step, "pairs", ()) for colour in pair for v in colour)
        turns = (getattr(step, "hue", 0), getattr(step, "saturation", 0), getattr(step, "lightness", 0))
        wild = min(shades) < 0 or max(shades) > 255 or max(map(abs, turns)) > 360
        wild = wild or max(map(abs, getattr(step, "start", (0,)))) > MOST_SIDE
        if wild or min(numbers) < 1 or max(numbers) > MOST_SIDE:
            raise StoreError(f"{place} has a preparation step with an impossible number.", "Put it right.")


def _is_size(size: tuple[int, int]) -> bool:
    return min(size) >= 1 and max(size) <= 1 << 20


def _check_numbers(cell: Cell, place: str) -> None:
    for number in (*cell.pivot,):
        if abs(number) > 1e6:
            raise StoreError(f"{place}: cell {cell.name} has its pivot far outside.", "Put the pivot right.")
    s = cell.stretch
    if s is not None:
        fits = s.left + s.right <= cell.rect[2] and s.top + s.bottom <= cell.rect[3]
        if min(s.left, s.top, s.right, s.bottom) < 0 or not fits:
            raise StoreError(
                f"{place}: cell {cell.name} has nine-slice margins that do not fit.", "Mend them."
            )


def _safe(path: str) -> bool:
    """Whether a path lies in the project, and every part of it can be the name of a file."""
    parts = path.split("/")
    named = len(path) <= 1024 and max(len(part.encode(errors="replace")) for part in parts) <= 255
    return bool(path) and not path.startswith("/") and ".." not in parts and "\0" not in path and named


def read_level(data: bytes, place: str) -> Level:
    file: LevelFile = decode(data, LevelFile, place)
    left, top, columns, rows = file.bounds
    if min(file.cell) < 1 or max(file.cell) > MOST_CELL_SIDE:
        raise StoreError(f"{place} has cells of {file.cell[0]} x {file.cell[1]} px.", "Use 1 to 4096.")
    if not (0 <= columns <= MOST_LEVEL_SIDE and 0 <= rows <= MOST_LEVEL_SIDE):
        raise StoreError(
            f"{place} has {columns} x {rows} cells; {MOST_LEVEL_SIDE} a side is the most.",
            "Put its bounds right.",
        )
    held = columns * rows * max(sum(isinstance(layer, TileRows) for layer in file.layers), 1)
    if held > MOST_LEVEL_CELLS:
        raise StoreError(
            f"{place} has {held:,} cells on its layers; {MOST_LEVEL_CELLS:,} are the most.",
            "Put its bounds right.",
        )
    if abs(left) > 1 << 20 or abs(top) > 1 << 20:
        raise StoreError(f"{place} starts at cell {left}, {top}, too far away.", "Put its bounds right.")
    if file.view not in ("side", "top"):
        raise StoreError(f"{place} has the view {file.view!r}.", "Use side or top.")
    layers: list[Layer] = []
    for layer in file.layers:
        if isinstance(layer, BackdropLayer):
            layers.append(layer)
            continue
        where = f"{place}, layer {layer.name}"
        tiles = tiles_of(list(layer.rows), file.bounds, len(file.table), where) if layer.rows else Tiles()
        layers.append(
            TileLayer(layer.id, layer.name, layer.shown, layer.locked, layer.opacity_percent, tiles)
        )
    view: View = "top" if file.view == "top" else "side"
    level = Level(file.id, file.name, view, file.cell, file.bounds, file.table, tuple(layers), file.start)
    return msgspec.structs.replace(level, things=file.things)
