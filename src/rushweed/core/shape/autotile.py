"""Sets of tiles that choose themselves: which case each tile is for, what is missing, what is there twice.

A case is a mask of the eight neighbours that join, clockwise from above: above 1, above right 2, right 4,
below right 8, below 16, below left 32, left 64, above left 128. By edges only the four sides count, by
corners the four corners, where a corner joins with both sides beside it; by both a corner counts only between
two sides that join, which leaves 47 cases.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection
from functools import cache
from typing import Any, Literal

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import cell_homes
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import AutoPart, AutoSet
from rushweed.core.document.model.sheet import Sheet

By = Literal["edges", "corners", "both"]
ABOVE, RIGHT, BELOW, LEFT = 1, 4, 16, 64
SIDES = (ABOVE, RIGHT, BELOW, LEFT)
CORNERS = (2, 8, 32, 128)  # above right, below right, below left, above left
BESIDE = {2: (ABOVE, RIGHT), 8: (RIGHT, BELOW), 32: (BELOW, LEFT), 128: (LEFT, ABOVE)}
# Steps to the neighbour of each bit: columns right, rows down.
STEPS = {1: (0, -1), 2: (1, -1), 4: (1, 0), 8: (1, 1), 16: (0, 1), 32: (-1, 1), 64: (-1, 0), 128: (-1, -1)}


@cache
def reduced(by: By) -> np.ndarray:
    """For every mask of neighbours the case it is, uint8 (256,)."""
    out = np.zeros(256, np.uint8)
    for mask in range(256):
        sides = mask & 85
        corners = sum(c for c in CORNERS if mask & c and all(mask & s for s in BESIDE[c]))
        out[mask] = {"edges": sides, "corners": corners, "both": sides | corners}[by]
    return out


@cache
def cases(by: By) -> tuple[int, ...]:
    """All cases of a set: 16, 16 or 47, fewest joins first."""
    if by == "corners":
        found = {sum(c for i, c in enumerate(CORNERS) if n >> i & 1) for n in range(16)}
    else:
        found = set(reduced(by).tolist())
    return tuple(sorted(found, key=lambda m: (m.bit_count(), m)))


def template(by: By) -> tuple[tuple[int | None, ...], ...]:
    """The cases as they are laid out on a sheet, row by row.

    By edges 4 x 4: columns join to neither side, right, both, left; rows likewise below, both, above. By
    corners 4 x 4: a patch of 3 x 3 with its rim, beside it none and the two pairs that lie across, below it
    the four inner corners. By both 8 x 6, by the sides that join and then by the corners, the last free.
    """
    if by == "edges":
        across, down = (0, RIGHT, RIGHT | LEFT, LEFT), (0, BELOW, BELOW | ABOVE, ABOVE)
        return tuple(tuple(a | d for a in across) for d in down)
    if by == "corners":
        return (
            (8, 8 | 32, 32, 0),
            (2 | 8, 170, 128 | 32, 128 | 8),
            (2, 128 | 2, 128, 2 | 32),
            (170 - 128, 170 - 32, 170 - 2, 170 - 8),
        )
    ordered = sorted(cases("both"), key=lambda m: (m & 85, m))
    padded: list[int | None] = [*ordered, *[None] * (48 - len(ordered))]
    return tuple(tuple(padded[i : i + 8]) for i in range(0, 48, 8))


# -- edits -------------------------------------------------------------------------------------------------


def set_of(project: Project, set_id: str) -> AutoSet:
    """Raises EditError if there is none with that id."""
    found = next((s for s in project.autosets if s.id == set_id), None)
    if found is None:
        raise EditError("That auto-tile set is gone.", "Choose another.")
    return found


def add_set(project: Project, name: str, by: By) -> tuple[Project, AutoSet]:
    """Add an auto-tile set; returns it too, under a name that is free."""
    name = unique_name(name.strip() or "auto", {s.name for s in project.autosets})
    made = AutoSet(new_id(), name, by)
    return replace(project, autosets=(*project.autosets, made)), made


def change_set(project: Project, set_id: str, **fields: Any) -> Project:
    """Rename a set, or count it by edges, corners or both; its tiles keep the joins that are left."""
    old = set_of(project, set_id)
    new = replace(old, **fields)
    if not new.name.strip() or any(s.name == new.name for s in project.autosets if s.id != set_id):
        raise EditError(f"A set cannot be called {new.name!r}.", "Use a name that no other has.")
    if new.by != old.by:
        new = replace(new, tiles=tuple(replace(p, joins=_allowed(p.joins, new.by)) for p in new.tiles))
    return _put(project, new)


def remove_set(project: Project, set_id: str) -> Project:
    """Take a set out; its tiles stay as they are."""
    return replace(project, autosets=tuple(s for s in project.autosets if s.id != set_id))


def set_joins(project: Project, set_id: str, cell_id: str, joins: int | None) -> Project:
    """Put a tile into a set for a case, or take it out (None). The case is brought to one of the set's."""
    old = set_of(project, set_id)
    if joins is None:
        return _put(project, replace(old, tiles=tuple(p for p in old.tiles if p.cell != cell_id)))
    case = _allowed(joins, old.by)
    if any(p.cell == cell_id for p in old.tiles):
        tiles = tuple(replace(p, joins=case) if p.cell == cell_id else p for p in old.tiles)
    else:
        if cell_id not in cell_homes(project):
            raise EditError("That tile is gone from its sheet.", "Choose another.")
        tiles = (*old.tiles, AutoPart(cell_id, case))
    return _put(project, replace(old, tiles=tiles))


