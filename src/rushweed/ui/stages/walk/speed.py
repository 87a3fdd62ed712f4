"""How time runs in Walk."""

from __future__ import annotations

from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.theme import Look
from rushweed.ui.stages.walk.play import Play

SPEEDS = {"1": 1.0, "2": 0.5, "4": 0.25, "step": 0.0}


class SpeedRow(ChoiceRow):
    """Whole, half, a quarter, or step by step."""

    def __init__(self, look: Look, play: Play) -> None:
        super().__init__(look, [("1", "×1"), ("2", "½"), ("4", "¼"), ("step", "Step")])
        self._play = play
        self.setToolTip("How time runs  (T); step by step with N")
        self.edited.connect(self._set)

    @property
    def by_steps(self) -> bool:
        """Whether time stands but for what one does."""
        return self.value == "step"

    def next(self) -> None:
        """The next slower one, or the whole again."""
        keys = list(SPEEDS)
        key = keys[(keys.index(self.value or "1") + 1) % len(keys)]
        self.show_value(key)
        self.edited.emit(key)

    def _set(self, key: str) -> None:
        self._play.speed = SPEEDS[key]
        if key == "step":
            self._play.pause()
