"""The small readers that lie beside what is shipped for a game."""

from __future__ import annotations

from functools import cache
from importlib import resources

NAMES = ("reader.js", "reader.py", "reader.h", "README.txt")


@cache
def reader_files() -> dict[str, bytes]:
    """Their bytes by the name they are shipped under."""
    home = resources.files("rushweed") / "assets" / "reader"
    return {f"reader/{name}": (home / name).read_bytes() for name in NAMES}
