"""Walk: the level as a game, on the spot; back in time, slowly, and back to Paint with one key."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from rushweed.core.document.errors import NothingSolidError
from rushweed.core.level.levels import change_level
from rushweed.core.walk.walkers import units_of
from rushweed.ui.desk import rulers
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.kit.card import scrolled
from rushweed.ui.stages.walk.card import WalkCard
from rushweed.ui.stages.walk.game import Game, WalkParts
from rushweed.ui.stages.walk.keys import WalkKeys
from rushweed.ui.stages.walk.play import BITS, Play
from rushweed.ui.stages.walk.reach_job import ReachJob
from rushweed.ui.stages.walk.run_work import RunWork
from rushweed.ui.stages.walk.tools import AskTheWay, MoveHim, StandHim, WalkHands
from rushweed.ui.stages.walk.walk_line import WalkLine


class WalkStage(Stage):
    key, title = "walk", "Walk"
    ruler_unit, strip = "u", "log"

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.play, self.keys = Play(self.session), WalkKeys(context.preferences)
        self.line = WalkLine(context, self.play)
        self.line.resized.connect(self._resized)
        self.line.reached.edited.connect(lambda _on: self._follow_reach())
        self.option_line.fill(*self.line.parts)
        self.reach = ReachJob(self.session)
        self.reach.changed.connect(self._reach_changed)
        self.runs = RunWork(context, self.play, self.reach)
        self.runs.changed.connect(self.refresh)
        self.game = Game(context, WalkParts(self.play, self.line, self.keys, self.reach))
        hands = WalkHands(context, self.play, self.game, self.reach, self.runs)
        self.tools = [MoveHim(hands), StandHim(hands), AskTheWay(hands)]
        self.tool = MoveHim.id
        self._begins_at: tuple[float, float] | None = None
        self.walk_card = WalkCard(context, self.line, self.keys, self.runs)
        self.card = scrolled(self.walk_card)
        self.play.begun.connect(self._begun)
        self.play.moved.connect(self.game.repaint)

    # -- coming and going ------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Into Walk where the pointer is, or back to Paint."""
        if self.session.stage == "walk":
            self.session.go("paint")
            return
        self._begins_at = self.session.aimed
        self.session.go("walk")

    def entered(self) -> None:
        """He stands where the pointer was; else where he was left; else at the start."""
        feet, self._begins_at = self._begins_at, None
        self.desk.level_painter.alone = ""
        self.desk.setFocus()
        if self.play.stale() or feet is not None or self.play.walk is None:
            self.play.start(feet)
        else:
            self.play.go()
        self._follow_reach()

    def left(self) -> None:
        self.play.leave()
        self.reach.stop()
        pen = self.desk.level_painter
        pen.ms, pen.snaps, pen.pushed = 0.0, True, {}
        if self.play.walk is not None:
            self.session.tell_walk(self.play.log.walked(self.play.walk), [])

    def _begun(self) -> None:
        fault = self.play.fault
        level = self.session.selection.level
        if isinstance(fault, NothingSolidError) and level is not None:
            from_above = partial(change_level, level_id=level.id, view="top")
            answers: list[tuple[str, Callable[[], object]]] = [
                ("Give tiles shapes", partial(self.session.go, "shape")),
                ("See it from above", partial(self.session.document.edit, "See from above", from_above)),
            ]
            text = f"{fault.problem} Give its tiles shapes, or see it from above."
            self.session.ask(text, answers, lambda: None)
        elif fault is not None:
            self.session.tell("fault", fault.problem, fault.cure)
        self._resized()
        self.refresh()

    def refresh(self) -> None:
        level = self.session.selection.level
        self.option_line.setEnabled(level is not None)
        self.walk_card.setVisible(level is not None)
        if level is None or self.session.stage != "walk":
            return
        self.walk_card.refresh(level)
        if self.play.waits and self.play.stale() and not self.session.document.gesturing:
            self._go_on()
        self._follow_reach()

    def _go_on(self) -> None:
        """The level or he changed: he goes on where he is, or from the start in another level."""
        walk, level = self.play.walk, self.session.selection.level
        same = walk is not None and level is not None and walk.world.level.id == level.id
        self.runs.arrived = self.runs.arrived if same else {}
        self.play.start(walk.feet if same and walk is not None else None, go=not self.play.paused)

    def _follow_reach(self) -> None:
        if self.line.reached.on and self.session.stage == "walk" and self.session.selection.level is not None:
            self.reach.follow()
        elif not self.line.reached.on:
            self.reach.stop()

    def _reach_changed(self) -> None:
        self.walk_card.reach.refresh()
        self.desk.update()

    # -- what the Desk asks ----------------------------------------------------------------------------

    def view_key(self) -> str:
        return f"walk {self.session.selection.level_id}" if self.session.selection.level else ""

    def content(self) -> QRectF:
        wide, high = self.line.size.values
        return QRectF(0, 0, wide, high)

    def empty_words(self) -> tuple[str, str]:
        return "No level yet", "Paint one first: Walk plays the level that is chosen on the Shelf."

    def paint(self, painter: QPainter, room: QRectF) -> None:
        self.game.paint(painter, room)

    def ruler(self, band: Band) -> None:
        level = self.session.selection.level
        if level is not None:
            rulers.even(band, Scale(units_of(self.session.project, level), "u"), None)

    def describe(self, at: DeskEvent) -> str:
        level = self.session.selection.level
        if level is None or self.play.walk is None:
            return ""
        return self.game.describe(at, level)

    def look_at_cell(self, column: int, row: int) -> None:
        level = self.session.selection.level
        if level is not None:
            x, y = (column + 0.5) * level.cell[0], (row + 0.5) * level.cell[1]
            self.play.pause()
            self.play.camera = self.play.camera._replace(x=x, y=y)
            self.desk.update()

    # -- pointer and keys ------------------------------------------------------------------------------

    def hover(self, at: DeskEvent) -> None:
        self.game.pointed(at.screen)

    def leave(self) -> None:
        self.game.pointed(None)

    def escape(self) -> None:
        """Back to Paint."""
        if self.session.stage == "walk":
            self.session.go("paint")

    def takes_key(self, event: QKeyEvent) -> bool:
        plain = not event.modifiers() & (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        )
        return plain and self.play.walk is not None and bool(self.keys.action(event.key()))

    def key_pressed(self, event: QKeyEvent) -> bool:
        action = self.keys.action(event.key())
        if not action:
            return False
        if event.isAutoRepeat():
            return True
        if action == "back":
            self.play.back = True
            self.play.go()
            return True
        if self.play.replaying:
            self.play.replaying = []
        self.play.held |= BITS[action]
        if self.line.speed.by_steps:
            self.play.one_step()
        else:
            self.play.go()
        return True

    def key_released(self, event: QKeyEvent) -> None:
        action = self.keys.action(event.key())
        if not action or event.isAutoRepeat():
            return
        if action == "back":
            self.play.back = False
        else:
            self.play.held &= ~BITS[action]

    def focus_lost(self) -> None:
        self.play.pause()

    def _resized(self) -> None:
        self.game.fit()
        self.play.look()
        self.desk.update()
