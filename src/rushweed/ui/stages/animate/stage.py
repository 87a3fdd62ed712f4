"""Animate: frames played, laid over one another, and registered as a printer registers plates."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from pathlib import Path as FilePath

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QFileDialog

from rushweed.core.animate import register, timeline
from rushweed.core.animate.export import Form, written
from rushweed.core.animate.play import frame_at, place_on, start_of
from rushweed.core.animate.trim import trim_alike
from rushweed.core.document.model.animation import Animation, Path
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Box
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.store.files import write_file
from rushweed.ui.desk import rulers
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.images import checker
from rushweed.ui.desk.marks import paint_plumb
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import PickBox
from rushweed.ui.kit.controls import IconButton, button, tag
from rushweed.ui.kit.fields import NumbersField
from rushweed.ui.kit.text import many
from rushweed.ui.session.jobs import Job
from rushweed.ui.stages.animate.card import AnimateCard
from rushweed.ui.stages.animate.tools import DragPath, ShiftFrames
from rushweed.ui.stages.animate.words import AS_DRAWN, MOVES, MOVES_HELP, WAYS
from rushweed.ui.stages.select_cells import ARROWS

SPEEDS = {"1/8": 0.125, "1/4": 0.25, "1/2": 0.5, "1": 1.0, "2": 2.0, "4": 4.0}
TICK_MS = 8


MOST_UNTOLD = 40  # frames that are registered without progress being shown


class AnimateStage(Stage):
    key, title = "animate", "Animate"
    strip = "timeline"

    def __init__(self, *parts: object) -> None:
        super().__init__(*parts)  # type: ignore[arg-type]
        self.tools = [ShiftFrames(self), DragPath(self)]
        self.tool = ShiftFrames.id
        self.place = 0  # of the frame shown
        self.running = False
        self._began = 0.0  # monotonic time at which the round would have started
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._tick)

    def build(self) -> None:
        self._play = IconButton(self.look, self.icons, "play", "Play or stop  (P)", framed=True, px=15)
        back = IconButton(self.look, self.icons, "caret-left", "One frame back  (,)", framed=True, px=14)
        on = IconButton(self.look, self.icons, "caret-right", "One frame on  (.)", framed=True, px=14)
        self._play.pressed.connect(self.toggle)
        back.pressed.connect(partial(self.step, -1))
        on.pressed.connect(partial(self.step, 1))
        self.speed = PickBox(self.look, [f"×{s}" for s in SPEEDS])
        self.speed.setAccessibleName("Speed")
        self.speed.setCurrentIndex(list(SPEEDS).index("1"))
        self.speed.setFixedWidth(58)
        self.speed.setToolTip("Speed")
        self.speed.picked.connect(lambda _v: self._restart())
        self.onion = NumbersField(1, unit="% onion", most=100, look=self.look)
        self.onion.setAccessibleName("Onion skin")
        self.onion.setFixedWidth(86)
        self.onion.show_value(30)
        self.onion.setToolTip("Onion skin: how strongly the frames before and after show through")
        self.onion.edited.connect(lambda _v: self.desk.update())
        self.how = PickBox(self.look, [*(words for _how, words, _tip in WAYS), AS_DRAWN])
        self.how.setAccessibleName("Register by")
        tips = [f"{words}: {tip}" for _how, words, tip in WAYS]
        self.how.setToolTip("\n".join([*tips, f"{AS_DRAWN}: every shift is taken away"]))
        self.how.setFixedWidth(98)
        self.moves = PickBox(self.look, list(MOVES))
        self.moves.setAccessibleName("Frames may move")
        self.moves.setToolTip(MOVES_HELP)
        self.moves.setFixedWidth(88)
        press = button("Register")
        press.setToolTip("Lay the selected frames, or all, on one another")
        press.clicked.connect(self.register_chosen)
        self.option_line.fill(
            back, self._play, on, self.speed, self.onion, press, self.how, self.moves, None, spacing=3
        )
        self.numbers = AnimateCard(self)
        self.card = scrolled(self.numbers)
        self.marks = ShapeMarks(self.look)
        self.session.staged.connect(self._left)

    # -- what is shown -----------------------------------------------------------------------------

    @property
    def animation(self) -> Animation | None:
        return self.session.selection.animation

    def cell_at(self, place: int) -> tuple[Sheet, Cell] | None:
        animation = self.animation
        if animation is None or not 0 <= place < len(animation.frames):
            return None
        return self.session.cells_by_id.get(animation.frames[place].cell)

    def chosen(self) -> list[str]:
        """The cells to register: of the selected frames, or of all if fewer than two are selected."""
        animation = self.animation
        if animation is None:
            return []
        places = (
            self.session.selection.frames
            if len(self.session.selection.frames) > 1
            else range(len(animation.frames))
        )
        return list(dict.fromkeys(animation.frames[n].cell for n in places))

    def view_key(self) -> str:
        animation = self.animation
        return f"animation {animation.id}" if animation and animation.frames else ""

    def content(self) -> QRectF:
        """The room that all frames fill, px from the pivot."""
        animation, box = self.animation, QRectF()
        cells = self.session.cells_by_id
        for frame in animation.frames if animation else ():
            if frame.cell in cells:
                cell = cells[frame.cell][1]
                box = box.united(QRectF(-cell.pivot[0], -cell.pivot[1], cell.rect[2], cell.rect[3]))
        if animation is not None and animation.path is not None:
            box = box.united(box.translated(*animation.path.offset))
        return box.adjusted(-4, -4, 4, 6) if not box.isEmpty() else QRectF(0, 0, 16, 16)

    def empty_words(self) -> tuple[str, str]:
        return (
            "Nothing is animated yet",
            "Press Rows or Names on the card, or select cells in the Strip and press Cells.",
        )

    def entered(self) -> None:
        self.numbers.show_plot()
        self._show_frame(self.place)

    def refresh(self) -> None:
        animation = self.animation
        count = len(animation.frames) if animation else 0
        if not self.running and self.session.selection.frames:
            self.place = self.session.selection.frames[-1]
        self.place = min(self.place, max(count - 1, 0))
        self.numbers.refresh()
        self._play.setEnabled(count > 0)
        if self.session.stage == "animate":
            self._show_frame(self.place)

    def _show_frame(self, place: int) -> None:
        self.place = place
        found = self.cell_at(place)
        self.session.show_played(found[1].id if found else "")
        timeline_strip = getattr(self.desk.window(), "timeline", None)
        if timeline_strip is not None:
            timeline_strip.frames.show_playing(place)
        self.desk.update()

    def _left(self, stage: str) -> None:
        if stage != "animate":
            self.stop()
            self.session.show_played("")

    # -- playing -----------------------------------------------------------------------------------

    def toggle(self) -> None:
        self.stop() if self.running else self.start()

    def start(self) -> None:
        animation = self.animation
        if animation is None or not animation.frames:
            return
        self.running = True
        self._play.glyph = "pause"
        self._play.update()
        self._restart()
        self._timer.start()

    def stop(self) -> None:
        self.running = False
        self._timer.stop()
        self._play.glyph = "play"
        self._play.update()

    @property
    def rate(self) -> float:
        return list(SPEEDS.values())[self.speed.currentIndex()]

    def _restart(self) -> None:
        """Let the clock read as if the frame shown had just come up."""
        animation = self.animation
        if animation is not None:
            at_end = animation.play == "once" and self.place == len(animation.frames) - 1
            begun = 0 if at_end else start_of(animation, self.place)
            self._began = time.monotonic() - begun / 1000 / self.rate

    def elapsed_ms(self) -> float:
        return (time.monotonic() - self._began) * 1000 * self.rate if self.running else 0.0

    def _tick(self) -> None:
        """Show what the clock says; a tick that comes late skips frames, so that the rate is kept."""
        animation = self.animation
        if animation is None or not animation.frames:
            self.stop()
            return
        elapsed = self.elapsed_ms()
        place = frame_at(animation, elapsed)
        if place != self.place:
            self._show_frame(place)
        elif animation.path is not None:
            self.desk.update()
        if animation.play == "once" and animation.path is None:
            if elapsed > sum(f.ms for f in animation.frames):
                self.stop()

    def step(self, by: int) -> None:
        animation = self.animation
        if animation is not None and animation.frames:
            self.stop()
            place = (self.place + by) % len(animation.frames)
            self.session.selection.choose_animation(animation.id, (place,))
            self._show_frame(place)

    # -- the Desk ----------------------------------------------------------------------------------

    def _paint_body(
        self, painter: QPainter, body: tuple[int, int, int, int], moved: tuple[float, float]
    ) -> None:
        """The one body of all frames, hatched as what is solid."""
        x, y, w, h = body
        self.marks.paint(painter, self.desk.view, [(Box(x, y, w, h), moved[0], moved[1])])
        at = self.desk.view.to_screen(x + w + moved[0], y + moved[1])
        tag(painter, self.look, at.x() + 6, at.y(), f"body {w} × {h} px")

    def paint(self, painter: QPainter, room: QRectF) -> None:
        animation = self.animation
        if animation is None:
            return
        view, look = self.desk.view, self.look
        box = view.rect(*(self.content().getRect()))
        painter.setBrushOrigin(box.topLeft())
        painter.fillRect(box.intersected(room), checker(look))
        moved = place_on(animation.path, self.elapsed_ms()) if animation.path and self.running else (0.0, 0.0)
        count = len(animation.frames)
        strength = self.onion.values[0] / 100
        if strength and not self.running and count > 1:
            for by in (-2, -1, 1, 2):
                place = self.place + by
                if animation.play == "loop":
                    place %= count
                if 0 <= place < count and (count > abs(by) * 2 or abs(by) == 1):
                    painter.setOpacity(strength / abs(by))
                    self._draw(painter, place, (0.0, 0.0))
            painter.setOpacity(1)
        self._draw(painter, self.place, moved)
        if animation.body is not None:
            self._paint_body(painter, animation.body, moved)
        ground = view.to_screen(0, 0)
        for colour, wide in ((look.colour("art_paper", 0.7), 3), (look.colour("art_ink"), 1)):
            painter.setPen(QPen(colour, wide))
            painter.drawLine(QLineF(box.left() - 12, ground.y(), box.right() + 12, ground.y()))
        paint_plumb(painter, ground, ground.y() - 26, look)
        if animation.path is not None:
            self._paint_path(painter, animation.path)
        found = self.cell_at(self.place)
        if found is not None and found[1].shift != (0, 0):
            x, y = found[1].shift
            tag(painter, look, box.left() + 4, box.top() + 4, f"shift {x:+d}, {y:+d} px")

    def _draw(self, painter: QPainter, place: int, moved: tuple[float, float]) -> None:
        found = self.cell_at(place)
        if found is None:
            return
        sheet, cell = found
        x = cell.shift[0] - cell.pivot[0] + moved[0]
        y = cell.shift[1] - cell.pivot[1] + moved[1]
        target = self.desk.view.rect(x, y, cell.rect[2], cell.rect[3])
        painter.drawImage(target, self.desk.images.image(sheet), QRectF(*cell.rect))

    def _paint_path(self, painter: QPainter, path: Path) -> None:
        view, look = self.desk.view, self.look
        a, b = view.to_screen(0, 0), view.to_screen(*path.offset)
        for colour, wide in ((look.colour("art_paper", 0.8), 4), (look.colour("art_rust"), 2)):
            painter.setPen(QPen(colour, wide, Qt.PenStyle.DashLine if wide == 2 else Qt.PenStyle.SolidLine))
            painter.drawLine(a, b)
        painter.setPen(QPen(look.colour("art_paper"), 1.5))
        painter.setBrush(look.colour("art_rust"))
        painter.drawPolygon(QPolygonF([b + QPointF(*p) for p in ((-7, 0), (0, -7), (7, 0), (0, 7))]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        x, y = path.offset
        tag(painter, look, b.x() + 10, b.y() + 4, f"{x:+g}, {y:+g} px in {path.ms} ms", rust=True)

    def ruler(self, band: Band) -> None:
        rulers.even(band, Scale(1, "px"))

    def describe(self, at: DeskEvent) -> str:
        return f"{at.x:.1f}, {at.y:.1f} px from the pivot"

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Arrows shift the selected frames by a px, with Shift by ten; the art itself is not touched."""
        step = ARROWS.get(Qt.Key(event.key()))
        animation = self.animation
        if step is None or animation is None or not animation.frames:
            return False
        far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        places = self.session.selection.frames or (self.place,)
        cells = {animation.frames[n].cell for n in places}
        change = partial(register.nudge_cells, cell_ids=cells, dx=step[0] * far, dy=step[1] * far)
        self.session.document.edit(
            f"Shift {many(len(cells), 'frame')}", change, merge=("shift", frozenset(cells))
        )
        return True

    # -- registering -------------------------------------------------------------------------------

    def measured(self, cell_ids: list[str]) -> list[tuple[Cell, register.Drift]]:
        """Where frames stand now."""
        cells = self.session.cells_by_id
        found = [cells[i] for i in cell_ids if i in cells]
        stock = self.session.stock
        return [
            (c, register.drift_of(register.pixels_of_cell(stock.pixels_or_blank(s), c), c)) for s, c in found
        ]

    def register(self, how: register.How) -> None:
        """Register the selected frames, or all, in the background."""
        ids, cells, stock = self.chosen(), self.session.cells_by_id, self.session.stock
        moves = MOVES[self.moves.currentText()]
        frames = [cells[i] for i in ids if i in cells]
        if len(frames) < 2:
            self.session.tell("told", "Registering needs two frames or more.", "Add frames to the animation.")
            return

        def work(job: Job) -> dict[str, tuple[int, int]]:
            held = [(c, register.pixels_of_cell(stock.pixels_or_blank(s), c)) for s, c in frames]
            tell = lambda share: job.tell(share, f"Registering {len(frames)} frames")  # noqa: E731
            return register.shifts_for(held, how, moves, tell)

        words = next(w for k, w, _t in WAYS if k == how).lower()
        job = self.session.jobs.start(
            "Registering",
            work,
            lambda shifts: self.session.document.edit(
                f"Register {many(len(shifts), 'frame')} by {words}", lambda p: register.set_shifts(p, shifts)
            ),
        )
        if len(frames) > MOST_UNTOLD:
            self.session.working.emit(job)

    def register_chosen(self) -> None:
        """Register by the way chosen, or take every shift away."""
        chosen = self.how.currentText()
        if chosen == AS_DRAWN:
            self.as_drawn()
        else:
            self.register(next(how for how, words, _tip in WAYS if words == chosen))

    def as_drawn(self) -> None:
        ids = self.chosen()
        if ids:
            self.session.document.edit(
                f"{many(len(ids), 'frame')} as drawn", lambda p: register.as_drawn(p, ids)
            )

    def trim(self) -> None:
        """The same trimming for the selected frames, or all."""
        ids = self.chosen()
        words = f"Trim {many(len(ids), 'frame')} alike"
        self.session.document.edit(words, lambda p: trim_alike(p, ids, self.session.stock))

    # -- making and writing ------------------------------------------------------------------------

    def make(self, kind: str) -> None:
        """New animations of the selected cells, of the rows of the sheet, or of names that share a stem."""
        session, made = self.session, ""
        sheet = session.selection.sheet
        if sheet is None:
            return

        def change(project: Project) -> Project:
            nonlocal made
            if kind == "cells":
                project, made = timeline.animate(project, session.selection.cell_ids)
                return project
            several = timeline.animate_rows if kind == "rows" else timeline.animate_stems
            project, ids = several(project, sheet.id)
            made = ids[0]
            return project

        if session.document.edit("Make an animation" if kind == "cells" else f"Animate {sheet.name}", change):
            session.selection.choose_animation(made)
            session.go("animate")
            self.place = 0

    def remove_frames(self) -> None:
        animation, frames = self.animation, self.session.selection.frames
        if animation is not None and frames:
            words = f"Take {many(len(frames), 'frame')} out of {animation.name}"
            self.session.document.edit(words, lambda p: timeline.remove_frames(p, animation.id, frames))
            self.session.selection.choose_animation(animation.id, ())

    def change(self, words: str, edit: Callable[[Project, str], Project], merge: object = None) -> None:
        """Make an edit of the animation shown."""
        animation = self.animation
        if animation is not None:
            self.session.document.edit(f"{words} {animation.name}", lambda p: edit(p, animation.id), merge)

    def copy(self) -> None:
        animation, made = self.animation, ""
        if animation is None:
            return

        def change(project: Project) -> Project:
            nonlocal made
            project, made = timeline.copy_animation(project, animation.id)
            return project

        if self.session.document.edit(f"Copy {animation.name}", change):
            self.session.selection.choose_animation(made)

    def choose_file(self, form: Form, scale: int) -> None:
        animation = self.animation
        if animation is None:
            return
        ending = {"gif": "gif", "apng": "png", "webp": "webp", "row": "png"}[form]
        name, _ = QFileDialog.getSaveFileName(
            self.desk.window(), f"Write {animation.name}", f"{animation.name}.{ending}", f"*.{ending}"
        )
        if name:
            self.write(FilePath(name), form, scale)

    def write(self, path: FilePath, form: Form, scale: int) -> Job | None:
        """Write the animation to a file in the background."""
        animation, project, stock = self.animation, self.session.document.history.project, self.session.stock
        if animation is None:
            return None

        def work(job: Job) -> int:
            data = written(project, animation, stock, form, scale)
            write_file(path, data)
            return len(data)

        return self.session.jobs.start(
            f"Writing {path.name}",
            work,
            lambda size: self.session.tell("told", f"Wrote {path} ({size / 1024:.0f} KiB)."),
        )
