"""What is drawn over the level, on and off."""

from __future__ import annotations

from rushweed.ui.desk.context import Context
from rushweed.ui.kit.toggles import Toggle


class Shown:
    """The toggles under Show."""

    def __init__(self, context: Context) -> None:
        self._session, self._desk = context.session, context.desk
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
        self.fade.edited.connect(lambda _on: self.fade_others())
        for toggle in (self.shapes, self.merged, self.edge, self.grid, self.rooms, self.walked):
            toggle.edited.connect(lambda _on: context.desk.update())

    def fade_others(self) -> None:
        """Let only the layer in use be strong, if that is wished."""
        self._desk.level_painter.alone = self._session.selection.layer_id if self.fade.on else ""
        self._desk.update()
