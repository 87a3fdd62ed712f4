"""What a way to ship makes, laid out on the Desk: pages, single frames, or levels for a browser."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model import Project, Way
from rushweed.core.level.render import level_picture
from rushweed.core.pixels.stock import Stock
from rushweed.core.ship.atlas import Frame, Plan, page_pixels, parts_of, plan
from rushweed.core.ship.describe import has_texture
from rushweed.core.ship.encode import picture_bytes
from rushweed.core.ship.names import Names, has_picture
from rushweed.core.ship.ways import shipped_part
from rushweed.core.tune.codec.compress import memory_bytes

Box = tuple[int, int, int, int]
GAP, LEAST = 24, 240  # px between items, and across for what is told of a page
LINE = 14  # screen px of a line under an item
MOST_ITEMS = 4000


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


class Board(NamedTuple):
    """All of them, where each has its upper left, px, the room `under` each row, and the plan they come
    from."""

    items: list[Item]
    spots: list[tuple[int, int]]
    size: tuple[int, int]
    under: int
    plan: Plan

    def frame_at(self, x: float, y: float) -> tuple[int, Frame | None]:
        """The item at a place (-1 for none), and the frame there."""
        for n, (item, (left, top)) in enumerate(zip(self.items, self.spots, strict=True)):
            inside = 0 <= x - left < item.rgba.shape[1] and 0 <= y - top < item.rgba.shape[0]
            if not inside:
                continue
            for frame, (fx, fy, w, h) in item.frames:
                if fx <= x - left < fx + w and fy <= y - top < fy + h:
                    return n, frame
            return n, None
        return -1, None

    def places_of(self, cell_ids: set[str]) -> list[Box]:
        """Where some cells lie, px of the board."""
        return [
            (left + x, top + y, w, h)
            for item, (left, top) in zip(self.items, self.spots, strict=True)
            for frame, (x, y, w, h) in item.frames
            if frame.cell.id in cell_ids
        ]

    def room_of(self, number: int) -> float:
        """Px from an item's left to the next one of its row."""
        (x, y), after = self.spots[number], self.spots[number + 1 : number + 2]
        return float(after[0][0] - x - GAP / 2) if after and after[0][1] == y else float("inf")

    @property
    def worst(self) -> int:
        """The item that wastes most px."""
        waste = [(1 - item.filled) * item.rgba.shape[0] * item.rgba.shape[1] for item in self.items]
        return max(range(len(waste)), key=waste.__getitem__) if waste else -1


def board_of(project: Project, stock: Stock, way: Way, aspect: float) -> Board:
    """Work out what a way makes; `aspect` is the width of the Desk over its height. Raises RushweedError."""
    part = shipped_part(project, way)
    planned = plan(part, way, lambda sheet: parts_of(sheet, stock.pixels(sheet), way))
    if way.makes == "page":
        items = _levels(part, stock)
    elif way.makes == "plain":
        items = _singles(planned, stock, way)
    else:
        items = _pages(part, planned, stock, way)
    sizes = [(item.rgba.shape[1], item.rgba.shape[0]) for item in items]
    under = (
        max(2 * GAP, max((high for _wide, high in sizes), default=0) // 4) if way.makes == "game" else 2 * GAP
    )
    spots, size = arranged(sizes, aspect, GAP, under, LEAST if way.makes == "game" else 0)
    return Board(items, spots, size, under, planned)


def _pages(project: Project, planned: Plan, stock: Stock, way: Way) -> list[Item]:
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


def _singles(planned: Plan, stock: Stock, way: Way) -> list[Item]:
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


def _levels(project: Project, stock: Stock) -> list[Item]:
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


def arranged(
    sizes: list[tuple[int, int]], aspect: float, gap: int, under: int, least: int = 0
) -> tuple[list[tuple[int, int]], tuple[int, int]]:
    """Places for pictures in rows, about as wide as `aspect` times their height, in their order; each has
    room of at least `least` px across."""
    if not sizes:
        return [], (1, 1)
    area = sum((w + gap) * (h + under) for w, h in sizes)
    width = max(math.isqrt(int(area * max(aspect, 0.2) * 1.1)), max(w for w, _h in sizes))
    spots, x, y, row, widest = [], 0, 0, 0, 0
    for w, h in sizes:
        if x and x + w > width:
            x, y, row = 0, y + row + under, 0
        spots.append((x, y))
        widest = max(widest, x + w)
        x, row = x + max(w, least) + gap, max(row, h)
    return spots, (widest, y + row + under)
