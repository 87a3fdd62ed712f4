"""The whole level small, in the corner of the Desk, with what is in view as a frame to drag."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QPoint, QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from rushweed.ui.session import later
from rushweed.ui.stages.paint.small_levels import SmallLevels
from rushweed.ui.stages.paint.state import PaintState

MOST = (220, 140)  # px
SOON_MS = 120  # after an edit
EDGE = 10  # px between it and what lies beside it


class Overview(QObject):
    """Makes its small window when it is first shown."""

    def __init__(self, state: PaintState) -> None:
        super().__init__()
        self.state = state
        self.window: _Small | None = None

    def setVisible(self, on: bool) -> None:
        if on and self.window is None:
            self.window = _Small(self.state)
        if self.window is not None:
            self.window.setVisible(on)
            self.refresh()

    def refresh(self) -> None:
        if self.window is not None:
            self.window.refresh()


class _Small(QWidget):
    def __init__(self, state: PaintState) -> None:
        super().__init__(state.desk)
        self.state, self.session = state, state.session
        self.image: QImage | None = None
        self._pictures = SmallLevels(self.session, MOST, self)
        self._pictures.made.connect(self._show)
        self._soon = later(self, SOON_MS, self._show)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName("Overview of the level")
        self.setToolTip("The whole level; drag to go elsewhere")
        state.desk.zoomed.connect(lambda _words: self.update())
        self.session.staged.connect(lambda key: self.setVisible(key == "paint" and state.shown.small.on))

    def refresh(self) -> None:
        if self.isVisible() and not self.session.document.gesturing:
            self._soon.start()

    def _show(self) -> None:
        level = self.session.selection.level
        if level is None:
            self.hide()
            return
        self.image = self._pictures.of(level)
        columns, rows = level.bounds[2:]
        scale = min(MOST[0] / columns, MOST[1] / rows)
        size = QSize(max(round(columns * scale), 24), max(round(rows * scale), 16))
        self.resize(size + QSize(8, 8))
        self.move(self._corner())
        self.raise_()
        self.update()

    def _corner(self) -> QPoint:
        """Its place at the lower right of the Desk, above what lies there."""
        desk = self.state.desk
        place = QRect(
            QPoint(desk.width() - self.width() - EDGE, desk.height() - self.height() - EDGE), self.size()
        )
        boards = desk.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly)
        for board in boards:
            if board is not self and board.isVisible() and board.geometry().intersects(place):
                place.moveBottom(board.geometry().top() - EDGE)
        return place.topLeft()

    @property
    def _inner(self) -> QRectF:
        return QRectF(self.rect()).adjusted(4, 4, -4, -4)

    def frame(self) -> QRectF:
        """What the Desk shows, in px of this widget."""
        level, desk = self.session.selection.level, self.state.desk
        if level is None:
            return QRectF()
        content, inner = self.state.content(), self._inner
        a, b = desk.view.to_content(desk.room.topLeft()), desk.view.to_content(desk.room.bottomRight())
        seen = QRectF(a, b).intersected(content)
        scale = inner.width() / content.width(), inner.height() / content.height()
        return QRectF(
            inner.left() + (seen.left() - content.left()) * scale[0],
            inner.top() + (seen.top() - content.top()) * scale[1],
            seen.width() * scale[0],
            seen.height() * scale[1],
        )

    def _go(self, at: QPointF) -> None:
        content, inner = self.state.content(), self._inner
        x = content.left() + (at.x() - inner.left()) / inner.width() * content.width()
        y = content.top() + (at.y() - inner.top()) / inner.height() * content.height()
        self.state.desk.look_at(x, y)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._go(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(event.position())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.state.look
        painter.fillRect(self.rect(), look.colour("ink"))
        painter.fillRect(self.rect().adjusted(1, 1, -1, -1), look.colour("paper"))
        painter.fillRect(self._inner, look.colour("desk"))
        if self.image is not None:
            painter.drawImage(self._inner, self.image)
        box = self.frame()
        for colour, wide in (("art_casing", 3.0), ("art_rust", 1.5)):
            painter.setPen(QPen(look.colour(colour), wide))
            painter.drawRect(box)
