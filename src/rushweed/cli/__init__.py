"""The core from a script, one file a command. Exit codes: 0 done, 1 findings, 2 error."""

from rushweed.cli import (
    animate,
    autotile,
    check,
    compress,
    cut,
    desktop,
    diff,
    doctor,
    export,
    gather,
    level,
    new,
    propose,
    read,
    refresh,
    register,
    shape,
    ship,
    trace,
    tune,
    walk,
    way,
)
from rushweed.cli.common import app, errors_told

__all__ = [
    "animate", "app", "autotile", "check", "compress", "cut", "desktop", "diff", "doctor", "errors_told",
    "export", "gather", "level", "new", "propose", "read", "refresh", "register", "shape", "ship", "trace",
    "tune", "walk", "way",
]  # fmt: skip
