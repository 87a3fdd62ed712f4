"""The small controls of the window. `show_value` is silent; `edited` speaks only when a person edits."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from PyQt6.QtCore import QBuffer, QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import (
    QAbstractButton,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QSplitterHandle,
    QWidget,
)

from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look

HIGH = 24  # of every control


def label(text: str, role: str = "text") -> QLabel:
    """A text; names in it are shown as they are, whatever markup they hold."""
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setProperty("role", role)
    return made


def plain_tip(text: str) -> str:
    """A tooltip that shows names as they are, whatever markup they hold."""
    return escape(text).replace("\n", "<br>") if "<" in text or "&" in text else text


def set_role(widget: QLabel, role: str) -> None:
    if widget.property("role") != role:
        widget.setProperty("role", role)
        style = widget.style()
        assert style is not None
        style.unpolish(widget)
        style.polish(widget)


def name_by_labels(parts: Sequence[QWidget | int | None]) -> None:
    """Fields that nobody gave a name are called after the label before them, else after what they say."""
    words = ""
    for part in parts:
        if isinstance(part, QLabel):
            words = part.text()
        elif isinstance(part, QWidget) and not isinstance(part, QAbstractButton):
            if not part.accessibleName():
                part.setAccessibleName(words or str(part.property("says") or ""))


def row(*parts: QWidget | int | None, spacing: int = 8) -> QHBoxLayout:
    """Widgets side by side; a number is a gap in px, None stretches."""
    name_by_labels(parts)
    layout = QHBoxLayout()
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(spacing)
    for part in parts:
        if part is None:
            layout.addStretch(1)
        elif isinstance(part, int):
            layout.addSpacing(part)
        else:
            layout.addWidget(part)
    return layout


class Check(QAbstractButton):
    """A box to tick with its words."""

    edited = pyqtSignal(bool)

    def __init__(self, look: Look, icons: Icons, words: str) -> None:
        super().__init__()
        self.look, self.icons, self.words = look, icons, words
        self._on: bool | None = False  # None: some are, some are not
        self.setCheckable(True)
        self.setAccessibleName(words)
        self.setFixedHeight(HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    @property
    def on(self) -> bool:
        return bool(self._on)

    def show_value(self, on: bool | None) -> None:
        if on != self._on:
            self._on = on
            self.setChecked(bool(on))
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(int(QFontMetricsF(self.look.font(12)).horizontalAdvance(self.words)) + 26, HIGH)

    def toggle(self) -> None:
        self.nextCheckState()

    def nextCheckState(self) -> None:
        self._on = not self._on
        self.setChecked(self._on)
        self.update()
        self.edited.emit(self._on)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(0.5, 5.5, 13, 13)
        painter.setBrush(look.colour("raised"))
        painter.setPen(look.colour("reed" if self._on or self.hasFocus() else "quiet"))
        painter.drawRoundedRect(box, 2, 2)
        if self._on:
            painter.setPen(QPen(look.colour("reed"), 2))
            painter.drawPolyline(QPolygonF([QPointF(3.5, 12), QPointF(6, 15), QPointF(11, 8.5)]))
        elif self._on is None:
            painter.setPen(QPen(look.colour("quiet"), 2))
            painter.drawLine(QPointF(4, 12), QPointF(10, 12))
        painter.setFont(look.font(12))
        painter.setPen(look.colour("ink"))
        text = QRectF(20, 0, self.width() - 20, self.height())
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, self.words)


def emptied(layout: QLayout) -> None:
    """Take every widget out of a layout and let it go."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item else None
        if widget:
            widget.hide()
            widget.deleteLater()


