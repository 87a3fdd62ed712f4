"""The px of planned pages: art laid where it goes, with its edge repeated around it."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.shipping import Way
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import Frame, Kind, Page, Plan, parts_of, plan
from rushweed.core.ship.ways import DESKTOP
from rushweed.core.tune.texture import padded

FLAT = (128, 128, 255)  # the normal that looks straight at the viewer
TOGETHER = 8  # sheets read by a thread at a time


class Atlas(NamedTuple):
    """`pages` are uint8 RGBA, `kinds` what each is for; a page never mixes them. `normals` are normal
    maps with the same places, where a sheet of the page has one; `larger` maps 2 or 3 to the same page so
    many times as large."""

    plan: Plan
    pages: list[np.ndarray]
    normals: list[np.ndarray | None]
    larger: list[dict[int, np.ndarray]]

    @property
    def frames(self) -> list[Frame]:
        """Where every cell lies."""
        return self.plan.frames

    @property
    def kinds(self) -> list[Kind]:
        """What each page is like."""
        return [page.kind for page in self.plan.pages]


def build(project: Project, stock: PixelCache, way: Way = DESKTOP) -> Atlas:
    """Make the atlas of every cell. Raises EditError if a cell does not fit a page, PictureError if a
    picture is missing."""
    planned = plan(project, way, lambda sheet: parts_of(sheet, stock.pixels(sheet), way))
    return Atlas(
        planned,
        [page_pixels(page, stock) for page in planned.pages],
        [normal_pixels(page, stock) for page in planned.pages],
        [{s: larger_pixels(page, stock, s) for s in scales_of(page)} for page in planned.pages],
    )


def page_pixels(page: Page, stock: PixelCache) -> np.ndarray:
    """uint8 (height, width, 4). Raises PictureError if a picture is missing."""
    if page.whole is not None:
        return padded(stock.pixels(page.whole), page.size)
    out = np.zeros((page.size[1], page.size[0], 4), np.uint8)
    _lay(out, page, stock.pixels, 1)
    return out


def normal_pixels(page: Page, stock: PixelCache) -> np.ndarray | None:
    """The page's normal maps, where one of its frames has one; the rest of it is flat."""
    if page.whole is not None:
        normals = stock.normals(page.whole)
        return padded(normals, page.size) if normals is not None else None
    if all(stock.normals(sheet) is None for sheet in page.sheets):
        return None
    out = np.empty((page.size[1], page.size[0], 4), np.uint8)
    out[..., :3], out[..., 3] = FLAT, 255
    _lay(out, page, stock.normals, 1)
    return out


def scales_of(page: Page) -> list[int]:
    """How many times as large its sheets come too, that can be read."""
    return sorted({v.scale for sheet in page.sheets for v in sheet.source.variants})


def larger_pixels(page: Page, stock: PixelCache, scale: int) -> np.ndarray:
    """The page so many times as large, of the larger pictures where its sheets have them."""

    def larger(sheet: Sheet) -> np.ndarray | None:
        there = any(v.scale == scale for v in sheet.source.variants)
        return stock.variant(sheet, scale) if there else None

    out = page_pixels(page, stock).repeat(scale, axis=0).repeat(scale, axis=1)
    if page.whole is not None:
        large = larger(page.whole)
        if large is not None:
            out[: large.shape[0], : large.shape[1]] = large
        return out
    _lay(out, page, larger, scale)
    return out


def _lay(out: np.ndarray, page: Page, read: Callable[[Sheet], np.ndarray | None], scale: int) -> None:
    """Put px of the sheets that can be read where the spots of a page are, and their edges around them, all
    `scale` times as large. Sheets are read several at a time."""
    from rushweed.core.ship.kernels import lay  # late: it is compiled

    def laid(numbers: list[int]) -> None:
        for number in numbers:
            rgba = read(page.among[number])
            if rgba is not None:
                lay(out, rgba, rows[spots["sheet"] == number])

    spots = page.spots
    cells = zip(spots["sheet"].tolist(), spots["cell"].tolist(), strict=True)
    corners = np.array([page.among[n].cells[k].rect[:2] for n, k in cells], np.int64).reshape(-1, 2)
    starts = corners + spots["part"]["box"][:, :2]
    rows = np.concatenate((starts, spots["rect"], spots["slot"]), axis=1, dtype=np.int64) * scale
    numbers = np.unique(spots["sheet"]).tolist()
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        list(pool.map(laid, [numbers[n : n + TOGETHER] for n in range(0, len(numbers), TOGETHER)]))
