"""Plain loops over whole numbers, compiled; tests hold them against the form as written."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit, types

Function = TypeVar("Function", bound=Callable[..., Any])

I8, B1, NONE = types.int64, types.boolean, types.void
A1, A2 = types.int64[::1], types.int64[:, ::1]
# Kernels are given all arrays they write to and make none, so nothing has to be counted (`_nrt`).
OPTIONS: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy", "_nrt": False}
PAIR = types.UniTuple(types.int64, 2)


def compiled(signature: Any) -> Callable[[Function], Function]:
    """Compile for one signature, keep the result beside the module; other threads run meanwhile."""

    def made(function: Function) -> Function:
        done: Function = njit(signature, **OPTIONS)(function)
        return done

    return made
