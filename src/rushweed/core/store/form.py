"""The texts of a project folder: fixed key order, one line a cell, one line a row of tiles."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

import msgspec
import numpy as np
from msgspec.structs import replace

from rushweed.core.document.errors import EditError, StoreError
from rushweed.core.document.limits import check_animation, check_extent, check_level, check_sheet, check_way
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import (
    BackdropLayer,
    KeptStamp,
    Layer,
    LayerLook,
    Level,
    Order,
    PictureLayer,
    Room,
    Run,
    Thing,
    ThingLayer,
    TileLayer,
    Tiles,
    View,
    Walker,
)
from rushweed.core.document.model.project import FORMAT, LeftAlone, Project
from rushweed.core.document.model.shape import AutoSet, CollisionGroup, Trait
from rushweed.core.document.model.sheet import Recipe, Sheet
from rushweed.core.document.model.shipping import Way
from rushweed.core.store.level_text import rows_of, tiles_of

MOST_BYTES = 512 * 1024 * 1024
MOST_DEPTH = 32
_encoder = msgspec.json.Encoder()
MOST_AT_ONCE = 64  # lines in one call, which nothing else can run beside
MOST_LAYERS = 64  # whose texts are remembered
BRACKETS = np.zeros(256, np.int8)  # by letter: one in, one out
BRACKETS[list(b"[{")], BRACKETS[list(b"]}")] = 1, -1


class Head(msgspec.Struct, frozen=True):
    """rushweed.json: the order of things, by id and file."""

    format: int
    id: str
    name: str
    sheets: tuple[str, ...] = ()
    levels: tuple[str, ...] = ()
    animations: tuple[str, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    groups: tuple[CollisionGroup, ...] = ()
    traits: tuple[Trait, ...] = ()
    autosets: tuple[AutoSet, ...] = ()
    stamps: tuple[KeptStamp, ...] = ()
    ways: tuple[Way, ...] = ()
    left_alone: tuple[LeftAlone, ...] = ()


class TileRows(LayerLook, frozen=True, tag_field="kind", tag="tiles"):
    """A tile layer as it stands in a level's file."""

    id: str
    name: str
    solid: bool = True
    rows: tuple[str, ...] = ()


class LevelFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A level as it stands in its file."""

    id: str
    name: str
    view: View
    cell: tuple[int, int]
    bounds: tuple[int, int, int, int]
    start: tuple[float, float] = (0, 0)
    table: tuple[str, ...] = ()
    order: Order = "layer"
    group: str = ""
    board: tuple[int, int] | None = None
    walker: Walker | None = None
    layers: tuple[TileRows | ThingLayer | BackdropLayer | PictureLayer, ...] = ()
    rooms: tuple[Room, ...] = ()
    things: tuple[Thing, ...] = ()
    runs: tuple[Run, ...] = ()


def _line(value: Any) -> bytes:
    return msgspec.json.format(msgspec.json.encode(_whole(msgspec.to_builtins(value))), indent=0)


def _whole(value: Any) -> Any:
    """Numbers such as 16.0 become 16, so that files stay as a person would write them."""
    if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
        return int(value)
    if isinstance(value, dict):
        return {k: _whole(v) for k, v in value.items()}
    if isinstance(value, (list, tuple)):
        return [_whole(v) for v in value]
    return value


def _lines(values: Sequence[Any]) -> list[bytes]:
    """A line each, as `_line` makes them. Of many in few calls, as they are kept with each edit: ends such as
    16.0 are cut off in the text itself, unless one stands in a name."""
    lines: list[bytes] = []
    for start in range(0, len(values), MOST_AT_ONCE):
        some = values[start : start + MOST_AT_ONCE]
        text = _encoder.encode_lines(some)
        if b".0" in text:
            if b"-0.0" in text or b"\\" in text or b".0" in b" ".join(text.split(b'"')[1::2]):
                lines += map(_line, some)
                continue
            for end in (b",", b"]", b"}"):
                text = text.replace(b".0" + end, end)
        lines += [msgspec.json.format(line, indent=0) for line in text.splitlines()]
    return lines


def _block(fields: dict[str, Any], lists: dict[str, list[bytes]]) -> bytes:
    """A JSON object, one line a field; the items of `lists` stand one a line. Put together in one go: a large
    level's text would take a window's time with each copy."""
    parts, before = [b"{"], b"\n  "
    for key, value in fields.items():
        parts += (before, _line(key), b": ", _line(value))
        before = b",\n  "
    for key, items in lists.items():
        parts += (before, _line(key), b": [")
        before = b",\n  "
        for n, item in enumerate(items):
            parts += (b",\n    " if n else b"\n    ", item)
        parts.append(b"\n  ]" if items else b"]")
    parts.append(b"\n}\n")
    return b"".join(parts)


def head_text(project: Project, files: dict[str, list[str]]) -> bytes:
    """rushweed.json; `files` are those of the sheets, levels and animations, in order."""
    lists = {kind: _lines(names) for kind, names in files.items()}
    for kind in ("recipes", "groups", "traits", "autosets", "stamps", "ways", "left_alone"):
        if getattr(project, kind):
            lists[kind] = _lines(getattr(project, kind))
    return _block({"format": FORMAT, "id": project.id, "name": project.name}, lists)


def read_head(data: bytes, place: str) -> Head:
    """rushweed.json as it stands. Raises StoreError."""
    head: Head = decode(data, Head, place)
    for way in head.ways:
        _within_limits(check_way, way, place)
    return head


def animation_text(animation: Animation) -> bytes:
    """An animation as the bytes of its file."""
    fields: dict[str, Any] = {"id": animation.id, "name": animation.name, "play": animation.play}
    if animation.body is not None:
        fields["body"] = animation.body
    if animation.tile:
        fields["tile"] = True
    if animation.path is not None:
        fields["path"] = msgspec.to_builtins(animation.path)
    return _block(fields, {"frames": _lines(animation.frames)})


def read_animation(data: bytes, place: str) -> Animation:
    """The animation of a file's bytes. Raises StoreError naming `place`."""
    animation: Animation = decode(data, Animation, place)
    _within_limits(check_animation, animation, place)
    return animation


