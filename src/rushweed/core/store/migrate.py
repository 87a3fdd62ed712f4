"""Projects of older formats: what their files say is brought to the present format as they are read.

Format 1 lacks `aside` of sheets, and up to format 6 some fields had other names; nothing else has another
meaning now. The files on disk stay as they are until the project is saved; then they are first copied to
.rushweed/before-format-N.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import msgspec

from rushweed.core.document.errors import StoreError, file_reason
from rushweed.core.document.model.project import FORMAT

OLDEST, RENAMED_IN = 1, 7
# Of each field that had another name: that name, the present one, and what only its owner has besides.
RENAMED = (
    ("like", "copy_of", "rect"),  # a cell
    ("stops", "blocks_from", "role"),  # a shape as it was shipped, or
    ("stops", "blocks_from", "form"),  # as it stands in a project
    ("misses", "ignores", "name"),  # a group
    ("over", "layer", "shows"),  # a thing
)
OLD_KEYS = tuple({f'"{old}":'.encode() for old, _new, _owner in RENAMED})


def check_format(number: int, place: str) -> None:
    """Raises StoreError for a format that this Rushweed cannot read."""
    if number > FORMAT:
        raise StoreError(
            f"{place} is of format {number}; this Rushweed reads up to {FORMAT}.",
            "Open the project with a newer Rushweed; nothing was changed.",
        )
    if number < OLDEST:
        raise StoreError(
            f"{place} is of format {number}, which no Rushweed has written.",
            "Put the file back from your backup or version control.",
        )


def has_old_names(data: bytes) -> bool:
    """Whether the JSON of a file may hold fields by the names they once had."""
    return any(key in data for key in OLD_KEYS)


def present_names(data: bytes) -> bytes:
    """JSON with its fields by their present names; what is not JSON, or nested too deeply, stays as it is."""
    if not has_old_names(data):
        return data
    try:
        return msgspec.json.encode(_renamed(msgspec.json.decode(data)))
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return data


def _renamed(value: Any) -> Any:
    if isinstance(value, list):
        return [_renamed(one) for one in value]
    if not isinstance(value, dict):
        return value
    names = {old: new for old, new, owner in RENAMED if old in value and owner in value}
    return {names.get(key, key): _renamed(one) for key, one in value.items()}


def back_up(root: Path, work: Path, paths: Iterable[str], number: int) -> None:
    """Copy the files of a project of an older format before they are written anew. Raises StoreError."""
    target, half = work / f"before-format-{FORMAT}", work / f"before-format-{FORMAT}.half"
    if target.exists() or number >= FORMAT:
        return
    try:
        shutil.rmtree(half, ignore_errors=True)
        for path in paths:
            (half / path).parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(root / path, half / path)
        os.replace(half, target)
    except OSError as error:
        raise StoreError(
            f"{root.name} is of format {number} and could not be copied before it is written anew: "
            f"{file_reason(error)}.",
            "Make room or allow writing, then save again.",
        ) from error
