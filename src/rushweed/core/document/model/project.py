"""The project as a whole."""

from __future__ import annotations

from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.base import Frozen
from rushweed.core.document.model.level import KeptStamp, Level
from rushweed.core.document.model.shape import AutoSet, CollisionGroup, Trait
from rushweed.core.document.model.sheet import Recipe, Sheet
from rushweed.core.document.model.shipping import Way

FORMAT = 7  # of the files on disk; raised when an older Rushweed could no longer read them


class LeftAlone(Frozen, frozen=True):
    """A finding that a person leaves as it is, and why; `id` is its key: its rule, the id of the part that it
    is about, and the cell of the level if it names one. It counts again once more than `cells` cells are
    meant."""

    id: str
    why: str
    cells: int = 0


class Project(Frozen, frozen=True, eq=False):
    """All that is kept: an edit makes another, which shares what it did not touch."""

    id: str
    name: str
    sheets: tuple[Sheet, ...] = ()
    levels: tuple[Level, ...] = ()
    animations: tuple[Animation, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    groups: tuple[CollisionGroup, ...] = ()
    traits: tuple[Trait, ...] = ()
    autosets: tuple[AutoSet, ...] = ()
    stamps: tuple[KeptStamp, ...] = ()
    ways: tuple[Way, ...] = ()
    left_alone: tuple[LeftAlone, ...] = ()
