"""Collects garbage on the window's thread only.

What Qt owns may only be destroyed on the thread it was made on. Python collects cycles on whichever thread
happens to allocate, so a job could destroy a widget, or another job that is just being told of its end.
"""

from __future__ import annotations

import gc

from PyQt6.QtCore import QObject, QTimer

EVERY_MS = 500


class GarbageTimer(QObject):
    """While it lives, garbage is collected by its timer and by nothing else."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        gc.freeze()  # the program itself stays for good: looking through it again holds the window up
        self.destroyed.connect(gc.enable)
        self.destroyed.connect(gc.unfreeze)
        timer = QTimer(self)
        timer.timeout.connect(collect_due)
        timer.start(EVERY_MS)


def collect_due() -> None:
    """Collect the oldest generation that is due, as Python would have done by itself."""
    counts, limits = gc.get_count(), gc.get_threshold()
    due = [generation for generation in (2, 1, 0) if counts[generation] > limits[generation]]
    if due:
        gc.collect(due[0])
