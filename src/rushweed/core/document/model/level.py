"""Levels: layers, things, rooms, walkers and their runs, and stamps to paint with."""

from __future__ import annotations

from typing import Literal

import msgspec
import numpy as np

from rushweed.core.document.model.animation import Path, State
from rushweed.core.document.model.base import Colour, Frozen

View = Literal["side", "top", "free"]
Order = Literal["layer", "foot"]
Camera = Literal["follows", "still", "across", "down"]

CHUNK = 32  # cells a side


class Chunk(msgspec.Struct, frozen=True, eq=False, weakref=True):
    """32 x 32 cells of a layer: read-only uint32 (row, column), table index * 8 + orientation, 0 empty."""

    cells: np.ndarray


class Tiles(msgspec.Struct, frozen=True, eq=False, weakref=True):
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
    It is drawn in front of the tiles of its `layer`, scaled, mirrored, then turned clockwise by `turn`
    degrees about its pivot; `tint` multiplies its colours. Things that are pushed may turn, have a `weight`,
    lose speed by `damping` a second, and may be pinned at a point, px from `at`."""

    id: str
    shows: str
    at: tuple[float, float]
    layer: str
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
