"""What a game reads: the manifest and a file for each level. Their JSON Schemas are made from these structs,
the description of each field from the line of the docstring that begins with its name."""

from __future__ import annotations

import inspect
import re
from functools import cache
from types import NoneType
from typing import Any, get_type_hints

import msgspec
from msgspec.structs import force_setattr

from rushweed.core.document.model.shape import FRICTION

MANIFEST_FORMAT = 2
AXES = (
    "px from the top left, x right, y down; orientations 0 to 3 are quarter turns clockwise, "
    "4 to 7 the same after mirroring left and right"
)
DRAFT = "https://json-schema.org/draft/2020-12/schema"

Pair = tuple[float, float]
Box = tuple[int, int, int, int]


class Part(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Base of all parts: what has its usual value is left out, and whole numbers are told as such."""

    def __post_init__(self) -> None:
        for name, usual, fractions in _fields_of(type(self)):
            value = getattr(self, name)
            if value == usual:
                if value is not usual:
                    force_setattr(self, name, usual)  # the very same is left out
            elif fractions:
                whole = _whole(value)
                if whole is not value:
                    force_setattr(self, name, whole)


@cache
def _fields_of(part: type) -> list[tuple[str, Any, bool]]:
    """Its fields: their usual values, and whether they hold fractions."""
    hints = get_type_hints(part)
    return [(f.name, f.default, "float" in str(hints[f.name])) for f in msgspec.structs.fields(part)]


def _whole(value: Any) -> Any:
    """Numbers such as 16.0 become 16."""
    if isinstance(value, float):
        return int(value) if value.is_integer() and abs(value) < 2**53 else value
    if isinstance(value, tuple):
        return tuple(map(_whole, value))
    if isinstance(value, list):
        return list(map(_whole, value))
    if isinstance(value, dict):
        return {key: _whole(one) for key, one in value.items()}
    return value


class GridPart(Part, frozen=True):
    """Cells in rows at one pitch: cell n is in column n % columns, row n // columns.

    cell_px: width and height of a cell
    margin_px: px before the first cell, across and down
    pitch_px: px from one cell to the next, across and down
    columns: cells in a row
    count: cells on this page
    """

    cell_px: tuple[int, int]
    margin_px: int
    pitch_px: tuple[int, int]
    columns: int
    count: int


class PagePart(Part, frozen=True):
    """A page with frames on it.

    file: the picture beside the manifest, PNG or WebP
    size_px: width and height
    filter: how a game draws it: nearest or linear
    texture: the page once more as a KTX 2.0 file, with blocks or mipmaps
    codec: how the texture is coded: none, bc1, bc3, bc7, etc2; indexed is a PNG of up to 256 colours
    mipmaps: whether the texture has mipmaps
    clean_mipmaps: so many mipmaps below the largest never mix neighbouring frames
    alpha: straight, or premultiplied in the texture; the picture is always straight
    wrap: what is read beyond its edge: clamp or repeat
    group: the atlas group
    transfer: whether the texture's values are srgb colours or linear, that is plain numbers
    normals: the file of the page's normal maps, with the same places
    normals_texture: the same as a KTX 2.0 file, whose values are plain numbers
    larger: files of the same page 2 or 3 times as large, by that number
    grid: where the frames are an even grid
    """

    file: str
    size_px: tuple[int, int]
    filter: str
    texture: str | None = None
    codec: str = "none"
    mipmaps: bool = False
    clean_mipmaps: int = 0
    alpha: str = "straight"
    wrap: str = "clamp"
    group: str = ""
    transfer: str = "srgb"
    normals: str | None = None
    normals_texture: str | None = None
    larger: dict[str, str] = {}
    grid: GridPart | None = None


class NinePart(Part, frozen=True):
    """Nine-slice margins of the untrimmed cell.

    left_px: px from the left edge that keep their size
    top_px: px from the top edge
    right_px: px from the right edge
    bottom_px: px from the bottom edge
    fill: how left, top, right, bottom and the centre fill their room: stretch or repeat
    """

    left_px: int
    top_px: int
    right_px: int
    bottom_px: int
    fill: tuple[str, str, str, str, str]


class ShapePart(Part, frozen=True):
    """A collision shape, convex or not.

    role: solid, one-way or sensor
    points_px: its ring, clockwise on screen, from the untrimmed cell's top left
    stops: the side from which a one-way shape stops what comes: top, right, bottom or left
    circle_px: of a circle its middle x, y and radius
    friction: share of speed along it that is lost, 0 to 1 and more
    bounce: share of speed against it that is given back
    group: the id of one of the groups; empty touches all
    """

    role: str
    points_px: list[Pair]
    stops: str | None = None
    circle_px: tuple[float, float, float] | None = None
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


class FramePart(Part, frozen=True):
    """One cell of a sheet.

    id: never changes, whatever it is renamed to
    name: its name
    sheet: the name of its sheet
    page: place in the list of pages
    rect_px: x, y, width, height on the page
    size_px: width and height of the untrimmed cell
    pivot_px: the point that stands where the frame is put, in the untrimmed cell
    px_per_unit: px of its art in one unit of the game
    offset_px: where the art lies in the untrimmed cell, below 0 too for registered frames
    shift_px: how far the offset was moved when the frame was registered
    sheet_px: where the untrimmed cell begins in the picture of its sheet
    orientation: how what stands on the page is turned before it is drawn
    size_units: width and height of the untrimmed cell in units of the game
    shapes: its collision shapes
    nine: its nine-slice margins
    traits: facts of the tile, by the name of the trait
    """

    id: str
    name: str
    sheet: str
    page: int
    rect_px: Box
    size_px: tuple[int, int]
    pivot_px: Pair
    px_per_unit: float
    offset_px: tuple[int, int] = (0, 0)
    shift_px: tuple[int, int] = (0, 0)
    sheet_px: tuple[int, int] = (0, 0)
    orientation: int = 0
    size_units: Pair = (0, 0)
    shapes: list[ShapePart] = []
    nine: NinePart | None = None
    traits: dict[str, bool | float | str] = {}


class TraitPart(Part, frozen=True):
    """A fact that tiles can have.

    name: frames name it so
    kind: yes-no, number, choice, or sides (top, right, bottom, left with blanks between)
    choices: what a choice can be
    id: its id; the ready ones are surface, over, entry and climb
    """

    name: str
    kind: str
    choices: list[str] = []
    id: str = ""


class GroupPart(Part, frozen=True):
    """Shapes of one kind.

    id: shapes name it so
    name: its name
    misses: ids of groups that it goes through, and that go through it
    """

    id: str
    name: str
    misses: list[str] = []


class AutoTilePart(Part, frozen=True):
    """One tile of an auto-tile set.

    frame: place in the list of frames
    joins: a bit for each neighbour that is of the set: above 1, above right 2, right 4, below right 8, below
      16, below left 32, left 64, above left 128
    weight: of several for one case the heavier comes more often
    """

    frame: int
    joins: int
    weight: float = 1


class AutoSetPart(Part, frozen=True):
    """Tiles that choose themselves by what joins them.

    id: its id
    name: its name
    by: whether they join over edges, corners or both
    tiles: the tiles and the case each is for
    """

    id: str
    name: str
    by: str
    tiles: list[AutoTilePart] = []


class PathPart(Part, frozen=True):
    """How something moves.

    offset_px: how far, x right and y down
    ms: in how many milliseconds
    easing: linear, in, out or both: slow at the start, the end, both
    play: loop, once or there-and-back
    """

    offset_px: Pair
    ms: int
    easing: str
    play: str


class SheetPart(Part, frozen=True):
    """A picture that frames were cut from; its frames name it.

    id: its id
    name: its name
    size_px: width and height
    pivot_share: where new cells get their pivot, as a share of the cell
    gutter_px: repeated edge it asks for
    pad: what its size is brought to: none, four (multiples of 4) or power (of two)
    limit_px: the longest side of pages it asks for, 0 for any
    folder: the folder it stands in on the Shelf
    """

    id: str
    name: str
    size_px: tuple[int, int]
    pivot_share: Pair = (0.5, 1)
    gutter_px: int = 0
    pad: str = "none"
    limit_px: int = 0
    folder: str = ""


class StatesPart(Part, frozen=True):
    """What a character shows when.

    sheet: the name of the sheet
    states: the game's word and the id of the animation, or nothing; the first is shown when nothing else is
      asked
    """

    sheet: str
    states: list[tuple[str, str]]


class AnimationPart(Part, frozen=True):
    """A named run of frames.

    id: its id
    name: its name
    frames: each the id of a frame and its time in ms
    play: loop, once or there-and-back
    path: how it moves while it plays
    body_px: x, y, width, height of the body from the pivot, one for all frames
    tile: whether it plays wherever its first frame stands in a level
    """

    id: str
    name: str
    frames: list[tuple[str, int]]
    play: str
    path: PathPart | None = None
    body_px: Box | None = None
    tile: bool = False


class LevelPart(Part, frozen=True):
    """A level.

    id: its id
    name: its name
    file: its file beside the manifest
    picture: a picture of it, where it is not too large
    board_px: where its cell 0, 0 stands beside the other levels
    """

    id: str
    name: str
    file: str
    picture: str | None = None
    board_px: tuple[int, int] | None = None


class CreditPart(Part, frozen=True):
    """Where a picture comes from.

    sheet: the name of the sheet
    author: who made it
    title: what it is called
    link: where it was found
    licence: an SPDX expression
    attribution: the words its author asks for
    changes: what was changed in it
    """

    sheet: str
    author: str = ""
    title: str = ""
    link: str = ""
    licence: str = ""
    attribution: str = ""
    changes: str = ""


class Manifest(Part, frozen=True):
    """All a game needs of the art.

    format: number of this format
    project: the name of the project
    axes: how every coordinate and orientation counts
    pages: the pages
    frames: all cells, in the order of the Shelf
    animations: the animations
    traits: facts that tiles can have
    levels: the levels, each a file of its own
    credits: where each sheet's picture comes from
    states: what characters show when
    groups: groups of shapes, and what goes through what
    auto_sets: auto-tile sets
    sheets: the pictures that frames were cut from
    """

    format: int
    project: str
    axes: str
    pages: list[PagePart]
    frames: list[FramePart]
    animations: list[AnimationPart] = []
    traits: list[TraitPart] = []
    levels: list[LevelPart] = []
    credits: list[CreditPart] = []
    states: list[StatesPart] = []
    groups: list[GroupPart] = []
    auto_sets: list[AutoSetPart] = []
    sheets: list[SheetPart] = []


class LayerPart(Part, frozen=True):
    """A layer, from far to near.

    name: its name
    kind: tiles, things, backdrop or picture
    shown: whether it is drawn; a hidden one is left out with its things
    opacity: 0 to 1
    rows: tiles row by row from the top, each a list of runs: count, frame (place in the manifest, -1 is
      empty), orientation
    cells: instead of rows: row by row, for each cell the frame * 8 + the orientation, -1 where it is empty
    frame: of a backdrop or picture, the frame it shows whole
    picture: of one that no frame shows whole, the file of its picture
    sheet: of a backdrop or picture, the name of the sheet
    parallax: across and down: 0 stands still on screen, 1 moves with the level
    top_px: of a backdrop, the level px of its upper edge when the camera looks at the start
    repeat: whether it is repeated across without end
    repeat_y: whether it is repeated down without end
    drift_px_per_s: how it moves by itself
    stretch: whether it is as large as the game's picture
    tint: red, green and blue that multiply its colours; 255 keeps them
    offset_px: what moves all that is drawn of it
    front: whether it is drawn over the walker
    solid: whether the shapes of its tiles count
    """

    name: str
    kind: str
    shown: bool = True
    opacity: float = 1
    rows: list[list[tuple[int, int, int]]] = []
    cells: list[list[int]] = []
    frame: int | None = None
    picture: str | None = None
    sheet: str | None = None
    parallax: Pair = (1, 1)
    top_px: float = 0
    repeat: bool = False
    repeat_y: bool = False
    drift_px_per_s: Pair = (0, 0)
    stretch: bool = False
    tint: tuple[int, int, int] | None = None
    offset_px: Pair = (0, 0)
    front: bool = False
    solid: bool = True


class RoomPart(Part, frozen=True):
    """A named rectangle of the level.

    name: its name
    area_cells: left, top, columns, rows
    camera: in it the camera follows the walker both ways (follows), across, down, or stands still
    picture: a picture of it
    """

    name: str
    area_cells: Box
    camera: str = "follows"
    picture: str | None = None


class OutlinePart(Part, frozen=True):
    """One line of the level's merged outline.

    role: solid or one-way
    points_px: level px; a closed line runs clockwise on screen around what is solid, and against it around
      holes
    closed: whether it is a ring; one-way lines are open
    stops: the side from which a one-way line stops what comes
    group: the id of its group
    friction: of the edge from each point to the next
    bounce: of the edge from each point to the next
    """

    role: str
    points_px: list[Pair]
    closed: bool = True
    stops: str | None = None
    group: str = ""
    friction: list[float] = []
    bounce: list[float] = []


class ThingPart(Part, frozen=True):
    """Something placed freely.

    shows: the id of a frame or of an animation
    at_px: where its pivot stands
    layer: in front of the layer with this number
    mirrored: whether it is mirrored left and right about its pivot
    path: how it moves
    motion: still, moving along its path, or pushed
    turns: whether it turns when it is pushed
    weight: its weight when it is pushed
    damping: the share of its speed it loses a second
    pin_px: the point it hangs on, from at_px
    turn_degrees: turned clockwise about its pivot, after mirroring and scaling
    scale: across and down, about its pivot
    tint: red, green and blue that multiply its colours
    room: the name of the room it stands in
    id: its id
    """

    shows: str
    at_px: Pair
    layer: int
    mirrored: bool = False
    path: PathPart | None = None
    motion: str = "still"
    turns: bool = False
    weight: float = 1
    damping: float = 0
    pin_px: Pair | None = None
    turn_degrees: float = 0
    scale: Pair = (1, 1)
    tint: tuple[int, int, int] | None = None
    room: str = ""
    id: str = ""


class WalkerPart(Part, frozen=True):
    """How somebody moves in the level.

    run_units_per_s: full speed
    run_s: seconds to full speed
    jump_units: height of a jump
    jump_s: seconds to its top
    gravity_units_per_s2: what follows from both
    low_percent: the speed that a jump keeps when the key is let go
    fall_units_per_s: greatest speed of falling
    slope_degrees: steepest slope that can be walked
    step_px: highest step that is walked up
    edge_ms: after an edge one can still jump
    land_ms: a jump asked for before landing counts
    climb_units_per_s: speed on ladders
    corner_px: seen from above, corners that are slid around
    eight: seen from above, whether full speed comes at once
    strength_units_per_s2: how a thing of weight 1 is pushed
    px_per_unit: px of a unit in this level
    body_px: x, y, width, height from the feet
    group: the id of the group he belongs to
    shown: the id of the animation of each moment: standing, running, rising, falling, climbing, landing
    """

    run_units_per_s: float
    run_s: float
    jump_units: float
    jump_s: float
    gravity_units_per_s2: float
    low_percent: float
    fall_units_per_s: float
    slope_degrees: float
    step_px: float
    edge_ms: float
    land_ms: float
    climb_units_per_s: float
    corner_px: float
    eight: bool
    strength_units_per_s2: float
    px_per_unit: float
    body_px: Box
    group: str = ""
    shown: dict[str, str] = {}


class RunPart(Part, frozen=True):
    """A recorded walk.

    id: its id
    name: its name
    start_px: where the feet begin
    steps: its length, 1/120 s each
    keys: a step, and the keys held from it on: l, r, u, d for the ways, j for the jump
    end_px: where the feet came to
    must: whether it has to come there again
    """

    id: str
    name: str
    start_px: Pair
    steps: int
    keys: list[tuple[int, str]] = []
    end_px: Pair | None = None
    must: bool = False


class LevelFile(Part, frozen=True):
    """A level as data.

    format: number of this format
    id: its id
    name: its name
    view: side, top or free
    axes: how every coordinate and orientation counts
    cell_px: width and height of a cell
    bounds_cells: left, top, columns, rows
    start_px: where the walker's feet begin
    layers: from far to near
    things: what is placed freely
    rooms: named rectangles
    order: layer, or foot: things, walker and tiles that say so are drawn by how low they stand
    group: levels of one group belong together
    outline: all solid shapes of its tiles as one, and the one-way lines
    walker: how somebody moves in it
    runs: recorded walks
    """

    format: int
    id: str
    name: str
    view: str
    axes: str
    cell_px: tuple[int, int]
    bounds_cells: Box
    start_px: Pair
    layers: list[LayerPart]
    things: list[ThingPart] = []
    rooms: list[RoomPart] = []
    order: str = "layer"
    group: str = ""
    outline: list[OutlinePart] = []
    walker: WalkerPart | None = None
    runs: list[RunPart] = []


# -- schemas -----------------------------------------------------------------------------------------------


def field_words(part: type) -> dict[str, str]:
    """What the docstring of a part says of each of its fields."""
    text = inspect.cleandoc(part.__doc__ or "").replace("\n  ", " ")
    return dict(re.findall(r"^(\w+): (.+)$", text, re.MULTILINE))


def schemas() -> dict[str, Any]:
    """JSON Schemas (2020-12) of the two files, by file name."""
    parts = {p.__name__: p for p in Part.__subclasses__()}
    made = {}
    for name, part in (("manifest.schema.json", Manifest), ("level.schema.json", LevelFile)):
        schema = {"$schema": DRAFT, "title": name.removesuffix(".schema.json"), **msgspec.json.schema(part)}
        for part_name, definition in schema["$defs"].items():
            definition["description"] = inspect.cleandoc(parts[part_name].__doc__ or "").splitlines()[0]
            words = field_words(parts[part_name])
            for field, told in definition["properties"].items():
                told["description"] = words[field]
        made[name] = schema
    return made


# -- text --------------------------------------------------------------------------------------------------

WIDEST = 400  # letters of a line that holds more than one thing


def json_text(value: Any) -> bytes:
    """JSON with each part on a line of its own where it is short: a frame, a row of tiles, a line of an
    outline."""
    return _text(value, "").encode() + b"\n"


def _text(value: Any, indent: str) -> str:
    flat = msgspec.json.encode(value).decode()
    if (
        len(flat) <= WIDEST - len(indent)
        or not isinstance(value, (dict, list, msgspec.Struct))
        or _is_row(value)
    ):
        return flat
    inner = indent + " "
    if isinstance(value, list):
        return "[\n" + ",\n".join(inner + _text(item, inner) for item in value) + f"\n{indent}]"
    fields = value if isinstance(value, dict) else _told(value)
    items = [f"{msgspec.json.encode(k).decode()}: {_text(v, inner)}" for k, v in fields.items()]
    return "{\n" + ",\n".join(inner + item for item in items) + f"\n{indent}}}"


def _told(part: msgspec.Struct) -> dict[str, Any]:
    """The fields of a part that are not left out."""
    fields = ((f.name, getattr(part, f.name), f.default) for f in msgspec.structs.fields(part))
    return {name: told for name, told, usual in fields if told is not usual and told not in ([], {})}


def _is_row(value: Any) -> bool:
    """Whether it is a list of numbers or words, or of short lists of such: these stay on one line."""
    return isinstance(value, list) and all(
        isinstance(x, (int, float, str, NoneType))
        or (isinstance(x, (list, tuple)) and len(x) <= 4 and not any(isinstance(y, (list, tuple)) for y in x))
        for x in value
    )
