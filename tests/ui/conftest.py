"""A real window on a copy of the demo, and hands to work it with."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QKeySequence, QMouseEvent
from PyQt6.QtWidgets import QApplication, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.ui.app import Application
from rushweed.ui.desk.images import array_of
from rushweed.ui.kit import theme
from rushweed.ui.window import Window

LEFT = Qt.MouseButton.LeftButton
RIGHT = Qt.MouseButton.RightButton
MIDDLE = Qt.MouseButton.MiddleButton
NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def application(qapp: QApplication, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Application]:
    monkeypatch.setenv("RUSHWEED_SETTINGS", str(tmp_path / "settings.ini"))
    monkeypatch.setattr(theme, "LATER_MS", 60_000)  # only pages that a test opens
    whole = Application(qapp)
    yield whole
    whole.look.set_theme("day")
    for window in whole.windows:
        window.session.jobs.finish()
        window.session.saver._saved_project = window.session.document.history.project
        window.close()
        window.deleteLater()


@pytest.fixture
def window(application: Application, demo_folder: Path, qtbot: QtBot) -> Window:
    made = application.open(demo_folder)
    made.resize(1280, 800)
    qtbot.waitExposed(made)
    made.complete()
    qtbot.wait(20)
    return made


class Hands:
    """Works a window as a person does: by pointer and keys, in content px of the Desk."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self.window, self.qtbot, self.session = window, qtbot, window.session

    # -- choosing ------------------------------------------------------------------------------------

    def sheet(self, name: str) -> Sheet:
        return next(s for s in self.session.project.sheets if s.name == name)

    def cell(self, sheet: str, name: str) -> Cell:
        return next(c for c in self.sheet(sheet).cells if c.name == name)

    def open_sheet(self, name: str, stage: str) -> Sheet:
        self.window.rail.tabs.chosen.emit(stage)
        self.session.selection.choose_sheet(self.sheet(name).id)
        self.qtbot.wait(10)
        return self.sheet(name)

    def open_level(self, name: str, layer: str = "") -> None:
        level = next(v for v in self.session.project.levels if v.name == name)
        self.session.selection.choose_level(level.id)
        self.window.rail.tabs.chosen.emit("paint")
        if layer:
            self.session.selection.choose_layer(next(x.id for x in level.layers if x.name == layer))
        self.qtbot.wait(10)

    # -- pointer -------------------------------------------------------------------------------------

    def at(self, x: float, y: float) -> QPoint:
        return self.window.desk.view.to_screen(x, y).toPoint()

    def event(
        self, kind: QEvent.Type, at: QPoint, button: Qt.MouseButton, held: Qt.MouseButton, keys
    ) -> None:  # type: ignore[no-untyped-def]
        desk = self.window.desk
        glob = desk.mapToGlobal(QPointF(at))
        QApplication.sendEvent(desk, QMouseEvent(kind, QPointF(at), glob, button, held, keys))

    def drag(
        self, *path: tuple[float, float], button: Qt.MouseButton = LEFT, keys: Qt.KeyboardModifier = NONE
    ) -> None:
        """Press at the first place, move over the others, release at the last."""
        spots = [self.at(*p) for p in path]
        none = Qt.MouseButton.NoButton
        self.event(QEvent.Type.MouseMove, spots[0], none, none, keys)
        self.event(QEvent.Type.MouseButtonPress, spots[0], button, button, keys)
        for spot in spots[1:]:
            self.event(QEvent.Type.MouseMove, spot, none, button, keys)
        self.event(QEvent.Type.MouseButtonRelease, spots[-1], button, none, keys)

    def is_one_step(self, before: Project, steps: int, what: str) -> bool:
        """Whether something was made since the history had so many steps; if so it is one, and undone."""
        history, document = self.session.document.history, self.session.document
        assert self.session.project is history.project, f"{what} shows what it did not make"
        assert history.place <= steps + 1, what
        if history.place == steps:
            return False
        made = self.session.project
        for turn, wanted in ((document.undo, before), (document.redo, made), (document.undo, before)):
            turn()
            assert self.session.project is wanted, what
        return True

    def click(
        self, x: float, y: float, button: Qt.MouseButton = LEFT, keys: Qt.KeyboardModifier = NONE
    ) -> None:
        self.drag((x, y), button=button, keys=keys)

    def press_widget(self, widget: QWidget, x: int | None = None, y: int | None = None, keys=NONE) -> None:  # type: ignore[no-untyped-def]
        centre = widget.rect().center()
        self.qtbot.mouseClick(
            widget, LEFT, keys, QPoint(centre.x() if x is None else x, centre.y() if y is None else y)
        )

    # -- keys ----------------------------------------------------------------------------------------

    def keys(self, *names: str) -> None:
        """Press keys on the Desk, such as "B" or "Ctrl+Z"."""
        self.window.activateWindow()
        self.window.desk.setFocus()
        for name in names:
            pressed = QKeySequence(name)[0]
            self.qtbot.keyClick(self.window.desk, pressed.key(), pressed.keyboardModifiers())

    def type(self, field: QWidget, text: str, enter: bool = True) -> None:
        """Type into a field as a person does: select all, type, Enter."""
        field.setFocus()
        field.selectAll()  # type: ignore[attr-defined]
        self.qtbot.keyClicks(field, text)
        if enter:
            self.qtbot.keyClick(field, Qt.Key.Key_Return)

    def pixel(self, widget: QWidget, x: int, y: int) -> str:
        return widget.grab().toImage().pixelColor(x, y).name()

    def proof(self) -> np.ndarray:
        """What the Proof shows, once it has followed."""
        self.qtbot.wait(5)
        assert self.window.proof.picture.image is not None
        return array_of(self.window.proof.picture.image)

    def wait(self, ready: Callable[[], bool], ms: int = 15_000) -> None:
        self.qtbot.waitUntil(ready, timeout=ms)


@pytest.fixture
def hands(window: Window, qtbot: QtBot) -> Hands:
    return Hands(window, qtbot)


@pytest.fixture
def answers(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What the closing question is answered with: words of a button, in order."""
    words: list[str] = []

    def answer(box: QMessageBox) -> int:
        wanted = words.pop(0)
        chosen = next(b for b in box.buttons() if b.text() == wanted)
        monkeypatch.setattr(QMessageBox, "clickedButton", lambda _self: chosen)
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    return words
