"""The small scene of the Proof: the selection beside a figure of known height and a 1-unit yardstick."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np

from rushweed.core.document.model import Cell, Sheet
from rushweed.core.tune.sample import Placed, draw, premultiply, straighten

Mode = Literal["still", "turned", "half"]
GROUND = 0.69  # share of the picture's height at which things stand
TURN = 20.0  # degrees of the turned mode
FIGURE_AT = 0.24  # share of the width
THING_AT = 0.56
YARD_AT = 0.84


class Props(NamedTuple):
    """What the scene is set with: uint8 RGBA pictures at 16 px a unit, whatever project is open."""

    sky: np.ndarray
    floor: np.ndarray
    figure: np.ndarray


class Scene(NamedTuple):
    """The picture, uint8 RGBA; where a unit starts and ends on the yardstick (x, top, bottom); the px a
    unit; how much the art is enlarged; where the selection's pivot stands; whether it lies as a floor."""

    picture: np.ndarray
    yard: tuple[float, float, float]
    unit_px: float
    enlarged: float
    pivot: tuple[float, float]
    floor: bool


def is_floor(cell: Cell, rgba: np.ndarray) -> bool:
    """Whether a cell is a tile to stand on: pivot at its top left, and ink at both of its sides."""
    if cell.pivot != (0, 0):
        return False
    x, y, w, h = cell.rect
    alpha = rgba[y : y + h, x : x + w, 3] > 0
    return bool((alpha[:, 0] & alpha[:, -1]).any())


def unit_px_for(sheet: Sheet, cell: Cell | None, size: tuple[int, int], most: int = 3) -> float:
    """Screen px a unit: the sheet's px enlarged by the greatest whole number, up to `most`, at which the
    figure (2 units) and the selection fit into the picture."""
    tallest = 2.0
    if cell is not None:
        tallest = max(tallest, cell.rect[3] / sheet.tune.ppu)
    for k in range(most, 0, -1):
        if tallest * sheet.tune.ppu * k <= size[1] * GROUND and sheet.tune.ppu * k * 3.2 <= size[0]:
            return sheet.tune.ppu * k
    return min(size[1] * GROUND / tallest, size[0] / 3.2)


def compose(
    props: Props,
    sheet: Sheet | None,
    cell: Cell | None,
    rgba: np.ndarray | None,
    size: tuple[int, int],
    mode: Mode = "still",
    ratio: float = 1.0,
) -> Scene:
    """Draw the scene at `size` px (width, height); `ratio` is device px to a screen px."""
    width, height = size
    logical = (round(width / ratio), round(height / ratio))
    unit = (unit_px_for(sheet, cell, logical) if sheet else 48.0) * ratio
    picture = np.zeros((height, width, 4), np.float32)
    ground = float(round(height * GROUND))
    _sky(picture, props.sky, ratio)
    enlarged = unit / (sheet.tune.ppu if sheet else 16)
    floor = cell is not None and rgba is not None and is_floor(cell, rgba)
    step = unit / 16
    if floor and sheet and cell and rgba is not None:
        wide = cell.rect[2] * enlarged
        first = -1 if mode == "still" else 0
        start = width * THING_AT if mode != "still" else 0.0
        count = int(width / wide) + 2 if mode == "still" else 1
        if mode != "still":
            _floor(picture, props.floor, ground, step)
        for i in range(first, first + count):
            at = (start + i * wide, ground) if mode == "still" else (start, ground - 1.2 * unit)
            _thing(picture, sheet, cell, rgba, at, enlarged, mode)
        pivot = (start, ground)
    else:
        _floor(picture, props.floor, ground, step)
        pivot = (width * THING_AT, ground)
        if sheet and cell and rgba is not None:
            _thing(picture, sheet, cell, rgba, pivot, enlarged, mode)
    high, wide_figure = props.figure.shape[:2]
    figure = Placed(
        props.figure, (0, 0, wide_figure, high), (wide_figure / 2, high),
        (round(width * FIGURE_AT), ground), unit * 2 / high, "nearest",
    )  # fmt: skip
    draw(picture, figure)
    x = float(round(width * YARD_AT))
    return Scene(straighten(picture), (x, ground - unit, ground), unit, enlarged, pivot, floor)


def _thing(
    picture: np.ndarray,
    sheet: Sheet,
    cell: Cell,
    rgba: np.ndarray,
    at: tuple[float, float],
    scale: float,
    mode: Mode,
) -> None:
    pivot = cell.pivot
    turn = TURN if mode == "turned" else 0.0
    if mode == "half":
        at = (at[0] + scale / 2, at[1] - scale / 2)
    else:
        at = (float(round(at[0])), float(round(at[1])))
    draw(picture, Placed(rgba, cell.rect, pivot, at, scale, sheet.tune.filter, turn))


def _floor(picture: np.ndarray, floor: np.ndarray, ground: float, step: float) -> None:
    high, wide = floor.shape[:2]
    x = 0.0
    while x < picture.shape[1]:
        draw(picture, Placed(floor, (0, 0, wide, high), (0, 0), (x, ground), step, "nearest"))
        x += wide * step


def _sky(picture: np.ndarray, sky: np.ndarray, ratio: float) -> None:
    """The sky at three px a px, cut at its horizon so that the sun stands over the floor."""
    height, width = picture.shape[:2]
    k = max(round(3 * ratio), 1)
    rows = np.clip(np.arange(height) // k + 212 - round(height / k * 0.99), 0, sky.shape[0] - 1)
    columns = (np.arange(width) // k + 318) % sky.shape[1]
    picture[:] = premultiply(sky[np.ix_(rows, columns)])
