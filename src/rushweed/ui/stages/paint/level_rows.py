"""The level: its name, size, how it is looked at, and what is drawn over what."""

from __future__ import annotations

from rushweed.core.document.edit import rename
from rushweed.core.document.model.level import Level
from rushweed.core.document.model.project import Project
from rushweed.core.level.levels import change_level, resize
from rushweed.core.tune.units import fraction_text, snap_step
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import label
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.text import unbroken
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session


class LevelRows(Card):
    """Each field is one edit of the level."""

    def __init__(self, look: Look, session: Session) -> None:
        super().__init__(look, "Level")
        self.session = session
        self.name, self.group = TextField("name"), TextField("none")
        self.group.setToolTip("Levels of one group are listed together on the Shelf")
        self.view = ChoiceRow(look, [("side", "Side"), ("top", "Top"), ("free", "Free")])
        self.view.setToolTip("From the side things fall down, from the top they go any way")
        self.order = ChoiceRow(look, [("layer", "By layer"), ("foot", "By foot")])
        self.order.setToolTip("By foot: who stands lower is drawn over who stands higher")
        self.sides = NumbersField(2, "cells", Numbers(1, 8192), look)
        self.first = NumbersField(2, "", Numbers(-8192, 8192), look, between=", ")
        self.first.setToolTip("The first column and row: lower them to grow at the left and the top")
        self.field("Name", self.name)
        self.field("Group", self.group)
        self.field("Seen from", self.view)
        self.field("Drawn", self.order)
        self.field("Size", self.sides)
        self.field("First", self.first)
        self._facts = label("", "mono")
        self._facts.setWordWrap(True)
        self.add(self._facts)
        self.name.edited.connect(self._rename)
        self.group.edited.connect(lambda text: self._set("Group a level", group=text.strip()))
        self.view.edited.connect(lambda value: self._set("View of a level", view=value))
        self.order.edited.connect(lambda value: self._set("Order of a level", order=value))
        for field in (self.sides, self.first):
            field.edited.connect(lambda _v: session.document.preview(self._resized))
            field.settled.connect(self._resize)
            field.escaped.connect(lambda: session.document.preview(None))

    def refresh(self, level: Level, ppu: float) -> None:
        self.name.show_value(level.name)
        self.group.show_value(level.group)
        self.view.show_value(level.view)
        self.order.show_value(level.order)
        self.sides.show_value(level.bounds[2:])
        self.first.show_value(level.bounds[:2])
        w, h = level.bounds[2] * level.cell[0], level.bounds[3] * level.cell[1]
        snap = fraction_text(snap_step(ppu))
        facts = f"{w} × {h} px", f"{w / ppu:g} × {h / ppu:g} u", f"snap {snap} u"
        self._facts.setText(unbroken(*facts))

    def _rename(self, text: str) -> None:
        level_id = self.session.selection.level_id
        self.session.document.edit("Rename a level", lambda p: rename(p, level_id, text))

    def _set(self, label: str, **fields: object) -> None:
        level_id = self.session.selection.level_id
        self.session.document.edit(label, lambda p: change_level(p, level_id, **fields))

    def _resized(self, project: Project) -> Project:
        """The level between the first cell and the size in the fields; what was there before counts, so
        that a number half typed takes nothing away."""
        level = next((v for v in project.levels if v.id == self.session.selection.level_id), None)
        if level is None:
            return project
        left, top, columns, rows = level.bounds
        first, sides = self.first.values, self.sides.values
        grow_left, grow_top = left - int(first[0]), top - int(first[1])
        if (grow_left, grow_top) != (0, 0):
            return resize(project, level.id, grow_left, grow_top, 0, 0)
        right, bottom = int(sides[0]) - columns, int(sides[1]) - rows
        return resize(project, level.id, 0, 0, right, bottom) if right or bottom else project

    def _resize(self) -> None:
        self.session.document.edit("Resize the level", self._resized)
