"""Short ids that never change, and names that are never the same twice."""

from __future__ import annotations

import re
import secrets
from collections.abc import Iterable, Set

LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"  # none that are mistaken for another


def new_id(length: int = 8) -> str:
    """Random lower-case letters and digits, from the system's own source."""
    number, letters = secrets.randbelow(len(LETTERS) ** length), ""
    for _ in range(length):
        number, digit = divmod(number, len(LETTERS))
        letters += LETTERS[digit]
    return letters


def unique_name(wanted: str, taken: Iterable[str]) -> str:
    """`wanted`, or `wanted_2`, `wanted_3` and so on, whichever `taken` lacks."""
    used = taken if isinstance(taken, Set) else set(taken)
    if wanted not in used:
        return wanted
    stem = re.sub(r"_\d+$", "", wanted)
    number = 2
    while f"{stem}_{number}" in used:
        number += 1
    return f"{stem}_{number}"


def unique_names(wanted: Iterable[str], taken: Iterable[str] = ()) -> tuple[str, ...]:
    """Names in order, each made unique against those before it and those that are taken."""
    used = set(taken)
    counts: dict[str, int] = {}
    result = []
    for name in wanted:
        free = name
        if free in used:
            stem = re.sub(r"_\d+$", "", name)
            number = counts.get(stem, 1) + 1
            while f"{stem}_{number}" in used:
                number += 1
            counts[stem] = number
            free = f"{stem}_{number}"
        used.add(free)
        result.append(free)
    return tuple(result)


def natural_key(text: str) -> tuple[tuple[int, int, str], ...]:
    """Sorts 2 before 10: digits by value, the rest without regard to case."""
    return tuple(
        (0, int(part), "") if part.isascii() and part.isdigit() else (1, 0, part.casefold())
        for part in re.split(r"([0-9]+)", text)
        if part
    )
