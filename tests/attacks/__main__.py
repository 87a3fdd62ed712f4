"""`./run attack [--minutes N] [--seed S]`: the attacks of this folder with other seeds, as long as asked."""

from __future__ import annotations

import argparse
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from rushweed.core.level.levels import add_level
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.placing import last_shipment
from rushweed.core.ship.read_back import check_shipment
from rushweed.core.store.folder import Folder
from rushweed.demo.project import build
from tests.attacks.bytes import attack_bytes
from tests.attacks.edits import attack_edits
from tests.attacks.projects import attack
from tests.attacks.shipping import shipping_kills
from tests.attacks.test_disk_faults import disk_fault
from tests.attacks.test_kills import kills

ORDER = (
    "wild projects", "runs on a failing disk", "wild projects", "runs on a failing disk", "wild projects",
    "runs on a failing disk", "rounds of edits", "rounds of bytes", "kills", "kills", "kills", "kills",
    "kills while shipping", "monkeys",
)  # fmt: skip


MONKEY = "import sys; from bench.monkey import rows; sys.exit(any(row.ratio for row in rows()))"


def monkey(seed: int) -> None:
    """Some steps at the window on each project, in a process of its own."""
    steps = {"RUSHWEED_MONKEY_STEPS": "300", "RUSHWEED_MONKEY_SEED": str(seed)}
    subprocess.run([sys.executable, "-c", MONKEY], env=os.environ | steps, check=True)


def ship_kill(home: Path, chance: random.Random) -> None:
    """One more into the same folder."""
    out = home / "shipped"
    known = last_shipment(out)
    start = int(check_shipment(out).manifest.project.split("_")[1]) if known is not None else 0
    shipping_kills(home / "master", out, chance, 1, start)


def main() -> None:
    asked = argparse.ArgumentParser(prog="./run attack")
    asked.add_argument("--minutes", type=float, default=5)
    asked.add_argument("--seed", type=int, default=int(time.time()))
    words = asked.parse_args()
    end, seed = time.monotonic() + 60 * words.minutes, words.seed
    counts = dict.fromkeys(ORDER, 0)
    slowest = 0.0
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        build(home / "master")[0].unlock()
        folder, project = Folder.create(home / "small", "Game")
        for level in ("pier", "marsh", "quay"):
            project, _made = add_level(project, level, (8, 8))
        folder.save(project)
        shutil.copytree(home / "master", home / "edited")
        shutil.copytree(home / "master", home / "killed")
        game = Folder(home / "edited")
        base, stock = game.open(), PixelCache(home / "edited")
        attacks = {
            "wild projects": lambda: attack(home / "master", seed),
            "runs on a failing disk": lambda: disk_fault(home / "small", home, random.Random(seed)),
            "rounds of edits": lambda: attack_edits(game, base, stock, seed),
            "rounds of bytes": lambda: attack_bytes(home / "master", home / "small", seed),
            "kills": lambda: kills(home / "killed", random.Random(seed), 1),
            "kills while shipping": lambda: ship_kill(home, random.Random(seed)),
            "monkeys": lambda: monkey(seed),
        }
        while time.monotonic() < end:
            kind = ORDER[seed % len(ORDER)]
            began = time.monotonic()
            try:
                attacks[kind]()
            except BaseException:
                print(f"found by --seed {seed} in {kind}", flush=True)
                raise
            counts[kind] += 1
            slowest = max(slowest, time.monotonic() - began)
            seed += 1
    runs = ", ".join(f"{count} {kind}" for kind, count in counts.items())
    print(f"{runs} from seed {words.seed}: nothing lost, no fault, the slowest {slowest:.1f} s.")


if __name__ == "__main__":
    main()
