"""JSON that people can compare: a line for each part that is short."""

from __future__ import annotations

from types import NoneType
from typing import Any

import msgspec

WIDEST = 400  # letters of a line that holds more than one thing


def json_text(value: Any) -> bytes:
    """JSON with each part on a line of its own where it is short: a frame, a row of tiles, a line of an
    outline."""
    return _text(value, "").encode() + b"\n"


def _text(value: Any, indent: str) -> str:
    flat = msgspec.json.encode(value).decode()
    if (
        len(flat) <= WIDEST - len(indent)
        or not isinstance(value, (dict, list, msgspec.Struct))
        or _is_row(value)
    ):
        return flat
    inner = indent + " "
    if isinstance(value, list):
        return "[\n" + ",\n".join(inner + _text(item, inner) for item in value) + f"\n{indent}]"
    fields = value if isinstance(value, dict) else _told(value)
    items = [f"{msgspec.json.encode(k).decode()}: {_text(v, inner)}" for k, v in fields.items()]
    return "{\n" + ",\n".join(inner + item for item in items) + f"\n{indent}}}"


def _told(part: msgspec.Struct) -> dict[str, Any]:
    """The fields of a part that are not left out."""
    fields = ((f.name, getattr(part, f.name), f.default) for f in msgspec.structs.fields(part))
    return {name: told for name, told, usual in fields if told is not usual and told not in ([], {})}


def _is_row(value: Any) -> bool:
    """Whether it is a list of numbers or words, or of short lists of such: these stay on one line."""
    return isinstance(value, list) and all(
        isinstance(x, (int, float, str, NoneType))
        or (isinstance(x, (list, tuple)) and len(x) <= 4 and not any(isinstance(y, (list, tuple)) for y in x))
        for x in value
    )
