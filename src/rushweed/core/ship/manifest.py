"""The manifest: one JSON file that tells a game all it needs; its schema is made from these structs."""

from __future__ import annotations

from typing import Any

import msgspec
from msgspec.structs import replace

from rushweed.core.document.model import (
    FRICTION,
    Circle,
    Layer,
    Level,
    Path,
    PictureLayer,
    Project,
    Role,
    Shape,
    Side,
    Stretch,
    ThingLayer,
    TileLayer,
)
from rushweed.core.level.chunks import region
from rushweed.core.level.outline import Ring, outline
from rushweed.core.level.rooms import room_at
from rushweed.core.pixels.licence import changes_of
from rushweed.core.shape.primitives import corners
from rushweed.core.shape.traits import traits_of
from rushweed.core.ship.atlas import Atlas, Frame, Kind
from rushweed.core.tune.units import size_units

MANIFEST_FORMAT = 1
AXES = "px from the top left, x right, y down"


class PagePart(msgspec.Struct, frozen=True):
    """An atlas page: its file beside the manifest, its size in px, the filter to draw it with; `normals` is
    the file of its normal maps with the same places, `larger` the same page 2 or 3 times as large. `texture`
    is the page once more as a KTX2 file, coded by `codec` and with mipmaps if it has any; its colours are
    premultiplied where `alpha` says so, those of the PNG never. `wrap` is what is read beyond its edge,
    `group` the atlas group. `transfer` says whether the texture's values are sRGB colours or plain numbers;
    `normals_texture` is the KTX2 file of its normal maps, whose values are always plain numbers."""

    file: str
    size: tuple[int, int]
    filter: str
    normals: str | None = None
    larger: dict[str, str] = {}
    texture: str | None = None
    codec: str = "none"
    mipmaps: bool = False
    alpha: str = "straight"
    wrap: str = "clamp"
    group: str = ""
    transfer: str = "srgb"
    normals_texture: str | None = None


class NinePart(msgspec.Struct, frozen=True):
    """Nine-slice: px from each edge of the untrimmed cell that keep their size; `fill` says for left, top,
    right, bottom and centre whether it is stretched or repeated."""

    left: int
    top: int
    right: int
    bottom: int
    fill: tuple[str, str, str, str, str]


class ShapePart(msgspec.Struct, frozen=True):
    """A convex or concave ring, clockwise, in cell px; for a circle also its middle x, y and radius. A
    one-way shape stops what comes onto its `stops` side and lets everything else through. `group` is the id
    of one of the manifest's groups, or nothing, which touches all."""

    role: Role
    points: list[tuple[float, float]]
    stops: Side | None = None
    circle: tuple[float, float, float] | None = None
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


class FramePart(msgspec.Struct, frozen=True):
    """One cell. `rect` is on the page; `offset` is where it lies in the untrimmed cell of `size` px, with the
    shift of a registered frame applied, so that it can be below 0;
    `pivot` and shapes count from the untrimmed cell's top left; `units` is the size in game units."""

    id: str
    name: str
    sheet: str
    page: int
    rect: tuple[int, int, int, int]
    offset: tuple[int, int]
    size: tuple[int, int]
    pivot: tuple[float, float]
    ppu: float
    units: tuple[float, float]
    shapes: list[ShapePart] = []
    nine: NinePart | None = None
    traits: dict[str, bool | float | str] = {}


class TraitPart(msgspec.Struct, frozen=True):
    """A fact of tiles: `kind` is yes-no, number, choice (of `choices`) or sides (some of top, right, bottom,
    left, with a blank between). A frame's `traits` hold values by the name."""

    name: str
    kind: str
    choices: list[str] = []


class GroupPart(msgspec.Struct, frozen=True):
    """Shapes of one kind; they go through those of the groups they `miss`, by id."""

    id: str
    name: str
    misses: list[str] = []


class LevelPart(msgspec.Struct, frozen=True):
    id: str
    name: str
    file: str


class CreditPart(msgspec.Struct, frozen=True):
    sheet: str
    author: str
    title: str
    link: str
    licence: str
    attribution: str = ""
    changes: str = ""


