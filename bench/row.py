"""One measured row, and how time is taken."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import NamedTuple

import numpy as np


class Row(NamedTuple):
    work: str
    ours: str
    reference: str
    ratio: float
    at_most: float
    note: str = ""


def timed(work: Callable[[], object], times: int = 5) -> float:
    """The median of several runs, in seconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return float(np.median(taken))


def ms(seconds: float) -> str:
    return f"{seconds * 1000:.1f} ms"


def by_time(work: str, ours: float, reference: float, at_most: float, note: str = "") -> Row:
    return Row(work, ms(ours), ms(reference), ours / reference, at_most, note)
