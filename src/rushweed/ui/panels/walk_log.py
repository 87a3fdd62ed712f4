"""Under the Desk in Walk: what was touched and what happened, newest first."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.ui.kit.controls import elided, label, row
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session
from rushweed.ui.session.walked import LogRow

ROW = 20
COLUMNS = (8, 84, 202, 300)  # px from the left: how long ago, where, what, more
BOLD = {"fell", "crushed"}


class _Rows(QWidget):
    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.rows: list[LogRow] = []
        self._scroll = 0
        self.setMinimumHeight(ROW * 2)

    def show_rows(self, rows: list[LogRow]) -> None:
        self.rows = rows
        self._scroll = min(self._scroll, max(len(rows) - 1, 0))
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        step = 1 if event.angleDelta().y() < 0 else -1
        self._scroll = min(max(self._scroll + step, 0), max(len(self.rows) - self.height() // ROW, 0))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, look = QPainter(self), self.look
        flags = Qt.AlignmentFlag.AlignVCenter
        if not self.rows:
            painter.setFont(look.font(12))
            painter.setPen(look.colour("quiet"))
            painter.drawText(QRectF(8, 0, self.width() - 16, ROW), flags, "Nothing has happened yet.")
            return
        mono, plain, bold = look.mono(11), look.font(12), look.font(12, True)
        for n, one in enumerate(self.rows[self._scroll :]):
            y = n * ROW
            if y + ROW > self.height() + 2:
                break
            for x, font, role, text in (
                (COLUMNS[0], mono, "quiet", f"−{one.seconds:.1f} s"),
                (COLUMNS[1], mono, "ink", f"{one.at[0]:.1f}, {one.at[1]:.1f} u"),
                (COLUMNS[2], bold, "fault" if one.kind in BOLD else "ink", one.kind),
                (COLUMNS[3], plain, "ink", one.more),
            ):
                painter.setFont(font)
                painter.setPen(look.colour(role))
                wide = self.width() - x - 8
                painter.drawText(QRectF(x, y, wide, ROW), flags, elided(painter, text, wide))


class WalkLog(QWidget):
    """Listens to the walk under way."""

    def __init__(self, look: Look, session: Session) -> None:
        super().__init__()
        self.list = _Rows(look)
        self._what = label("what was touched, newest first", "quiet")
        top = QWidget()
        top.setFixedHeight(28)
        top.setLayout(row(label("Log", "head"), self._what, None))
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 2, 8, 4)
        column.setSpacing(0)
        column.addWidget(top)
        column.addWidget(self.list, 1)
        self.setMinimumHeight(72)
        session.logged.connect(self.list.show_rows)
