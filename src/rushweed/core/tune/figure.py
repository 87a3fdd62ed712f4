"""The figure that things are measured by: the project's own character, or a plain one of known height."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet

WIDE, HIGH, BANDS = 24, 32, 8  # px, and how many bands of equal height the plain figure has
PAPER, INK, BAND = (243, 238, 226, 255), (38, 48, 42, 255), (196, 188, 168, 255)


def character(project: Project) -> tuple[Sheet, Cell] | None:
    """The first frame that is shown for the default state of the first sheet with states, if it has one."""
    animations = {a.id: a for a in project.animations}
    for sheet in project.sheets:
        for state in sheet.states:
            animation = animations.get(state.animation)
            if animation is not None and animation.frames:
                return cell_homes(project).get(animation.frames[0].cell)
    return None


def figure_of(project: Project, pixels_of: Callable[[Sheet], np.ndarray]) -> np.ndarray:
    """uint8 RGBA (height, width, 4): the project's character, else the plain figure."""
    found = character(project)
    if found is None:
        return plain_figure()
    sheet, cell = found
    x, y, w, h = cell.rect
    made = pixels_of(sheet)[y : y + h, x : x + w]
    return made if made.size and made[..., 3].any() else plain_figure()


@cache
def plain_figure() -> np.ndarray:
    """Somebody of 2 units in 16 px each, with a band every quarter unit: uint8 (32, 24, 4)."""
    y, x = np.mgrid[:HIGH, :WIDE] + 0.5
    middle = WIDE / 2
    head = (x - middle) ** 2 / 4.4**2 + (y - 5) ** 2 / 5**2 <= 1
    trunk = (np.abs(x - middle) <= 5.2) & (y >= 9.5) & (y <= 21)
    arms = (np.abs(np.abs(x - middle) - 6.5) <= 1.4) & (y >= 10.5) & (y <= 20)
    legs = (np.abs(np.abs(x - middle) - 2.8) <= 2) & (y >= 20)
    body = head | trunk | arms | legs
    inner = np.pad(body, 1)
    inner = body & inner[:-2, 1:-1] & inner[2:, 1:-1] & inner[1:-1, :-2] & inner[1:-1, 2:]
    inner[-1] = body[-1] & np.roll(body[-1], 1) & np.roll(body[-1], -1)  # the soles stand on the floor
    made = np.zeros((HIGH, WIDE, 4), np.uint8)
    made[body] = INK
    made[inner] = PAPER
    made[inner & ((y * BANDS / HIGH).astype(int) % 2 == 1)] = BAND
    made.flags.writeable = False
    return made
