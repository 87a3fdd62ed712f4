"""What a way to ship makes, laid out on the Desk: pages, single frames, or levels for a browser."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shipping import Way
from rushweed.core.level.render import level_picture
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import Frame, Plan, parts_of, plan
from rushweed.core.ship.describe import has_texture
from rushweed.core.ship.encode import picture_bytes
from rushweed.core.ship.names import Names, has_picture
from rushweed.core.ship.pages import page_pixels
from rushweed.core.ship.ways import shipped_part
from rushweed.core.tune.codec.compress import memory_bytes
from rushweed.ui.desk.view import STEPS

Box = tuple[int, int, int, int]
GAP, LEAST, LINE = 12, 156, 14  # screen px between items, across for what is told, of a line of that
MARGIN = 32  # screen px around it all
MOST_ITEMS = 4000


class Laid(NamedTuple):
    """Upper lefts of pictures, the size of it all and the room under each row, px."""

    spots: list[tuple[int, int]]
    size: tuple[int, int]
    under: int


class Item(NamedTuple):
    """One picture: its px, its name and what is to be told of it, the frames on it with their places, and the
    share of it that art fills."""

    rgba: np.ndarray
    name: str
    facts: str
    frames: tuple[tuple[Frame, Box], ...] = ()
    filled: float = 1.0
    memory: int = 0
    file: int = 0

    @property
    def lines(self) -> list[str]:
        """What stands under it."""
        size = f"{self.rgba.shape[1]} × {self.rgba.shape[0]}"
        if not self.memory:
            return [self.name, *([self.facts] if self.facts else [])]
        sizes = f"{size_words(self.memory)}, file {size_words(self.file)}, {self.filled:.0%} filled"
        return [f"{self.name}  {size}", self.facts, sizes]


class Board:
    """All of them, where each has its upper left, px, the room `under` each row, and the plan they come
    from."""

    def __init__(self, items: list[Item], laid: Laid, plan: Plan) -> None:
        self.items, self.plan = items, plan
        self.spots, self.size, self.under = laid
        sizes = [item.rgba.shape[1::-1] for item in items]
        self._boxes = _ends(np.array([(*s, *z) for s, z in zip(self.spots, sizes, strict=True)]))
        self._frames = [_ends(np.array([box for _frame, box in item.frames])) for item in items]
        self._places: dict[str, list[Box]] = {}
        for item, (left, top) in zip(items, self.spots, strict=True):
            for frame, (x, y, w, h) in item.frames:
                self._places.setdefault(frame.cell.id, []).append((left + x, top + y, w, h))

    def frame_at(self, x: float, y: float) -> tuple[int, Frame | None]:
        """The item at a place (-1 for none), and the frame there."""
        number = _holding(self._boxes, x, y)
        if number < 0:
            return -1, None
        left, top = self.spots[number]
        found = _holding(self._frames[number], x - left, y - top)
        return number, self.items[number].frames[found][0] if found >= 0 else None

    def places_of(self, cell_ids: Iterable[str]) -> list[Box]:
        """Where some cells lie, px of the board."""
        return [box for cell_id in cell_ids for box in self._places.get(cell_id, ())]

    def room_of(self, number: int) -> float:
        """Px from an item's left to the next one of its row."""
        (x, y), after = self.spots[number], self.spots[number + 1 : number + 2]
        return float(after[0][0] - x) if after and after[0][1] == y else float("inf")

    @property
    def worst(self) -> int:
        """The item that wastes most px."""
        waste = [(1 - item.filled) * item.rgba.shape[0] * item.rgba.shape[1] for item in self.items]
        return max(range(len(waste)), key=waste.__getitem__) if waste else -1


def _ends(boxes: np.ndarray) -> np.ndarray:
    """Boxes (x, y, w, h) as left, top, right, bottom."""
    boxes = boxes.reshape(-1, 4).copy()
    boxes[:, 2:] += boxes[:, :2]
    return boxes


def _holding(ends: np.ndarray, x: float, y: float) -> int:
    """The first box that holds a place, or -1."""
    inside = (ends[:, 0] <= x) & (x < ends[:, 2]) & (ends[:, 1] <= y) & (y < ends[:, 3])
    return int(inside.argmax()) if inside.any() else -1


