"""Fits the small models of `rushweed.core.ranking`, and says how well they do on games left out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
from scipy.optimize import minimize

from rushweed.core.ranking import Model


class Group(NamedTuple):
    """Alternatives of which some are right: float (n, features), bool (n,); `game` it is from."""

    values: np.ndarray
    right: np.ndarray
    game: str
    weight: float = 1.0


def scaling(values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    return values.mean(axis=0), values.std(axis=0) + 1e-6


def bounds_of(names: Sequence[str], up: frozenset[str], down: frozenset[str]) -> list[tuple]:  # type: ignore[type-arg]
    """Evidence must not count against what it speaks for: that holds on other games too."""
    return [(0, None) if n in up else (None, 0) if n in down else (None, None) for n in names]


def fit_ranking(
    groups: Sequence[Group],
    penalty: float,
    bounds: list[tuple] | None = None,
    start: np.ndarray | None = None,  # type: ignore[type-arg]
) -> np.ndarray:
    """Weights of a conditional logit over groups whose values are scaled already."""
    groups = [g for g in groups if g.right.any()]
    values = np.concatenate([g.values for g in groups])
    right = np.concatenate([g.right for g in groups])
    sizes = np.array([len(g.right) for g in groups])
    weight = np.array([g.weight for g in groups])
    first = np.concatenate(([0], np.cumsum(sizes)[:-1]))
    owner = np.repeat(np.arange(len(sizes)), sizes)

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        score = values @ w
        power = np.exp(score - np.maximum.reduceat(score, first)[owner])
        total = np.add.reduceat(power, first)
        good = power * right
        of_right = np.add.reduceat(good, first) + 1e-12
        slope = values.T @ ((power / total[owner] - good / of_right[owner]) * weight[owner])
        value = float((weight * (np.log(total) - np.log(of_right))).sum())
        return value + penalty * float(w @ w), slope + 2 * penalty * w

    begin = np.zeros(values.shape[1]) if start is None else start
    return np.asarray(
        minimize(loss, begin, jac=True, method="L-BFGS-B", bounds=bounds, options={"maxiter": 300}).x
    )


def fit_yes_no(
    values: np.ndarray, yes: np.ndarray, weight: np.ndarray, penalty: float,
    bounds: list[tuple] | None = None,  # type: ignore[type-arg]
) -> tuple[np.ndarray, float]:  # fmt: skip
    """Weights and bias of a logistic regression; values are scaled already."""
    extended = np.column_stack((values, np.ones(len(values))))

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        score = extended @ w
        chance = 1 / (1 + np.exp(-score))
        value = float((weight * (np.logaddexp(0, score) - yes * score)).sum())
        slope = extended.T @ (weight * (chance - yes))
        slope[:-1] += 2 * penalty * w[:-1]
        return value + penalty * float(w[:-1] @ w[:-1]), slope

    limits = [*bounds, (None, None)] if bounds else None
    found = minimize(loss, np.zeros(extended.shape[1]), jac=True, method="L-BFGS-B", bounds=limits).x
    return np.asarray(found[:-1]), float(found[-1])


def evenly(games: Sequence[str], share: float = 1.0) -> np.ndarray:
    """Weights by which a game with many sheets does not drown the others."""
    counts = Counter(games)
    return np.array([share / np.sqrt(counts[g]) for g in games])


def left_out(
    games: Sequence[str], fit: Callable[[set[str]], object], use: Callable[[object, str], None]
) -> None:
    """Fit on all games but one and use that on the one, for each in turn."""
    for game in sorted(set(games)):
        use(fit(set(games) - {game}), game)


def model_of(
    names: tuple[str, ...], mean: np.ndarray, spread: np.ndarray, weights: np.ndarray, bias: float = 0.0
) -> Model:
    def short(values: np.ndarray) -> tuple[float, ...]:
        return tuple(float(f"{v:.5g}") for v in values)

    return Model(names, short(mean), short(spread), short(weights), float(f"{bias:.5g}"))
