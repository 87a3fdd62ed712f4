"""Fills the manifest and the files of levels from a project."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.level import BackdropLayer, Layer, Level, PictureLayer, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Circle, Shape
from rushweed.core.document.model.sheet import NineSlice, Sheet
from rushweed.core.document.model.shipping import Way
from rushweed.core.level.chunks import region
from rushweed.core.level.outline import outline
from rushweed.core.level.outline_edges import Ring
from rushweed.core.level.rooms import room_at
from rushweed.core.pixels.licence import changes_of
from rushweed.core.shape.primitives import corners
from rushweed.core.shape.traits import traits_of
from rushweed.core.ship import level_file, part
from rushweed.core.ship import manifest as m
from rushweed.core.ship.atlas import Frame, Kind, Page, Plan
from rushweed.core.ship.names import Names
from rushweed.core.ship.pages import scales_of
from rushweed.core.tune.codec.compress import CODERS
from rushweed.core.tune.units import size_units
from rushweed.core.walk.walkers import body_of, gravity_of, shown_when, units_of, walker_of


def has_texture(kind: Kind) -> bool:
    """Whether a page is shipped as a texture too: with blocks or mipmaps, which a picture cannot hold."""
    return kind.mipmaps or kind.codec in CODERS


def has_normals(page: Page) -> bool:
    """Whether a page has normals beside it."""
    return any(sheet.source.normal for sheet in page.sheets)


def manifest_of(project: Project, plan: Plan, way: Way, names: Names) -> m.Manifest:
    """What the game is told of all that is shipped."""
    traits = traits_of(project)
    trait_names = {t.id: t.name for t in traits}
    index = plan.number_of
    return m.Manifest(
        m.MANIFEST_FORMAT,
        project.name,
        part.AXES,
        [_page(page, n, way, names) for n, page in enumerate(plan.pages)],
        [_frame(frame, trait_names) for frame in plan.frames],
        [
            m.AnimationPart(
                a.id, a.name, [(f.cell, f.ms) for f in a.frames if f.cell in index], a.play, _path(a.path),
                a.body, a.tile,
            )
            for a in project.animations
        ],
        [m.TraitPart(t.name, t.kind, list(t.choices), t.id) for t in traits],
        [
            m.LevelPart(v.id, v.name, names.level(v), names.level_picture(v), v.board) for v in project.levels
        ],
        [
            m.CreditPart(
                s.name, s.credit.author, s.credit.title, s.credit.link, s.credit.licence,
                s.credit.attribution, changes_of(s),
            )
            for s in project.sheets
        ],
        [m.StatesPart(s.name, [(x.name, x.animation) for x in s.states]) for s in project.sheets if s.states],
        [m.GroupPart(g.id, g.name, list(g.ignores)) for g in project.groups],
        [
            m.AutoSetPart(
                a.id, a.name, a.by,
                [m.AutoTilePart(index[t.cell], t.joins, t.weight) for t in a.tiles if t.cell in index],
            )
            for a in project.autosets
        ],
        [
            m.SheetPart(
                s.id, s.name, s.source.size, s.tune.pivot, s.tune.gutter, s.tune.pad, s.tune.limit, s.group
            )
            for s in project.sheets
        ],
    )  # fmt: skip


def _page(page: Page, number: int, way: Way, names: Names) -> m.PagePart:
    kind, grid = page.kind, page.grid
    texture, normals = has_texture(kind), has_normals(page)
    return m.PagePart(
        names.page(number), page.size, kind.filter,
        names.texture(number) if texture else None,
        kind.codec, kind.mipmaps, way.pages.clean if kind.mipmaps else 0, kind.alpha, kind.wrap, kind.group,
        kind.transfer,
        names.normals(number) if normals else None,
        names.normals_texture(number) if normals and texture else None,
        {str(scale): names.larger(number, scale) for scale in scales_of(page)},
        m.GridPart(grid.cell, grid.margin, grid.pitch, grid.columns, len(page.spots)) if grid else None,
    )  # fmt: skip


def _frame(frame: Frame, traits: dict[str, str]) -> m.FramePart:
    cell, ppu = frame.cell, frame.sheet.tune.ppu
    w, h = cell.rect[2], cell.rect[3]
    offset = (frame.offset[0] + cell.shift[0], frame.offset[1] + cell.shift[1])
    return m.FramePart(
        cell.id, cell.name, frame.sheet.name, frame.page, frame.rect, (w, h), cell.pivot, ppu, offset,
        cell.shift, cell.rect[:2], frame.turn, size_units((w, h), ppu),
        [_shape(s) for s in cell.shapes], _nine(cell.stretch),
        {traits[t.trait]: t.value for t in cell.traits if t.trait in traits},
    )  # fmt: skip


def _nine(s: NineSlice | None) -> m.NinePart | None:
    if s is None:
        return None
    fill = (s.left_fill, s.top_fill, s.right_fill, s.bottom_fill, s.centre_fill)
    return m.NinePart(s.left, s.top, s.right, s.bottom, fill)


def _shape(shape: Shape) -> m.ShapePart:
    blocks_from = shape.blocks_from if shape.role == "one-way" else None
    circle = (shape.x, shape.y, shape.radius) if isinstance(shape, Circle) else None
    return m.ShapePart(
        shape.role, list(corners(shape)), blocks_from, circle, shape.friction, shape.bounce, shape.group
    )


def _path(path: Path | None) -> m.PathPart | None:
    return m.PathPart(path.offset, path.ms, path.easing, path.play) if path is not None else None


# -- levels ------------------------------------------------------------------------------------------------


def level_file_of(
    project: Project, level: Level, frames: dict[str, int], way: Way, names: Names
) -> level_file.LevelFile:
    """The level as data; `frames` maps cell ids to places in the manifest's frames."""
    table = [-1, *(frames.get(cell_id, -1) for cell_id in level.table)]
    layers = [
        _tiles(level, layer, table, way)
        if isinstance(layer, TileLayer)
        else _layer(project, layer, frames, names)
        for layer in level.layers
    ]
    numbers = {layer.id: n for n, layer in enumerate(level.layers)}
    last = len(level.layers) - 1
    shown = set(frames) | {a.id for a in project.animations}
    things = [
        level_file.ThingPart(
            t.shows, t.at, numbers.get(t.layer, last), t.mirrored, _path(t.path), t.motion, t.turns, t.weight,
            t.damping, t.pin, t.turn, t.scale, t.tint,
            room.name if (room := room_at(level, *t.at)) is not None else "", t.id,
        )
        for t in level.things if t.shows in shown
    ]  # fmt: skip
    rooms = [level_file.RoomPart(r.name, r.area, r.camera, names.room_picture(level, r)) for r in level.rooms]
    runs = [
        level_file.RunPart(r.id, r.name, r.start, r.steps, list(r.keys), r.end, r.must) for r in level.runs
    ]
    return level_file.LevelFile(
        m.MANIFEST_FORMAT, level.id, level.name, level.view, part.AXES, level.cell, level.bounds, level.start,
        layers, things, rooms, level.order, level.group, _outlines(project, level),
        _walker(project, level), runs,
    )  # fmt: skip


