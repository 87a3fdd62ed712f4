"""Real sheets laid out anew: other gaps, margins, drawn lines, rows and grounds, for learning only."""

from __future__ import annotations

import numpy as np

from bench.labels import Sheet

MOST_SIDE = 1400  # px
GROUNDS = ((255, 0, 255), (0, 0, 0), (255, 255, 255), (0, 255, 255), (90, 120, 70), (128, 128, 128))


def relaid(rgba: np.ndarray, label: Sheet, rng: np.random.Generator) -> tuple[np.ndarray, Sheet] | None:
    """One new layout of the cells of a labelled sheet, uint8 (height, width, 4), and its label; None if the
    sheet has too few cells."""
    cells = _chosen(_cells(rgba, label), rng)
    if cells is None:
        return None
    clear = float((rgba[..., 3] < 8).mean()) > 0.005
    empty = np.zeros(4, np.uint8) if clear else np.array([*label.key, 255], np.uint8) if label.key else None
    cells = _scaled(cells, rng)
    rows, columns = len(cells), len(cells[0])
    high, wide = cells[0][0].shape[:2]
    if min(high, wide) < 4:
        return None
    gap, margin = _gaps(rng)
    fill = _fill(rng, empty, margin > 0 and gap == 0)
    # Room that nothing is drawn in, around one row, belongs to the cells for whoever cuts them.
    bare = not fill[3] or (empty is not None and bool((fill == empty).all()))
    left, top = (0 if bare and count == 1 else margin for count in (columns, rows))
    size = 2 * top + rows * (high + gap) - gap, 2 * left + columns * (wide + gap) - gap
    out = np.empty((*size, 4), np.uint8)
    out[:] = fill
    last = int(rng.integers(1, columns + 1)) if rng.random() < 0.3 and rows > 1 else columns
    for j, line in enumerate(cells):
        for i, cell in enumerate(line):
            y, x = top + j * (high + gap), left + i * (wide + gap)
            blank = empty is not None and j == rows - 1 and i >= last
            out[y : y + high, x : x + wide] = empty if blank else cell
    if rng.random() < 0.18:
        out = _padded(out, (wide, high), empty, rng)
    if clear and rng.random() < 0.25:
        out = _on_ground(out, rng)
    same = cells[0][0].shape == (label.cell[1], label.cell[0], 4) and gap == 0
    spacing = (gap if columns > 1 else 0, gap if rows > 1 else 0)
    made = Sheet(label.file, (wide, high), (left, top), spacing, label.acceptable if same else ())
    return out, made


def _cells(rgba: np.ndarray, label: Sheet) -> list[list[np.ndarray]]:
    (w, h), (mx, my), (sx, sy) = label.cell, label.margin, label.spacing
    xs = range(mx, rgba.shape[1] - w + 1, w + sx)
    ys = range(my, rgba.shape[0] - h + 1, h + sy)
    return [[rgba[y : y + h, x : x + w] for x in xs] for y in ys]


def _chosen(cells: list[list[np.ndarray]], rng: np.random.Generator) -> list[list[np.ndarray]] | None:
    """A rectangle of the cells, sometimes shuffled, sometimes in other rows."""
    if not cells or len(cells) * len(cells[0]) < 2:
        return None
    high, wide = cells[0][0].shape[:2]
    most = max(2, MOST_SIDE // wide), max(2, MOST_SIDE // high)
    columns = int(rng.integers(1, min(len(cells[0]), most[0]) + 1))
    rows = int(rng.integers(1, min(len(cells), most[1]) + 1))
    if columns * rows < 2:
        columns, rows = min(len(cells[0]), most[0]), min(len(cells), most[1])
    x, y = int(rng.integers(0, len(cells[0]) - columns + 1)), int(rng.integers(0, len(cells) - rows + 1))
    picked = [line[x : x + columns] for line in cells[y : y + rows]]
    flat = [cell for line in picked for cell in line]
    if rng.random() < 0.35:
        flat = [flat[n] for n in rng.permutation(len(flat))]
    if rng.random() < 0.12 and len(flat) >= 4:
        columns = int(rng.integers(2, min(len(flat) // 2, 10) + 1))
    rows = len(flat) // columns
    return [flat[n * columns : (n + 1) * columns] for n in range(rows)]


def _scaled(cells: list[list[np.ndarray]], rng: np.random.Generator) -> list[list[np.ndarray]]:
    chance, side = rng.random(), max(cells[0][0].shape[:2])
    if chance < 0.15 and side <= 48:
        return [[c.repeat(2, 0).repeat(2, 1) for c in line] for line in cells]
    if chance > 0.94 and min(cells[0][0].shape[:2]) >= 32:
        return [[c[::2, ::2] for c in line] for line in cells]
    return cells


def _gaps(rng: np.random.Generator) -> tuple[int, int]:
    chance = rng.random()
    if chance < 0.45:
        gap = int(rng.choice([1, 1, 1, 2, 2, 3, 4]))
        return gap, int(rng.choice([0, gap, gap]))
    return 0, int(rng.integers(1, 5)) if chance < 0.5 else 0


def _fill(rng: np.random.Generator, empty: np.ndarray | None, plain: bool) -> np.ndarray:
    chance = rng.random()
    if not plain and chance < 0.35:
        return np.append(rng.integers(0, 256, 3), 255).astype(np.uint8)
    if not plain and chance < 0.5:
        return np.array([0, 0, 0, 255], np.uint8)
    return empty if empty is not None else np.zeros(4, np.uint8)


def _padded(
    rgba: np.ndarray, cell: tuple[int, int], empty: np.ndarray | None, rng: np.random.Generator
) -> np.ndarray:
    """More room at the right and below, often up to a power of two."""
    sides = []
    for length, side in zip(rgba.shape[:2], (cell[1], cell[0]), strict=True):
        power = 1 << (length - 1).bit_length()
        sides.append(power if rng.random() < 0.7 else length + int(rng.integers(1, side)))
    if sides[0] * sides[1] > 2_500_000:
        return rgba
    out = np.empty((*sides, 4), np.uint8)
    out[:] = empty if empty is not None else 0
    out[: rgba.shape[0], : rgba.shape[1]] = rgba
    return out


def _on_ground(rgba: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Laid on one opaque colour, with soft or hard edges."""
    place = int(rng.integers(0, len(GROUNDS) + 1))
    ground = np.array(GROUNDS[place] if place < len(GROUNDS) else rng.integers(0, 256, 3), float)
    alpha = rgba[..., 3:] / 255
    alpha = (alpha >= 0.5).astype(float) if rng.random() < 0.5 else alpha
    flat = np.rint(rgba[..., :3] * alpha + ground * (1 - alpha)).astype(np.uint8)
    return np.concatenate((flat, np.full((*flat.shape[:2], 1), 255, np.uint8)), axis=2)
