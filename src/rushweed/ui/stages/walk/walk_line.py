"""The line over the Desk in Walk: how the game is shown, how time runs, and what is shown over it."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.level.render import PICTURE
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import label
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.toggles import Toggle, ToggleButton
from rushweed.ui.stages.walk.play import Play
from rushweed.ui.stages.walk.speed import SpeedRow


class WalkLine(QObject):
    """Its parts stand in the option line, but the numbers of the picture, which stand on the card."""

    resized = pyqtSignal()

    def __init__(self, context: Context, play: Play) -> None:
        super().__init__()
        look, desk = context.look, context.desk
        self.mode = ChoiceRow(look, [("picture", "Game"), ("window", "Window"), ("both", "Wipe")])
        self.mode.setToolTip("At the game's own px, at those of the window, or one beside the other")
        self.mode.edited.connect(lambda _v: self.resized.emit())
        self.size = NumbersField(2, "px", Numbers(16, 4096), look)
        self.size.show_value(PICTURE)
        self.size.setToolTip("Px of the game's picture")
        self.size.edited.connect(lambda _v: self.resized.emit())
        self.speed = SpeedRow(look, play)
        self.speed.edited.connect(lambda _v: desk.setFocus())
        self.shapes = Toggle("Shapes of tiles", False, "H")
        self.touched = Toggle("What he touches", True, "", "Tiles he stands on or leans against are filled")
        self.reached = Toggle("What can be reached", True, "R", "From the start, in the background")
        self.path = Toggle("Path", True, "L", "The way walked, a dot each quarter of a second")
        self.snap = Toggle("On whole px", True, "", "He and the camera stand on whole px of the game")
        self.toggles = (self.shapes, self.touched, self.reached, self.path, self.snap)
        for toggle in self.toggles:
            toggle.edited.connect(lambda _on: desk.update())
        self.show_button = ToggleButton(look, "Show", self.toggles)
        self.ahead = NumbersField(1, "px", Numbers(0, 256), look)
        self.ahead.show_value(24)
        self.ahead.setToolTip("How far the camera looks ahead of him")
        self.ahead.edited.connect(lambda v: setattr(play, "lead", float(v[0])))
        self.parts = (self.mode, label("Time"), self.speed, self.show_button, None)
