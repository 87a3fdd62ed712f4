"""The card of Paint: the layers of the level, then the numbers of what is at hand."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.level import Level
from rushweed.ui.desk.images import SheetImages
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.controls import Rule
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
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.layers, 2)
        box.addWidget(Rule(look))
        box.addWidget(scrolled(below), 3)

    def add_rows(self, rows: QWidget) -> None:
        """More rows, above all others."""
        self._below.insertWidget(0, rows)

    def refresh(self, level: Level, ppu: float) -> None:
        self.layer_rows.refresh(level)
        self.level_rows.refresh(level, ppu)
