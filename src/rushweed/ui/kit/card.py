"""A panel of rows under a head, and how it scrolls."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Check, label, name_by_labels, row
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import ToggleButton


class Card(QWidget):
    """A panel of rows under a head: a column of labels and fields."""

    label_width = 64

    def __init__(self, look: Look, title: str) -> None:
        super().__init__()
        self.look = look
        self.head = label(title, "head")
        self.what = label("", "quiet")
        self.where = label("", "mono")
        self.rows = QVBoxLayout(self)
        self.rows.setContentsMargins(8, 0, 8, 8)
        self.rows.setSpacing(8)
        top = QWidget()
        top.setFixedHeight(32)
        top.setLayout(row(self.head, self.what, None, self.where))
        self.rows.addWidget(top)

    def field(self, words: str, *parts: QWidget) -> QWidget:
        """A row: its label, then the fields."""
        name = label(words)
        name.setFixedWidth(self.label_width)
        for part in parts:
            if isinstance(part, QLabel):
                part.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        holder = QWidget()
        holder.setFixedHeight(24)
        ends = isinstance(parts[-1], (ChoiceRow, Check, ToggleButton))  # which keep their own width
        holder.setLayout(row(name, *parts, None) if ends else row(name, *parts))
        self.rows.addWidget(holder)
        return holder

    def add(self, widget: QWidget) -> None:
        name_by_labels((widget,))
        self.rows.addWidget(widget)

    def gap(self, px: int = 4) -> None:
        self.rows.addSpacing(px)

    def end(self) -> None:
        self.rows.addStretch(1)


def scrolled(card: QWidget) -> QScrollArea:
    """A card that scrolls where the window is too low for it."""
    area = QScrollArea()
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(card)
    area.setWidgetResizable(True)
    area.setFrameShape(QScrollArea.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area
