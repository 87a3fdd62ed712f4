"""`rushweed level ...`: make, paint, fill and picture a whole level from a script."""

from __future__ import annotations

import csv
import io
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import numpy as np
import typer

from rushweed.cli.common import (
    ProjectPath,
    app,
    changing,
    errors_told,
    find_animation,
    find_layer,
    find_level,
    find_sheet,
    find_tile,
    four,
    grouped,
    pair,
    told_of,
)
from rushweed.core.document.errors import EditError, file_reason
from rushweed.core.document.text import table_field
from rushweed.core.store.folder import Folder
from rushweed.core.store.saves import save_and_remember

if TYPE_CHECKING:
    from rushweed.core.document.model.level import Level
    from rushweed.core.document.model.project import Project
    from rushweed.core.document.model.sheet import Cell
    from rushweed.core.level.brush import Spots

levels = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
app.add_typer(levels, name="level", help="Make, paint, fill and picture a level.")

LayerName = Annotated[str, typer.Option("--layer", metavar="NAME", help="Which layer, if there are several.")]


@levels.command()
def new(
    project: ProjectPath,
    name: str,
    cell: Annotated[str, typer.Option(metavar="WxH", help="Px of a cell; that of the tiles.")] = "16x16",
    size: Annotated[
        str, typer.Option(metavar="CxR", help="Columns and rows; it grows as it is painted.")
    ] = "40x22",
    view: Annotated[str, typer.Option(metavar="side|top|free")] = "side",
) -> None:
    """Make an empty level with one layer."""
    from rushweed.core.level.levels import add_level

    with errors_told(), changing(project) as (folder, value):
        if view not in ("side", "top", "free"):
            raise EditError(f"{view!r} is no view.", "Use side, top or free.")
        sides = pair(cell, "--cell"), pair(size, "--size")
        value, made = add_level(value, name, sides[0], view, sides[1])  # type: ignore[arg-type]
        save_and_remember(folder, value)
    print(f"Level {find_level(value, made).name}: {sides[1][0]} x {sides[1][1]} cells of {cell} px.")


@dataclass
class LayerOptions:
    """What of a layer is set."""

    backdrop: Annotated[str, typer.Option(metavar="SHEET", help="A sheet behind the tiles.")] = ""
    picture: Annotated[str, typer.Option(metavar="SHEET", help="The whole picture of a sheet.")] = ""
    things: Annotated[bool, typer.Option("--things", help="A layer for things alone.")] = False
    parallax: Annotated[str, typer.Option(metavar="X[,Y]", help="0 stands still, 1 moves along.")] = ""
    top: Annotated[float | None, typer.Option(help="Of a backdrop: px of its upper edge.")] = None
    offset: Annotated[str, typer.Option(metavar="X,Y", help="px by which it is moved.")] = ""
    opacity_percent: Annotated[float | None, typer.Option("--opacity", min=0, max=100, help="Per cent.")] = (
        None
    )
    tint: Annotated[str, typer.Option(metavar="RRGGBB|none", help="Colours are multiplied by it.")] = ""
    solid: Annotated[bool | None, typer.Option("--solid/--only-picture", help="Whether shapes count.")] = None
    front: Annotated[bool | None, typer.Option("--front/--behind", help="Of the walker.")] = None


@levels.command()
@grouped
def layer(project: ProjectPath, level: str, name: str, told: LayerOptions) -> None:
    """Add a layer, or set one there is: of tiles, of things, a backdrop behind the others, or a picture."""
    from rushweed.core.level import layers

    with errors_told(), changing(project) as (folder, value):
        found = find_level(value, level)
        known = next((x for x in found.layers if x.name == name), None)
        if known is None:
            before = {x.id for x in found.layers}
            if told.backdrop:
                value = layers.add_backdrop(value, found.id, find_sheet(value, told.backdrop).id, 0.1, 0.0)
            elif told.picture:
                value = layers.add_picture(value, found.id, find_sheet(value, told.picture).id, (0.0, 0.0))
            elif told.things:
                value, _made = layers.add_thing_layer(value, found.id, name)
            else:
                value, _made = layers.add_layer(value, found.id, name)
            known = next(x for x in find_level(value, found.id).layers if x.id not in before)
        fields: dict[str, object] = {"name": name}
        if told.parallax:
            numbers = [_number(part, "--parallax") for part in told.parallax.split(",")]
            fields |= {"parallax": numbers[0], "parallax_y": numbers[1] if len(numbers) > 1 else None}
        if told.offset:
            fields["offset"] = tuple(float(v) for v in pair(told.offset, "--offset"))
        if told.tint:
            fields["tint"] = None if told.tint == "none" else _colour(told.tint)
        fields |= told_of(told, "top", "opacity_percent", "solid", "front")
        save_and_remember(folder, layers.change_layer(value, found.id, known.id, **fields))
    print(f"{found.name}: layer {name}.")


