"""Pixels and units side by side, and what the numbers of Tune may be."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

from rushweed.core.document.errors import EditError

MOST_PPU = 4096
MOST_GUTTER = 32


def size_units(size_px: tuple[float, float], ppu: float) -> tuple[float, float]:
    """Width and height in the game's units."""
    return size_px[0] / ppu, size_px[1] / ppu


def snap_step(ppu: float) -> float:
    """The distance in units that moves art by exactly one pixel: 1 / PPU."""
    return 1 / ppu


def plain(value: float, places: int = 2) -> str:
    """A number as a person writes it: at most `places` decimals, none that say nothing."""
    text = f"{value:.{places}f}".rstrip("0").rstrip(".") if places else f"{value:.0f}"
    return "0" if text in ("-0", "") else text


def fraction_text(value: float) -> str:
    """1/16 for 0.0625; decimals where no small fraction fits."""
    fraction = Fraction(value).limit_denominator(4096)
    if abs(float(fraction) - value) < 1e-9 and fraction.denominator > 1:
        return f"{fraction.numerator}/{fraction.denominator}"
    return plain(value, 5)


def check_ppu(ppu: float) -> float:
    """Pixels per unit as they are. Raises EditError outside what is possible."""
    if not math.isfinite(ppu) or not 0 < ppu <= MOST_PPU:
        raise EditError(
            f"{ppu:g} pixels per unit is not possible.", f"Use more than 0 and at most {MOST_PPU}."
        )
    return ppu


def check_tune(fields: dict[str, Any]) -> None:
    """Raises EditError if a number of these fields of Tune is not possible."""
    if "ppu" in fields:
        check_ppu(fields["ppu"])
    if not 0 <= fields.get("gutter", 0) <= MOST_GUTTER:
        raise EditError(f"A gutter of {fields['gutter']} px is not possible.", f"Use 0 to {MOST_GUTTER} px.")
    if fields.get("limit", 0) != 0 and not 16 <= fields["limit"] <= 16_384:
        raise EditError(
            f"Pages of {fields['limit']} px are not possible.", "Use 16 to 16384 px, or 0 for any."
        )
