"""The atlas: cells trimmed, equal ones kept once, packed into pages, gutters filled with edge pixels.

First a plan is made, which needs of each cell no more than what its px are like (`PART`); then the px of the
pages that are wanted are put together. All of it is kept in tables, as a project has tens of thousands of
cells.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from functools import cache, cached_property
from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Alpha, Cell, Codec, Filter, Sheet, Transfer, Wrap
from rushweed.core.document.model.shipping import Way
from rushweed.core.level.stamp import orient
from rushweed.core.ship.pack import Packed, grid_pages, pack_groups
from rushweed.core.tune.codec.compress import CODERS
from rushweed.core.tune.texture import padded_size

Box = tuple[int, int, int, int]

# What a cell shows: the box (x, y, w, h) of its px within the cell, a digest of them in two numbers, and the
# orientation in which the digest holds for them: px of equal digest are equal, each in its own.
PART = np.dtype([("box", "<i4", 4), ("digest", "<u8", 2), ("turn", "<i4")])

# A picture on a page: the first cell that shows it (the place of its sheet in the plan, its own place in the
# sheet), what that shows, where it stands, and the slot that it and its edge, repeated, fill.
SPOT = np.dtype([("sheet", "<i4"), ("cell", "<i4"), ("part", PART), ("rect", "<i4", 4), ("slot", "<i4", 4)])

# Where a cell ended: page number, x, y, w, h there, and where that lies in the untrimmed cell; what stands
# there is drawn in the orientation `turn`.
PLACE = np.dtype([("page", "<i4"), ("rect", "<i4", 4), ("offset", "<i4", 2), ("turn", "<i4")])


class Frame(NamedTuple):
    """A row of places, with the cell that ended there."""

    sheet: Sheet
    cell: Cell
    page: int
    rect: Box
    offset: tuple[int, int]
    turn: int = 0


class Kind(NamedTuple):
    """What all frames of a page have in common; it is at most `limit` px a side, where that is not 0. A
    texture that repeats is its `sheet` alone, uncut; so is an even grid."""

    group: str
    filter: Filter
    mipmaps: bool
    wrap: Wrap
    alpha: Alpha
    codec: Codec
    limit: int = 0
    sheet: str = ""
    transfer: Transfer = "srgb"


class Grid(NamedTuple):
    """Cells in rows: the first is at `margin` px, the next `pitch` px on, `columns` in a row."""

    cell: tuple[int, int]
    margin: int
    pitch: tuple[int, int]
    columns: int


class Page(NamedTuple):
    """A page as it is planned: what it is for, its size in px, and what stands on it (rows of SPOT, whose
    sheets are those of `among`); `whole` is the sheet that it is."""

    kind: Kind
    size: tuple[int, int]
    spots: np.ndarray
    among: Sequence[Sheet] = ()
    grid: Grid | None = None
    whole: Sheet | None = None

    @property
    def sheets(self) -> list[Sheet]:
        """The sheets of which it shows something, in the order of the plan."""
        if self.whole is not None:
            return [self.whole]
        return [self.among[n] for n in np.unique(self.spots["sheet"]).tolist()]

    @property
    def filled(self) -> float:
        """The share of it that art covers."""
        if self.whole is not None:
            return 1.0
        return float(self.spots["rect"][:, 2:].prod(axis=1).sum()) / (self.size[0] * self.size[1])


class Plan:
    """All pages, and where each cell of some sheets ended, in the order of the Shelf: rows of PLACE."""

    def __init__(self, sheets: Sequence[Sheet], pages: list[Page], places: np.ndarray) -> None:
        self.sheets, self.pages, self.places = sheets, pages, places

    @cached_property
    def frames(self) -> list[Frame]:
        """The places with their cells."""
        cells = ((sheet, cell) for sheet in self.sheets for cell in sheet.cells)
        columns = (self.places[name].tolist() for name in PLACE.names or ())
        return [
            Frame(sheet, cell, page, (x, y, w, h), (left, top), turn)
            for (sheet, cell), page, (x, y, w, h), (left, top), turn in zip(cells, *columns, strict=True)
        ]

    @cached_property
    def number_of(self) -> dict[str, int]:
        """The place of each cell among the frames, by its id."""
        return {cell.id: n for n, cell in enumerate(c for sheet in self.sheets for c in sheet.cells)}

    @property
    def filled(self) -> float:
        """The share of all pages that art covers."""
        area = sum(p.size[0] * p.size[1] for p in self.pages)
        return sum(p.filled * p.size[0] * p.size[1] for p in self.pages) / area if area else 0.0


PartsOf = Callable[[Sheet], np.ndarray]
Packer = Callable[[np.ndarray, np.ndarray, int, bool], list[Packed]]


# -- what cells show ---------------------------------------------------------------------------------------


def parts_of(sheet: Sheet, rgba: np.ndarray, way: Way) -> np.ndarray:
    """What each cell of a sheet shows, from the sheet's px: rows of PART."""
    rects = np.array([cell.rect for cell in sheet.cells], np.int64).reshape(-1, 4)
    boxes = np.zeros_like(rects)
    if way.pages.trim and not is_grid(sheet, way):
        from rushweed.core.ship.kernels import trim  # late: it is compiled

        trim(rgba, rects, boxes)  # an empty cell keeps one px
    else:
        boxes[:, 2:] = rects[:, 2:]
    found = np.zeros(len(rects), PART)
    found["box"] = boxes
    boxes[:, :2] += rects[:, :2]
    for n, (x, y, w, h) in enumerate(boxes.tolist()):
        px = rgba[y : y + h, x : x + w]
        if way.pages.turned:
            digests = [_digest(orient(px, o)) for o in range(8)]
            found["turn"][n] = min(range(8), key=digests.__getitem__)
            found["digest"][n] = np.frombuffer(min(digests), "<u8")
        else:
            found["digest"][n] = np.frombuffer(_digest(px), "<u8")
    return found