def _number(text: str, option: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise EditError(f"{option} {text!r} is no number.", "Use one such as 0.5.") from None


def _colour(text: str) -> tuple[int, int, int]:
    digits = text.lstrip("#")
    if len(digits) != 6 or any(c not in "0123456789abcdefABCDEF" for c in digits):
        raise EditError(f"--tint {text!r} is no colour.", "Use six hexadecimal digits, or none.")
    return int(digits[:2], 16), int(digits[2:4], 16), int(digits[4:], 16)


@levels.command("set")
def set_level(
    project: ProjectPath,
    level: str,
    view: Annotated[str, typer.Option(help="side, top or free.")] = "",
    order: Annotated[
        str, typer.Option(help="layer, or foot: who stands lower covers who stands higher.")
    ] = "",
    group: Annotated[str | None, typer.Option(help="Listed together on the Shelf.")] = None,
    board: Annotated[str, typer.Option(metavar="X,Y", help="px of cell 0, 0 beside the other levels.")] = "",
) -> None:
    """Set how a level is looked at, what is drawn over what, and where it stands among the others."""
    from rushweed.core.level.levels import change_level

    with errors_told(), changing(project) as (folder, value):
        found = find_level(value, level)
        fields: dict[str, object] = {k: v for k, v in (("view", view), ("order", order)) if v}
        if group is not None:
            fields["group"] = group
        if board:
            fields["board"] = pair(board, "--board")
        save_and_remember(folder, change_level(value, found.id, **fields))
    print(f"{found.name} is set.")


@dataclass
class RoomOptions:
    """What of a room is set."""

    box: Annotated[str, typer.Option(metavar="X,Y,W,H", help="Its cells.")] = ""
    camera: Annotated[str, typer.Option(help="follows, across, down or still.")] = ""
    overlap: Annotated[bool, typer.Option("--overlap", help="It may lie over others.")] = False
    remove: Annotated[bool, typer.Option("--remove", help="Take the room away.")] = False


@levels.command()
@grouped
def room(project: ProjectPath, level: str, name: str, told: RoomOptions) -> None:
    """Draw a room, or change the one of that name; tell rooms that overlap or leave a gap."""
    from rushweed.core.level import rooms

    with errors_told(), changing(project) as (folder, value):
        found = find_level(value, level)
        known = next((r for r in found.rooms if r.name == name), None)
        if known is None and not told.box:
            raise EditError(f"{found.name} has no room {name}.", "Draw it with --box X,Y,W,H.")
        if known is None:
            value, made = rooms.add_room(value, found.id, four(told.box, "--box"), name, told.overlap)
        else:
            made = known.id
            if told.box:
                value = rooms.change_room(value, found.id, made, told.overlap, area=four(told.box, "--box"))
        if told.camera:
            value = rooms.change_room(value, found.id, made, camera=told.camera)
        if told.remove:
            value = rooms.remove_room(value, found.id, made)
        save_and_remember(folder, value)
        faults = rooms.room_faults(find_level(value, found.id))
    print(f"{found.name}: room {name}{' removed' if told.remove else ''}.")
    for fault in faults:
        print(
            f"{' and '.join(fault.rooms)}: {fault.what} at {fault.area[0]}, {fault.area[1]}", file=sys.stderr
        )


@dataclass
class PaintOptions:
    """What is painted, and where."""

    tile: Annotated[str, typer.Option(metavar="CELL", help="By name, or sheet.png:name.")] = ""
    auto: Annotated[str, typer.Option(metavar="SET", help="An auto-tile set in place of a tile.")] = ""
    erase: Annotated[bool, typer.Option("--erase", help="Take tiles away.")] = False
    at: Annotated[str, typer.Option(metavar="X,Y", help="One cell.")] = ""
    line: Annotated[str, typer.Option(metavar="X,Y,X,Y", help="From one cell to another.")] = ""
    box: Annotated[str, typer.Option(metavar="X,Y,W,H", help="A rectangle of cells.")] = ""
    turn: Annotated[int, typer.Option(min=0, max=3, help="Quarter turns clockwise.")] = 0
    mirror: Annotated[bool, typer.Option("--mirror", help="Left and right, before it is turned.")] = False


@levels.command()
@grouped
def paint(project: ProjectPath, level: str, told: PaintOptions, layer: LayerName = "") -> None:
    """Paint a tile or an auto-tile set on cells of a layer, or erase them."""
    from rushweed.core.level import edit
    from rushweed.core.level.autopaint import paint_auto
    from rushweed.core.level.stamp import Stamp

    with errors_told(), changing(project) as (folder, value):
        if (
            sum((bool(told.tile), bool(told.auto), told.erase)) != 1
            or sum((bool(told.at), bool(told.line), bool(told.box))) != 1
        ):
            raise EditError(
                "paint needs one of --tile, --auto, --erase and one of --at, --line, --box.",
                "For example --tile grass --box 0,10,40,2.",
            )
        found = find_level(value, level)
        home, spots = find_layer(found, layer), _spots(told.at, told.line, told.box)
        if told.auto:
            chosen = next((s for s in value.autosets if told.auto in (s.name, s.id)), None)
            if chosen is None:
                raise EditError(f"There is no auto-tile set {told.auto}.", "Make it with rushweed autotile.")
            value = paint_auto(value, found.id, home.id, chosen, spots)
        elif told.erase:
            value = edit.erase(value, found.id, home.id, spots)
        else:
            orientation = told.turn + (4 if told.mirror else 0)
            stamp = Stamp((find_tile(value, told.tile).id,), np.array([[1]]), np.array([[orientation]]))
            value = edit.paint(value, found.id, home.id, stamp, spots)
        save_and_remember(folder, value)
    print(f"{found.name}, {home.name}: {len(spots[0])} cells {'erased' if told.erase else 'painted'}.")


def _spots(at: str, line: str, box: str) -> Spots:
    from rushweed.core.level.brush import line as cells_of_line
    from rushweed.core.level.brush import rectangle

    if at:
        x, y = pair(at, "--at")
        return np.array([x]), np.array([y])
    if line:
        return cells_of_line(*four(line, "--line"))
    x, y, w, h = four(box, "--box")
    if w < 1 or h < 1:
        raise EditError(f"--box {box} holds no cells.", "Give a width and a height of at least 1.")
    return rectangle(x, y, x + w - 1, y + h - 1)


@levels.command()
def rows(
    project: ProjectPath,
    level: str,
    file: Annotated[Path, typer.Argument(metavar="FILE.csv", help="One tile's name a field; - reads stdin.")],
    at: Annotated[str, typer.Option(metavar="X,Y", help="Where the first field goes.")] = "0,0",
    layer: LayerName = "",
) -> None:
    """Paint a layer from a table of tile names; empty fields and . leave cells as they are."""
    from rushweed.core.level import edit
    from rushweed.core.level.stamp import from_grid

    with errors_told(), changing(project) as (folder, value):
        try:
            text = sys.stdin.read() if str(file) == "-" else file.read_text()
        except (OSError, UnicodeDecodeError) as error:
            reason = file_reason(error) if isinstance(error, OSError) else "it is no text"
            raise EditError(f"{file} could not be read: {reason}.", "Write it as CSV in UTF-8.") from None
        known: dict[str, Cell] = {}
        grid: list[list[str | None]] = []
        for number, fields in enumerate(csv.reader(io.StringIO(text)), 1):
            row: list[str | None] = []
            for word in (field.strip().removeprefix("'") for field in fields):
                if word in ("", "."):
                    row.append(None)
                    continue
                if word not in known:
                    try:
                        known[word] = find_tile(value, word)
                    except EditError as error:
                        raise EditError(f"{file}, line {number}: {error.problem}", error.cure) from None
                row.append(known[word].id)
            grid.append(row)
        wide = max((len(row) for row in grid), default=0)
        grid = [row + [None] * (wide - len(row)) for row in grid]
        if not known:
            raise EditError(f"{file} names no tile.", "Write one tile's name a field.")
        found = find_level(value, level)
        home, (x, y) = find_layer(found, layer), pair(at, "--at")
        value = edit.paint(value, found.id, home.id, from_grid(grid), (np.array([x]), np.array([y])))
        save_and_remember(folder, value)
    print(f"{found.name}, {home.name}: {wide} x {len(grid)} cells from {file}.")


@levels.command()
def thing(
    project: ProjectPath,
    level: str,
    shows: Annotated[str, typer.Argument(metavar="CELL|ANIMATION")],
    at: Annotated[str, typer.Option(metavar="X,Y", help="Where its pivot stands, level px.")],
    layer: LayerName = "",
) -> None:
    """Place a cell or an animation freely, in front of a layer."""
    from rushweed.core.level.things import place_thing

    with errors_told(), changing(project) as (folder, value):
        found, (x, y) = find_level(value, level), pair(at, "--at")
        known = any(shows in (a.name, a.id) for a in value.animations)
        what = find_animation(value, shows).id if known else find_tile(value, shows).id
        home = find_layer(found, layer or found.layers[-1].name)
        value, _made = place_thing(value, found.id, what, (x, y), home.id)
        save_and_remember(folder, value)
    print(f"{found.name}: {shows} at {x}, {y} px.")


@levels.command()
def start(project: ProjectPath, level: str, at: Annotated[str, typer.Option(metavar="X,Y")]) -> None:
    """Set where the player's feet stand at the beginning, in level px."""
    from rushweed.core.level.levels import set_start

    with errors_told(), changing(project) as (folder, value):
        found, (x, y) = find_level(value, level), pair(at, "--at")
        save_and_remember(folder, set_start(value, found.id, x, y))
    print(f"{found.name}: starts at {x}, {y} px.")


@levels.command()
def picture(
    project: ProjectPath,
    level: str,
    out: Annotated[Path, typer.Option("--out", metavar="FILE.png")],
    scale: Annotated[int, typer.Option(min=1, max=16, help="Whole times as large.")] = 1,
    room: Annotated[str, typer.Option(metavar="NAME", help="Only this room.")] = "",
) -> None:
    """Write a level, or one of its rooms, as one picture."""
    from rushweed.core.level.render import level_picture
    from rushweed.core.pixels.cache import PixelCache
    from rushweed.core.pixels.read import check_size
    from rushweed.core.store.files import write_file
    from rushweed.core.tune.codec.compress import png_bytes

    with errors_told():
        folder = Folder(project)
        value = folder.open()
        found = find_level(value, level)
        one = next((r for r in found.rooms if r.name == room), None)
        if room and one is None:
            raise EditError(f"{found.name} has no room {room}.", "Draw it with rushweed level room.")
        left, top, columns, rows = one.area if one is not None else found.bounds
        wide, high = found.cell
        check_size(columns * wide * scale, rows * high * scale, f"A picture of {found.name}")
        area = (left * wide, top * high, columns * wide, rows * high)
        drawn = level_picture(value, found, PixelCache(folder.path).pixels_or_blank, area)
        write_file(out, png_bytes(drawn.repeat(scale, 0).repeat(scale, 1)))
    print(f"{out}: {area[2] * scale} x {area[3] * scale} px")


@levels.command()
def show(project: ProjectPath, level: str, layer: LayerName = "") -> None:
    """Print a layer as a table of tile names, as `rows` reads it (turned tiles by name only)."""
    with errors_told():
        value = Folder(project).open()
        found = find_level(value, level)
        table = csv.writer(sys.stdout, lineterminator="\n")
        table.writerows([[table_field(name) for name in line] for line in _table(value, found, layer)])


def _table(project: Project, level: Level, layer: str) -> list[list[str]]:
    from rushweed.core.document.edit import cell_homes
    from rushweed.core.document.model.level import TileLayer
    from rushweed.core.level.chunks import region

    home = find_layer(level, layer)
    if not isinstance(home, TileLayer):
        raise EditError(f"{home.name} is a backdrop and has no tiles.", "Choose a layer of tiles.")
    cells = cell_homes(project)
    names = ["."] + [cells[i][1].name if i in cells else "." for i in level.table]
    return [[names[value >> 3] for value in row] for row in region(home.tiles, *level.bounds).tolist()]
