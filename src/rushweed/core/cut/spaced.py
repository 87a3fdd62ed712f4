"""Evenly spaced places of many steps at once, such as where the lines of each of many grids fall."""

from __future__ import annotations

import numpy as np


class Spaced:
    """`count` places for each step, from `first` on, `stride` apart (each (steps,), `count` whole numbers),
    one step after the other in `places`; `of` says whose step a place is, `turn` its number there."""

    def __init__(self, first: np.ndarray, stride: np.ndarray, count: np.ndarray) -> None:
        self.count = count
        self.of = np.repeat(np.arange(len(count)), count)
        self.turn = np.arange(len(self.of)) - np.repeat(np.cumsum(count) - count, count)
        self.places = first[self.of] + self.turn * stride[self.of]

    def mean(self, values: np.ndarray, keep: np.ndarray | None = None) -> np.ndarray:
        """The mean of `values` (as long as `places`) for each step, or of those to keep; 0 of none."""
        count = self.count
        if keep is not None:
            values = values * keep
            count = np.bincount(self.of, keep, len(count))
        return np.asarray(np.bincount(self.of, values, len(count)) / np.maximum(count, 1))
