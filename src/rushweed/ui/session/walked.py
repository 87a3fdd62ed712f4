"""What was walked last, to be shown over the level while it is painted."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np


class LogRow(NamedTuple):
    """A line of the log: how many seconds ago, where (units), what happened, and more of it."""

    seconds: float
    at: tuple[float, float]
    kind: str
    more: str


class Jump(NamedTuple):
    """A jump of a path: from its first to its last step, and what it says of itself."""

    first: int
    last: int
    text: str


class Walked(NamedTuple):
    """Where the feet were after each step, float (n, 2), level px; `dots` lie a quarter of a second apart."""

    level: str
    path: np.ndarray
    jumps: tuple[Jump, ...] = ()
