"""What all parts of what a game reads have in common."""

from __future__ import annotations

import inspect
import re
from functools import cache
from typing import Any, get_type_hints

import msgspec
from msgspec.structs import force_setattr

AXES = (
    "px from the top left, x right, y down; orientations 0 to 3 are quarter turns clockwise, "
    "4 to 7 the same after mirroring left and right"
)

Pair = tuple[float, float]
Box = tuple[int, int, int, int]


class Part(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Base of all parts: what has its usual value is left out, and whole numbers are told as such."""

    def __post_init__(self) -> None:
        for name, usual, fractions in _fields_of(type(self)):
            value = getattr(self, name)
            if value == usual:
                if value is not usual:
                    force_setattr(self, name, usual)  # the very same is left out
            elif fractions:
                whole = _whole(value)
                if whole is not value:
                    force_setattr(self, name, whole)


@cache
def _fields_of(part: type) -> list[tuple[str, Any, bool]]:
    """Its fields: their usual values, and whether they hold fractions."""
    hints = get_type_hints(part)
    return [(f.name, f.default, "float" in str(hints[f.name])) for f in msgspec.structs.fields(part)]


def _whole(value: Any) -> Any:
    """Numbers such as 16.0 become 16."""
    if isinstance(value, float):
        return int(value) if value.is_integer() and abs(value) < 2**53 else value
    if isinstance(value, tuple):
        return tuple(map(_whole, value))
    if isinstance(value, list):
        return list(map(_whole, value))
    if isinstance(value, dict):
        return {key: _whole(one) for key, one in value.items()}
    return value


def field_words(part: type) -> dict[str, str]:
    """What the docstring of a part says of each of its fields."""
    text = inspect.cleandoc(part.__doc__ or "").replace("\n  ", " ")
    return dict(re.findall(r"^(\w+): (.+)$", text, re.MULTILINE))
