"""The question what becomes of edits that a crash left behind; it stays until it is answered."""

from __future__ import annotations

import time

from rushweed.core.store.recovery import Recovered, recovered
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.text import many
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.notice import NoticeStrip
from rushweed.ui.session import Session

SHOWN = 4  # of edits left behind earlier, the newest


class RecoveryStrip(NoticeStrip):
    """A strip of its own, so that no other notice takes the question away."""

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__(look, icons, closes=False)
        self.session = session
        self._left: list[Recovered] = []

    def offer(self, left: list[Recovered]) -> None:
        """Ask about each in turn, the newest first."""
        self._left = left
        if not left:
            self.clear()
            return
        edits, when = many(left[0].edits, "edit"), _time_words(left[0].when)
        self.ask(
            f"Rushweed did not close properly. {edits} made after the last save, until {when}, are safe.",
            [("Take them back", self._take), ("Discard ...", self._ask_again)],
        )

    def _take(self) -> None:
        self.session.saver.take_back(self._left[0])
        self.offer(self._left[1:])

    def _ask_again(self) -> None:
        edits = many(self._left[0].edits, "edit")
        self.ask(
            f"Discard {edits}? They stay in the project folder for 30 days.",
            [("Discard", self._discard), ("Back", lambda: self.offer(self._left))],
        )

    def _discard(self) -> None:
        self.session.saver.discard(self._left[0])
        self.offer(self._left[1:])

    def show_earlier(self) -> None:
        """List what was left behind in the last 30 days, to be taken back after all."""
        found = recovered(self.session.folder)
        if not found:
            self.session.tell("told", "No edits were left behind in the last 30 days.")
            return
        self._left = []
        answers = [
            (f"{many(one.edits, 'edit')}, {_time_words(one.when)}", lambda one=one: self._again(one))
            for one in found[:SHOWN]
        ]
        self.ask("Edits left behind:", [*answers, ("Close", lambda: None)])

    def _again(self, one: Recovered) -> None:
        self.session.saver.take_back(one)


def _time_words(when: float) -> str:
    today = time.strftime("%Y-%m-%d") == time.strftime("%Y-%m-%d", time.localtime(when))
    return time.strftime("%H:%M" if today else "%d %b %H:%M", time.localtime(when))
