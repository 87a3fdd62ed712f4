"""Brush and eraser: strokes that go over cells, each cell once."""

from __future__ import annotations

import numpy as np

from rushweed.core.document.model.level import KeptStamp
from rushweed.core.document.model.project import Project
from rushweed.core.level.autopaint import paint_auto
from rushweed.core.level.brush import Spots, line
from rushweed.core.level.edit import erase, paint, paint_pattern
from rushweed.core.level.kept import put_stamp, size_of
from rushweed.core.level.stamp import Stamp
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.session.gesture import Edit, Gesture
from rushweed.ui.stages.paint.tools.tool import PaintTool, Place


class Stroke(PaintTool):
    """Carries on to each new cell under the pointer; the whole is one step."""

    verb = "Paint"
    erases = False
    warns = True

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        assert self.began is not None
        self._last = self.began
        self._gesture: Gesture | None = None
        self._trail: list[Spots] = []  # the cells that the stroke went over
        self._go_on(self.began)

    def drag(self, at: DeskEvent) -> None:
        cell = self.state.cell(at)
        if self.began is not None and cell != self._last:
            self._go_on(cell)

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        if self._gesture is not None:
            self._gesture.commit(f"{self.verb} on {self.layer_name}")
        if self._trail:
            xs, ys = zip(*self._trail, strict=True)
            self.caution((np.concatenate(xs), np.concatenate(ys)), self.erases)

    def _go_on(self, cell: Place) -> None:
        """Only the new cells are worked, onto the stroke so far."""
        spots = line(*self._last, *cell)
        self._last = cell
        step = self.step_over(spots)
        if step is not None:
            self._gesture = self._gesture or self.session.document.gesture(self.verb)
            change, covered = step
            self._trail.append(covered)
            self._gesture.update(change)

    def step_over(self, spots: Spots) -> tuple[Edit, Spots] | None:
        """What working these cells does, and the cells it covers; None if it cannot be."""
        raise NotImplementedError


class Brush(Stroke):
    id, words, icon, key, group = "brush", "Brush", "paint-brush", "B", 1
    help = "Paint the stamp; Alt takes what is under the pointer"
    paints = shows_stamp = True

    def press(self, at: DeskEvent) -> None:
        self._put: set[Place] = set()  # where the whole stamp was put in this stroke
        super().press(at)

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        super().dragged(start, end, at)
        self.session.selection.note_painted()

    def covered(self, at: Place) -> tuple[int, int, int, int]:
        stamp, whole = self.session.selection.stamp, self.session.selection.whole_stamp
        if whole is not None:
            return (*at, *size_of(whole))
        return (*at, *stamp.size) if stamp is not None else (*at, 1, 1)

    def step_over(self, spots: Spots) -> tuple[Edit, Spots] | None:
        whole = self.session.selection.whole_stamp
        if whole is not None:
            return self._step_whole(whole, spots)
        ids, auto, stamp = self.ids, self.auto_set(), self.ready_stamp()
        if stamp is None or self.began is None:
            return None
        if auto is not None:
            both = self.mirrored_spots(spots)
            return lambda p: paint_auto(p, *ids, auto, both), both
        chance = self.state.stamp_line.chance()
        if chance is not None:
            return self._step_by_chance(stamp, spots, chance)
        each = self.mirrored(stamp, self.on_pattern(spots, stamp, self.began))

        def change(project: Project) -> Project:
            for one, places in each:
                project = paint(project, *ids, one, places)
            return project

        covered = [one.footprint(places) for one, places in each]
        return change, (np.concatenate([x for x, _y in covered]), np.concatenate([y for _x, y in covered]))

    def _step_by_chance(self, stamp: Stamp, spots: Spots, seed: int) -> tuple[Edit, Spots]:
        """Each cell gets a tile of the stamp by chance; going on does not repeat what came before."""
        ids, covered = self.ids, self.mirrored_spots(spots)
        seed += 7919 * len(self._trail)
        return lambda p: paint_pattern(p, *ids, stamp, covered, seed), covered

    def _step_whole(self, stamp: KeptStamp, spots: Spots) -> tuple[Edit, Spots] | None:
        """A stamp over several layers is put side by side with itself, each once."""
        assert self.began is not None
        columns, rows = size_of(stamp)
        xs = self.began[0] + (spots[0] - self.began[0]) // columns * columns
        ys = self.began[1] + (spots[1] - self.began[1]) // rows * rows
        places = sorted(set(zip(xs.tolist(), ys.tolist(), strict=True)) - self._put)
        if not places:
            return None
        self._put |= set(places)
        level_id, layer_id = self.ids

        def change(project: Project) -> Project:
            for x, y in places:
                project = put_stamp(project, level_id, stamp, x, y, layer_id)
            return project

        return change, (np.array([x for x, _y in places]), np.array([y for _x, y in places]))


class Erase(Stroke):
    id, words, icon, key, group = "erase", "Erase", "eraser", "E", 1
    help = "Erase cells; the right button erases with any brush"
    verb, erases = "Erase", True

    def step_over(self, spots: Spots) -> tuple[Edit, Spots]:
        """With a joining set in hand its neighbours join anew; other tiles go only where this tool was
        chosen, not by the right button."""
        ids, auto, all_tiles = self.ids, self.auto_set(), self.state.tool_id == self.id
        spots = self.mirrored_spots(spots)

        def change(project: Project) -> Project:
            if auto is None:
                return erase(project, *ids, spots)
            made = paint_auto(project, *ids, auto, spots, False)
            return erase(made, *ids, spots) if all_tiles else made

        return change, spots
