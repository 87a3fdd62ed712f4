"""What stands on the Desk besides what is shown: rulers, and what to do when there is nothing."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from rushweed.ui.desk.canvas import Canvas
from rushweed.ui.desk.rulers import THICK, Band


def paint_rulers(painter: QPainter, desk: Canvas, part: QRectF) -> None:
    """Both rulers and their corner, as far as they lie in a part of the Desk."""
    look = desk.look
    for axis, length in ((0, desk.width()), (1, desk.height())):
        box = QRectF(THICK, 0, length, THICK) if axis == 0 else QRectF(0, THICK, THICK, length)
        seen = box.intersected(part)
        if seen.isEmpty():
            continue
        painter.save()
        painter.setClipRect(seen, Qt.ClipOperation.IntersectClip)
        span = (seen.left(), seen.right()) if axis == 0 else (seen.top(), seen.bottom())
        band = Band(painter, desk.view, look, axis, span)
        band.ground()
        desk.scene.ruler(band)
        edge = QRectF(0, THICK - 1, length, 1) if axis == 0 else QRectF(THICK - 1, 0, 1, length)
        painter.fillRect(edge, look.colour("rule"))
        painter.restore()
    corner = QRectF(0, 0, THICK, THICK)
    if corner.intersects(part):
        painter.fillRect(corner, look.colour("paper"))
        painter.setFont(look.mono(10))
        painter.setPen(look.colour("quiet"))
        painter.drawText(corner, Qt.AlignmentFlag.AlignCenter, desk.scene.ruler_unit)
        painter.fillRect(QRectF(THICK - 1, 0, 1, THICK), look.colour("rule"))
        painter.fillRect(QRectF(0, THICK - 1, THICK, 1), look.colour("rule"))


def paint_empty(painter: QPainter, desk: Canvas, room: QRectF) -> None:
    """What to do when there is nothing to show."""
    head, text = desk.scene.empty_words()
    if not desk.tells_empty:
        return
    box = QRectF(room.center().x() - 190, room.center().y() - 46, 380, 92)
    painter.fillRect(box, desk.look.colour("paper"))
    painter.setPen(desk.look.colour("rule"))
    painter.drawRect(box)
    painter.setPen(desk.look.colour("ink"))
    painter.setFont(desk.look.font(14, True))
    painter.drawText(box.adjusted(16, 12, -16, -50), Qt.AlignmentFlag.AlignCenter, head)
    painter.setFont(desk.look.font(12))
    painter.setPen(desk.look.colour("quiet"))
    flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
    painter.drawText(box.adjusted(16, 40, -16, -10), int(flags), text)
