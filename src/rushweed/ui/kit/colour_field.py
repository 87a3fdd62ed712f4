"""A colour as six hexadecimal digits, with a patch of it to choose another by eye."""

from __future__ import annotations

import re

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QColorDialog

from rushweed.ui.kit.fields import TextField
from rushweed.ui.kit.theme import Look

Colour = tuple[int, int, int]
PATCH = 22  # px at the right of the field


class ColourField(TextField):
    """Empty for none. `picked` gives the colour, or None, when a person has typed or chosen one."""

    picked = pyqtSignal(object)

    def __init__(self, look: Look, hint: str = "none") -> None:
        super().__init__(hint, mono=True)
        self.look = look
        self.setTextMargins(0, 0, PATCH, 0)
        self.edited.connect(self._typed)
        self._colour: Colour | None = None

    def show_colour(self, colour: Colour | None) -> None:
        self._colour = colour
        self.show_value("" if colour is None else "#{:02x}{:02x}{:02x}".format(*colour))
        self.update()

    def _typed(self, text: str) -> None:
        """What is no colour is taken back."""
        digits = text.strip().lstrip("#")
        if not digits:
            self.picked.emit(None)
        elif re.fullmatch(r"[0-9a-fA-F]{6}", digits):
            self.picked.emit((int(digits[:2], 16), int(digits[2:4], 16), int(digits[4:], 16)))
        else:
            self.show_colour(self._colour)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() > self.width() - PATCH:
            start = QColor(*(self._colour or (255, 255, 255)))
            chosen = QColorDialog.getColor(start, self, "Tint")
            if chosen.isValid():
                self.picked.emit((chosen.red(), chosen.green(), chosen.blue()))
        else:
            super().mousePressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        box = QRectF(self.width() - PATCH, 5, PATCH - 6, self.height() - 10)
        painter.setPen(self.look.colour("rule_deep"))
        if self._colour is not None:
            painter.fillRect(box, QColor(*self._colour))
        else:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.drawLine(box.bottomLeft(), box.topRight())
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
