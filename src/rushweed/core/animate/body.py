"""One body for all frames of a character: from the px they share, steady, never below the feet."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from msgspec.structs import replace

from rushweed.core.animate.timeline import animation_of, home_of, put_animation
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell

INK = 128  # alpha from which a px is of the body
SHARED = 0.75  # of the frames that a px must be in
THICK = 0.45  # of the broadest row, and of the tallest column, that counts as body

Body = tuple[int, int, int, int]


def shared_body(frames: Sequence[tuple[Cell, np.ndarray]]) -> Body | None:
    """x, y, w, h in whole px from the pivot, for frames of uint8 (height, width, 4) with their cells.

    Px count that are ink in most frames, laid on one another by pivot and shift; thin parts, such as a staff
    or the brim of a hat, are left out; it ends at the highest of the foot lines. None if nothing is shared.
    """
    if not frames:
        return None
    left = min(round(c.shift[0] - c.pivot[0]) for c, _p in frames)
    top = min(round(c.shift[1] - c.pivot[1]) for c, _p in frames)
    right = max(round(c.shift[0] - c.pivot[0]) + p.shape[1] for c, p in frames)
    bottom = max(round(c.shift[1] - c.pivot[1]) + p.shape[0] for c, p in frames)
    total = np.zeros((bottom - top, right - left), np.int32)
    feet = []
    for cell, pixels in frames:
        x, y = round(cell.shift[0] - cell.pivot[0]) - left, round(cell.shift[1] - cell.pivot[1]) - top
        ink = pixels[..., 3] >= INK
        total[y : y + ink.shape[0], x : x + ink.shape[1]] += ink
        rows = np.flatnonzero(ink.any(axis=1))
        if rows.size:
            feet.append(int(rows[-1]) + 1 + y)
    shared = total >= max(SHARED * len(frames), 1)
    if not feet or not shared.any():
        return None
    shared[min(feet) :] = False
    columns, rows = shared.sum(axis=0), shared.sum(axis=1)
    if not columns.any():
        return None
    across = np.flatnonzero(columns >= THICK * columns.max())
    down = np.flatnonzero(rows >= THICK * rows.max())
    low = min(feet)
    x0, x1, y0 = int(across[0]), int(across[-1]) + 1, int(down[0])
    return x0 + left, y0 + top, x1 - x0, max(low - y0, 1)


def set_body(project: Project, animation_id: str, body: Body | None) -> Project:
    """Give an animation its body, or take it away. Raises EditError if it has no size."""
    animation = animation_of(project, animation_id)
    if body is not None:
        if body[2] < 1 or body[3] < 1:
            raise EditError(f"The body of {animation.name} has no size.", "Make it at least 1 px.")
        if max(abs(v) for v in body) > 16_384:
            raise EditError(f"The body of {animation.name} is too far away.", "Put it near the pivot.")
        body = (int(body[0]), int(body[1]), int(body[2]), int(body[3]))
    return project if body == animation.body else put_animation(project, replace(animation, body=body))


def character_of(project: Project, animation_id: str) -> tuple[str, ...]:
    """The ids of the animations that show the same character: those whose first frames are of one sheet."""
    animation = animation_of(project, animation_id)
    home = home_of(project, animation)
    if home is None:
        return (animation.id,)
    return tuple(a.id for a in project.animations if home_of(project, a) is home)


def set_bodies(project: Project, animation_ids: Iterable[str], body: Body | None) -> Project:
    """Give several animations one body, or take it from all."""
    for animation_id in animation_ids:
        project = set_body(project, animation_id, body)
    return project


def below_feet(body: Body, frames: Sequence[tuple[Cell, np.ndarray]]) -> int:
    """By how many px a body reaches below the lowest ink of any frame; 0 if it does not."""
    lowest = [
        float(rows[-1]) + 1 + cell.shift[1] - cell.pivot[1]
        for cell, pixels in frames
        if (rows := np.flatnonzero((pixels[..., 3] >= INK).any(axis=1))).size
    ]
    return max(round(body[1] + body[3] - max(lowest)), 0) if lowest else 0


def set_tile(project: Project, animation_id: str, on: bool) -> Project:
    """Let an animation play wherever its first frame stands in a level."""
    animation = animation_of(project, animation_id)
    return project if animation.tile == on else put_animation(project, replace(animation, tile=on))
