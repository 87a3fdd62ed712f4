"""Sheets: where their picture comes from, how it is drawn, and their cells."""

from __future__ import annotations

from typing import Literal

from rushweed.core.document.model.animation import State
from rushweed.core.document.model.base import Frozen
from rushweed.core.document.model.cut import Cut
from rushweed.core.document.model.shape import Shape, Told
from rushweed.core.document.model.steps import Step

Filter = Literal["nearest", "linear"]
Wrap = Literal["clamp", "repeat"]
Alpha = Literal["straight", "premultiplied"]
Codec = Literal["none", "indexed", "bc1", "bc3", "bc7", "etc2"]
Fill = Literal["stretch", "repeat"]
Transfer = Literal["srgb", "linear"]
Pad = Literal["none", "four", "power"]


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


class NineSlice(Frozen, frozen=True):
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


class Cell(Frozen, frozen=True):
    """One frame or tile. `rect` is x, y, w, h in sheet px, `pivot` is in cell px. A cell of a recoloured
    copy is a `copy_of` the cell with that id, and has its shapes until they are changed. `shift` moves the
    art within the cell by whole px, when frames are registered; pivot and shapes stay."""

    id: str
    name: str
    rect: tuple[int, int, int, int]
    pivot: tuple[float, float]
    shapes: tuple[Shape, ...] = ()
    copy_of: str = ""
    shift: tuple[int, int] = (0, 0)
    stretch: NineSlice | None = None
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
