"""What of a level is drawn, and in which order: one rule for the window, pictures and what is shipped.

Layers run from far to near, each with its things right after it; those in front of the walker come after him.
By foot, things, the walker, and tiles that say on which line they stand (the trait *draw over*, px above
their lower edge, negative below it) are drawn by how low that line is, after the tiles of all layers behind.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.model.level import BackdropLayer, Layer, Level, PictureLayer, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import region
from rushweed.core.level.things import Area, Shown, things_over
from rushweed.core.shape.traits import OVER, value_of

Point = tuple[float, float]


class DrawnTiles(NamedTuple):
    """All tiles of a layer but those of some table indices; the layer is moved by `shift` px."""

    layer: TileLayer
    shift: Point
    left_out: frozenset[int] = frozenset()


class DrawnPicture(NamedTuple):
    """A backdrop or a picture, its upper left at `at`, level px."""

    layer: BackdropLayer | PictureLayer
    at: Point


class Standing(NamedTuple):
    """A thing on a layer, which is moved by `shift` px."""

    layer: Layer
    shown: Shown
    shift: Point


class StandingTile(NamedTuple):
    """A tile of a layer that is drawn by its foot: the cell's value, its upper left, level px."""

    layer: TileLayer
    value: int
    at: Point


class DrawnWalker(NamedTuple):
    """The walker, whose feet stand at a place, level px."""

    at: Point


Draw = DrawnTiles | DrawnPicture | Standing | StandingTile | DrawnWalker


def layer_shift(layer: Layer, level: Level, view: Point, ms: float = 0.0) -> Point:
    """By how many px a layer is moved when the middle of the picture is at `view`, level px.

    With the picture's middle on the level's start every layer stands where it was placed; when the picture
    moves, the layer keeps up with it by 1 - parallax. A backdrop drifts with the time.
    """
    lags = [1 - share for share in layer.keeps_up]
    shift = [(view[n] - level.start[n]) * lags[n] + layer.offset[n] for n in (0, 1)]
    if isinstance(layer, BackdropLayer):
        shift[0] += layer.drift[0] * ms / 1000
        shift[1] += layer.drift[1] * ms / 1000 + layer.top
    return shift[0], shift[1]


def draws(
    project: Project, level: Level, area: Area, ms: float = 0.0, walker: Point | None = None,
    middle: Point | None = None,
) -> Iterator[Draw]:  # fmt: skip
    """What is drawn in a part of a level (left, top, width, height, level px), far to near; the middle of the
    picture, level px, is the part's unless it is given."""
    view = middle or (area[0] + area[2] / 2, area[1] + area[3] / 2)
    shown = [layer for layer in level.layers if layer.shown and layer.opacity_percent > 0]
    lines = standing_lines(project, level) if level.order == "foot" else {}
    by_foot: list[tuple[float, int, Draw]] = []
    for n, layer in enumerate(layer for layer in shown if not layer.front):
        shift = layer_shift(layer, level, view, ms)
        drawn: list[Draw] = list(_ground(layer, shift, frozenset(lines)))
        things = list(_standing(project, level, layer, ms, (shift, area)))
        if level.order == "foot":
            by_foot += [(one.shown.foot[1] + shift[1], n, one) for one in things]
            if lines and isinstance(layer, TileLayer):
                by_foot += _standing_tiles(layer, level, shift, area, lines, n)
        else:
            drawn += things
        yield from drawn
    if walker is not None:
        by_foot.append((walker[1], len(shown), DrawnWalker(walker)))
    yield from (draw for _foot, _n, draw in sorted(by_foot, key=lambda one: one[:2]))
    for layer in shown:
        if layer.front:
            shift = layer_shift(layer, level, view, ms)
            yield from _ground(layer, shift, frozenset())
            yield from _standing(project, level, layer, ms, (shift, area))


def _standing(
    project: Project, level: Level, layer: Layer, ms: float, part: tuple[Point, Area]
) -> Iterator[Standing]:
    """The things of a layer, moved by a shift, that may be seen in a part of the level."""
    shift, (left, top, wide, high) = part
    area = (left - shift[0], top - shift[1], wide, high)
    return (Standing(layer, one, shift) for one in things_over(project, level, layer.id, ms, area))


def _ground(layer: Layer, shift: Point, left_out: frozenset[int]) -> Iterator[Draw]:
    if isinstance(layer, TileLayer):
        yield DrawnTiles(layer, shift, left_out)
    elif isinstance(layer, (BackdropLayer, PictureLayer)):
        yield DrawnPicture(layer, shift)


def standing_lines(project: Project, level: Level) -> dict[int, float]:
    """The tiles of a level's table that say on which line they stand: px above their lower edge, by index."""
    lines, cells = {}, cell_homes(project)
    for n, cell_id in enumerate(level.table):
        found = cells.get(cell_id)
        line = value_of(found[1], OVER.id) if found is not None else None
        if isinstance(line, (int, float)) and not isinstance(line, bool):
            lines[n + 1] = float(line)
    return lines


def _standing_tiles(
    layer: TileLayer,
    level: Level,
    shift: Point,
    area: tuple[float, float, float, float],
    lines: dict[int, float],
    number: int,
) -> Iterator[tuple[float, int, StandingTile]]:
    """The tiles in view that stand by their foot, each with the line it stands on, level px."""
    cw, ch = level.cell
    left, top = math.floor((area[0] - shift[0]) / cw), math.floor((area[1] - shift[1]) / ch)
    right = math.ceil((area[0] + area[2] - shift[0]) / cw)
    bottom = math.ceil((area[1] + area[3] - shift[1]) / ch)
    held = region(layer.tiles, left, top, max(right - left, 1), max(bottom - top, 1))
    for row, column in np.argwhere(np.isin(held >> 3, list(lines))):
        value = int(held[row, column])
        x, y = (left + int(column)) * cw + shift[0], (top + int(row)) * ch + shift[1]
        yield y + ch - lines[value >> 3], number, StandingTile(layer, value, (x, y))
