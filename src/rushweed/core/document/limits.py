"""What the values of a project may be at all: every edit is held to it, and what is held to it can be saved
and opened again."""

from __future__ import annotations

import math
from operator import attrgetter

import msgspec

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import KeptStamp, Level, Room, Run, TileLayer, Tiles, Walker
from rushweed.core.document.model.sheet import Cell, Sheet, Source
from rushweed.core.document.model.shipping import Pages, Way
from rushweed.core.document.model.steps import Step

FARTHEST = 1e9  # px or cells; no number of a project is larger
LONGEST = 10_000  # letters of a text
MOST_LOOKED_AT = 100  # parts of one kind that an edit changed: one that changes more gives all alike
MOST_CELL_SIDE = 4096  # px of a level's cell
MOST_LEVEL_SIDE = 16_384  # cells
FARTHEST_CELL = 1 << 20
FARTHEST_PIVOT = 1e6  # px
LONGEST_MS = 3_600_000
MOST_SIDE = 16_384  # px of a prepared picture
MOST_GUTTER = 32  # px
MOST_CHECKED = 1000  # cells of a sheet that one edit changed; all of them when it is written
LEAST_SCALE, MOST_SCALE = 1 / 16, 16  # of things
MOST_STAMP_SIDE = 512  # cells
MOST_LEVEL_CELLS = 1 << 26  # of all tile layers of a level together
LEAST_PAGE, MOST_PAGE = 64, 16_384  # px a side
MOST_CLEAN = 5  # mipmaps that never mix neighbours
MOST_LARGER = 8  # times as large that a level's picture is shipped
MOST_STEPS = 3600 * 120  # of a run: an hour
RUN_KEYS = "lrudj"
WALKER_LIMITS: dict[str, tuple[str, float, float]] = {
    "run": ("speed", 0.1, 100), "run_s": ("time to full speed", 0, 10), "jump": ("jump", 0, 100),
    "jump_s": ("time to the top of a jump", 0.02, 10), "low_percent": ("share of a low jump", 0, 100),
    "fall": ("speed of falling", 0.1, 200), "slope": ("slope", 0, 85), "step_px": ("step", 0, 256),
    "edge_ms": ("grace after an edge", 0, 1000), "land_ms": ("grace before landing", 0, 1000),
    "climb": ("speed of climbing", 0.1, 100), "corner_px": ("rounding of corners", 0, 64),
    "strength": ("strength", 0, 10_000),
}  # fmt: skip


_checked: list[tuple[object, object]] = []  # the two projects looked at last


def check_project(old: object, new: object) -> None:
    """As `check_values`, of two projects; costs nothing where they were looked at before, beside the window.
    Raises EditError."""
    if not _checked or _checked[0][0] is not old or _checked[0][1] is not new:
        check_values(old, new)
        _checked[:] = [(old, new)]


