"""Traits: facts of tiles that the game reads; four come with Rushweed, the person defines the rest."""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import Any

from msgspec.structs import replace

from rushweed.core.document.edit import change_cells
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Told, Trait
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.edit import change_shapes

Value = bool | float | str

SURFACE = Trait("surface", "surface", "choice", ("wood", "grass", "mud", "water", "stone"))
OVER = Trait("over", "draw over", "number")
ENTRY = Trait("entry", "entry sides", "sides")
CLIMB = Trait("climb", "climb")
READY = (SURFACE, OVER, ENTRY, CLIMB)
SIDES = ("top", "right", "bottom", "left")


def traits_of(project: Project) -> tuple[Trait, ...]:
    """The four ready ones, as they are or as this project changed them, then its own."""
    own = {t.id: t for t in project.traits}
    ready = {t.id for t in READY}
    return (*(own.get(t.id, t) for t in READY), *(t for t in project.traits if t.id not in ready))


def trait_of(project: Project, trait_id: str) -> Trait:
    """Raises EditError if there is none with that id."""
    found = next((t for t in traits_of(project) if t.id == trait_id), None)
    if found is None:
        raise EditError("That trait is gone.", "Choose another.")
    return found


def add_trait(project: Project, name: str, kind: str, choices: tuple[str, ...] = ()) -> tuple[Project, Trait]:
    """A trait of the person's own. Raises EditError for a kind that there is not."""
    _check_kind(kind)
    name = unique_name(name.strip() or "trait", {t.name for t in traits_of(project)})
    trait = Trait(new_id(), name, kind, choices if kind == "choice" else ())  # type: ignore[arg-type]
    return replace(project, traits=(*project.traits, trait)), trait


KINDS = ("yes-no", "number", "choice", "sides")


def _check_kind(kind: str) -> None:
    if kind not in KINDS:
        raise EditError(f"There is no trait of the kind {kind!r}.", f"Use {', '.join(KINDS)}.")


def change_trait(project: Project, trait_id: str, **fields: Any) -> Project:
    """Rename a trait or change its choices. Raises EditError for a name that is taken."""
    trait = trait_of(project, trait_id)
    new = replace(trait, **fields)
    _check_kind(new.kind)
    taken = {t.name for t in traits_of(project) if t.id != trait_id}
    if not new.name.strip() or new.name in taken:
        raise EditError(f"A trait cannot be called {new.name!r}.", "Use a name that no other has.")
    if new == trait:
        return project
    rest = [t for t in project.traits if t.id != trait_id]
    at = next((i for i, t in enumerate(project.traits) if t.id == trait_id), len(rest))
    return replace(project, traits=(*rest[:at], new, *rest[at:]))


def remove_trait(project: Project, trait_id: str) -> Project:
    """Take a trait away, and from every tile what it says of it; a ready one becomes as it came."""
    project = replace(project, traits=tuple(t for t in project.traits if t.id != trait_id))
    if trait_id in {t.id for t in READY}:
        return project
    told = [c.id for s in project.sheets for c in s.cells if any(x.trait == trait_id for x in c.traits)]
    return change_cells(project, told, lambda c: _with(c, trait_id, None))


def value_of(cell: Cell, trait_id: str) -> Value | None:
    """What a tile says of a trait, or None if nothing."""
    return next((x.value for x in cell.traits if x.trait == trait_id), None)


def tell(project: Project, cell_ids: Collection[str], trait_id: str, value: Value | None) -> Project:
    """Let tiles say something of a trait; None takes it back. Cells of recoloured copies that said the same
    as their originals follow. Raises EditError if the trait does not take that value."""
    trait = trait_of(project, trait_id)
    if value is not None:
        value = checked(trait, value)
    return change_shapes(project, cell_ids, lambda c: _with(c, trait_id, value), "traits")


def checked(trait: Trait, value: Value) -> Value:
    """The value as it is kept. Raises EditError."""
    if trait.kind == "yes-no" and isinstance(value, bool):
        return value
    if trait.kind == "number" and isinstance(value, (int, float)) and not isinstance(value, bool):
        if math.isfinite(value) and abs(value) <= 1e9:
            return float(value)
    if trait.kind == "choice" and value in trait.choices:
        return value
    if trait.kind == "sides" and isinstance(value, str):
        named = value.split()
        if named and all(side in SIDES for side in named):
            return " ".join(side for side in SIDES if side in named)
    raise EditError(f"{trait.name} cannot be {value!r}.", f"It takes {wants(trait)}.")


def wants(trait: Trait) -> str:
    """What a trait takes, in words."""
    return {
        "yes-no": "yes or no",
        "number": "a number",
        "choice": ", ".join(trait.choices) or "one of its choices",
        "sides": "some of top, right, bottom, left",
    }[trait.kind]


def _with(cell: Cell, trait_id: str, value: Value | None) -> Cell:
    rest = tuple(x for x in cell.traits if x.trait != trait_id)
    made = rest if value is None else tuple(sorted((*rest, Told(trait_id, value)), key=lambda x: x.trait))
    return cell if made == cell.traits else replace(cell, traits=made)


def short_value(trait: Trait, value: Value) -> str:
    """A few letters for a tag on the tile."""
    if trait.kind == "yes-no":
        return trait.name if value else f"not {trait.name}"
    if trait.kind == "number":
        return f"{trait.name} {value:g}" if trait.id != OVER.id else f"over {value:g}"
    return str(value)
