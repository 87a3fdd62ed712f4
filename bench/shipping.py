"""B5, B10 and B12: packing, shipping again when nothing changed, and shipping 2,000 sheets."""

from __future__ import annotations

import io
import os
import tempfile
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from hashlib import sha256
from pathlib import Path

import numpy as np
from PIL import Image

from bench.row import Row, by_time, ms, timed
from rushweed.core.document.model.cut import GridCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet, Source
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.ship.pack import pack
from rushweed.demo.project import build

SHEETS, SIDE, CELL = 2000, 256, 64


def packing() -> Iterator[Row]:
    rng = np.random.default_rng(4)
    sizes = rng.integers(8, 97, (2000, 2))
    pages = pack(sizes)
    area = int(sizes.prod(axis=1).sum())
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
        first = timed(lambda: ship(project, PixelCache(stock.folder), out), 1)
        again = timed(lambda: ship(project, PixelCache(stock.folder), out), 3)
        yield by_time("ship again, nothing changed", again, first, 0.05)


def many_sheets() -> Iterator[Row]:
    """Made up: each sheet sixteen cells of drawn blobs in a few colours, some shaded."""
    jobs = os.cpu_count() or 2
    with tempfile.TemporaryDirectory() as name:
        home = Path(name) / "p"
        project = _made_up(home)
        out = Path(name) / "out"
        first = timed(lambda: ship(project, PixelCache(home), out, jobs=jobs), 1)
        with ProcessPoolExecutor(jobs) as pool:
            list(pool.map(_nothing, range(jobs)))
            paths = sorted((home / "art").iterdir())
            plain = timed(lambda: list(pool.map(_through_pillow, paths, chunksize=50)), 1)
        yield by_time(f"{SHEETS:,} sheets shipped, beside Pillow's decoding and encoding", first, plain, 1.3)
        path = home / project.sheets[700].source.path
        rgba = np.array(Image.open(path))
        rgba[10:14, 10:14, :3] = 255 - rgba[10:14, 10:14, :3]
        Image.fromarray(rgba).save(path)
        again = timed(lambda: ship(project, PixelCache(home), out, jobs=jobs), 1)
        yield by_time("  shipped again with one of them changed", again, first, 0.05)


def _made_up(home: Path) -> Project:
    rng = np.random.default_rng(9)
    (home / "art").mkdir(parents=True)
    down, across = np.mgrid[:SIDE, :SIDE] % CELL
    sheets = []
    for n in range(SHEETS):
        rgba = np.zeros((SIDE, SIDE, 4), np.uint8)
        colours = rng.integers(0, 256, (12, 3))
        for k in range(12):
            x, y, r = rng.uniform(16, 48), rng.uniform(16, 48), rng.uniform(4, 16)
            each = rng.integers(-90, 90, (SIDE // CELL, SIDE // CELL)).repeat(CELL, 0).repeat(CELL, 1)
            inside = (across - x) ** 2 + (down - y) ** 2 + each < r * r
            rgba[inside, :3], rgba[inside, 3] = colours[k], 255
        if n % 4 == 0:  # shaded
            shade = rng.integers(-6, 7, (SIDE, SIDE, 1))
            rgba[..., :3] = np.clip(rgba[..., :3] + shade, 0, 255) * (rgba[..., 3:] > 0)
        buffer = io.BytesIO()
        Image.fromarray(rgba).save(buffer, "PNG")
        path = f"art/sheet_{n:04d}.png"
        (home / path).write_bytes(buffer.getvalue())
        cells = tuple(
            Cell(f"c{n}x{k}", f"cell_{k}", (k % 4 * CELL, k // 4 * CELL, CELL, CELL), (CELL / 2, CELL))
            for k in range(16)
        )
        source = Source(path, sha256(buffer.getvalue()).hexdigest(), (SIDE, SIDE))
        sheets.append(Sheet(f"s{n}", f"sheet_{n:04d}.png", source, GridCut((CELL, CELL)), cells=cells))
    return Project("p", "Made up", tuple(sheets))


def _through_pillow(path: Path) -> int:
    with Image.open(path) as image:
        rgba = image.convert("RGBA")
    buffer = io.BytesIO()
    rgba.save(buffer, "PNG")
    return len(buffer.getvalue())


def _nothing(_n: int) -> None:
    """Wakes a process of the pool."""
