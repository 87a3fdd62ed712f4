"""The keys of a walk as letters and how long they were held, as runs keep them."""

from __future__ import annotations

from collections.abc import Iterator

from rushweed.core.document.model.level import Run
from rushweed.core.walk import terms as k

LETTERS = {"l": k.LEFT, "r": k.RIGHT, "u": k.UP, "d": k.DOWN, "j": k.JUMP}


def told(keys: list[int]) -> tuple[tuple[int, str], ...]:
    """Keys by step as a run tells them: only where they change."""
    made = []
    held = 0
    for n, now in enumerate(keys):
        if now != held:
            made.append((n, "".join(letter for letter, bit in LETTERS.items() if now & bit)))
            held = now
    return tuple(made)


def keys_of(run: Run) -> Iterator[int]:
    """The keys of each step of a run."""
    changes = dict(run.keys)
    held = 0
    for n in range(run.steps):
        if n in changes:
            held = sum(LETTERS[letter] for letter in set(changes[n]))
        yield held
