"""Opens a picture in the program that a person draws with."""

from __future__ import annotations

import shlex
import subprocess
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices

from rushweed.ui.session import Session


def open_picture(session: Session, path: Path, command: str) -> None:
    """With `command`, the words of a command line, or where that is empty with what the desktop has."""
    if not command:
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(path))):
            session.tell(
                "fault",
                "No program for pictures is set on this desktop.",
                "Name one in the settings (Ctrl+Alt+S).",
            )
        return
    try:
        words = shlex.split(command)
        subprocess.Popen([*words, str(path)], stdin=subprocess.DEVNULL, start_new_session=True)
    except (OSError, ValueError) as error:
        why = error.strerror if isinstance(error, OSError) else str(error)
        session.tell(
            "fault", f"{command} could not be started: {why}.", "Change it in the settings (Ctrl+Alt+S)."
        )
