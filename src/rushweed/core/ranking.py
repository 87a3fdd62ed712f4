"""Small linear models: weights in a text file, applied with NumPy alone.

A conditional logit ranks alternatives: the chance of each is the exponential of its weighted features over
the sum of all. Source: D. McFadden, "Conditional logit analysis of qualitative choice behavior", 1974.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from importlib.resources import files

import msgspec
import numpy as np


class Model(msgspec.Struct, frozen=True):
    """Weights by feature, for features less their `mean` over their `spread`, and what is added to all."""

    features: tuple[str, ...]
    mean: tuple[float, ...]
    spread: tuple[float, ...]
    weights: tuple[float, ...]
    bias: float = 0.0

    def scores(self, values: np.ndarray) -> np.ndarray:
        """The weighted sum for each row of float (n, features)."""
        scaled = (values - np.array(self.mean)) / np.array(self.spread)
        return np.asarray(scaled @ np.array(self.weights) + self.bias)

    def parts(self, values: np.ndarray) -> np.ndarray:
        """What each feature adds to the score, like `values`."""
        return np.asarray((values - np.array(self.mean)) / np.array(self.spread) * np.array(self.weights))


class Weights(msgspec.Struct, frozen=True):
    """What a training wrote: when, from what, how well it does on games left out, and the models by name."""

    made: str
    sets: dict[str, int]
    scores: dict[str, float]
    models: dict[str, Model]


@cache
def weights() -> Weights:
    """The models that come with the program."""
    text = (files("rushweed.core") / "weights.json").read_bytes()
    return msgspec.json.decode(text, type=Weights)


@cache
def model(name: str, features: tuple[str, ...]) -> Model:
    """The model of a name. Raises ValueError if it was trained for other features."""
    found = weights().models[name]
    if found.features != features:
        raise ValueError(f"The weights of {name} are for other features; train them again.")
    return found


def chances(scores: np.ndarray) -> np.ndarray:
    """The chance of each alternative, from their scores."""
    power = np.exp(scores - scores.max()) if len(scores) else scores
    return np.asarray(power / power.sum()) if len(scores) else scores


def chance(score: float) -> float:
    """The chance that something is so, from the score of a yes-or-no model."""
    return float(1 / (1 + np.exp(-np.clip(score, -60, 60))))


def row(named: dict[str, float], features: Sequence[str]) -> np.ndarray:
    """Named values in the order of the features; what is not named is 0."""
    return np.array([[named.get(name, 0.0) for name in features]], float)
