"""A fault of the program's own ends nothing: it is logged and told once, and work goes on."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from rushweed.app.log import start_log
from rushweed.core.document.model.project import Project
from rushweed.core.store.folder import Folder
from rushweed.ui.session.document import Document
from rushweed.ui.session.jobs import JobPool

SCRIPT = """
import sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from rushweed.ui import app as program
from rushweed.ui.start import run
from rushweed.core.document.edit import rename

real = program.Application.open
again = object()
def opened(self, path, shell):
    window = real(self, path, shell)
    level = window.session.project.levels[0]
    def fail():
        raise ZeroDivisionError("a slot went wrong")
    def failing_job(_job):
        raise KeyError("a job went wrong")
    def edit():
        window.session.document.edit("Rename", lambda p: rename(p, level.id, "after the fault"))
    def told(words):
        print("notice:", window.notice.words.text(), flush=True)
        return words in window.notice.words.text()
    steps = [
        fail, lambda: told("slot went wrong") or again, fail, edit,
        lambda: window.session.jobs.start("Guessing", failing_job),
        lambda: told("Guessing") or again, window.session.saver.save,
        lambda: window.session.saver.unsaved and again, window.close, QApplication.quit,
    ]
    def go_on():
        step = steps.pop(0)
        QTimer.singleShot(50, go_on) if steps else None
        if step() is again:
            steps.insert(0, step)
    QTimer.singleShot(50, go_on)
    return window
program.Application.open = opened
sys.exit(run([Path(sys.argv[1])]))
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
    assert any("ZeroDivisionError: a slot went wrong" in n and str(log) in n for n in notices)
    assert any("Guessing stopped on a fault" in n for n in notices)
    told = log.read_text()
    assert told.count("ZeroDivisionError: a slot went wrong") == 2 and "in fail" in told
    assert "KeyError: 'a job went wrong'" in told
    assert Folder(demo_folder).open().levels[0].name == "after the fault"


def test_a_trace_tells_edits_and_jobs_with_their_times(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    path = tmp_path / "trace.log"
    monkeypatch.setenv("RUSHWEED_LOG", str(path))
    start_log(trace=True)
    document = Document(Project("p", "Game"))
    document.edit("Name it", lambda p: replace(p, name="Other"))
    with qtbot.waitSignal(JobPool().start("Counting", lambda _job: 3).ended):
        pass
    told = path.read_text()
    assert "edit 'Name it' worked out in" in told and "job 'Counting' took" in told
    start_log()
    document.edit("Again", lambda p: replace(p, name="Third"))
    assert "Again" not in path.read_text()
