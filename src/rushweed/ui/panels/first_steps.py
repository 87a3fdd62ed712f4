"""Seven first steps, which watch what one does: each goes on by itself when it is done."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtCore import QEvent, QObject, QRectF, QSettings, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from rushweed.core.document.model.level import TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Tune
from rushweed.ui.desk.canvas import Canvas
from rushweed.ui.kit.controls import IconButton, button, label, row
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session

WIDE, EDGE = 296, 16


class FirstStep(NamedTuple):
    """What is to be done, where, and how a project shows that it was."""

    title: str
    how: str
    stage: str
    done: Callable[[Project], bool]


def _painted(project: Project) -> bool:
    tiles = (layer for level in project.levels for layer in level.layers if isinstance(layer, TileLayer))
    return any(chunk is not None for layer in tiles for chunk in layer.tiles.chunks)


STEPS = (
    FirstStep("Bring in a picture", "Drop one on the window, or press + on the Shelf.", "gather",
              lambda p: bool(p.sheets)),
    FirstStep("Cut it", "Press the proposal above the Desk that fits, or type the size of a cell.", "cut",
              lambda p: any(s.cells for s in p.sheets)),
    FirstStep("Tune it", "Press the recipe above the Desk: filter, px a unit and pivots at once.", "tune",
              lambda p: any(s.tune != Tune() for s in p.sheets)),
    FirstStep("Give a tile its shape", "Press a tile, then a common shape on the card, or draw one.", "shape",
              lambda p: any(c.shapes for s in p.sheets for c in s.cells)),
    FirstStep("Paint a level", "Ctrl+L makes one; press a tile in the Tray and drag over the Desk.", "paint",
              _painted),
    FirstStep("Walk in it", "Arrow keys run, Space jumps. Shift and a press put him somewhere else.", "walk",
              lambda p: False),
    FirstStep("Ship it", "Press Ship: pictures, levels and what they mean, as open files.", "ship",
              lambda p: False),
)  # fmt: skip


class FirstSteps(QFrame):
    """A small board at the lower left of the Desk. What a project cannot show is kept with the settings."""

    def __init__(self, look: Look, icons: Icons, session: Session, settings: QSettings, desk: Canvas) -> None:
        super().__init__(desk)
        self.look, self.session, self.settings = look, session, settings
        self.setObjectName("board")
        self.setFixedWidth(WIDE)
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self._seen: set[str] = set()  # stages whose step was done in this window
        self.heading, self._how = label("", "head"), label("", "quiet")
        self._how.setWordWrap(True)
        self._number = label("", "quiet")
        close = IconButton(look, icons, "x", "Close; Find a command brings it back", px=14)
        close.pressed.connect(self.close_for_good)
        self.go_button = button("Go there")
        self.go_button.clicked.connect(lambda: session.go(STEPS[self.now].stage))
        box = QVBoxLayout(self)
        box.setContentsMargins(12, 8, 8, 12)
        box.setSpacing(4)
        for parts in ((self.heading, None, self._number, close), (self._how,), (self.go_button, None)):
            line = QWidget()
            line.setLayout(row(*parts))
            box.addWidget(line)
        box.addSpacing(10)
        self.now = 0
        look.dress(self)
        desk.installEventFilter(self)
        session.document.changed.connect(lambda _o, _n: self.refresh())
        session.staged.connect(self._staged)
        session.shipped.connect(self._shipped)
        self.open = False
        self._gives_way = False  # while another board asks something in the same place
        self._board: QWidget | None = None  # one that it must not cover
        desk.asks.connect(self._give_way)
        self.hide()

    def _give_way(self, asked: bool) -> None:
        self._gives_way = asked
        self._show()
        self.refresh()

    def avoid(self, board: QWidget | None) -> None:
        """Never lie over a board: where there is no room beside it, wait until it is gone."""
        self._board = board
        if board is not None:
            board.installEventFilter(self)
        self._place()

    def _show(self) -> None:
        board = self._board
        covers = (
            board is not None
            and board.isVisibleTo(self.parentWidget())
            and (board.geometry().intersects(self.geometry()))
        )
        self.setVisible(self.open and not self._gives_way and not covers)

    def begin(self) -> None:
        """Show the step that comes next, from now on until all are done or it is closed."""
        self.settings.setValue("first_steps", "open")
        self.open = True
        self._place()
        self.refresh()

    def show_or_close(self, on: bool) -> None:
        if on:
            self.begin()
        else:
            self.close_for_good()

    def close_for_good(self) -> None:
        self.settings.setValue("first_steps", "closed")
        self.open = False
        self.hide()

    @property
    def done(self) -> list[bool]:
        project = self.session.project
        return [step.stage in self._seen or step.done(project) for step in STEPS]

    def refresh(self) -> None:
        if self.isHidden() or self.session.document.gesturing:
            return
        done = self.done
        if all(done):
            self.heading.setText("That is the whole way")
            self._how.setText("The guide (F1) tells more of each stage.")
            self.go_button.hide()
        else:
            self.now = done.index(False)
            step = STEPS[self.now]
            self.heading.setText(step.title)
            self._how.setText(step.how)
            self.go_button.setVisible(self.session.stage != step.stage)
        self._number.setText(f"{sum(done)} of {len(STEPS)}")
        self._place()
        self.update()

    def _staged(self, stage: str) -> None:
        if stage == "walk" and self.session.selection.level is not None:
            self._seen.add(stage)
        self.refresh()

    def _shipped(self) -> None:
        if self.session.shipped_sheets:
            self._seen.add("ship")
        self.refresh()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.Resize, QEvent.Type.Move):
            if watched is self._board:
                self._show()
            else:
                self._place()
        return super().eventFilter(watched, event)

    def _place(self) -> None:
        desk = self.parentWidget()
        if desk is not None:
            self.adjustSize()
            self.move(EDGE + 24, max(desk.height() - self.height() - EDGE, 0))
            self._show()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        wide = (self.width() - 24) / len(STEPS)
        for n, done in enumerate(self.done):
            place = QRectF(12 + n * wide, self.height() - 12, wide - 4, 4)
            now = n == self.now and not done
            painter.fillRect(place, self.look.colour("reed" if done else "rust" if now else "rule"))
