"""`./run bench growth`: how the time of each step grows with the size of the picture."""

from __future__ import annotations

import io
from collections.abc import Callable

import numpy as np
from PIL import Image

from bench.cutting import sheet
from bench.results import keep_growth
from bench.row import timed
from rushweed.core.cut.grid import ink
from rushweed.core.cut.islands import pieces
from rushweed.core.cut.propose import propose
from rushweed.core.document.model.sheet import Codec
from rushweed.core.document.model.steps import KeyColour
from rushweed.core.pixels.prepare import prepared
from rushweed.core.pixels.read import decode
from rushweed.core.tune.codec.compress import coded

SIDES = (256, 512, 1024, 2048, 4096, 8192)
SLOW_S = 12.0  # a step that takes so long at one size is left out at the next
CODECS: tuple[Codec, ...] = ("bc1", "bc3", "bc7", "etc2")


def _steps(side: int) -> dict[str, Callable[[], object]]:
    rgba = sheet(side)
    buffer = io.BytesIO()
    Image.fromarray(rgba).save(buffer, "PNG", compress_level=1)
    data = buffer.getvalue()
    painted = np.random.default_rng(2).integers(0, 256, (side // 8, side // 8, 4)).astype(np.uint8)
    painted = np.array(Image.fromarray(painted).resize((side, side), Image.Resampling.BICUBIC))
    painted[..., 3] = 255
    steps: dict[str, Callable[[], object]] = {
        "read a PNG": lambda: decode(data, "sheet.png"),
        "take out a key colour": lambda: prepared(rgba, (KeyColour((0, 0, 0)),)),
        "propose grids": lambda: propose(rgba),
        "find pieces": lambda: pieces(ink(rgba), 1),
    }
    for codec in CODECS:
        steps[codec.upper()] = lambda codec=codec: coded(painted, codec)  # type: ignore[misc]
    return steps


def main() -> None:
    taken: dict[str, dict[int, float]] = {}
    for side in SIDES:
        for name, work in _steps(side).items():
            before = taken.get(name, {})
            if before and max(before.values()) > SLOW_S:
                continue
            if not before:
                work()  # so that nothing is loaded or compiled while it is measured
            seconds = timed(work, 3 if side <= 2048 else 1)
            taken.setdefault(name, {})[side] = round(seconds, 5)
            print(f"{name:24} {side:5} px a side {seconds * 1000:10.1f} ms", flush=True)
    keep_growth(taken)
