"""The process is killed at any moment; what it told last is there."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import time
from pathlib import Path

from rushweed.core.store.folder import Folder

WORKER = """
import sys, itertools
from pathlib import Path
from msgspec.structs import replace
from rushweed.core.store.folder import Folder
from rushweed.core.document.edit import rename
folder = Folder(Path(sys.argv[1]))
project = folder.open()
kept = folder.kept()
if kept: project = kept.project
start = int(project.levels[0].name.split("_")[-1]) if "_" in project.levels[0].name else 0
for n in itertools.count(start + 1):
    name = f"level_{n}"
    levels = tuple(replace(v, name=f"{v.name.split('_')[0]}_{n}") for v in project.levels)
    project = replace(project, name=name, levels=levels)
    if n % 3 == 0:
        folder.save(project)
    else:
        folder.keep(project, n)
    print(n, flush=True)
"""


def kills(game: Path, chance: random.Random, count: int) -> None:
    """Kill a process that edits, keeps and saves a project, so many times; each time the newest edit that was
    told to be put away is there, whole."""
    for _ in range(count):
        process = subprocess.Popen(
            [sys.executable, "-c", WORKER, str(game)], stdout=subprocess.PIPE, text=True
        )
        assert process.stdout is not None
        said = int(process.stdout.readline())
        time.sleep(chance.random() * 0.15)
        process.send_signal(signal.SIGKILL)
        rest = process.stdout.read().split()
        said = int(rest[-1]) if rest else said
        process.wait()
        folder = Folder(game)
        project = folder.open()
        kept = folder.kept()
        newest = kept.project if kept else project
        number = int(newest.name.split("_")[1])
        assert {int(v.name.split("_")[1]) for v in newest.levels} == {number}, "parts of different edits"
        assert number in (said, said + 1)
        saved = [int(v.name.split("_")[1]) for v in project.levels if "_" in v.name]
        assert len(set(saved)) <= 1


def test_kill_at_random_moments_of_edits_and_saves_loses_nothing(demo_folder: Path) -> None:
    kills(demo_folder, random.Random(7), 12)
