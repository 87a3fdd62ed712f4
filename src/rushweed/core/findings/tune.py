"""Findings about textures: filters, gutters, compression and sizes that do not go together."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.steps import Fit
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.pixels.prepare import size_after
from rushweed.core.tune.art import art_of
from rushweed.core.tune.codec.compress import WORDS, size_rules
from rushweed.core.tune.edit import tune_sheets
from rushweed.core.tune.texture import bleeds, gutter_needed, padded_size

MOST_PAGE = 2048  # px a side, where a sheet has no limit of its own


def _fix(label: str, sheet: Sheet, **fields: Any) -> Fix:
    return Fix(label, partial(tune_sheets, sheet_ids=[sheet.id], **fields))


def is_pixel_art(sheet: Sheet, stock: PixelCache) -> bool:
    """Whether the art of a sheet is pixel art; looked at once."""
    return stock.fact("art", sheet, art_of).pixel


def no_gutter(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Sheets whose filter or mipmaps read beyond a cell, with nothing between the cells."""
    if bleeds(sheet):
        px, why = gutter_needed(sheet), "mipmaps" if sheet.tune.mipmaps else "linear filter"
        yield Finding(
            "no-gutter",
            "hint",
            f"{sheet.name}: with {why} neighbouring cells bleed into each other.",
            Place("tune", sheet=sheet.id),
            _fix(f"Gutter of {px} px", sheet, gutter=px),
        )


def linear_pixel_art(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Pixel art that is blurred by its filter."""
    if sheet.tune.filter == "linear" and sheet.cells and is_pixel_art(sheet, stock):
        yield Finding(
            "linear-pixel-art",
            "hint",
            f"{sheet.name} is pixel art, and the linear filter blurs it.",
            Place("tune", sheet=sheet.id),
            _fix("Use nearest", sheet, filter="nearest"),
        )


def blocks_spoil(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Block compression on pixel art."""
    if sheet.tune.codec not in ("none", "indexed") and is_pixel_art(sheet, stock):
        yield Finding(
            "blocks-spoil",
            "hint",
            f"{sheet.name} is pixel art, and {WORDS[sheet.tune.codec]} may change its colours.",
            Place("tune", sheet=sheet.id),
            _fix("Do without", sheet, codec="none"),
        )


def wrong_size(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Sizes that a codec or mipmaps do not allow, of art that repeats: all other art goes onto pages, which
    have the size that they need."""
    if sheet.tune.wrap != "repeat" or not sheet.cells:
        return
    for broken in size_rules(padded_size(sheet), sheet.tune.codec, sheet.tune.mipmaps)[:1]:
        text = f"{sheet.name} repeats, so it ships as it is: {broken}"
        yield Finding("texture-size", "hint", text, Place("tune", sheet=sheet.id))


def over_limit(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Cells that do not fit on a page."""
    limit = sheet.tune.limit or MOST_PAGE
    large = [c for c in sheet.cells if max(c.rect[2:]) + 2 * sheet.tune.gutter > limit]
    if large:
        side = max(max(c.rect[2:]) for c in large) + 2 * sheet.tune.gutter
        room = 1 << (side - 1).bit_length()
        own = f"its limit of {limit} px" if sheet.tune.limit else f"{limit} px"
        yield Finding(
            "over-limit",
            "fault" if sheet.tune.limit else "hint",
            f"{sheet.name}: {large[0].name} is {side} px with its gutter, more than {own}.",
            Place("tune", sheet=sheet.id, cells=(large[0].id,)),
            _fix(f"Allow {room} px", sheet, limit=room) if sheet.tune.limit and room <= 16_384 else None,
        )


def fractional_fit(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Pixel art that a preparation step brings to a size that is no whole number of times its own."""
    raw = sheet.source.raw or sheet.source.size
    for number, step in enumerate(sheet.source.steps):
        if not step.on or not isinstance(step, Fit):
            continue
        before = size_after(raw, sheet.source.steps[:number])
        across, down = (step.size[n] / before[n] for n in (0, 1))
        if all(v >= 1 and v.is_integer() for v in (across, down)) or not is_pixel_art(sheet, stock):
            continue
        ways = f"{across:.3g}" if across == down else f"{across:.3g} × {down:.3g}"
        text = f"{sheet.name} is pixel art fitted to {ways} times its size; its px get uneven."
        yield Finding("uneven-px", "hint", text, Place("gather", sheet=sheet.id))
