"""B9: from the command to the first painted window, beside a bare Qt window with NumPy."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.crowd import LOTS, crowd
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
# The program as it is started, which tells when the window was painted first and when the Desk in it was.
OURS = """
import os, sys, time
from rushweed.ui import shell

def tells(kind, word, then):
    paint = kind.paintEvent
    def painted(self, event):
        paint(self, event)
        if kind.paintEvent is painted:
            kind.paintEvent = paint
            print(word, time.time(), flush=True)
            then()
    kind.paintEvent = painted

def whole():
    from rushweed.ui.desk.desk import Desk
    tells(Desk, "whole", lambda: os._exit(0))

show = shell.Shell.show_at_once
def shown(self, app):
    show(self, app)
    whole()
shell.Shell.show_at_once = shown
tells(shell.Shell, "first", lambda: None)
sys.argv = ["rushweed", sys.argv[1]]
from rushweed.__main__ import main
main()
"""
TIMES = 7


def first_window() -> Iterator[Row]:
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        build(home / "demo")[0].unlock()
        crowd(home / "crowd", LOTS["crowd"])
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "RUSHWEED_SETTINGS": f"{name}/s.ini"}
        environment.pop("PYTHONDONTWRITEBYTECODE", None)  # what is compiled once is kept, as everywhere

        def start(code: str, *words: str) -> str:
            ran = subprocess.run([sys.executable, "-c", code, *words], env=environment, check=True,
                                 capture_output=True, text=True)  # fmt: skip
            return ran.stdout

        bare = timed(lambda: start(BARE), TIMES)
        for project, words in (("demo", "the demo"), ("crowd", "300 sheets")):
            told = []
            for _ in range(TIMES):
                began = time.time()
                lines = (line.split() for line in start(OURS, f"{name}/{project}").splitlines())
                times = {word: float(moment) - began for word, moment in lines}
                told.append((times["first"], times["whole"]))
            first, whole = np.median(told, axis=0).tolist()
            note = f"with all that is in it {whole * 1000:.0f} ms"
            yield by_time(f"start to the first painted window, {words}", first, bare, 1.7, note)
