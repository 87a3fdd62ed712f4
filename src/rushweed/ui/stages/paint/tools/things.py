"""Placing things in a level: cells or animations, with the path they move along; one or many at once."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QTimer
from PyQt6.QtGui import QPainter

from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.level import Level, Thing
from rushweed.core.document.model.project import Project
from rushweed.core.level import many_things
from rushweed.core.level.many_things import Box, Meeting, boxes_of, meeting, things_in
from rushweed.core.level.things import change_thing, place_thing, thing_under
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.stages.paint.stamp_line import How
from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.tools.thing_marks import ThingMarks
from rushweed.ui.stages.paint.tools.tool import PaintTool

NEAR = 9  # screen px within which the end of a path is caught
TICK_MS = 33


class Things(PaintTool):
    """Places things and moves them and the ends of their paths. `ms` is the time things are shown at."""

    id, words, icon, key, group = "thing", "Things", "push-pin", "N", 2
    help = "Press to place, drag to move, Ctrl copies, Shift selects more"
    marks_cell = False

    def __init__(self, state: PaintState) -> None:
        super().__init__(state)
        self.ids_chosen: tuple[str, ...] = ()
        self._found: tuple[tuple[Thing, ...], tuple[str, ...], dict[str, Thing]] = ((), (), {})
        self.snap = "px"  # px, grid, edges or free
        self._start: tuple[float, float] | None = None
        self._before: Thing | None = None  # the one that was pressed
        self._placing: object | None = None  # what makes one step of placing and dragging
        self._end = False  # whether the end of its path is dragged
        self._frame: QRectF | None = None  # dragged around things, level px
        self.meeting_lines: Meeting | None = None  # on which edges meet
        self._moving_since = 0.0
        self._marks = ThingMarks(state)
        self._timer = QTimer(state)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._tick)

    # -- moving ------------------------------------------------------------------------------------

    @property
    def ms(self) -> float:
        return (time.monotonic() - self._moving_since) * 1000 if self._timer.isActive() else 0.0

    def run(self, on: bool) -> None:
        """Let things move on the Desk, or stand as they were placed."""
        self._moving_since = time.monotonic()
        self._timer.start() if on else self._timer.stop()
        self._tick()

    def _tick(self) -> None:
        if self.session.stage != "paint":
            self._timer.stop()
            self.state.shown.moving.show_value(False)
        self.state.desk.level_painter.ms = self.ms
        self.state.desk.update()

    # -- pointer -----------------------------------------------------------------------------------

    @property
    def things(self) -> list[Thing]:
        """Those selected that are there."""
        return list(self._there().values())

    def _there(self) -> dict[str, Thing]:
        """The same by their ids, looked for once."""
        level, ids = self.session.selection.level, self.ids_chosen
        if level is None or not ids:
            return {}
        of, known, found = self._found
        if of is not level.things or known != ids:
            chosen = frozenset(ids)
            found = {t.id: t for t in level.things if t.id in chosen}
            self._found = level.things, ids, found
        return found

    @property
    def thing(self) -> Thing | None:
        """The one selected last."""
        there = self._there()
        return next((there[i] for i in reversed(self.ids_chosen) if i in there), None)

    def press(self, at: DeskEvent) -> None:
        session, level = self.session, self.session.selection.level
        if level is None:
            return
        self._start, self._end, self._frame, self.meeting_lines = (at.x, at.y), self._on_end(at), None, None
        self._placing = None
        if self._end:
            self._before = self.thing
            return
        found = thing_under(session.project, level, at.x, at.y)
        if found is None and at.shift:
            self._before, self._frame = None, QRectF(at.x, at.y, 0, 0)
            return
        if found is None:
            found = self._place(at)
            self.ids_chosen = (found.id,) if found else ()
        elif at.shift:
            rest = tuple(i for i in self.ids_chosen if i != found.id)
            self.ids_chosen = rest if found.id in self.ids_chosen else (*rest, found.id)
        elif found.id not in self.ids_chosen:
            self.ids_chosen = (found.id,)
        self._before = found if found is not None and found.id in self.ids_chosen else None
        self.state.chosen_changed.emit()

    def _place(self, at: DeskEvent) -> Thing | None:
        """Put down the first tile of the stamp, or the animation chosen if no stamp is."""
        session, stamp = self.session, self.session.selection.stamp
        animation = session.selection.animation
        shows, path = (stamp.cells[0], None) if stamp and stamp.cells else ("", None)
        if not shows and animation is not None:
            shows, path = animation.id, animation.path
        made = ""

        def change(project: Project) -> Project:
            nonlocal made
            spot = self._snapped(at.x, at.y)
            project, made = place_thing(
                project, session.selection.level_id, shows, spot, session.selection.layer_id, path
            )
            return project

        self._placing = object()
        if not session.document.edit("Place a thing", change, self._placing):
            return None
        self.ids_chosen = (made,)
        return self.thing

    def _snapped(self, x: float, y: float) -> tuple[float, float]:
        """Whole px, the nearest cell corner, or as it is."""
        level = self.session.selection.level
        if self.snap == "grid" and level is not None:
            cw, ch = level.cell
            return float(round(x / cw) * cw), float(round(y / ch) * ch)
        return (x, y) if self.snap == "free" else (float(round(x)), float(round(y)))

    def _step(self, at: DeskEvent, level: Level) -> tuple[float, float]:
        """How far the selected things go, by the snapping in use."""
        thing, start = self._before, self._start
        assert thing is not None and start is not None
        spot = self._snapped(thing.at[0] + at.x - start[0], thing.at[1] + at.y - start[1])
        dx, dy = spot[0] - thing.at[0], spot[1] - thing.at[1]
        self.meeting_lines = None
        if self.snap != "edges":
            return dx, dy
        boxes, chosen = boxes_of(self.session.document.history.project, level), frozenset(self.ids_chosen)
        mine = [box for i, box in boxes.items() if i in chosen]
        others = [box for i, box in boxes.items() if i not in chosen]
        if not mine:
            return dx, dy
        whole: Box = (
            min(b[0] for b in mine) + dx, min(b[1] for b in mine) + dy,
            max(b[2] for b in mine) + dx, max(b[3] for b in mine) + dy,
        )  # fmt: skip
        self.meeting_lines = meeting(whole, others)
        return dx + self.meeting_lines.dx, dy + self.meeting_lines.dy

    def _moved(self, at: DeskEvent) -> Callable[[Project], Project] | None:
        thing, start, level_id = self._before, self._start, self.session.selection.level_id
        history = self.session.document.history.project
        level = next((v for v in history.levels if v.id == level_id), None)
        if thing is None or start is None or level is None:
            return None
        if self._end:
            x, y = self._snapped(at.x - thing.at[0], at.y - thing.at[1])
            path = replace(self._marks.path_of(thing) or Path((0.0, 0.0)), offset=(x, y))
            made = replace(thing, path=path if (x, y) != (0, 0) else None)
            return partial(change_thing, level_id=level_id, thing=made)
        (dx, dy), ids = self._step(at, level), self.ids_chosen
        if at.ctrl:
            return lambda p: many_things.copy_things(p, level_id, ids, dx, dy)[0]
        return lambda p: many_things.move_things(p, level_id, ids, dx, dy)

    def drag(self, at: DeskEvent) -> None:
        if self._frame is not None and self._start is not None:
            corners = QPointF(*self._start), QPointF(at.x, at.y)
            self._frame = QRectF(*corners).normalized()
            self.state.desk.update()
            return
        change = self._moved(at)
        if change is not None:
            self.session.document.preview(change)

    def release(self, at: DeskEvent) -> None:
        frame, self._frame = self._frame, None
        if frame is not None:
            self._select_in(frame)
            return
        change, start = self._moved(at), self._start
        self._start = self.meeting_lines = None
        if (
            change is not None
            and start is not None
            and (round(at.x - start[0]), round(at.y - start[1])) != (0, 0)
        ):
            copying = at.ctrl and not self._end
            before = {t.id for t in self._all()}
            words = "Path of a thing" if self._end else "Copy things" if copying else "Move a thing"
            words = "Place a thing" if self._placing is not None else words
            if self.session.document.edit(words, change, self._placing) and copying:
                self.ids_chosen = tuple(t.id for t in self._all() if t.id not in before)
        elif self.session.document.gesturing:
            self.session.document.preview(None)
        self.state.desk.update()

    def _all(self) -> tuple[Thing, ...]:
        level = self.session.selection.level
        return level.things if level is not None else ()

    def _select_in(self, frame: QRectF) -> None:
        level = self.session.selection.level
        if level is not None:
            box = (frame.left(), frame.top(), frame.right(), frame.bottom())
            found = dict.fromkeys(things_in(self.session.project, level, box))
            self.ids_chosen = (*(i for i in self.ids_chosen if i not in found), *found)
        self.state.chosen_changed.emit()
        self.state.desk.update()

    @property
    def selects(self) -> bool:
        return self.thing is not None

    def cancel(self) -> None:
        super().cancel()
        self._start = self._frame = self.meeting_lines = None

    # -- edits of all that are selected ----------------------------------------------------------------

    def edit(self, words: str, change: Callable[..., Project], *more: Any, merge: object = None) -> bool:
        """Call an edit with the level and the ids of what is selected."""
        level_id, ids = self.session.selection.level_id, self.ids_chosen
        return self.session.document.edit(words, lambda p: change(p, level_id, ids, *more), merge)

    def step(self, dx: int, dy: int) -> bool:
        if self.thing is None:
            return False
        return self.edit(
            "Move a thing", many_things.move_things, float(dx), float(dy), merge=("thing", self.ids_chosen)
        )

    def rearrange(self, how: How) -> bool:
        """Each is mirrored, or turned a quarter, where it stands; upside down is mirrored and half turned."""
        if self.thing is None:
            return False
        return self.edit(f"{how.capitalize()} a thing", many_things.rearrange_things, how)

    def remove(self) -> None:
        if self.thing is not None and self.edit("Remove a thing", many_things.remove_things):
            self.ids_chosen = ()

    # -- marks -------------------------------------------------------------------------------------

    def _on_end(self, at: DeskEvent) -> bool:
        thing = self.thing
        if thing is None or len(self.things) > 1:
            return False
        away = at.screen - self._marks.end_of(thing)
        return abs(away.x()) <= NEAR and abs(away.y()) <= NEAR

    def paint(self, painter: QPainter, room: QRectF) -> None:
        self._marks.paint(painter, self._there(), self._frame, self.meeting_lines)
