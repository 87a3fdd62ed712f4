"""The Desk: the canvas with its pointer, its keys and its rulers."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPoint, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QCursor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent

from rushweed.ui.desk.around import paint_empty, paint_rulers
from rushweed.ui.desk.canvas import Canvas
from rushweed.ui.desk.event import event_at
from rushweed.ui.desk.key_pointer import KeyPointer
from rushweed.ui.desk.rulers import THICK
from rushweed.ui.desk.scene import Scene
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session


class Desk(Canvas):
    """Shows a scene and hands it the pointer and the keys; panning and zooming are its own."""

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__(look, icons, session)
        self._pan: QPoint | None = None
        self._space = False
        self._pressed = False
        self._painted = False
        self._window_size = QSize()  # when it got its own size
        self.by_keys = KeyPointer(self)
        self.setAccessibleName("Desk")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_scene(self, scene: Scene) -> None:
        if self._scene is not None and self._scene is not scene:
            self._scene.leave()
            self._scene.left()
        self._scene = scene
        self._pressed = False
        self.by_keys.forget()
        self.setCursor(scene.cursor())
        if self._painted:
            self.wait_a_turn()
        self.update()
        self.zoomed.emit(self.view.words())

    # -- pointer -----------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turn = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or abs(turn.x()) > abs(turn.y()):
            self.view.pan(turn.x() or turn.y(), 0)
            self.viewed()
        elif turn.y():
            self.zoom_step(1 if turn.y() > 0 else -1, event.position())
        event.accept()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        if event.button() == Qt.MouseButton.MiddleButton or (
            self._space and event.button() == Qt.MouseButton.LeftButton
        ):
            self._pan = event.position().toPoint()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            return
        if not self.room.contains(event.position()) or not self.scene.view_key():
            return
        if event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton):
            self._pressed = True
            self.scene.press(event_at(self.view, event))
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan is not None:
            step = event.position().toPoint() - self._pan
            self._pan = event.position().toPoint()
            self.view.pan(step.x(), step.y())
            self.view.keep_near(self.scene.content(), self.room)
            self.update()
            return
        if not self.scene.view_key():
            return
        at = event_at(self.view, event)
        if self._pressed:
            self.scene.drag(at)
        else:
            self.scene.hover(at)
        self.session.pointed.emit(self.scene.describe(at) if self.room.contains(event.position()) else "")
        if not self._space:
            self.setCursor(self.scene.cursor())
        region = None if self.by_keys.on else self.scene.hover_region()
        if region is None:
            self.update()
        else:
            self.repaint_part(region.toAlignedRect())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan is not None:
            self._pan = None
            self.setCursor(Qt.CursorShape.OpenHandCursor if self._space else self.scene.cursor())
            return
        if self._pressed:
            self._pressed = False
            self.scene.release(event_at(self.view, event))
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.scene.leave()
        self.session.pointed.emit("")
        self.update()

    def event(self, event: QEvent | None) -> bool:
        assert event is not None
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            if self._scene is not None and (self.by_keys.takes(event) or self._scene.takes_key(event)):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if self.by_keys.takes(event):
            self.by_keys.key_pressed(event)
            return
        if self.scene.takes_key(event):
            self.scene.key_pressed(event)
            return
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
            return
        if event.key() == Qt.Key.Key_Escape:
            if not self._pressed and self.by_keys.on:
                self.by_keys.switch()
            self._pressed = False
            self.by_keys.forget()
            self.scene.escape()
            self.update()
            return
        if not self.scene.key_pressed(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        self.scene.key_released(event)
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.setCursor(QCursor(self.scene.cursor()))
            return
        super().keyReleaseEvent(event)

    def focusOutEvent(self, event: object) -> None:
        self._space = False
        if self._scene is not None:
            self._scene.focus_lost()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        window = self.window()
        if self._painted and window is not None and window.size() == self._window_size:
            self.wait_a_turn()  # something beside it came or went: that is drawn first
        self._window_size = window.size() if window is not None else QSize()
        if self._scene is not None and event is not None and event.oldSize().isValid():
            grown, shown = event.size() - event.oldSize(), self._views.get(self.scene.view_key())
            for view in self._views.values():
                content = self.scene.content() if view is shown else None
                view.grow(grown.width(), grown.height(), content, self.room)
            if shown is not None:
                self.zoomed.emit(shown.words())

    # -- painting ----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        painter = QPainter(self)
        whole, parts = event.rect(), self._parts
        self._parts = []
        united = QRect()
        for part in parts:
            united = united.united(part)
        if united.intersected(self.rect()) != whole:
            parts = [whole]
        parts = apart(parts)
        try:
            for part in parts:
                painter.save()
                painter.setClipRect(part)
                self._paint_part(painter, QRectF(part))
                painter.restore()
        finally:  # what a scene fails at in painting must not leave the widget as being painted
            painter.end()
        self.session.jobs.desk_draws_on(self.scene.unfinished)
        if not self._painted:
            self._painted = True
            self.painted.emit()

    def _paint_part(self, painter: QPainter, part: QRectF) -> None:
        """Draw what is in one rectangle; the clip is set to it."""
        room, scene = self.room, self.scene
        painter.fillRect(part, self.look.colour("desk"))
        if not scene.view_key():
            paint_empty(painter, self, room)
            return
        if part.intersects(room):
            painter.save()
            painter.setClipRect(room, Qt.ClipOperation.IntersectClip)
            scene.paint(painter, room.intersected(part))
            if self.by_keys.on:
                self.by_keys.paint(painter)
            painter.restore()
        if part.top() < THICK or part.left() < THICK:
            paint_rulers(painter, self, part)


def apart(parts: list[QRect]) -> list[QRect]:
    """The same places in rectangles that do not overlap: those that do become one."""
    result: list[QRect] = []
    for part in parts:
        merged = True
        while merged:
            merged = False
            for other in result:
                if other.intersects(part):
                    result.remove(other)
                    part = part.united(other)
                    merged = True
                    break
        result.append(part)
    return result
