"""Made-up sheets of every kind, with the grid they were laid out by: what proposals are judged on."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

KINDS = ("frames", "strip", "tiles", "bevelled", "spaced", "keyed", "tight", "ragged")
CELLS = (
    (8, 8), (12, 12), (16, 16), (16, 16), (16, 16), (16, 24), (18, 18), (20, 20), (24, 24), (24, 32),
    (32, 32), (32, 32), (32, 48), (40, 40), (48, 48), (64, 64), (30, 26), (21, 33),
)  # fmt: skip


class Made(NamedTuple):
    """A sheet, uint8 RGBA, with the cell, margin and spacing it has."""

    kind: str
    rgba: np.ndarray
    cell: tuple[int, int]
    margin: tuple[int, int]
    spacing: tuple[int, int]


def sheets(count: int = 160) -> Iterator[Made]:
    for seed in range(count):
        yield make(KINDS[seed % len(KINDS)], seed)


def make(kind: str, seed: int) -> Made:
    """One sheet of a kind; the same seed gives the same sheet."""
    rng = np.random.default_rng(seed + 1000)
    cell = CELLS[int(rng.integers(len(CELLS)))]
    columns, rows = int(rng.integers(3, 11)), int(rng.integers(2, 8))
    if kind == "strip":
        columns, rows = int(rng.integers(3, 13)), 1
    if kind in ("tiles", "bevelled", "spaced"):
        cell = cell if cell[0] == cell[1] else (16, 16)
        columns, rows = max(columns, 5), max(rows, 4)
    palette = rng.integers(20, 236, (8, 3))
    spacing = int(rng.integers(1, 4)) if kind == "spaced" else 0
    margin = spacing if kind == "spaced" and rng.random() < 0.6 else 0
    w, h = cell
    width = 2 * margin + columns * (w + spacing) - spacing
    height = 2 * margin + rows * (h + spacing) - spacing
    rgba = np.zeros((height, width, 4), np.uint8)
    if kind == "spaced" and rng.random() < 0.5:
        rgba[..., :3], rgba[..., 3] = palette[7], 255
    last_full = int(rng.integers(1, columns)) if kind == "ragged" else columns
    for row in range(rows):
        body = _body(rng, w, h, kind)
        colours = palette[rng.integers(0, 7, 4)]
        for column in range(columns):
            if row == rows - 1 and column >= last_full:
                continue
            if kind in ("frames", "keyed") and rng.random() < 0.08:
                continue
            if kind in ("tiles", "bevelled", "spaced"):
                art = _tile(rng, w, h, palette, kind == "bevelled" or rng.random() < 0.3)
            else:
                art = _frame(rng, body, colours)
            x, y = margin + column * (w + spacing), margin + row * (h + spacing)
            rgba[y : y + h, x : x + w] = art
    if kind == "keyed":
        clear = rgba[..., 3] == 0
        rgba[clear] = (255, 0, 255, 255)
    if kind == "ragged" and rng.random() < 0.5:
        extra = int(rng.integers(1, max(w // 2, 2)))
        rgba = np.pad(rgba, ((0, 0), (0, extra), (0, 0)))
    return Made(kind, rgba, cell, (margin, margin), (spacing, spacing))


def _body(rng: np.random.Generator, w: int, h: int, kind: str) -> np.ndarray:
    """The mask of a figure: a few overlapping ovals, mirrored; "tight" ones touch their cell's edge."""
    yy, xx = np.mgrid[:h, :w]
    mask = np.zeros((h, w), bool)
    reach = 0.5 if kind == "tight" else rng.uniform(0.32, 0.46)
    for _ in range(int(rng.integers(2, 5))):
        cx, cy = w / 2 + rng.uniform(-0.15, 0.15) * w, h / 2 + rng.uniform(-0.2, 0.2) * h
        rx, ry = rng.uniform(0.5, 1.0) * reach * w, rng.uniform(0.5, 1.0) * reach * h
        mask |= ((xx + 0.5 - cx) / max(rx, 1)) ** 2 + ((yy + 0.5 - cy) / max(ry, 1)) ** 2 <= 1
    if kind == "tight":
        mask |= (abs(xx + 0.5 - w / 2) <= w / 2) & (abs(yy + 0.5 - h * 0.6) <= h * 0.08 + 1)
        mask[-1, w // 3 : -(w // 3) or None] = True
        mask[0, w // 2 - 1 : w // 2 + 1] = True
    keep = 0 if kind == "tight" else 1
    if keep:
        mask[0], mask[-1], mask[:, 0], mask[:, -1] = False, False, False, False
    return mask


def _frame(rng: np.random.Generator, body: np.ndarray, colours: np.ndarray) -> np.ndarray:
    """One frame: the figure with bites and bumps of its own, shaded, with an outline and some dither."""
    h, w = body.shape
    mask = body & (rng.random((h, w)) > 0.03)
    mask[: h // 2] = np.roll(mask[: h // 2], int(rng.integers(-1, 2)) if w > 10 else 0, axis=1)
    art = np.zeros((h, w, 4), np.uint8)
    shade = np.clip(np.mgrid[:h, :w][0] * 3 // max(h, 1), 0, 2)
    art[..., :3] = colours[shade]
    dots = rng.random((h, w)) < 0.12
    art[dots, :3] = colours[3]
    inner = mask.copy()
    inner[1:-1, 1:-1] = mask[1:-1, 1:-1] & mask[:-2, 1:-1] & mask[2:, 1:-1] & mask[1:-1, :-2] & mask[1:-1, 2:]
    art[mask & ~inner, :3] = 24
    art[..., 3] = mask * 255
    return art


def _tile(rng: np.random.Generator, w: int, h: int, palette: np.ndarray, bevel: bool) -> np.ndarray:
    """An opaque tile: one of a few grounds with grain, bricks or dither, some with lit edges or an object."""
    art = np.zeros((h, w, 4), np.uint8)
    art[..., 3] = 255
    base = palette[int(rng.integers(0, 4))].astype(int)
    art[..., :3] = base
    style = int(rng.integers(0, 4))
    if style == 1:
        grain = rng.integers(-18, 19, (h, w, 1))
        art[..., :3] = np.clip(base + grain, 0, 255)
    elif style == 2:
        yy, xx = np.mgrid[:h, :w]
        step = max(h // 4, 2)
        lines = (yy % step == 0) | ((xx + (yy // step) % 2 * step) % (2 * step) == 0)
        art[lines, :3] = np.clip(base - 40, 0, 255)
    elif style == 3:
        yy, xx = np.mgrid[:h, :w]
        art[(xx + yy) % 2 == 0, :3] = np.clip(base + 22, 0, 255)
    if bevel:
        art[0, :, :3] = art[:, 0, :3] = np.clip(base + 45, 0, 255)
        art[-1, :, :3] = art[:, -1, :3] = np.clip(base - 45, 0, 255)
    if rng.random() < 0.35:
        body = _body(rng, w, h, "frames")
        art[body, :3] = palette[int(rng.integers(4, 7))]
    return art
