"""What the brush paints: one tile or many, mirrored and turned as a whole."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

MIRROR = 4


def mirror_orientation(o: int) -> int:
    """The orientation after mirroring left and right what is drawn at orientation `o`."""
    return ((-o) & 3) | ((o & MIRROR) ^ MIRROR)


def turn_orientation(o: int) -> int:
    """The orientation after one more quarter turn clockwise."""
    return ((o + 1) & 3) | (o & MIRROR)


def flip_orientation(o: int) -> int:
    """The orientation after exchanging top and bottom: a mirror and half a turn."""
    return turn_orientation(turn_orientation(mirror_orientation(o)))


_MIRRORED = np.array([mirror_orientation(o) for o in range(8)])
_FLIPPED = np.array([flip_orientation(o) for o in range(8)])
_TURNED = np.array([turn_orientation(o) for o in range(8)])


def orient(pixels: np.ndarray, o: int) -> np.ndarray:
    """A square tile's pixels (height, width, ...) drawn at orientation `o`."""
    if o & MIRROR:
        pixels = pixels[:, ::-1]
    return np.rot90(pixels, -(o & 3))


class Stamp(NamedTuple):
    """`slots` int (rows, columns): 0 empty, else 1 + place in `cells`; `turns` the orientation of each."""

    cells: tuple[str, ...]
    slots: np.ndarray
    turns: np.ndarray

    @property
    def size(self) -> tuple[int, int]:
        """Columns, rows."""
        return int(self.slots.shape[1]), int(self.slots.shape[0])

    def footprint(self, spots: tuple[np.ndarray, np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
        """The cells (xs, ys) that the stamp fills with its top left at each spot, spot by spot."""
        rows, columns = np.nonzero(self.slots)
        xs = np.asarray(spots[0])[:, None] + columns[None, :]
        ys = np.asarray(spots[1])[:, None] + rows[None, :]
        return xs.ravel(), ys.ravel()

    def mirrored(self) -> Stamp:
        """Left for right, each tile too."""
        return Stamp(self.cells, self.slots[:, ::-1], _MIRRORED[self.turns[:, ::-1]])

    def flipped(self) -> Stamp:
        """Top for bottom, each tile too."""
        return Stamp(self.cells, self.slots[::-1], _FLIPPED[self.turns[::-1]])

    def turned(self) -> Stamp:
        """A quarter clockwise, each tile too."""
        return Stamp(self.cells, np.rot90(self.slots, -1), _TURNED[np.rot90(self.turns, -1)])


def single(cell_id: str) -> Stamp:
    """A stamp of one cell."""
    return Stamp((cell_id,), np.ones((1, 1), np.int64), np.zeros((1, 1), np.int64))


def from_grid(rows: list[list[str | None]]) -> Stamp:
    """A stamp of cell ids row by row; None is an empty place that leaves the level as it is."""
    slot_of = {cell: n + 1 for n, cell in enumerate(dict.fromkeys(c for row in rows for c in row if c))}
    slots = np.array([[slot_of[c] if c else 0 for c in row] for row in rows], np.int64)
    return Stamp(tuple(slot_of), slots, np.zeros_like(slots))


def from_level(table: tuple[str, ...], cells: np.ndarray) -> Stamp:
    """A stamp of what a level holds: `cells` is uint32 (rows, columns) of table index * 8 + orientation."""
    index = (cells >> 3).astype(np.int64)
    used = [int(i) for i in np.unique(index) if 0 < i <= len(table)]
    slot_of = np.zeros(len(table) + 1, np.int64)
    slot_of[used] = np.arange(1, len(used) + 1)
    slots = slot_of[np.minimum(index, len(table))]
    return Stamp(tuple(table[i - 1] for i in used), slots, (cells & 7).astype(np.int64) * (slots > 0))
