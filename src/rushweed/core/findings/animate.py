"""Findings about animations: states that show nothing, frames that are gone, feet that drift."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from functools import partial
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from rushweed.core.animate.edges import INK, SIDES, Side, flat_sides, goes_on_beyond, lacks_part_of
from rushweed.core.animate.register import drift_of, pixels_of_cell, set_shifts, spread
from rushweed.core.animate.timeline import remove_frames, remove_state
from rushweed.core.document.edit import cell_homes, kept_ids
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.findings.finding import Finding, Fix, Place
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.tune.edit import pivot_drift, set_pivot_px

JITTER = 3.0  # px up to which a drift of the feet is more likely a fault than a jump
BEND = 1  # px that a figure may be lower than usual and still only be moved
BETTER = 0.5  # of the px in which a frame differs from the others, that may be left when it is put back
SELDOM = 0.34  # of the frames that may touch an edge by mistake: where more do, it is meant


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
    """Frames that stand a px or a few off the line on which most stand, from head to feet, and look much more
    like one of those when they are put back on it: drawn off their place, and neither bent nor turned."""
    frames = frames_of(animation, project, stock)
    if len(frames) < 3:
        return
    drifts = [drift_of(pixels, cell).feet for _sheet, cell, pixels in frames]
    line, times = Counter(drifts).most_common(1)[0]
    if line is None or 2 * times < len(frames):
        return
    standing = [Standing.of(cell, pixels) for _sheet, cell, pixels in frames]
    on_line = [one for one, feet in zip(standing, drifts, strict=True) if feet == line]
    high = Counter(one.height for one in on_line).most_common(1)[0][0]
    off = {
        cell.id: int(feet - line)
        for one, feet, (_sheet, cell, _pixels) in zip(standing, drifts, frames, strict=True)
        if feet is not None and 0 < abs(feet - line) <= JITTER and abs(one.height - high) <= BEND
        and one.belongs_up(int(feet - line), on_line)
    }  # fmt: skip
    if off:
        far = max(abs(down) for down in off.values())
        text = f"{animation.name}: the feet drift by {far} px in {len(off)} of {len(frames)} frames."
        shifts = {c.id: (c.shift[0], c.shift[1] - off[c.id]) for _s, c, _p in frames if c.id in off}
        fix = Fix("Put them on the line", partial(set_shifts, shifts=shifts))
        place = Place("animate", sheet=frames[0][0].id, animation=animation.id, cells=tuple(off))
        yield Finding("feet-drift", "hint", text, place, fix)


class Standing(NamedTuple):
    """The ink of a frame, bool (height, width), and where its corner lies seen from its pivot, px."""

    ink: np.ndarray
    corner: tuple[int, int]
    height: int  # of the ink

    @classmethod
    def of(cls, cell: Cell, pixels: np.ndarray) -> Standing:
        """That of a cell with its pixels, uint8 (height, width, 4)."""
        ink = pixels[..., 3] >= INK
        rows = np.flatnonzero(ink.any(axis=1))
        corner = (round(cell.shift[0] - cell.pivot[0]), round(cell.shift[1] - cell.pivot[1]))
        return cls(ink, corner, int(rows[-1] - rows[0]) + 1 if rows.size else 0)

    def belongs_up(self, px: int, others: Sequence[Standing]) -> bool:
        """Whether it is much more like one of the others when it is moved up."""
        same = [other for other in others if other.ink.shape == self.ink.shape]
        now = min((self._differs(other, 0) for other in same), default=0)
        return min((self._differs(other, px) for other in same), default=1) <= BETTER * now

    def _differs(self, other: Standing, up: int) -> int:
        """In how many px, when it is moved up."""
        across, down = self.corner[0] - other.corner[0], self.corner[1] - other.corner[1]
        return int(np.count_nonzero(np.roll(self.ink, (down - up, across), (0, 1)) ^ other.ink))


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
    from it, and goes on beyond the edge or is whole in the frames before and after: it is cut off."""
    frames = {cell.id: (sheet, cell, pixels) for sheet, cell, pixels in frames_of(animation, project, stock)}
    if len(frames) < 3:
        return
    inks = {cell_id: pixels[..., 3] >= INK for cell_id, (_sheet, _cell, pixels) in frames.items()}
    flat = {cell_id: flat_sides(ink) for cell_id, ink in inks.items()}
    order = [frame.cell for frame in animation.frames if frame.cell in frames]
    found: list[tuple[str, Side]] = []
    for side in SIDES:
        touching = [cell_id for cell_id, sides in flat.items() if side in sides]
        if len(touching) > len(flat) * SELDOM:
            continue
        for cell_id in touching:
            sheet, cell, _pixels = frames[cell_id]
            rgba = stock.pixels_or_blank(sheet)
            at = order.index(cell_id)
            beside = [inks[order[at - 1]], inks[order[(at + 1) % len(order)]]]
            if goes_on_beyond(rgba, cell.rect, side) or all(
                lacks_part_of(inks[cell_id], other, side) for other in beside
            ):
                found.append((cell_id, side))
    if found:
        ids = tuple(dict.fromkeys(cell_id for cell_id, _side in found))
        sheet, cell, _pixels = frames[found[0][0]]
        more = f", and {len(ids) - 1} more" if len(ids) > 1 else ""
        text = f"{animation.name}: {cell.name} is cut off at the {found[0][1]} edge of its cell{more}."
        place = Place("cut", sheet=sheet.id, animation=animation.id, cells=ids)
        yield Finding("touches-edge", "hint", text, place)


def frames_of(
    animation: Animation, project: Project, stock: PixelCache
) -> list[tuple[Sheet, Cell, np.ndarray]]:
    """Sheet, cell and px, uint8 (height, width, 4), of each frame that is there."""
    homes = cell_homes(project)
    found = [homes[f.cell] for f in animation.frames if f.cell in homes]
    return [(sheet, cell, pixels_of_cell(stock.pixels_or_blank(sheet), cell)) for sheet, cell in found]
