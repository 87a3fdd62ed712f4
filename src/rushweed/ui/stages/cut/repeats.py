"""The part of the Cut card that shows whether a tile repeats: three by three of it, and the verdicts."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from rushweed.core.cut.seam import Seam, repeated, seam
from rushweed.ui.desk.images import checker, image_of
from rushweed.ui.kit.controls import label, set_role
from rushweed.ui.kit.theme import Look

SIDE = 96


class _Nine(QWidget):
    """The tile nine times over on the checker."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.image: QImage | None = None
        self.setFixedSize(SIDE, SIDE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), checker(self.look))
        if self.image is None:
            return
        scale = min(SIDE / self.image.width(), SIDE / self.image.height())
        scale = int(scale) if scale >= 1 else scale
        wide, high = self.image.width() * scale, self.image.height() * scale
        painter.drawImage(QRectF((SIDE - wide) // 2, (SIDE - high) // 2, wide, high), self.image)


class Repeats(QWidget):
    """Shows one cell; without one it says what to do."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.nine = _Nine(look)
        self.verdicts = [(label("", "reed"), label("", "caption")) for _ in range(2)]
        words = QGridLayout()
        words.setContentsMargins(8, 0, 0, 0)
        words.setVerticalSpacing(2)
        for line, (name, (verdict, detail)) in enumerate(zip(("Across", "Down"), self.verdicts, strict=True)):
            words.addWidget(label(name), line * 2, 0)
            words.addWidget(verdict, line * 2, 1)
            words.addWidget(detail, line * 2 + 1, 0, 1, 2)
        words.setColumnStretch(1, 1)
        words.setRowStretch(4, 1)
        self.setFixedHeight(SIDE)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.nine)
        row.addLayout(words, 1)

    def show_cell(self, pixels: np.ndarray | None) -> None:
        """uint8 (height, width, 4) of one cell, or None."""
        self.nine.image = image_of(repeated(pixels)) if pixels is not None else None
        self.nine.update()
        for axis, (verdict, detail) in enumerate(self.verdicts):
            if pixels is None:
                verdict.setText("")
                detail.setText("select one cell" if axis == 0 else "")
                continue
            text, role, why = _words(seam(pixels, axis))
            verdict.setText(text)
            set_role(verdict, role)
            detail.setText(why)


def _words(found: Seam) -> tuple[str, str, str]:
    if not found.joined:
        return "not joined", "quiet", "its edges do not meet"
    numbers = f"edge {found.edge:.0f}, inside up to {found.inside:.0f}"
    return ("no seam", "reed", numbers) if found.seamless else ("a seam", "fault", numbers)
