"""Files for a game: pages with frames, textures, the manifest, a file and a picture of each level,
readers."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

import numpy as np

from rushweed.core.document.model.level import BackdropLayer, Level, PictureLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.level.render import level_picture
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import Page, Plan
from rushweed.core.ship.credits import credits_text
from rushweed.core.ship.describe import has_normals, has_texture, is_one_frame, level_file_of, manifest_of
from rushweed.core.ship.encode import normals_bytes, picture_bytes, texture_bytes
from rushweed.core.ship.json_text import json_text
from rushweed.core.ship.names import CREDITS, MANIFEST
from rushweed.core.ship.pages import larger_pixels, normal_pixels, page_pixels, scales_of
from rushweed.core.ship.readers import reader_files
from rushweed.core.ship.task import Make, Output, Task, digest, text_output
from rushweed.core.tune.codec.compress import CODERS


def outputs(task: Task, plan: Plan) -> list[Output]:
    """All files of a shipment for a game."""
    made = [out for n, page in enumerate(plan.pages) for out in _page(task, page, n)]
    made += _levels(task, plan)
    made += _pictures(task)
    project = task.project
    credits = [(s.name, s.credit, s.source.steps) for s in project.sheets]
    made.append(text_output(CREDITS, lambda: credits_text(project).encode(), project.name, credits))
    described = (
        project.name, task.way, [(s.name, s.cells, s.tune, s.states, s.source) for s in project.sheets],
        [(v.id, v.name, v.bounds, v.cell, v.board, task.names.level(v)) for v in project.levels],
        project.animations, project.traits, project.groups, project.autosets, credits,
        plan.places.tobytes(), [p.size for p in plan.pages],
    )  # fmt: skip
    made.append(text_output(
        MANIFEST, lambda: json_text(manifest_of(project, plan, task.way, task.names)), *described
    ))  # fmt: skip
    made += [text_output(name, partial(_given, data), data) for name, data in reader_files().items()]
    return made


def _given(data: bytes) -> bytes:
    return data


# -- pages -------------------------------------------------------------------------------------------------


def _page(task: Task, page: Page, number: int) -> Iterator[Output]:
    kind, names, stock = page.kind, task.names, task.stock
    if page.whole is not None:
        key = digest(task.art(page.whole), page.size)
    else:
        shown = page.spots["part"]
        told = (shown["digest"], shown["turn"], page.spots["rect"], page.spots["slot"])
        key = digest(page.size, *(column.tobytes() for column in told))
    form, area = task.way.picture, page.size[0] * page.size[1]
    indexed = kind.codec == "indexed"
    yield Output(
        names.page(number), digest("picture", key, form, indexed),
        partial(_picture, page, stock, form, indexed), area,
    )  # fmt: skip
    if has_texture(kind):
        blocks = kind.codec in CODERS
        yield Output(
            names.texture(number), digest("texture", key, kind), partial(_texture, page, stock),
            area * 8 if blocks else area, blocks,
        )  # fmt: skip
    others = digest([task.art(sheet) for sheet in page.sheets], key)
    if has_normals(page):
        yield Output(
            names.normals(number), digest("normals", others), partial(_normals, page, stock, False), area
        )
        if has_texture(kind):
            yield Output(
                names.normals_texture(number), digest("normals texture", others, kind),
                partial(_normals, page, stock, True), area,
            )  # fmt: skip
    for scale in scales_of(page):
        yield Output(
            names.larger(number, scale), digest("larger", others, scale, form),
            partial(_larger, page, stock, scale, form), area * scale * scale,
        )  # fmt: skip


def _picture(page: Page, stock: PixelCache, form: str, indexed: bool) -> tuple[Make, tuple[Any, ...]]:
    return picture_bytes, (page_pixels(page, stock), form, indexed)


def _texture(page: Page, stock: PixelCache) -> tuple[Make, tuple[Any, ...]]:
    return texture_bytes, (page_pixels(page, stock), page.kind)


def _normals(page: Page, stock: PixelCache, texture: bool) -> tuple[Make, tuple[Any, ...]]:
    px = normal_pixels(page, stock)
    if px is None:  # none of the maps can be read: flat
        px = np.broadcast_to(np.array((128, 128, 255, 255), np.uint8), (page.size[1], page.size[0], 4)).copy()
    return (normals_bytes, (px, page.kind.mipmaps)) if texture else (picture_bytes, (px, "png"))


def _larger(page: Page, stock: PixelCache, scale: int, form: str) -> tuple[Make, tuple[Any, ...]]:
    return picture_bytes, (larger_pixels(page, stock, scale), form)


# -- levels ------------------------------------------------------------------------------------------------


def _levels(task: Task, plan: Plan) -> Iterator[Output]:
    project, names, way = task.project, task.names, task.way
    for level in project.levels:
        frames = plan.number_of
        art = task.level_art(level)
        used = [frames.get(cell, -1) for cell in level.table]
        yield text_output(
            names.level(level), partial(_level, task, level, frames), art, used, way.tiles, project.groups,
            [frames.get(s.cells[0].id, -1) if s.cells else -1 for s in project.sheets],
        )  # fmt: skip
        picture = names.level_picture(level)
        if picture is None:
            continue
        yield level_output(task, level, picture, level.bounds)
        for room in level.rooms:
            yield level_output(task, level, str(names.room_picture(level, room)), room.area)


def _level(task: Task, level: Level, frames: dict[str, int]) -> bytes:
    return json_text(level_file_of(task.project, level, frames, task.way, task.names))


def level_output(
    task: Task, level: Level, name: str, part: tuple[int, int, int, int], scale: int = 1
) -> Output:
    """A picture of a level, or a part of it (left, top, columns, rows in cells), some times as large."""
    cw, ch = level.cell
    return Output(
        name, digest("level picture", task.level_art(level), part, scale),
        partial(_level_picture, task, level, part, scale), part[2] * cw * part[3] * ch * scale * scale,
    )  # fmt: skip


def level_pixels(task: Task, level: Level, part: tuple[int, int, int, int]) -> np.ndarray:
    """A part of a level, uint8 RGBA."""
    left, top, columns, rows = part
    cw, ch = level.cell
    area = (left * cw, top * ch, columns * cw, rows * ch)
    return level_picture(task.project, level, task.stock.pixels_or_blank, area)


def _level_picture(
    task: Task, level: Level, part: tuple[int, int, int, int], scale: int
) -> tuple[Make, tuple[Any, ...]]:
    px = level_pixels(task, level, part)
    return picture_bytes, (px.repeat(scale, axis=0).repeat(scale, axis=1) if scale > 1 else px, "png")


def _pictures(task: Task) -> Iterator[Output]:
    for sheet in shown_whole(task.project):
        if not is_one_frame(sheet):
            area = sheet.source.size[0] * sheet.source.size[1]
            yield Output(
                task.names.sheet_picture(sheet), digest("sheet", task.art(sheet)),
                partial(_sheet, task.stock, sheet), area,
            )  # fmt: skip


def shown_whole(project: Project) -> list[Sheet]:
    """The sheets that a layer of a level shows whole."""
    layers = [x for v in project.levels for x in v.layers if isinstance(x, (BackdropLayer, PictureLayer))]
    shown = {layer.sheet for layer in layers}
    return [sheet for sheet in project.sheets if sheet.id in shown]


def _sheet(stock: PixelCache, sheet: Sheet) -> tuple[Make, tuple[Any, ...]]:
    return picture_bytes, (stock.pixels(sheet), "png")
