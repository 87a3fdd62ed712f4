"""The Desk: one canvas for every stage, with the same zoom, pan, grid and rulers everywhere."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QCursor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from rushweed.ui.desk.images import SheetImages
from rushweed.ui.desk.key_pointer import KeyPointer
from rushweed.ui.desk.level_paint import LevelPainter
from rushweed.ui.desk.rulers import THICK
from rushweed.ui.desk.sheet_paint import CellIndex, SheetPainter
from rushweed.ui.desk.view import View
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session

if TYPE_CHECKING:
    from rushweed.ui.desk.stage import Stage
from rushweed.ui.desk.around import paint_empty, paint_rulers
from rushweed.ui.desk.event import event_at


class Desk(QWidget):
    """Shows what the stage shows and hands it the pointer; panning and zooming are its own."""

    zoomed = pyqtSignal(str)
    painted = pyqtSignal()  # for the first time
    asks = pyqtSignal(bool)  # whether a board over its foot asks something

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__()
        self.look, self.icons, self.session = look, icons, session
        self.images = SheetImages(session.stock)
        self.sheet_painter = SheetPainter(look, session.stock, self.images)
        session.prepares += [self.images, self.sheet_painter]
        self.level_painter = LevelPainter(session.stock, self.images)
        self.cell_index = CellIndex()
        self._stage: Stage | None = None
        self._views: dict[str, View] = {}
        self._pan: QPoint | None = None
        self._space = False
        self._pressed = False
        self._painted = False
        self.tells_empty = True  # something else may say it
        self._parts: list[QRect] = []
        self.by_keys = KeyPointer(self)
        self.setAccessibleName("Desk")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(240, 160)
        session.document.changed.connect(self._changed)
        session.selection.focused.connect(self.update)

    # -- what is shown -----------------------------------------------------------------------------

    @property
    def stage(self) -> Stage:
        assert self._stage is not None
        return self._stage

    def show_stage(self, stage: Stage) -> None:
        if self._stage is not None and self._stage is not stage:
            self._stage.leave()
            self._stage.left()
        self._stage = stage
        self._pressed = False
        self.by_keys.forget()
        self.setCursor(stage.cursor())
        self.update()
        self.zoomed.emit(self.view.words())

    @property
    def room(self) -> QRectF:
        """The canvas without its rulers, screen px."""
        return QRectF(THICK, THICK, max(self.width() - THICK, 1), max(self.height() - THICK, 1))

    @property
    def view(self) -> View:
        """The view of what is shown; each sheet and level has its own."""
        key = self.stage.view_key()
        view = self._views.get(key)
        if view is None:
            view = self._views[key] = View(self.devicePixelRatioF())
        if view.ratio != self.devicePixelRatioF():
            view.set_ratio(self.devicePixelRatioF(), self.room.center())
        if not view.fitted and self.isVisible() and key:
            view.fit(self.stage.content(), self.room)
        return view

    def _changed(self, old: object, new: object) -> None:
        if self._stage is not None:
            region = self._stage.dirty(old, new)
            if region is None:
                self.update()
            else:
                self.repaint_part(region.toAlignedRect().adjusted(-2, -2, 2, 2))

    # -- zoom and pan ------------------------------------------------------------------------------

    def zoom_step(self, by: int, at: QPointF | None = None) -> None:
        self.view.step(by, at or self.room.center())
        self._viewed()

    def zoom_to(self, zoom: float) -> None:
        self.view.set_zoom(zoom / self.view.ratio, self.room.center())
        self._viewed()

    def zoom_fit(self) -> None:
        self.view.fit(self.stage.content(), self.room)
        self._viewed()

    def look_at(self, x: float, y: float) -> None:
        """Bring a place of the content into the middle."""
        self.view.centre(QPointF(x, y), self.room)
        self._viewed()

    def _viewed(self) -> None:
        self.view.keep_near(self.stage.content(), self.room)
        self.zoomed.emit(self.view.words())
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turn = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or abs(turn.x()) > abs(turn.y()):
            self.view.pan(turn.x() or turn.y(), 0)
            self._viewed()
        elif turn.y():
            self.zoom_step(1 if turn.y() > 0 else -1, event.position())
        event.accept()

    # -- pointer -----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        if event.button() == Qt.MouseButton.MiddleButton or (
            self._space and event.button() == Qt.MouseButton.LeftButton
        ):
            self._pan = event.position().toPoint()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            return
        if not self.room.contains(event.position()) or not self.stage.view_key():
            return
        if event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton):
            self._pressed = True
            self.stage.press(event_at(self.view, event))
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan is not None:
            step = event.position().toPoint() - self._pan
            self._pan = event.position().toPoint()
            self.view.pan(step.x(), step.y())
            self.view.keep_near(self.stage.content(), self.room)
            self.update()
            return
        if not self.stage.view_key():
            return
        at = event_at(self.view, event)
        if self._pressed:
            self.stage.drag(at)
        else:
            self.stage.hover(at)
        self.session.pointed.emit(self.stage.describe(at) if self.room.contains(event.position()) else "")
        if not self._space:
            self.setCursor(self.stage.cursor())
        region = None if self.by_keys.on else self.stage.hover_region()
        if region is None:
            self.update()
        else:
            self.repaint_part(region.toAlignedRect())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan is not None:
            self._pan = None
            self.setCursor(Qt.CursorShape.OpenHandCursor if self._space else self.stage.cursor())
            return
        if self._pressed:
            self._pressed = False
            self.stage.release(event_at(self.view, event))
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.stage.leave()
        self.session.pointed.emit("")
        self.update()

    def event(self, event: QEvent | None) -> bool:
        assert event is not None
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            if self._stage is not None and (self.by_keys.takes(event) or self._stage.takes_key(event)):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if self.by_keys.takes(event):
            self.by_keys.key_pressed(event)
            return
        if self.stage.takes_key(event):
            self.stage.key_pressed(event)
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
            self.stage.escape()
            self.update()
            return
        if not self.stage.key_pressed(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        self.stage.key_released(event)
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.setCursor(QCursor(self.stage.cursor()))
            return
        super().keyReleaseEvent(event)

    def focusOutEvent(self, event: object) -> None:
        self._space = False
        if self._stage is not None:
            self._stage.focus_lost()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if self._stage is not None and event is not None and event.oldSize().isValid():
            grown, shown = event.size() - event.oldSize(), self._views.get(self.stage.view_key())
            for view in self._views.values():
                content = self.stage.content() if view is shown else None
                view.grow(grown.width(), grown.height(), content, self.room)
            if shown is not None:
                self.zoomed.emit(shown.words())

    def repaint_part(self, part: QRect) -> None:
        """Paint a rectangle again. Several in one round are painted each by itself, not what lies between."""
        self._parts.append(part)
        self.update(part)

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
        finally:  # what a stage fails at in painting must not leave the widget as being painted
            painter.end()
        if not self._painted:
            self._painted = True
            self.painted.emit()

    def _paint_part(self, painter: QPainter, part: QRectF) -> None:
        """Draw what is in one rectangle; the clip is set to it."""
        room, stage = self.room, self.stage
        painter.fillRect(part, self.look.colour("desk"))
        if not stage.view_key():
            paint_empty(painter, self, room)
            return
        if part.intersects(room):
            painter.save()
            painter.setClipRect(room, Qt.ClipOperation.IntersectClip)
            stage.paint(painter, room.intersected(part))
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
