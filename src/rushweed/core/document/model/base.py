"""What all parts of a project are made of."""

from __future__ import annotations

import msgspec


class Frozen(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """Base of all parts of the document."""


Colour = tuple[int, int, int]
