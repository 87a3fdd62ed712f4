"""Walk: the level as a game, on the spot; back in time, slowly, and back to Paint with one key."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QFileDialog

from rushweed.core.document.errors import file_reason
from rushweed.core.document.model.level import Run
from rushweed.core.level.render import PICTURE
from rushweed.core.walk.walkers import units_of
from rushweed.ui.desk import rulers
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import label
from rushweed.ui.kit.fields import NumbersField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import Toggle, ToggleButton
from rushweed.ui.session import Session
from rushweed.ui.stages.walk.card import WalkCard
from rushweed.ui.stages.walk.game import Game
from rushweed.ui.stages.walk.keys import WalkKeys
from rushweed.ui.stages.walk.play import BITS, Play
from rushweed.ui.stages.walk.reach_job import ReachJob

SPEEDS = {"1": 1.0, "2": 0.5, "4": 0.25, "step": 0.0}


class WalkTool(Tool):
    """What a press on the level means: `carries` stands him there, `asks` walks the way there."""

    carries = asks = False

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.OpenHandCursor if self.carries else Qt.CursorShape.ArrowCursor


class StandHim(WalkTool):
    id, words, icon, key = "carry", "Carry him", "hand-grabbing", "C"
    help = "Press or drag: he stands where you let go"
    carries = True


class AskTheWay(WalkTool):
    id, words, icon, key = "reach", "Ask how to get there", "path", "G"
    help = "Press a place that is reached: its way is walked"
    asks = True


class MoveHim(WalkTool):
    id, words, icon, key = "walk", "Walk", "person-simple-walk", "V"
    help = "Keys move him; press with Shift to stand him somewhere"


class WalkStage(Stage):
    key, title = "walk", "Walk"
    ruler_unit, strip = "u", "log"
    tools = (MoveHim(), StandHim(), AskTheWay())

    def __init__(self, session: Session, look: Look, icons: Icons) -> None:
        super().__init__(session, look, icons)
        self.play = Play(session)
        self.game = Game(self)
        self.reach = ReachJob(self)
        self.run_states: dict[str, bool] = {}  # by run, whether it arrived the last time all were walked
        self._carries = False
        self._scrubs = False
        self._wipes = False
        self._begins_at: tuple[float, float] | None = None
        self.keys: WalkKeys

    def build(self) -> None:
        self.keys = WalkKeys(self.preferences)
        self.mode = ChoiceRow(self.look, [("picture", "Game"), ("window", "Window"), ("both", "Wipe")])
        self.mode.setToolTip("At the game's own px, at those of the window, or one beside the other")
        self.mode.edited.connect(lambda _v: self._resized())
        self.size = NumbersField(2, "px", 16, 4096, look=self.look)
        self.size.show_value(PICTURE)
        self.size.setToolTip("Px of the game's picture")
        self.size.edited.connect(lambda _v: self._resized())
        self.speed = ChoiceRow(self.look, [("1", "×1"), ("2", "½"), ("4", "¼"), ("step", "Step")])
        self.speed.setToolTip("How time runs  (T); step by step with N")
        self.speed.edited.connect(self._set_speed)
        self.shapes = Toggle("Shapes of tiles", False, "H")
        self.touched = Toggle("What he touches", True, "", "Tiles he stands on or leans against are filled")
        self.reached = Toggle("What can be reached", True, "R", "From the start, in the background")
        self.path = Toggle("Path", True, "L", "The way walked, a dot each quarter of a second")
        self.snap = Toggle("On whole px", True, "", "He and the camera stand on whole px of the game")
        self.toggles = (self.shapes, self.touched, self.reached, self.path, self.snap)
        for toggle in self.toggles:
            toggle.edited.connect(lambda _on: self.desk.update())
        self.reached.edited.connect(lambda _on: self._follow_reach())
        self.show_button = ToggleButton(self.look, "Show", self.toggles)
        self.ahead = NumbersField(1, "px", 0, 256, look=self.look)
        self.ahead.show_value(24)
        self.ahead.setToolTip("How far the camera looks ahead of him")
        self.ahead.edited.connect(lambda v: setattr(self.play, "lead", float(v[0])))
        self.option_line.fill(self.mode, label("Time"), self.speed, self.show_button, None)
        self._card = WalkCard(self)
        self.card = scrolled(self._card)
        self.play.begun.connect(self._begun)
        self.play.moved.connect(self._moved)
        self.reach.changed.connect(self._reach_changed)

    # -- coming and going ------------------------------------------------------------------------------

    def toggle(self) -> None:
        """Into Walk where the pointer is, or back to Paint."""
        if self.session.stage == "walk":
            self.leave_walk()
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
            self.session.tell_walk(self.play.walked(), [])

    def leave_walk(self) -> None:
        self.session.go("paint")

    def from_start(self) -> None:
        self.play.start(None)

    def _begun(self) -> None:
        fault = self.play.fault
        if fault is not None:
            self.session.tell("fault", fault.problem, fault.cure)
        self._resized()
        self.refresh()

    def refresh(self) -> None:
        level = self.session.selection.level
        self.option_line.setEnabled(level is not None)
        self._card.setEnabled(level is not None)
        if level is None or self.session.stage != "walk":
            return
        self._card.refresh(level)
        if self.play.waits and self.play.stale() and not self.session.document.gesturing:
            self._go_on()
        self._follow_reach()

    def _go_on(self) -> None:
        """The level or he changed: he goes on where he is, or from the start in another level."""
        walk, level = self.play.walk, self.session.selection.level
        same = walk is not None and level is not None and walk.world.level.id == level.id
        self.run_states = {} if not same else self.run_states
        self.play.start(walk.feet if same and walk is not None else None, go=not self.play.paused)

    def _follow_reach(self) -> None:
        if self.reached.on and self.session.stage == "walk" and self.session.selection.level is not None:
            self.reach.follow()
        elif not self.reached.on:
            self.reach.stop()

    def _reach_changed(self) -> None:
        self._card.reach.refresh()
        self.desk.update()

    # -- what the Desk asks ----------------------------------------------------------------------------

    def view_key(self) -> str:
        return f"walk {self.session.selection.level_id}" if self.session.selection.level else ""

    def content(self) -> QRectF:
        wide, high = self.size.values
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

    @property
    def active(self) -> WalkTool:
        tool = super().active
        assert isinstance(tool, WalkTool)
        return tool

    def look_at_cell(self, column: int, row: int) -> None:
        level = self.session.selection.level
        if level is not None:
            x, y = (column + 0.5) * level.cell[0], (row + 0.5) * level.cell[1]
            self.play.pause()
            self.play.camera = self.play.camera._replace(x=x, y=y)
            self.desk.update()

    # -- pointer ---------------------------------------------------------------------------------------

    def press(self, at: DeskEvent) -> None:
        walk = self.play.walk
        self._scrubs, self._carries, self._wipes = False, False, False
        if walk is None:
            return
        if self.game.line.box.contains(at.screen):
            self._scrubs = True
            self.play.pause()
            self.play.to_step(self.game.line.step_at(at.screen.x()))
        elif self.game.on_wipe(at.screen):
            self._wipes = True
        elif self.active.asks or at.alt:
            self._ask(at)
        elif at.shift or self.active.carries or self._on_him(at):
            self._carries = True
            self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        if self._scrubs:
            self.play.to_step(self.game.line.step_at(at.screen.x()))
            self.desk.update()
        elif self._wipes:
            self.game.set_wipe(at.screen)
        elif self._carries and self.play.walk is not None:
            self.play.drop((float(round(at.x)), float(round(at.y))))

    def release(self, at: DeskEvent) -> None:
        if self._carries:
            self._carries = False
            self.play.start((float(round(at.x)), float(round(at.y))))
        self._scrubs = self._wipes = False

    def hover(self, at: DeskEvent) -> None:
        self.game.pointed(at.screen)

    def leave(self) -> None:
        self.game.pointed(None)

    def cancel(self) -> None:
        """Escape leaves."""
        if self.session.stage == "walk":
            self.leave_walk()

    def use(self, tool: str) -> None:
        if tool != self.tool:
            self.tool = tool
            self.tool_changed.emit()
            self.desk.setCursor(self.cursor())
            self.desk.update()

    def _on_him(self, at: DeskEvent) -> bool:
        walk = self.play.walk
        if walk is None:
            return False
        x, y = walk.feet
        wide, high = walk.body[2:]
        return abs(at.x - x) <= wide / 2 + 1 and y - high - 1 <= at.y <= y + 1

    def _ask(self, at: DeskEvent) -> None:
        """Take a reached place near the press, and walk there."""
        found = self.reach.found
        if found is None:
            self.session.tell(
                "told", "What can be reached is not known yet.", "Wait for the search, or press R."
            )
            return
        place = min(found.places, key=lambda p: abs(p.x - at.x) + abs(p.y - at.y), default=None)
        if place is None or abs(place.x - at.x) + abs(place.y - at.y) > 3 * found.side:
            self.session.tell("told", "He does not get there.", "Press a place washed in reed or straw.")
            return
        self.reach.aimed = (place.x, place.y)
        self.show_way()

    def show_way(self) -> None:
        """Walk to the place last asked for, by the keys that reach it."""
        found, aimed = self.reach.found, self.reach.aimed
        run = found.run_to(*aimed) if found is not None and aimed is not None else None
        if run is not None:
            self.show_run(run)

    # -- keys ------------------------------------------------------------------------------------------

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
        if self.speed.value == "step":
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

    # -- time ------------------------------------------------------------------------------------------

    def pause_or_go(self) -> None:
        if self.play.paused:
            self.play.go()
        else:
            self.play.pause()

    def _set_speed(self, key: str) -> None:
        self.play.speed = SPEEDS[key]
        if key == "step":
            self.play.pause()
        self.desk.setFocus()

    def next_speed(self) -> None:
        keys = list(SPEEDS)
        key = keys[(keys.index(self.speed.value or "1") + 1) % len(keys)]
        self.speed.show_value(key)
        self._set_speed(key)

    def _resized(self) -> None:
        self.game.fit()
        self.play.look()
        self.desk.update()

    def _moved(self) -> None:
        self.game.repaint()

    # -- runs ------------------------------------------------------------------------------------------

    def keep_run(self) -> None:
        """Keep the keys of this walk with the level."""
        from rushweed.core.walk.runs import keep_run

        walk, level = self.play.walk, self.session.selection.level
        if walk is None or level is None:
            return
        run = walk.run(f"run {len(level.runs) + 1}")
        self.session.document.edit("Keep a run", lambda p: keep_run(p, level.id, run)[0])
        self.refresh()

    def show_run(self, run: Run) -> None:
        """Walk a run from its beginning."""
        self.desk.setFocus()
        self.play.start(run=run)

    def test_runs(self) -> None:
        """Walk all runs of the level beside the window, and tell which arrive."""
        level, project = self.session.selection.level, self.session.project
        if level is None or not level.runs:
            self.session.tell("told", "No runs are kept with this level.", "Walk, then keep the walk.")
            return

        def work(_job: object) -> dict[str, bool]:
            from rushweed.core.walk.runs import arrives, replay
            from rushweed.core.walk.walkers import walker_of
            from rushweed.core.walk.world import World

            world = World.of(project, level, walker_of(level).group)
            return {run.id: arrives(replay(world, run), run) for run in level.runs}

        def done(states: dict[str, bool]) -> None:
            self.run_states = states
            lost = [run.name for run in level.runs if not states[run.id]]
            words = (
                f"{', '.join(lost)} of {level.name} {'do' if len(lost) > 1 else 'does'} not arrive any more."
            )
            text = words if lost else f"All {many(len(states), 'run')} of {level.name} arrive."
            self.session.tell("fault" if lost else "told", text)
            self.refresh()

        self.session.jobs.start("Walking all runs", work, done)

    def export_run(self) -> None:
        """Write this walk as a file."""
        walk = self.play.walk
        if walk is None:
            return
        name, _kind = QFileDialog.getSaveFileName(self.desk, "Export this walk", "run.json", "Runs (*.json)")
        if name:
            try:
                Path(name).write_bytes(
                    msgspec.json.format(msgspec.json.encode(walk.run(Path(name).stem)), indent=1)
                )
            except OSError as error:
                self.session.tell("fault", f"{Path(name).name} could not be written: {file_reason(error)}.")
