"""What a screen reader meets in drawn controls: each place in sight is a button of a kind that it knows.

PyQt has no interface by which a drawn control could tell of its parts. So where something listens, every
place has a button over it that is not seen and lets the pointer through: with a name, chosen or not, to be
pressed.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from functools import partial
from typing import Protocol

from PyQt6.QtCore import QEvent, QObject, QRect, Qt, QTimer
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QRadioButton, QWidget

from rushweed.ui.kit.keyed import Keyed, Spot

ALWAYS = "QT_LINUX_ACCESSIBILITY_ALWAYS_ON"
ANSWER_MS = 5000  # that the bus has to say whether anybody listens
WAIT_MS = 150  # after something was drawn
MOST = 120  # places of one control


class Told(Protocol):
    """A drawn control whose places can be told."""

    def spots(self) -> Sequence[Spot]:
        """All places there are."""

    def first_spot(self) -> int:
        """Which of them is chosen."""

    def press_spot(self, number: int) -> None:
        """As the pointer would."""


def tell_readers_if_any(window: QWidget) -> None:
    """Tell the places of drawn controls, if a screen reader, or the like, has asked programs to tell what
    they show. The bus is asked, and not waited for."""
    if os.environ.get(ALWAYS) == "1":
        tell_readers(window)
        return
    from PyQt6.QtDBus import QDBusConnection, QDBusMessage, QDBusPendingCallWatcher, QDBusPendingReply

    bus = QDBusConnection.sessionBus()
    if not bus.isConnected():
        return
    question = QDBusMessage.createMethodCall(
        "org.a11y.Bus", "/org/a11y/bus", "org.freedesktop.DBus.Properties", "Get"
    )
    question.setArguments(["org.a11y.Status", "IsEnabled"])
    watcher = QDBusPendingCallWatcher(bus.asyncCall(question, ANSWER_MS), window)

    def answered() -> None:
        reply = QDBusPendingReply(watcher)
        if reply.isValid() and reply.value() is True:
            tell_readers(window)
        watcher.deleteLater()

    watcher.finished.connect(answered)


def tell_readers(window: QWidget) -> None:
    """From now on tell the places of all drawn controls of a window."""
    for control in window.findChildren(QWidget):
        if hasattr(control, "press_spot") and not control.findChild(_Places):
            _Places(control)


class _Place(QRadioButton):
    """One place: not seen, never in the way."""

    def __init__(self, owner: QWidget) -> None:
        super().__init__(owner)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """It is drawn by its owner."""


class _Places(QObject):
    """Those of one control, brought up to date a moment after it was drawn."""

    def __init__(self, owner: QWidget) -> None:
        super().__init__(owner)
        self._owner = owner
        self._shown: list[_Place] = []
        self._numbers: list[int] = []  # of the places that they stand for
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(WAIT_MS)
        self._soon.timeout.connect(self.bring)
        owner.installEventFilter(self)
        self._soon.start()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        drawn = event is not None and event.type() in (QEvent.Type.Paint, QEvent.Type.Show)
        if drawn and not self._soon.isActive():
            self._soon.start()
        return False

    def bring(self) -> None:
        """Let there be a button for each place that is in sight."""
        if not self._owner.isVisible():
            return
        told: Told = self._owner  # type: ignore[assignment]
        chooses = getattr(type(self._owner), "first_spot", None) is not Keyed.first_spot
        seen, chosen = self._owner.visibleRegion().boundingRect(), told.first_spot() if chooses else -1
        found = [(n, spot.box.toAlignedRect(), spot.words) for n, spot in enumerate(told.spots())]
        found = [one for one in found if one[1].intersects(seen)][:MOST]
        while len(self._shown) < len(found):
            place = _Place(self._owner)
            place.toggled.connect(partial(self._press, len(self._shown)))
            self._shown.append(place)
        self._numbers = [number for number, _box, _words in found]
        for place, one in zip(self._shown, found, strict=False):
            self._show(place, one, one[0] == chosen)
        for place in self._shown[len(found) :]:
            place.hide()

    def _show(self, place: _Place, one: tuple[int, QRect, str], chosen: bool) -> None:
        _number, box, words = one
        if place.geometry() != box:
            place.setGeometry(box)
        if place.accessibleName() != words:
            place.setAccessibleName(words)
        if place.isChecked() != chosen:
            place.blockSignals(True)  # nobody pressed it
            place.setAutoExclusive(False)  # none of them may be chosen
            place.setChecked(chosen)
            place.setAutoExclusive(True)
            place.blockSignals(False)
        if place.isHidden():
            place.show()

    def _press(self, at: int, on: bool) -> None:
        """A screen reader was told to press one."""
        told: Told = self._owner  # type: ignore[assignment]
        if on:
            told.press_spot(self._numbers[at])
        self._soon.start()
