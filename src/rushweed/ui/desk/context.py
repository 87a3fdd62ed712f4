"""What every tool, card and line of a stage is given."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QSettings

from rushweed.ui.desk.canvas import Canvas
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session


@dataclass(frozen=True)
class Context:
    """The open project, how things look, and where they are shown."""

    session: Session
    look: Look
    icons: Icons
    desk: Canvas
    preferences: QSettings  # of the person, for all projects
