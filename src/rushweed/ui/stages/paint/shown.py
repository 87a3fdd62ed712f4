"""What is drawn over the level, on and off."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rushweed.ui.kit.toggles import Toggle
from rushweed.ui.stages.paint.tools.things import Things

if TYPE_CHECKING:
    from rushweed.ui.stages.paint.stage import PaintStage


class Shown:
    """The toggles under Show."""

    def __init__(self, stage: PaintStage) -> None:
        self._stage = stage
        self.shapes = Toggle("Shapes of tiles", True, "H")
        self.merged = Toggle(
            "Outline of the level", False, "Shift+H", "All solid shapes as one, with its corners"
        )
        self.edge = Toggle("Picture edge", True)
        self.grid = Toggle("Cells", False, "C")
        self.rooms = Toggle("Rooms", True)
        self.fade = Toggle(
            "Other layers faded", False, "J", "While you paint, only the layer in use is strong"
        )
        self.moving = Toggle("Play", False, "", "Let things and tiles play and go along their paths")
        self.small = Toggle("Overview", False, "Shift+O", "The whole level small; drag in it to go elsewhere")
        self.walked = Toggle("Path walked last", True, "", "Where the walker went in Walk")
        self.since = Toggle(
            "Changes since the last commit", False, "", "Cells that differ from what git holds"
        )
        self.all = (
            self.shapes, self.merged, self.edge, self.grid, self.rooms, self.fade, self.moving, self.small,
            self.walked, self.since,
        )  # fmt: skip
        self.moving.edited.connect(stage.the(Things).run)
        self.fade.edited.connect(lambda _on: self.fade_others())
        self.small.edited.connect(stage.overview.setVisible)
        self.since.edited.connect(stage.changes.switch)
        for toggle in (self.shapes, self.merged, self.edge, self.grid, self.rooms, self.walked):
            toggle.edited.connect(lambda _on: stage.desk.update())

    def fade_others(self) -> None:
        """Let only the layer in use be strong, if that is wished."""
        stage = self._stage
        stage.desk.level_painter.alone = stage.session.selection.layer_id if self.fade.on else ""
        stage.desk.update()
