"""The searchable list of commands, each with its key and why it cannot run now if it cannot."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QPoint, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QLineEdit, QScrollArea, QVBoxLayout, QWidget

from rushweed.ui.commands.command import Command, Commands
from rushweed.ui.kit.controls import elided
from rushweed.ui.kit.theme import Look

ROW = 40


class _Rows(QWidget):
    def __init__(self, look: Look, finder: Finder) -> None:
        super().__init__()
        self.look, self.finder = look, finder
        self.rows: list[Command] = []
        self.now = 0
        self.setMouseTracking(True)

    def show_rows(self, rows: list[Command]) -> None:
        self.rows, self.now = rows, 0
        self.setFixedHeight(max(len(rows), 1) * ROW)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.now = min(int(event.position().y() // ROW), len(self.rows) - 1)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.finder.take()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        if not self.rows:
            painter.setPen(look.colour("quiet"))
            painter.drawText(QRectF(12, 0, self.width(), ROW), left, "No command has those words.")
        for i, row in enumerate(self.rows):
            box = QRectF(0, i * ROW, self.width(), ROW)
            if i == self.now:
                painter.fillRect(box, look.colour("straw_wash"))
            reason = row.needs()
            painter.setFont(look.font(12, True))
            painter.setPen(look.colour("quiet" if reason else "ink"))
            painter.drawText(QRectF(12, box.top() + 3, 380, 18), left, row.words)
            painter.setFont(look.font(11))
            painter.setPen(look.colour("quiet"))
            text = reason or row.help
            painter.drawText(QRectF(12, box.top() + 20, 430, 16), left, elided(painter, text, 430))
            painter.setFont(look.mono(11))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
            painter.drawText(QRectF(0, box.top() + 6, self.width() - 12, 18), right, ", ".join(row.keys))
            painter.fillRect(QRectF(0, box.bottom() - 1, self.width(), 1), look.colour("rule"))


class Finder(QWidget):
    """Opens under its field in the rail; typing narrows, Enter runs, Escape leaves."""

    def __init__(self, look: Look, commands: Commands, window: QWidget) -> None:
        super().__init__(window)
        self.look, self.commands = look, commands
        self.field = QLineEdit()
        self.field.setFixedHeight(28)
        self.field.setPlaceholderText("What do you want to do?")
        self.field.textEdited.connect(self._search)
        self.field.installEventFilter(self)
        self._rows = _Rows(look, self)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setWidget(self._rows)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.setSpacing(4)
        layout.addWidget(self.field)
        layout.addWidget(self._scroll)
        self.hide()

    @property
    def rows(self) -> list[Command]:
        return self._rows.rows

    def open(self, right: int, top: int) -> None:
        self.setGeometry(right - 480, top, 480, 392)
        self.field.clear()
        self._search("")
        self.show()
        self.raise_()
        self.field.setFocus()

    def _search(self, text: str) -> None:
        self._rows.show_rows(self.commands.search(text))
        bar = self._scroll.verticalScrollBar()
        assert bar is not None
        bar.setValue(0)

    def take(self) -> None:
        """Run the row in hand, if it can run."""
        if not self.rows:
            return
        row = self.rows[self._rows.now]
        if row.needs():
            return
        self.hide()
        self.commands.run(row)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
            if step is not None and self.rows:
                self._rows.now = min(max(self._rows.now + step, 0), len(self.rows) - 1)
                self._scroll.ensureVisible(0, self._rows.now * ROW + ROW // 2, 0, ROW)
                self._rows.update()
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.hide()
                return True
        if event is not None and event.type() == QEvent.Type.FocusOut:
            over = self.rect().contains(
                self.mapFromGlobal(self.cursor().pos() if self.isVisible() else QPoint())
            )
            if not over:
                self.hide()
        return False

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.look.colour("raised"))
        painter.setPen(self.look.colour("rule_deep"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
