"""Art that is cut off at the edge of its cell: how it is told from art that ends there by itself."""

from __future__ import annotations

from typing import Literal

import numpy as np

Side = Literal["left", "right", "top"]  # feet stand on the lower edge by right
SIDES: tuple[Side, ...] = ("left", "right", "top")
INK = 128  # alpha from which a px is art
RUN, RUN_SHARE = 4, 1 / 8  # px of art along an edge, and of its length, from which it may be cut off
FILLED = 0.95  # of a cell, from which it holds a ground and no figure
GOES_ON = 0.8  # of the px along an edge beyond which art goes on
ALIKE = 48  # 0..765, how far colours on both sides of a line differ within one thing
WANDER = 2  # px that a figure may move along an edge while it leaves its cell there
LOST, DIFFERS = 0.02, 0.15  # of a whole figure's px: that are gone at least, that differ at most


def flat_sides(ink: np.ndarray) -> set[Side]:
    """The sides at which ink, bool (height, width), ends in a long straight run, no shorter than what is next
    to it, as art does that was cut off; an outline that ends there by itself gets shorter."""
    if min(ink.shape) < 4 or ink.mean() >= FILLED:
        return set()
    found: set[Side] = set()
    for side in SIDES:
        edge, inner = _turned(ink, side)[:, :2].T
        if _longest(edge) >= max(RUN, edge.size * RUN_SHARE) and edge.sum() >= inner.sum():
            found.add(side)
    return found


def goes_on_beyond(rgba: np.ndarray, rect: tuple[int, int, int, int], side: Side) -> bool:
    """Whether the art of a cell, x, y, width, height, goes on beyond a side of it: px of the same colours
    stand there in its sheet, uint8 (height, width, 4)."""
    x, y, w, h = rect
    if side == "top":
        sheet, line, along = rgba.transpose(1, 0, 2), y, slice(x, x + w)
        edge, beyond = sheet[along, line], sheet[along, line - 1] if line else None
    else:
        line, next_to = (x, x - 1) if side == "left" else (x + w - 1, x + w)
        edge = rgba[y : y + h, line]
        beyond = rgba[y : y + h, next_to] if 0 <= next_to < rgba.shape[1] else None
    if beyond is None:
        return False
    inked = edge[:, 3] >= INK
    apart = np.abs(edge[:, :3].astype(int) - beyond[:, :3]).sum(axis=1)
    goes_on = inked & (beyond[:, 3] >= INK) & (apart <= ALIKE)
    return bool(goes_on.sum() >= GOES_ON * inked.sum())


def lacks_part_of(ink: np.ndarray, whole: np.ndarray, side: Side) -> bool:
    """Whether the ink of a frame, bool (height, width), is that of another one, moved so far over a side that
    part of it is gone."""
    mine, theirs = _turned(ink, side), _turned(whole, side)
    if theirs.shape != mine.shape:
        return False
    full, high = int(theirs.sum()), len(theirs)
    gone = np.cumsum(theirs.sum(axis=0))  # px in the first columns
    far = int(theirs[:WANDER].sum() + theirs[-WANDER:].sum())  # px that may leave along the side
    for step in range(1, mine.shape[1] // 2):
        more = full - int(gone[step - 1]) - int(mine.sum())  # than the frame has
        if gone[step - 1] < LOST * full or more - far > DIFFERS * full:
            continue
        if -more > DIFFERS * full:
            break  # too much is gone, and more with each step
        for along in range(-WANDER, WANDER + 1):
            moved = np.zeros_like(theirs)
            down, up = max(along, 0), max(-along, 0)
            moved[down : high - up, :-step] = theirs[up : high - down, step:]
            if np.count_nonzero(moved ^ mine) <= DIFFERS * full:
                return True
    return False


def _turned(ink: np.ndarray, side: Side) -> np.ndarray:
    """So that a side lies left."""
    return ink.T if side == "top" else ink[:, ::-1] if side == "right" else ink


def _longest(line: np.ndarray) -> int:
    """Of the runs of true in a line."""
    bounds = np.flatnonzero(np.diff(np.concatenate(([False], line, [False]))))
    return int((bounds[1::2] - bounds[::2]).max(initial=0))
