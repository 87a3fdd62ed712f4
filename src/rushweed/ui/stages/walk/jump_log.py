"""Jumps of a walk, from their first to their last step, and what happened on the way."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from rushweed.core.walk.terms import STEPS, SUB, X, Y
from rushweed.ui.session.walked import Jump, LogRow, Walked

if TYPE_CHECKING:
    from rushweed.core.walk.record import Event, Walk

LOG_ROWS = 200


def feet_at(walk: Walk, step: int) -> tuple[float, float]:
    """Where he stood after a step, level px."""
    state = walk.state_at(step)
    return float(state[X]) / SUB, float(state[Y]) / SUB


class JumpLog:
    """The jumps so far."""

    def __init__(self) -> None:
        self.jumps: list[Jump] = []
        self._from = 0

    def note(self, walk: Walk, happened: list[Event]) -> None:
        """Take up what happened."""
        for event in happened:
            if event.kind == "jumped":
                self._from = event.step - 1
            elif event.kind == "landed" and self._from:
                first = max(self._from, walk.kept_from())
                way = np.array([feet_at(walk, n) for n in range(first, event.step + 1)])
                high, far = (way[0, 1] - way[:, 1].min()) / walk.ppu, abs(way[-1, 0] - way[0, 0]) / walk.ppu
                text = f"{high:.2f} u high   {far:.2f} u far   {(event.step - first) / STEPS:.2f} s"
                self.jumps.append(Jump(first, event.step, text))
                self._from = 0

    def back_to(self, step: int) -> None:
        """Forget what comes after a step."""
        self.jumps = [j for j in self.jumps if j.last <= step]
        self._from = min(self._from, step)

    def rows(self, walk: Walk) -> list[LogRow]:
        """The log, newest first."""
        rows = []
        for event in reversed(walk.events[-LOG_ROWS:]):
            more = event.what
            if event.kind == "landed":
                more = f"{event.what or 'the ground'}, {event.speed:.1f} u/s down"
            at = (event.at[0] / walk.ppu, event.at[1] / walk.ppu)
            rows.append(LogRow((walk.step - event.step) / STEPS, at, event.kind, more))
        return rows

    def walked(self, walk: Walk) -> Walked:
        """The path so far, with its jumps counted from its first kept step."""
        first = walk.kept_from()
        jumps = tuple(Jump(j.first - first, j.last - first, j.text) for j in self.jumps if j.first >= first)
        return Walked(walk.world.level.id, walk.path(), jumps)
