"""Recipes in Tune: the line of chips that gives them, and the Card where they are changed."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLayout, QVBoxLayout, QWidget

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Codec, Recipe, Sheet
from rushweed.core.tune import recipe as recipes
from rushweed.core.tune.art import Art, art_of
from rushweed.core.tune.codec.compress import CODECS, WORDS
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, Chip, IconButton, Rule, button, emptied, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.text import many
from rushweed.ui.stages.tune.tuning import Tuning

MOST_CHIPS = 3


class RecipeLine(QWidget):
    """The fitting recipe first, with its reason; the one in use is checked."""

    def __init__(self, context: Context, tuning: Tuning) -> None:
        super().__init__()
        self.session, self.look, self.tuning = context.session, context.look, tuning
        self.chips = QHBoxLayout(self)
        self.chips.setContentsMargins(8, 0, 8, 8)
        self.chips.setSpacing(8)
        self.chips.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)
        self._key: object = None

    def refresh(self) -> None:
        sheet, sheets = self.session.selection.sheet, self.session.selection.sheets
        known = recipes.recipes_of(self.session.project)
        art = self.session.stock.known_fact("art", sheet) if sheet else None
        key = (sheet.source.key if sheet else "", tuple(s.tune.recipe for s in sheets), known, art)
        if key == self._key:
            return
        self._key = key
        emptied(self.chips)
        self.chips.addWidget(label("Recipe", "quiet"))
        if sheet is None:
            return
        if not isinstance(art, Art):
            self._look_at(sheet)
            return
        fit = recipes.CRISP.id if art.pixel else recipes.SMOOTH.id
        used = {s.tune.recipe for s in sheets}
        chosen = next(iter(used)) if len(used) == 1 else None
        ordered = sorted(known, key=lambda r: (r.id != fit, r.id != chosen))
        for one in ordered[:MOST_CHIPS]:
            why = art.why if one.id == fit else ""
            chip = Chip(self.look, one.name, why, one.id == chosen, words_of(one))
            chip.pressed.connect(partial(self.tuning.give_recipe, one.id))
            self.chips.addWidget(chip)
        if len(ordered) > MOST_CHIPS:
            rest = [r.name for r in ordered[MOST_CHIPS:]]
            more = PickBox(self.look, [f"{len(rest)} more", *rest])
            ids = {r.name: r.id for r in ordered}
            more.picked.connect(lambda name: self.tuning.give_recipe(ids[name]) if name in ids else None)
            self.chips.addWidget(more)
        if chosen == "" or len(used) > 1:
            self.chips.addWidget(label("mixed" if len(used) > 1 else "set by hand", "quiet"))
        if chosen == "":
            keep = button("Keep as a recipe")
            keep.clicked.connect(self.tuning.save_recipe)
            self.chips.addWidget(keep)
        self.chips.addStretch(1)

    def _look_at(self, sheet: Sheet) -> None:
        """Find out what art it is beside the window, then show the chips."""
        stock = self.session.stock
        self.session.jobs.start(
            "Looking at the art", lambda _job: stock.fact("art", sheet, art_of), lambda _art: self.refresh()
        )


def words_of(recipe: Recipe) -> str:
    """What a recipe sets, in one line."""
    parts = [recipe.filter, "mipmaps" if recipe.mipmaps else "no mipmaps"]
    parts.append(f"gutter {recipe.gutter} px" if recipe.gutter else "no gutter")
    parts.append("no compression" if recipe.codec == "none" else WORDS[recipe.codec])
    if recipe.ppu is not None:
        parts.append(f"{recipe.ppu:g} px a unit")
    return ", ".join(parts)


class RecipeCard(Card):
    """Every recipe with what it sets; sheets that follow one change with it."""

    def __init__(self, context: Context, tuning: Tuning) -> None:
        super().__init__(context.look, "Recipes")
        self.session, self.icons, self.tuning = context.session, context.icons, tuning
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        holder = QWidget()
        holder.setLayout(self._rows)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self.add(holder)
        self.keep = button("Keep this sheet's settings as a recipe")
        self.keep.clicked.connect(tuning.save_recipe)
        self.add(self.keep)
        self.end()
        self._key: object = None
        self.open = ""  # id of the recipe whose settings are shown

    def refresh(self) -> None:
        project, sheet = self.session.project, self.session.selection.sheet
        known = recipes.recipes_of(project)
        followers = {r.id: sum(s.tune.recipe == r.id for s in project.sheets) for r in known}
        self.keep.setEnabled(sheet is not None)
        self.what.setText(f"{len(known)}")
        if not any(r.id == self.open for r in known):
            self.open = sheet.tune.recipe if sheet and sheet.tune.recipe else known[0].id
        key = (known, tuple(followers.items()), self.open)
        if key == self._key:
            return
        self._key = key
        emptied(self._rows)
        for one in known:
            self._rows.addWidget(self._head(one, followers[one.id]))
            if one.id == self.open:
                self._rows.addWidget(self._settings(one))
            self._rows.addWidget(Rule(self.look))

    def _head(self, one: Recipe, followers: int) -> QWidget:
        name = TextField("name")
        name.show_value(one.name)
        name.edited.connect(lambda text: self._change(one.id, "Name of a recipe", name=text))
        used = label(many(followers, "sheet"), "quiet")
        fold = IconButton(self.look, self.icons, "caret-down" if one.id == self.open else "caret-right",
                          "Its settings")  # fmt: skip
        fold.pressed.connect(partial(self._fold, one.id))
        changed = one not in recipes.OURS
        ours = one.id in {r.id for r in recipes.OURS}
        glyph = "arrow-counter-clockwise" if ours else "trash"
        tip = "As it came with Rushweed" if ours else "Take it away; its sheets stay as they are"
        away = IconButton(self.look, self.icons, glyph, tip)
        away.pressed.connect(partial(self._remove, one))
        away.setEnabled(changed)
        away.setVisible(changed)
        holder = QWidget()
        holder.setLayout(row(fold, name, used, away, spacing=4))
        return holder

    def _settings(self, one: Recipe) -> QWidget:
        holder = QWidget()
        lines = QVBoxLayout(holder)
        lines.setContentsMargins(28, 0, 0, 4)
        lines.setSpacing(4)
        filter = ChoiceRow(self.look, [("nearest", "Nearest"), ("linear", "Linear")])
        filter.show_value(one.filter)
        filter.edited.connect(lambda v: self._change(one.id, "Filter of a recipe", filter=v))
        mipmaps = Check(self.look, self.icons, "Mipmaps")
        mipmaps.show_value(one.mipmaps)
        mipmaps.edited.connect(lambda on: self._change(one.id, "Mipmaps of a recipe", mipmaps=on))
        codec = PickBox(self.look, [WORDS[c] for c in CODECS])
        codec.setCurrentText(WORDS[one.codec])
        by_words: dict[str, Codec] = {WORDS[c]: c for c in CODECS}
        codec.picked.connect(
            lambda text: self._change(one.id, "Compression of a recipe", codec=by_words[text])
        )
        gutter = NumbersField(1, "px", Numbers(0, 32), self.look)
        gutter.show_value(one.gutter)
        gutter.settled.connect(
            lambda: self._change(one.id, "Gutter of a recipe", gutter=int(gutter.values[0]))
        )
        ppu = NumbersField(1, "px", Numbers(0, 4096, False), self.look)
        ppu.setToolTip("0 leaves each sheet its own")
        ppu.show_value(one.ppu or 0)
        ppu.settled.connect(
            lambda: self._change(one.id, "Pixels per unit of a recipe", ppu=ppu.values[0] or None)
        )
        lines.addLayout(row(filter, mipmaps, None))
        for words, field in (("Compressed", codec), ("Gutter", gutter), ("1 u =", ppu)):
            name = label(words, "quiet")
            name.setFixedWidth(76)
            field.setFixedWidth(96)
            lines.addLayout(row(name, field, None))
        return holder

    def _fold(self, recipe_id: str) -> None:
        self.open = recipe_id
        self.refresh()

    def _change(self, recipe_id: str, words: str, **fields: object) -> None:
        def change(project: Project) -> Project:
            return recipes.change(project, recipe_id, **fields)

        self.session.document.edit(words, change)

    def _remove(self, one: Recipe) -> None:
        self.session.document.edit(f"Remove the recipe {one.name}", lambda p: recipes.remove(p, one.id))
