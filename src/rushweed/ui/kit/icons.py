"""Icons drawn from one icon font, the Phosphor face that comes with the qtawesome package.

The face is loaded by itself: importing the package would load ten faces at every start.
"""

from __future__ import annotations

import importlib.util
from pathlib import Path

import msgspec
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPixmap


class Icons:
    """Glyphs by name, such as "paint-brush"; made once by the application and passed on."""

    def __init__(self) -> None:
        spec = importlib.util.find_spec("qtawesome")
        assert spec and spec.origin
        fonts = Path(spec.origin).parent / "fonts"
        face = next(fonts.glob("phosphor-*.ttf"))
        chars = next(fonts.glob("phosphor-charmap-*.json"))
        self._codes: dict[str, str] = msgspec.json.decode(chars.read_bytes(), type=dict[str, str])
        number = QFontDatabase.addApplicationFont(str(face))
        self._family = QFontDatabase.applicationFontFamilies(number)[0]

    def paint(self, painter: QPainter, rect: QRectF, name: str, colour: QColor, px: int = 18) -> None:
        """Draw a glyph in the middle of `rect`."""
        font = QFont(self._family)
        font.setPixelSize(px)
        painter.save()
        painter.setFont(font)
        painter.setPen(colour)
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, self.glyph(name))
        painter.restore()

    def glyph(self, name: str) -> str:
        return chr(int(self._codes[name], 16))

    def icon(self, name: str, colour: QColor, px: int = 16) -> QIcon:
        pixmap = QPixmap(px * 2, px * 2)
        pixmap.setDevicePixelRatio(2)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        self.paint(painter, QRectF(0, 0, px, px), name, colour, px)
        painter.end()
        return QIcon(pixmap)
