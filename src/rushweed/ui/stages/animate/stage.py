"""Animate: frames played, laid over one another, and registered as a printer registers plates."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.animate import register, timeline
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.desk import rulers
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import PickBox
from rushweed.ui.kit.controls import IconButton
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import many
from rushweed.ui.stages.animate.card import AnimateCard
from rushweed.ui.stages.animate.painting import AnimationPainter
from rushweed.ui.stages.animate.player import SPEEDS, Player
from rushweed.ui.stages.animate.registering import Registering
from rushweed.ui.stages.animate.tools import DragPath, ShiftFrames
from rushweed.ui.stages.select_cells import ARROWS


class AnimateStage(Stage):
    key, title = "animate", "Animate"
    strip = "timeline"

    def __init__(self, *parts: object) -> None:
        super().__init__(*parts)  # type: ignore[arg-type]
        self.tools = [ShiftFrames(self), DragPath(self)]
        self.tool = ShiftFrames.id
        self.player = Player(self.session)
        self.player.moved.connect(self._show_frame)
        self.player.turned.connect(self._show_turned)

    def build(self) -> None:
        self._play = IconButton(self.look, self.icons, "play", "Play or stop  (P)", framed=True, px=15)
        back = IconButton(self.look, self.icons, "caret-left", "One frame back  (,)", framed=True, px=14)
        on = IconButton(self.look, self.icons, "caret-right", "One frame on  (.)", framed=True, px=14)
        self._play.pressed.connect(self.player.toggle)
        back.pressed.connect(partial(self.player.step, -1))
        on.pressed.connect(partial(self.player.step, 1))
        self.speed = PickBox(self.look, [f"×{s}" for s in SPEEDS])
        self.speed.setAccessibleName("Speed")
        self.speed.setCurrentIndex(list(SPEEDS).index("1"))
        self.speed.setFixedWidth(58)
        self.speed.setToolTip("Speed")
        self.speed.picked.connect(lambda v: self.player.set_rate(SPEEDS[v.removeprefix("×")]))
        self.onion = NumbersField(1, "% onion", Numbers(most=100), self.look)
        self.onion.setAccessibleName("Onion skin")
        self.onion.setFixedWidth(86)
        self.onion.show_value(30)
        self.onion.setToolTip("Onion skin: how strongly the frames before and after show through")
        self.onion.edited.connect(lambda _v: self.desk.update())
        self.registering = lay = Registering(self)
        self.option_line.fill(
            back, self._play, on, self.speed, self.onion, lay.press, lay.how, lay.moves, None, spacing=3
        )
        self.numbers = AnimateCard(self)
        self.card = scrolled(self.numbers)
        self.painter = AnimationPainter(self)
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
        self._show_frame()

    def refresh(self) -> None:
        animation = self.animation
        count = len(animation.frames) if animation else 0
        player = self.player
        if not player.running and self.session.selection.frames:
            player.place = self.session.selection.frames[-1]
        player.place = min(player.place, max(count - 1, 0))
        self.numbers.refresh()
        self._play.setEnabled(count > 0)
        if self.session.stage == "animate":
            self._show_frame()

    def _show_frame(self) -> None:
        found = self.cell_at(self.player.place)
        self.session.show_played(found[1].id if found else "", self.player.place)
        self.desk.update()

    def _show_turned(self) -> None:
        self._play.glyph = "pause" if self.player.running else "play"
        self._play.update()

    def _left(self, stage: str) -> None:
        if stage != "animate":
            self.player.stop()
            self.session.show_played("")

    # -- the Desk ----------------------------------------------------------------------------------

    def paint(self, painter: QPainter, room: QRectF) -> None:
        if self.animation is not None:
            self.painter.paint(painter, room, self.animation, self.onion.values[0] / 100)

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
        places = self.session.selection.frames or (self.player.place,)
        cells = {animation.frames[n].cell for n in places}
        change = partial(register.nudge_cells, cell_ids=cells, dx=step[0] * far, dy=step[1] * far)
        self.session.document.edit(
            f"Shift {many(len(cells), 'frame')}", change, merge=("shift", frozenset(cells))
        )
        return True

    # -- edits -------------------------------------------------------------------------------------

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
            self.player.place = 0

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
