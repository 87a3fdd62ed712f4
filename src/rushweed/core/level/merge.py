"""Brings two versions of a project together that both come from a third: what one side changed, part by part.

Parts with an id (sheets, cells, levels, layers, things ...) are matched by it, the cells of a layer by their
place, all else field by field. Where both sides changed the same thing, ours stays and it is told.
"""

from __future__ import annotations

from collections.abc import Container
from typing import Any, NamedTuple

import msgspec
import numpy as np
from msgspec.structs import replace

from rushweed.core.document.model.level import CHUNK, Level, TileLayer, Tiles
from rushweed.core.document.model.project import Project
from rushweed.core.level.chunks import put_region, region

_NONE = object()


class Clash(NamedTuple):
    """Something both sides changed: the id of the sheet, level or other part of the project it is in ("" for
    the project itself), and the name of that or of what is nearest to it, such as a layer."""

    id: str
    name: str


class Merged(NamedTuple):
    """The project with both sides' changes, what the other side brought, and what both had changed."""

    project: Project
    brought: tuple[str, ...]
    clashes: tuple[Clash, ...]

    @property
    def clashing(self) -> tuple[str, ...]:
        """The names of what both sides changed."""
        return tuple(dict.fromkeys(clash.name for clash in self.clashes))


def merge(base: Project, ours: Project, theirs: Project, prefer_theirs: Container[str] = ()) -> Merged:
    """Both sides' changes since `base`; where they clash ours stay, or theirs in the parts of the project
    whose ids are in `prefer_theirs`."""
    work = _Merging(prefer_theirs)
    made = work.fields(base, ours, theirs, ours.name)
    brought = tuple(
        part.name
        for kind in ("sheets", "levels", "animations")
        for part in getattr(made, kind)
        if not any(part is mine for mine in getattr(ours, kind))
    )
    gone = tuple(
        part.name
        for kind in ("sheets", "levels", "animations")
        for part in getattr(ours, kind)
        if part.id not in {p.id for p in getattr(made, kind)}
    )
    return Merged(made, (*brought, *gone), tuple(dict.fromkeys(work.clashes)))


class _Merging:
    def __init__(self, prefer_theirs: Container[str]) -> None:
        self._preferred = prefer_theirs
        self._part = ""  # the id of the part of the project that is at hand
        self.clashes: list[Clash] = []

    @property
    def prefer_theirs(self) -> bool:
        return self._part in self._preferred

    def clash(self, name: str) -> None:
        self.clashes.append(Clash(self._part, name))

    def value(self, base: Any, ours: Any, theirs: Any, where: str) -> Any:
        """One value of three versions."""
        if same(ours, theirs) or same(base, theirs):
            return ours
        if same(base, ours):
            return theirs
        if isinstance(ours, Tiles) and isinstance(theirs, Tiles):
            return self.tiles(base if isinstance(base, Tiles) else Tiles(), ours, theirs, where)
        if isinstance(ours, msgspec.Struct) and type(ours) is type(theirs) is type(base):
            return self.fields(base, ours, theirs, where)
        if _by_id(ours) and _by_id(theirs) and _by_id(base):
            return self.parts(base, ours, theirs, where)
        self.clash(where)
        return theirs if self.prefer_theirs else ours

    def fields(self, base: Any, ours: Any, theirs: Any, where: str) -> Any:
        """A struct, field by field; the tables of levels are brought together first."""
        if isinstance(ours, Level):
            base, ours, theirs = one_table(base, ours, theirs)
        if isinstance(ours, Level) and not any(
            same(*pair) for pair in ((base.bounds, ours.bounds), (base.bounds, theirs.bounds))
        ):
            grown = _around(ours.bounds, theirs.bounds)
            ours, theirs = replace(ours, bounds=grown), replace(theirs, bounds=grown)
        made = {
            name: self.value(getattr(base, name), getattr(ours, name), getattr(theirs, name), where)
            for name in ours.__struct_fields__
        }
        if all(made[name] is getattr(ours, name) for name in made):
            return ours
        return replace(ours, **made)

    def parts(self, base: Any, ours: Any, theirs: Any, where: str) -> Any:
        """Parts matched by their ids: ours in our order, then what they have added."""
        old, new = {p.id: p for p in base}, {p.id: p for p in theirs}
        outer = not self._part
        made = []
        for part in ours:
            self._part = part.id if outer else self._part
            name = getattr(part, "name", "") or where
            before, there = old.get(part.id, _NONE), new.get(part.id, _NONE)
            if there is _NONE:
                if before is not _NONE and same(before, part):
                    continue  # they removed it, and here nothing was done to it
                if before is not _NONE:
                    self.clash(name)
                    if self.prefer_theirs:
                        continue
                made.append(part)
            else:
                known = part if before is _NONE else before
                made.append(self.value(known, part, there, name))
        held = {p.id for p in ours}
        for part in theirs:
            if part.id in held:
                continue
            self._part = part.id if outer else self._part
            before = old.get(part.id, _NONE)
            if before is _NONE:
                made.append(part)
            elif not same(before, part):  # removed here, changed there
                self.clash(getattr(part, "name", "") or where)
                if self.prefer_theirs:
                    made.append(part)
        self._part = "" if outer else self._part
        kept = len(made) == len(ours) and all(a is b for a, b in zip(made, ours, strict=True))
        return ours if kept else tuple(made)

    def tiles(self, base: Tiles, ours: Tiles, theirs: Tiles, where: str) -> Tiles:
        """The cells of a layer, each by its place."""
        spans = [t for t in (base, ours, theirs) if t.columns and t.rows]
        left, top = min(t.left for t in spans) * CHUNK, min(t.top for t in spans) * CHUNK
        wide = max(t.left + t.columns for t in spans) * CHUNK - left
        high = max(t.top + t.rows for t in spans) * CHUNK - top
        was, mine, there = (region(t, left, top, wide, high) for t in (base, ours, theirs))
        take = (there != was) & (mine == was)
        clash = (there != was) & (mine != was) & (there != mine)
        if clash.any():
            self.clash(where)
            take |= clash & self.prefer_theirs
        return put_region(ours, left, top, np.where(take, there, mine))


