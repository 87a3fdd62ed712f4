"""A process that ships is killed at any moment; the folder holds a whole shipment."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import time
from pathlib import Path

from rushweed.core.ship.json_text import json_text
from rushweed.core.ship.placing import LIST, Listed, Shipment, last_shipment, put_in_place
from rushweed.core.ship.read_back import check_shipment
from rushweed.core.store.files import digest_of

SHIPPER = """
import itertools, sys
from pathlib import Path
from msgspec.structs import replace
from rushweed.core.pixels.cache import PixelCache
from rushweed.core.ship.build import ship
from rushweed.core.store.folder import Folder
path, out, start = Path(sys.argv[1]), Path(sys.argv[2]), int(sys.argv[3])
project, stock = Folder(path).open(), PixelCache(path)
for n in itertools.count(start):
    levels = tuple(replace(v, name=f"{v.name.split('_')[0]}_{n}") for v in project.levels)
    ship(replace(project, name=f"game_{n}", levels=levels), stock, out)
    print(n, flush=True)
"""


def put(out: Path, files: dict[str, bytes], way: str = "w") -> None:
    """Ship some files as they are."""
    before = last_shipment(out)
    listed = {name: Listed(len(data), digest_of(data), "") for name, data in files.items()}
    text = json_text(Shipment(2, "1", way, listed))
    kept = [n for n in files if before and before.files.get(n) == listed[n]]
    made = {n: data for n, data in files.items() if n not in kept}
    put_in_place(out, {**made, LIST: text}, kept, before)


def shipping_kills(game: Path, out: Path, chance: random.Random, count: int, start: int = 0) -> int:
    """Kill it so many times; each time what stands there is checked whole, and is that which was told last or
    the next. Returns the number of the last shipment."""
    for _ in range(count):
        process = subprocess.Popen(
            [sys.executable, "-c", SHIPPER, str(game), str(out), str(start + 1)],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert process.stdout is not None
        said = int(process.stdout.readline())
        time.sleep(chance.random() * 0.4)
        process.send_signal(signal.SIGKILL)
        rest = process.stdout.read().split()
        said = int(rest[-1]) if rest else said
        process.wait()
        process.stdout.close()
        checked = check_shipment(out)
        assert checked.problems == [], checked.problems[:5]
        start = int(checked.manifest.project.split("_")[1])
        assert start in (said, said + 1)
        assert {int(v.name.split("_")[1]) for v in checked.manifest.levels} == {start}
    return start
