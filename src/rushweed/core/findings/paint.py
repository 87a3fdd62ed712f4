"""Findings about levels: tiles that are gone, sheets of differing pixels per unit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from functools import partial

from rushweed.core.document.edit import kept_ids
from rushweed.core.document.model import Project, TileLayer
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.level.chunks import chunk_at
from rushweed.core.level.edit import erase_gone, gone_tiles, sheets_used
from rushweed.core.level.many_things import remove_things
from rushweed.core.pixels.stock import Stock
from rushweed.core.tune.edit import tune_sheets


def gone_cells(project: Project, stock: Stock) -> Iterator[Finding]:
    """Tiles of a level whose cell no sheet has any more."""
    for level in project.levels:
        gone = gone_tiles(project, level)
        total = sum(gone.values())
        if total:
            many = "1 tile stands" if total == 1 else f"{total} tiles stand"
            yield Finding(
                "gone-cell",
                "fault",
                f"{level.name}: {many} for cells that are gone.",
                Place("paint", level=level.id, spot=_first_spot(project, level.id)),
                Fix("Erase them", partial(erase_gone, level_id=level.id)),
            )


def gone_things(project: Project, stock: Stock) -> Iterator[Finding]:
    """Things that show a cell or an animation that is gone: they are neither seen nor met."""
    known = kept_ids(project) | {a.id for a in project.animations}
    for level in project.levels:
        gone = tuple(thing for thing in level.things if thing.shows not in known)
        if gone:
            many = "1 thing shows" if len(gone) == 1 else f"{len(gone)} things show"
            (x, y), (cw, ch) = gone[0].at, level.cell
            yield Finding(
                "gone-thing",
                "fault",
                f"{level.name}: {many} what is gone.",
                Place("paint", level=level.id, spot=(int(x // cw), int(y // ch))),
                Fix(
                    "Remove them",
                    partial(remove_things, level_id=level.id, thing_ids=tuple(t.id for t in gone)),
                ),
            )


def _first_spot(project: Project, level_id: str) -> tuple[int, int] | None:
    level = next(v for v in project.levels if v.id == level_id)
    known = kept_ids(project)
    gone = {i + 1 for i, c in enumerate(level.table) if c not in known}
    for layer in level.layers:
        if isinstance(layer, TileLayer):
            tiles = layer.tiles
            for cy in range(tiles.top, tiles.top + tiles.rows):
                for cx in range(tiles.left, tiles.left + tiles.columns):
                    chunk = chunk_at(tiles, cx, cy)
                    if chunk is None:
                        continue
                    for y, x in zip(*chunk.cells.nonzero(), strict=True):
                        if int(chunk.cells[y, x]) >> 3 in gone:
                            return cx * 32 + int(x), cy * 32 + int(y)
    return None


def mixed_ppu(project: Project, stock: Stock) -> Iterator[Finding]:
    """Sheets of one level that do not share their pixels per unit."""
    for level in project.levels:
        sheets = sheets_used(project, level)
        values = Counter(s.tune.ppu for s in sheets)
        if len(values) > 1:
            names = ", ".join(f"{s.name} {s.tune.ppu:g}" for s in sheets)
            usual = values.most_common(1)[0][0]
            others = [s.id for s in sheets if s.tune.ppu != usual]
            yield Finding(
                "mixed-ppu",
                "hint",
                f"{level.name} mixes pixels per unit: {names}.",
                Place("tune", sheet=others[0]),
                Fix(f"All {usual:g} px a unit", partial(tune_sheets, sheet_ids=others, ppu=usual)),
            )
