"""The true px of art that was enlarged: found from where colours change, and the way back."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

LEAST_SIDE = 12  # px of the true picture: smaller ones are more likely a plain figure of bars and boxes
MOST = 32  # px a side of an enlarged px
SURE = 0.9  # share of all changes of colour that must stand on the lines between enlarged px
LEAST_CHANGES = 24  # changes of colour a picture needs before anything is said of it
SLIGHT = 20  # of 255: smaller steps of colour are not counted in a lossy picture


class TruePixel(NamedTuple):
    """Enlarged `factor` times, the first whole px at `start`; `share` of the changes of colour agree."""

    factor: int
    start: tuple[int, int]
    share: float

    @property
    def evidence(self) -> str:
        return f"{self.share:.1%} of all edges stand {self.factor} px apart"


def true_pixel(rgba: np.ndarray) -> TruePixel | None:
    """How many times a picture, uint8 (height, width, 4), was enlarged without smoothing, or None.

    In such a picture colours change only on lines `factor` px apart; a few px that disagree do no harm. The
    greatest factor that holds both ways counts, provided that the lines in between are really used.
    """
    height, width = rgba.shape[:2]
    if min(height, width) < 4:
        return None
    pixels = np.where(rgba[..., 3:] > 0, rgba, 0).astype(np.uint8)
    for least in (0, SLIGHT):
        across, down = _changes(pixels, 1, least), _changes(pixels, 0, least)
        if across.sum() < LEAST_CHANGES or down.sum() < LEAST_CHANGES:
            continue
        for factor in range(min(MOST, min(height, width) // LEAST_SIDE), 1, -1):
            found = _agreeing(across, down, factor)
            if found is not None:
                return found
    return None


def _changes(pixels: np.ndarray, axis: int, least: int) -> np.ndarray:
    """How many px differ from the one before along an axis, by place: int64 (length,), the first 0."""
    length = pixels.shape[axis]
    counts = np.zeros(length, np.int64)
    moved = pixels if axis == 1 else pixels.transpose(1, 0, 2)
    if least == 0:
        words = np.ascontiguousarray(moved).view(np.uint32)[..., 0]
        counts[1:] = np.count_nonzero(words[:, 1:] != words[:, :-1], axis=0)
        return counts
    for start in range(0, moved.shape[0], 512):
        part = moved[start : start + 512].astype(np.int16)
        counts[1:] += np.count_nonzero(np.abs(np.diff(part, axis=1)).max(axis=2) > least, axis=0)
    return counts


def _agreeing(across: np.ndarray, down: np.ndarray, factor: int) -> TruePixel | None:
    """The lines a factor apart that hold nearly all changes both ways, if there are such."""
    starts, shares = [], []
    for counts in (across, down):
        total = int(counts.sum())
        by_place = np.bincount(np.arange(len(counts)) % factor, weights=counts, minlength=factor)
        start = int(by_place.argmax())
        share = float(by_place[start]) / total
        if share < max(SURE, 1 - 0.35 * (1 - 1 / factor)):
            return None
        lines = counts[start::factor]
        usual = total / max(len(counts), 1)
        held = np.flatnonzero(lines > 0.1 * usual)
        span = int(held[-1] - held[0]) + 1 if held.size else 0
        if span < 4 or held.size < 0.35 * span:
            return None  # edges of a few flat parts that happen to line up
        steps = np.diff(held)
        if steps.size and np.count_nonzero(steps == 1) < 0.25 * steps.size:
            return None
        starts.append(start)
        shares.append(share)
    return TruePixel(factor, (starts[0], starts[1]), min(shares))


def reduced(rgba: np.ndarray, factor: int, start: tuple[int, int] = (0, 0)) -> np.ndarray:
    """One px for each block of `factor` px a side, the commonest of the block: uint8 (rows, columns, 4).

    `start` (x, y) is where a whole block begins; parts of blocks at the edges count as blocks of their own.
    """
    left, top = start[0] % factor, start[1] % factor
    height, width = rgba.shape[:2]
    before_x, before_y = (factor - left) % factor, (factor - top) % factor
    after_x = -(width + before_x) % factor
    after_y = -(height + before_y) % factor
    words = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    padded = np.pad(words, ((before_y, after_y), (before_x, after_x)), mode="edge")
    rows, columns = padded.shape[0] // factor, padded.shape[1] // factor
    blocks = padded.reshape(rows, factor, columns, factor).swapaxes(1, 2).reshape(rows * columns, -1)
    middle = (factor // 2) * factor + factor // 2
    out = blocks[:, middle].copy()
    uneven = np.flatnonzero((blocks != out[:, None]).any(axis=1))
    for begin in range(0, len(uneven), 65_536):
        chosen = uneven[begin : begin + 65_536]
        out[chosen] = _commonest(blocks[chosen])
    return np.ascontiguousarray(out.reshape(rows, columns)).view(np.uint8).reshape(rows, columns, 4)


def _commonest(blocks: np.ndarray) -> np.ndarray:
    """The value that stands most often in each row of (n, m)."""
    ordered = np.sort(blocks, axis=1)
    m = ordered.shape[1]
    begins = np.ones(ordered.shape, bool)
    begins[:, 1:] = ordered[:, 1:] != ordered[:, :-1]
    first = np.maximum.accumulate(np.where(begins, np.arange(m), 0), axis=1)
    run = np.arange(m) - first
    return np.asarray(ordered[np.arange(len(ordered)), run.argmax(axis=1)])
