"""`./run attack [--minutes N] [--seed S]`: the attacks of this folder with other seeds, as long as asked."""

from __future__ import annotations

import argparse
import random
import shutil
import tempfile
import time
from pathlib import Path

from rushweed.core.level.edit import add_level
from rushweed.core.store.folder import Folder
from rushweed.demo.project import build
from tests.attacks.disk import Disk, Killed, faulty
from tests.attacks.projects import attack
from tests.attacks.test_disk_faults import Work


def disk_fault(small: Path, home: Path, rng: random.Random) -> None:
    """A fault or a power cut at some call, work after it, perhaps another one, and nothing may be missing."""
    path = home / "game"
    shutil.rmtree(path, ignore_errors=True)
    shutil.copytree(small, path)
    work = Work(path)
    for _ in range(rng.randint(1, 3)):
        first = rng.randrange(160)
        disk = Disk(first, first + rng.choice((0, 1, 5, 60)), kills=rng.random() < 0.5)
        try:
            with faulty(disk):
                for n in range(rng.randint(1, 8)):
                    work.edit(f"edit {n}") if rng.random() < 0.8 else work.undo(
                        rng.randrange(len(work.states))
                    )
                    work.keep() if rng.random() < 0.7 else work.save()
        except Killed:
            break
    work.kill()
    work.nothing_is_missing()


def main() -> None:
    asked = argparse.ArgumentParser(prog="./run attack")
    asked.add_argument("--minutes", type=float, default=5)
    asked.add_argument("--seed", type=int, default=int(time.time()))
    words = asked.parse_args()
    end, seed, counts = time.monotonic() + 60 * words.minutes, words.seed, {"disk": 0, "projects": 0}
    slowest = 0.0
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        build(home / "master")[0].unlock()
        folder, project = Folder.create(home / "small", "Game")
        for level in ("pier", "marsh", "quay"):
            project, _made = add_level(project, level, (8, 8))
        folder.save(project)
        while time.monotonic() < end:
            began = time.monotonic()
            try:
                if seed % 2:
                    attack(home / "master", seed)
                    counts["projects"] += 1
                else:
                    disk_fault(home / "small", home, random.Random(seed))
                    counts["disk"] += 1
            except BaseException:
                print(f"found by --seed {seed}", flush=True)
                raise
            slowest = max(slowest, time.monotonic() - began)
            seed += 1
    runs = f"{counts['disk']} runs on a failing disk and {counts['projects']} wild projects"
    print(f"{runs} from seed {words.seed}: nothing lost, no fault, the slowest {slowest:.1f} s.")


if __name__ == "__main__":
    main()