def check_values(old: object, new: object) -> None:
    """Raises EditError if something that `new` has and `old` has not could not be saved: a number that is
    none, one beyond all measure, a text that cannot be written. What is the same object in both is passed
    over, and of many parts changed at once some are looked at, so that an edit costs little."""
    if new is old or new is None or isinstance(new, (bool, Tiles)):
        return
    if isinstance(new, float):
        if not math.isfinite(new) or abs(new) > FARTHEST:
            raise EditError(f"{new:g} is not possible here.", "Use a number that the art can have.")
    elif isinstance(new, int):
        if abs(new) > FARTHEST:
            raise EditError(f"{new} is not possible here.", "Use a smaller number.")
    elif isinstance(new, str):
        _check_text(new)
    elif isinstance(new, msgspec.Struct):
        same = type(old) is type(new)
        for name in new.__struct_fields__:
            check_values(getattr(old, name) if same else None, getattr(new, name))
        _check_part(old, new)
    elif isinstance(new, tuple):
        before = old if isinstance(old, tuple) else ()
        if len(before) == len(new):
            fresh = [(a, b) for a, b in zip(before, new, strict=True) if a is not b]
        else:
            known = set(map(id, before))
            fresh = [(None, b) for b in new if id(b) not in known]
        for a, b in fresh[:: -(-len(fresh) // MOST_LOOKED_AT) or 1]:
            check_values(a, b)


def check_level(level: Level) -> None:
    """Raises EditError for a level with more cells than can be held, or none that can be."""
    layers = sum(isinstance(layer, TileLayer) for layer in level.layers)
    check_extent(level.name, level.cell, level.bounds, layers)
    for layer in level.layers:
        if layer.tint is not None and not all(0 <= shade <= 255 for shade in layer.tint):
            raise EditError(f"Layer {layer.name} has an impossible tint.", "Use colours of 0 to 255.")
    for scale in set(map(attrgetter("scale"), level.things)):
        check_scale(scale)
    for room in level.rooms:
        check_room(level.name, room)
    if level.walker is not None:
        check_walker(level.walker)
    for run in level.runs:
        check_run(run)


def check_scale(scale: tuple[float, float]) -> None:
    """Raises EditError for that of a thing which makes it nothing or has no measure."""
    across, down = scale
    if not (LEAST_SCALE <= across <= MOST_SCALE and LEAST_SCALE <= down <= MOST_SCALE):
        raise EditError(f"A thing is scaled by {across:g} and {down:g}.", "Use 1/16 to 16 times.")


def check_room(level: str, room: Room) -> None:
    """Raises EditError for a room that no level can have."""
    left, top, columns, rows = room.area
    most = max(abs(left), abs(top)) <= FARTHEST_CELL and max(columns, rows) <= MOST_LEVEL_SIDE
    if min(columns, rows) < 1 or not most:
        raise EditError(
            f"Room {room.name} of {level} has {columns} x {rows} cells at {left}, {top}.",
            "Draw it in the level.",
        )


def check_walker(walker: Walker) -> None:
    """Raises EditError for a number by which nobody can walk, or a body of no size."""
    for name, (words, low, high) in WALKER_LIMITS.items():
        value = getattr(walker, name)
        if not (math.isfinite(value) and low <= value <= high):
            raise EditError(f"A {words} of {value:g} is not possible.", f"Use {low:g} to {high:g}.")
    if walker.body is not None:
        wide, high = walker.body[2:]
        if min(wide, high) < 1:
            raise EditError(f"A body of {wide} x {high} px has no size.", "Make it at least 1 px.")
        if max(abs(v) for v in walker.body) > MOST_CELL_SIDE:
            raise EditError(
                "The walker's body is too large or too far off.", f"Use at most {MOST_CELL_SIDE} px."
            )


def check_way(way: Way) -> None:
    """Raises EditError for a way that nothing can be shipped by."""
    check_pages(way.pages)
    if not way.name.strip():
        raise EditError("A way to ship needs a name.", "Type at least one letter.")
    if not way.scales or not all(1 <= scale <= MOST_LARGER for scale in way.scales):
        raise EditError(
            f"Pictures at {', '.join(map(str, way.scales)) or 'no'} times are not possible.",
            f"Use 1 to {MOST_LARGER}.",
        )


def check_pages(pages: Pages) -> None:
    """Raises EditError for pages that cannot be."""
    for words, value, low, high in (
        ("gutter of {} px", pages.gutter, 0, MOST_GUTTER),
        ("page of {} px", pages.limit, LEAST_PAGE, MOST_PAGE),
        ("number of {} clean mipmaps", pages.clean, 0, MOST_CLEAN),
    ):  # fmt: skip
        if not low <= value <= high:
            raise EditError(f"A {words.format(value)} is not possible.", f"Use {low} to {high}.")


def check_run(run: Run) -> None:
    """Raises EditError for a run that cannot be walked."""
    if not 0 <= run.steps <= MOST_STEPS:
        raise EditError(f"Run {run.name} has {run.steps} steps.", f"Use at most {MOST_STEPS}, an hour.")
    places = [*run.start, *(run.end or ())]
    if not all(math.isfinite(v) and abs(v) <= FARTHEST for v in places):
        raise EditError(f"Run {run.name} begins or ends nowhere.", "Record it anew.")
    last = -1
    for step, keys in run.keys:
        if step <= last or step >= max(run.steps, 1):
            raise EditError(f"Run {run.name} names step {step} out of order.", "Put its steps in order.")
        if set(keys) - set(RUN_KEYS):
            raise EditError(f"Run {run.name} holds {keys!r} at step {step}.", f"Use {' '.join(RUN_KEYS)}.")
        last = step


def check_stamp(stamp: KeptStamp) -> None:
    """Raises EditError for a kept stamp that is no rectangle of tiles, or names a tile it has not."""
    wide = {len(row) for part in stamp.parts for row in part.rows}
    high = {len(part.rows) for part in stamp.parts}
    values = [value for part in stamp.parts for row in part.rows for value in row]
    if len(wide) > 1 or len(high) > 1 or max((*wide, *high), default=0) > MOST_STAMP_SIDE:
        raise EditError(f"Stamp {stamp.name} is no rectangle of tiles.", "Keep it anew.")
    if any(value < 0 or value >> 3 > len(stamp.table) for value in values):
        raise EditError(f"Stamp {stamp.name} names a tile that it has not.", "Keep it anew.")
    if min(stamp.cell) < 1 or max(stamp.cell) > MOST_CELL_SIDE:
        raise EditError(
            f"Stamp {stamp.name} has tiles of {stamp.cell[0]} x {stamp.cell[1]} px.", "Keep it anew."
        )
    for thing in stamp.things:
        check_scale(thing.scale)


def check_extent(name: str, cell: tuple[int, int], bounds: tuple[int, int, int, int], layers: int) -> None:
    """Raises EditError where a level's cell, px, or its bounds (left, top, columns, rows) are impossible."""
    left, top, columns, rows = bounds
    if min(cell) < 1 or max(cell) > MOST_CELL_SIDE:
        raise EditError(f"{name} has cells of {cell[0]} x {cell[1]} px.", "Use 1 to 4096.")
    if not (0 <= columns <= MOST_LEVEL_SIDE and 0 <= rows <= MOST_LEVEL_SIDE):
        raise EditError(
            f"{name} has {columns:,} x {rows:,} cells; {MOST_LEVEL_SIDE:,} a side are the most.",
            "Make it smaller.",
        )
    if abs(left) > FARTHEST_CELL or abs(top) > FARTHEST_CELL:
        raise EditError(f"{name} starts at cell {left}, {top}, too far away.", "Keep nearer to cell 0, 0.")
    cells = columns * rows * max(layers, 1)
    if cells > MOST_LEVEL_CELLS:
        raise EditError(
            f"{name} has {cells:,} cells on {layers} layers; {MOST_LEVEL_CELLS:,} are the most.",
            "Make it smaller, or split it into several levels.",
        )


def check_animation(animation: Animation) -> None:
    """Raises EditError for times that cannot be."""
    wrong = next((frame.ms for frame in animation.frames if not 1 <= frame.ms <= LONGEST_MS), None)
    if wrong is not None:
        raise EditError(f"{animation.name} has a frame of {wrong} ms.", "Use 1 ms to an hour.")
    if animation.path is not None and not 1 <= animation.path.ms <= LONGEST_MS:
        raise EditError(f"{animation.name} has a path of {animation.path.ms} ms.", "Use 1 ms to an hour.")


def check_sheet(sheet: Sheet) -> None:
    """Raises EditError for a sheet whose cells, source or settings are impossible."""
    seen: set[str] = set()
    for cell in (*sheet.cells, *(one.cell for one in sheet.aside)):
        if cell.id in seen:
            raise EditError(f"{sheet.name} has two cells with the id {cell.id}.", "Give one another id.")
        seen.add(cell.id)
    for cell in sheet.cells:
        check_cell(cell, sheet.source.size)
    for one in sheet.aside:
        x, y, w, h = one.cell.rect
        if max(abs(x), abs(y), w, h) > FARTHEST_CELL or min(w, h) < 1:
            raise EditError(f"{one.cell.name}, kept aside, has an impossible place.", "Put its rect right.")
    _check_source(sheet.source)
    tune = sheet.tune
    if not tune.ppu > 0:
        raise EditError(f"{sheet.name} has {tune.ppu:g} pixels per unit.", "Use a number above 0.")
    if not (0 <= tune.gutter <= MOST_GUTTER and 0 <= tune.limit <= MOST_SIDE):
        raise EditError("An impossible gutter or page size.", f"Use 0 to {MOST_GUTTER} px, and 16 to 16384.")


def check_cell(cell: Cell, size: tuple[int, int]) -> None:
    """Raises EditError for a cell that does not lie in its picture of `size` px, or whose pivot or nine-slice
    cannot be."""
    x, y, w, h = cell.rect
    if x < 0 or y < 0 or w < 1 or h < 1 or x + w > size[0] or y + h > size[1]:
        raise EditError(
            f"cell {cell.name} at {x}, {y}, {w} x {h} px lies outside its {size[0]} x {size[1]} px picture.",
            "Put its rect right.",
        )
    if max(abs(cell.pivot[0]), abs(cell.pivot[1])) > FARTHEST_PIVOT:
        raise EditError(f"cell {cell.name} has its pivot far outside.", "Put the pivot right.")
    s = cell.stretch
    if s is not None:
        fits = s.left + s.right <= w and s.top + s.bottom <= h
        if min(s.left, s.top, s.right, s.bottom) < 0 or not fits:
            raise EditError(f"cell {cell.name} has nine-slice margins that do not fit.", "Mend them.")


def _check_source(source: Source) -> None:
    crop = source.crop or (0, 0, 1, 1)
    if source.columns < 0 or min(crop[:2]) < 0 or min(crop[2:]) < 1:
        raise EditError("Its frames are laid out in an impossible way.", "Gather the pictures again.")
    if max(crop) > MOST_SIDE or source.columns > MOST_SIDE or not _is_size(source.size):
        raise EditError("Its picture is of an impossible size.", "Gather the pictures again.")
    for step in source.steps:
        check_step(step)


def check_step(step: Step) -> None:
    """Raises EditError for a preparation step with a number that no picture can have."""
    numbers = (getattr(step, "factor", 1), *getattr(step, "size", ()))
    shades = (getattr(step, "tolerance", 0), *getattr(step, "colour", ()))
    shades += tuple(v for pair in getattr(step, "pairs", ()) for colour in pair for v in colour)
    turns = (getattr(step, "hue", 0), getattr(step, "saturation", 0), getattr(step, "lightness", 0))
    wild = min(shades) < 0 or max(shades) > 255 or not max(map(abs, turns)) <= 360
    wild = wild or max(map(abs, getattr(step, "start", (0,)))) > MOST_SIDE
    if wild or min(numbers) < 1 or max(numbers) > MOST_SIDE:
        raise EditError("A preparation step has an impossible number.", "Put it right.")


def _is_size(size: tuple[int, int]) -> bool:
    return min(size) >= 1 and max(size) <= 1 << 20


def _check_part(old: object, new: object) -> None:
    """A changed part of a project as a whole; of a sheet that stays itself only what changed in it."""
    if isinstance(new, Level):
        check_level(new)
    elif isinstance(new, Animation):
        check_animation(new)
    elif isinstance(new, KeptStamp):
        check_stamp(new)
    elif isinstance(new, Way):
        check_way(new)
    elif isinstance(new, Sheet):
        if not isinstance(old, Sheet) or len(old.cells) != len(new.cells):
            check_sheet(new)
            return
        fresh = [b for a, b in zip(old.cells, new.cells, strict=True) if a is not b]
        for cell in fresh if len(fresh) < MOST_CHECKED else fresh[:: len(fresh) // MOST_CHECKED]:
            check_cell(cell, new.source.size)
        check_sheet(msgspec.structs.replace(new, cells=()))


def _check_text(text: str) -> None:
    if len(text) > LONGEST:
        raise EditError(f"A text of {len(text)} letters is too long.", f"Use at most {LONGEST}.")
    if not text.isascii():
        try:
            text.encode()
        except UnicodeEncodeError:
            raise EditError(
                "That text holds half a letter, which cannot be written.", "Type it anew."
            ) from None