def _outlines(project: Project, level: Level) -> list[level_file.OutlinePart]:
    """The merged outline, in an order that does not depend on how the level came about."""
    lines = [_outline(ring) for ring in outline(project, level)]
    return sorted(lines, key=lambda line: (line.role, line.blocks_from or "", line.group, line.points_px))


def _outline(ring: Ring) -> level_file.OutlinePart:
    return level_file.OutlinePart(
        ring.kind.role, [(x, y) for x, y in ring.points.tolist()], ring.closed, ring.kind.blocks_from,
        ring.kind.group, [one.friction for one in ring.materials], [one.bounce for one in ring.materials],
    )  # fmt: skip


def _walker(project: Project, level: Level) -> level_file.WalkerPart:
    walker, ppu = walker_of(level), units_of(project, level)
    return level_file.WalkerPart(
        walker.run, walker.run_s, walker.jump, walker.jump_s, round(gravity_of(walker), 4),
        walker.low_percent, walker.fall, walker.slope, walker.step_px, walker.edge_ms, walker.land_ms,
        walker.climb, walker.corner_px, walker.eight, walker.strength, ppu,
        body_of(project, walker, ppu, level.view != "side"), walker.group,
        {moment: a.id for moment, a in shown_when(project, walker).items()},
    )  # fmt: skip


def _of_any(layer: Layer) -> level_file.LayerPart:
    """What is told of every kind of layer."""
    return level_file.LayerPart(
        layer.name,
        str(layer.__struct_config__.tag),
        layer.shown,
        layer.opacity_percent / 100,
        parallax=layer.keeps_up,
        tint=layer.tint,
        offset_px=layer.offset,
        front=layer.front,
    )


def _tiles(level: Level, layer: TileLayer, table: list[int], way: Way) -> level_file.LayerPart:
    held = region(layer.tiles, *level.bounds)
    part = replace(_of_any(layer), solid=layer.collides)
    if way.tiles == "cells":
        return replace(part, cells=_cells(held, table))
    return replace(part, rows=[_runs(row, table) for row in held])


def _layer(project: Project, layer: Layer, frames: dict[str, int], names: Names) -> level_file.LayerPart:
    """A layer of things, or one that shows a picture."""
    part = _of_any(layer)
    if not isinstance(layer, (BackdropLayer, PictureLayer)):
        return part
    sheet = next((s for s in project.sheets if s.id == layer.sheet), None)
    if sheet is not None:
        alone = is_one_frame(sheet) and sheet.cells[0].id in frames
        part = replace(
            part,
            frame=frames[sheet.cells[0].id] if alone else None,
            picture=None if alone else names.sheet_picture(sheet),
            sheet=sheet.name,
        )
    if isinstance(layer, PictureLayer):
        return part
    return replace(
        part,
        top_px=layer.top,
        repeat=layer.repeat,
        repeat_y=layer.repeat_y,
        drift_px_per_s=layer.drift,
        stretch=layer.stretch,
    )


def is_one_frame(sheet: Sheet) -> bool:
    """Whether a sheet is one cell, whole and where it stands."""
    whole = (0, 0, *sheet.source.size)
    return len(sheet.cells) == 1 and sheet.cells[0].rect == whole and sheet.cells[0].shift == (0, 0)


def _cells(held: np.ndarray, table: list[int]) -> list[list[int]]:
    frames = np.array(table)
    index = np.minimum(held >> 3, len(table) - 1).astype(np.int64)
    found = frames[index]
    cells: list[list[int]] = np.where(found < 0, -1, found * 8 + (held & 7).astype(np.int64)).tolist()
    return cells


def _runs(row: np.ndarray, table: list[int]) -> list[tuple[int, int, int]]:
    ends = np.flatnonzero(np.diff(row)) + 1
    starts = [0, *ends.tolist()]
    return [
        _run(end - start, int(row[start]), table)
        for start, end in zip(starts, [*ends.tolist(), len(row)], strict=True)
    ]


def _run(count: int, value: int, table: list[int]) -> tuple[int, int, int]:
    index = value >> 3
    frame = table[index] if index < len(table) else -1
    return count, frame, value & 7 if frame >= 0 else 0
