"""The strip under the rail: what went wrong and its cure, what a crash left behind, work under way."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from rushweed.ui.kit.controls import IconButton, button, emptied, label, plain_tip, row
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Notice, Question
from rushweed.ui.session.jobs import Job

Kind = Literal["fault", "work", "ask", "told"]
SHOWN: dict[Kind, tuple[str, str]] = {
    "fault": ("fault", "warning-circle"), "work": ("reed", "spinner"), "ask": ("straw_deep", "question"),
    "told": ("reed", "info"),
}  # fmt: skip
"""The colour and the sign of each kind."""


class NoticeStrip(QWidget):
    """Takes no room while it has nothing to say."""

    def __init__(self, look: Look, icons: Icons, closes: bool = True) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self._kind: Kind = "told"
        self._share: float | None = None
        self._job: Job | None = None
        self._question: Question | None = None
        self.setFixedHeight(32)
        self.words = label("")
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self.words.setMinimumWidth(60)
        self.buttons = QWidget()
        self.holder = QHBoxLayout(self.buttons)
        self.holder.setContentsMargins(0, 0, 0, 0)
        self.close_button = IconButton(look, icons, "x", "Close", px=14)
        self.close_button.pressed.connect(self._dismiss)
        if not closes:
            self.close_button.hide()
        self.setLayout(row(self.words, self.buttons, None, self.close_button))
        layout = self.layout()
        assert layout is not None
        layout.setContentsMargins(36, 0, 8, 0)
        self.hide()

    def show_notice(self, notice: Notice | None) -> None:
        if notice is None:
            if self._question is not None or (self._job is None and self._kind != "ask"):
                self.clear()
            return
        self._show(notice.kind, f"{notice.text} {notice.cure}".strip(), [])

    def ask(self, text: str, answers: list[tuple[str, Callable[[], object]]]) -> None:
        """A question with buttons; any answer takes it away."""
        self._show("ask", text, answers)

    def ask_first(self, question: Question) -> None:
        """A question about an edit that waits for its answer; another edit takes it away."""
        self._show("ask", question.text, question.answers)
        self._question = question

    def _dismiss(self) -> None:
        question = self._question
        self.clear()
        if question is not None:
            question.otherwise()

    def watch(self, job: Job) -> None:
        """Show the progress of a job, with a way to cancel it."""
        self._job = job
        self._show("work", f"{job.label} ...", [("Cancel", job.cancel)])
        self._share = 0.0
        job.progress.connect(self._progressed)
        job.ended.connect(lambda: self._ended(job))

    def _progressed(self, share: float, words: str) -> None:
        if self.sender() is self._job or self._job is not None:
            self._share = share
            self.words.setText(words)
            self.update()

    def _ended(self, job: Job) -> None:
        if self._job is job:
            self._job = None
            if self._kind == "work":
                self.clear()

    def clear(self) -> None:
        self._kind, self._share, self._question = "told", None, None
        self.hide()

    def _show(self, kind: Kind, text: str, answers: list[tuple[str, Callable[[], object]]]) -> None:
        self._kind, self._share, self._question = kind, None, None
        self.words.setText(text)
        self.words.setToolTip(plain_tip(text))
        emptied(self.holder)
        for words, call in answers:
            made = button(words, fix=True)
            made.clicked.connect(lambda _c=False, call=call: self._answer(call))
            self.holder.addWidget(made)
        self.show()
        self.update()

    def _answer(self, call: Callable[[], object]) -> None:
        self.clear()
        call()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        look, painter = self.look, QPainter(self)
        painter.fillRect(self.rect(), look.colour("raised"))
        role, glyph = SHOWN[self._kind]
        painter.fillRect(QRectF(0, 0, 3, self.height()), look.colour(role))
        self.icons.paint(painter, QRectF(8, 0, 24, self.height()), glyph, look.colour(role))
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), look.colour("rule"))
        if self._share is not None:
            painter.fillRect(QRectF(0, self.height() - 3, self.width() * self._share, 3), look.colour("reed"))