def set_weight(project: Project, set_id: str, cell_ids: Collection[str], weight: float) -> Project:
    """Set how often some tiles are drawn beside others of their case. Raises EditError outside 0 to 1000."""
    if not 0 < weight <= 1000:
        raise EditError(f"A weight of {weight:g} is not possible.", "Use more than 0, at most 1000.")
    old = set_of(project, set_id)
    tiles = tuple(replace(p, weight=weight) if p.cell in cell_ids else p for p in old.tiles)
    return _put(project, replace(old, tiles=tiles))


def lay_template(
    project: Project, set_id: str, sheet: Sheet, first: str, size: tuple[int, int] | None = None
) -> Project:
    """Give the tiles of a sheet their cases by the template, its upper left place on the cell `first`; places
    without a cell are left out, and those beyond `size` (columns, rows). Raises EditError if the cell is not
    of the sheet."""
    old = set_of(project, set_id)
    made = dict(template_cells(old.by, sheet, first, size))
    if not made:
        raise EditError("The template has no tile to begin at.", "Choose a cell of this sheet.")
    kept = tuple(p for p in old.tiles if p.cell not in made)
    return _put(project, replace(old, tiles=(*kept, *(AutoPart(c, case) for c, case in made.items()))))


def template_cells(
    by: By, sheet: Sheet, first: str, size: tuple[int, int] | None = None
) -> list[tuple[str, int]]:
    """The cells that a template covers, by id, with the case of each; none if `first` is not of the sheet."""
    start = next((c for c in sheet.cells if c.id == first), None)
    if start is None:
        return []
    xs = sorted({c.rect[0] for c in sheet.cells})
    ys = sorted({c.rect[1] for c in sheet.cells})
    by_place = {(c.rect[0], c.rect[1]): c.id for c in sheet.cells}
    column, row = xs.index(start.rect[0]), ys.index(start.rect[1])
    made = []
    for j, line in enumerate(template(by)[: size[1] if size else None]):
        for i, case in enumerate(line[: size[0] if size else None]):
            if case is not None and column + i < len(xs) and row + j < len(ys):
                cell = by_place.get((xs[column + i], ys[row + j]))
                if cell is not None:
                    made.append((cell, case))
    return made


def _allowed(joins: int, by: By) -> int:
    if by == "corners":
        return joins & 170
    return int(reduced(by)[joins & 255])


def _put(project: Project, new: AutoSet) -> Project:
    sets = tuple(new if s.id == new.id else s for s in project.autosets)
    return project if sets == project.autosets else replace(project, autosets=sets)


# -- what is wrong with a set ------------------------------------------------------------------------------


def gaps(autoset: AutoSet) -> tuple[int, ...]:
    """Cases without a tile. A set by corners needs none for no corner at all: nothing is there."""
    have = {p.joins for p in autoset.tiles}
    free = {0} if autoset.by == "corners" else set()
    return tuple(case for case in cases(autoset.by) if case not in have and case not in free)


def in_several(project: Project) -> dict[str, list[str]]:
    """Tiles that more than one set has, by id, with the names of the sets."""
    count = Counter(p.cell for s in project.autosets for p in s.tiles)
    return {
        cell: [s.name for s in project.autosets if any(p.cell == cell for p in s.tiles)]
        for cell, n in count.items() if n > 1
    }  # fmt: skip


def case_words(case: int, by: By) -> str:
    """A case in words, for findings."""
    names = (
        {1: "above", 4: "right", 16: "below", 64: "left"} if by != "corners"
        else {128: "upper left", 2: "upper right", 8: "lower right", 32: "lower left"}
    )  # fmt: skip
    joined = [name for bit, name in names.items() if case & bit]
    corners = sum(bool(case & c) for c in CORNERS) if by == "both" else 0
    words = " and ".join(joined) or "nothing"
    return f"{words}, {corners} corners" if corners else words
