"""The animation shown, played by the clock or a frame at a time."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from rushweed.core.animate.play import frame_at, start_of
from rushweed.core.document.model.animation import Animation
from rushweed.ui.session import Session

SPEEDS = {"1/8": 0.125, "1/4": 0.25, "1/2": 0.5, "1": 1.0, "2": 2.0, "4": 4.0}
TICK_MS = 8


class Player(QObject):
    """Says which frame is to be seen: `moved` when that, or what moves along a path, changed; `turned` when
    it begins or ends."""

    moved = pyqtSignal()
    turned = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.place = 0  # of the frame shown
        self.running = False
        self._rate = 1.0
        self._began = 0.0  # monotonic time at which the round would have started
        self.timer = QTimer(self)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.setInterval(TICK_MS)
        self.timer.timeout.connect(self.tick)

    @property
    def animation(self) -> Animation | None:
        """The one that is shown."""
        return self._session.selection.animation

    def set_rate(self, rate: float) -> None:
        """Play so many times as fast from the frame shown on."""
        self._rate = rate
        self._restart()

    def toggle(self) -> None:
        """Play or stop."""
        self.stop() if self.running else self.start()

    def start(self) -> None:
        """Play from the frame shown on."""
        animation = self.animation
        if animation is None or not animation.frames:
            return
        self.running = True
        self._restart()
        self.timer.start()
        self.turned.emit()

    def stop(self) -> None:
        """Stay at the frame shown."""
        self.running = False
        self.timer.stop()
        self.turned.emit()

    def elapsed_ms(self) -> float:
        """How long the round has been under way, at the speed chosen."""
        return (time.monotonic() - self._began) * 1000 * self._rate if self.running else 0.0

    def show(self, place: int) -> None:
        """Show a frame."""
        self.place = place
        self.moved.emit()

    def step(self, by: int) -> None:
        """Some frames on, or back; and stop."""
        animation = self.animation
        if animation is not None and animation.frames:
            self.stop()
            place = (self.place + by) % len(animation.frames)
            self._session.selection.choose_animation(animation.id, (place,))
            self.show(place)

    def tick(self) -> None:
        """Show what the clock says; a tick that comes late skips frames, so that the rate is kept."""
        animation = self.animation
        if animation is None or not animation.frames:
            self.stop()
            return
        elapsed = self.elapsed_ms()
        place = frame_at(animation, elapsed)
        if place != self.place:
            self.show(place)
        elif animation.path is not None:
            self.moved.emit()
        if animation.play == "once" and animation.path is None:
            if elapsed > sum(f.ms for f in animation.frames):
                self.stop()

    def _restart(self) -> None:
        """Let the clock read as if the frame shown had just come up."""
        animation = self.animation
        if animation is not None:
            at_end = animation.play == "once" and self.place == len(animation.frames) - 1
            begun = 0 if at_end else start_of(animation, self.place)
            self._began = time.monotonic() - begun / 1000 / self._rate
