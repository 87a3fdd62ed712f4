"""The atlas: cells trimmed, equal ones kept once, packed into pages, gutters filled with edge pixels."""

from __future__ import annotations

import hashlib
from typing import NamedTuple

import numpy as np

from rushweed.core.document.errors import EditError
from rushweed.core.document.model import Alpha, Cell, Codec, Filter, Project, Sheet, Transfer, Wrap
from rushweed.core.pixels.stock import Stock
from rushweed.core.ship.pack import pack
from rushweed.core.tune.texture import padded, padded_size, with_gutter


class AtlasSettings(NamedTuple):
    """`gutter` px of repeated edge around each frame, or more where a sheet asks for it; `limit` px a side of
    a page at most, or less where a sheet asks for it."""

    gutter: int = 2
    limit: int = 2048
    power_of_two: bool = True
    trim: bool = True


class Frame(NamedTuple):
    """Where a cell ended: page number, x, y, w, h there, and where that lies in the untrimmed cell."""

    sheet: Sheet
    cell: Cell
    page: int
    rect: tuple[int, int, int, int]
    offset: tuple[int, int]


class Kind(NamedTuple):
    """What all frames of a page have in common; it is at most `limit` px a side, where that is not 0. A
    texture that repeats is its `sheet` alone, uncut."""

    group: str
    filter: Filter
    mipmaps: bool
    wrap: Wrap
    alpha: Alpha
    codec: Codec
    limit: int = 0
    sheet: str = ""
    transfer: Transfer = "srgb"


class Atlas(NamedTuple):
    """`pages` are uint8 RGBA, `kinds` what each is for; a page never mixes them. `normals` are normal
    maps with the same places, where a sheet of the page has one; `larger` maps 2 or 3 to the same page so
    many times as large."""

    pages: list[np.ndarray]
    kinds: list[Kind]
    frames: list[Frame]
    normals: list[np.ndarray | None]
    larger: list[dict[int, np.ndarray]]


FLAT = (128, 128, 255)  # the normal that looks straight at the viewer


def build(project: Project, stock: Stock, settings: AtlasSettings = AtlasSettings()) -> Atlas:  # noqa: B008
    """Make the atlas of every cell. Raises EditError if a cell does not fit a page, PictureError if a
    picture is missing."""
    pages: list[np.ndarray] = []
    kinds: list[Kind] = []
    placed: dict[str, Frame] = {}
    groups: dict[Kind, list[Sheet]] = {}
    for sheet in project.sheets:
        if sheet.cells:
            groups.setdefault(kind_of(sheet), []).append(sheet)
    for kind, sheets in sorted(groups.items(), key=lambda pair: (pair[0].filter != "nearest", pair[0])):
        if kind.wrap == "repeat":
            _whole(sheets[0], stock, len(pages), pages, placed)
        else:
            _pack_group(sheets, stock, settings, kind, pages, placed)
        kinds += [kind] * (len(pages) - len(kinds))
    frames = [placed[cell.id] for sheet in project.sheets for cell in sheet.cells]
    return Atlas(
        pages, kinds, frames, _normal_pages(pages, frames, stock, settings),
        _larger_pages(pages, frames, stock, settings),
    )  # fmt: skip


def _normal_pages(
    pages: list[np.ndarray], frames: list[Frame], stock: Stock, settings: AtlasSettings
) -> list[np.ndarray | None]:
    """For each page with a frame that has a normal map, one page of normals; the rest of it is flat."""
    made: list[np.ndarray | None] = [None] * len(pages)
    for frame in frames:
        normals = stock.normals(frame.sheet)
        if normals is None:
            continue
        page = made[frame.page]
        if page is None:
            page = made[frame.page] = np.empty_like(pages[frame.page])
            page[..., :3], page[..., 3] = FLAT, 255
        _lay(page, frame, normals, 1, gutter_of(frame.sheet, settings))
    return made


def _larger_pages(
    pages: list[np.ndarray], frames: list[Frame], stock: Stock, settings: AtlasSettings
) -> list[dict[int, np.ndarray]]:
    """For each page and each scale that one of its sheets comes in, the page so many times as large."""
    made: list[dict[int, np.ndarray]] = [{} for _page in pages]
    for scale in sorted({v.scale for f in frames for v in f.sheet.source.variants}):
        for frame in frames:
            has = any(v.scale == scale for v in frame.sheet.source.variants)
            large = stock.variant(frame.sheet, scale) if has else None
            if large is None:
                continue
            page = made[frame.page].get(scale)
            if page is None:
                page = made[frame.page][scale] = pages[frame.page].repeat(scale, axis=0).repeat(scale, axis=1)
            _lay(page, frame, large, scale, gutter_of(frame.sheet, settings))
    return made


