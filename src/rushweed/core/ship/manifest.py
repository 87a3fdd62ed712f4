"""What a game reads first: the manifest. Its JSON Schema is made from these structs, the description of each
field from the line of the docstring that begins with its name."""

from __future__ import annotations

from rushweed.core.document.model.shape import FRICTION
from rushweed.core.ship.part import Box, Pair, Part

MANIFEST_FORMAT = 3
OLDEST_FORMAT = 2  # that is read; some fields had other names


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
    blocks_from: the side from which a one-way shape stops what comes: top, right, bottom or left
    circle_px: of a circle its middle x, y and radius
    friction: share of speed along it that is lost, 0 to 1 and more
    bounce: share of speed against it that is given back
    group: the id of one of the groups; empty touches all
    """

    role: str
    points_px: list[Pair]
    blocks_from: str | None = None
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
    ignores: ids of groups that it goes through, and that go through it
    """

    id: str
    name: str
    ignores: list[str] = []


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
