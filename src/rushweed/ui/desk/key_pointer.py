"""A pointer on the Desk that the keys move: every tool can be used without a mouse."""

from __future__ import annotations

import math

from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen

from rushweed.ui.desk.canvas import Canvas

STEPS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
    Qt.Key.Key_Home: (-8, 0), Qt.Key.Key_End: (8, 0), Qt.Key.Key_PageUp: (0, -8), Qt.Key.Key_PageDown: (0, 8),
}  # fmt: skip
HOLDS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
RADIUS, REACH, EDGE = 7, 16, 24  # screen px: of the ring, of its lines, kept free at the edge of the Desk


class KeyPointer:
    """While it is `on`, arrows move it by a px (by a cell in a level), Home, End and Page by eight; Space
    presses and lets go, Enter presses and holds until Enter again, Backspace is the other button. Shift, Ctrl
    and Alt do what they do with a mouse."""

    def __init__(self, desk: Canvas) -> None:
        self.desk = desk
        self.on = self.holds = False
        self.x = self.y = 0.0  # content px

    def switch(self) -> None:
        """Show it in the middle of what is seen, or put it away."""
        desk = self.desk
        if self.on:
            self._let_go()
            self.on = False
        elif desk.scene.view_key():
            self.on = True
            middle = desk.view.to_content(desk.room.center())
            self.move_to(middle.x(), middle.y())
            desk.setFocus()
        desk.update()

    def forget(self) -> None:
        """What was shown is shown no more: nothing is held."""
        self.holds = False

    def _step(self) -> tuple[float, float]:
        return self.desk.scene.pointer_step()

    def move_to(self, x: float, y: float) -> None:
        """Stand at the step that holds a place; in the middle of a cell, on the corner of a px."""
        wide, high = self._step()
        half = (wide / 2 if wide > 1 else 0, high / 2 if high > 1 else 0)
        self.x, self.y = math.floor(x / wide) * wide + half[0], math.floor(y / high) * high + half[1]
        self._keep_in_sight()
        self._send(QEvent.Type.MouseMove)

    @property
    def screen(self) -> QPointF:
        return self.desk.view.to_screen(self.x, self.y)

    def _keep_in_sight(self) -> None:
        room, at, view = self.desk.room.adjusted(EDGE, EDGE, -EDGE, -EDGE), self.screen, self.desk.view
        dx = max(room.left() - at.x(), 0) + min(room.right() - at.x(), 0)
        dy = max(room.top() - at.y(), 0) + min(room.bottom() - at.y(), 0)
        if dx or dy:
            view.pan(round(dx), round(dy))
            self.desk.zoomed.emit(view.words())

    def takes(self, event: QKeyEvent) -> bool:
        """Whether a key moves or presses it now."""
        key = Qt.Key(event.key())
        return self.on and (key in STEPS or key in HOLDS or key in (Qt.Key.Key_Space, Qt.Key.Key_Backspace))

    def key_pressed(self, event: QKeyEvent) -> None:
        key, held = Qt.Key(event.key()), event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if key in STEPS:
            wide, high = self._step()
            across, down = STEPS[key]
            self.x, self.y = self.x + across * wide, self.y + down * high
            self._keep_in_sight()
            self._send(QEvent.Type.MouseMove, held=held)
        elif key in HOLDS:
            self._send(
                QEvent.Type.MouseButtonRelease if self.holds else QEvent.Type.MouseButtonPress, held=held
            )
            self.holds = not self.holds
        elif not self.holds and not event.isAutoRepeat():
            button = Qt.MouseButton.LeftButton if key == Qt.Key.Key_Space else Qt.MouseButton.RightButton
            self._send(QEvent.Type.MouseButtonPress, button, held)
            self._send(QEvent.Type.MouseButtonRelease, button, held)
        self.desk.update()

    def _let_go(self) -> None:
        if self.holds:
            self._send(QEvent.Type.MouseButtonRelease)
            self.holds = False

    def _send(
        self,
        kind: QEvent.Type,
        button: Qt.MouseButton = Qt.MouseButton.LeftButton,
        held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        """What a mouse would send at this place."""
        none, desk, at = Qt.MouseButton.NoButton, self.desk, self.screen
        down = button if kind == QEvent.Type.MouseButtonPress or self.holds else none
        moved = kind == QEvent.Type.MouseMove
        everywhere = QPointF(desk.mapToGlobal(at.toPoint()))
        event = QMouseEvent(kind, at, everywhere, none if moved else button, down, held)
        if kind == QEvent.Type.MouseButtonPress:
            desk.mousePressEvent(event)
        elif kind == QEvent.Type.MouseButtonRelease:
            desk.mouseReleaseEvent(event)
        else:
            desk.mouseMoveEvent(event)

    def box(self) -> QRect:
        """What it covers, screen px."""
        at = self.screen
        return QRectF(at.x() - REACH, at.y() - REACH, 2 * REACH, 2 * REACH).toAlignedRect()

    def paint(self, painter: QPainter) -> None:
        """A ring with four lines, dark in light, that is seen on any art; filled while it holds."""
        at, look = self.screen, self.desk.look
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for role, wide in (("art_casing", 4.0), ("art_paper", 2.0)):
            painter.setPen(QPen(look.colour(role), wide))
            painter.drawEllipse(at, RADIUS, RADIUS)
            for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                painter.drawLine(
                    at + QPointF(dx * RADIUS, dy * RADIUS), at + QPointF(dx * (REACH - 2), dy * (REACH - 2))
                )
        if self.holds:
            painter.setBrush(look.colour("art_rust"))
            painter.drawEllipse(at, RADIUS - 3, RADIUS - 3)
        painter.restore()