def _lay(page: np.ndarray, frame: Frame, rgba: np.ndarray, scale: int, gutter: int) -> None:
    """Put the same part of another picture of a frame's sheet where the frame lies, with its gutter."""
    x, y = frame.cell.rect[0] + frame.offset[0], frame.cell.rect[1] + frame.offset[1]
    _x, _y, w, h = frame.rect
    part = rgba[y * scale : (y + h) * scale, x * scale : (x + w) * scale]
    block = with_gutter(part, gutter * scale)
    top, left = (frame.rect[1] - gutter) * scale, (frame.rect[0] - gutter) * scale
    page[top : top + block.shape[0], left : left + block.shape[1]] = block


def _pack_group(
    sheets: list[Sheet],
    stock: Stock,
    settings: AtlasSettings,
    kind: Kind,
    pages: list[np.ndarray],
    placed: dict[str, Frame],
) -> None:
    parts: list[np.ndarray] = []
    gutters: list[int] = []
    index_of: dict[bytes, int] = {}
    wanted: list[tuple[Sheet, Cell, int, tuple[int, int]]] = []
    for sheet in sheets:
        rgba = stock.pixels(sheet)
        for cell in sheet.cells:
            pixels, offset = trimmed(rgba, cell, settings.trim)
            apart = cell.id if sheet.source.normal or sheet.source.variants else ""
            gutter = gutter_of(sheet, settings)
            key = hashlib.sha256(repr((pixels.shape, apart, gutter)).encode() + pixels.tobytes()).digest()
            if key not in index_of:
                index_of[key] = len(parts)
                parts.append(pixels)
                gutters.append(gutter)
            wanted.append((sheet, cell, index_of[key], offset))
    if not parts:
        return
    sizes = [(p.shape[1] + 2 * g, p.shape[0] + 2 * g) for p, g in zip(parts, gutters, strict=True)]
    where: dict[int, tuple[int, int, int]] = {}
    power = settings.power_of_two or any(s.tune.pad == "power" for s in sheets)
    limit = min(settings.limit, kind.limit or settings.limit)
    limit = 1 << (limit.bit_length() - 1) if power else limit
    _check_fit(wanted, sizes, limit, settings)
    four = kind.codec not in ("none", "indexed") or any(s.tune.pad == "four" for s in sheets)
    for page in pack(sizes, limit, power):
        size = (page.width, page.height)
        wide, high = (side + -side % 4 if four else side for side in size)
        picture = np.zeros((high, wide, 4), np.uint8)
        for i, (x, y) in page.places.items():
            g = gutters[i]
            block = with_gutter(parts[i], g)
            picture[y : y + block.shape[0], x : x + block.shape[1]] = block
            where[i] = (len(pages), x + g, y + g)
        pages.append(picture)
    for sheet, cell, part, offset in wanted:
        number, x, y = where[part]
        h, w = parts[part].shape[:2]
        placed[cell.id] = Frame(sheet, cell, number, (x, y, w, h), offset)


def _check_fit(
    wanted: list[tuple[Sheet, Cell, int, tuple[int, int]]],
    sizes: list[tuple[int, int]],
    limit: int,
    settings: AtlasSettings,
) -> None:
    """Raises EditError for a cell that no page can hold, by the names of its sheet and itself."""
    for sheet, cell, part, _offset in wanted:
        w, h = sizes[part]
        if max(w, h) > limit:
            own = sheet.tune.limit and sheet.tune.limit <= settings.limit
            raise EditError(
                f"{sheet.name}: {cell.name} needs {w} x {h} px with its gutter, and pages are {limit} px.",
                f"Raise {sheet.name}'s page limit in Tune."
                if own
                else "Ship larger pages, or cut it smaller.",
            )


def _whole(
    sheet: Sheet, stock: Stock, number: int, pages: list[np.ndarray], placed: dict[str, Frame]
) -> None:
    """A page that is the sheet itself."""
    rgba = stock.pixels(sheet)
    pages.append(padded(rgba, padded_size(sheet)))
    for cell in sheet.cells:
        placed[cell.id] = Frame(sheet, cell, number, cell.rect, (0, 0))


def kind_of(sheet: Sheet) -> Kind:
    tune = sheet.tune
    alone = sheet.id if tune.wrap == "repeat" else ""
    limit = 0 if alone else tune.limit
    return Kind(
        tune.group, tune.filter, tune.mipmaps, tune.wrap, tune.alpha, tune.codec, limit, alone, tune.transfer
    )


def gutter_of(sheet: Sheet, settings: AtlasSettings) -> int:
    return max(settings.gutter, sheet.tune.gutter) if sheet.tune.wrap == "clamp" else 0


def trimmed(rgba: np.ndarray, cell: Cell, trim: bool = True) -> tuple[np.ndarray, tuple[int, int]]:
    """A cell's pixels without its clear border, and how far in they start; an empty cell keeps one px."""
    x, y, w, h = cell.rect
    pixels = rgba[y : y + h, x : x + w]
    if not trim:
        return pixels, (0, 0)
    alpha = pixels[..., 3] > 0
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return pixels[:1, :1], (0, 0)
    top, left = int(rows[0]), int(columns[0])
    return pixels[top : rows[-1] + 1, left : columns[-1] + 1], (left, top)
