"""Licences: SPDX expressions checked, and whether they ask that the author is named."""

from __future__ import annotations

import re
from functools import cache
from typing import Any

from rushweed.core.document.model.sheet import Sheet
from rushweed.core.pixels.prepare import step_words

FREE = {"CC0-1.0", "Unlicense", "0BSD", "MIT-0", "CC-PDDC", "WTFPL"}  # nobody needs to be named
OWN = re.compile(r"\bLicenseRef-[A-Za-z0-9.-]+")


@cache
def _licensing() -> Any:
    from license_expression import get_spdx_licensing  # late: it reads a list of some hundred licences

    return get_spdx_licensing()


@cache
def licence_fault(expression: str) -> str:
    """What is wrong with an SPDX expression, in words; nothing if it is right. Empty is right too."""
    if not expression.strip():
        return ""
    plain = OWN.sub("MIT", expression)  # a licence of one's own is allowed, and known to no list
    try:
        found = _licensing().validate(plain)
    except (ValueError, AttributeError, TypeError):  # the package stumbles over some half-written ones
        return f"{expression!r} is no SPDX expression"
    for name in found.invalid_symbols:
        known = [s for s in _licensing().known_symbols if _plain(s) == _plain(str(name))]
        meant = f"; {known[0]} is meant perhaps" if known else ""
        return f"{name} is no SPDX licence{meant}"
    return f"{expression!r} is no SPDX expression" if found.errors else ""


def _plain(name: str) -> str:
    return re.sub(r"[^a-z0-9]", "", name.lower())


def asks_for_credit(expression: str) -> bool:
    """Whether a licence asks that its author is named: of alternatives the freest counts."""
    if not expression.strip() or licence_fault(expression):
        return False
    return all(_needs(choice) for choice in re.split(r"\s+OR\s+", expression.strip("() ")))


def _needs(expression: str) -> bool:
    names = [p.strip() for p in re.split(r"\s+(?:AND|WITH)\s+|[()]", expression) if p.strip()]
    return any(name not in FREE for name in names)


def changes_of(sheet: Sheet) -> str:
    """What was changed in a picture: its preparation steps in words, and what the person added."""
    words = [step_words(step) for step in sheet.source.steps if step.on]
    return "; ".join(part for part in (", ".join(words), sheet.credit.changes) if part)


def credit_lines(sheet: Sheet) -> list[str]:
    """The lines for a sheet in CREDITS: what, by whom, under which licence, what was changed."""
    credit = sheet.credit
    what = credit.title or sheet.name
    line = f"{what} by {credit.author}" if credit.author else what
    details = ", ".join(part for part in (credit.licence, credit.link) if part)
    lines = [f"{line} ({details})" if details else f"{line} (licence not stated)"]
    if credit.attribution:
        lines.append(f"  {credit.attribution}")
    changes = changes_of(sheet)
    if changes:
        lines.append(f"  Changes: {changes}")
    return lines
