"""Twins summed up, compiled; twins.py holds the plain form, which gives the same."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import types

from rushweed.core.compiled import NONE, compiled

WORDS, SUMS, WHOLE = types.uint32[:, ::1], types.uint64[::1], types.int64[:, ::1]


class Px(NamedTuple):
    """The px of tiles by colour, (tiles, px)."""

    colours: np.ndarray  # uint32
    order: np.ndarray  # int64, which px
    begins: np.ndarray  # bool, whether a colour begins


PX = types.NamedTuple((WORDS, WHOLE, types.boolean[:, ::1]), Px)  # type: ignore[no-untyped-call]


@compiled(NONE(PX, WHOLE, SUMS, SUMS, SUMS))
def sum_up(px: Px, places: np.ndarray, weights: np.ndarray, exact: np.ndarray, alike: np.ndarray) -> None:
    """The least sums of tiles over some orientations, by their px and by which px share a colour. `places`
    (orientations, px) says where each comes to lie. `exact` and `alike` begin at the most there can be."""
    ordered, order, begins = px
    size = ordered.shape[1]
    for tile in range(ordered.shape[0]):
        for way in range(places.shape[0]):
            whole, pattern = np.uint64(0), np.uint64(0)
            first = np.uint64(0)
            for n in range(size):
                place = places[way, order[tile, n]]
                if begins[tile, n]:
                    least, m = place, n + 1
                    while m < size and not begins[tile, m]:
                        least = min(least, places[way, order[tile, m]])
                        m += 1
                    first = np.uint64(least)
                word = np.uint64(ordered[tile, n])
                clear = np.uint64(2) if word == np.uint64(0) else np.uint64(1)
                whole += word * weights[place]
                pattern += (first + clear) * weights[place]
            exact[tile] = min(exact[tile], whole)
            alike[tile] = min(alike[tile], pattern)
