"""The line of options above the Desk: what has no room in it folds into a board under one button."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QPoint, QSize, Qt, QTimer
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from rushweed.ui.kit.controls import HIGH, emptied, name_by_labels, row
from rushweed.ui.kit.theme import Look
from rushweed.ui.kit.toggles import DropButton

SPACING = 8
SHOWN = (QEvent.Type.ShowToParent, QEvent.Type.HideToParent, QEvent.Type.LayoutRequest)
Part = QWidget | int | None


class OptionLine(QWidget):
    """Options side by side, given by `fill`. A label stays with what follows it; the last fold first, those
    to be kept never."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self._units: list[list[QWidget] | int | None] = []
        self._keep: tuple[QWidget, ...] = ()
        self._folded: tuple[int, ...] | None = None  # the units that stand on the board
        self._folding = False
        self._spacing = SPACING
        self._line = QHBoxLayout(self)
        self._line.setContentsMargins(0, 0, 0, 0)
        self.more = DropButton(look, "More")
        self.more.setToolTip("The options that have no room here")
        self.more.hide()
        self.more.pressed.connect(self.open)
        self.board = QFrame(self, Qt.WindowType.Popup)
        self.board.setObjectName("board")
        self._rows = QVBoxLayout(self.board)
        self._rows.setContentsMargins(12, 12, 12, 12)
        self._rows.setSpacing(SPACING)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.fold)

    def fill(self, *parts: Part, spacing: int = SPACING, keep: tuple[QWidget, ...] = ()) -> None:
        """The options from left to right; a number is a gap in px, None stretches."""
        self._spacing, self._keep = spacing, keep
        self._line.setSpacing(spacing)
        name_by_labels(parts)
        labels: list[QWidget] = []
        for part in parts:
            if isinstance(part, QWidget):
                part.installEventFilter(self)
                labels.append(part)
                if not isinstance(part, QLabel):
                    self._units.append(labels)
                    labels = []
            else:
                if labels:
                    self._units.append(labels)
                    labels = []
                self._units.append(part)
        if labels:
            self._units.append(labels)
        self._place(())

    def folded(self) -> list[QWidget]:
        """The options that stand on the board now."""
        return [part for n in self._folded or () for part in self._parts(n)]

    def _parts(self, number: int) -> list[QWidget]:
        unit = self._units[number]
        return unit if isinstance(unit, list) else []

    def open(self) -> None:
        """Show the board below its button, within the screen."""
        self.board.setStyleSheet(self.look.rules())
        self.board.adjustSize()
        at = self.more.mapToGlobal(QPoint(self.more.width() - self.board.width(), self.more.height() + 4))
        screen = self.screen()
        if screen is not None:
            room = screen.availableGeometry()
            at.setX(max(min(at.x(), room.right() - self.board.width()), room.left()))
        self.board.move(at)
        self.board.show()
        first = next((part for part in self.folded() if part.focusPolicy() and not part.isHidden()), None)
        if first is not None:
            first.setFocus(Qt.FocusReason.PopupFocusReason)

    # -- folding ---------------------------------------------------------------------------------------

    def minimumSizeHint(self) -> QSize:
        return QSize(self.more.sizeHint().width(), HIGH)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.fold()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in SHOWN and not self._folding:
            self._soon.start(0)
        return super().eventFilter(watched, event)

    def fold(self) -> None:
        """Fold as many options as have no room, from the last."""
        if not self.isVisible() or self.board.isVisible():
            return
        widths = {n: self._width(unit) for n, unit in enumerate(self._units) if isinstance(unit, list)}
        room = self.width() - sum(unit for unit in self._units if isinstance(unit, int))
        folded: list[int] = []
        if self._total(widths) > room:
            room -= self.more.sizeHint().width() + self._spacing
            for n in reversed(list(widths)):
                if self._total(widths) <= room:
                    break
                if widths[n] and not any(part in self._keep for part in self._parts(n)):
                    del widths[n]
                    folded.insert(0, n)
        if tuple(folded) != self._folded:
            self._place(tuple(folded))

    def _total(self, widths: dict[int, int]) -> int:
        shown = [width for width in widths.values() if width]
        return sum(shown) + self._spacing * max(len(shown) - 1, 0)

    def _width(self, unit: list[QWidget]) -> int:
        """The px a unit takes at least to be read; 0 where all of it is hidden."""
        shown = [part for part in unit if not part.isHidden()]
        return sum(map(_least, shown)) + self._spacing * max(len(shown) - 1, 0)

    def _place(self, folded: tuple[int, ...]) -> None:
        """Put the options where they belong: in the line, or on the board."""
        self._folding = True
        self._folded = folded
        while self._line.count():
            self._line.takeAt(0)
        emptied(self._rows)
        for number, unit in enumerate(self._units):
            if unit is None:
                self._line.addStretch(1)
            elif isinstance(unit, int):
                self._line.addSpacing(unit)
            elif number in folded:
                holder = QWidget()
                holder.setLayout(row(*unit, None))
                self._rows.addWidget(holder)
            else:
                for part in unit:
                    self._line.addWidget(part)
        self._line.addWidget(self.more)
        self.more.setVisible(bool(folded))
        self._folding = False


def _least(part: QWidget) -> int:
    stretches = part.sizePolicy().horizontalPolicy() in (
        QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored, QSizePolicy.Policy.MinimumExpanding,
    )  # fmt: skip
    hint = part.minimumSizeHint() if stretches else part.sizeHint()
    return min(max(hint.width(), part.minimumWidth()), part.maximumWidth())
