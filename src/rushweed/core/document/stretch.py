"""What every stage does to nine-slice margins."""

from __future__ import annotations

from msgspec.structs import replace

from rushweed.core.document.model.sheet import NineSlice

Rect = tuple[int, int, int, int]


def kept_on_art(stretch: NineSlice | None, old: Rect, new: Rect) -> NineSlice | None:
    """The margins of a cell whose rectangle in the sheet has changed, so that its guides stay on the art as
    far as the new one reaches."""
    if stretch is None or old == new:
        return stretch
    left, top = old[0] + stretch.left - new[0], old[1] + stretch.top - new[1]
    right = new[0] + new[2] - (old[0] + old[2] - stretch.right)
    bottom = new[1] + new[3] - (old[1] + old[3] - stretch.bottom)
    return held(replace(stretch, left=left, top=top, right=right, bottom=bottom), new[2], new[3])


def held(stretch: NineSlice, width: int, height: int) -> NineSlice:
    """The margins brought within a cell of that size, px."""
    left, top = min(max(stretch.left, 0), width), min(max(stretch.top, 0), height)
    right = min(max(stretch.right, 0), width - left)
    bottom = min(max(stretch.bottom, 0), height - top)
    return replace(stretch, left=left, top=top, right=right, bottom=bottom)
