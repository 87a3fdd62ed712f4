"""Compiled loops that serve once they are loaded; until then their plain form does, with the same result.

Loading them takes a second or two, and compiling them the first time minutes, so nobody waits for either: a
window has it done beside it, and work that is long anyway does it itself.
"""

from __future__ import annotations

import atexit
import logging
import subprocess
import sys
from importlib import import_module
from types import ModuleType

COMPILE = "import os; os.nice(10); from rushweed.core.compiled import compile_all; compile_all()"
SERVING = (
    "rushweed.core.cut.kernels",
    "rushweed.core.pixels.kernels",
    "rushweed.core.shape.crossing_kernels",
    "rushweed.core.shape.kernels",
    "rushweed.core.shape.twins_kernels",
    "rushweed.core.tune.kernels",
)  # in place of a plain form
loaded: dict[str, ModuleType] = {}

log = logging.getLogger("rushweed")


def kernels(name: str) -> ModuleType | None:
    """A module of kernels if it is loaded, else None: the plain form is to be used."""
    return loaded.get(name)


def load() -> None:
    """Load all that serve in place of a plain form, here and now. May be called from any thread."""
    for name in SERVING:
        loaded[name] = import_module(name)


def load_beside() -> None:
    """Load them, compiled by another process where that has not been done yet, so that this one goes on. Call
    it from a thread of its own. What cannot be compiled is not used."""
    from rushweed.core.compiled import all_compiled

    if not all_compiled():
        try:
            compiler = subprocess.Popen([sys.executable, "-c", COMPILE], stderr=subprocess.PIPE)
        except OSError as error:
            log.warning("The inner loops were not compiled: %s", error)
            return
        atexit.register(compiler.kill)
        told = compiler.communicate()[1]
        atexit.unregister(compiler.kill)
        if compiler.returncode != 0:
            log.warning("The inner loops were not compiled: %s", told.decode(errors="replace")[-500:])
            return
    load()
