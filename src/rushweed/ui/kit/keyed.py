"""Drawn controls of many places - lists, boards, cases - reached by the keys as by the pointer."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QApplication, QScrollArea, QWidget

from rushweed.ui.kit.theme import Look

WAYS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
PRESSES = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space)
BY_KEYS = (
    Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason, Qt.FocusReason.ShortcutFocusReason,
)  # fmt: skip
ASIDE = 3.0  # how much more a place to the side counts as farther than one straight ahead


class Spot(NamedTuple):
    """A place to press, px of the control, and what it is."""

    box: QRectF
    words: str


class _Ring(QWidget):
    """Drawn around the place the keys are at, in two tones that show on everything."""

    def __init__(self, owner: QWidget, look: Look) -> None:
        super().__init__(owner)
        self.look = look
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hide()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        for role, style in (("paper", Qt.PenStyle.SolidLine), ("ink", Qt.PenStyle.DashLine)):
            painter.setPen(QPen(self.look.colour(role), 2, style))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))


class FocusRing(_Ring):
    """Around whatever has the keys in a window, once they came to it by a key and not by a press."""

    def __init__(self, window: QWidget, look: Look) -> None:
        super().__init__(window, look)
        self._window = window
        self.by_tab = False  # the last key was Tab
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self.follow)

    def follow(self, old: QWidget | None, now: QWidget | None) -> None:
        """The focus went from one place to another."""
        if sip.isdeleted(self._window):  # the window is being taken apart
            return
        inside = now is not None and now is not self._window and self._window.isAncestorOf(now)
        by_tab = self.by_tab and QApplication.mouseButtons() == Qt.MouseButton.NoButton
        if now is None or not inside or not by_tab or isinstance(now, Keyed):
            self.hide()
            return
        self.by_tab = False
        corner = now.mapTo(self._window, now.rect().topLeft())
        self.setGeometry(QRect(corner, now.size()).adjusted(-2, -2, 2, 2))
        self.show()
        self.raise_()


class Keyed(QWidget):
    """Tab comes to it, the arrows go from place to place, Enter or Space presses there, with what is held."""

    look: Look

    def set_keyed(self, name: str) -> None:
        """Call once, when `look` is there. `name` says to a screen reader what the control is."""
        self.keyed_name = name
        self._number = 0
        self._ring = _Ring(self, self.look)
        self.setAccessibleName(name)
        clicked = self.focusPolicy() == Qt.FocusPolicy.ClickFocus
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus if clicked else Qt.FocusPolicy.TabFocus)

    def spots(self) -> Sequence[Spot]:
        """All places there are now, also those that are scrolled away."""
        raise NotImplementedError

    def first_spot(self) -> int:
        """Where the keys begin: the chosen place, if one is."""
        return 0

    def bring_spot(self, box: QRectF) -> None:
        """Scroll a place into view."""
        around = self.parentWidget()
        area = around.parentWidget() if around is not None else None
        if isinstance(area, QScrollArea):
            middle = box.center().toPoint()
            area.ensureVisible(middle.x(), middle.y(), 0, int(box.height()))

    @property
    def at_keys(self) -> Spot | None:
        """The place the keys are at."""
        spots = self.spots()
        return spots[min(self._number, len(spots) - 1)] if spots else None

    def _show_spot(self) -> None:
        found = self.at_keys
        if found is None or not self.hasFocus():
            self._ring.hide()
            self.setAccessibleName(self.keyed_name)
            return
        self.bring_spot(found.box)
        found = self.at_keys  # scrolled, it stands elsewhere
        assert found is not None
        self._ring.setGeometry(found.box.toAlignedRect().intersected(QRect(self.rect())))
        self._ring.show()
        self._ring.raise_()
        self.setAccessibleName(f"{self.keyed_name}: {found.words}")

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        if event is not None and event.reason() in BY_KEYS:
            self._number = self.first_spot()
            self._show_spot()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self._ring.hide()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            plain = not event.modifiers() & Qt.KeyboardModifier.AltModifier
            if plain and (Qt.Key(event.key()) in WAYS or event.key() in PRESSES):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = Qt.Key(event.key())
        if key in WAYS and not event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._number = self._next(WAYS[key])
            self._show_spot()
        elif key in PRESSES:
            self._press(event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier)
        else:
            super().keyPressEvent(event)

    def _next(self, way: tuple[int, int]) -> int:
        """The place nearest to the one the keys are at, in a direction; it stays where there is none."""
        spots = self.spots()
        now = min(self._number, len(spots) - 1)
        if now < 0:
            return 0
        here = spots[now].box.center()
        best, least = now, float("inf")
        for number, spot in enumerate(spots):
            step = spot.box.center() - here
            ahead = step.x() * way[0] + step.y() * way[1]
            aside = abs(step.x() * way[1]) + abs(step.y() * way[0])
            if ahead > 0.5 and ahead + ASIDE * aside < least:
                best, least = number, ahead + ASIDE * aside
        return best

    def press_spot(self, number: int) -> None:
        """As the pointer would, at one of the places."""
        self._number = number
        self._press(Qt.KeyboardModifier.NoModifier)

    def _press(self, modifiers: Qt.KeyboardModifier) -> None:
        """As the pointer would: pressed and let go in the middle of the place."""
        found = self.at_keys
        if found is None:
            return
        at = found.box.center()
        left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
        for kind, buttons in ((QEvent.Type.MouseButtonPress, left), (QEvent.Type.MouseButtonRelease, none)):
            everywhere = QPointF(self.mapToGlobal(at.toPoint()))
            QApplication.sendEvent(self, QMouseEvent(kind, at, everywhere, left, buttons, modifiers))
        if self.isVisible():
            self._show_spot()