def _digest(px: np.ndarray) -> bytes:
    """Of the shape and the px, which are not copied where they lie in one piece."""
    found = hashlib.blake2b(repr(px.shape).encode(), digest_size=16)
    found.update(np.ascontiguousarray(px).data)
    return found.digest()


# -- the plan ----------------------------------------------------------------------------------------------


def plan(project: Project, way: Way, parts: PartsOf, packer: Packer = pack_groups) -> Plan:
    """Where everything goes. Raises EditError for a cell that fits no page."""
    made = _Made(project.sheets, way, parts, packer)
    kinds: dict[Kind, list[int]] = {}
    for number, sheet in enumerate(project.sheets):
        if sheet.cells:
            kinds.setdefault(kind_of(sheet, way), []).append(number)
    for kind, numbers in sorted(kinds.items(), key=lambda pair: (pair[0].filter != "nearest", pair[0])):
        if kind.wrap == "repeat":
            made.add_whole(numbers[0], kind)
        elif kind.sheet:
            made.add_grid(numbers[0], kind)
        else:
            made.add_group(numbers, kind)
    return Plan(project.sheets, made.pages, made.places)


class _Made:
    """A plan while it is made."""

    def __init__(self, sheets: Sequence[Sheet], way: Way, parts: PartsOf, packer: Packer) -> None:
        self.sheets, self.way, self.parts, self.packer = sheets, way, parts, packer
        self.pages: list[Page] = []
        self.begins = np.cumsum([0, *(len(sheet.cells) for sheet in sheets)])  # of its cells among all
        self.places = np.zeros(self.begins[-1], PLACE)

    def add_group(self, numbers: list[int], kind: Kind) -> None:
        """Sheets whose cells share pages."""
        sheets, unit = [self.sheets[n] for n in numbers], _unit_of(kind, self.way)
        counts = np.array([len(sheet.cells) for sheet in sheets])
        ends = np.cumsum(counts)
        parts = np.frombuffer(b"".join([self.parts(sheet).tobytes() for sheet in sheets]), PART)
        within = np.arange(ends[-1]) - (ends - counts).repeat(counts)  # the place of each cell in its sheet
        group = np.arange(len(sheets)).repeat(counts)
        gutter = np.array([gutter_of(sheet, self.way) for sheet in sheets]).repeat(counts)
        alone = np.array([bool(s.source.normal or s.source.variants) for s in sheets]).repeat(counts)
        own = np.where(alone, np.arange(1, ends[-1] + 1), 0)  # what has normals shares its place with none
        firsts, picture = _first_of_equal(parts["digest"], gutter, own)

        part, g = parts[firsts], gutter[firsts]
        sizes = -(-(part["box"][:, 2:] + 2 * g[:, None]) // unit)
        power = _is_power(kind, self.way) or any(s.tune.pad == "power" for s in sheets)
        limit = _limit(kind, self.way, power)
        over = np.flatnonzero((sizes > limit // unit).any(axis=1))
        if len(over):
            n = firsts[over[0]]
            sheet = sheets[group[n]]
            _refuse(sheet, sheet.cells[within[n]], sizes[over[0]] * unit, limit, self.way)
        spots, on_page = np.zeros(len(firsts), SPOT), np.zeros(len(firsts), np.int64)
        spots["sheet"], spots["cell"] = np.array(numbers)[group[firsts]], within[firsts]
        spots["part"] = part
        for packed in self.packer(sizes, group[firsts], limit // unit, power):
            shown = packed.places[:, 0]
            slot = np.concatenate((packed.places[:, 1:], sizes[shown]), axis=1) * unit
            spots["slot"][shown] = slot
            spots["rect"][shown, :2] = slot[:, :2] + g[shown, None]
            spots["rect"][shown, 2:] = part["box"][shown, 2:]
            on_page[shown] = len(self.pages)
            size = self._size((packed.width * unit, packed.height * unit), kind, sheets)
            self.pages.append(Page(kind, size, spots[shown], self.sheets))

        at = np.concatenate([np.arange(self.begins[n], self.begins[n + 1]) for n in numbers])
        places = np.zeros(len(parts), PLACE)
        places["page"], places["rect"] = on_page[picture], spots["rect"][picture]
        places["offset"] = parts["box"][:, :2]
        placed, wanted = part["turn"][picture], parts["turn"]
        for n in np.flatnonzero(placed != wanted).tolist():
            places["turn"][n] = _relative(int(placed[n]), int(wanted[n]))
        self.places[at] = places

    def add_grid(self, number: int, kind: Kind) -> None:
        """The cells of an evenly cut sheet in their order, whole."""
        sheet, way = self.sheets[number], self.way
        w, h = sheet.cells[0].rect[2:]
        gutter, unit = gutter_of(sheet, way), _unit_of(kind, way)
        pitch = (-(-(w + 2 * gutter) // unit) * unit, -(-(h + 2 * gutter) // unit) * unit)
        power = _is_power(kind, way) or sheet.tune.pad == "power"
        limit = _limit(kind, way, power)
        if max(pitch) > limit:
            _refuse(sheet, sheet.cells[0], np.array(pitch), limit, way)
        parts, first = self.parts(sheet), 0
        for columns, count, size in grid_pages(len(sheet.cells), pitch, limit, power):
            spots, n = np.zeros(count, SPOT), np.arange(count)
            spots["sheet"], spots["cell"] = number, first + n
            spots["part"] = parts[first : first + count]
            spots["slot"][:, 0], spots["slot"][:, 1] = n % columns * pitch[0], n // columns * pitch[1]
            spots["slot"][:, 2:] = pitch
            spots["rect"][:, :2], spots["rect"][:, 2:] = spots["slot"][:, :2] + gutter, (w, h)
            places = self.places[self.begins[number] + first :][:count]
            places["page"], places["rect"] = len(self.pages), spots["rect"]
            grid = Grid((w, h), gutter, pitch, columns)
            self.pages.append(Page(kind, self._size(size, kind, [sheet]), spots, self.sheets, grid))
            first += count

    def add_whole(self, number: int, kind: Kind) -> None:
        """A page that is the sheet itself."""
        sheet = self.sheets[number]
        places = self.places[self.begins[number] : self.begins[number + 1]]
        places["page"], places["rect"] = len(self.pages), [cell.rect for cell in sheet.cells]
        self.pages.append(Page(kind, padded_size(sheet), np.zeros(0, SPOT), whole=sheet))

    def _size(self, size: tuple[int, int], kind: Kind, sheets: list[Sheet]) -> tuple[int, int]:
        """The size of a page, px, in whole multiples of 4 where something asks for that."""
        four = kind.codec in CODERS or self.way.pages.sides == "four"
        if four or any(s.tune.pad == "four" for s in sheets):
            return size[0] + -size[0] % 4, size[1] + -size[1] % 4
        return size


def _first_of_equal(digests: np.ndarray, *others: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Of rows that are equal in two numbers (n, 2) and in all of `others` (n,) the first of each, in their
    order; and for each row which of these it equals."""
    columns = (*others, digests[:, 1], digests[:, 0])
    order = np.lexsort(columns)  # the equal ones in the order they come
    new = np.zeros(len(order), bool)
    new[:1] = True
    for column in columns:
        held = column[order]
        new[1:] |= held[1:] != held[:-1]
    first = order[new]
    rank = np.empty(len(first), np.int64)
    rank[np.argsort(first)] = np.arange(len(first))
    equals = np.empty(len(order), np.int64)
    equals[order] = rank[np.cumsum(new) - 1]
    return np.sort(first), equals


def _is_power(kind: Kind, way: Way) -> bool:
    """Whether sides are powers of two: where that is asked for, and for mipmaps, which halve exactly then."""
    return way.pages.sides == "power" or kind.mipmaps


def _limit(kind: Kind, way: Way, power: bool) -> int:
    limit = min(way.pages.limit, kind.limit or way.pages.limit)
    return 1 << (limit.bit_length() - 1) if power else limit


def _unit_of(kind: Kind, way: Way) -> int:
    """Px that slots begin and end on whole multiples of, so that neither blocks nor the mipmaps that are to
    be clean have px of two pictures in one."""
    unit = 4 if kind.codec in CODERS else 1
    return unit << way.pages.clean if kind.mipmaps else unit


def _refuse(sheet: Sheet, cell: Cell, needs: np.ndarray, limit: int, way: Way) -> None:
    """Raises EditError for a cell that no page can hold, by the names of its sheet and itself."""
    own = sheet.tune.limit and sheet.tune.limit <= way.pages.limit
    raise EditError(
        f"{sheet.name}: {cell.name} needs {needs[0]} x {needs[1]} px with its gutter, "
        f"and pages are {limit} px.",
        f"Raise {sheet.name}'s page limit in Tune." if own else "Ship larger pages, or cut it smaller.",
    )


@cache
def _relative(placed: int, wanted: int) -> int:
    """The orientation by which a picture becomes another one, when each equals the same third in its own:
    with o(p, a) for p in orientation a, the one for which o(o(q, placed) = third = o(p, wanted))."""
    third = np.arange(6).reshape(2, 3)

    def before(turn: int) -> np.ndarray:
        """What in orientation `turn` is the third."""
        return next(p for o in range(8) for p in [orient(third, o)] if np.array_equal(orient(p, turn), third))

    have, want = before(placed), before(wanted)
    return next(o for o in range(8) if np.array_equal(orient(have, o), want))


def is_grid(sheet: Sheet, way: Way) -> bool:
    """Whether a way ships a sheet as an even grid: all its cells have one size."""
    if not way.pages.grid or sheet.tune.wrap == "repeat" or len(sheet.cells) < 2:
        return False
    return len({cell.rect[2:] for cell in sheet.cells}) == 1


def kind_of(sheet: Sheet, way: Way) -> Kind:
    """What a page must be like to take the cells of a sheet."""
    tune = sheet.tune
    alone = sheet.id if tune.wrap == "repeat" or is_grid(sheet, way) else ""
    limit = 0 if tune.wrap == "repeat" else tune.limit
    codec: Codec = tune.codec
    if way.texture == "never":
        codec = "indexed" if codec == "indexed" else "none"
    elif way.texture != "tuned":
        codec = way.texture
    return Kind(
        tune.group,
        tune.filter,
        _has_mipmaps(sheet, way),
        tune.wrap,
        tune.alpha,
        codec,
        limit,
        alone,
        tune.transfer,
    )


def _has_mipmaps(sheet: Sheet, way: Way) -> bool:
    return sheet.tune.mipmaps and way.texture != "never"


def gutter_of(sheet: Sheet, way: Way) -> int:
    """Px of repeated edge around each frame of a sheet."""
    if sheet.tune.wrap != "clamp":
        return 0
    clean = 1 << way.pages.clean if way.pages.clean and _has_mipmaps(sheet, way) else 0
    return max(way.pages.gutter, sheet.tune.gutter, clean)