def one_table(*levels: Level) -> tuple[Level, ...]:
    """The same levels with one table of cells in common, so that equal tiles have equal values."""
    table = list(dict.fromkeys(cell for level in levels for cell in level.table))
    place = {cell: n + 1 for n, cell in enumerate(table)}
    made = []
    for level in levels:
        slots = np.array([0, *(place[cell] for cell in level.table)], np.uint32)
        layers = tuple(
            _renumbered(layer, slots) if isinstance(layer, TileLayer) else layer for layer in level.layers
        )
        made.append(
            level if level.table == tuple(table) else replace(level, table=tuple(table), layers=layers)
        )
    return tuple(made)


def _around(a: tuple[int, int, int, int], b: tuple[int, int, int, int]) -> tuple[int, int, int, int]:
    """The bounds (left, top, columns, rows) that hold both."""
    left, top = min(a[0], b[0]), min(a[1], b[1])
    return left, top, max(a[0] + a[2], b[0] + b[2]) - left, max(a[1] + a[3], b[1] + b[3]) - top


def _renumbered(layer: TileLayer, slots: np.ndarray) -> TileLayer:
    tiles = layer.tiles
    if not tiles.columns or not tiles.rows:
        return layer
    left, top = tiles.left * CHUNK, tiles.top * CHUNK
    cells = region(tiles, left, top, tiles.columns * CHUNK, tiles.rows * CHUNK)
    new = np.where(cells > 0, slots[cells >> 3] << np.uint32(3) | cells & np.uint32(7), np.uint32(0))
    return replace(layer, tiles=put_region(Tiles(), left, top, new.astype(np.uint32)))


def _by_id(value: Any) -> bool:
    return isinstance(value, tuple) and all(hasattr(part, "id") for part in value)


def same(a: Any, b: Any) -> bool:
    """Whether two values say the same, also where they cannot be compared by themselves."""
    if a is b:
        return True
    if isinstance(a, np.ndarray) and isinstance(b, np.ndarray):
        return bool(np.array_equal(a, b))
    if isinstance(a, Tiles) and isinstance(b, Tiles):
        return _same_tiles(a, b)
    if isinstance(a, msgspec.Struct) and type(a) is type(b):
        return all(same(getattr(a, n), getattr(b, n)) for n in a.__struct_fields__)
    if isinstance(a, tuple) and isinstance(b, tuple):
        return len(a) == len(b) and all(same(x, y) for x, y in zip(a, b, strict=True))
    return bool(type(a) is type(b) and a == b)


def _same_tiles(a: Tiles, b: Tiles) -> bool:
    spans = [t for t in (a, b) if t.columns and t.rows]
    if not spans:
        return True
    left, top = min(t.left for t in spans) * CHUNK, min(t.top for t in spans) * CHUNK
    wide = max(t.left + t.columns for t in spans) * CHUNK - left
    high = max(t.top + t.rows for t in spans) * CHUNK - top
    return bool(np.array_equal(region(a, left, top, wide, high), region(b, left, top, wide, high)))