def board_of(project: Project, stock: PixelCache, way: Way, room: tuple[int, int]) -> Board:
    """Work out what a way makes; `room` is the size of the Desk. Raises RushweedError."""
    part = shipped_part(project, way)
    planned = plan(part, way, lambda sheet: parts_of(sheet, stock.pixels(sheet), way))
    if way.makes == "page":
        items, lines = _levels(part, stock), 2
    elif way.makes == "plain":
        items, lines = _singles(planned, stock, way), 1
    else:
        items, lines = _pages(part, planned, stock, way), 3
    sizes = [(item.rgba.shape[1], item.rgba.shape[0]) for item in items]
    return Board(items, laid_out(sizes, room, lines, LEAST if way.makes == "game" else 0), planned)


def _pages(project: Project, planned: Plan, stock: PixelCache, way: Way) -> list[Item]:
    names = Names(project, way)
    on_page: dict[int, list[tuple[Frame, Box]]] = {}
    for frame in planned.frames:
        on_page.setdefault(frame.page, []).append((frame, frame.rect))
    items = []
    for n, page in enumerate(planned.pages):
        rgba, kind = page_pixels(page, stock), page.kind
        codec = kind.codec if kind.codec != "none" else "no compression"
        memory = memory_bytes(page.size, kind.codec, kind.mipmaps)
        facts = f"{kind.filter}, {codec}" + (", mipmaps" if kind.mipmaps else "")
        facts += f", group {kind.group}" if kind.group else ""
        facts += ", texture" if has_texture(kind) else ""
        file = len(picture_bytes(rgba, way.picture, kind.codec == "indexed"))
        items.append(Item(rgba, names.page(n), facts, tuple(on_page.get(n, ())), page.filled, memory, file))
    return items


def _singles(planned: Plan, stock: PixelCache, way: Way) -> list[Item]:
    """Each frame as it goes out alone."""
    items = []
    for frame in planned.frames[:MOST_ITEMS]:
        x, y, w, h = frame.cell.rect
        rgba = stock.pixels(frame.sheet)[y : y + h, x : x + w]
        if not way.whole:
            wide, high = frame.rect[2:] if not frame.turn & 1 else frame.rect[3:1:-1]
            left, top = frame.offset
            rgba = rgba[top : top + high, left : left + wide]
        box = (0, 0, rgba.shape[1], rgba.shape[0])
        items.append(Item(rgba, f"{frame.cell.name}.png", "", ((frame, box),)))
    return items


def _levels(project: Project, stock: PixelCache) -> list[Item]:
    items = []
    for level in project.levels:
        if has_picture(level):
            (x, y, columns, rows), (cw, ch) = level.bounds, level.cell
            area = (x * cw, y * ch, columns * cw, rows * ch)
            rgba = level_picture(project, level, stock.pixels_or_blank, area)
            items.append(Item(rgba, level.name, f"{columns} × {rows} cells"))
    return items


def size_words(size: int) -> str:
    return f"{size / 2**20:.2f} MiB" if size >= 2**20 else f"{size / 1024:.1f} KiB"


def laid_out(sizes: list[tuple[int, int]], room: tuple[int, int], lines: int, least: int) -> Laid:
    """Places for pictures in rows, in their order, as large as they can be seen in a room of so many screen
    px, with so many lines under each and at least `least` screen px across."""
    laid = Laid([], (1, 1), 0)
    for zoom in reversed([z for z in STEPS if z <= 1]):
        under = math.ceil((lines * LINE + 10) / zoom)
        width = int((room[0] - 2 * MARGIN) / zoom)
        laid = _in_rows(sizes, width, under, math.ceil(least / zoom), math.ceil(GAP / zoom))
        wide, high = laid.size
        if wide <= width and high <= (room[1] - 2 * MARGIN) / zoom:
            break
    return laid


def _in_rows(sizes: list[tuple[int, int]], width: int, under: int, least: int, gap: int) -> Laid:
    spots, x, y, row, widest = [], 0, 0, 0, 1
    for w, h in sizes:
        if x and x + max(w, least) > width:
            x, y, row = 0, y + row + under, 0
        spots.append((x, y))
        widest = max(widest, x + max(w, least))
        x, row = x + max(w, least) + gap, max(row, h)
    return Laid(spots, (widest, max(y + row + under, 1)), under)
