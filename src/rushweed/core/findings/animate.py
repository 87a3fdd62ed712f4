"""Findings about animations: states that show nothing, frames that are gone, feet that drift."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from rushweed.core.animate.register import drift_of, pixels_of_cell, set_shifts, shifts_for, spread
from rushweed.core.animate.timeline import remove_frames, remove_state
from rushweed.core.document.edit import cells_by_id, kept_ids
from rushweed.core.document.model import Animation, Project
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.stock import Stock

JITTER = 3.0  # px up to which a drift of the feet is more likely a fault than a jump


def states_without(project: Project, stock: Stock) -> Iterator[Finding]:
    """A state of the game that no animation is shown for."""
    there = {a.id for a in project.animations}
    for sheet in project.sheets:
        for state in sheet.states:
            if state.animation not in there:
                text = f"{sheet.name}: the state {state.name} has no animation."
                fix = Fix("Take the state away", partial(remove_state, sheet_id=sheet.id, name=state.name))
                yield Finding("state-without", "hint", text, Place("animate", sheet=sheet.id), fix)


def frames_gone(project: Project, stock: Stock) -> Iterator[Finding]:
    """An animation that shows cells the project no longer has."""
    cells = kept_ids(project)
    for animation in project.animations:
        gone = [n for n, f in enumerate(animation.frames) if f.cell not in cells]
        if gone:
            several = f"{len(gone)} frames show cells that are gone."
            words = "1 frame shows a cell that is gone." if len(gone) == 1 else several
            fix = Fix("Take them out", partial(remove_frames, animation_id=animation.id, places=gone))
            text = f"{animation.name}: {words}"
            yield Finding("frame-gone", "fault", text, Place("animate", animation=animation.id), fix)


def feet_drift(project: Project, stock: Stock) -> Iterator[Finding]:
    """Frames whose outline wanders by a px or a few: drawn off their place, most likely."""
    cells = cells_by_id(project)
    for animation in project.animations:
        found = [cells[f.cell] for f in animation.frames if f.cell in cells]
        if len(found) < 3:
            continue
        held = [(cell, pixels_of_cell(stock.pixels_or_blank(sheet), cell)) for sheet, cell in found]
        feet = spread([drift_of(pixels, cell).feet for cell, pixels in held])
        if 0 < feet <= JITTER:
            text = f"{animation.name}: the feet drift by {feet:g} px over {len(found)} frames."
            fix = Fix("Register them", partial(_registered, animation=animation, stock=stock))
            place = Place("animate", sheet=found[0][0].id, animation=animation.id)
            yield Finding("feet-drift", "hint", text, place, fix)


def _registered(project: Project, animation: Animation, stock: Stock) -> Project:
    """The frames put on one another by their outlines."""
    cells = cells_by_id(project)
    found = [cells[f.cell] for f in animation.frames if f.cell in cells]
    held = [(cell, pixels_of_cell(stock.pixels_or_blank(sheet), cell)) for sheet, cell in found]
    return set_shifts(project, shifts_for(held, "outline", "both"))
