"""A window has its compiled loops loaded beside it, and closes whether that is done or not."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

SCRIPT = """
import sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from rushweed.core import ready
from rushweed.ui import app as program
from rushweed.ui.start import run

program.SETTLED_MS = 1
real = program.Application.open
def opened(self, path, shell):
    window = real(self, path, shell)
    def look():
        if sys.argv[2] == "soon" or set(ready.loaded) == set(ready.SERVING):
            window.close()
        else:
            QTimer.singleShot(50, look)
    QTimer.singleShot(200, look)
    return window
program.Application.open = opened
code = run([Path(sys.argv[1])])
print("all loaded" if set(ready.loaded) == set(ready.SERVING) else "not all loaded")
sys.exit(code)
"""


@pytest.mark.parametrize("when", ["loaded", "soon"])
def test_they_are_loaded_a_moment_after_it_opened(demo_folder: Path, tmp_path: Path, when: str) -> None:
    ran = subprocess.run(
        [sys.executable, "-c", SCRIPT, str(demo_folder), when],
        env={**os.environ, "RUSHWEED_LOG": str(tmp_path / "log.txt"), "QT_QPA_PLATFORM": "offscreen",
             "RUSHWEED_SETTINGS": str(tmp_path / "s.ini")},
        capture_output=True, text=True, timeout=240,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stderr
    assert when == "soon" or ran.stdout == "all loaded\n"
