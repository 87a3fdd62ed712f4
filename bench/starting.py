"""B9: from the start of the process to the first painted window, beside a bare Qt window with NumPy."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

from bench.row import Row, by_time, timed
from rushweed.demo.project import build

BARE = """
import numpy
from PyQt6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
window.repaint()
import os; os._exit(0)
"""
OURS = """
import sys
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from rushweed.ui.app import Application
app = QApplication([])
window = Application(app).open(Path(sys.argv[1]))
app.processEvents()
window.repaint()
import os; os._exit(0)
"""


def first_window() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as name:
        build(Path(name) / "p")[0].unlock()
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "RUSHWEED_SETTINGS": f"{name}/s.ini"}
        environment.pop("PYTHONDONTWRITEBYTECODE", None)  # what is compiled once is kept, as everywhere

        def start(code: str, *words: str) -> None:
            subprocess.run([sys.executable, "-c", code, *words], env=environment, check=True)

        ours = timed(lambda: start(OURS, f"{name}/p"), 7)
        yield by_time("start to the first painted window", ours, timed(lambda: start(BARE), 7), 1.7)
