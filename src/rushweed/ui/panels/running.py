"""What is being worked on beside the window: a button in the bar below, and a board with how far each is."""

from __future__ import annotations

import time

from PyQt6.QtCore import QPoint, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from rushweed.ui.kit.controls import button, emptied, label, row
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import DropButton
from rushweed.ui.session.jobs import Job, JobPool

AFTER_S = 0.7  # what takes less is not told
TICK_MS = 250
WIDE = 320


class _JobRow(QWidget):
    """One piece of work: what it does, how far it is, and a way to cancel it unless it writes files."""

    def __init__(self, look: Look, job: Job) -> None:
        super().__init__()
        self.look, self.job = look, job
        self.words = label("")
        self.words.setMinimumWidth(1)
        self.cancel = button("Cancel")
        self.cancel.clicked.connect(job.cancel)
        self.setLayout(row(self.words, None, self.cancel))
        if job.how.writes:
            self.cancel.hide()
        self.setFixedHeight(32)
        self.refresh()

    def refresh(self) -> None:
        self.words.setText(_told(self.job))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(QRectF(0, self.height() - 3, self.width(), 2), self.look.colour("rule"))
        share = self.width() * min(max(self.job.share, 0.0), 1.0)
        painter.fillRect(QRectF(0, self.height() - 3, share, 2), self.look.colour("reed"))


def _told(job: Job) -> str:
    return f"{job.words} {job.share:.0%}" if job.share else job.words


class Running(DropButton):
    """Shown while something takes longer than a moment. `share_changed` tells how far the oldest is, -1 for
    nothing."""

    share_changed = pyqtSignal(float)

    def __init__(self, look: Look, pool: JobPool) -> None:
        super().__init__(look, "")
        self.pool = pool
        self.setToolTip("What is being worked on")
        self.board = QFrame(self, Qt.WindowType.Popup)
        self.board.setObjectName("board")
        self._rows = QVBoxLayout(self.board)
        self._rows.setContentsMargins(12, 8, 12, 8)
        self.shown: list[Job] = []
        self.share = -1.0
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self.refresh)
        self.pressed.connect(self.open)
        pool.began.connect(self._timer.start)
        self.hide()

    def jobs(self) -> list[Job]:
        """Those that are told, the oldest first."""
        now = time.monotonic()
        some = [job for job in self.pool.running if now - job.since >= AFTER_S and not job.cancelled]
        return sorted(some, key=lambda job: job.since)

    def refresh(self) -> None:
        jobs = self.jobs()
        if not self.pool.running:
            self._timer.stop()
        self.setVisible(bool(jobs))
        if jobs:
            self.show_words(_told(jobs[0]) if len(jobs) == 1 else f"{len(jobs)} at work")
        if jobs != self.shown:
            self.shown = jobs
            if not jobs:
                self.board.hide()
            elif self.board.isVisible():
                self._list()
        for line in self.board.findChildren(_JobRow):
            line.refresh()
        share = round(jobs[0].share, 2) if jobs else -1.0
        if share != self.share:
            self.share = share
            self.share_changed.emit(share)

    def _list(self) -> None:
        emptied(self._rows)
        for job in self.shown:
            self._rows.addWidget(_JobRow(self.look, job))
        self._place()

    def open(self) -> None:
        """Show the board above the button."""
        self.board.setStyleSheet(self.look.rules())
        self._list()
        self.board.show()

    def _place(self) -> None:
        self.board.setFixedSize(WIDE, 16 + 38 * len(self.shown))
        corner = self.mapToGlobal(QPoint(self.width() - WIDE, -self.board.height() - 4))
        screen = self.screen()
        if screen is not None:
            corner.setX(max(corner.x(), screen.availableGeometry().left()))
        self.board.move(corner)
