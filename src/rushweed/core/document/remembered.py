"""Facts of parts of the project, found once: parts never change, so the same object has the same facts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

Part = TypeVar("Part")
Fact = TypeVar("Fact")
MOST = 4096


class Remembered(Generic[Part, Fact]):
    """Calls `find` once for each object, known by being the very same; the latest `most` are remembered."""

    def __init__(self, find: Callable[[Part], Fact], most: int = MOST) -> None:
        self._find, self._most = find, most
        self._known: dict[int, tuple[Part, Fact]] = {}

    def __call__(self, part: Part) -> Fact:
        """The fact of a part, found anew only for a part not known."""
        known = self._known.get(id(part))
        if known is None or known[0] is not part:
            if len(self._known) >= self._most:
                self._known.pop(next(iter(self._known)), None)
            known = self._known[id(part)] = (part, self._find(part))
        return known[1]
