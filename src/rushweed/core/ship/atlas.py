"""The atlas: cells trimmed, equal ones kept once, packed into pages, gutters filled with edge pixels.

First a plan is made, which needs of each cell no more than what its px are like (`Part`); then the px of the
pages that are wanted are put together.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from functools import cache
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


class Part(NamedTuple):
    """What a cell shows: the box of its px within the cell, a digest of them, and the orientation in which
    the digest holds for them: px of equal digest are equal, each in its own."""

    box: Box
    digest: str
    turn: int = 0


class Frame(NamedTuple):
    """Where a cell ended: page number, x, y, w, h there, and where that lies in the untrimmed cell; what
    stands there is drawn in the orientation `turn`."""

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


class Spot(NamedTuple):
    """A picture on a page: the cell it is of, what that shows, where it stands, and the slot that it and its
    edge, repeated, fill."""

    sheet: Sheet
    cell: Cell
    part: Part
    rect: Box
    slot: Box


class Grid(NamedTuple):
    """Cells in rows: the first is at `margin` px, the next `pitch` px on, `columns` in a row."""

    cell: tuple[int, int]
    margin: int
    pitch: tuple[int, int]
    columns: int


class Page(NamedTuple):
    """A page as it is planned: what it is for, its size in px, and what stands on it; `whole` is the sheet
    that it is."""

    kind: Kind
    size: tuple[int, int]
    spots: tuple[Spot, ...] = ()
    grid: Grid | None = None
    whole: Sheet | None = None

    @property
    def filled(self) -> float:
        """The share of it that art covers."""
        if self.whole is not None:
            return 1.0
        return sum(s.rect[2] * s.rect[3] for s in self.spots) / (self.size[0] * self.size[1])


class Plan(NamedTuple):
    """All pages, and where each cell of the project ended, in the order of the Shelf."""

    pages: list[Page]
    frames: list[Frame]

    @property
    def filled(self) -> float:
        """The share of all pages that art covers."""
        area = sum(p.size[0] * p.size[1] for p in self.pages)
        return sum(p.filled * p.size[0] * p.size[1] for p in self.pages) / area if area else 0.0


PartsOf = Callable[[Sheet], list[Part]]
Packer = Callable[[list[tuple[int, int]], list[int], int, bool], list[Packed]]


# -- what cells show ---------------------------------------------------------------------------------------


def parts_of(sheet: Sheet, rgba: np.ndarray, way: Way) -> list[Part]:
    """What each cell of a sheet shows, from the sheet's px."""
    trim = way.pages.trim and not is_grid(sheet, way)
    boxes = _trimmed(sheet, rgba) if trim else [(0, 0, c.rect[2], c.rect[3]) for c in sheet.cells]
    found = []
    for cell, box in zip(sheet.cells, boxes, strict=True):
        px = _part(rgba, cell, box)
        if not way.pages.turned:
            found.append(Part(box, _digest(px)))
            continue
        digests = [_digest(orient(px, o)) for o in range(8)]
        least = min(range(8), key=digests.__getitem__)
        found.append(Part(box, digests[least], least))
    return found


def _part(rgba: np.ndarray, cell: Cell, box: Box) -> np.ndarray:
    x, y = cell.rect[0] + box[0], cell.rect[1] + box[1]
    return rgba[y : y + box[3], x : x + box[2]]


def _digest(px: np.ndarray) -> str:
    return hashlib.blake2b(repr(px.shape).encode() + px.tobytes(), digest_size=16).hexdigest()


def _trimmed(sheet: Sheet, rgba: np.ndarray) -> list[Box]:
    """The box of each cell without its clear border; an empty cell keeps one px."""
    from rushweed.core.ship.kernels import trim  # late: it is compiled

    rects = np.array([cell.rect for cell in sheet.cells], np.int64).reshape(-1, 4)
    boxes = np.zeros_like(rects)
    trim(rgba, rects, boxes)
    return [(x, y, w, h) for x, y, w, h in boxes.tolist()]


# -- the plan ----------------------------------------------------------------------------------------------


def plan(project: Project, way: Way, parts: PartsOf, packer: Packer = pack_groups) -> Plan:
    """Where everything goes. Raises EditError for a cell that fits no page."""
    pages: list[Page] = []
    placed: dict[str, Frame] = {}
    kinds: dict[Kind, list[Sheet]] = {}
    for sheet in project.sheets:
        if sheet.cells:
            kinds.setdefault(kind_of(sheet, way), []).append(sheet)
    for kind, sheets in sorted(kinds.items(), key=lambda pair: (pair[0].filter != "nearest", pair[0])):
        if kind.wrap == "repeat":
            pages.append(_whole(sheets[0], kind, len(pages), placed))
        elif kind.sheet:
            _plan_grid(sheets[0], way, kind, parts, pages, placed)
        else:
            _plan_group(sheets, way, kind, parts, packer, pages, placed)
    return Plan(pages, [placed[cell.id] for sheet in project.sheets for cell in sheet.cells])


class _First(NamedTuple):
    """The first cell that shows a picture to be placed, and which sheet of its group that is."""

    sheet: Sheet
    cell: Cell
    part: Part
    gutter: int
    number: int


