"""B1 and B2: pieces and grid proposals of a large sheet; how often proposals are right."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
from PIL import Image
from scipy import ndimage

from bench.row import Row, by_time, timed
from bench.sheets import sheets
from rushweed.core.cut.islands import pieces
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


def shares() -> Iterator[Row]:
    """How often the right cell size comes first, and among the first three, on made-up sheets."""
    first = third = 0
    made = list(sheets())
    for one in made:
        cells = [p.cell[:1] if one.kind == "strip" else p.cell for p in propose(one.rgba).grids[:3]]
        wanted = one.cell[:1] if one.kind == "strip" else one.cell
        first += bool(cells) and cells[0] == wanted
        third += wanted in cells
    for words, right, least in (("first", first, 0.85), ("among the first three", third, 0.95)):
        share = right / len(made)
        yield Row(
            f"cell size wrong, {words}, of {len(made)} sheets",
            f"{1 - share:.1%}",
            f"{1 - least:.1%}",
            (1 - share) / (1 - least),
            1.0,
        )


def piece_boxes() -> Iterator[Row]:
    """B1: the pieces of a large sheet beside labelling alone."""
    rng = np.random.default_rng(3)
    mask = np.zeros((4096, 4096), bool)
    for y in range(10, 4000, 86):
        for x in range(10, 4000, 86):
            w, h = (int(v) for v in rng.integers(12, 70, 2))
            mask[y : y + h, x : x + w] = rng.random((h, w)) < 0.9
    structure = np.ones((3, 3), bool)
    ours = timed(lambda: pieces(mask, 2), 3)
    reference = timed(lambda: ndimage.find_objects(ndimage.label(mask, structure)[0]), 3)
    yield by_time(f"pieces of 4096 x 4096, {len(pieces(mask, 2)):,}", ours, reference, 1.5)


def proposals() -> Iterator[Row]:
    rgba = sheet()
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG")
    data = buffer.getvalue()
    best = propose(rgba).grids[0]
    ours = timed(lambda: propose(rgba), 3)
    reference = timed(lambda: decode(data, "sheet.png"), 3)
    yield by_time("grid proposals, 4096 x 4096", ours, reference, 2.0, f"first: {best.words()}")
