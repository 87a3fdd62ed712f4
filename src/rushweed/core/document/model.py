"""The project: frozen structs that hold tuples, so that a snapshot never changes.

Coordinates are pixels, x right, y down. A cell's rectangle counts from the sheet's top left, a pivot
and a shape from their cell's top left, a level from cell (0, 0); levels grow to negative columns too.
"""

from __future__ import annotations

from typing import Literal

import msgspec
import numpy as np

FORMAT = 6  # of the files on disk; raised when an older Rushweed could no longer read them

Filter = Literal["nearest", "linear"]
Wrap = Literal["clamp", "repeat"]
Alpha = Literal["straight", "premultiplied"]
Codec = Literal["none", "indexed", "bc1", "bc3", "bc7", "etc2"]
Fill = Literal["stretch", "repeat"]
Transfer = Literal["srgb", "linear"]
Pad = Literal["none", "four", "power"]
Role = Literal["solid", "one-way", "sensor"]
Side = Literal["top", "right", "bottom", "left"]
View = Literal["side", "top", "free"]
Order = Literal["layer", "foot"]
Camera = Literal["follows", "still", "across", "down"]


class Frozen(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Base of all parts of the document."""


Colour = tuple[int, int, int]


class KeyColour(Frozen, frozen=True, tag_field="step", tag="key"):
    """One colour becomes clear, and those at most `tolerance` (of 255, the largest channel) from it. With
    `fringe` the key's tint is taken out of soft edges; None does so unless the key is black or white."""

    colour: Colour
    tolerance: int = 0
    fringe: bool | None = None
    on: bool = True


class Reduce(Frozen, frozen=True, tag_field="step", tag="reduce"):
    """Art that was enlarged goes back to its true px: blocks of `factor` px a side become one, by their
    commonest colour. `start` is where the first whole block begins."""

    factor: int
    start: tuple[int, int] = (0, 0)
    on: bool = True


class Enlarge(Frozen, frozen=True, tag_field="step", tag="enlarge"):
    """Every px becomes a block of `factor` px a side."""

    factor: int
    on: bool = True


class Fit(Frozen, frozen=True, tag_field="step", tag="fit"):
    """Another size in px, each px from the nearest one of the picture."""

    size: tuple[int, int]
    on: bool = True


class Turn(Frozen, frozen=True, tag_field="step", tag="turn"):
    """Quarter turns clockwise, 1 to 3."""

    quarters: int = 1
    on: bool = True


class Mirror(Frozen, frozen=True, tag_field="step", tag="mirror"):
    """Left and right exchanged, or upper and lower."""

    way: Literal["across", "down"] = "across"
    on: bool = True


class Recolour(Frozen, frozen=True, tag_field="step", tag="recolour"):
    """Hue turned by degrees, saturation and lightness changed by per cent, -100 to 100."""

    hue: float = 0
    saturation: float = 0
    lightness: float = 0
    on: bool = True


class Exchange(Frozen, frozen=True, tag_field="step", tag="exchange"):
    """Colour for colour; alpha stays."""

    pairs: tuple[tuple[Colour, Colour], ...] = ()
    on: bool = True


Step = KeyColour | Reduce | Enlarge | Fit | Turn | Mirror | Recolour | Exchange


class Variant(Frozen, frozen=True):
    """The same picture `scale` times as large; `path` inside the project folder."""

    scale: int
    path: str
    sha256: str


class Source(Frozen, frozen=True):
    """The picture of a sheet: path inside the project folder, content hash and size in px, as prepared.

    `steps` prepare it, in order, each time it is read; the file stays as it was, `raw` px. `times` are the ms
    of the frames of a moving picture, `parts` the files of numbered pictures, both laid out row by row
    in `columns`; `crop` is x, y, w, h of each part. `normal` is a normal map of the same size.
    """

    path: str
    sha256: str
    size: tuple[int, int]
    raw: tuple[int, int] | None = None
    steps: tuple[Step, ...] = ()
    times: tuple[int, ...] = ()
    parts: tuple[str, ...] = ()
    columns: int = 0
    crop: tuple[int, int, int, int] | None = None
    variants: tuple[Variant, ...] = ()
    normal: str = ""

    @property
    def key(self) -> str:
        """What its pixels depend on: equal keys, equal pixels."""
        shown = tuple(step for step in self.steps if step.on)
        return f"{self.sha256} {shown!r}" if shown else self.sha256

    @property
    def files(self) -> tuple[str, ...]:
        """Every file in the project folder that the sheet is made of."""
        own = self.parts or (self.path,)
        return (*own, *(v.path for v in self.variants), *((self.normal,) if self.normal else ()))


class GridCut(Frozen, frozen=True, tag_field="by", tag="size"):
    """Cells of one size in px; `left_out` and `kept` are (column, row) places decided by hand."""

    cell: tuple[int, int]
    margin: tuple[int, int] = (0, 0)
    spacing: tuple[int, int] = (0, 0)
    leave_out_empty: bool = True
    left_out: tuple[tuple[int, int], ...] = ()
    kept: tuple[tuple[int, int], ...] = ()


class CountCut(Frozen, frozen=True, tag_field="by", tag="count"):
    """So many columns and rows; the cell size comes out by division."""

    columns: int
    rows: int
    margin: tuple[int, int] = (0, 0)
    spacing: tuple[int, int] = (0, 0)
    leave_out_empty: bool = True
    left_out: tuple[tuple[int, int], ...] = ()
    kept: tuple[tuple[int, int], ...] = ()


class PiecesCut(Frozen, frozen=True, tag_field="by", tag="pieces"):
    """Free-form pieces: small parts join what is at most `join` px away, with `any_size` large ones too;
    those under `least` px are dropped. `fit` is tight boxes, or equal cells with the pieces centred or
    standing at their foot."""

    join: int = 0
    least: int = 1
    any_size: bool = False
    fit: Literal["tight", "centre", "feet"] = "tight"


class GuidesCut(Frozen, frozen=True, tag_field="by", tag="guides"):
    """Columns and rows that can each be moved: `columns` are the sheet px where each begins, and last where
    one more would; `rows` likewise. The last `spacing` px of each are the gutter to the next."""

    columns: tuple[int, ...]
    rows: tuple[int, ...]
    spacing: tuple[int, int] = (0, 0)
    leave_out_empty: bool = True
    left_out: tuple[tuple[int, int], ...] = ()
    kept: tuple[tuple[int, int], ...] = ()


class HandCut(Frozen, frozen=True, tag_field="by", tag="hand"):
    """Cells drawn or moved by hand: they are what they are."""


EvenCut = GridCut | CountCut
Cut = EvenCut | PiecesCut | GuidesCut | HandCut


class Tune(Frozen, frozen=True):
    """How a game draws the sheet; `pivot` is the fraction of the cell that new cells start with.

    `wrap` says what is read beyond the picture's edge, `alpha` how colour is kept beside alpha, `transfer`
    whether a game should read its values as sRGB colours or as plain numbers. `gutter` px of its own edge are
    repeated around each cell. `pad` brings the texture to a multiple of 4 or a power of two.
    Pages of the atlas `group` are at most `limit` px a side, where 0 leaves it to shipping. `recipe` is the
    id of the recipe that the settings follow.
    """

    ppu: float = 16
    filter: Filter = "nearest"
    pivot: tuple[float, float] = (0.5, 1.0)
    mipmaps: bool = False
    wrap: Wrap = "clamp"
    alpha: Alpha = "straight"
    codec: Codec = "none"
    gutter: int = 0
    pad: Pad = "none"
    limit: int = 0
    group: str = ""
    recipe: str = ""
    transfer: Transfer = "srgb"


class Recipe(Frozen, frozen=True):
    """Settings that sheets follow; a `ppu` of None leaves theirs."""

    id: str
    name: str
    filter: Filter = "nearest"
    mipmaps: bool = False
    alpha: Alpha = "straight"
    codec: Codec = "none"
    gutter: int = 0
    ppu: float | None = None


class Stretch(Frozen, frozen=True):
    """Nine-slice: px from each edge of the cell that keep their size, and how the four sides (by the side
    they lie on) and the centre fill the room between."""

    left: int
    top: int
    right: int
    bottom: int
    left_fill: Fill = "stretch"
    top_fill: Fill = "stretch"
    right_fill: Fill = "stretch"
    bottom_fill: Fill = "stretch"
    centre_fill: Fill = "stretch"


FRICTION = 0.8  # of a shape of which nothing else was said


class Box(Frozen, frozen=True, tag_field="form", tag="box"):
    """An upright rectangle in cell px. Of every form: `friction` and `bounce` are shares, 0 to 1 and more;
    `group` is the id of what it belongs to when it is asked what touches what."""

    x: float
    y: float
    w: float
    h: float
    role: Role = "solid"
    stops: Side = "top"
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


class Polygon(Frozen, frozen=True, tag_field="form", tag="polygon"):
    """A closed ring of points in cell px, clockwise on screen."""

    points: tuple[tuple[float, float], ...]
    role: Role = "solid"
    stops: Side = "top"
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


class Circle(Frozen, frozen=True, tag_field="form", tag="circle"):
    """A circle about a point, cell px."""

    x: float
    y: float
    radius: float
    role: Role = "solid"
    stops: Side = "top"
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


Shape = Box | Polygon | Circle


class Group(Frozen, frozen=True):
    """Shapes of one kind, such as ground or people; it goes through those of the groups it `misses`, and they
    through it."""

    id: str
    name: str
    misses: tuple[str, ...] = ()


class Trait(Frozen, frozen=True):
    """A fact of a tile that the game reads: yes or no, a number, one of some `choices`, or some of the four
    sides."""

    id: str
    name: str
    kind: Literal["yes-no", "number", "choice", "sides"] = "yes-no"
    choices: tuple[str, ...] = ()


class Told(Frozen, frozen=True):
    """What a tile says of one trait: true, a number, a choice, or sides such as "top left"."""

    trait: str
    value: bool | float | str = True


class AutoPart(Frozen, frozen=True):
    """One tile of a set and the case it is for: `joins` has a bit for each of the eight neighbours, clockwise
    from above (1) to above left (128). Of several tiles for one case a heavier one comes more often."""

    cell: str
    joins: int
    weight: float = 1


class AutoSet(Frozen, frozen=True):
    """Tiles that choose themselves by what joins them, over edges, corners or both."""

    id: str
    name: str
    by: Literal["edges", "corners", "both"] = "edges"
    tiles: tuple[AutoPart, ...] = ()


class Cell(Frozen, frozen=True):
    """One frame or tile. `rect` is x, y, w, h in sheet px, `pivot` is in cell px. A cell of a recoloured
    copy is `like` the cell with that id, and has its shapes until they are changed. `shift` moves the art
    within the cell by whole px, when frames are registered; pivot and shapes stay."""

    id: str
    name: str
    rect: tuple[int, int, int, int]
    pivot: tuple[float, float]
    shapes: tuple[Shape, ...] = ()
    like: str = ""
    shift: tuple[int, int] = (0, 0)
    stretch: Stretch | None = None
    traits: tuple[Told, ...] = ()


class Credit(Frozen, frozen=True):
    """Where a picture comes from; `licence` is an SPDX expression, `attribution` the words its author asks
    for, `changes` what was changed besides the preparation steps."""

    author: str = ""
    title: str = ""
    link: str = ""
    licence: str = ""
    attribution: str = ""
    changes: str = ""


class Aside(Frozen, frozen=True):
    """A cell that lies outside the picture since that shrank, with its place in the order of all cells. It
    is back as soon as the picture reaches there again."""

    index: int
    cell: Cell


class Sheet(Frozen, frozen=True):
    """A picture with its cells; of `states` the first is what the game shows when nothing else is asked.
    `aside` are cells that the picture no longer reaches."""

    id: str
    name: str
    source: Source
    cut: Cut | None = None
    tune: Tune = Tune()
    credit: Credit = Credit()
    waste_accepted: bool = False
    group: str = ""
    states: tuple[State, ...] = ()
    aside: tuple[Aside, ...] = ()
    cells: tuple[Cell, ...] = ()


class Frame(Frozen, frozen=True):
    """A cell for so many ms."""

    cell: str
    ms: int = 100


Play = Literal["loop", "once", "there-and-back"]
Easing = Literal["linear", "in", "out", "both"]


class Path(Frozen, frozen=True):
    """The way something moves: `offset` px from where it stands, in `ms`, faster or slower at its ends."""

    offset: tuple[float, float]
    ms: int = 1000
    easing: Easing = "linear"
    play: Play = "there-and-back"


class State(Frozen, frozen=True):
    """A word of the game, such as idle or moving, and the id of the animation shown for it, if any."""

    name: str
    animation: str = ""


class Animation(Frozen, frozen=True):
    """Named frames. `body` is x, y, w, h in whole px from the pivot, one for all frames. A `tile` animation
    plays wherever its first frame stands in a level."""

    id: str
    name: str
    frames: tuple[Frame, ...] = ()
    play: Play = "loop"
    path: Path | None = None
    body: tuple[int, int, int, int] | None = None
    tile: bool = False


CHUNK = 32  # cells a side


class Chunk(msgspec.Struct, frozen=True, eq=False):
    """32 x 32 cells of a layer: read-only uint32 (row, column), table index * 8 + orientation, 0 empty."""

    cells: np.ndarray


class Tiles(msgspec.Struct, frozen=True, eq=False):
    """The chunks of a layer as a dense block, row by row; `left` and `top` count in chunks."""

    left: int = 0
    top: int = 0
    columns: int = 0
    rows: int = 0
    chunks: tuple[Chunk | None, ...] = ()


class LayerLook(Frozen, frozen=True, eq=False, kw_only=True):
    """What all layers have. `tint` multiplies their colours; a `parallax` of 0 stands still on screen, 1
    moves with the level, and `parallax_y` is that of the other way where it differs; `offset` moves what is
    drawn, px. A layer in `front` is drawn over the walker whatever the order says."""

    shown: bool = True
    locked: bool = False
    opacity_percent: float = 100
    tint: Colour | None = None
    parallax: float = 1
    parallax_y: float | None = None
    offset: tuple[float, float] = (0, 0)
    front: bool = False

    @property
    def keeps_up(self) -> tuple[float, float]:
        """The parallax across and down."""
        return self.parallax, self.parallax if self.parallax_y is None else self.parallax_y


class TileLayer(LayerLook, frozen=True, tag_field="kind", tag="tiles", eq=False):
    """Tiles by cell. Shapes count on a `solid` layer that moves with the level, never on another."""

    id: str
    name: str
    tiles: Tiles = Tiles()
    solid: bool = True

    @property
    def collides(self) -> bool:
        """Whether its shapes are met: it is solid and moves with the level."""
        return self.solid and self.keeps_up == (1, 1)


class ThingLayer(LayerLook, frozen=True, tag_field="kind", tag="things", eq=False):
    """Nothing but the things that stand on it."""

    id: str
    name: str


class BackdropLayer(LayerLook, frozen=True, tag_field="kind", tag="backdrop", eq=False, kw_only=True):
    """A sheet behind the tiles, repeated across, down, or both. `top` is the level px of its upper edge when
    the camera looks at the level's start; it drifts by so many px a second by itself. With `stretch` it is
    as large as the game's picture."""

    id: str
    name: str
    sheet: str
    parallax: float = 0.1
    top: float = 0
    repeat: bool = True
    repeat_y: bool = False
    drift: tuple[float, float] = (0, 0)
    stretch: bool = False


class PictureLayer(LayerLook, frozen=True, tag_field="kind", tag="picture", eq=False):
    """One picture, the whole of a sheet, with its upper left at `offset`."""

    id: str
    name: str
    sheet: str


Layer = TileLayer | ThingLayer | BackdropLayer | PictureLayer


class Thing(Frozen, frozen=True):
    """Something placed freely: a cell or an animation (`shows` is its id) with its pivot at `at`, level px.
    It is drawn in front of the tiles of layer `over`, scaled, mirrored, then turned clockwise by `turn`
    degrees about its pivot; `tint` multiplies its colours. Things that are pushed may turn, have a `weight`,
    lose speed by `damping` a second, and may be pinned at a point, px from `at`."""

    id: str
    shows: str
    at: tuple[float, float]
    over: str
    mirrored: bool = False
    path: Path | None = None
    motion: Literal["still", "moving", "pushed"] = "still"
    turns: bool = False
    weight: float = 1
    damping: float = 0
    pin: tuple[float, float] | None = None
    turn: float = 0
    scale: tuple[float, float] = (1, 1)
    tint: Colour | None = None


class Room(Frozen, frozen=True):
    """A named rectangle of a level: left, top, columns, rows in cells. Inside it the camera follows the
    walker both ways, only across or down, or stands still."""

    id: str
    name: str
    area: tuple[int, int, int, int]
    camera: Camera = "follows"


class Walker(Frozen, frozen=True):
    """How somebody moves in a level, in units of the level and seconds. He is at full speed after `run_s`; a
    jump is `jump` high and takes `jump_s` to its top; let go early, `low_percent` of its speed is left. He
    falls at most `fall` a second, walks up slopes of at most `slope` degrees and steps of `step_px`. A jump
    counts `edge_ms` after the edge and `land_ms` before the ground. In the top view corners are passed on
    which only `corner_px` hang, and with `eight` he is at full speed at once. He pushes with `strength`
    units a second squared at a weight of 1.

    `states` say what is shown when; `body` is x, y, w, h in px from the feet, that of the animation if None.
    """

    run: float = 6.0
    run_s: float = 0.15
    jump: float = 2.75
    jump_s: float = 0.34
    low_percent: float = 40
    fall: float = 24.0
    slope: float = 50
    step_px: float = 4
    edge_ms: float = 80
    land_ms: float = 100
    climb: float = 3.0
    corner_px: float = 3
    eight: bool = False
    strength: float = 80.0
    group: str = ""
    body: tuple[int, int, int, int] | None = None
    states: tuple[State, ...] = ()


class Run(Frozen, frozen=True):
    """A walk by its keys: from step `keys[n][0]` on (1/120 s each) those of `keys[n][1]` are held: l, r, u, d
    for the ways and j for the jump. It begins with the feet at `start`, level px, lasts `steps`, and ended at
    `end` when it was made. One that `must` arrive is a test of the level."""

    id: str
    name: str
    level: str
    start: tuple[float, float]
    steps: int
    keys: tuple[tuple[int, str], ...] = ()
    end: tuple[float, float] | None = None
    must: bool = False


class Level(Frozen, frozen=True, eq=False):
    """`bounds` is left, top, columns, rows in cells; `table` lists cell ids, a tile's index counts from 1.
    `layers` run from far to near; `start` is where the player's feet stand, in level px. With the `order`
    "foot" things and the walker are drawn by how low they stand. Levels of one `group` are listed together,
    and `board` is where this one's cell 0, 0 stands beside the others, px. A `walker` of None is the light
    one; `runs` are the walks that were kept."""

    id: str
    name: str
    view: View
    cell: tuple[int, int]
    bounds: tuple[int, int, int, int]
    table: tuple[str, ...] = ()
    layers: tuple[Layer, ...] = ()
    start: tuple[float, float] = (0, 0)
    things: tuple[Thing, ...] = ()
    rooms: tuple[Room, ...] = ()
    order: Order = "layer"
    group: str = ""
    board: tuple[int, int] | None = None
    walker: Walker | None = None
    runs: tuple[Run, ...] = ()


class StampPart(Frozen, frozen=True):
    """The tiles of a kept stamp on one layer, by the layer's name: row by row, index in the stamp's table
    (from 1) * 8 + orientation, 0 where it is empty."""

    layer: str
    rows: tuple[tuple[int, ...], ...]


class KeptStamp(Frozen, frozen=True):
    """Tiles over one or several layers, and things (`at` counts from the stamp's upper left), under a name.
    `cell` is the size of its tiles, px."""

    id: str
    name: str
    cell: tuple[int, int]
    table: tuple[str, ...] = ()
    parts: tuple[StampPart, ...] = ()
    things: tuple[Thing, ...] = ()


Sides = Literal["any", "four", "power"]
Makes = Literal["game", "plain", "page"]
Texture = Literal["tuned", "never", "none", "bc1", "bc3", "bc7", "etc2"]
PlainPart = Literal["frames", "rows", "gif", "apng", "webp", "outlines", "tiles", "pictures", "licences"]
PLAIN_PARTS: tuple[PlainPart, ...] = (
    "frames", "rows", "gif", "apng", "webp", "outlines", "tiles", "pictures", "licences",
)  # fmt: skip


class Pages(Frozen, frozen=True):
    """How frames are laid on pages of at most `limit` px a side, whose `sides` are any, multiples of 4 or
    powers of two. Around each frame its edge is repeated for `gutter` px, or more where its sheet asks for
    it. With `trim` clear borders are left out; with `turned` a picture that equals another mirrored or
    turned is placed once; with `grid` the cells of an evenly cut sheet stand whole at one pitch on pages of
    their own. The first `clean` mipmaps of a page never mix neighbours."""

    gutter: int = 2
    limit: int = 2048
    sides: Sides = "four"
    trim: bool = True
    turned: bool = False
    grid: bool = False
    clean: int = 2


class Way(Frozen, frozen=True):
    """A way to ship: what it `makes`, and the `folder` it goes to, from the project's own. Of `sheets`,
    `levels` and `animations` None means all; with a level or an animation goes what it shows.

    For a game: the `pages`, the form of their `picture`, the codec of their `texture` ("tuned" as each sheet
    says, "never" no texture), and the form of a level's `tiles`. For plain files: the `parts`, frames
    `whole` or trimmed, pictures of levels at all `scales`, and once more with their `shapes`.
    """

    id: str
    name: str
    makes: Makes = "game"
    folder: str = ""
    sheets: tuple[str, ...] | None = None
    levels: tuple[str, ...] | None = None
    animations: tuple[str, ...] | None = None
    pages: Pages = Pages()
    picture: Literal["png", "webp"] = "png"
    texture: Texture = "tuned"
    tiles: Literal["runs", "cells"] = "runs"
    parts: tuple[PlainPart, ...] = PLAIN_PARTS
    whole: bool = False
    scales: tuple[int, ...] = (1,)
    shapes: bool = False


class LeftAlone(Frozen, frozen=True):
    """A finding that a person leaves as it is, and why; `id` is its key: its rule, the id of the part that it
    is about, and the cell of the level if it names one. It counts again once more than `cells` cells are
    meant."""

    id: str
    why: str
    cells: int = 0


class Project(Frozen, frozen=True, eq=False):
    """All that is kept: an edit makes another, which shares what it did not touch."""

    id: str
    name: str
    sheets: tuple[Sheet, ...] = ()
    levels: tuple[Level, ...] = ()
    animations: tuple[Animation, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    groups: tuple[Group, ...] = ()
    traits: tuple[Trait, ...] = ()
    autosets: tuple[AutoSet, ...] = ()
    stamps: tuple[KeptStamp, ...] = ()
    ways: tuple[Way, ...] = ()
    left_alone: tuple[LeftAlone, ...] = ()
