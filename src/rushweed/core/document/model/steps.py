"""How a picture is prepared: steps that are kept beside it, never burned in."""

from __future__ import annotations

from typing import Literal

from rushweed.core.document.model.base import Colour, Frozen


class KeyColour(Frozen, frozen=True, tag_field="step", tag="key"):
    """One colour becomes clear, and those at most `tolerance` (of 255, the largest channel) from it. With
    `fringe` the key's tint is taken out of soft edges; None does so unless the key is black or white."""

    colour: Colour
    tolerance: int = 0
    fringe: bool | None = None
    on: bool = True


class Reduce(Frozen, frozen=True, tag_field="step", tag="reduce"):
    """Art that was enlarged goes back to its true px: blocks of `factor` px a side become one, by their
    commonest colour. `start` is where the first whole block begins."""

    factor: int
    start: tuple[int, int] = (0, 0)
    on: bool = True


class Enlarge(Frozen, frozen=True, tag_field="step", tag="enlarge"):
    """Every px becomes a block of `factor` px a side."""

    factor: int
    on: bool = True


class Fit(Frozen, frozen=True, tag_field="step", tag="fit"):
    """Another size in px, each px from the nearest one of the picture."""

    size: tuple[int, int]
    on: bool = True


class Turn(Frozen, frozen=True, tag_field="step", tag="turn"):
    """Quarter turns clockwise, 1 to 3."""

    quarters: int = 1
    on: bool = True


class Mirror(Frozen, frozen=True, tag_field="step", tag="mirror"):
    """Left and right exchanged, or upper and lower."""

    way: Literal["across", "down"] = "across"
    on: bool = True


class Recolour(Frozen, frozen=True, tag_field="step", tag="recolour"):
    """Hue turned by degrees, saturation and lightness changed by per cent, -100 to 100."""

    hue: float = 0
    saturation: float = 0
    lightness: float = 0
    on: bool = True


class ReplaceColour(Frozen, frozen=True, tag_field="step", tag="exchange"):
    """Colour for colour; alpha stays."""

    pairs: tuple[tuple[Colour, Colour], ...] = ()
    on: bool = True


Step = KeyColour | Reduce | Enlarge | Fit | Turn | Mirror | Recolour | ReplaceColour
