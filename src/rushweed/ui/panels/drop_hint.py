"""Where pictures can be dropped, at the foot of the Shelf."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from rushweed.ui.kit.controls import Pressable, elided
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look


class DropHint(Pressable):
    """The foot of the Shelf: what can be dropped."""

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.show_low(False)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Add pictures")

    def show_low(self, low: bool) -> None:
        """As one line, where the window is low."""
        self._low = low
        self.setFixedHeight(40 if low else 80)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        painter.setPen(QPen(look.colour("rule_deep"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(8.5, 8.5, self.width() - 17, self.height() - 18))
        if self._low:
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            self.icons.paint(painter, QRectF(14, 8, 18, 24), "download-simple", look.colour("quiet"), 15)
            words = elided(painter, "Drop pictures here", self.width() - 48)
            painter.drawText(QRectF(36, 8, self.width() - 44, 24), Qt.AlignmentFlag.AlignVCenter, words)
            return
        self.icons.paint(
            painter, QRectF(0, 12, self.width(), 22), "download-simple", look.colour("quiet"), 17
        )
        painter.setFont(look.font(11))
        painter.setPen(look.colour("quiet"))
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop
        painter.drawText(QRectF(0, 36, self.width(), 34), flags, "Drop pictures or a\nfolder here")
