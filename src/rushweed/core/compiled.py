"""Plain loops over whole numbers, compiled; tests hold them against the form as written."""

from __future__ import annotations

import contextlib
import hashlib
import importlib
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numba
from numba import njit, types
from platformdirs import user_cache_dir

CORE = Path(__file__).parent
MOST_KEPT = 4  # results of other source, so that two checkouts do not drive each other out


def _place_of_results() -> Path:
    """Where compiled code is kept: by all the source it was made from, as it is inlined across modules. The
    oldest of what was made from other source are removed."""
    digest = hashlib.sha256(numba.__version__.encode())
    for path in sorted((*CORE.rglob("*kernels.py"), *CORE.rglob("*terms.py"), Path(__file__))):
        digest.update(path.read_bytes())
    kept = Path(user_cache_dir("rushweed")) / "kernels"
    mine = kept / digest.hexdigest()[:16]
    try:
        mine.mkdir(parents=True, exist_ok=True)
        others = sorted((p for p in kept.iterdir() if p != mine), key=lambda p: p.stat().st_mtime)
    except OSError:  # a home that cannot be written to
        return Path(tempfile.gettempdir()) / f"rushweed-kernels-{digest.hexdigest()[:16]}"
    for other in others[:-MOST_KEPT]:
        shutil.rmtree(other, ignore_errors=True)
    return mine


numba.config.CACHE_DIR = str(_place_of_results())  # type: ignore[attr-defined]

Function = TypeVar("Function", bound=Callable[..., Any])

I8, B1, NONE = types.int64, types.boolean, types.void
A1, A2 = types.int64[::1], types.int64[:, ::1]
# Kernels are given all arrays they write to and make none, so nothing has to be counted (`_nrt`).
OPTIONS: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy", "_nrt": False}
PAIR, TRIPLE = types.UniTuple(types.int64, 2), types.UniTuple(types.int64, 3)


def compiled(signature: Any, inside: bool = False) -> Callable[[Function], Function]:
    """Compile for one signature, keep the result; other threads run meanwhile. `inside`: a part of a loop,
    set into what calls it."""

    def made(function: Function) -> Function:
        done: Function = njit(signature, forceinline=inside, **OPTIONS)(function)
        return done

    return made


def compile_all() -> None:
    """Compile every kernel that is not kept yet, so that nobody waits for it later."""
    for path in sorted(CORE.rglob("*kernels.py")):
        importlib.import_module(".".join(("rushweed.core", *path.relative_to(CORE).with_suffix("").parts)))
    with contextlib.suppress(OSError):
        _sign_of_all().touch()


def all_compiled() -> bool:
    """Whether every kernel has been compiled here once."""
    return _sign_of_all().exists()


def _sign_of_all() -> Path:
    return Path(numba.config.CACHE_DIR) / "all"  # type: ignore[attr-defined]
