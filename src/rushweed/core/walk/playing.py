"""Tiles that play and whose frames differ in shape: what of them is solid at a moment. They are left out of
the merged outline and met as they are then."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from rushweed.core.animate.play import frame_at
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Shape
from rushweed.core.shape.groups import touches
from rushweed.core.shape.primitives import clockwise, corners
from rushweed.core.shape.twins import oriented_shape
from rushweed.core.walk import terms as k
from rushweed.core.walk.edges import NO_EDGES, OUTLINE_UNIT, ring_edges, shifted
from rushweed.core.walk.tiles import Cells, placed_tiles

REACH = 8  # cells around him within which they are met
Frames = tuple[int, ...]


class PlayingTiles:
    """All of a level, for somebody of a group."""

    def __init__(self, project: Project, level: Level, cells: Cells, group: str) -> None:
        self._cell = level.cell
        self.animations: list[Animation] = []
        self._made: list[list[np.ndarray]] = []  # the edges of all its tiles by animation and frame
        changing = changing_tiles(project, cells)
        wanted = {n + 1 for n, cell in enumerate(level.table) if cell in changing}
        by_first: dict[str, list[list[np.ndarray]]] = {}
        for layer, value, columns, rows in placed_tiles(level, wanted):
            first = level.table[(value >> 3) - 1]
            frames = by_first.setdefault(first, [[] for _ in changing[first].frames])
            spots = np.stack((columns, rows), 1) * np.array(level.cell) * k.SUB
            spots += np.rint(np.array(layer.offset) * OUTLINE_UNIT).astype(np.int64) * 256
            for frame, edges in zip(changing[first].frames, frames, strict=True):
                shapes = cells[frame.cell][1].shapes if frame.cell in cells else ()
                for shape in shapes:
                    if shape.role != "sensor" and touches(project, group, shape.group):
                        base = _edges(shape, value & 7, level.cell)
                        edges += [shifted(base, x, y) for x, y in spots.tolist()]
        for first, frames in by_first.items():
            self.animations.append(changing[first])
            self._made.append([np.concatenate([NO_EDGES, *edges]) for edges in frames])

    def __len__(self) -> int:
        return len(self.animations)

    def frames_at(self, steps: int) -> Frames:
        """The frame each animation shows after so many steps."""
        return tuple(frame_at(animation, steps * 1000 / k.STEPS) for animation in self.animations)

    def edges(self, frames: Frames, box: tuple[int, int, int, int] | None = None) -> np.ndarray:
        """What is solid while these frames are shown, of all tiles or those near a box, 1/65536 px."""
        found = [NO_EDGES]
        for made, frame in zip(self._made, frames, strict=True):
            rows = made[frame]
            if box is not None and len(rows):
                far = REACH * max(self._cell) * k.SUB
                beside = (rows[:, k.EDGE_X1] >= box[0] - far) & (rows[:, k.EDGE_X0] <= box[2] + far)
                low = np.minimum(rows[:, k.EDGE_Y0], rows[:, k.EDGE_Y1])
                high = np.maximum(rows[:, k.EDGE_Y0], rows[:, k.EDGE_Y1])
                rows = rows[beside & (high >= box[1] - far) & (low <= box[3] + far)]
            found.append(rows)
        return np.concatenate(found)

    def by_frame(self, number: int) -> list[np.ndarray]:
        """The edges of one animation's tiles, frame by frame."""
        return self._made[number]


def _edges(shape: Shape, turn: int, size: tuple[int, int]) -> np.ndarray:
    turned = oriented_shape(shape, turn, size) if turn else shape
    ring = np.rint(np.array(clockwise(corners(turned))) * OUTLINE_UNIT).astype(np.int64) * 256
    return ring_edges(ring, turned, -1)


def changing_tiles(project: Project, cells: Cells) -> dict[str, Animation]:
    """The animations of tiles that change their shape, by the tile that stands in levels."""
    found = {}
    for animation in project.animations:
        frames = [f.cell for f in animation.frames if f.cell in cells]
        if animation.tile and frames and len(frames) == len(animation.frames):
            shapes = [tuple(s for s in cells[c][1].shapes if s.role != "sensor") for c in frames]
            if any(shape != shapes[0] for shape in shapes):
                found[frames[0]] = animation
    return found


def without_changing(project: Project, cells: Cells) -> Cells:
    """The cells with those tiles left without their solid shapes: for the merged outline."""
    changing = changing_tiles(project, cells)
    if not changing:
        return cells
    made = dict(cells)
    for cell_id in changing:
        sheet, cell = cells[cell_id]
        made[cell_id] = (sheet, replace(cell, shapes=tuple(s for s in cell.shapes if s.role == "sensor")))
    return made
