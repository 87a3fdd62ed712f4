"""Animate: frames played, laid over one another, and registered as a printer registers plates."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.animate import register
from rushweed.ui.desk import rulers
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import PickBox
from rushweed.ui.kit.controls import IconButton
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import many
from rushweed.ui.stages.animate.animating import Animating
from rushweed.ui.stages.animate.card import AnimateCard
from rushweed.ui.stages.animate.painting import AnimationPainter
from rushweed.ui.stages.animate.player import SPEEDS, Player
from rushweed.ui.stages.animate.registering import Registering
from rushweed.ui.stages.animate.tools import DragPath, ShiftFrames
from rushweed.ui.stages.select_cells import ARROWS


class AnimateStage(Stage):
    key, title = "animate", "Animate"
    strip = "timeline"

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.player = Player(self.session)
        self.animating = Animating(self.session, self.player)
        self.tools = [ShiftFrames(self.animating), DragPath(self.animating)]
        self.tool = ShiftFrames.id
        self.registering = Registering(context)
        self._make_options()
        self.numbers = AnimateCard(context, self.animating, self.registering)
        self.card = scrolled(self.numbers)
        self.painter = AnimationPainter(context, self.animating)
        self.player.moved.connect(self._show_frame)
        self.player.turned.connect(self._show_turned)
        self.session.staged.connect(self._left)

    def _make_options(self) -> None:
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
        lay = self.registering
        self.option_line.fill(
            back, self._play, on, self.speed, self.onion, lay.press, lay.how, lay.moves, None, spacing=3
        )

    # -- what is shown -----------------------------------------------------------------------------

    def view_key(self) -> str:
        animation = self.animating.animation
        return f"animation {animation.id}" if animation and animation.frames else ""

    def content(self) -> QRectF:
        return self.animating.room()

    def empty_words(self) -> tuple[str, str]:
        return (
            "Nothing is animated yet",
            "Press Rows or Names on the card, or select cells in the Strip and press Cells.",
        )

    def entered(self) -> None:
        self.numbers.show_plot()
        self._show_frame()

    def refresh(self) -> None:
        animation = self.animating.animation
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
        found = self.animating.cell_at(self.player.place)
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
        if self.animating.animation is not None:
            self.painter.paint(painter, room, self.animating.animation, self.onion.values[0] / 100)

    def ruler(self, band: Band) -> None:
        rulers.even(band, Scale(1, "px"))

    def describe(self, at: DeskEvent) -> str:
        return f"{at.x:.1f}, {at.y:.1f} px from the pivot"

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Arrows shift the selected frames by a px, with Shift by ten; the art itself is not touched."""
        step = ARROWS.get(Qt.Key(event.key()))
        animation = self.animating.animation
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
