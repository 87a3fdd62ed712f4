"""Fields that hold a value. `show_value` is silent; `edited` speaks only when a person edits."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QLineEdit

from rushweed.core.tune.units import plain
from rushweed.ui.kit.controls import HIGH
from rushweed.ui.kit.theme import Look


class TextField(QLineEdit):
    """A line of text; `edited` when a person presses Enter or leaves it changed. Escape takes it back."""

    edited = pyqtSignal(str)

    def __init__(self, hint: str = "", mono: bool = False) -> None:
        super().__init__()
        self.setFixedHeight(HIGH)
        self.setPlaceholderText(hint)
        self.setProperty("says", hint)
        self.setProperty("mono", "true" if mono else "false")
        self._shown = ""
        self.editingFinished.connect(self._finish)

    def show_value(self, text: str) -> None:
        if text != self._shown or not self.hasFocus():
            self._shown = text
            if self.text() != text:
                self.setText(text)
                self.setCursorPosition(0)

    def _finish(self) -> None:
        if self.text() != self._shown:
            self._shown = self.text()
            self.edited.emit(self.text())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._shown)
            self.clearFocus()
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.clearFocus()


class Numbers(NamedTuple):
    """What a field takes: from where to where, whether whole ones only, by how much the arrows change it, and
    how many decimal places are shown."""

    least: float = 0
    most: float = 99_999
    whole: bool = True
    step: float = 1
    places: int = 3


class NumbersField(QLineEdit):
    """One or two numbers with their unit, such as "16 x 16 px".

    Every valid text is told at once, so that the picture follows while a number is typed. Up and Down
    (Shift: by ten), the wheel over a field in use, and dragging the unit change it by a step. `settled`
    ends such a run, which `begun` opened; `escaped` says that all of it is to be taken back.
    """

    edited = pyqtSignal(tuple)
    begun = pyqtSignal()
    settled = pyqtSignal()
    escaped = pyqtSignal()

    def __init__(
        self,
        count: int = 1,
        unit: str = "px",
        rule: Numbers = Numbers(),  # noqa: B008
        look: Look | None = None,
        between: str = " × ",
    ) -> None:
        super().__init__()
        self.count, self.unit = count, unit
        self.least, self.most, self.whole, self.step, self.places = rule
        self._look = look
        self._between = between
        self._values: tuple[float, ...] = (0,) * count
        self._drag: tuple[float, tuple[float, ...]] | None = None
        self._leaving = False  # by Escape, which settles nothing
        self._before: tuple[tuple[float, ...], bool] | None = None  # numbers and mixed, at the run's start
        self.setFixedHeight(HIGH)
        self.setProperty("mono", "true")
        self.setProperty("wrong", "false")
        self.setTextMargins(0, 0, self._unit_width(), 0)
        self.textEdited.connect(self._typed)
        self.editingFinished.connect(self._finish)
        self.setMouseTracking(True)

    @property
    def values(self) -> tuple[float, ...]:
        """The numbers as last typed or shown."""
        return self._values

    def _unit_width(self) -> int:
        return 7 * len(self.unit) + 4 if self.unit else 0

    def text_of(self, values: Sequence[float]) -> str:
        return self._between.join(plain(v, self.places) for v in values)

    def show_value(self, values: Sequence[float] | float | None) -> None:
        """Show numbers silently; None shows that the selection holds several."""
        if values is None:
            self.setPlaceholderText("mixed")
            if not self.hasFocus() or self.text():
                self.clear()
            return
        self.setPlaceholderText("")
        numbers = (values,) if isinstance(values, (int, float)) else tuple(values)
        if (
            numbers == self._values
            and self.text()
            and (self.hasFocus() or self._parse(self.text()) == numbers)
        ):
            return
        self._values = numbers
        if not (self.hasFocus() and self._parse(self.text()) == numbers):
            self.setText(self.text_of(numbers))
            self.setCursorPosition(0)
        self._mark(False)

    def _parse(self, text: str) -> tuple[float, ...] | None:
        parts = [p for p in re.split(r"[\s×x,;*]+", text.strip().lower().removesuffix("px")) if p]
        if len(parts) == 1:
            parts *= self.count
        if len(parts) != self.count:
            return None
        try:
            numbers = tuple(int(p) if self.whole else float(p) for p in parts)
        except ValueError:
            return None
        if not all(self.least <= n <= self.most for n in numbers):
            return None
        return numbers

    def _typed(self, text: str) -> None:
        numbers = self._parse(text)
        self._mark(numbers is None and bool(text.strip()))
        if numbers is not None:
            self._tell(numbers)

    def _tell(self, numbers: tuple[float, ...]) -> None:
        """A person has made it these numbers."""
        mixed = self.placeholderText() == "mixed"
        if numbers == self._values and not mixed:
            return
        if self._before is None:
            self._before = (self._values, mixed)
            self.begun.emit()
        self._values = numbers
        self.setPlaceholderText("")
        self.edited.emit(numbers)

    def _mark(self, wrong: bool) -> None:
        mark = "true" if wrong else "false"
        if self.property("wrong") != mark:
            self.setProperty("wrong", mark)
            self.setToolTip(
                f"A number from {plain(self.least, 3)} to {plain(self.most, 3)} is wanted here."
                if wrong
                else ""
            )
            style = self.style()
            assert style is not None
            style.unpolish(self)
            style.polish(self)

    def _finish(self) -> None:
        if self.text().strip() or self.placeholderText() != "mixed":
            self.setText(self.text_of(self._values))
        self._mark(False)
        if not self._leaving:
            self._settle()

    def _settle(self) -> None:
        self._before = None
        self.settled.emit()

    def _escape(self) -> None:
        """Take back what was typed since the run began, also where it has been shown live already."""
        self._drag = None
        if self._before is not None:
            (self._values, mixed), self._before = self._before, None
            self.show_value(None if mixed else self._values)
            self.escaped.emit()
        if self.placeholderText() != "mixed":
            self.setText(self.text_of(self._values))
        self._leaving = True
        self.clearFocus()
        self._leaving = False
        self._mark(False)

    def nudge(self, steps: float) -> None:
        values = tuple(min(max(v + steps * self.step, self.least), self.most) for v in self._values)
        values = tuple(int(round(v)) if self.whole else round(v, self.places) for v in values)
        if values != self._values:
            self.setText(self.text_of(values))
            self._tell(values)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.nudge((1 if key == Qt.Key.Key_Up else -1) * (10 if shift else 1))
            return
        if key == Qt.Key.Key_Escape:
            self._escape()
            return
        super().keyPressEvent(event)
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.clearFocus()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if self.hasFocus() and self.isEnabled():
            self.nudge(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        else:
            event.ignore()

    def _on_unit(self, x: float) -> bool:
        return bool(self.unit) and x > self.width() - self._unit_width() - 4

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._on_unit(event.position().x()) and self.isEnabled():
            self._drag = (event.position().x(), self._values)
            return
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        over = self._on_unit(event.position().x())
        self.setCursor(Qt.CursorShape.SizeHorCursor if over or self._drag else Qt.CursorShape.IBeamCursor)
        if self._drag is not None:
            steps = int((event.position().x() - self._drag[0]) / 4)
            wanted = tuple(min(max(v + steps * self.step, self.least), self.most) for v in self._drag[1])
            wanted = tuple(int(round(v)) if self.whole else round(v, self.places) for v in wanted)
            if wanted != self._values:
                self.setText(self.text_of(wanted))
                self._tell(wanted)
            return
        super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._drag is not None:
            self._drag = None
            self._settle()
            return
        super().mouseReleaseEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self.unit and self._look:
            painter = QPainter(self)
            painter.setFont(self._look.mono(12))
            painter.setPen(self._look.colour("quiet"))
            box = QRectF(0, 0, self.width() - 7, self.height())
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self.unit)
