"""Findings about animations: states that show nothing, frames that are gone, feet that drift."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from functools import partial

import numpy as np
from msgspec.structs import replace

from rushweed.core.animate.register import drift_of, pixels_of_cell, set_shifts, shifts_for, spread
from rushweed.core.animate.timeline import remove_frames, remove_state
from rushweed.core.document.edit import cell_homes, kept_ids
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.tune.edit import pivot_drift, set_pivot_px

JITTER = 3.0  # px up to which a drift of the feet is more likely a fault than a jump
INK = 128  # alpha from which a px is art
BEND = 1  # px that a figure may be lower than usual and still only be moved
RUN, RUN_SHARE = 4, 1 / 8  # px of art along an edge, and of its length, from which it may be cut off
SELDOM = 0.34  # of the frames that may touch an edge by mistake: where more do, it is meant
SIDES = ("left", "right", "top")  # feet stand on the lower edge by right


def states_without(project: Project, stock: PixelCache) -> Iterator[Finding]:
    """A state of the game that no animation is shown for."""
    there = {a.id for a in project.animations}
    for sheet in project.sheets:
        for state in sheet.states:
            if state.animation not in there:
                text = f"{sheet.name}: the state {state.name} has no animation."
                fix = Fix("Take the state away", partial(remove_state, sheet_id=sheet.id, name=state.name))
                yield Finding("state-without", "hint", text, Place("animate", sheet=sheet.id), fix)


def frames_gone(animation: Animation, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """An animation that shows cells the project no longer has."""
    cells = kept_ids(project)
    gone = [n for n, f in enumerate(animation.frames) if f.cell not in cells]
    if gone:
        several = f"{len(gone)} frames show cells that are gone."
        words = "1 frame shows a cell that is gone." if len(gone) == 1 else several
        fix = Fix("Take them out", partial(remove_frames, animation_id=animation.id, places=gone))
        text = f"{animation.name}: {words}"
        yield Finding("frame-gone", "fault", text, Place("animate", animation=animation.id), fix)


def feet_drift(animation: Animation, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Frames that stand a px or a few off the line on which most stand, from head to feet: drawn off their
    place, most likely, and neither bent nor turned."""
    frames = frames_of(animation, project, stock)
    if len(frames) < 3:
        return
    drifts = [drift_of(pixels, cell).feet for _sheet, cell, pixels in frames]
    heights = [_height(pixels) for _sheet, _cell, pixels in frames]
    feet, (line, times) = spread(drifts), Counter(drifts).most_common(1)[0]
    high = Counter(h for h, d in zip(heights, drifts, strict=True) if d == line).most_common(1)[0][0]
    moved = all(abs(h - high) <= BEND for h, d in zip(heights, drifts, strict=True) if d != line)
    if 0 < feet <= JITTER and 2 * times >= len(frames) and moved:
        text = f"{animation.name}: the feet drift by {feet:g} px over {len(frames)} frames."
        fix = Fix("Register them", partial(_registered, animation=animation, stock=stock))
        place = Place("animate", sheet=frames[0][0].id, animation=animation.id)
        yield Finding("feet-drift", "hint", text, place, fix)


def _height(pixels: np.ndarray) -> int:
    """Of the ink, px."""
    rows = np.flatnonzero((pixels[..., 3] >= INK).any(axis=1))
    return int(rows[-1] - rows[0]) + 1 if rows.size else 0


