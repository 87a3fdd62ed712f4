"""Saves by itself: every two minutes, and when the window is left for another program."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QSettings, Qt, QTimer
from PyQt6.QtGui import QGuiApplication

from rushweed.ui.session import Session

EVERY_MS = 2 * 60 * 1000
KEY = "autosave"


class Autosave(QObject):
    """On unless it was switched off; what it saves is kept among the earlier saves like any other."""

    def __init__(self, session: Session, settings: QSettings) -> None:
        super().__init__()
        self.session, self.settings = session, settings
        self._gone = False
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.save)
        self._timer.start(EVERY_MS)
        application = QGuiApplication.instance()
        if isinstance(application, QGuiApplication):
            application.applicationStateChanged.connect(self.application_left)

    def stop(self) -> None:
        """The window has gone: what was left unsaved stays unsaved."""
        self._timer.stop()
        self._gone = True

    @property
    def on(self) -> bool:
        return bool(self.settings.value(KEY, True, type=bool))

    def toggle(self) -> None:
        self.settings.setValue(KEY, not self.on)
        words = "every two minutes and when you leave the window" if self.on else "only when you ask for it"
        self.session.tell("told", f"Rushweed now saves {words}.")

    def save(self) -> None:
        """Save if there is anything to save and nothing is under way."""
        session = self.session
        if self._gone:
            return
        if (
            self.on
            and session.saver.unsaved
            and not (session.document.read_only or session.saver.saving or session.document.gesturing)
        ):
            session.saver.save()

    def application_left(self, state: Qt.ApplicationState) -> None:
        if state == Qt.ApplicationState.ApplicationInactive:
            self.save()
