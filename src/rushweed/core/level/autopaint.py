"""Painting with auto-tile sets: every tile is chosen by what joins it, and so are its neighbours again."""

from __future__ import annotations

import numpy as np

from rushweed.core.document.edit import put_level
from rushweed.core.document.errors import EditError
from rushweed.core.document.model.level import Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import AutoSet
from rushweed.core.level.brush import Spots
from rushweed.core.level.chunks import region
from rushweed.core.level.edit import indices_of, painted_layer, put_cells
from rushweed.core.shape.autotile import STEPS, reduced


def paint_auto(
    project: Project, level_id: str, layer_id: str, autoset: AutoSet, spots: Spots, on: bool = True
) -> Project:
    """Put cells into the set, or take them out, and choose the tiles there and around them.

    By edges or both a cell joins neighbours of the same set. By corners a cell put in has all its four
    corners in, and tiles around it show those they share. Tiles around that somebody placed by hand (that
    were not the ones their neighbours asked for) stay as they are. Raises EditError if the set has no tiles.
    """
    if not autoset.tiles:
        raise EditError(f"{autoset.name} has no tiles yet.", "Lay its template on a sheet in Shape.")
    level, layer = painted_layer(project, level_id, layer_id)
    level, index = indices_of(project, level, tuple(p.cell for p in autoset.tiles))
    xs, ys = (np.asarray(v, np.int64) for v in spots)
    if not len(xs):
        return project
    left, top = int(xs.min()) - 2, int(ys.min()) - 2
    columns, rows = int(xs.max()) - left + 3, int(ys.max()) - top + 3
    old = region(layer.tiles, left, top, columns, rows)
    spot = np.zeros((rows, columns), bool)
    spot[ys - top, xs - left] = True
    joins = np.full(len(level.table) + 1, -1, np.int64)
    joins[index[1:]] = [p.joins for p in autoset.tiles]
    held = joins[np.minimum(old >> 3, len(level.table))]
    new = _by_corners(held, spot, on) if autoset.by == "corners" else _by_neighbours(held, spot, on, autoset)
    changed = (new != held) & (new >= -1)
    changed[spot] = True
    changed[[0, -1], :] = changed[:, [0, -1]] = False  # beyond it nothing is known
    at_y, at_x = np.nonzero(changed)
    cases = new[at_y, at_x]
    values = _chosen(autoset, index[1:].astype(np.int64), cases, at_x + left, at_y + top)
    same = (values == 0) & (old[at_y, at_x] == 0)
    at_x, at_y, values = at_x[~same], at_y[~same], values[~same]
    if level.table != painted_layer(project, level_id, layer_id)[0].table:
        project = put_level(project, level)
        level, layer = painted_layer(project, level_id, layer_id)
    return put_cells(project, level, layer, at_x + left, at_y + top, values.astype(np.uint32))


def rejoin(project: Project, level_id: str, layer_id: str, autoset: AutoSet, spots: Spots) -> Project:
    """Choose the tiles of a set anew at those of some cells that hold it, also those placed by hand; all
    other cells stay."""
    level, layer = painted_layer(project, level_id, layer_id)
    xs, ys = (np.asarray(v, np.int64) for v in spots)
    mine = {part.cell for part in autoset.tiles}
    held = [n + 1 for n, cell in enumerate(level.table) if cell in mine]
    if not xs.size or not held:
        return project
    left, top = int(xs.min()), int(ys.min())
    cells = region(layer.tiles, left, top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)
    of_set = np.isin(cells[ys - top, xs - left] >> 3, held)
    return paint_auto(project, level_id, layer_id, autoset, (xs[of_set], ys[of_set]))


def unjoined(
    level: Level, layer: TileLayer, autoset: AutoSet, area: tuple[int, int, int, int] | None = None
) -> np.ndarray:
    """The cells of a layer, in an area (left, top, columns, rows) or all, whose neighbours ask for a case
    that the set has no tile for: int (n, 2), column and row. Sets by corners have none that can be told."""
    places = {cell: n + 1 for n, cell in enumerate(level.table)}
    known = np.zeros(len(level.table) + 1, bool)
    known[[places[part.cell] for part in autoset.tiles if part.cell in places]] = True
    left, top, columns, rows = area or level.bounds
    inside = known[
        np.minimum(region(layer.tiles, left - 1, top - 1, columns + 2, rows + 2) >> 3, len(level.table))
    ]
    if autoset.by == "corners" or not inside.any():
        return np.zeros((0, 2), np.int64)
    have = [part.joins for part in autoset.tiles]
    missing = (inside & ~np.isin(_cases(inside, autoset), have))[1:-1, 1:-1]
    ys, xs = np.nonzero(missing)
    return np.stack((xs + left, ys + top), axis=1)


