"""Made-up pictures of other kinds than plain grids: what a person meets in a mixed download."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from PIL import Image, ImageDraw, ImageFont

KINDS = ("lined", "padded", "framed", "hexes", "font", "packed", "single", "lettering")
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
STACKED = "stacked"  # strips of differing cells: no kind of its own


class Drawn(NamedTuple):
    """A picture, uint8 RGBA, and what is right: `kind` is grid, pieces or single; a grid's cell, margin and
    spacing; the number of pieces."""

    made: str
    rgba: np.ndarray
    kind: str
    cell: tuple[int, int] = (0, 0)
    margin: tuple[int, int] = (0, 0)
    spacing: tuple[int, int] = (0, 0)
    pieces: int = 0


def draw(made: str, seed: int) -> Drawn:
    """One picture; the same seed gives the same one."""
    rng = np.random.default_rng(seed + 5000)
    return globals()[f"_{made}"](rng)


def figure(rng: np.random.Generator, wide: int, high: int, palette: np.ndarray | None = None) -> np.ndarray:
    """A shaded body that fills most of a box, symmetrical, with an outline: uint8 (high, wide, 4)."""
    palette = rng.integers(40, 236, (4, 3)) if palette is None else palette
    y, x = np.mgrid[0:high, 0:wide]
    out = np.zeros((high, wide, 4), np.uint8)
    inside = np.zeros((high, wide), bool)
    for _ in range(int(rng.integers(2, 5))):
        cy, ry = rng.uniform(0.3, 0.7) * high, rng.uniform(0.2, 0.48) * high
        rx = rng.uniform(0.15, 0.48) * wide
        inside |= ((y - cy) / ry) ** 2 + ((x - wide / 2 + 0.5) / rx) ** 2 < 1
    rim = inside & ~(
        np.roll(inside, 1, 0) & np.roll(inside, -1, 0) & np.roll(inside, 1, 1) & np.roll(inside, -1, 1)
    )
    shade = np.clip(3 - (x + y) * 4 // (wide + high), 0, 3)
    out[inside, :3] = palette[shade[inside]]
    speckled = inside & (rng.random((high, wide)) < 0.1)
    out[speckled, :3] = palette[rng.integers(0, 4, int(speckled.sum()))]
    out[rim, :3] = 24
    out[inside, 3] = 255
    return out


def _frames(rng: np.random.Generator, wide: int, high: int, count: int) -> list[np.ndarray]:
    """Frames of one thing: the same body with parts that differ."""
    base = figure(rng, wide - 2, high - 2)
    made = []
    for _ in range(count):
        frame = np.zeros((high, wide, 4), np.uint8)
        part = figure(rng, max(wide // 2, 3), max(high // 3, 3))
        frame[1:-1, 1:-1] = base
        top, left = (
            int(rng.integers(0, high - part.shape[0] + 1)),
            int(rng.integers(0, wide - part.shape[1] + 1)),
        )
        spot = frame[top : top + part.shape[0], left : left + part.shape[1]]
        spot[part[..., 3] > 0] = part[part[..., 3] > 0]
        made.append(frame)
    return made


def _sizes(rng: np.random.Generator) -> tuple[int, int, int, int]:
    wide, high = (int(v) for v in rng.integers(12, 65, 2))
    if rng.random() < 0.6:
        wide = high = int(rng.choice([16, 24, 32, 48]))
    return wide, high, int(rng.integers(3, 10)), int(rng.integers(2, 7))


def _lined(rng: np.random.Generator) -> Drawn:
    """Lines drawn between the cells, which stop where the sheet is empty; a caption beside some rows."""
    wide, high, columns, rows = _sizes(rng)
    gap = int(rng.integers(1, 3))
    colour = (*rng.integers(0, 256, 3).tolist(), 255)
    out = np.zeros((gap + rows * (high + gap), gap + columns * (wide + gap), 4), np.uint8)
    frames = _frames(rng, wide, high, columns * rows)
    last = int(rng.integers(1, columns + 1))
    for row in range(rows):
        for column in range(last if row == rows - 1 else columns):
            y, x = row * (high + gap), column * (wide + gap)
            out[y : y + high + 2 * gap, x : x + wide + 2 * gap] = colour
        for column in range(last if row == rows - 1 else columns):
            y, x = gap + row * (high + gap), gap + column * (wide + gap)
            out[y : y + high, x : x + wide] = frames[row * columns + column]
    return Drawn("lined", out, "grid", (wide, high), (gap, gap), (gap, gap))


def _padded(rng: np.random.Generator) -> Drawn:
    """Filled up to powers of two, which its cells need not divide."""
    wide, high, columns, rows = _sizes(rng)
    frames = _frames(rng, wide, high, columns * rows)
    sheet = np.concatenate(
        [np.concatenate(frames[r * columns : (r + 1) * columns], axis=1) for r in range(rows)]
    )
    sides = [1 << (side - 1).bit_length() for side in sheet.shape[:2]]
    out = np.zeros((*sides, 4), np.uint8)
    out[: sheet.shape[0], : sheet.shape[1]] = sheet
    return Drawn("padded", out, "grid", (wide, high))


def _framed(rng: np.random.Generator) -> Drawn:
    """One row with a line all round and between."""
    wide, high, columns, _rows = _sizes(rng)
    colour = (*rng.integers(0, 256, 3).tolist(), 255)
    out = np.empty((high + 2, columns * (wide + 1) + 1, 4), np.uint8)
    out[:] = colour
    for n, frame in enumerate(_frames(rng, wide, high, columns)):
        out[1:-1, 1 + n * (wide + 1) : 1 + n * (wide + 1) + wide] = frame
    return Drawn("framed", out, "grid", (wide, high), (1, 1), (1, 0))


def _hexes(rng: np.random.Generator) -> Drawn:
    """Six-sided tiles side by side, on black."""
    high = int(rng.choice([32, 40, 50, 64]))
    wide = high * 6 // 5
    columns, rows = int(rng.integers(5, 16)), int(rng.integers(1, 4))
    y, x = np.mgrid[0:high, 0:wide]
    inside = np.abs(x - wide / 2 + 0.5) * high / wide + np.abs(y - high / 2 + 0.5) / 2 < high / 2
    out = np.zeros((high * rows, wide * columns, 4), np.uint8)
    out[..., 3] = 255
    ground = rng.integers(60, 220, 3)
    for row in range(rows):
        for column in range(columns):
            noise = rng.integers(-12, 13, (high, wide, 3))
            tile = np.clip(ground + noise, 1, 255)
            tile[:: int(rng.integers(3, 9)), :: int(rng.integers(3, 9))] = rng.integers(1, 255, 3)
            spot = out[row * high : (row + 1) * high, column * wide : (column + 1) * wide]
            spot[inside, :3] = tile[inside]
    return Drawn("hexes", out, "grid", (wide, high))


def _font(rng: np.random.Generator) -> Drawn:
    """Letters of their own widths in one row, with a row of marks above."""
    high, count = int(rng.integers(12, 28)), int(rng.integers(26, 60))
    letters = [figure(rng, int(rng.integers(4, high)), high, np.full((4, 3), 230)) for _ in range(count)]
    wide = sum(letter.shape[1] + 2 for letter in letters) + 2
    out = np.zeros((high + 2, wide, 4), np.uint8)
    out[..., 3] = 255
    x = 2
    for letter in letters:
        spot = out[1 : 1 + high, x : x + letter.shape[1]]
        spot[letter[..., 3] > 0] = letter[letter[..., 3] > 0]
        out[0, x - 1] = (255, 0, 255, 255)
        x += letter.shape[1] + 2
    return Drawn("font", out, "pieces", pieces=count)


def _packed(rng: np.random.Generator) -> Drawn:
    """Things of differing sizes packed in ragged rows, some with a spark beside them."""
    out = np.zeros((int(rng.integers(120, 400)), int(rng.integers(160, 500)), 4), np.uint8)
    y = x = row_high = pieces = 0
    while True:
        wide, high = (int(v) for v in rng.integers(10, 70, 2))
        if x + wide > out.shape[1]:
            x, y, row_high = 0, y + row_high + 4, 0
        if y + high > out.shape[0]:
            break
        out[y : y + high, x : x + wide] = figure(rng, wide, high)
        pieces += 1
        x, row_high = x + wide + 4, max(row_high, high)
    return Drawn("packed", out, "pieces", pieces=pieces)


def _single(rng: np.random.Generator) -> Drawn:
    """One figure, or a backdrop of soft bands."""
    if rng.random() < 0.5:
        wide, high = (int(v) for v in rng.integers(24, 200, 2))
        return Drawn("single", figure(rng, wide, high), "single")
    wide, high = (int(v) for v in rng.integers(120, 640, 2))
    y, x = np.mgrid[0:high, 0:wide]
    wave = sum(np.sin(x / rng.uniform(9, 90) + y / rng.uniform(9, 90) + rng.uniform(0, 6)) for _ in range(5))
    colours = rng.integers(20, 236, (2, 3))
    mix = ((wave - wave.min()) / np.ptp(wave))[..., None]
    rgb = colours[0] * mix + colours[1] * (1 - mix) + rng.normal(0, 4, (high, wide, 3))
    return Drawn(
        "single", np.dstack((np.clip(rgb, 0, 255), np.full((high, wide), 255))).astype(np.uint8), "single"
    )


def _lettering(rng: np.random.Generator) -> Drawn:
    """One to three words in one line, upright or slanted, on a key colour or on nothing."""
    size = int(rng.integers(14, 60))
    face, apart = ImageFont.load_default(size), rng.uniform(0, 0.5) * size * (rng.random() < 0.5)
    words = " ".join(
        "".join(rng.choice(list(LETTERS), rng.integers(3, 9))) for _ in range(rng.integers(1, 4))
    )
    words = words.title() if rng.random() < 0.4 else words
    drawn, x = Image.new("L", (len(words) * (size * 2), size * 2)), size / 2
    for letter in words:
        ImageDraw.Draw(drawn).text((x, size // 4), letter, 255, face)
        x += face.getlength(letter) + apart
    if rng.random() < 0.4:
        drawn = drawn.transform(drawn.size, Image.Transform.AFFINE, (1, 0.3, -0.3 * size, 0, 1, 0))
    near = drawn.crop(drawn.getbbox()).point(lambda v: 255 * (v > 100))
    ink = np.pad(np.asarray(near) > 0, int(rng.integers(0, 6)))
    out = np.zeros((*ink.shape, 4), np.uint8)
    out[ink] = (*rng.integers(0, 256, 3), 255)
    if rng.random() < 0.5:
        out[~ink] = (255, 0, 255, 255) if rng.random() < 0.5 else (0, 0, 0, 255)
    return Drawn("lettering", out, "single")


def _stacked(rng: np.random.Generator) -> Drawn:
    """Strips of differing cells below one another, each filled from the left."""
    strips = []
    for _ in range(int(rng.integers(2, 6))):
        wide, high = (int(v) for v in rng.integers(14, 60, 2))
        strips.append(np.concatenate(_frames(rng, wide, high, int(rng.integers(4, 9))), axis=1))
    out = np.zeros((sum(s.shape[0] + 2 for s in strips), max(s.shape[1] for s in strips), 4), np.uint8)
    y = 0
    for strip in strips:
        out[y : y + strip.shape[0], : strip.shape[1]] = strip
        y += strip.shape[0] + 2
    return Drawn(STACKED, out, "pieces", pieces=len(strips))