class Pressable(QAbstractButton):
    """Something to press, by the pointer or with Space or Enter; `pressed` says so. What is drawn is its
    own."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pressed.emit()
        else:
            super().keyPressEvent(event)


class IconButton(Pressable):
    """A glyph to press, with an optional frame and the letter of its key; `active` marks the tool in use.
    `pressed_aside` speaks when it is pressed with the other button."""

    pressed_aside = pyqtSignal()

    def __init__(
        self, look: Look, icons: Icons, glyph: str, tip: str, framed: bool = False, px: int = 18
    ) -> None:
        super().__init__()
        self.look, self.icons, self.glyph = look, icons, glyph
        self.framed, self.px, self.letter = framed, px, ""
        self._active = self._hover = False
        self.setFixedSize(HIGH, HIGH)
        self.setToolTip(tip)
        self.setAccessibleName(tip.splitlines()[0])

    def show_active(self, active: bool) -> None:
        if active != self._active:
            self._active = active
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.RightButton:
            self.pressed_aside.emit()
        else:
            super().mousePressEvent(event)

    def enterEvent(self, event: object) -> None:
        self._hover = True
        self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hover = False
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.setPen(Qt.PenStyle.NoPen)
        if self._active:
            painter.setPen(look.colour("rust"))
            painter.setBrush(look.colour("raised"))
            painter.drawRoundedRect(frame, 3, 3)
        elif self.framed or self._hover or self.hasFocus():
            wash = self._hover and self.isEnabled()
            painter.setPen(look.colour("reed" if self.hasFocus() else "rule"))
            painter.setBrush(look.colour("straw_wash" if wash else "raised" if self.framed else "paper"))
            painter.drawRoundedRect(frame, 3, 3)
        role = "rust" if self._active else "ink" if self.isEnabled() else "rule_deep"
        box = QRectF(self.rect())
        if self.letter:
            box = box.adjusted(0, 0, -5, -3)
        self.icons.paint(painter, box, self.glyph, look.colour(role), self.px)
        if self.letter:
            painter.setFont(look.mono(9))
            painter.setPen(look.colour("rust" if self._active else "quiet"))
            corner = QRectF(0, 0, self.width() - 4, self.height() - 2)
            painter.drawText(corner, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, self.letter)


class Chip(Pressable):
    """A proposal: a bold part and its evidence; the chosen one has a reed border and a check, one that waits
    to be taken a straw one."""

    hovered = pyqtSignal(bool)

    def __init__(
        self, look: Look, words: str, evidence: str = "", chosen: bool = False, tip: str = "",
        waits: bool = False,
    ) -> None:  # fmt: skip
        super().__init__()
        self.look, self.words, self.evidence, self.chosen = look, words, evidence, chosen
        self.waits = waits  # shown on the Desk, to be taken
        self.picture: QImage | None = None  # of the result, at the left
        self._hover = False
        self.setFixedHeight(HIGH)
        self.setToolTip(tip)
        self.setAccessibleName(f"{words}, {evidence}" if evidence else words)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def minimumSizeHint(self) -> QSize:
        bold = QFontMetricsF(self.look.font(12, True)).horizontalAdvance(self.words)
        return QSize(int(bold + 17 + (20 if self.chosen else 0) + self._picture_width()), HIGH)

    def _picture_width(self) -> int:
        return 30 if self.picture is not None else 0

    def sizeHint(self) -> QSize:
        bold = QFontMetricsF(self.look.font(12, True)).horizontalAdvance(self.words)
        rest = QFontMetricsF(self.look.font(12)).horizontalAdvance(self.evidence)
        extra = (7 if self.evidence else 0) + (20 if self.chosen else 0) + self._picture_width()
        return QSize(int(bold + rest + 17 + extra), HIGH)

    def enterEvent(self, event: object) -> None:
        self._hover = True
        self.hovered.emit(True)
        self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hover = False
        self.hovered.emit(False)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        edge = "reed" if self.chosen or self.hasFocus() else "straw_deep" if self.waits else "rule"
        painter.setPen(look.colour(edge))
        wash = (self._hover or self.waits) and not self.chosen
        painter.setBrush(look.colour("straw_wash" if wash else "raised"))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 3, 3)
        x = 8.0
        if self.chosen:
            painter.setPen(QPen(look.colour("reed"), 2))
            painter.drawPolyline(QPolygonF([QPointF(x, 12), QPointF(x + 4, 16), QPointF(x + 11, 8)]))
            x += 20
        if self.picture is not None:
            box = QRectF(x - 4, 2, 28, self.height() - 4)
            size = self.picture.size().scaled(box.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(box.x(), box.y(), size.width(), size.height()), self.picture)
            x += self._picture_width()
        painter.setFont(look.font(12, self.chosen))
        painter.setPen(look.colour("ink"))
        words = elided(painter, self.words, self.width() - x - 6)
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
        middle = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.drawText(QRectF(x, 0, wide + 4, self.height()), middle, words)
        painter.setFont(look.font(12))
        painter.setPen(look.colour("quiet"))
        rest = QRectF(x + wide + 7, 0, self.width() - x - wide - 14, self.height())
        painter.drawText(rest, middle, elided(painter, self.evidence, rest.width()))


def picture_tip(words: str, image: QImage) -> str:
    """A tooltip with a picture under its words."""
    data = QBuffer()
    data.open(QBuffer.OpenModeFlag.WriteOnly)
    image.save(data, "PNG")
    picture = bytes(data.data().toBase64().data()).decode()
    return f'{escape(words)}<br><img src="data:image/png;base64,{picture}">'


class Rule(QWidget):
    """A one-pixel line across a panel."""

    def __init__(self, look: Look, upright: bool = False) -> None:
        super().__init__()
        self.look = look
        if upright:
            self.setFixedWidth(1)
        else:
            self.setFixedHeight(1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), self.look.colour("rule"))


def button(words: str, fix: bool = False) -> QPushButton:
    made = QPushButton(words)
    made.setFixedHeight(HIGH)
    if fix:
        made.setProperty("fix", "true")
    made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return made


def dots(painter: QPainter, look: Look, x: float, y: float, states: Sequence[str], gap: float = 2) -> None:
    """Four-px dots: done in reed, fault in its colour, open as an outline."""
    boxes: dict[str, list[QRectF]] = {}
    for i, state in enumerate(states):
        rim = 0.5 if state == "open" else 0
        boxes.setdefault(state, []).append(QRectF(x + i * (4 + gap) + rim, y + rim, 4 - 2 * rim, 4 - 2 * rim))
    for state, some in boxes.items():
        if state == "open":
            painter.setPen(look.colour("rule_deep"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        else:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("reed" if state == "done" else "fault"))
        painter.drawRects(some)  # type: ignore[call-overload]


def elided(painter: QPainter, text: str, width: float, middle: bool = False) -> str:
    """A text that fits, its end left out, or its `middle`, so that the numbers of names are seen."""
    mode = Qt.TextElideMode.ElideMiddle if middle else Qt.TextElideMode.ElideRight
    return QFontMetricsF(painter.font()).elidedText(text, mode, width)


def tag(painter: QPainter, look: Look, x: float, y: float, text: str, rust: bool = False) -> QRectF:
    """A small label on art, 16 px high, its top left at (x, y); returns its box."""
    painter.save()
    painter.setFont(look.mono(11))
    wide = QFontMetricsF(painter.font()).horizontalAdvance(text)
    box = QRectF(round(x) + 0.5, round(y) + 0.5, round(wide) + 8, 16)
    painter.setPen(look.colour("art_rust" if rust else "art_ink"))
    painter.setBrush(look.colour("art_paper"))
    painter.drawRect(box)
    painter.setPen(QColor(look.colour("art_ink")))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    painter.restore()
    return box


class Splitter(QSplitter):
    """Parts in edges that can be dragged, each a rule of 1 px."""

    def __init__(self, look: Look, way: Qt.Orientation) -> None:
        super().__init__(way)
        self.look = look

    def createHandle(self) -> QSplitterHandle:
        return _Edge(self)


class _Edge(QSplitterHandle):
    def __init__(self, splitter: Splitter) -> None:
        super().__init__(splitter.orientation(), splitter)
        self._look = splitter.look

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), self._look.colour("rule"))
