"""Placing things in a level: a cell or an animation, anywhere on whole px, with the path it moves along."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.document.model import Path, Project, Thing
from rushweed.core.level.things import change_thing, place_thing, remove_thing, shown_at, thing_under
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.tools.tool import How, PaintTool

if TYPE_CHECKING:
    from rushweed.ui.stages.paint.stage import PaintStage

NEAR = 9  # screen px within which the end of a path is caught
TICK_MS = 33


class Things(PaintTool):
    """Places things and moves them and the ends of their paths. `ms` is the time things are shown at."""

    id, words, icon, key, group = "thing", "Things", "push-pin", "N", 2
    help = "Press to place the stamp's tile or the animation; drag it, or the diamond it moves to"
    marks_cell = False

    def __init__(self, stage: PaintStage) -> None:
        super().__init__(stage)
        self.chosen = ""
        self._start: tuple[float, float] | None = None
        self._before: Thing | None = None
        self._end = False  # whether the end of its path is dragged
        self._moving_since = 0.0
        self._timer = QTimer(stage)
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
            self.stage.moving.show_value(False)
        self.stage.desk.level_painter.ms = self.ms
        self.stage.desk.update()

    # -- pointer -----------------------------------------------------------------------------------

    @property
    def thing(self) -> Thing | None:
        level = self.session.selection.level
        return next((t for t in level.things if t.id == self.chosen), None) if level else None

    def press(self, at: DeskEvent) -> None:
        session, level = self.session, self.session.selection.level
        if level is None:
            return
        self._start, self._end = (at.x, at.y), self._on_end(at)
        if self._end:
            self._before = self.thing
            return
        found = thing_under(session.project, level, at.x, at.y)
        if found is None:
            found = self._place(at)
        self.chosen = found.id if found else ""
        self._before = found
        self.stage.show_thing()

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
            spot = self._snapped(at.x, at.y, at.ctrl)
            project, made = place_thing(
                project, session.selection.level_id, shows, spot, session.selection.layer_id, path
            )
            return project

        if not session.document.edit("Place a thing", change):
            return None
        self.chosen = made
        return self.thing

    def _snapped(self, x: float, y: float, to_grid: bool) -> tuple[float, float]:
        """Whole px; with Ctrl the nearest cell corner."""
        level = self.session.selection.level
        if to_grid and level is not None:
            cw, ch = level.cell
            return float(round(x / cw) * cw), float(round(y / ch) * ch)
        return float(round(x)), float(round(y))

    def _moved(self, at: DeskEvent) -> Callable[[Project], Project] | None:
        thing, start = self._before, self._start
        if thing is None or start is None:
            return None
        if self._end:
            x, y = self._snapped(at.x - thing.at[0], at.y - thing.at[1], at.ctrl)
            path = replace(self._path_of(thing) or Path((0.0, 0.0)), offset=(x, y))
            made = replace(thing, path=path if (x, y) != (0, 0) else None)
        else:
            spot = self._snapped(thing.at[0] + at.x - start[0], thing.at[1] + at.y - start[1], at.ctrl)
            made = replace(thing, at=spot)
        return partial(change_thing, level_id=self.session.selection.level_id, thing=made)

    def drag(self, at: DeskEvent) -> None:
        change = self._moved(at)
        if change is not None:
            self.session.document.preview(change)

    def release(self, at: DeskEvent) -> None:
        change, start = self._moved(at), self._start
        self._start = None
        if (
            change is not None
            and start is not None
            and (round(at.x - start[0]), round(at.y - start[1])) != (0, 0)
        ):
            self.session.document.edit("Path of a thing" if self._end else "Move a thing", change)
        elif self.session.document.gesturing:
            self.session.document.preview(None)

    @property
    def selects(self) -> bool:
        return self.thing is not None

    def cancel(self) -> None:
        super().cancel()
        self._start = None

    def step(self, dx: int, dy: int) -> bool:
        thing = self.thing
        if thing is None:
            return False
        made = replace(thing, at=(thing.at[0] + dx, thing.at[1] + dy))
        change = partial(change_thing, level_id=self.session.selection.level_id, thing=made)
        return self.session.document.edit("Move a thing", change, merge=("thing", thing.id))

    def rearrange(self, how: How) -> bool:
        """Things can be mirrored only."""
        thing = self.thing
        if thing is not None and how == "mirror":
            made = replace(thing, mirrored=not thing.mirrored)
            self.session.document.edit(
                "Mirror a thing", partial(change_thing, level_id=self.session.selection.level_id, thing=made)
            )
        return thing is not None

    def remove(self) -> None:
        thing = self.thing
        if thing is not None:
            change = partial(remove_thing, level_id=self.session.selection.level_id, thing_id=thing.id)
            self.session.document.edit("Remove a thing", change)
            self.chosen = ""

    # -- marks -------------------------------------------------------------------------------------

    def _path_of(self, thing: Thing) -> Path | None:
        if thing.path is not None:
            return thing.path
        animation = next((a for a in self.session.project.animations if a.id == thing.shows), None)
        return animation.path if animation else None

    def _end_point(self, thing: Thing) -> QPointF:
        """Where the grip of its path is, screen px: at its end, or a little above if it stands still."""
        path, view = self._path_of(thing), self.stage.desk.view
        if path is None:
            return view.to_screen(*thing.at) + QPointF(0, 14)
        return view.to_screen(thing.at[0] + path.offset[0], thing.at[1] + path.offset[1])

    def _on_end(self, at: DeskEvent) -> bool:
        thing = self.thing
        if thing is None:
            return False
        away = at.screen - self._end_point(thing)
        return abs(away.x()) <= NEAR and abs(away.y()) <= NEAR

    def paint(self, painter: QPainter, room: QRectF) -> None:
        thing, look, view = self.thing, self.stage.look, self.stage.desk.view
        if thing is None:
            return
        shown = shown_at(thing, self.session.cells_by_id, self.session.project)
        if shown is None:
            return
        box = view.rect(shown.left, shown.top, *shown.cell.rect[2:])
        paint_corners(
            painter, box.adjusted(-2, -2, 2, 2), 12, look.colour("art_rust"), look.colour("art_paper")
        )
        end, path = self._end_point(thing), self._path_of(thing)
        if path is not None:
            for colour, wide in ((look.colour("art_paper", 0.8), 4), (look.colour("art_rust"), 2)):
                style = Qt.PenStyle.DashLine if wide == 2 else Qt.PenStyle.SolidLine
                painter.setPen(QPen(colour, wide, style))
                painter.drawLine(view.to_screen(*thing.at), end)
            words = f"{path.offset[0]:+g}, {path.offset[1]:+g} px in {path.ms} ms"
            tag(painter, look, end.x() + 10, end.y() + 4, words, rust=True)
        painter.setPen(QPen(look.colour("art_paper"), 1.5))
        painter.setBrush(look.colour("art_rust"))
        painter.drawPolygon(QPolygonF([end + QPointF(*p) for p in ((-6, 0), (0, -6), (6, 0), (0, 6))]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
