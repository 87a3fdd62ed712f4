"""The px of planned pages: art laid where it goes, with its edge repeated around it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.shipping import Way
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.atlas import Frame, Kind, Page, Plan, Spot, parts_of, plan
from rushweed.core.ship.ways import DESKTOP
from rushweed.core.tune.texture import padded

FLAT = (128, 128, 255)  # the normal that looks straight at the viewer


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
    for spot in page.spots:
        _lay(out, spot, stock.pixels(spot.sheet), 1)
    return out


def normal_pixels(page: Page, stock: PixelCache) -> np.ndarray | None:
    """The page's normal maps, where one of its frames has one; the rest of it is flat."""
    out = None
    for spot in page.spots:
        normals = stock.normals(spot.sheet)
        if normals is None:
            continue
        if out is None:
            out = np.empty((page.size[1], page.size[0], 4), np.uint8)
            out[..., :3], out[..., 3] = FLAT, 255
        _lay(out, spot, normals, 1)
    if page.whole is not None:
        normals = stock.normals(page.whole)
        return padded(normals, page.size) if normals is not None else None
    return out


def scales_of(page: Page) -> list[int]:
    """How many times as large its sheets come too, that can be read."""
    return sorted({v.scale for sheet in sheets_of(page) for v in sheet.source.variants})


def larger_pixels(page: Page, stock: PixelCache, scale: int) -> np.ndarray:
    """The page so many times as large, of the larger pictures where its sheets have them."""
    out = page_pixels(page, stock).repeat(scale, axis=0).repeat(scale, axis=1)
    for sheet in sheets_of(page):
        large = stock.variant(sheet, scale) if any(v.scale == scale for v in sheet.source.variants) else None
        if large is None:
            continue
        if page.whole is not None:
            out[: large.shape[0], : large.shape[1]] = large
        for spot in page.spots:
            if spot.sheet.id == sheet.id:
                _lay(out, spot, large, scale)
    return out


def sheets_of(page: Page) -> list[Sheet]:
    """The sheets of which it shows something."""
    if page.whole is not None:
        return [page.whole]
    return list({spot.sheet.id: spot.sheet for spot in page.spots}.values())


def _lay(out: np.ndarray, spot: Spot, rgba: np.ndarray, scale: int) -> None:
    """Put a picture's px where its spot is, and its edge around it, all `scale` times as large."""
    cx, cy = spot.cell.rect[:2]
    bx, by, w, h = (v * scale for v in spot.part.box)
    x, y = cx * scale + bx, cy * scale + by
    part = rgba[y : y + h, x : x + w]
    left, top, wide, high = (v * scale for v in spot.slot)
    x, y = spot.rect[0] * scale, spot.rect[1] * scale
    out[y : y + h, x : x + w] = part
    out[y : y + h, left:x] = part[:, :1]
    out[y : y + h, x + w : left + wide] = part[:, -1:]
    out[top:y, left : left + wide] = out[y, left : left + wide]
    out[y + h : top + high, left : left + wide] = out[y + h - 1, left : left + wide]
