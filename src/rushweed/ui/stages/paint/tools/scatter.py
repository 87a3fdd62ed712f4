"""Scattering things by chance under a round brush."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.level.many_things import Chance, scatter_things, scattered_spots
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.session.gesture import Gesture
from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.tools.tool import PaintTool


class ScatterThings(PaintTool):
    id, words, icon, key, group = "scatter", "Scatter things", "dots-nine", "W", 2
    help = "Drag to strew the stamp's tiles about; how many and how wide is on the card"
    marks_cell, scatters = False, True

    def __init__(self, state: PaintState) -> None:
        super().__init__(state)
        self.density, self.radius, self.mirror_percent = 0.2, 2.0, 50.0  # things a cell, cells, per cent
        self._gesture: Gesture | None = None
        self._last = QPointF()
        self._at: QPointF | None = None

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        if self.ready_stamp() is not None:
            self._gesture = self.session.document.gesture("Scatter things")
            self._strew(at)

    def drag(self, at: DeskEvent) -> None:
        """Again where half of the brush has left what it covered."""
        level = self.session.selection.level
        if self._gesture is not None and level is not None:
            away = QPointF(at.x, at.y) - self._last
            if (away.x() ** 2 + away.y() ** 2) ** 0.5 >= self.radius * level.cell[0]:
                self._strew(at)

    def _strew(self, at: DeskEvent) -> None:
        level, stamp, ids = self.session.selection.level, self.session.selection.stamp, self.ids
        if level is None or stamp is None or self._gesture is None:
            return
        self._last = QPointF(at.x, at.y)
        seed = time.monotonic_ns() & 0x7FFFFFFF
        places = scattered_spots(at.x, at.y, self.radius * level.cell[0], self.density, level.cell, seed)
        slots = stamp.slots[stamp.slots > 0]
        weights = tuple(float(n) for n in np.bincount(slots, minlength=len(stamp.cells) + 1)[1:])
        chance = Chance(seed, self.mirror_percent, weights)
        if places:
            self._gesture.update(lambda p: scatter_things(p, *ids, stamp.cells, places, chance))

    def release(self, at: DeskEvent) -> None:
        super().release(at)
        gesture, self._gesture = self._gesture, None
        if gesture is not None:
            gesture.commit("Scatter things")

    def cancel(self) -> None:
        super().cancel()
        self._gesture = None

    def hovered(self, at: DeskEvent) -> None:
        self._at = QPointF(at.x, at.y)

    def paint(self, painter: QPainter, room: QRectF) -> None:
        """How far the brush reaches."""
        level, view = self.session.selection.level, self.state.desk.view
        if level is None or self._at is None:
            return
        middle = view.to_screen(self._at.x(), self._at.y())
        reach = self.radius * level.cell[0] * view.zoom
        for colour, wide in (("art_casing", 3.0), ("art_rust", 1.5)):
            painter.setPen(QPen(self.state.look.colour(colour), wide))
            painter.drawEllipse(middle, reach, reach)
