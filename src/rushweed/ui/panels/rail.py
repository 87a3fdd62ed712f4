"""The stage rail along the top: the name, the stages with how far the sheets are, undo, the finder."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from rushweed.ui.kit.controls import IconButton, Pressable, dots, plain_tip
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.keyed import Keyed, Spot
from rushweed.ui.kit.mark import paint_mark, paint_name
from rushweed.ui.kit.theme import Look

NAME_WIDE = 168
STAGE_WIDE, STAGE_LEAST = 88, 66  # px of a tab, and in a narrow window
NARROW = 800  # px of a window, below which the name and the finder are marks only
MARK_WIDE, FIND_WIDE, FIND_MARK = 64, 170, 32


ALL_EDITS = "Right-press: all edits  (Ctrl+Alt+Z)"


class NamePlate(Keyed):
    """The mark and the name; a press opens the menu of the project."""

    pressed = pyqtSignal(QPointF)

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.setFixedSize(NAME_WIDE, 40)
        self.setToolTip("Open, save and choose the theme")
        self.set_keyed("The project")

    def spots(self) -> list[Spot]:
        return [Spot(QRectF(self.rect()), "open, save, choose the theme")]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.pressed.emit(QPointF(8, 38))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        paint_mark(painter, look, 8, 8)
        if self.width() == NAME_WIDE:
            paint_name(painter, look)
        caret = QRectF(self.width() - 26, 0, 22, 40)
        self.icons.paint(painter, caret, "caret-down", look.colour("quiet"), 14)


class StageTabs(Keyed):
    """The stages in order; under each name a dot for every sheet, or a bar when there are many."""

    chosen = pyqtSignal(str)

    def __init__(self, look: Look, stages: list[tuple[str, str]]) -> None:
        super().__init__()
        self.look, self.stages = look, stages
        self._now = ""
        self._hover = -1
        self._states: dict[str, list[str]] = {}
        self.setMouseTracking(True)
        self.setFixedHeight(40)
        self.set_keyed("Stages")

    def spots(self) -> list[Spot]:
        wide = self.text_room
        return [Spot(QRectF(i * wide, 0, wide, 40), words) for i, (_key, words) in enumerate(self.stages)]

    def first_spot(self) -> int:
        return next((i for i, (key, _words) in enumerate(self.stages) if key == self._now), 0)

    def sizeHint(self) -> QSize:
        return QSize(STAGE_WIDE * len(self.stages), 40)

    def show_stage(self, key: str) -> None:
        self._now = key
        self.update()

    def show_states(self, states: dict[str, list[str]]) -> None:
        if states != self._states:
            self._states = states
            self.update()

    @property
    def text_room(self) -> float:
        """Px of a tab: all of them are always in view."""
        return max(min(STAGE_WIDE, self.width() // len(self.stages)), 1)

    def minimumSizeHint(self) -> QSize:
        return QSize(STAGE_LEAST * len(self.stages), 40)

    def _at(self, x: float) -> int:
        index = int(x // self.text_room)
        return index if 0 <= index < len(self.stages) else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = self._at(event.position().x())
        if index >= 0:
            self.chosen.emit(self.stages[index][0])

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = self._at(event.position().x())
        if index != self._hover:
            self._hover = index
            self.update()
            states = self._states.get(self.stages[index][0], []) if index >= 0 else []
            told = self.stages[index][1] if index >= 0 else ""
            if states:
                faults = states.count("fault")
                tail = f", {faults} with faults" if faults else ""
                told += f": {states.count('done')} of {len(states)} sheets{tail}"
            self.setToolTip(told)

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        px, numbered = self.lettering()
        for i, (key, words) in enumerate(self.stages):
            box = QRectF(i * self.text_room, 0, self.text_room, 40)
            chosen = key == self._now
            if chosen:
                painter.fillRect(box, look.colour("raised"))
                painter.fillRect(QRectF(box.left(), 37, box.width(), 3), look.colour("reed"))
                for x in (box.left(), box.right() - 1):
                    painter.fillRect(QRectF(x, 0, 1, 40), look.colour("rule"))
            elif i == self._hover:
                painter.fillRect(box, look.colour("straw_wash"))
            bold = look.font(px or 13, chosen)
            words = words if px else str(i + 1)
            wide = QFontMetricsF(bold).horizontalAdvance(words)
            before = 12 if numbered else 0
            start = box.left() + (box.width() - wide - before) / 2
            line = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
            if numbered:
                painter.setFont(look.font(11))
                painter.setPen(look.colour("quiet"))
                painter.drawText(QRectF(start, 3, 12, 22), line, str(i + 1))
            painter.setFont(bold)
            painter.setPen(look.colour("reed" if chosen else "ink"))
            painter.drawText(QRectF(start + before, 3, wide + 4, 22), line, words)
            self._progress(painter, box, self._states.get(key, []))

    def lettering(self) -> tuple[int, bool]:
        """The size of the names, px, and whether there is room for a number before each; 0 px where there is
        room for the numbers only."""
        room = self.text_room - 6
        for px, numbered in ((13, True), (13, False), (12, False), (11, False)):
            metrics = QFontMetricsF(self.look.font(px, bold=True))
            longest = max(metrics.horizontalAdvance(words) for _key, words in self.stages)
            if longest + (12 if numbered else 0) <= room:
                return px, numbered
        return 0, False

    def _progress(self, painter: QPainter, box: QRectF, states: list[str]) -> None:
        if not states:
            return
        if len(states) <= 10 and len(states) * 6 <= box.width():
            wide = len(states) * 6 - 2
            dots(painter, self.look, round(box.center().x() - wide / 2), 27, states)
            return
        wide = min(60, int(box.width()) - 4)
        bar = QRectF(round(box.center().x() - wide / 2), 27, wide, 4)
        painter.fillRect(bar, self.look.colour("rule"))
        done = bar.width() * states.count("done") / len(states)
        fault = bar.width() * states.count("fault") / len(states)
        painter.fillRect(QRectF(bar.left(), bar.top(), done, 4), self.look.colour("reed"))
        painter.fillRect(QRectF(bar.left() + done, bar.top(), fault, 4), self.look.colour("fault"))


class FinderField(Pressable):
    """Looks like a field; a press opens the command finder."""

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.setMinimumWidth(FIND_WIDE)
        self.setMaximumWidth(256)
        self.setFixedHeight(24)
        self.setCursor(Qt.CursorShape.IBeamCursor)
        self.setAccessibleName("Find a command")

    def sizeHint(self) -> QSize:
        return QSize(256, 24)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(look.colour("rule"))
        painter.setBrush(look.colour("raised"))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, 23), 3, 3)
        self.icons.paint(painter, QRectF(5, 0, 20, 24), "magnifying-glass", look.colour("quiet"), 15)
        if self.width() < FIND_WIDE:
            return
        painter.setPen(look.colour("quiet"))
        painter.setFont(look.font(12))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(29, 0, 150, 24), middle | Qt.AlignmentFlag.AlignLeft, "Find a command")
        if self.width() > 220:
            painter.setFont(look.mono(10))
            keys = QRectF(0, 0, self.width() - 8, 24)
            painter.drawText(keys, middle | Qt.AlignmentFlag.AlignRight, "Ctrl+Shift+F")


class Rail(QWidget):
    """The whole top line, 40 px."""

    def __init__(self, look: Look, icons: Icons, stages: list[tuple[str, str]]) -> None:
        super().__init__()
        self.look = look
        self.setFixedHeight(40)
        self.plate = NamePlate(look, icons)
        self.tabs = StageTabs(look, stages)
        self.undo = IconButton(look, icons, "arrow-u-up-left", "Undo  (Ctrl+Z)")
        self.redo = IconButton(look, icons, "arrow-u-up-right", "Redo  (Ctrl+Shift+Z)")
        for history in (self.undo, self.redo):
            history.setFixedSize(32, 32)
        self.finder = FinderField(look, icons)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.setSpacing(0)
        layout.addWidget(self.plate)
        layout.addWidget(self.tabs)
        layout.addStretch(1)
        layout.addWidget(self.undo)
        layout.addWidget(self.redo)
        layout.addSpacing(16)
        layout.addWidget(self.finder, 1)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a very narrow window, as with text at 200 %, the stages come first."""
        narrow = self.width() < NARROW
        self.plate.setFixedWidth(MARK_WIDE if narrow else NAME_WIDE)
        self.finder.setMinimumWidth(FIND_MARK if narrow else FIND_WIDE)
        self.finder.setMaximumWidth(FIND_MARK if narrow else 256)

    def show_history(self, undo: str | None, redo: str | None) -> None:
        self.undo.setEnabled(undo is not None)
        self.redo.setEnabled(redo is not None)
        self.undo.setToolTip(plain_tip(f"Undo: {undo}  (Ctrl+Z)\n{ALL_EDITS}") if undo else "Nothing to undo")
        self.redo.setToolTip(
            plain_tip(f"Redo: {redo}  (Ctrl+Shift+Z)\n{ALL_EDITS}") if redo else "Nothing to redo"
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.look.colour("paper"))
        painter.fillRect(QRectF(0, 39, self.width(), 1), self.look.colour("rule"))
