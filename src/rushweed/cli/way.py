"""`rushweed way`: list the ways to ship, make one, change one."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

import msgspec
import typer
from msgspec.structs import replace

from rushweed.cli.common import (
    AsJson,
    ProjectPath,
    app,
    changing,
    errors_told,
    find_animation,
    find_level,
    find_sheet,
    grouped,
    told_of,
)
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.shipping import PLAIN_PARTS, Way
from rushweed.core.store.folder import Folder

Names = Annotated[str | None, typer.Option(metavar="NAMES", help="With commas between, or all.")]


@dataclass
class WayOptions:
    """What of a way to ship is set."""

    like: Annotated[str | None, typer.Option(metavar="NAME", help="Make a new one as this is.")] = None
    remove: Annotated[bool, typer.Option("--remove", help="Take it off the list.")] = False
    makes: Annotated[Literal["game", "plain", "page"] | None, typer.Option()] = None
    folder: Annotated[str | None, typer.Option(metavar="DIR", help="From the project's folder.")] = None
    sheets: Names = None
    levels: Names = None
    animations: Names = None
    picture: Annotated[Literal["png", "webp"] | None, typer.Option()] = None
    texture: Annotated[
        Literal["tuned", "never", "none", "bc1", "bc3", "bc7", "etc2"] | None, typer.Option()
    ] = None
    tiles: Annotated[Literal["runs", "cells"] | None, typer.Option(help="Form of a level's tiles.")] = None
    parts: Annotated[
        str | None, typer.Option(metavar="PARTS", help=f"Of plain files: {', '.join(PLAIN_PARTS)}.")
    ] = None
    whole: Annotated[bool | None, typer.Option(help="Plain frames with their clear borders.")] = None
    scales: Annotated[str | None, typer.Option(metavar="N,N", help="Of pictures of levels.")] = None
    shapes: Annotated[bool | None, typer.Option(help="Pictures of levels with shapes too.")] = None


@dataclass
class PageOptions:
    """What of its pages is set."""

    gutter: Annotated[int | None, typer.Option(help="Px of repeated edge around frames.")] = None
    limit: Annotated[int | None, typer.Option("--page", help="Largest side of a page, px.")] = None
    sides: Annotated[Literal["any", "four", "power"] | None, typer.Option(help="Sides of pages.")] = None
    trim: Annotated[bool | None, typer.Option(help="Leave clear borders out.")] = None
    turned: Annotated[bool | None, typer.Option(help="Place mirrored and turned pictures once.")] = None
    grid: Annotated[bool | None, typer.Option(help="Even cells at one pitch.")] = None
    clean: Annotated[int | None, typer.Option(help="Mipmaps that never mix neighbours.")] = None


@app.command()
@grouped
def way(
    project: ProjectPath,
    told: WayOptions,
    pages: PageOptions,
    name: Annotated[str | None, typer.Argument(metavar="[NAME]", help="None: list them all.")] = None,
    as_json: AsJson = False,
) -> None:
    """List the ways to ship, make one, or change one."""
    from rushweed.core.ship.ways import add_way, change_way, remove_way, way_named, ways_of

    with errors_told():
        if name is None:
            _list(ways_of(Folder(project).open()), as_json)
            return
        with changing(project) as (opened, value):
            if told.like is not None:
                value, way_id = add_way(value, name, way_named(value, told.like).id)
            else:
                way_id = way_named(value, name).id
            if told.remove:
                opened.save(remove_way(value, way_id))
                print(f"{name} is off the list.")
                return
            old = next(w for w in ways_of(value) if w.id == way_id)
            value = change_way(
                value, way_id, **_fields(value, told), pages=replace(old.pages, **told_of(pages))
            )
            opened.save(value)
            _list(tuple(w for w in ways_of(value) if w.id == way_id), as_json)


def _fields(project: Project, told: WayOptions) -> dict[str, Any]:
    """What is set, as a way to ship has it."""
    found = told_of(told, "makes", "folder", "picture", "texture", "tiles", "whole", "shapes")
    found |= _chosen(project, **told_of(told, "sheets", "levels", "animations"))
    if told.parts is not None:
        found["parts"] = _parts(told.parts)
    if told.scales is not None:
        found["scales"] = _scales(told.scales)
    return found


def _chosen(project: Project, **named: str) -> dict[str, tuple[str, ...] | None]:
    """The ids of what was named by kind; "all" is None."""
    find: dict[str, Callable[[Project, str], Sheet | Level | Animation]] = {
        "sheets": find_sheet, "levels": find_level, "animations": find_animation,
    }  # fmt: skip
    made: dict[str, tuple[str, ...] | None] = {}
    for kind, text in named.items():
        names = [part.strip() for part in text.split(",") if part.strip()]
        made[kind] = None if names == ["all"] else tuple(find[kind](project, n).id for n in names)
    return made


def _parts(text: str) -> tuple[str, ...]:
    wanted = [part.strip() for part in text.split(",") if part.strip()]
    unknown = [part for part in wanted if part not in PLAIN_PARTS]
    if unknown:
        raise EditError(f"Plain files have no part {unknown[0]!r}.", f"Use {', '.join(PLAIN_PARTS)}.")
    return tuple(part for part in PLAIN_PARTS if part in wanted)


def _scales(text: str) -> tuple[int, ...]:
    try:
        return tuple(sorted({int(part) for part in text.split(",")}))
    except ValueError:
        raise EditError(f"{text!r} is no list of scales.", "Write whole numbers, such as 1,2,4.") from None


def _list(ways: tuple[Way, ...], as_json: bool) -> None:
    if as_json:
        print(json.dumps({"ways": [msgspec.to_builtins(w) for w in ways]}, ensure_ascii=False))
        return
    for one in ways:
        print(f"{one.name}: {one.makes}, to {one.folder or 'a folder told with --out'}")
