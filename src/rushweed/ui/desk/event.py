"""Where the pointer is on the Desk."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QPointF


class DeskEvent(NamedTuple):
    """A press, move or release: place in content px and on screen, and the keys held."""

    x: float
    y: float
    screen: QPointF
    shift: bool
    ctrl: bool
    alt: bool
    right: bool
