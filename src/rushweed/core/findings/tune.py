"""Findings about textures: filters, gutters, compression and sizes that do not go together."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

from rushweed.core.document.model import Project, Sheet
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.stock import Stock
from rushweed.core.tune.art import art_of
from rushweed.core.tune.codec.compress import WORDS, pad_needed, size_rules
from rushweed.core.tune.edit import tune_sheets
from rushweed.core.tune.texture import bleeds, gutter_needed, texture_size

MOST_PAGE = 2048  # px a side, where a sheet has no limit of its own


def _fix(label: str, sheet: Sheet, **fields: Any) -> Fix:
    return Fix(label, partial(tune_sheets, sheet_ids=[sheet.id], **fields))


def _is_pixel_art(sheet: Sheet, stock: Stock) -> bool:
    return stock.fact("art", sheet, art_of).pixel


def no_gutter(project: Project, stock: Stock) -> Iterator[Finding]:
    """Sheets whose filter or mipmaps read beyond a cell, with nothing between the cells."""
    for sheet in project.sheets:
        if bleeds(sheet):
            px, why = gutter_needed(sheet), "mipmaps" if sheet.tune.mipmaps else "linear filter"
            yield Finding(
                "no-gutter",
                "hint",
                f"{sheet.name}: with {why} neighbouring cells bleed into each other.",
                Place("tune", sheet=sheet.id),
                _fix(f"Gutter of {px} px", sheet, gutter=px),
            )


def linear_pixel_art(project: Project, stock: Stock) -> Iterator[Finding]:
    """Pixel art that is blurred by its filter."""
    for sheet in project.sheets:
        if sheet.tune.filter == "linear" and sheet.cells and _is_pixel_art(sheet, stock):
            yield Finding(
                "linear-pixel-art",
                "hint",
                f"{sheet.name} is pixel art, and the linear filter blurs it.",
                Place("tune", sheet=sheet.id),
                _fix("Use nearest", sheet, filter="nearest"),
            )


def blocks_spoil(project: Project, stock: Stock) -> Iterator[Finding]:
    """Block compression on pixel art."""
    for sheet in project.sheets:
        if sheet.tune.codec not in ("none", "indexed") and _is_pixel_art(sheet, stock):
            yield Finding(
                "blocks-spoil",
                "hint",
                f"{sheet.name} is pixel art, and {WORDS[sheet.tune.codec]} may change its colours.",
                Place("tune", sheet=sheet.id),
                _fix("Do without", sheet, codec="none"),
            )


def wrong_size(project: Project, stock: Stock) -> Iterator[Finding]:
    """Sizes that a codec or mipmaps do not allow."""
    for sheet in project.sheets:
        tune, size = sheet.tune, texture_size(sheet)
        broken = size_rules(size, tune.codec, tune.mipmaps)
        if broken and sheet.cells:
            pad = pad_needed(size, tune.codec, tune.mipmaps)
            yield Finding(
                "texture-size",
                "hint",
                f"{sheet.name}: {broken[0]}",
                Place("tune", sheet=sheet.id),
                _fix("Pad to a multiple of 4" if pad == "four" else "Pad to a power of two", sheet, pad=pad),
            )


def over_limit(project: Project, stock: Stock) -> Iterator[Finding]:
    """Cells that do not fit on a page."""
    for sheet in project.sheets:
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
