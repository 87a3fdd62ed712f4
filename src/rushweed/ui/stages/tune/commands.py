"""The commands of Tune, one row each."""

from __future__ import annotations

from functools import partial

from rushweed.core.tune import recipe as recipes
from rushweed.core.tune.edit import PLACES
from rushweed.ui.commands.command import Command, Rows
from rushweed.ui.stages.tune.stage import TuneStage


def commands(stage: TuneStage) -> list[Command]:
    def cut() -> str:
        return "" if stage.tuning.subject() else "The sheet has no cells yet."

    def chosen() -> str:
        return "" if stage.session.selection.cell else "No cell is selected."

    def sheet() -> str:
        return "" if stage.session.selection.sheet else "There is no sheet."

    def nine() -> str:
        return "" if stage.nine.cells() else "Select the cells that are to be stretched."

    row = Rows("Tune", ("tune",)).row
    return [
        row("one", "One cell = one unit", (), "Set pixels per unit to the height of a cell.",
            stage.tuning.one_unit, cut),
        row("all", "Give all cells this pivot", (), "As a share of each cell's size.",
            stage.units.give_all, chosen),
        row("feet", "Pivots from the feet", (), "Under the lowest ink of each cell.",
            stage.units.from_feet, cut),
        row("nine", "Nine-slice from the pixels", (), "Where most rows and columns are alike.",
            stage.nine.from_pixels, nine),
        row("pad", "Pad the texture as it needs", (), "To multiples of 4 or powers of two.",
            stage.texture.pad_to_fit, sheet),
        row("recipe", "Keep these settings as a recipe", (), "Sheets can follow it.",
            stage.tuning.save_recipe, sheet),
        *(
            row(f"recipe.{one.id}", f"Recipe: {one.name}", (), "For the selected sheets.",
                partial(stage.tuning.give_recipe, one.id), sheet)
            for one in recipes.OURS
        ),
        *(
            row(f"pivot.{name.replace(' ', '_')}", f"Pivot at the {name}", (key,),
                "For the selected cells, or all.", partial(stage.units.place, name), cut)
            for name, key in zip(PLACES, ("7", "8", "9", "4", "5", "6", "1", "2", "3"), strict=True)
        ),
    ]  # fmt: skip