class PathPart(msgspec.Struct, frozen=True):
    """How something moves: by `offset` px (x right, y down) in `ms`; `easing` is linear, in, out or both
    (slow at the start, the end, both); `play` is loop, once or there-and-back."""

    offset: tuple[float, float]
    ms: int
    easing: str
    play: str


class StatesPart(msgspec.Struct, frozen=True):
    """The states of a sheet by the game's words, each with the id of its animation or nothing; the first
    is shown when nothing else is asked."""

    sheet: str
    states: list[tuple[str, str]]


class AnimationPart(msgspec.Struct, frozen=True):
    """A named run of frames, each with the frame's id and its time in ms; `play` is loop, once or
    there-and-back. `body` is x, y, w, h in px from the pivot, for all frames. A `tile` animation plays
    wherever its first frame stands in a level."""

    name: str
    frames: list[tuple[str, int]]
    play: str
    id: str = ""
    path: PathPart | None = None
    body: tuple[int, int, int, int] | None = None
    tile: bool = False


class Manifest(msgspec.Struct, frozen=True):
    """`axes` says how every coordinate counts. Frames are listed in the order of the Shelf."""

    format: int
    project: str
    axes: str
    pages: list[PagePart]
    frames: list[FramePart]
    animations: list[AnimationPart]
    traits: list[TraitPart]
    levels: list[LevelPart]
    credits: list[CreditPart]
    states: list[StatesPart] = []
    groups: list[GroupPart] = []


class LayerPart(msgspec.Struct, frozen=True, omit_defaults=True):
    """A layer; its `kind` is tiles, things, backdrop or picture. Of tiles `rows` run from the top, each a
    list of runs [count, frame, orientation]; frame is the place in the manifest's `frames`, -1 is empty.
    Orientation 0..3 are quarter turns clockwise, 4..7 the same after mirroring left and right; shapes count
    only where `solid` is true. A backdrop or picture names its `frame`. `tint` multiplies colours (255 keeps
    them), `parallax` is across and down (0 stands still on screen, 1 moves with the level), a layer in
    `front` is drawn over the walker. A backdrop is repeated without end across (`repeat`) and down
    (`repeat_y`), drifts, and with `stretch` is as large as the game's picture."""

    name: str
    kind: str
    shown: bool
    opacity: float
    rows: list[list[tuple[int, int, int]]] = []
    frame: int | None = None
    parallax: tuple[float, float] = (1, 1)
    top: float | None = None
    repeat: bool | None = None
    repeat_y: bool = False
    drift_px_per_s: tuple[float, float] = (0, 0)
    stretch: bool = False
    tint: tuple[int, int, int] | None = None
    offset_px: tuple[float, float] = (0, 0)
    front: bool = False
    solid: bool = True


class RoomPart(msgspec.Struct, frozen=True):
    """A named rectangle of the level: left, top, columns, rows in cells. In it the `camera` follows the
    walker both ways (follows), only across or down, or stands still."""

    name: str
    area: tuple[int, int, int, int]
    camera: str


class OutlinePart(msgspec.Struct, frozen=True):
    """One line of the level's merged outline: all solid shapes of a group as one, clockwise on screen around
    what is solid and against it around holes; or a one-way line, which is open and stops what comes onto its
    `stops` side. The edge from point n has the nth `friction` and `bounce`. Points are level px."""

    role: str
    stops: str | None
    group: str
    closed: bool
    points: list[tuple[float, float]]
    friction: list[float]
    bounce: list[float]


class ThingPart(msgspec.Struct, frozen=True):
    """Something placed freely: `shows` is the id of a frame or of an animation, its pivot stands at `at`,
    level px, in front of the layer with that number. It is mirrored, scaled, then turned clockwise about
    its pivot; `tint` multiplies its colours; `room` names the room it stands in. `motion` is still, moving
    (along its path) or pushed; what is pushed may turn, weighs, loses speed by `damping` a second, and hangs
    on `pin`, px from `at`."""

    shows: str
    at: tuple[float, float]
    layer: int
    mirrored: bool = False
    path: PathPart | None = None
    motion: str = "still"
    turns: bool = False
    weight: float = 1
    damping: float = 0
    pin: tuple[float, float] | None = None
    turn_degrees: float = 0
    scale: tuple[float, float] = (1, 1)
    tint: tuple[int, int, int] | None = None
    room: str = ""


