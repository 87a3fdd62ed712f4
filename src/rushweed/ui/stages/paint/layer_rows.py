"""The numbers of the layer in use; a backdrop has more of them."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QWidget

from rushweed.core.cut.seam import seam
from rushweed.core.document.model.level import BackdropLayer, Layer, Level, TileLayer
from rushweed.core.level.layers import change_layer, remove_layer
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.colour_field import ColourField
from rushweed.ui.kit.controls import Check, IconButton, label
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.icons import Icons
from rushweed.ui.kit.theme import Look
from rushweed.ui.session import Session

LOOKED_AT = 512 * 512  # px of a picture that are asked for a seam
VERBS = {
    "name": "Rename a layer", "opacity_percent": "Fade a layer", "tint": "Tint a layer",
    "solid": "Solid or picture", "front": "Layer and walker",
}  # fmt: skip


class LayerRows(Card):
    """Each field is one edit of the layer."""

    def __init__(self, look: Look, icons: Icons, session: Session) -> None:
        super().__init__(look, "Layer")
        self.session = session
        self._seams: tuple[str, bool, bool] | None = None  # of the picture last looked at: across, down
        self.name = TextField("name")
        self.opacity = NumbersField(1, "%", Numbers(0, 100), look)
        self.tint = ColourField(look)
        self.tint.setToolTip("Colours are multiplied by it")
        self.parallax = NumbersField(2, "", Numbers(-8, 8, False, 0.05, 3), look, between=" × ")
        self.parallax.setToolTip("Across and down: 0 stands still on screen, 1 moves with the level")
        self.offset = NumbersField(2, "px", Numbers(-99_999, 99_999, False), look, between=", ")
        self.solid, self.front = Check(look, icons, "Solid"), Check(look, icons, "In front of the walker")
        self.solid.setToolTip("Its shapes count; without it the layer is only a picture")
        self.repeat, self.repeat_y = Check(look, icons, "Repeats across"), Check(look, icons, "Repeats down")
        self.stretch = Check(look, icons, "As large as the picture")
        self.drift = NumbersField(2, "px/s", Numbers(-9999, 9999, False), look, between=", ")
        self.drift.setToolTip("How it moves by itself, as clouds do")
        self.remove = IconButton(look, icons, "trash", "Remove the layer", framed=True, px=15)
        self.field("Name", self.name)
        self.field("Opacity", self.opacity, self.remove)
        self.field("Tint", self.tint)
        self.field("Parallax", self.parallax)
        self._offset_row = self.field("Offset", self.offset)
        self._solid_row = self.field("", self.solid)
        self.field("", self.front)
        self._backdrop_rows: list[QWidget] = [
            self.field("", self.repeat), self.field("", self.repeat_y), self.field("", self.stretch),
            self.field("Drift", self.drift),
        ]  # fmt: skip
        self._seam = label("", "quiet")
        self._seam.setWordWrap(True)
        self.add(self._seam)
        self._backdrop_rows.append(self._seam)
        self._connect()

    def _seam_words(self, layer: BackdropLayer) -> str:
        """Whether the picture meets itself where it repeats."""
        sheet = next((s for s in self.session.project.sheets if s.id == layer.sheet), None)
        if sheet is None or not (layer.repeat or layer.repeat_y):
            return ""
        if self._seams is None or self._seams[0] != sheet.source.key:
            pixels = self.session.stock.pixels_or_blank(sheet)
            step = max(pixels.shape[0] * pixels.shape[1] // LOOKED_AT, 1)  # of large pictures some lines do
            across, down = seam(pixels[::step], 0), seam(pixels[:, ::step], 1)
            self._seams = (sheet.source.key, across.seamless, down.seamless)
        ways = ((layer.repeat, self._seams[1], "across"), (layer.repeat_y, self._seams[2], "down"))
        torn = [word for repeats, seamless, word in ways if repeats and not seamless]
        return f"A seam shows {' and '.join(torn)}." if torn else "It repeats without a seam."

    def _connect(self) -> None:
        self.name.edited.connect(lambda text: self._change(name=text.strip()))
        self.opacity.edited.connect(lambda v: self._change(opacity_percent=v[0]))
        self.tint.picked.connect(lambda colour: self._change(tint=colour))
        self.parallax.edited.connect(lambda v: self._change(parallax=float(v[0]), parallax_y=float(v[1])))
        self.offset.edited.connect(self._move)
        self.drift.edited.connect(lambda v: self._change(drift=(float(v[0]), float(v[1]))))
        for field in (self.opacity, self.parallax, self.offset, self.drift):
            self.session.document.follow(field)
        for name in ("solid", "front", "repeat", "repeat_y", "stretch"):
            getattr(self, name).edited.connect(lambda on, name=name: self._change(**{name: on}))
        self.remove.pressed.connect(self.remove_layer)

    def refresh(self, level: Level) -> None:
        layer = next((x for x in level.layers if x.id == self.session.selection.layer_id), None)
        self.setEnabled(layer is not None)
        if layer is None:
            return
        self.what.setText(kind_of(layer))
        self.name.show_value(layer.name)
        self.opacity.show_value(layer.opacity_percent)
        self.tint.show_colour(layer.tint)
        self.parallax.show_value(layer.keeps_up)
        top = layer.top if isinstance(layer, BackdropLayer) else 0
        self.offset.show_value((layer.offset[0], layer.offset[1] + top))
        self.front.show_value(layer.front)
        self._solid_row.setVisible(isinstance(layer, TileLayer))
        if isinstance(layer, TileLayer):
            self.solid.show_value(layer.solid)
        for row in self._backdrop_rows:
            row.setVisible(isinstance(layer, BackdropLayer))
        if isinstance(layer, BackdropLayer):
            self.repeat.show_value(layer.repeat)
            self.repeat_y.show_value(layer.repeat_y)
            self.stretch.show_value(layer.stretch)
            self.drift.show_value(layer.drift)
            self._seam.setText(self._seam_words(layer))

    def _move(self, values: tuple[float, ...]) -> None:
        layer = self._layer()
        if isinstance(layer, BackdropLayer):
            self._change(offset=(float(values[0]), 0.0), top=float(values[1]))
        else:
            self._change(offset=(float(values[0]), float(values[1])))

    def _layer(self) -> Layer | None:
        level = self.session.selection.level
        found = level.layers if level is not None else ()
        return next((x for x in found if x.id == self.session.selection.layer_id), None)

    def _change(self, **fields: Any) -> None:
        ids = (self.session.selection.level_id, self.session.selection.layer_id)
        first = next(iter(fields))
        self.session.document.edit(
            VERBS.get(first, "Set a layer"), lambda p: change_layer(p, *ids, **fields), (first, ids)
        )

    def remove_layer(self) -> None:
        ids = (self.session.selection.level_id, self.session.selection.layer_id)
        self.session.document.edit("Remove a layer", lambda p: remove_layer(p, *ids))


def kind_of(layer: Layer) -> str:
    """What a layer is, in a word."""
    return str(layer.__struct_config__.tag)
