"""Where the pointer is on the Desk."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from rushweed.ui.desk.view import View


class DeskEvent(NamedTuple):
    """A press, move or release: place in content px and on screen, and the keys held."""

    x: float
    y: float
    screen: QPointF
    shift: bool
    ctrl: bool
    alt: bool
    right: bool


def event_at(view: View, event: QMouseEvent) -> DeskEvent:
    """What Qt tells of the pointer, as the stages are told."""
    at = view.to_content(event.position())
    keys = event.modifiers()
    return DeskEvent(
        at.x(), at.y(), event.position(),
        bool(keys & Qt.KeyboardModifier.ShiftModifier), bool(keys & Qt.KeyboardModifier.ControlModifier),
        bool(keys & Qt.KeyboardModifier.AltModifier), event.button() == Qt.MouseButton.RightButton,
    )  # fmt: skip
