"""What all parts of a project are made of."""

from __future__ import annotations

import msgspec


class Frozen(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True, gc=False):
    """Base of all parts of the document. They hold only what was there before them, so that no two can hold
    each other, and the collector of garbage need not look at them."""


Colour = tuple[int, int, int]