class LevelFile(msgspec.Struct, frozen=True):
    """A level. `bounds` is left, top, columns, rows in cells; layers run from far to near; `start` is
    where the player stands, in level px. With the `order` foot, things, the walker and tiles with the trait
    *over* are drawn by how low they stand."""

    format: int
    id: str
    name: str
    view: str
    axes: str
    cell: tuple[int, int]
    bounds: tuple[int, int, int, int]
    start: tuple[float, float]
    layers: list[LayerPart]
    things: list[ThingPart] = []
    rooms: list[RoomPart] = []
    order: str = "layer"
    group: str = ""
    outline: list[OutlinePart] = []


def normals_file(page_file: str) -> str:
    """The file of a page's normal maps."""
    return page_file.replace(".png", "_normals.png")


def texture_file(page_file: str) -> str:
    """The KTX2 file of a page."""
    return page_file.replace(".png", ".ktx2")


def has_texture(kind: Kind) -> bool:
    """Whether a page is shipped as a texture too: with blocks or mipmaps, which a PNG cannot hold."""
    return kind.mipmaps or kind.codec not in ("none", "indexed")


def larger_file(page_file: str, scale: int) -> str:
    """The file of a page `scale` times as large."""
    return page_file.replace(".png", f"@{scale}x.png")


def manifest_of(project: Project, atlas: Atlas, page_files: list[str], level_files: list[str]) -> Manifest:
    pages = [
        PagePart(
            file, (page.shape[1], page.shape[0]), atlas.kinds[n].filter,
            normals_file(file) if atlas.normals[n] is not None else None,
            {str(scale): larger_file(file, scale) for scale in atlas.larger[n]},
            texture_file(file) if has_texture(atlas.kinds[n]) else None,
            atlas.kinds[n].codec, atlas.kinds[n].mipmaps, atlas.kinds[n].alpha, atlas.kinds[n].wrap,
            atlas.kinds[n].group, atlas.kinds[n].transfer,
            texture_file(normals_file(file))
            if atlas.normals[n] is not None and has_texture(atlas.kinds[n]) else None,
        )
        for n, (file, page) in enumerate(zip(page_files, atlas.pages, strict=True))
    ]  # fmt: skip
    levels = [LevelPart(v.id, v.name, f) for v, f in zip(project.levels, level_files, strict=True)]
    credits = [
        CreditPart(
            s.name, s.credit.author, s.credit.title, s.credit.link, s.credit.licence,
            s.credit.attribution, changes_of(s),
        )
        for s in project.sheets
    ]  # fmt: skip
    shipped = {f.cell.id for f in atlas.frames}
    names = {t.id: t.name for t in traits_of(project)}
    animations = [
        AnimationPart(
            a.name,
            [(f.cell, f.ms) for f in a.frames if f.cell in shipped],
            a.play,
            a.id,
            _path(a.path),
            a.body,
            a.tile,
        )
        for a in project.animations
    ]
    states = [
        StatesPart(s.name, [(x.name, x.animation) for x in s.states]) for s in project.sheets if s.states
    ]
    return Manifest(
        MANIFEST_FORMAT,
        project.name,
        AXES,
        pages,
        [_frame(f, names) for f in atlas.frames],
        animations,
        [TraitPart(t.name, t.kind, list(t.choices)) for t in traits_of(project)],
        levels,
        credits,
        states,
        [GroupPart(g.id, g.name, list(g.misses)) for g in project.groups],
    )


def _frame(frame: Frame, names: dict[str, str]) -> FramePart:
    cell, ppu = frame.cell, frame.sheet.tune.ppu
    w, h = cell.rect[2], cell.rect[3]
    return FramePart(
        cell.id,
        cell.name,
        frame.sheet.name,
        frame.page,
        frame.rect,
        (frame.offset[0] + cell.shift[0], frame.offset[1] + cell.shift[1]),
        (w, h),
        cell.pivot,
        ppu,
        size_units((w, h), ppu),
        [_shape(s) for s in cell.shapes],
        _nine(cell.stretch),
        {names[t.trait]: t.value for t in cell.traits if t.trait in names},
    )


