"""A whole level small: each cell as the mean colour of its tile."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import region
from rushweed.core.level.render import PixelsOf, cell_pixels, lay_over, tinted


class Small(NamedTuple):
    """uint8 RGBA, one px for every `step` cells each way."""

    rgba: np.ndarray
    step: int


def mean_colours(project: Project, level: Level, pixels_of: PixelsOf) -> np.ndarray:
    """The mean colour of each tile of the level's table, uint8 (1 + tiles, 4), the first clear: colours by
    how much they are seen, alpha as it is on average."""
    cells = cell_homes(project)
    out = np.zeros((len(level.table) + 1, 4), np.uint8)
    for n, cell_id in enumerate(level.table):
        if cell_id in cells:
            sheet, cell = cells[cell_id]
            px = cell_pixels(pixels_of(sheet), cell).reshape(-1, 4).astype(np.float64)
            seen = px[:, 3].sum()
            if seen > 0:
                out[n + 1, :3] = np.rint((px[:, :3] * px[:, 3:]).sum(0) / seen)
                out[n + 1, 3] = np.rint(seen / len(px))
    return out


def overview(level: Level, colours: np.ndarray, most: tuple[int, int]) -> Small:
    """The layers of tiles that are shown, laid over one another, in at most `most` px; of several cells one
    stands for all. `colours` are those of `mean_colours`."""
    left, top, columns, rows = level.bounds
    step = max(-(-columns // most[0]), -(-rows // most[1]), 1)
    out = np.zeros((-(-rows // step), -(-columns // step), 4), np.uint8)
    for layer in level.layers:
        if layer.shown and isinstance(layer, TileLayer) and layer.tiles.chunks:
            index = region(layer.tiles, left, top, columns, rows)[::step, ::step] >> 3
            index = np.where(index < len(colours), index, 0)
            lay_over(out, tinted(colours[index], layer.tint), layer.opacity_percent / 100)
    return Small(out, step)
