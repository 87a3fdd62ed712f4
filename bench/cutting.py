"""B2: grid proposals of a large sheet beside decoding it."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
from PIL import Image

from bench.row import Row, by_time, timed
from rushweed.core.cut.propose import propose
from rushweed.core.pixels.read import decode
from rushweed.demo import ART


def sheet(side: int = 4096) -> np.ndarray:
    """Frames of 64 x 64 px with art of the demo in most of them: uint8 (side, side, 4)."""
    rng = np.random.default_rng(1)
    art = np.array(Image.open(ART / "wren.png"))
    out = np.zeros((side, side, 4), np.uint8)
    for y in range(0, side, 64):
        for x in range(0, side, 64):
            if rng.random() < 0.9:
                column, row = int(rng.integers(0, 4)), int(rng.integers(0, 4))
                frame = art[row * 32 : row * 32 + 32, column * 24 : column * 24 + 24]
                out[y + 16 : y + 48, x + 20 : x + 44] = frame
                out[y + 16 : y + 48, x + 20 : x + 44, :3] ^= rng.integers(0, 64, 3).astype(np.uint8)
    return out


def proposals() -> Iterator[Row]:
    rgba = sheet()
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG")
    data = buffer.getvalue()
    best = propose(rgba).grids[0]
    ours = timed(lambda: propose(rgba), 3)
    reference = timed(lambda: decode(data, "sheet.png"), 3)
    yield by_time("grid proposals, 4096 x 4096", ours, reference, 1.0, f"first: {best.words()}")
