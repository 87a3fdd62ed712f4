"""What placed things are: how they stand, turn and look, and what their bodies do. For many at once."""

from __future__ import annotations

from functools import partial
from operator import attrgetter
from typing import Any

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.level import Level, Thing
from rushweed.core.level import many_things
from rushweed.core.level.scene import standing_lines
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.colour_field import ColourField
from rushweed.ui.kit.controls import Check, IconButton, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import many
from rushweed.ui.stages.paint.tools.scatter import ScatterThings
from rushweed.ui.stages.paint.tools.things import Things

ALIGN = (
    ("align-left", "left", "Left edges on one line"),
    ("align-center-horizontal", "centre", "Middles on one upright line"),
    ("align-right", "right", "Right edges on one line"),
    ("align-top", "top", "Upper edges on one line"),
    ("align-center-vertical", "middle", "Middles on one level line"),
    ("align-bottom", "bottom", "Lower edges on one line"),
)  # fmt: skip


class ThingRows(Card):
    """Shown on the card of Paint while things are at hand."""

    def __init__(self, context: Context, things: Things, scattering: ScatterThings) -> None:
        super().__init__(context.look, "Things")
        self.session, self.icons, look = context.session, context.icons, context.look
        self.things, self.scattering = things, scattering
        self.snap = ChoiceRow(look, [("px", "px"), ("grid", "Grid"), ("edges", "Edges"), ("free", "Free")])
        self.snap.setToolTip("Where things come to rest: whole px, cell corners, edges of others, anywhere")
        self.snap.edited.connect(self._set_snap)
        self.field("Snaps to", self.snap)
        self._make_looks()
        self._make_body()
        self._make_many()
        self.warning = label("", "quiet")
        self.warning.setWordWrap(True)
        self.add(self.warning)
        for number in (self.turn, self.scale, self.weight, self.damping, self.pin):
            self.session.document.follow(number)
        self.setVisible(False)

    def _make_looks(self) -> None:
        look, icons = self.look, self.icons
        self.turn = NumbersField(1, "°", Numbers(-360, 360, False, 15, 2), look)
        self.scale = NumbersField(2, "×", Numbers(1 / 16, 16, False, 0.5, 3), look, between=" , ")
        self.scale.setToolTip("Whole factors keep px even")
        self.tint = ColourField(look)
        self.mirrored = Check(look, icons, "Mirrored")
        self._looks = [
            self.field("Turned", self.turn), self.field("Scaled", self.scale), self.field("Tint", self.tint),
            self.field("", self.mirrored),
        ]  # fmt: skip
        self.turn.edited.connect(lambda v: self._change(turn=float(v[0])))
        self.scale.edited.connect(lambda v: self._change(scale=(float(v[0]), float(v[1]))))
        self.tint.picked.connect(lambda colour: self._change(tint=colour))
        self.mirrored.edited.connect(lambda on: self._change(mirrored=on))

    def _make_body(self) -> None:
        look, icons = self.look, self.icons
        self.motion = ChoiceRow(look, [("still", "Still"), ("moving", "Moves"), ("pushed", "Pushed")])
        self.motion.setToolTip("It stands, goes along its path, or gives way when it is pushed")
        self.turns = Check(look, icons, "Turns")
        self.turns.setToolTip("It may roll and tip over")
        self.weight = NumbersField(1, "kg", Numbers(0.001, 1e6, False, 1, 3), look)
        self.damping = NumbersField(1, "", Numbers(0, 100, False, 0.1, 2), look)
        self.damping.setToolTip("Which share of its speed it loses in a second")
        self.pinned = Check(look, icons, "Pinned at")
        self.pin = NumbersField(2, "px", Numbers(-4096, 4096, False), look, between=", ")
        self.pin.setToolTip("A point it hangs on and swings about, px right and down of its pivot")
        self._body = [
            self.field("Body", self.motion),
            self.field("Weight", self.weight), self.field("Damping", self.damping),
            self.field("", self.turns), self.field("", self.pinned), self.field("Pin", self.pin),
        ]  # fmt: skip
        self.motion.edited.connect(lambda v: self._change(motion=v))
        self.turns.edited.connect(lambda on: self._change(turns=on))
        self.weight.edited.connect(lambda v: self._change(weight=float(v[0])))
        self.damping.edited.connect(lambda v: self._change(damping=float(v[0])))
        self.pinned.edited.connect(lambda on: self._change(pin=(0.0, 0.0) if on else None))
        self.pin.edited.connect(lambda v: self._change(pin=(float(v[0]), float(v[1]))))

    def _make_many(self) -> None:
        """Buttons to align, spread and order; numbers to scatter by."""
        look, icons = self.look, self.icons
        self.aligned = {}
        for glyph, side, tip in ALIGN:
            made = IconButton(look, icons, glyph, tip, framed=True, px=15)
            made.pressed.connect(lambda side=side: self.things.edit("Align", many_things.align_things, side))
            self.aligned[side] = made
        self.spread = {}
        for glyph, across, tip in (
            ("arrows-out-line-horizontal", True, "Even gaps across"),
            ("arrows-out-line-vertical", False, "Even gaps down"),
        ):  # fmt: skip
            made = IconButton(look, icons, glyph, tip, framed=True, px=15)
            call = partial(self._spread, across)
            made.pressed.connect(call)
            self.spread[across] = made
        self.nearer = IconButton(look, icons, "arrow-up", "In front of the others", framed=True, px=15)
        self.farther = IconButton(look, icons, "arrow-down", "Behind the others", framed=True, px=15)
        self.nearer.pressed.connect(lambda: self._order(True))
        self.farther.pressed.connect(lambda: self._order(False))
        self._many = QWidget()
        column = QVBoxLayout(self._many)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row(*self.aligned.values(), None, spacing=4))
        column.addLayout(row(*self.spread.values(), self.nearer, self.farther, None, spacing=4))
        self.add(self._many)
        self.density = NumbersField(1, "a cell", Numbers(0.01, 20, False, 0.1, 2), look)
        self.radius = NumbersField(1, "cells", Numbers(0.5, 32, False, 0.5, 1), look)
        self.chance = NumbersField(1, "%", Numbers(0, 100), look)
        self._scatter = [
            self.field("Density", self.density), self.field("Reach", self.radius),
            self.field("Mirrored", self.chance),
        ]  # fmt: skip
        for field, name in (
            (self.density, "density"),
            (self.radius, "radius"),
            (self.chance, "mirror_percent"),
        ):
            field.edited.connect(lambda v, name=name: setattr(self.scattering, name, float(v[0])))

    def refresh(self, things: list[Thing], active: bool, scattering: bool) -> None:
        self.setVisible(active or scattering)
        tool = self.scattering
        for made in self._scatter:
            made.setVisible(scattering)
        for field, value in (
            (self.density, tool.density),
            (self.radius, tool.radius),
            (self.chance, tool.mirror_percent),
        ):
            field.show_value(value)
        level = self.session.selection.level
        self.snap.show_value(self.things.snap)
        for part in (*self._looks, *self._body, self._many):
            part.setVisible(bool(things) and not scattering)
        self.warning.setVisible(bool(things))
        if not things or level is None:
            self.what.setText("press in the level to place one" if active else "")
            return
        self.what.setText(many(len(things), "thing"))
        self._show(things)
        self.warning.setText(self._told(things, level))

    def _show(self, things: list[Thing]) -> None:
        """The values they share."""
        one = things[-1]

        def alike(name: str) -> Any:
            return getattr(one, name) if len(set(map(attrgetter(name), things))) == 1 else None

        pushed = set(map(attrgetter("motion"), things)) == {"pushed"}
        for field, name in (
            (self.turn, "turn"),
            (self.scale, "scale"),
            (self.weight, "weight"),
            (self.damping, "damping"),
        ):
            field.show_value(alike(name))
        self.tint.show_colour(alike("tint"))
        self.motion.show_value(alike("motion"))
        self.mirrored.show_value(alike("mirrored"))
        self.turns.show_value(alike("turns"))
        self.pinned.show_value(one.pin is not None)
        self.pin.show_value(one.pin or (0, 0))
        for part in (self.turns, self.weight, self.damping, self.pinned):
            part.setEnabled(pushed)
        self.pin.setEnabled(pushed and one.pin is not None)
        for button in (*self.aligned.values(), *self.spread.values()):
            button.setEnabled(len(things) > 1)

    def _told(self, things: list[Thing], level: Level) -> str:
        """What a person should know: px that get uneven, tiles that stand by their foot."""
        scales = {side for scale in set(map(attrgetter("scale"), things)) for side in scale}
        if any(abs(side - round(side)) > 1e-6 for side in scales):
            return "Px get uneven: scale by whole factors."
        if any(turn % 90 for turn in set(map(attrgetter("turn"), things))):
            return "Px get uneven: turn by quarters to keep them."
        if level.order == "foot" and standing_lines(self.session.project, level):
            return "Drawn by foot: what stands lower covers it."
        return ""

    def _set_snap(self, value: str) -> None:
        self.things.snap = value

    def _align(self, side: str) -> None:
        self.things.edit("Align", many_things.align_things, side)

    def _spread(self, across: bool) -> None:
        self.things.edit("Spread", many_things.spread_things, across)

    def _order(self, nearer: bool) -> None:
        self.things.edit("Order of things", many_things.order_things, nearer)

    def _change(self, **fields: object) -> None:
        ids, level_id = self.things.ids_chosen, self.session.selection.level_id
        if ids:
            self.session.document.edit(
                "Set a thing", lambda p: many_things.change_things(p, level_id, ids, **fields),
                ("thing", ids, tuple(fields)),
            )  # fmt: skip
