"""How the Proof is set: zoom, turn, resolution, edges, backdrop, the figure, before and after."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QSettings, pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.tune.scene import Staging
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import HIGH, Check, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look

MOST_ZOOM = 32.0
BACKDROPS = ("scene", "light", "dark", "checker")


class ProofControls(QWidget):
    """Folds out under the Proof. `edited` speaks when a person changes the staging."""

    edited = pyqtSignal()

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.staging = Staging()
        self.compare = False
        self.zoom = NumbersField(1, "×", Numbers(0, MOST_ZOOM, False, 0.05, 2), look)
        self.zoom.setToolTip("Screen px a px of the art; 0 is the greatest whole number that fits")
        self.turn = NumbersField(1, "°", Numbers(-360, 360, False, 5, 1), look)
        self.figure = NumbersField(1, "u", Numbers(0.1, 100, False, 0.1, 2), look)
        self.figure.setToolTip("How tall the reference figure is")
        self.picture = ChoiceRow(look, [("window", "Screen px"), ("low", "Art px")])
        self.picture.setToolTip("Drawn at the screen's resolution, or at the art's and then enlarged whole")
        self.backdrop = ChoiceRow(look, [(b, b.capitalize()) for b in BACKDROPS])
        self.snap = Check(look, icons, "Snap to px")
        self.soft = Check(look, icons, "Soft edges")
        self.divider = Check(look, icons, "Beside the art as drawn")
        self.divider.setToolTip("A line that can be dragged: on its left nearest, nothing compressed")
        for field in (self.zoom, self.turn, self.figure):
            field.setFixedWidth(72)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 8)
        column.setSpacing(4)
        column.addLayout(row(_words("Zoom"), self.zoom, None, label("Turn", "quiet"), self.turn))
        column.addLayout(row(_words("Drawn in"), self.picture, None))
        column.addLayout(row(_words("Edges"), self.snap, self.soft, None))
        column.addLayout(row(_words("Behind"), self.backdrop, None))
        column.addLayout(row(_words("Figure"), self.figure, None))
        column.addLayout(row(_words("Compare"), self.divider, None))
        self.zoom.edited.connect(lambda v: self.set(zoom=v[0] if v[0] >= 0.05 else 0.0))
        self.turn.edited.connect(lambda v: self.set(turn=v[0]))
        self.figure.edited.connect(lambda v: self.set(figure_units=v[0]))
        self.picture.edited.connect(lambda v: self.set(picture=v))
        self.backdrop.edited.connect(lambda v: self.set(backdrop=v))
        self.snap.edited.connect(lambda on: self.set(snap=on))
        self.soft.edited.connect(lambda on: self.set(soft=on))
        self.divider.edited.connect(self._compare)
        self.show_values()

    def set(self, **fields: Any) -> None:
        """A person's change, here or in the picture."""
        staging = self.staging._replace(**fields)
        if staging != self.staging:
            self.staging = staging
            self.show_values()
            self.edited.emit()

    def _compare(self, on: bool) -> None:
        self.compare = on
        self.edited.emit()

    def show_values(self) -> None:
        s = self.staging
        self.zoom.show_value(s.zoom)
        self.turn.show_value(s.turn)
        self.figure.show_value(s.figure_units)
        self.picture.show_value(s.picture)
        self.backdrop.show_value(s.backdrop)
        self.snap.show_value(s.snap)
        self.soft.show_value(s.soft)
        self.divider.show_value(self.compare)

    def restore(self, settings: QSettings) -> None:
        """What a person wants to find again: the backdrop and the figure's height."""
        backdrop = str(settings.value("proof/backdrop") or "scene")
        try:
            figure = float(settings.value("proof/figure") or 2.0)
        except (TypeError, ValueError):
            figure = 2.0
        if backdrop in BACKDROPS and 0.1 <= figure <= 100:
            self.staging = self.staging._replace(backdrop=backdrop, figure_units=figure)  # type: ignore[arg-type]
            self.show_values()

    def remember(self, settings: QSettings) -> None:
        settings.setValue("proof/backdrop", self.staging.backdrop)
        settings.setValue("proof/figure", self.staging.figure_units)


def _words(text: str) -> QWidget:
    made = label(text, "quiet")
    made.setFixedSize(56, HIGH)
    return made
