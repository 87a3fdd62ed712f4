"""The command table: one row a command. Menus, the finder, tooltips and the key page are made from it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import NamedTuple

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget

Needs = Callable[[], str]  # says what is missing, or nothing


def always() -> str:
    """For what can run at any time."""
    return ""


class Command(NamedTuple):
    """`words` name it, `keys` call it, `help` explains it in one sentence; `needs` says why it cannot
    run now, or nothing; `stages` are those in which its key holds, empty for all."""

    id: str
    words: str
    keys: tuple[str, ...]
    help: str
    run: Callable[[], object]
    needs: Needs = always
    stages: tuple[str, ...] = ()
    group: str = "General"


class Rows(NamedTuple):
    """What the commands of one kind share: the group that names them, the stages in which their keys
    hold, empty for all, and what they need where nothing else is said."""

    group: str
    stages: tuple[str, ...] = ()
    needs: Needs = always

    def row(
        self, name: str, words: str, keys: tuple[str, ...], help: str, run: Callable[[], object],
        needs: Needs | None = None,
    ) -> Command:  # fmt: skip
        named = f"{self.group.lower()}.{name}"
        return Command(named, words, keys, help, run, needs or self.needs, self.stages, self.group)


class Commands:
    """All commands of a window, and the keys that call them."""

    def __init__(self, window: QWidget, stage_now: Callable[[], str]) -> None:
        self._window = window
        self._stage_now = stage_now
        self.rows: list[Command] = []
        self._by_key: dict[str, list[Command]] = {}

    def add(self, rows: Iterable[Command]) -> None:
        for row in rows:
            self.rows.append(row)
            for key in row.keys:
                name = QKeySequence(key).toString()
                if name not in self._by_key:
                    self._by_key[name] = []
                    shortcut = QShortcut(QKeySequence(key), self._window)
                    shortcut.setContext(Qt.ShortcutContext.WindowShortcut)
                    shortcut.activated.connect(lambda name=name: self._pressed(name))
                self._by_key[name].append(row)

    def _pressed(self, name: str) -> None:
        typing = isinstance(QApplication.focusWidget(), QLineEdit)
        if typing and len(name) == 1:
            return
        for row in self._by_key[name]:
            if not row.stages or self._stage_now() in row.stages:
                self.run(row)
                return

    def run(self, row: Command) -> None:
        if not row.needs():
            row.run()

    def run_id(self, command_id: str) -> None:
        self.run(self.row(command_id))

    def row(self, command_id: str) -> Command:
        return next(row for row in self.rows if row.id == command_id)

    def search(self, text: str) -> list[Command]:
        """Commands whose words hold every word typed, those that begin with it first."""
        parts = text.casefold().split()

        def rank(row: Command) -> tuple[bool, bool, str]:
            words = row.words.casefold()
            here = not row.stages or self._stage_now() in row.stages
            return (not here, not words.startswith(text.casefold()), words)

        hits = [r for r in self.rows if all(p in f"{r.words} {r.help}".casefold() for p in parts)]
        return sorted(hits, key=rank)
