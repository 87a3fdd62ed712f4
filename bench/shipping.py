"""B5 and B10: packing, and shipping again when nothing changed."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.row import Row, by_time, ms, timed
from rushweed.core.pixels.stock import Stock
from rushweed.core.ship.build import ship
from rushweed.core.ship.pack import pack
from rushweed.demo.project import build


def packing() -> Iterator[Row]:
    rng = np.random.default_rng(4)
    sizes = [(int(w), int(h)) for w, h in rng.integers(8, 97, (2000, 2))]
    pages = pack(sizes)
    area = sum(w * h for w, h in sizes)
    page = sum(p.width * p.height for p in pages)
    taken = timed(lambda: pack(sizes), 3)
    yield Row(
        "2,000 pictures: share of the page empty",
        f"{1 - area / page:.1%}",
        "8.0%",
        (1 - area / page) / 0.08,
        1,
    )
    yield Row("  the time of it", ms(taken), "1000 ms", taken, 1)


def ship_again() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as name:
        _place, project, stock = build(Path(name) / "p")
        out = Path(name) / "out"
        first = timed(lambda: ship(project, Stock(stock.folder), out), 1)
        again = timed(lambda: ship(project, Stock(stock.folder), out), 3)
        yield by_time("ship again, nothing changed", again, first, 0.05)
