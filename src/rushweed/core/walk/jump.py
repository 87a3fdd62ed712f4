"""Whether somebody can jump from one place to another, told at once; reach.py finds out by walking."""

from __future__ import annotations

import math
from typing import NamedTuple

from rushweed.core.document.model.level import Walker
from rushweed.core.walk.walkers import gravity_of


class Leap(NamedTuple):
    """Whether it can be done, and by how many units there is room, or is too little, and which way."""

    can: bool
    spare: float
    way: str  # high or wide

    @property
    def text(self) -> str:
        """In words."""
        if self.can:
            return f"he jumps it, {self.spare:.2g} u to spare"
        return f"too {self.way} to jump by {-self.spare:.2g} u"


def leap(walker: Walker, wide: float, across: float, up: float) -> Leap:
    """A running jump from edge to edge, `across` and `up` in units (negative: down), by a body so wide.

    Up to the top at constant gravity, down again to where he lands, no faster than he falls; his body may
    stand out over both edges.
    """
    above = walker.jump - up
    if above < 0:
        return Leap(False, above, "high")
    gravity = gravity_of(walker)
    down = math.sqrt(2 * above / gravity)
    if gravity * down > walker.fall:
        down = walker.fall / gravity + (above - walker.fall**2 / (2 * gravity)) / walker.fall
    spare = walker.run * (walker.jump_s + down) + wide - across
    return Leap(spare >= 0, spare, "wide")
