"""Work that makes very many small objects, without looking for garbage among them."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def uncollected() -> Iterator[None]:
    """Without the search for garbage meanwhile: hundreds of thousands of small parts are made, and none goes
    round in a circle."""
    on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if on:
            gc.enable()
