"""The tools of Walk: moving him by keys, standing him elsewhere, asking for the way to a place."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import Qt

from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.tool import Tool
from rushweed.ui.stages.walk.game import Game
from rushweed.ui.stages.walk.play import Play
from rushweed.ui.stages.walk.reach_job import ReachJob
from rushweed.ui.stages.walk.run_work import RunWork


class WalkHands(NamedTuple):
    """What the tools work with."""

    context: Context
    play: Play
    game: Game
    reach: ReachJob
    runs: RunWork


class WalkTool(Tool):
    """What a press on the level means: `carries` stands him there, `asks` walks the way there. The line of
    time and the edge between the two pictures can be dragged with any of them."""

    carries = asks = False

    def __init__(self, hands: WalkHands) -> None:
        super().__init__()
        self.hands, self.session = hands, hands.context.session
        self._held = ""  # time, wipe or him

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.OpenHandCursor if self.carries else Qt.CursorShape.ArrowCursor

    def press(self, at: DeskEvent) -> None:
        play, game = self.hands.play, self.hands.game
        self._held = ""
        if play.walk is None:
            return
        if game.line.box.contains(at.screen):
            self._held = "time"
            play.pause()
            play.to_step(game.line.step_at(at.screen.x()))
        elif game.on_wipe(at.screen):
            self._held = "wipe"
        elif self.asks or at.alt:
            self._ask(at)
        elif at.shift or self.carries or self._on_him(at):
            self._held = "him"
            self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        play, game = self.hands.play, self.hands.game
        if self._held == "time":
            play.to_step(game.line.step_at(at.screen.x()))
            self.hands.context.desk.update()
        elif self._held == "wipe":
            game.set_wipe(at.screen)
        elif self._held == "him" and play.walk is not None:
            play.drop(_whole(at))

    def release(self, at: DeskEvent) -> None:
        held, self._held = self._held, ""
        if held == "him":
            self.hands.play.start(_whole(at))

    def cancel(self) -> None:
        self._held = ""

    def _on_him(self, at: DeskEvent) -> bool:
        walk = self.hands.play.walk
        if walk is None:
            return False
        x, y = walk.feet
        wide, high = walk.body[2:]
        return abs(at.x - x) <= wide / 2 + 1 and y - high - 1 <= at.y <= y + 1

    def _ask(self, at: DeskEvent) -> None:
        """Take a reached place near the press, and walk there."""
        reach = self.hands.reach
        found = reach.found
        if found is None:
            self.session.tell(
                "told", "What can be reached is not known yet.", "Wait for the search, or press R."
            )
            return
        place = min(found.places, key=lambda p: abs(p.x - at.x) + abs(p.y - at.y), default=None)
        if place is None or abs(place.x - at.x) + abs(place.y - at.y) > 3 * found.side:
            self.session.tell("told", "He does not get there.", "Press a place washed in reed or straw.")
            return
        reach.aimed = (place.x, place.y)
        self.hands.runs.show_way()


class MoveHim(WalkTool):
    id, words, icon, key = "walk", "Walk", "person-simple-walk", "V"
    help = "Keys move him; press with Shift to stand him somewhere"


class StandHim(WalkTool):
    id, words, icon, key = "carry", "Carry him", "hand-grabbing", "C"
    help = "Press or drag: he stands where you let go"
    carries = True


class AskTheWay(WalkTool):
    id, words, icon, key = "reach", "Ask how to get there", "path", "G"
    help = "Press a place that is reached: its way is walked"
    asks = True


def _whole(at: DeskEvent) -> tuple[float, float]:
    """The nearest whole px of the level."""
    return float(round(at.x)), float(round(at.y))
