"""What a game reads of a level; as in the manifest, a docstring says what each field is."""

from __future__ import annotations

from rushweed.core.ship.manifest import PathPart
from rushweed.core.ship.part import Box, Pair, Part


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
    blocks_from: the side from which a one-way line stops what comes
    group: the id of its group
    friction: of the edge from each point to the next
    bounce: of the edge from each point to the next
    """

    role: str
    points_px: list[Pair]
    closed: bool = True
    blocks_from: str | None = None
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
