"""The small scene of the Proof: the selection beside a figure of known height and a 1-unit yardstick."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np

from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.tune.sample import Placed, Texture, draw, premultiply, straighten, texture_of
from rushweed.core.tune.texture import Rect

Backdrop = Literal["scene", "light", "dark", "checker"]
GROUND = 0.69  # share of the picture's height at which things stand
FIGURE_AT = 0.24  # share of the width
THING_AT = 0.56
YARD_AT = 0.84
PLAIN: dict[str, tuple[int, int, int]] = {"light": (243, 238, 226), "dark": (36, 33, 28)}
CHECKER = ((200, 196, 184), (190, 186, 174))
Kept = dict[object, np.ndarray]


class Props(NamedTuple):
    """What the scene is set with: uint8 RGBA pictures at 16 px a unit, whatever project is open."""

    sky: np.ndarray
    floor: np.ndarray
    figure: np.ndarray


class Subject(NamedTuple):
    """What is proofed: a cell (or none yet) of a sheet, and where it lies in the texture a game reads."""

    sheet: Sheet
    cell: Cell | None = None
    texture: Texture | None = None
    rect: Rect = (0, 0, 0, 0)
    floor: bool = False


class Staging(NamedTuple):
    """How the scene is set. `zoom`: screen px a texel, 0 for the greatest whole number that fits; `turn` in
    degrees clockwise; `drift` in px of the art; `picture`: at the window's resolution, or at the art's and
    then enlarged by a whole number; `snap`: places are held to whole px; `soft`: edges are anti-aliased."""

    zoom: float = 0.0
    turn: float = 0.0
    drift: tuple[float, float] = (0.0, 0.0)
    picture: Literal["window", "low"] = "window"
    snap: bool = True
    soft: bool = False
    backdrop: Backdrop = "scene"
    figure_units: float = 2.0


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


def whole_zoom(subject: Subject, size: tuple[int, int], figure_units: float = 2.0, most: int = 3) -> float:
    """Screen px a texel: the greatest whole number, up to `most`, at which the figure and the selection
    fit into the picture; less than one where even that is too much."""
    ppu = subject.sheet.tune.ppu
    tallest = figure_units
    if subject.cell is not None:
        tallest = max(tallest, subject.cell.rect[3] / ppu)
    for k in range(most, 0, -1):
        if tallest * ppu * k <= size[1] * GROUND and ppu * k * 3.2 <= size[0]:
            return k
    return min(size[1] * GROUND / tallest, size[0] / 3.2) / ppu


def compose(
    props: Props,
    subject: Subject | None,
    size: tuple[int, int],
    staging: Staging = Staging(),  # noqa: B008
    ratio: float = 1.0,
    kept: Kept | None = None,
) -> Scene:
    """Draw the scene at `size` px (width, height); `ratio` is device px to a screen px. `kept` keeps what
    stands behind, from one drawing to the next."""
    kept = {} if kept is None else kept
    ppu = subject.sheet.tune.ppu if subject else 16.0
    logical = (round(size[0] / ratio), round(size[1] / ratio))
    zoom = staging.zoom or (whole_zoom(subject, logical, staging.figure_units) if subject else 48.0 / ppu)
    if staging.picture == "window" or zoom < 1:
        return _scene(props, subject, size, staging, _Scales(zoom * ratio, ppu, ratio), kept)
    times = max(round(zoom * ratio), 1)
    small = (-(-size[0] // times), -(-size[1] // times))
    low = _scene(props, subject, small, staging, _Scales(1.0, ppu, 1.0), kept)
    picture = low.picture.repeat(times, axis=0).repeat(times, axis=1)[: size[1], : size[0]]
    yard = (low.yard[0] * times, low.yard[1] * times, low.yard[2] * times)
    pivot = (low.pivot[0] * times, low.pivot[1] * times)
    return Scene(picture, yard, low.unit_px * times, float(times), pivot, low.floor)


class _Scales(NamedTuple):
    """Px of the picture a texel, texels a unit, and device px a screen px."""

    texel: float
    ppu: float
    ratio: float

    @property
    def unit(self) -> float:
        """Px of the picture a unit."""
        return self.ppu * self.texel


def _scene(
    props: Props,
    subject: Subject | None,
    size: tuple[int, int],
    staging: Staging,
    scales: _Scales,
    kept: Kept,
) -> Scene:
    (width, height), unit, scale = size, scales.unit, scales.texel
    ground = float(round(height * GROUND))
    turned = staging.turn % 360 != 0
    drift = staging.drift
    if staging.snap:
        drift = (float(round(drift[0])), float(round(drift[1])))
    moved = turned or drift != (0, 0)
    lies = subject is not None and subject.floor and subject.cell is not None
    as_ground = lies and not moved
    key = (size, unit, staging.backdrop, staging.figure_units, as_ground, scales.ratio)
    behind = kept.get(key)
    if behind is None:
        behind = _behind(props, size, ground, staging, scales, as_ground)
        kept.clear()
        kept[key] = behind
    picture = behind.copy()
    at = (0.0 if as_ground else float(round(width * THING_AT)), ground)
    if subject is not None and subject.texture is not None and subject.cell is not None:
        cell = subject.cell
        wide = cell.rect[2] * scale
        places = [at]
        if as_ground:
            places = [(i * wide, ground) for i in range(-1, int(width / wide) + 2)]
        elif lies:
            places = [(at[0], ground - 1.2 * unit)]
        for x, y in places:
            where = (x + drift[0] * scale, y + drift[1] * scale)
            if staging.snap:
                where = (float(round(where[0])), float(round(where[1])))
            draw(picture, Placed(
                subject.texture, subject.rect, cell.pivot, where, scale, staging.turn, staging.soft
            ))  # fmt: skip
        at = places[0] if not as_ground else at
    x = float(round(width * YARD_AT))
    return Scene(straighten(picture), (x, ground - unit, ground), unit, scale, at, as_ground)


def _behind(
    props: Props, size: tuple[int, int], ground: float, staging: Staging, scales: _Scales, floor: bool
) -> np.ndarray:
    """All but the selection: backdrop, floor unless the selection is one, the figure."""
    (width, height), unit, ratio = size, scales.unit, scales.ratio
    picture = np.zeros((height, width, 4), np.float32)
    picture[..., 3] = 255
    if staging.backdrop == "scene":
        _sky(picture, props.sky, ratio)
        if not floor:
            _floor(picture, props.floor, ground, unit / 16)
    elif staging.backdrop == "checker":
        side = max(round(8 * ratio), 1)
        rows, columns = np.indices((height, width)) // side
        picture[..., :3] = np.array(CHECKER, np.float32)[(rows + columns) % 2]
    else:
        picture[..., :3] = PLAIN[staging.backdrop]
    high, wide = props.figure.shape[:2]
    draw(picture, Placed(
        texture_of(props.figure), (0, 0, wide, high), (wide / 2, high), (round(width * FIGURE_AT), ground),
        unit * staging.figure_units / high,
    ))  # fmt: skip
    return picture


def _floor(picture: np.ndarray, floor: np.ndarray, ground: float, step: float) -> None:
    high, wide = floor.shape[:2]
    texture = texture_of(floor)
    x = 0.0
    while x < picture.shape[1]:
        draw(picture, Placed(texture, (0, 0, wide, high), (0, 0), (x, ground), step))
        x += wide * step


def _sky(picture: np.ndarray, sky: np.ndarray, ratio: float) -> None:
    """The sky at three px a px, cut at its horizon so that the sun stands over the floor."""
    height, width = picture.shape[:2]
    k = max(round(3 * ratio), 1)
    rows = np.clip(np.arange(height) // k + 212 - round(height / k * 0.99), 0, sky.shape[0] - 1)
    columns = (np.arange(width) // k + 318) % sky.shape[1]
    picture[:] = premultiply(sky[np.ix_(rows, columns)])