def _nine(s: Stretch | None) -> NinePart | None:
    if s is None:
        return None
    fill = (s.left_fill, s.top_fill, s.right_fill, s.bottom_fill, s.centre_fill)
    return NinePart(s.left, s.top, s.right, s.bottom, fill)


def _shape(shape: Shape) -> ShapePart:
    stops = shape.stops if shape.role == "one-way" else None
    circle = (shape.x, shape.y, shape.radius) if isinstance(shape, Circle) else None
    return ShapePart(
        shape.role, list(corners(shape)), stops, circle, shape.friction, shape.bounce, shape.group
    )


def level_file(project: Project, level: Level, frame_index: dict[str, int]) -> LevelFile:
    """The level as data; `frame_index` maps cell ids to places in the manifest's frames."""
    table = [-1, *(frame_index.get(cell_id, -1) for cell_id in level.table)]
    layers = [_layer_part(project, level, layer, frame_index, table) for layer in level.layers]
    numbers = {layer.id: n for n, layer in enumerate(level.layers)}
    last = len(level.layers) - 1
    things = [
        ThingPart(
            t.shows,
            t.at,
            numbers.get(t.over, last),
            t.mirrored,
            _path(t.path),
            t.motion,
            t.turns,
            t.weight,
            t.damping,
            t.pin,
            t.turn,
            t.scale,
            t.tint,
            room.name if (room := room_at(level, *t.at)) is not None else "",
        )
        for t in level.things
    ]
    return LevelFile(
        MANIFEST_FORMAT, level.id, level.name, level.view, AXES, level.cell, level.bounds, level.start,
        layers, things, [RoomPart(r.name, r.area, r.camera) for r in level.rooms], level.order, level.group,
        [_outline_part(ring) for ring in outline(project, level)],
    )  # fmt: skip


def _path(path: Path | None) -> PathPart | None:
    return PathPart(path.offset, path.ms, path.easing, path.play) if path is not None else None


def _outline_part(ring: Ring) -> OutlinePart:
    friction = [material.friction for material in ring.materials]
    bounce = [material.bounce for material in ring.materials]
    points = [(x, y) for x, y in ring.points.tolist()]
    return OutlinePart(
        ring.kind.role, ring.kind.stops, ring.kind.group, ring.closed, points, friction, bounce
    )


def _layer_part(
    project: Project, level: Level, layer: Layer, frame_index: dict[str, int], table: list[int]
) -> LayerPart:
    part = LayerPart(
        layer.name,
        str(layer.__struct_config__.tag),
        layer.shown,
        layer.opacity_percent / 100,
        parallax=layer.keeps_up,
        tint=layer.tint,
        offset_px=layer.offset,
        front=layer.front,
    )
    if isinstance(layer, TileLayer):
        rows = [_runs(row, table) for row in region(layer.tiles, *level.bounds)]
        return replace(part, rows=rows, solid=layer.collides)
    if isinstance(layer, ThingLayer):
        return part
    sheet = next((s for s in project.sheets if s.id == layer.sheet), None)
    part = replace(part, frame=frame_index.get(sheet.cells[0].id, -1) if sheet and sheet.cells else -1)
    if isinstance(layer, PictureLayer):
        return part
    return replace(
        part,
        top=layer.top,
        repeat=layer.repeat,
        repeat_y=layer.repeat_y,
        drift_px_per_s=layer.drift,
        stretch=layer.stretch,
    )


def _runs(row: Any, table: list[int]) -> list[tuple[int, int, int]]:
    runs: list[tuple[int, int, int]] = []
    previous, count = None, 0
    for value in row.tolist():
        if value == previous:
            count += 1
            continue
        if previous is not None:
            runs.append(_run(count, previous, table))
        previous, count = value, 1
    if previous is not None:
        runs.append(_run(count, previous, table))
    return runs


def _run(count: int, value: int, table: list[int]) -> tuple[int, int, int]:
    index = value >> 3
    frame = table[index] if index < len(table) else -1
    return count, frame, value & 7 if frame >= 0 else 0


def schemas() -> dict[str, Any]:
    """JSON Schemas of the two files, by file name."""
    return {
        "manifest.schema.json": msgspec.json.schema(Manifest),
        "level.schema.json": msgspec.json.schema(LevelFile),
    }
