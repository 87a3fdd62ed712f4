"""What to know before painting on a layer: that it is hidden, or that the tiles are on another one."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.level.brush import Spots
from rushweed.core.level.chunks import region


class Caution(NamedTuple):
    """Why what is painted or erased would surprise; `layer` is the one to look at."""

    layer: TileLayer
    short: str

    def text(self, painted: str) -> str:
        """A sentence for someone who works on the layer named `painted`."""
        if self.layer.name == painted:
            return f"{painted} is hidden: what is done there is not seen."
        if self.short.startswith("on "):
            return f"{painted} holds nothing there, {self.layer.name} does."
        return f"What was painted on {painted} lies behind tiles of {self.layer.name}."


def caution(level: Level, layer_id: str, spots: Spots, erasing: bool = False) -> Caution | None:
    """What would surprise someone who paints, or erases, some cells of a tile layer; None if nothing.

    A hidden layer; tiles of a nearer layer that would hide the stroke; when erasing, cells that are empty
    on this layer while another one that is shown has tiles there. spots: the columns and the rows of cells.
    """
    layers = [x for x in level.layers if isinstance(x, TileLayer)]
    here = next((x for x in layers if x.id == layer_id), None)
    if here is None or not len(spots[0]):
        return None
    if not here.shown:
        return Caution(here, "hidden")
    at = layers.index(here)
    if erasing:
        if _holds(here, spots):
            return None
        other = next((x for x in reversed(layers) if x is not here and x.shown and _holds(x, spots)), None)
        return Caution(other, f"on {other.name}") if other is not None else None
    nearer = next((x for x in layers[at + 1 :] if x.shown and _holds(x, spots)), None)
    return Caution(nearer, f"behind {nearer.name}") if nearer is not None else None


def _holds(layer: TileLayer, spots: Spots) -> bool:
    xs, ys = np.asarray(spots[0]), np.asarray(spots[1])
    left, top = int(xs.min()), int(ys.min())
    cells = region(layer.tiles, left, top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)
    return bool(cells[ys - top, xs - left].any())
