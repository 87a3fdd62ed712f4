"""Pixels and units side by side."""

from __future__ import annotations

from fractions import Fraction


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
