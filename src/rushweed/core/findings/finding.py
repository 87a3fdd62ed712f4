"""What a finding is."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, NamedTuple

from rushweed.core.document.model.project import Project

Weight = Literal["fault", "hint"]


class Place(NamedTuple):
    """Where to look: the stage by its key, the sheet, level or animation by id, cells by id, a level cell."""

    stage: str
    sheet: str | None = None
    level: str | None = None
    cells: tuple[str, ...] = ()
    spot: tuple[int, int] | None = None
    animation: str | None = None


class Fix(NamedTuple):
    """A cure: what its button says and the edit it makes."""

    label: str
    edit: Callable[[Project], Project]


class Finding(NamedTuple):
    """What a rule found wrong: where, how grave, in a sentence, with its cure where one is ready."""

    rule: str
    weight: Weight
    text: str
    place: Place
    fix: Fix | None = None

    @property
    def key(self) -> str:
        """What it is about, the same from one check to the next: rule, id of the part, cell of the level."""
        place = self.place
        parts = [self.rule, place.animation or place.level or place.sheet or ""]
        if place.spot is not None:
            parts.append(f"{place.spot[0]},{place.spot[1]}")
        return " ".join(part for part in parts if part)
