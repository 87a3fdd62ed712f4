"""Starts the window: it is on the screen before what it shows has been loaded. Imports little."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from rushweed.ui.kit.theme import Look
from rushweed.ui.settings import settings, theme_of, use_size
from rushweed.ui.shell import Shell


def run(paths: list[Path], trace: bool = False) -> int:
    """Open the window on what is named; returns the exit code when it has closed. `app.begin` says more."""
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        print("rushweed: There is no screen to open a window on. `rushweed --help` lists what needs none.",
              file=sys.stderr)  # fmt: skip
        return 2
    saved = settings()
    use_size(saved)
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Rushweed")
    shell = None
    if all(path.exists() for path in paths):
        shell = Shell(Look(theme_of(saved)), saved)
        shell.show_at_once(app)
    from rushweed.ui.app import begin  # while the shell stands: this is most of the program

    return begin(app, paths, trace, shell)
