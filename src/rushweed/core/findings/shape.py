"""Findings about shapes: corners between pixels, shapes outside their tile."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from rushweed.core.animate.body import INK, below_feet, set_body
from rushweed.core.document.edit import cell_homes, change_cells
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Polygon
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.findings.animate import frames_of
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.shape.autotile import case_words, gaps, in_several, set_joins
from rushweed.core.shape.edit import ended_at, whole
from rushweed.core.shape.primitives import bounds, crossed, is_whole


def fractional_shapes(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Shapes with a corner that is not on a whole pixel."""
    cells = [c for c in sheet.cells if not all(is_whole(s) for s in c.shapes)]
    if not cells:
        return
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


def auto_gaps(project: Project, stock: PixelCache) -> Iterator[Finding]:
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


def auto_conflicts(project: Project, stock: PixelCache) -> Iterator[Finding]:
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
    found = cell_homes(project).get(cell_id)
    return found[0].id if found else None


def body_below_feet(animation: Animation, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Bodies of characters that reach below the feet of every frame."""
    if animation.body is None:
        return
    frames = [(cell, pixels) for _sheet, cell, pixels in frames_of(animation, project, stock)]
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


def shape_below_feet(animation: Animation, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Shapes of a figure's frames that reach below the lowest ink of their frame: it would float."""
    if animation.tile:
        return
    low: dict[str, int] = {}
    for _sheet, cell, pixels in frames_of(animation, project, stock):
        rows = np.flatnonzero((pixels[..., 3] >= INK).any(axis=1))
        solid = [bounds(s)[3] for s in cell.shapes if s.role != "sensor"]
        if rows.size and solid and max(solid) > (feet := int(rows[-1]) + 1 + cell.shift[1]):
            low[cell.id] = feet
    if low:
        many = "the shape of 1 frame reaches" if len(low) == 1 else f"the shapes of {len(low)} frames reach"
        yield Finding(
            "shape-below-feet",
            "hint",
            f"{animation.name}: {many} below the feet.",
            Place("shape", sheet=_home(project, next(iter(low))), animation=animation.id, cells=tuple(low)),
            Fix("End them at the feet", partial(_ended, feet=low)),
        )


def _ended(project: Project, feet: dict[str, int]) -> Project:
    return change_cells(project, feet, lambda cell: ended_at(cell, feet[cell.id]))


def outside_tile(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Shapes that reach beyond their cell."""
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
            "shape-outside", "hint", text, Place("shape", sheet=sheet.id, cells=tuple(c.id for c in found))
        )


def crossing_edges(sheet: Sheet, stock: PixelCache) -> Iterator[Finding]:
    """Polygons whose edges cross: no game can tell their inside."""
    rings = [(c, s.points) for c in sheet.cells for s in c.shapes if isinstance(s, Polygon)]
    bad = np.flatnonzero(crossed([points for _cell, points in rings])).tolist()
    found = list({rings[n][0].id: rings[n][0] for n in bad}.values())
    if found:
        text = (
            f"{sheet.name}: the shape of {found[0].name} crosses itself."
            if len(found) == 1
            else f"{sheet.name}: the shapes of {len(found)} cells cross themselves."
        )
        place = Place("shape", sheet=sheet.id, cells=tuple(c.id for c in found))
        yield Finding("crossing-shape", "fault", text, place)
