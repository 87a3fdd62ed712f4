"""What the values of a project may be at all: every edit is held to it, and what is held to it can be saved
and opened again."""

from __future__ import annotations

import math

import msgspec

from rushweed.core.document.errors import EditError
from rushweed.core.document.model import Level, TileLayer, Tiles

FARTHEST = 1e9  # px or cells; no number of a project is larger
LONGEST = 10_000  # letters of a text
MOST_LOOKED_AT = 100  # parts of one kind that an edit changed: one that changes more gives all alike
MOST_CELL_SIDE = 4096  # px of a level's cell
MOST_LEVEL_CELLS = 1 << 26  # of all tile layers of a level together


def check_values(old: object, new: object) -> None:
    """Raises EditError if something that `new` has and `old` has not could not be saved: a number that is
    none, one beyond all measure, a text that cannot be written. What is the same object in both is passed
    over, and of many parts changed at once some are looked at, so that an edit costs little."""
    if new is old or new is None or isinstance(new, (bool, Tiles)):
        return
    if isinstance(new, float):
        if not math.isfinite(new) or abs(new) > FARTHEST:
            raise EditError(f"{new:g} is not possible here.", "Use a number that the art can have.")
    elif isinstance(new, int):
        if abs(new) > FARTHEST:
            raise EditError(f"{new} is not possible here.", "Use a smaller number.")
    elif isinstance(new, str):
        _check_text(new)
    elif isinstance(new, msgspec.Struct):
        same = type(old) is type(new)
        for name in new.__struct_fields__:
            check_values(getattr(old, name) if same else None, getattr(new, name))
    elif isinstance(new, tuple):
        before = old if isinstance(old, tuple) else ()
        if len(before) == len(new):
            fresh = [(a, b) for a, b in zip(before, new, strict=True) if a is not b]
        else:
            known = set(map(id, before))
            fresh = [(None, b) for b in new if id(b) not in known]
        for a, b in fresh[:: -(-len(fresh) // MOST_LOOKED_AT) or 1]:
            check_values(a, b)


def check_level(level: Level) -> None:
    """Raises EditError for a level with more cells than can be held."""
    layers = sum(isinstance(layer, TileLayer) for layer in level.layers)
    cells = level.bounds[2] * level.bounds[3] * max(layers, 1)
    if cells > MOST_LEVEL_CELLS:
        raise EditError(
            f"{level.name} would have {cells:,} cells on {layers} layers; {MOST_LEVEL_CELLS:,} are the most.",
            "Make it smaller, or split it into several levels.",
        )


def _check_text(text: str) -> None:
    if len(text) > LONGEST:
        raise EditError(f"A text of {len(text)} letters is too long.", f"Use at most {LONGEST}.")
    if not text.isascii():
        try:
            text.encode()
        except UnicodeEncodeError:
            raise EditError(
                "That text holds half a letter, which cannot be written.", "Type it anew."
            ) from None
