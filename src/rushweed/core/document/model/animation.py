"""Animations, and what the game calls them."""

from __future__ import annotations

from typing import Literal

from rushweed.core.document.model.base import Frozen


class Frame(Frozen, frozen=True):
    """A cell for so many ms."""

    cell: str
    ms: int = 100


Play = Literal["loop", "once", "there-and-back"]
Easing = Literal["linear", "in", "out", "both"]


class Path(Frozen, frozen=True):
    """The way something moves: `offset` px from where it stands, in `ms`, faster or slower at its ends."""

    offset: tuple[float, float]
    ms: int = 1000
    easing: Easing = "linear"
    play: Play = "there-and-back"


class State(Frozen, frozen=True):
    """A word of the game, such as idle or moving, and the id of the animation shown for it, if any."""

    name: str
    animation: str = ""


class Animation(Frozen, frozen=True):
    """Named frames. `body` is x, y, w, h in whole px from the pivot, one for all frames. A `tile` animation
    plays wherever its first frame stands in a level."""

    id: str
    name: str
    frames: tuple[Frame, ...] = ()
    play: Play = "loop"
    path: Path | None = None
    body: tuple[int, int, int, int] | None = None
    tile: bool = False
