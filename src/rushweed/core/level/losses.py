"""What an edit would lose: cells that go, and who uses them. To be told before it happens."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import sheet_of
from rushweed.core.document.model.level import Level, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.document.remembered import Remembered
from rushweed.core.document.text import many

AT_ONCE = 64  # chunks that are counted together


class Loss(NamedTuple):
    """A cell that goes with what hangs on it, such as "12 tiles of pier" or "2 shapes"."""

    sheet: str
    cell: str
    uses: tuple[str, ...]

    def words(self) -> str:
        """The cell, and where it is used."""
        return f"{self.cell} ({', '.join(self.uses)})"


def tiles_by_cell(level: Level) -> dict[str, int]:
    """How many tiles of a level each cell stands for, by cell id; none for cells that stand nowhere."""
    return _by_cell(level, [layer for layer in level.layers if isinstance(layer, TileLayer)])


def layer_tiles_by_cell(level: Level, layer: TileLayer) -> dict[str, int]:
    """How many tiles of one layer of a level each cell stands for, by cell id."""
    return _by_cell(level, [layer])


def _by_cell(level: Level, layers: Sequence[TileLayer]) -> dict[str, int]:
    counts = np.zeros(len(level.table) + 1, np.int64)
    for layer in layers:
        own = _counts(layer.tiles)
        counts[: len(own)] += own
    return {cell: int(n) for cell, n in zip(level.table, counts[1:].tolist(), strict=True) if n}


def _counted(tiles: Tiles) -> np.ndarray:
    """How many cells of a layer hold each index of the level's table."""
    counts, chunks = np.zeros(1, np.int64), [chunk.cells for chunk in tiles.chunks if chunk is not None]
    for first in range(0, len(chunks), AT_ONCE):
        more = np.bincount(np.concatenate(chunks[first : first + AT_ONCE]).ravel() >> 3)
        wide = max(len(counts), len(more))
        counts = np.pad(counts, (0, wide - len(counts))) + np.pad(more, (0, wide - len(more)))
    return counts


_counts: Remembered[Tiles, np.ndarray] = Remembered(_counted, 64)


def lost(before: Project, after: Project) -> list[Loss]:
    """The cells of `before` that `after` lacks although tiles in levels or shapes hang on them."""
    there = {cell.id for sheet in after.sheets for cell in sheet.cells}
    gone = [(s, c) for s in before.sheets for c in s.cells if c.id not in there]
    if not gone:
        return []
    used = [(level.name, tiles_by_cell(level)) for level in before.levels]
    losses = []
    for sheet, cell in gone:
        uses = [f"{many(n[cell.id], 'tile')} of {name}" for name, n in used if cell.id in n]
        if cell.shapes:
            uses.append(many(len(cell.shapes), "shape"))
        if uses:
            losses.append(Loss(sheet.name, cell.name, tuple(uses)))
    return losses


def loss_words(losses: list[Loss], most: int = 3) -> str:
    """One sentence that names the first losses and counts the others."""
    named = ", ".join(loss.words() for loss in losses[:most])
    more = f" and {len(losses) - most} more" if len(losses) > most else ""
    return f"This loses {many(len(losses), 'cell')} in use: {named}{more}."


def aside_words(before: Project, after: Project, sheet_id: str) -> str:
    """A sentence on the cells that were set aside or came back, with who uses them; empty if none did."""
    was = {one.cell.id for one in sheet_of(before, sheet_id).aside}
    now = {one.cell.id: one.cell for one in sheet_of(after, sheet_id).aside}
    out, back = [c for i, c in now.items() if i not in was], was - set(now)
    words = []
    if out:
        many = "1 cell lies" if len(out) == 1 else f"{len(out)} cells lie"
        losses = lost(before, after)
        worst = max(losses, key=lambda loss: (len(loss.uses), "tile" in loss.uses[0]), default=None)
        used = f", among them {worst.words()}" if worst is not None else ""
        words.append(f"{many} outside it and {'is' if len(out) == 1 else 'are'} kept aside{used}.")
    if back:
        words.append("1 cell is back." if len(back) == 1 else f"{len(back)} cells are back.")
    return " ".join(words)
