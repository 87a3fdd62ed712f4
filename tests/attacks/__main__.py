"""`./run attack [--minutes N] [--seed S]`: the attacks of this folder with other seeds, as long as asked."""

from __future__ import annotations

import argparse
import random
import tempfile
import time
from pathlib import Path

from rushweed.core.level.edit import add_level
from rushweed.core.store.folder import Folder
from rushweed.demo.project import build
from tests.attacks.projects import attack
from tests.attacks.test_disk_faults import disk_fault


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
