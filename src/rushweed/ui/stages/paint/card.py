"""The card of Paint: the layers of the level, the layer in use, the level's size."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.edit import rename
from rushweed.core.document.model import Level, Project
from rushweed.core.level.layers import change_layer, remove_layer
from rushweed.core.level.levels import resize
from rushweed.core.tune.units import fraction_text, snap_step
from rushweed.ui.desk.images import SheetImages
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.controls import IconButton, label
from rushweed.ui.kit.fields import NumbersField, TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.panels.layers import LayerList
from rushweed.ui.session import Session


class LevelCard(QWidget):
    """Layers above, the numbers of the layer and the level below."""

    def __init__(self, look: Look, icons: Icons, session: Session, images: SheetImages) -> None:
        super().__init__()
        self.session = session
        self.layers = LayerList(look, icons, session, images)
        card = self._card = Card(look, "Card")
        self._name, self._level_name = TextField("name"), TextField("name")
        self._opacity = NumbersField(1, "%", 0, 100, look=look)
        self._sides = NumbersField(2, "cells", 1, 8192, look=look)
        self._first = NumbersField(2, "", -8192, 8192, look=look, between=", ")
        self._first.setToolTip("The first column and row: lower them to grow at the left and the top")
        remove = IconButton(look, icons, "trash", "Remove the layer", framed=True, px=15)
        card.field("Layer", self._name)
        card.field("Opacity", self._opacity, remove)
        card.field("Level", self._level_name)
        card.field("Size", self._sides)
        card.field("First", self._first)
        self._facts = label("", "mono")
        card.add(self._facts)
        card.end()
        self._name.edited.connect(self._rename_layer)
        self._level_name.edited.connect(self._rename_level)
        self._opacity.edited.connect(self._fade)
        session.document.follow(self._opacity)
        remove.pressed.connect(self.remove_layer)
        for field in (self._sides, self._first):
            field.edited.connect(lambda _v: session.document.preview(self._resized))
            field.settled.connect(self._resize)
            field.escaped.connect(lambda: session.document.preview(None))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.layers, 1)
        box.addWidget(card)

    def add_rows(self, rows: QWidget) -> None:
        """More rows, above the level's own."""
        self._card.rows.insertWidget(3, rows)

    def refresh(self, level: Level, ppu: float) -> None:
        layer = next((x for x in level.layers if x.id == self.session.selection.layer_id), None)
        self._card.what.setText(f"layer {layer.name}" if layer else "")
        self._name.show_value(layer.name if layer else "")
        self._opacity.show_value(layer.opacity_percent if layer else 100)
        self._level_name.show_value(level.name)
        self._sides.show_value(level.bounds[2:])
        self._first.show_value(level.bounds[:2])
        w, h = level.bounds[2] * level.cell[0], level.bounds[3] * level.cell[1]
        snap = fraction_text(snap_step(ppu))
        self._facts.setText(f"{w} × {h} px  {w / ppu:g} × {h / ppu:g} u  snap {snap} u")

    def _ids(self) -> tuple[str, str]:
        return self.session.selection.level_id, self.session.selection.layer_id

    def _rename_layer(self, text: str) -> None:
        ids = self._ids()
        self.session.document.edit("Rename a layer", lambda p: change_layer(p, *ids, name=text.strip()))

    def _rename_level(self, text: str) -> None:
        level_id = self.session.selection.level_id
        self.session.document.edit("Rename a level", lambda p: rename(p, level_id, text))

    def _fade(self, values: tuple[float, ...]) -> None:
        ids = self._ids()
        self.session.document.edit(
            "Fade a layer", lambda p: change_layer(p, *ids, opacity_percent=values[0]), ("fade", ids)
        )

    def remove_layer(self) -> None:
        ids = self._ids()
        self.session.document.edit("Remove a layer", lambda p: remove_layer(p, *ids))

    def _resized(self, project: Project) -> Project:
        """The level between the first cell and the size in the fields; what was there before counts, so
        that a number half typed takes nothing away."""
        level = next((v for v in project.levels if v.id == self.session.selection.level_id), None)
        if level is None:
            return project
        left, top, columns, rows = level.bounds
        first, sides = self._first.values, self._sides.values
        grow_left, grow_top = left - int(first[0]), top - int(first[1])
        if (grow_left, grow_top) != (0, 0):
            return resize(project, level.id, grow_left, grow_top, 0, 0)
        right, bottom = int(sides[0]) - columns, int(sides[1]) - rows
        return resize(project, level.id, 0, 0, right, bottom) if right or bottom else project

    def _resize(self) -> None:
        self.session.document.edit("Resize the level", self._resized)
