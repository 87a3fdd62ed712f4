"""The picture of the Proof: the scene with its yardstick, and what can be dragged in it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from rushweed.core.tune.scene import THING_AT, Scene
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.theme import Look

PICTURE = (256, 144)
REACH = 10  # px within which a handle is taken


class ProofPicture(QWidget):
    """Shows what it is given; tells where the lamp, the divider or the corner was dragged, and the wheel."""

    lamp_moved = pyqtSignal(QPointF)
    divided = pyqtSignal(float)  # share of the width
    corner_moved = pyqtSignal(QPointF)
    zoomed = pyqtSignal(float)  # factor
    fitted = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.image: QImage | None = None
        self.before: QImage | None = None  # the art as drawn, left of the divider
        self.scene: Scene | None = None
        self.words = ""
        self.lamp: QPointF | None = None  # screen px, while the sheet has a normal map
        self.divider = THING_AT  # share of the width
        self.box: QRectF | None = None  # of the nine-slice, whose lower right corner can be dragged
        self._held = ""
        self.setMinimumSize(*PICTURE)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(*PICTURE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.look.colour("desk"))
        if self.image is None:
            return
        ratio = self.devicePixelRatioF()
        box = QRectF(0, 0, self.image.width() / ratio, self.image.height() / ratio)
        painter.drawImage(box, self.image)
        if self.before is not None:
            self._divide(painter, box, self.before)
        if self.scene is not None:
            self._yardstick(painter, self.scene, ratio)
        if self.words:
            tag(painter, self.look, 4, self.height() - 21, self.words)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.lamp is not None:
            painter.setPen(QPen(self.look.colour("art_ink"), 1.5))
            painter.setBrush(self.look.colour("art_straw"))
            painter.drawEllipse(self.lamp, 6, 6)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self.lamp, 10, 10)
        if self.box is not None:
            self._corner(painter, self.box)

    def _divide(self, painter: QPainter, box: QRectF, before: QImage) -> None:
        x = round(self.divider * box.width())
        painter.save()
        painter.setClipRect(QRectF(0, 0, x, box.height()))
        painter.drawImage(box, before)
        painter.restore()
        for colour, wide in (("art_ink", 3), ("art_paper", 1)):
            painter.setPen(QPen(self.look.colour(colour), wide))
            painter.drawLine(QPointF(x, 0), QPointF(x, box.height()))
        grip = QRectF(x - 4, box.height() / 2 - 10, 8, 20)
        painter.setPen(self.look.colour("art_ink"))
        painter.setBrush(self.look.colour("art_paper"))
        painter.drawRect(grip)
        if x > 70:
            tag(painter, self.look, x - 64, self.height() - 21, "as drawn")
        if x < box.width() - 50:
            tag(painter, self.look, x + 8, self.height() - 21, "as set")

    def _corner(self, painter: QPainter, box: QRectF) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(self.look.colour("art_ink"), 3))
        painter.drawRect(box)
        painter.setPen(QPen(self.look.colour("art_paper"), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)
        painter.setPen(QPen(self.look.colour("art_paper"), 1.5))
        painter.setBrush(self.look.colour("art_rust"))
        painter.drawRect(QRectF(box.right() - 5, box.bottom() - 5, 10, 10))

    def _yardstick(self, painter: QPainter, scene: Scene, ratio: float) -> None:
        x, top, bottom = (v / ratio for v in scene.yard)
        x = round(x) + 0.5
        ends = [(top, 5), (bottom - 1, 5), ((top + bottom) / 2, 3)]
        for colour, wide in ((self.look.colour("art_ink"), 4), (self.look.colour("art_paper"), 2)):
            painter.setPen(QPen(colour, wide, cap=Qt.PenCapStyle.SquareCap))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom - 1))
            for y, half in ends:
                painter.drawLine(QPointF(x - half, y), QPointF(x + half, y))
        middle = min(max((top + bottom) / 2 - 8, 2.0), self.height() - 20.0)
        tag(painter, self.look, x + 8 if x + 44 < self.width() else x - 40, middle, "1 u")

    # -- the pointer -----------------------------------------------------------------------------------

    def _handle(self, at: QPointF) -> str:
        if self.box is not None:
            corner = self.box.bottomRight()
            if max(abs(at.x() - corner.x()), abs(at.y() - corner.y())) <= REACH:
                return "corner"
        if self.before is not None and abs(at.x() - self.divider * self.width()) <= REACH:
            return "divider"
        return "lamp" if self.lamp is not None else ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._held = self._handle(event.position())
        self._move(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        over = self._held or self._handle(event.position())
        shapes = {"corner": Qt.CursorShape.SizeFDiagCursor, "divider": Qt.CursorShape.SplitHCursor}
        self.setCursor(shapes.get(over, Qt.CursorShape.ArrowCursor))
        self._move(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = ""

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.fitted.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoomed.emit(1.1 ** (event.angleDelta().y() / 120))
        event.accept()

    def _move(self, at: QPointF) -> None:
        if self._held == "corner":
            self.corner_moved.emit(at)
        elif self._held == "divider":
            self.divided.emit(min(max(at.x() / max(self.width(), 1), 0.0), 1.0))
        elif self._held == "lamp":
            self.lamp_moved.emit(at)
