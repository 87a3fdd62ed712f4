"""The shapes of very many cells as few paths, made some at a time."""

from __future__ import annotations

import time
from collections.abc import Sequence
from operator import is_
from typing import NamedTuple, get_args

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainterPath, QTransform

from rushweed.core.document.model.shape import Role, Shape
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.primitives import corners
from rushweed.ui.desk.paths import rings_path

GROUP = 256  # cells that share their paths
TURN_S = 0.006  # for so long paths are made before what there is is drawn
ROLES: tuple[Role, ...] = get_args(Role)

Placed = tuple[Shape, float, float]  # a shape and the px of its cell's top left


class Group(NamedTuple):
    """The paths of some cells, in px of the sheet or of the screen, and which shapes of them are one-way."""

    cells: Sequence[Cell]
    paths: dict[Role, QPainterPath]
    one_way: list[Placed]

    def lies_in(self, seen: QRectF) -> bool:
        return any(path.controlPointRect().intersects(seen) for path in self.paths.values())

    def mapped(self, place: QTransform) -> Group:
        return self._replace(paths={role: place.map(path) for role, path in self.paths.items()})


class ManyShapes:
    """Paths of a list of cells. A group whose shapes have changed is shown as it was until all are made."""

    def __init__(self) -> None:
        self._cells: Sequence[Cell] = ()
        self._groups: list[Group] = []
        self.complete = True  # whether all are made

    def groups(self, cells: Sequence[Cell], seen: QRectF) -> list[Group]:
        """The groups that show in a part of the sheet, px."""
        if cells is not self._cells:
            self._cells = cells
            self.make()
        return [group for group in self._groups if group.lies_in(seen)]

    def make(self) -> None:
        """Make groups for a moment, at least one, in place of those of other cells."""
        end, made = time.perf_counter() + TURN_S, 0
        before, self._groups, self.complete = self._groups, [], True
        for start in range(0, len(self._cells), GROUP):
            mine = self._cells[start : start + GROUP]
            group = before[start // GROUP] if start // GROUP < len(before) else Group((), {}, [])
            if not _same(group.cells, mine):
                if not made or time.perf_counter() < end:
                    group, made = _made(mine), made + 1
                else:
                    self.complete = False
            self._groups.append(group)


def _same(one: Sequence[Cell], other: Sequence[Cell]) -> bool:
    return len(one) == len(other) and all(map(is_, one, other))


def _made(cells: Sequence[Cell]) -> Group:
    placed = [(s, c.rect[0], c.rect[1]) for c in cells for s in c.shapes]
    paths = {}
    for role in ROLES:
        mine = [one for one in placed if one[0].role == role]
        if mine:
            paths[role] = rings_path([corners(s) for s, _x, _y in mine], [(x, y) for _s, x, y in mine])
    return Group(cells, paths, [one for one in placed if one[0].role == "one-way"])
