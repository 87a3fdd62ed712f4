"""The true px of art that was enlarged: found from where colours change, and the way back."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

LEAST_SIDE = 12  # px of the true picture: smaller ones are more likely a plain figure of bars and boxes
MOST = 32  # px a side of an enlarged px
SURE = 0.9  # share of all changes of colour that must stand on the lines between enlarged px
LEAST_CHANGES = 24  # changes of colour a picture needs before anything is said of it
SLIGHT = 12  # of 255: smaller steps of light are not counted in a lossy picture
MOST_ALONE = 0.08  # share of px that may differ from all four around them


class TruePixel(NamedTuple):
    """Enlarged `factor` times, the first whole px at `start`; `share` of the changes of colour agree."""

    factor: int
    start: tuple[int, int]
    share: float

    @property
    def evidence(self) -> str:
        """Why it is thought so."""
        return f"{self.share:.1%} of all edges stand {self.factor} px apart"


def true_pixel(rgba: np.ndarray) -> TruePixel | None:
    """How many times a picture, uint8 (height, width, 4), was enlarged without smoothing, or None.

    In such a picture colours change only on lines `factor` px apart. Px that differ from all around them
    cannot be of it and are passed over, up to a share; in a lossy picture only the steepest step of light
    within two px counts. The greatest factor that holds both ways counts, provided that the lines in between
    are really used.
    """
    height, width = rgba.shape[:2]
    if min(height, width) < 4:
        return None
    for changes in (_exact_changes(rgba), _steep_changes(rgba)):
        if changes is None or min(changes[0].sum(), changes[1].sum()) < LEAST_CHANGES:
            continue
        for factor in range(min(MOST, min(height, width) // LEAST_SIDE), 1, -1):
            found = _agreeing(*changes, factor)
            if found is not None:
                return found
    return None


def _exact_changes(rgba: np.ndarray) -> tuple[np.ndarray, np.ndarray] | None:
    """How many px differ from the one before, by column and by row: int64 (width,), (height,), the first 0;
    None where too many stand alone. Clear px are alike whatever their colour."""
    words = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    words = np.where(rgba[..., 3] > 0, words, np.uint32(0))
    across, down = words[:, 1:] != words[:, :-1], words[1:] != words[:-1]
    alone = np.ones(words.shape, bool)
    alone[:, 1:] &= across
    alone[:, :-1] &= across
    alone[1:] &= down
    alone[:-1] &= down
    if np.count_nonzero(alone) > MOST_ALONE * alone.size:
        return None
    across &= ~(alone[:, 1:] | alone[:, :-1])
    down &= ~(alone[1:] | alone[:-1])
    return (np.concatenate(([0], np.count_nonzero(across, axis=0))),
            np.concatenate(([0], np.count_nonzero(down, axis=1))))  # fmt: skip


def _steep_changes(rgba: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The same of a picture that was stored with losses: steps of light, the steepest within two px."""
    light = (rgba[..., :3] @ np.array((0.299, 0.587, 0.114), np.float32)) * (rgba[..., 3] / np.float32(255))
    found = []
    for moved in (light, light.T):
        step = np.abs(np.diff(moved, axis=1))
        around = np.pad(step, ((0, 0), (2, 2)))
        steepest = np.maximum.reduce([around[:, n : n + step.shape[1]] for n in (0, 1, 3, 4)])
        counted = (step > SLIGHT) & (step >= steepest)
        found.append(np.concatenate(([0], np.count_nonzero(counted, axis=0))))
    return found[0], found[1]


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