def _by_neighbours(held: np.ndarray, spot: np.ndarray, on: bool, autoset: AutoSet) -> np.ndarray:
    """The case of every cell, -1 where the set is not; only cells at the spots or beside them are new, and of
    those beside them only the ones that were chosen, not placed by hand."""
    case = _cases(np.where(spot, on, held >= 0), autoset)
    asked = _cases(held >= 0, autoset)
    have = sorted({p.joins for p in autoset.tiles})
    nearest = {int(c): _nearest_case(have, int(c)) for c in np.unique(asked) if c >= 0}
    chosen = np.array([nearest.get(c, -1) for c in range(256)])[np.maximum(asked, 0)]
    by_hand = (held >= 0) & (held != chosen) & ~spot
    return np.where(_grown(spot) & ~by_hand, case, held)


def _cases(inside: np.ndarray, autoset: AutoSet) -> np.ndarray:
    """What the neighbours of each cell ask for, where cells are in the set; -1 elsewhere."""
    mask = np.zeros(inside.shape, np.int64)
    padded = np.pad(inside, 1)
    high, wide = inside.shape
    for bit, (dx, dy) in STEPS.items():
        mask |= np.where(padded[1 + dy : 1 + dy + high, 1 + dx : 1 + dx + wide], bit, 0)
    return np.where(inside, reduced(autoset.by)[mask].astype(np.int64), -1)


def _nearest_case(have: list[int], case: int) -> int:
    """Of the cases that a set has tiles for, the one that differs in the fewest joins."""
    return min(have, key=lambda h: ((h ^ case).bit_count(), h))


def _by_corners(held: np.ndarray, spot: np.ndarray, on: bool) -> np.ndarray:
    """The case of every cell by the corners that are in, -1 where the set is not."""
    high, wide = held.shape
    known = np.maximum(held, 0)
    corner = np.zeros((high + 1, wide + 1), bool)
    fixed = np.zeros_like(corner)
    for bit, dx, dy in ((128, 0, 0), (2, 1, 0), (32, 0, 1), (8, 1, 1)):
        corner[dy : dy + high, dx : dx + wide] |= (known & bit) > 0
        fixed[dy : dy + high, dx : dx + wide] |= spot
    corner[fixed] = on
    case = np.zeros(held.shape, np.int64)
    for bit, dx, dy in ((128, 0, 0), (2, 1, 0), (32, 0, 1), (8, 1, 1)):
        case |= np.where(corner[dy : dy + high, dx : dx + wide], bit, 0)
    touched = _grown(spot)
    made = np.where((case == 0) & (held < 0), -1, case)
    return np.where(touched, made, held)


def _grown(spot: np.ndarray) -> np.ndarray:
    """The spots and all eight cells beside each."""
    padded = np.pad(spot, 1)
    out = np.zeros_like(spot)
    for dy in range(3):
        for dx in range(3):
            out |= padded[dy : dy + spot.shape[0], dx : dx + spot.shape[1]]
    return out


def _chosen(
    autoset: AutoSet, index: np.ndarray, cases: np.ndarray, xs: np.ndarray, ys: np.ndarray
) -> np.ndarray:
    """Cell values for cases, 0 for -1; of several tiles one by the place and their weights, so that the same
    place always gets the same. Where a case has no tile, the one that differs in the fewest joins."""
    out = np.zeros(len(cases), np.int64)
    have = sorted({p.joins for p in autoset.tiles})
    chance = _chance(xs, ys)
    for case in np.unique(cases).tolist():
        if case < 0 or (case == 0 and autoset.by == "corners" and 0 not in have):
            continue
        nearest = _nearest_case(have, case)
        mine = [n for n, p in enumerate(autoset.tiles) if p.joins == nearest]
        weights = np.cumsum([autoset.tiles[n].weight for n in mine])
        here = cases == case
        pick = np.searchsorted(weights, chance[here] * weights[-1], side="right")
        out[here] = index[np.array(mine)[np.minimum(pick, len(mine) - 1)]] * 8
    return out


def _chance(xs: np.ndarray, ys: np.ndarray) -> np.ndarray:
    """A number of 0 to 1 for each place, without a pattern to be seen."""
    mixed = (xs.astype(np.int64) * 73_856_093) ^ (ys.astype(np.int64) * 19_349_663)
    mixed = (mixed ^ (mixed >> 13)) * 1_274_126_177 & 0xFFFFFFFF
    mixed ^= mixed >> 16
    return (mixed & 0xFFFFFF) / float(1 << 24)