def _plan_group(
    sheets: list[Sheet], way: Way, kind: Kind, parts: PartsOf, packer: Packer, pages: list[Page],
    placed: dict[str, Frame],
) -> None:  # fmt: skip
    unit = _unit_of(kind, way)
    index_of: dict[tuple[str, str, int], int] = {}  # of each picture, among those that are placed
    firsts: list[_First] = []
    sizes: list[tuple[int, int]] = []  # in units
    shown: list[tuple[Sheet, list[Part], list[int]]] = []
    for number, sheet in enumerate(sheets):
        gutter = gutter_of(sheet, way)
        alone = bool(sheet.source.normal or sheet.source.variants)
        own, pictures = parts(sheet), []
        for cell, part in zip(sheet.cells, own, strict=True):
            picture = index_of.setdefault((part.digest, cell.id if alone else "", gutter), len(firsts))
            if picture == len(firsts):
                firsts.append(_First(sheet, cell, part, gutter, number))
                _x, _y, w, h = part.box
                sizes.append((-(-(w + 2 * gutter) // unit), -(-(h + 2 * gutter) // unit)))
            pictures.append(picture)
        shown.append((sheet, own, pictures))
    power = _is_power(kind, way) or any(s.tune.pad == "power" for s in sheets)
    limit = _limit(kind, way, power)
    _check_fit(firsts, sizes, unit, limit, way)
    four = kind.codec in CODERS or way.pages.sides == "four" or any(s.tune.pad == "four" for s in sheets)
    where: list[tuple[int, Box, int]] = [(0, (0, 0, 0, 0), 0)] * len(firsts)  # page, rect and turn of each
    for packed in packer(sizes, [one.number for one in firsts], limit // unit, power):
        width, height = packed.width * unit, packed.height * unit
        spots = []
        for i, (x, y) in packed.places.items():
            sheet, cell, part, g, _number = firsts[i]
            left, top, (w, h) = x * unit, y * unit, sizes[i]
            rect = (left + g, top + g, part.box[2], part.box[3])
            spots.append(Spot(sheet, cell, part, rect, (left, top, w * unit, h * unit)))
            where[i] = (len(pages), rect, part.turn)
        size = (width + -width % 4, height + -height % 4) if four else (width, height)
        pages.append(Page(kind, size, tuple(spots)))
    for sheet, own, pictures in shown:
        for cell, part, picture in zip(sheet.cells, own, pictures, strict=True):
            page, rect, first = where[picture]
            turn = _relative(first, part.turn) if first != part.turn else 0
            placed[cell.id] = Frame(sheet, cell, page, rect, part.box[:2], turn)


def _plan_grid(
    sheet: Sheet, way: Way, kind: Kind, parts: PartsOf, pages: list[Page], placed: dict[str, Frame]
) -> None:
    """The cells of an evenly cut sheet in their order, whole."""
    w, h = sheet.cells[0].rect[2:]
    gutter, unit = gutter_of(sheet, way), _unit_of(kind, way)
    pitch = (_units(w + 2 * gutter, unit) * unit, _units(h + 2 * gutter, unit) * unit)
    power = _is_power(kind, way) or sheet.tune.pad == "power"
    limit = _limit(kind, way, power)
    shown = parts(sheet)
    _check_fit([_First(sheet, sheet.cells[0], shown[0], gutter, 0)], [pitch], 1, limit, way)
    four = kind.codec in CODERS or way.pages.sides == "four" or sheet.tune.pad == "four"
    first = 0
    for columns, count, (width, height) in grid_pages(len(sheet.cells), pitch, limit, power):
        spots = []
        for n, (cell, part) in enumerate(
            zip(sheet.cells[first : first + count], shown[first : first + count], strict=True)
        ):
            left, top = n % columns * pitch[0], n // columns * pitch[1]
            rect = (left + gutter, top + gutter, w, h)
            spots.append(Spot(sheet, cell, part, rect, (left, top, *pitch)))
            placed[cell.id] = Frame(sheet, cell, len(pages), rect, (0, 0))
        size = (width + -width % 4, height + -height % 4) if four else (width, height)
        pages.append(Page(kind, size, tuple(spots), Grid((w, h), gutter, pitch, columns)))
        first += count


def _whole(sheet: Sheet, kind: Kind, number: int, placed: dict[str, Frame]) -> Page:
    """A page that is the sheet itself."""
    for cell in sheet.cells:
        placed[cell.id] = Frame(sheet, cell, number, cell.rect, (0, 0))
    return Page(kind, padded_size(sheet), whole=sheet)


def _is_power(kind: Kind, way: Way) -> bool:
    """Whether sides are powers of two: where that is asked for, and for mipmaps, which halve exactly then."""
    return way.pages.sides == "power" or kind.mipmaps


def _limit(kind: Kind, way: Way, power: bool) -> int:
    limit = min(way.pages.limit, kind.limit or way.pages.limit)
    return 1 << (limit.bit_length() - 1) if power else limit


def _units(px: int, unit: int) -> int:
    return -(-px // unit)


def _unit_of(kind: Kind, way: Way) -> int:
    """Px that slots begin and end on whole multiples of, so that neither blocks nor the mipmaps that are to
    be clean have px of two pictures in one."""
    unit = 4 if kind.codec in CODERS else 1
    return unit << way.pages.clean if kind.mipmaps else unit


def _check_fit(
    wanted: Iterable[_First], sizes: list[tuple[int, int]], unit: int, limit: int, way: Way
) -> None:
    """Raises EditError for a cell that no page can hold, by the names of its sheet and itself."""
    most = limit // unit
    for one, (w, h) in zip(wanted, sizes, strict=True):
        if w > most or h > most:
            own = one.sheet.tune.limit and one.sheet.tune.limit <= way.pages.limit
            raise EditError(
                f"{one.sheet.name}: {one.cell.name} needs {w * unit} x {h * unit} px with its gutter, "
                f"and pages are {limit} px.",
                f"Raise {one.sheet.name}'s page limit in Tune."
                if own
                else "Ship larger pages, or cut it smaller.",
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