def pivots_drift(animation: Animation, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Frames of one size whose pivots differ, and not because their feet do: the figure jumps about."""
    frames = frames_of(animation, project, stock)
    cells = {cell.id: cell for _sheet, cell, _pixels in frames}
    if len(cells) < 2 or len({cell.rect[2:] for cell in cells.values()}) > 1:
        return
    across, down = pivot_drift(cells.values())
    if not (across or down):
        return
    own = spread([drift_of(pixels, cell).feet for _sheet, cell, pixels in frames])
    middle = spread([drift_of(pixels, cell).middle for _sheet, cell, pixels in frames])
    bare = [(replace(cell, pivot=(0.0, 0.0)), pixels) for _sheet, cell, pixels in frames]
    steady = spread([drift_of(pixels, cell).feet for cell, pixels in bare]) < own
    steady = steady or spread([drift_of(pixels, cell).middle for cell, pixels in bare]) < middle
    if not steady:
        return  # the pivots follow the art
    usual = Counter(cell.pivot for cell in cells.values()).most_common(1)[0][0]
    others = tuple(cell.id for cell in cells.values() if cell.pivot != usual)
    text = f"{animation.name}: the pivots drift by {max(across, down):g} px over {len(frames)} frames."
    fix = Fix(
        f"All at {usual[0]:g}, {usual[1]:g}", partial(set_pivot_px, cell_ids=others, x=usual[0], y=usual[1])
    )
    place = Place("tune", sheet=frames[0][0].id, animation=animation.id, cells=others)
    yield Finding("pivot-drift", "hint", text, place, fix)


def touches_edge(animation: Animation, project: Project, stock: PixelCache) -> Iterator[Finding]:
    """Frames whose art ends in a straight line at the edge of its cell, where that of the others stays away
    from it: it is cut off there, most likely."""
    frames = {cell.id: (cell, pixels) for _sheet, cell, pixels in frames_of(animation, project, stock)}
    if len(frames) < 3:
        return
    flat = {cell_id: _flat_sides(pixels) for cell_id, (_cell, pixels) in frames.items()}
    found: list[tuple[str, str]] = []
    for side in SIDES:
        touching = [cell_id for cell_id, sides in flat.items() if side in sides]
        if 0 < len(touching) <= len(flat) * SELDOM:
            found += [(cell_id, side) for cell_id in touching]
    if found:
        sheet = next(s for s, _cell, _pixels in frames_of(animation, project, stock))
        ids = tuple(dict.fromkeys(cell_id for cell_id, _side in found))
        cell = frames[found[0][0]][0]
        more = f", and {len(ids) - 1} more" if len(ids) > 1 else ""
        ends = f"{cell.name} ends straight at the {found[0][1]} edge of its cell{more}"
        text = f"{animation.name}: {ends}; it may be cut off."
        place = Place("cut", sheet=sheet.id, animation=animation.id, cells=ids)
        yield Finding("touches-edge", "hint", text, place)


def _flat_sides(pixels: np.ndarray) -> set[str]:
    """The sides at which ink ends in a long straight run that is no shorter than what lies next to it, as art
    does that was cut off; an outline that ends there by itself gets shorter."""
    ink = pixels[..., 3] >= INK
    if min(ink.shape) < 4:
        return set()
    lines = {"left": (ink[:, 0], ink[:, 1]), "right": (ink[:, -1], ink[:, -2]), "top": (ink[0], ink[1])}
    return {
        side
        for side, (edge, inner) in lines.items()
        if _longest(edge) >= max(RUN, edge.size * RUN_SHARE) and edge.sum() >= inner.sum()
    }


def _longest(line: np.ndarray) -> int:
    """Of the runs of true in a line."""
    bounds = np.flatnonzero(np.diff(np.concatenate(([False], line, [False]))))
    return int((bounds[1::2] - bounds[::2]).max(initial=0))


def frames_of(
    animation: Animation, project: Project, stock: PixelCache
) -> list[tuple[Sheet, Cell, np.ndarray]]:
    """Sheet, cell and px, uint8 (height, width, 4), of each frame that is there."""
    homes = cell_homes(project)
    found = [homes[f.cell] for f in animation.frames if f.cell in homes]
    return [(sheet, cell, pixels_of_cell(stock.pixels_or_blank(sheet), cell)) for sheet, cell in found]


def _registered(project: Project, animation: Animation, stock: PixelCache) -> Project:
    """The frames put on one another by their outlines."""
    held = [(cell, pixels) for _sheet, cell, pixels in frames_of(animation, project, stock)]
    return set_shifts(project, shifts_for(held, "outline", "both"))
