"""Whether Rushweed has all it needs on this machine, and what to do where it has not."""

from __future__ import annotations

import os
import platform
import shutil
import sys
from importlib import metadata
from pathlib import Path
from typing import NamedTuple

from rushweed import __version__
from rushweed.app.log import log_path

LEAST_PYTHON = (3, 11)
LEAST_FREE = 1 << 30  # bytes that saving and shipping should find free
PACKAGES = ("PyQt6", "numpy", "scipy", "Pillow", "numba", "shapely", "msgspec", "zstandard")


class Answer(NamedTuple):
    """One thing looked at: what was found, and a cure where something is wrong."""

    name: str
    found: str
    cure: str = ""


def look() -> list[Answer]:
    """Everything, in the order in which it is told."""
    return [
        Answer("Rushweed", __version__), _python(), *map(package, PACKAGES), screen(), _fonts(),
        *(writable(name, folder) for name, folder in _folders()), _room(), _kernels(),
    ]  # fmt: skip


def _python() -> Answer:
    cure = "" if sys.version_info >= LEAST_PYTHON else "Install Python 3.11 or newer."
    return Answer("Python", f"{platform.python_version()}, {platform.platform()}", cure)


def package(name: str) -> Answer:
    try:
        return Answer(name, metadata.version(name))
    except metadata.PackageNotFoundError:
        return Answer(name, "not installed", f"Install it: python -m pip install {name}")


def screen() -> Answer:
    """Qt is asked in a process of its own: without a screen it ends the one that asks."""
    import subprocess

    words = (
        "from PyQt6.QtGui import QGuiApplication as A; a = A([]); s = a.primaryScreen(); "
        "print(a.platformName(), f'{s.size().width()} x {s.size().height()} at {s.devicePixelRatio():g}' "
        "if s else 'no screen')"
    )
    try:
        done = subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, timeout=30)
    except (OSError, subprocess.TimeoutExpired):
        return Answer("Screen", "Qt does not answer", "Try QT_QPA_PLATFORM=xcb or QT_QPA_PLATFORM=wayland.")
    if done.returncode == 0 and done.stdout.strip():
        return Answer("Screen", done.stdout.strip())
    shown = [name for name in ("DISPLAY", "WAYLAND_DISPLAY") if os.environ.get(name)]
    if not shown:
        return Answer(
            "Screen", "none", "The window needs one; every command but open and demo works without."
        )
    why = (done.stderr.strip().splitlines() or ["Qt could not begin"])[0]
    return Answer("Screen", why, "Install what Qt needs: sudo apt-get install -y libegl1 libxcb-cursor0")


def _fonts() -> Answer:
    folders = ("/usr/share/fonts", "/usr/local/share/fonts", Path.home() / ".local/share/fonts")
    some = next((p for f in folders for p in Path(f).rglob("*.[to]tf")), None)
    cure = "" if some else "Install some: sudo apt-get install -y fonts-open-sans fonts-dejavu-core"
    return Answer("Fonts", f"found, {some.name} among them" if some else "none", cure)


def _folders() -> list[tuple[str, Path]]:
    import platformdirs

    return [
        ("Cache", Path(platformdirs.user_cache_dir("rushweed"))),
        ("Data", Path(platformdirs.user_data_dir("rushweed"))),
        ("Log", log_path().parent),
    ]


def writable(name: str, folder: Path) -> Answer:
    """Whether a folder is there, or could be made, and may be written to."""
    there = folder
    while not there.exists() and there != there.parent:
        there = there.parent
    fine = there.is_dir() and os.access(there, os.W_OK | os.X_OK)
    return Answer(name, str(folder), "" if fine else f"Let yourself write to {there}.")


def _room() -> Answer:
    free = shutil.disk_usage(Path.home() if Path.home().is_dir() else "/").free
    cure = "" if free >= LEAST_FREE else "Free some: saves and shipments need room beside what they replace."
    return Answer("Free", f"{free / (1 << 30):.1f} GiB at home", cure)


def _kernels() -> Answer:
    """Whether the inner loops are compiled already; if not, the first use takes about a minute beside the
    window."""
    import platformdirs

    kept = Path(platformdirs.user_cache_dir("rushweed")) / "kernels"
    count = len(list(kept.rglob("*.nbc"))) if kept.is_dir() else 0
    return Answer("Compiled", f"{count} loops kept" if count else "nothing yet, done when first used")
