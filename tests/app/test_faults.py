"""A fault of the program's own ends nothing: it is logged and told once, and work goes on."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from rushweed.core.store.folder import Folder

SCRIPT = """
import sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from rushweed.ui import app as program
from rushweed.core.document.edit import rename

real = program.Application.open
def opened(self, path):
    window = real(self, path)
    level = window.session.project.levels[0]
    def fail():
        raise ZeroDivisionError("a slot went wrong")
    def failing_job(_job):
        raise KeyError("a job went wrong")
    def edit():
        window.session.edit("Rename", lambda p: rename(p, level.id, "after the fault"))
    def report():
        print("notice:", window.notice._words.text(), flush=True)
    later = lambda ms, call: QTimer.singleShot(ms, call)
    later(300, fail)
    later(400, report)
    later(500, fail)
    later(600, edit)
    later(700, lambda: window.session.jobs.start("Guessing", failing_job))
    later(1000, report)
    later(1100, window.session.save)
    later(1800, window.close)
    later(2000, QApplication.quit)
    return window
program.Application.open = opened
sys.exit(program.run(Path(sys.argv[1])))
"""


def test_a_fault_in_a_slot_and_in_a_job_is_logged_and_told_and_the_next_edit_is_saved(
    demo_folder: Path, tmp_path: Path
) -> None:
    log = tmp_path / "state" / "log.txt"
    ran = subprocess.run(
        [sys.executable, "-c", SCRIPT, str(demo_folder)],
        env={**os.environ, "RUSHWEED_LOG": str(log), "RUSHWEED_SETTINGS": str(tmp_path / "s.ini"),
             "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True, text=True, timeout=120,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stderr
    notices = [line for line in ran.stdout.splitlines() if line.startswith("notice:")]
    assert "ZeroDivisionError: a slot went wrong" in notices[0] and str(log) in notices[0]
    assert "Guessing stopped on a fault" in notices[1]
    told = log.read_text()
    assert told.count("ZeroDivisionError: a slot went wrong") == 2 and "in fail" in told
    assert "KeyError: 'a job went wrong'" in told
    assert Folder(demo_folder).open().levels[0].name == "after the fault"
