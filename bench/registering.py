"""`./run bench jitter`: how much of a known jitter *Best match* takes out of the rows of real strips.

Each row of a strip or of a character's sheet is registered as it was drawn and again after each of its
frames was moved by up to 3 px both ways; jitter is out where both end at the same places. Feet that stand are
those near the ground line: a frame in the air keeps its height, as nothing tells a jump from a jitter.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from bench.labels import ART, Sheet, fetched, read, sheet_labels
from bench.row import Row
from rushweed.core.animate.register import JUMP, LEAST_JUMP, drawn_drift, ground_line, shifts_for
from rushweed.core.document.model.sheet import Cell
from rushweed.core.pixels.key import keyed
from rushweed.core.pixels.read import read_picture

KINDS = ("strip", "chars")
LARGEST = 512  # px a side
FRAMES = range(4, 17)
ROWS_A_SHEET = 4
JITTER = 3  # px
EDGE = 8  # px of room around a frame
LEFT_IN = 0.02  # share of frames


class Found(NamedTuple):
    """Frames in which jitter was left, of a row."""

    left: np.ndarray  # bool (frames,)
    in_the_air: np.ndarray


def strips() -> Iterator[list[np.ndarray]]:
    """The frames of each row, uint8 RGBA, blank ones left out."""
    for label in sheet_labels() + sheet_labels(read("aside.json")["grids"]):
        if label.kind in KINDS and max(label.cell) <= LARGEST:
            yield from _rows_of(label)


def _rows_of(label: Sheet) -> Iterator[list[np.ndarray]]:
    rgba = read_picture(ART / label.file).rgba
    if label.key is not None:
        rgba = keyed(rgba, label.key)
    (wide, high), (left, top), (gap_x, gap_y) = label.cell, label.margin, label.spacing
    taken = 0
    for y in range(top, rgba.shape[0] - high + 1, high + gap_y):
        cells = [
            rgba[y : y + high, x : x + wide] for x in range(left, rgba.shape[1] - wide + 1, wide + gap_x)
        ]
        frames = [c for c in cells if c[..., 3].any() and not c[..., 3].all()][: FRAMES[-1]]
        if len(frames) in FRAMES and taken < ROWS_A_SHEET:
            taken += 1
            yield [np.pad(f, ((EDGE, EDGE), (EDGE, EDGE), (0, 0))) for f in frames]


def judge(frames: list[np.ndarray], moves: str, rng: np.random.Generator) -> Found:
    high, wide = frames[0].shape[:2]
    cells = [Cell(str(n), str(n), (0, 0, wide, high), (wide // 2, high - EDGE)) for n in range(len(frames))]
    jitter = rng.integers(-JITTER, JITTER + 1, (len(frames), 2))
    moved = [np.roll(f, (dy, dx), (0, 1)) for f, (dx, dy) in zip(frames, jitter.tolist(), strict=True)]
    still, found = (
        np.array([made[c.id] for c in cells])
        for made in (shifts_for(list(zip(cells, f, strict=True)), "match", moves) for f in (frames, moved))  # type: ignore[arg-type]
    )
    off = found + jitter - still  # the same for all where jitter is out
    usual = np.array([np.bincount(axis - axis.min()).argmax() + axis.min() for axis in off.T])
    feet = [drawn_drift(f).feet for f in frames]
    ground = ground_line(feet)
    height = max(LEAST_JUMP, JUMP * high)
    air = [f is not None and ground is not None and ground - f > height for f in feet]
    return Found((off != usual).any(axis=1), np.array(air))


def rows() -> Iterator[Row]:
    if not fetched():
        print("jitter: the pictures are missing; `./run bench real-art` fetches them.", file=sys.stderr)
        return
    for moves, words in (("ground", "feet kept"), ("both", "both ways")):
        rng = np.random.default_rng(7)
        found = [judge(frames, moves, rng) for frames in strips()]
        left = np.concatenate([f.left for f in found])
        stand = ~np.concatenate([f.in_the_air for f in found])
        share = float(left[stand].mean())
        note = (
            f"of {np.count_nonzero(stand)} frames that stand, of {len(found)} rows; of all {left.mean():.1%}"
        )
        yield Row(f"jitter left in, {words}", f"{share:.1%}", f"{LEFT_IN:.0%}", share / LEFT_IN, 1.0, note)
