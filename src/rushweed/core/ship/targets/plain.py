"""Plain files that any program opens: frames, moving pictures, outlines, tables of tiles, pictures,
licences."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from functools import partial
from typing import Any

import msgspec
import numpy as np

from rushweed.core.animate.export import Form, written
from rushweed.core.document.ids import unique_names
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.document.model.shipping import PlainPart
from rushweed.core.document.text import table_field
from rushweed.core.level.chunks import region
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import Frame, Plan
from rushweed.core.ship.credits import credits_markdown, credits_text, spdx_document
from rushweed.core.ship.encode import picture_bytes
from rushweed.core.ship.names import CREDITS, has_picture, unique_files
from rushweed.core.ship.outlines import cell_svg, level_svg, with_outlines
from rushweed.core.ship.targets.game import level_output, level_pixels
from rushweed.core.ship.task import Make, Output, Task, digest, text_output
from rushweed.core.store.folder import file_name
from rushweed.core.tune.units import size_units

WORDS: dict[PlainPart, str] = {
    "frames": "Single frames", "rows": "Rows of frames", "gif": "GIF", "apng": "APNG", "webp": "WebP",
    "outlines": "Outlines (SVG)", "tiles": "Tile tables (CSV)", "pictures": "Pictures of levels",
    "licences": "Licences (SPDX)",
}  # fmt: skip
MOVING: dict[PlainPart, tuple[Form, str]] = {
    "rows": ("row", "-row.png"), "gif": ("gif", ".gif"), "apng": ("apng", ".apng"), "webp": ("webp", ".webp"),
}  # fmt: skip


def outputs(task: Task, plan: Plan) -> list[Output]:
    """All files of a shipment of plain files."""
    parts = task.way.parts
    cell_names = {s.id: _cell_names(s) for s in task.project.sheets}
    made: list[Output] = []
    frames = {frame.cell.id: frame for frame in plan.frames}
    for sheet in task.project.sheets:
        names = cell_names[sheet.id]
        if "frames" in parts:
            made += _frames(task, frames, sheet, names)
        if "outlines" in parts:
            made += _outlines(task, sheet, names)
    made += _moving(task)
    for level in task.project.levels:
        stem = f"levels/{task.names.level_stem(level)}"
        if "outlines" in parts:
            make = partial(_level_outline, task, level)
            made.append(text_output(f"{stem}/outline.svg", make, "outline", task.level_art(level)))
        if "tiles" in parts:
            made += _tables(task, level, stem, cell_names)
        if "pictures" in parts:
            made += _level_pictures(task, level, stem)
    return [*made, *_credits(task)]


def _cell_names(sheet: Sheet) -> dict[str, str]:
    """The file name of each cell of a sheet, by its id."""
    return unique_files({cell.id: file_name(cell.name) for cell in sheet.cells})


# -- frames ------------------------------------------------------------------------------------------------


def _frames(task: Task, frames: dict[str, Frame], sheet: Sheet, names: dict[str, str]) -> Iterator[Output]:
    """One PNG a cell and a table of what they are like."""
    home = f"frames/{task.names.sheet_stem(sheet)}"
    rows = []
    for cell in sheet.cells:
        frame = frames[cell.id]
        turned = frame.turn & 1
        w, h = (frame.rect[3], frame.rect[2]) if turned else (frame.rect[2], frame.rect[3])
        box = (0, 0, cell.rect[2], cell.rect[3]) if task.way.whole else (*frame.offset, w, h)
        name = f"{home}/{names[cell.id]}.png"
        yield Output(
            name, digest("frame", task.art(sheet), cell.rect, box),
            partial(_frame, task.stock, sheet, cell, box), box[2] * box[3],
        )  # fmt: skip
        units = size_units((cell.rect[2], cell.rect[3]), sheet.tune.ppu)
        rows.append([
            f"{names[cell.id]}.png", cell.name, box[0] + cell.shift[0], box[1] + cell.shift[1], *box[2:],
            cell.rect[2], cell.rect[3], *cell.pivot, sheet.tune.ppu, *units,
        ])  # fmt: skip
    head = (
        "file", "name", "offset_x_px", "offset_y_px", "width_px", "height_px", "cell_width_px",
        "cell_height_px", "pivot_x_px", "pivot_y_px", "px_per_unit", "width_units", "height_units",
    )  # fmt: skip
    yield text_output(f"{home}/frames.csv", partial(_csv, head, rows), rows)


def _frame(
    stock: PixelCache, sheet: Sheet, cell: Cell, box: tuple[int, int, int, int]
) -> tuple[Make, tuple[Any, ...]]:
    x, y = cell.rect[0] + box[0], cell.rect[1] + box[1]
    return picture_bytes, (np.ascontiguousarray(stock.pixels(sheet)[y : y + box[3], x : x + box[2]]), "png")


def _csv(head: tuple[str, ...], rows: list[list[Any]]) -> bytes:
    """A table (RFC 4180) with a first row of names."""
    text = io.StringIO()
    table = csv.writer(text, lineterminator="\r\n")
    table.writerow(head)
    table.writerows([[_field(value) for value in row] for row in rows])
    return text.getvalue().encode()


def _field(value: Any) -> Any:
    if isinstance(value, str):
        return table_field(value)
    return int(value) if isinstance(value, float) and value.is_integer() else value


# -- animations --------------------------------------------------------------------------------------------


def _moving(task: Task) -> Iterator[Output]:
    project = task.project
    shown = {cell.id: sheet for sheet in project.sheets for cell in sheet.cells}
    stems = unique_files({a.id: file_name(a.name) for a in project.animations})
    for animation in project.animations:
        sheets = {shown[f.cell].id: shown[f.cell] for f in animation.frames if f.cell in shown}
        if not sheets:
            continue
        art = [(task.art(s), [(c.id, c.rect, c.pivot, c.shift) for c in s.cells]) for s in sheets.values()]
        for part, (form, ending) in MOVING.items():
            if part in task.way.parts:
                yield Output(
                    f"animations/{stems[animation.id]}{ending}", digest(form, animation, art),
                    partial(_animation, task, animation, form),
                )  # fmt: skip


def _animation(task: Task, animation: Animation, form: Form) -> tuple[Make, tuple[Any, ...]]:
    return _as_it_is, (written(task.project, animation, task.stock, form),)


def _as_it_is(data: bytes) -> bytes:
    return data


# -- outlines ----------------------------------------------------------------------------------------------


def _outlines(task: Task, sheet: Sheet, names: dict[str, str]) -> Iterator[Output]:
    for cell in sheet.cells:
        if cell.shapes:
            name = f"outlines/{task.names.sheet_stem(sheet)}/{names[cell.id]}.svg"
            yield text_output(name, partial(cell_svg, cell, sheet.tune.ppu), "svg", cell, sheet.tune.ppu)


def _level_outline(task: Task, level: Level) -> bytes:
    return level_svg(task.project, level)


# -- levels ------------------------------------------------------------------------------------------------


def _tables(task: Task, level: Level, stem: str, cell_names: dict[str, dict[str, str]]) -> Iterator[Output]:
    """A table a layer, and one that tells what the numbers are."""
    cells = {cell.id: (sheet, cell) for sheet in task.project.sheets for cell in sheet.cells}
    rows = []
    for n, cell_id in enumerate(level.table, 1):
        if cell_id in cells:
            sheet, cell = cells[cell_id]
            file = f"frames/{task.names.sheet_stem(sheet)}/{cell_names[sheet.id][cell.id]}.png"
            rows.append([n, sheet.name, cell.name, file])
    yield text_output(f"{stem}/tiles.csv", partial(_csv, ("number", "sheet", "name", "file"), rows), rows)
    layers = [layer for layer in level.layers if isinstance(layer, TileLayer)]
    stems = unique_names((file_name(layer.name) for layer in layers), ("tiles", "outline"))
    for layer, name in zip(layers, stems, strict=True):
        make = partial(_layer_table, level, layer)
        yield text_output(f"{stem}/{name}.csv", make, "table", task.level_art(level), layer.id)


def _layer_table(level: Level, layer: TileLayer) -> bytes:
    """Row by row the number of the tile in tiles.csv, `.` and its orientation where it is turned; empty cells
    are empty."""
    held = region(layer.tiles, *level.bounds)
    text = {int(v): "" if v < 8 else f"{v >> 3}.{v & 7}" if v & 7 else str(v >> 3) for v in np.unique(held)}
    return "".join(",".join(map(text.__getitem__, row)) + "\r\n" for row in held.tolist()).encode()


def _level_pictures(task: Task, level: Level, stem: str) -> Iterator[Output]:
    rooms = unique_names(file_name(room.name) for room in level.rooms)
    wanted = [
        ("level", level.bounds),
        *zip((f"room-{r}" for r in rooms), (r.area for r in level.rooms), strict=True),
    ]
    for name, part in wanted:
        for scale in task.way.scales:
            if not has_picture(level, scale):
                continue
            at = "" if scale == 1 else f"@{scale}x"
            yield level_output(task, level, f"{stem}/{name}{at}.png", part, scale)
            if task.way.shapes:
                key = digest("shapes", task.level_art(level), part, scale)
                make = partial(_with_shapes, task, level, part, scale)
                yield Output(f"{stem}/{name}-shapes{at}.png", key, make)


def _with_shapes(
    task: Task, level: Level, part: tuple[int, int, int, int], scale: int
) -> tuple[Make, tuple[Any, ...]]:
    px = level_pixels(task, level, part)
    return picture_bytes, (with_outlines(task.project, level, px, part, scale), "png")


# -- who made it -------------------------------------------------------------------------------------------


def _credits(task: Task) -> Iterator[Output]:
    project = task.project
    depends = (project.name, [(s.name, s.credit, s.source.steps) for s in project.sheets])
    yield text_output(CREDITS, lambda: credits_text(project).encode(), *depends)
    yield text_output("CREDITS.md", lambda: credits_markdown(project).encode(), *depends)
    if "licences" in task.way.parts:
        shas = {s.id: task.stock.seen.sha(s.source.path) or "" for s in project.sheets if not s.source.parts}
        document = spdx_document(project, shas)
        data = msgspec.json.format(msgspec.json.encode(document), indent=1) + b"\n"
        yield text_output("licences.spdx.json", lambda: data, data)
