"""Recipes: settings with a name that any number of sheets follow; two come with Rushweed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

import numpy as np
from msgspec.structs import replace

from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.errors import EditError
from rushweed.core.document.ids import new_id, unique_name
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Recipe, Tune
from rushweed.core.tune.art import art_of
from rushweed.core.tune.units import check_tune

if TYPE_CHECKING:
    from rushweed.core.pixels.gather import Gathered

CRISP = Recipe("crisp", "Crisp pixel art")
SMOOTH = Recipe("smooth", "Smooth art", filter="linear", mipmaps=True, gutter=4)
OURS = (CRISP, SMOOTH)
FIELDS = ("filter", "mipmaps", "alpha", "codec", "gutter")  # of Tune, that every recipe sets


def recipes_of(project: Project) -> tuple[Recipe, ...]:
    """Ours, as they are or as this project changed them, and then its own."""
    own = {r.id: r for r in project.recipes}
    ours = tuple(own.get(r.id, r) for r in OURS)
    return (*ours, *(r for r in project.recipes if r.id not in {o.id for o in OURS}))


def recipe_of(project: Project, recipe_id: str) -> Recipe | None:
    """The recipe with an id, ours or the project's, or None."""
    return next((r for r in recipes_of(project) if r.id == recipe_id), None)


def tuned(tune: Tune, recipe: Recipe) -> Tune:
    """The settings by a recipe; what it does not set stays."""
    fields: dict[str, Any] = {name: getattr(recipe, name) for name in FIELDS}
    if recipe.ppu is not None:
        fields["ppu"] = recipe.ppu
    return replace(tune, recipe=recipe.id, **fields)


def follows(tune: Tune, recipe: Recipe) -> bool:
    """Whether the settings are what the recipe says."""
    return tuned(tune, recipe) == replace(tune, recipe=recipe.id)


def give(project: Project, sheet_ids: Iterable[str], recipe_id: str) -> Project:
    """Let sheets follow a recipe. Raises EditError if there is none with that id."""
    recipe = recipe_of(project, recipe_id)
    if recipe is None:
        raise EditError("That recipe is gone.", "Choose another.")
    for sheet_id in sheet_ids:
        sheet = sheet_of(project, sheet_id)
        tune = tuned(sheet.tune, recipe)
        if tune != sheet.tune:
            project = put_sheet(project, replace(sheet, tune=tune))
    return project


def save(project: Project, sheet_id: str, name: str = "") -> tuple[Project, Recipe]:
    """Make a recipe of a sheet's settings; the sheet follows it from then on."""
    sheet = sheet_of(project, sheet_id)
    taken = {r.name for r in recipes_of(project)}
    fields: dict[str, Any] = {f: getattr(sheet.tune, f) for f in FIELDS}
    recipe = Recipe(new_id(), unique_name(name.strip() or "Recipe", taken), **fields)
    project = replace(project, recipes=(*project.recipes, recipe))
    return give(project, [sheet_id], recipe.id), recipe


def change(project: Project, recipe_id: str, **fields: Any) -> Project:
    """Change a recipe; every sheet that follows it changes with it. Raises EditError for a name that is
    taken."""
    recipe = recipe_of(project, recipe_id)
    if recipe is None:
        raise EditError("That recipe is gone.", "Choose another.")
    name = str(fields.get("name", recipe.name)).strip()
    if not name or any(r.name == name for r in recipes_of(project) if r.id != recipe_id):
        raise EditError(f"A recipe cannot be called {name!r}.", "Use a name that no other has.")
    check_tune({key: value for key, value in fields.items() if value is not None})
    new = replace(recipe, **{**fields, "name": name})
    if new == recipe:
        return project
    rest = tuple(r for r in project.recipes if r.id != recipe_id)
    at = next((i for i, r in enumerate(project.recipes) if r.id == recipe_id), len(rest))
    project = replace(project, recipes=(*rest[:at], new, *rest[at:]))
    return give(project, [s.id for s in project.sheets if s.tune.recipe == recipe_id], recipe_id)


def remove(project: Project, recipe_id: str) -> Project:
    """Take a recipe away; its sheets keep their settings. One of ours becomes again as it came."""
    for sheet in project.sheets:
        if sheet.tune.recipe == recipe_id and recipe_id not in {r.id for r in OURS}:
            project = put_sheet(project, replace(sheet, tune=replace(sheet.tune, recipe="")))
    project = replace(project, recipes=tuple(r for r in project.recipes if r.id != recipe_id))
    if recipe_id in {r.id for r in OURS}:
        project = give(project, [s.id for s in project.sheets if s.tune.recipe == recipe_id], recipe_id)
    return project


def fitting(rgba: np.ndarray) -> tuple[Recipe, str]:
    """Which of ours fits a picture, and the reason in a few words."""
    art = art_of(rgba)
    return (CRISP if art.pixel else SMOOTH), art.why


def suited(project: Project, got: Gathered) -> Gathered:
    """What was gathered, a new sheet with the recipe that fits its px."""
    if got.sheet is None or got.picture is None:
        return got
    ours, why = fitting(got.picture.rgba)
    recipe = recipe_of(project, ours.id) or ours
    sheet = replace(got.sheet, tune=tuned(got.sheet.tune, recipe))
    told = f"{recipe.name}: {why}"
    return got._replace(sheet=sheet, note=f"{got.note}; {told}" if got.note else told)
