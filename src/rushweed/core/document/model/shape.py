"""Shapes of cells, what they stand for, and tiles that choose themselves."""

from __future__ import annotations

from typing import Literal

from rushweed.core.document.model.base import Frozen

Role = Literal["solid", "one-way", "sensor"]
Side = Literal["top", "right", "bottom", "left"]

FRICTION = 0.8  # of a shape of which nothing else was said


class Box(Frozen, frozen=True, tag_field="form", tag="box"):
    """An upright rectangle in cell px. Of every form: `friction` and `bounce` are shares, 0 to 1 and more;
    `group` is the id of what it belongs to when it is asked what touches what."""

    x: float
    y: float
    w: float
    h: float
    role: Role = "solid"
    blocks_from: Side = "top"
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


class Polygon(Frozen, frozen=True, tag_field="form", tag="polygon"):
    """A closed ring of points in cell px, clockwise on screen."""

    points: tuple[tuple[float, float], ...]
    role: Role = "solid"
    blocks_from: Side = "top"
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


class Circle(Frozen, frozen=True, tag_field="form", tag="circle"):
    """A circle about a point, cell px."""

    x: float
    y: float
    radius: float
    role: Role = "solid"
    blocks_from: Side = "top"
    friction: float = FRICTION
    bounce: float = 0
    group: str = ""


Shape = Box | Polygon | Circle


class CollisionGroup(Frozen, frozen=True):
    """Shapes of one kind, such as ground or people; it goes through those of the groups it `ignores`, and
    they through it."""

    id: str
    name: str
    ignores: tuple[str, ...] = ()


class Trait(Frozen, frozen=True):
    """A fact of a tile that the game reads: yes or no, a number, one of some `choices`, or some of the four
    sides."""

    id: str
    name: str
    kind: Literal["yes-no", "number", "choice", "sides"] = "yes-no"
    choices: tuple[str, ...] = ()


class Told(Frozen, frozen=True):
    """What a tile says of one trait: true, a number, a choice, or sides such as "top left"."""

    trait: str
    value: bool | float | str = True


class AutoPart(Frozen, frozen=True):
    """One tile of a set and the case it is for: `joins` has a bit for each of the eight neighbours, clockwise
    from above (1) to above left (128). Of several tiles for one case a heavier one comes more often."""

    cell: str
    joins: int
    weight: float = 1


class AutoSet(Frozen, frozen=True):
    """Tiles that choose themselves by what joins them, over edges, corners or both."""

    id: str
    name: str
    by: Literal["edges", "corners", "both"] = "edges"
    tiles: tuple[AutoPart, ...] = ()
