"""Rows about what is found in pictures: key colours and true px, on made-up sheets of every kind."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bench.row import Row
from bench.sheets import sheets
from rushweed.core.pixels.key import key_candidates, propose_key
from rushweed.core.pixels.true_pixel import true_pixel

KEYS = (
    (255, 0, 255),
    (0, 255, 0),
    (0, 0, 0),
    (255, 255, 255),
    (92, 148, 252),
    (128, 128, 128),
    (0, 255, 255),
)


def keys() -> Iterator[Row]:
    """G3: how often the key colour of a keyed sheet is missed, and of opaque and clear ones wrongly seen."""
    missed, alarms = _keys()
    yield _share("key colour missed, keyed sheets", missed, 0.05)
    yield _share("key colour seen where there is none", alarms, 0.05)


def enlarged() -> Iterator[Row]:
    """G4: how often the true px of enlarged art is missed, and seen in ordinary art."""
    missed, alarms = _true_px()
    yield _share("true px size wrong, enlarged sheets", missed, 0.05)
    yield _share("true px size seen in ordinary art", alarms, 0.01)


def _share(words: str, wrong: float, most: float) -> Row:
    return Row(words, f"{wrong:.1%}", f"{most:.1%}", wrong / most, 1.0)


def _keys(count: int = 160) -> tuple[float, float]:
    right = total = alone = others = 0
    for n, sheet in enumerate(sheets(count)):
        if sheet.kind in ("tiles", "bevelled"):
            others += 1
            alone += propose_key(sheet.rgba) is None
            continue
        clear = sheet.rgba[..., 3] == 0
        if sheet.kind == "spaced" or not clear.any():
            continue  # lines between tiles are no ground
        others += 1
        alone += propose_key(sheet.rgba) is None
        colour = KEYS[n % len(KEYS)]
        rgba = sheet.rgba.copy()
        rgba[clear] = (*colour, 255)
        found = key_candidates(rgba, 1)
        total += 1
        right += bool(found) and found[0].colour == colour
    return 1 - right / total, 1 - alone / others


def _true_px(count: int = 160) -> tuple[float, float]:
    right = total = alone = 0
    for n, sheet in enumerate(sheets(count)):
        rng = np.random.default_rng(n)
        alone += true_pixel(sheet.rgba) is None
        factor = (2, 3, 4, 5, 6, 8)[n % 6]
        large = sheet.rgba.repeat(factor, 0).repeat(factor, 1)
        spoiled = (0, 20, 60)[n % 3]
        ys, xs = rng.integers(0, large.shape[0], spoiled), rng.integers(0, large.shape[1], spoiled)
        large[ys, xs] = rng.integers(0, 255, (spoiled, 4))
        found = true_pixel(large)
        total += 1
        right += found is not None and found.factor == factor
    return 1 - right / total, 1 - alone / total
