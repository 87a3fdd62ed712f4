"""What is set for the sheets that are selected, by fields, buttons and recipes."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell
from rushweed.core.tune import recipe as recipes
from rushweed.core.tune.edit import tune_sheets
from rushweed.ui.kit.text import many
from rushweed.ui.session import Session


class Tuning(QObject):
    """One edit for all sheets that are selected."""

    kept = pyqtSignal(str)  # the recipe that was made

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    def subject(self) -> list[Cell]:
        """The selected cells, or all of every selected sheet when none is."""
        return self.session.selection.cells or [c for s in self.session.selection.sheets for c in s.cells]

    def tune(self, words: str, **fields: Any) -> None:
        ids = list(self.session.selection.sheet_ids)
        typed = {"ppu", "gutter", "limit"} & set(fields)
        self.session.document.edit(
            f"{words} of {many(len(ids), 'sheet')}",
            lambda p: tune_sheets(p, ids, **fields),
            (tuple(fields), tuple(ids)) if typed else None,
        )

    def one_unit(self) -> None:
        cells = self.subject()
        if cells:
            self.tune("One cell is one unit:", ppu=float(cells[0].rect[3]))
            self.session.document.seal()

    def give_recipe(self, recipe_id: str) -> None:
        ids = list(self.session.selection.sheet_ids)
        one = recipes.recipe_of(self.session.project, recipe_id)
        name = one.name if one else "recipe"
        self.session.document.edit(
            f"{name} for {many(len(ids), 'sheet')}", lambda p: recipes.give(p, ids, recipe_id)
        )

    def save_recipe(self) -> None:
        """Keep the settings of the sheet as a recipe, and show it to be named."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        made: list[str] = []

        def change(project: Project) -> Project:
            project, one = recipes.save(project, sheet.id)
            made.append(one.id)
            return recipes.give(project, self.session.selection.sheet_ids, one.id)

        self.session.document.edit(f"Recipe from {sheet.name}", change)
        if made:
            self.kept.emit(made[-1])
