"""Timers that wait for quiet."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer


def later(parent: QObject, ms: int, call: Callable[[], None]) -> QTimer:
    """A timer that calls once, `ms` after it was last started."""
    timer = QTimer(parent)
    timer.setSingleShot(True)
    timer.setInterval(ms)
    timer.timeout.connect(call)
    return timer
