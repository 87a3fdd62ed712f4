"""Findings about shapes: corners between pixels, shapes outside their tile."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from rushweed.core.animate.body import below_feet, set_body
from rushweed.core.document.edit import cells_by_id, change_cells
from rushweed.core.document.model import Polygon, Project
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.stock import Stock
from rushweed.core.shape.autotile import case_words, gaps, in_several, set_joins
from rushweed.core.shape.edit import whole
from rushweed.core.shape.primitives import bounds, crossings, is_whole


def fractional_shapes(project: Project, stock: Stock) -> Iterator[Finding]:
    """Shapes with a corner that is not on a whole pixel."""
    for sheet in project.sheets:
        cells = [c for c in sheet.cells if not all(is_whole(s) for s in c.shapes)]
        if not cells:
            continue
        ids = tuple(c.id for c in cells)
        text = (
            f"{sheet.name}: the shape of {cells[0].name} has corners between pixels."
            if len(cells) == 1
            else f"{sheet.name}: the shapes of {len(cells)} cells have corners between pixels."
        )
        yield Finding(
            "fractional-shape",
            "hint",
            text,
            Place("shape", sheet=sheet.id, cells=ids),
            Fix("Round to px", partial(change_cells, cell_ids=ids, change=whole)),
        )


def auto_gaps(project: Project, stock: Stock) -> Iterator[Finding]:
    """Auto-tile sets that miss a case."""
    for autoset in project.autosets:
        missing = gaps(autoset)
        if autoset.tiles and missing:
            more = f" and {len(missing) - 1} more" if len(missing) > 1 else ""
            yield Finding(
                "auto-gap",
                "hint",
                f"{autoset.name} has no tile that joins {case_words(missing[0], autoset.by)}{more}.",
                Place("shape", sheet=_home(project, autoset.tiles[0].cell)),
            )


def auto_conflicts(project: Project, stock: Stock) -> Iterator[Finding]:
    """Tiles that two sets want, and tiles of sets that are gone."""
    known = {c.id: s.id for s in project.sheets for c in s.cells}
    twice = in_several(project)
    if twice:
        cell, names = next(iter(twice.items()))
        yield Finding(
            "auto-conflict",
            "hint",
            f"{len(twice)} tiles stand in more than one auto-tile set, {' and '.join(names)}.",
            Place("shape", sheet=known.get(cell), cells=(cell,) if cell in known else ()),
        )
    for autoset in project.autosets:
        gone = [p.cell for p in autoset.tiles if p.cell not in known]
        if gone:
            yield Finding(
                "auto-gone",
                "fault",
                f"{autoset.name} has {len(gone)} tiles whose cells are gone.",
                Place("shape"),
                Fix("Take them out", partial(_without_gone, set_id=autoset.id, gone=gone)),
            )


def _without_gone(project: Project, set_id: str, gone: list[str]) -> Project:
    for cell in gone:
        project = set_joins(project, set_id, cell, None)
    return project


def _home(project: Project, cell_id: str) -> str | None:
    return next((s.id for s in project.sheets if any(c.id == cell_id for c in s.cells)), None)


def body_below_feet(project: Project, stock: Stock) -> Iterator[Finding]:
    """Bodies of characters that reach below the feet of every frame."""
    known = cells_by_id(project)
    for animation in project.animations:
        if animation.body is None:
            continue
        frames = []
        for cell_id in {f.cell for f in animation.frames} & set(known):
            sheet, cell = known[cell_id]
            x, y, w, h = cell.rect
            frames.append((cell, stock.pixels_or_blank(sheet)[y : y + h, x : x + w]))
        px = below_feet(animation.body, frames)
        if px:
            x, y, w, h = animation.body
            yield Finding(
                "body-below-feet",
                "hint",
                f"The body of {animation.name} reaches {px} px below its feet.",
                Place("animate", animation=animation.id),
                Fix(
                    "End it at the feet",
                    partial(set_body, animation_id=animation.id, body=(x, y, w, max(h - px, 1))),
                ),
            )


def outside_tile(project: Project, stock: Stock) -> Iterator[Finding]:
    """Shapes that reach beyond their cell."""
    for sheet in project.sheets:
        found = []
        for cell in sheet.cells:
            for shape in cell.shapes:
                left, top, right, bottom = bounds(shape)
                if left < 0 or top < 0 or right > cell.rect[2] or bottom > cell.rect[3]:
                    found.append(cell)
                    break
        if found:
            text = (
                f"{sheet.name}: the shape of {found[0].name} reaches outside its cell."
                if len(found) == 1
                else f"{sheet.name}: the shapes of {len(found)} cells reach outside them."
            )
            yield Finding(
                "shape-outside",
                "hint",
                text,
                Place("shape", sheet=sheet.id, cells=tuple(c.id for c in found)),
            )


def crossing_edges(project: Project, stock: Stock) -> Iterator[Finding]:
    """Polygons whose edges cross: no game can tell their inside."""
    for sheet in project.sheets:
        found = [
            c for c in sheet.cells if any(isinstance(s, Polygon) and crossings(s.points) for s in c.shapes)
        ]
        if found:
            text = (
                f"{sheet.name}: the shape of {found[0].name} crosses itself."
                if len(found) == 1
                else f"{sheet.name}: the shapes of {len(found)} cells cross themselves."
            )
            place = Place("shape", sheet=sheet.id, cells=tuple(c.id for c in found))
            yield Finding("crossing-shape", "fault", text, place)