def _within_limits(check: Callable[[Any], None], part: Any, place: str) -> None:
    """What may not be in a project may not be in its files. Raises StoreError naming `place`."""
    try:
        check(part)
    except EditError as error:
        raise StoreError(f"{place}: {error.problem}", error.cure) from None


def sheet_text(sheet: Sheet) -> bytes:
    """A sheet as the bytes of its file, a line a cell."""
    fields = msgspec.to_builtins(msgspec.structs.replace(sheet, aside=(), cells=()))
    lists = {"aside": _lines(sheet.aside)} if sheet.aside else {}
    return _block(fields, {**lists, "cells": _lines(sheet.cells)})


def level_text(level: Level) -> bytes:
    """A level as the bytes of its file, a line a row of tiles."""
    fields = {
        "id": level.id,
        "name": level.name,
        "view": level.view,
        "cell": level.cell,
        "bounds": level.bounds,
        "start": level.start,
    }
    whole = msgspec.to_builtins(replace(level, layers=(), table=(), things=(), rooms=(), runs=()))
    fields |= {name: whole[name] for name in ("order", "group", "board", "walker") if name in whole}
    layers = [_layer_text(layer, level) for layer in level.layers]
    lists = {"table": _lines(level.table), "layers": layers}
    if level.rooms:
        lists["rooms"] = _lines(level.rooms)
    if level.things:
        lists["things"] = _lines(level.things)
    if level.runs:
        lists["runs"] = _lines(level.runs)
    return _block(fields, lists)


_written: dict[str, tuple[TileLayer, tuple[int, ...], bytes]] = {}  # of each layer by id the latest text


def _layer_text(layer: Layer, level: Level) -> bytes:
    if not isinstance(layer, TileLayer):
        return _line(layer)
    known = _written.get(layer.id)
    if known is None or known[0] is not layer or known[1] != level.bounds:
        if len(_written) >= MOST_LAYERS:
            _written.clear()
        known = _written[layer.id] = layer, level.bounds, _tiles_text(layer, level)
    return known[2]


def _tiles_text(layer: TileLayer, level: Level) -> bytes:
    first = {"kind": "tiles", "id": layer.id, "name": layer.name}
    always = {"shown": layer.shown, "locked": layer.locked, "opacity_percent": layer.opacity_percent}
    rest = msgspec.to_builtins(replace(layer, tiles=Tiles()))
    head = _line({k: v for k, v in (first | always | rest).items() if k != "tiles"})
    rows = rows_of(layer.tiles, level.bounds)
    while rows and not rows[-1]:
        rows.pop()
    if not rows:
        return head[:-1] + b', "rows": []}'
    inner = '",\n      "'.join(rows).encode()
    return b"".join((head[:-1], b', "rows": [\n      "', inner, b'"\n    ]}'))


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
    """How deep brackets nest outside of strings, in the first MiB."""
    if data.count(b"[") + data.count(b"{") <= MOST_DEPTH:
        return 0
    text = data[: 1 << 20]
    if b"\\" in text:
        text = re.sub(rb"\\.", b"", text, flags=re.DOTALL)
    codes = np.frombuffer(text, np.uint8)
    within = np.add.accumulate(codes == ord('"'), dtype=np.uint8) & 1  # 1 in a string
    steps = np.where(within, np.int8(0), BRACKETS[codes])
    return int(np.add.accumulate(steps, dtype=np.int32).max())


def read_sheet(data: bytes, place: str) -> Sheet:
    """The sheet of a file's bytes. Raises StoreError naming `place`."""
    sheet: Sheet = decode(data, Sheet, place)
    for path in sheet.source.files:
        if not _safe(path):
            raise StoreError(
                f"{place} points to a picture outside the project folder, or to none: {path}.",
                "Keep pictures under art/.",
            )
    _within_limits(check_sheet, sheet, place)
    return sheet


def _safe(path: str) -> bool:
    """Whether a path lies in the project, and every part of it can be the name of a file."""
    parts = path.split("/")
    named = len(path) <= 1024 and max(len(part.encode(errors="replace")) for part in parts) <= 255
    return bool(path) and not path.startswith("/") and ".." not in parts and "\0" not in path and named


def read_level(data: bytes, place: str) -> Level:
    """The level of a file's bytes. Raises StoreError naming `place`."""
    file: LevelFile = decode(data, LevelFile, place)
    layers_held = sum(isinstance(layer, TileRows) for layer in file.layers)
    _within_limits(lambda f: check_extent(f.name, f.cell, f.bounds, layers_held), file, place)
    layers: list[Layer] = []
    for layer in file.layers:
        if not isinstance(layer, TileRows):
            layers.append(layer)
            continue
        where = f"{place}, layer {layer.name}"
        tiles = tiles_of(list(layer.rows), file.bounds, len(file.table), where) if layer.rows else Tiles()
        fields = {name: getattr(layer, name) for name in layer.__struct_fields__ if name != "rows"}
        layers.append(TileLayer(**fields, tiles=tiles))
    fields = {name: getattr(file, name) for name in file.__struct_fields__}
    level = Level(**{**fields, "layers": tuple(layers)})
    _within_limits(check_level, level, place)
    return level
