"""JSON Schemas of what a game reads, made from its parts and the docstrings of those."""

from __future__ import annotations

import inspect
from typing import Any

import msgspec

from rushweed.core.ship.level_file import LevelFile
from rushweed.core.ship.manifest import Manifest
from rushweed.core.ship.part import Part, field_words

DRAFT = "https://json-schema.org/draft/2020-12/schema"


def schemas() -> dict[str, Any]:
    """JSON Schemas (2020-12) of the two files, by file name."""
    parts = {p.__name__: p for p in Part.__subclasses__()}
    made = {}
    for name, part in (("manifest.schema.json", Manifest), ("level.schema.json", LevelFile)):
        schema = {"$schema": DRAFT, "title": name.removesuffix(".schema.json"), **msgspec.json.schema(part)}
        for part_name, definition in schema["$defs"].items():
            definition["description"] = inspect.cleandoc(parts[part_name].__doc__ or "").splitlines()[0]
            words = field_words(parts[part_name])
            for field, told in definition["properties"].items():
                told["description"] = words[field]
        made[name] = schema
    return made
