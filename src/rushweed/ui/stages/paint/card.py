"""The card of Paint: the layers of the level, then the numbers of what is at hand."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.walk.walkers import units_of
from rushweed.ui.desk.images import SheetImages
from rushweed.ui.kit.card import Card, scrolled
from rushweed.ui.kit.controls import Rule, button
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.layers import LayerList
from rushweed.ui.session import Session
from rushweed.ui.stages.paint.layer_rows import LayerRows
from rushweed.ui.stages.paint.level_rows import LevelRows


class LevelCard(QWidget):
    """Layers above; below, in what scrolls, the rows of the layer and the level, and those of tools."""

    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.layers = LayerList(look, icons, session, images)
        self.layer_rows = LayerRows(look, icons, session)
        self.level_rows = LevelRows(look, session)
        below = QWidget()
        self._below = QVBoxLayout(below)
        self._below.setContentsMargins(0, 0, 0, 0)
        self._below.setSpacing(0)
        for part in (self.layer_rows, Rule(look), self.level_rows):
            self._below.addWidget(part)
        self._below.addStretch(1)
        self.new_level = button("New level")
        self.new_level.setToolTip("With the cell size of the sheet shown  (Ctrl+L)")
        self._without = Card(look, "No level yet")  # what is shown in place of all that
        self._without.add(self.new_level)
        self._without.end()
        self._with = self.layers, Rule(look), scrolled(below)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        for shown, stretch in zip((*self._with, self._without), (2, 0, 3, 5), strict=True):
            box.addWidget(shown, stretch)

    def add_rows(self, rows: QWidget) -> None:
        """More rows, above all others."""
        self._below.insertWidget(0, rows)

    def refresh(self, project: Project, level: Level | None) -> None:
        """Without a level there is nothing but a way to make one."""
        for part in self._with:
            part.setVisible(level is not None)
        self._without.setVisible(level is None)
        self.layers.refresh()
        if level is not None:
            self.layer_rows.refresh(level)
            self.level_rows.refresh(level, units_of(project, level))
