"""What a placed thing does: it stands still, moves on its path, or is pushed; numbers of its body."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model import Thing
from rushweed.core.level.things import change_thing
from rushweed.ui.kit.controls import Check, label, row
from rushweed.ui.kit.fields import ChoiceRow, NumbersField

if TYPE_CHECKING:
    from rushweed.ui.stages.paint.stage import PaintStage


class ThingRows(QWidget):
    """Shown on the card of Paint while a thing is chosen."""

    def __init__(self, stage: PaintStage) -> None:
        super().__init__()
        self.stage, self.session, look = stage, stage.session, stage.look
        self.motion = ChoiceRow(look, [("still", "Still"), ("moving", "Moves"), ("pushed", "Pushed")])
        self.motion.setToolTip("It stands, goes along its path, or gives way when it is pushed")
        self.turns = Check(look, stage.icons, "Turns")
        self.turns.setToolTip("It may roll and tip over")
        self.weight = NumbersField(1, "kg", 0.001, 1e6, False, 1, 3, look)
        self.damping = NumbersField(1, "", 0, 100, False, 0.1, 2, look)
        self.damping.setToolTip("Which share of its speed it loses in a second")
        self.pinned = Check(look, stage.icons, "Pinned at")
        self.pin = NumbersField(2, "px", -4096, 4096, False, between=", ", look=look)
        self.pin.setToolTip("A point it hangs on and swings about, px right and down of its pivot")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(row(_name("Thing"), self.motion, None))
        column.addLayout(row(_name("Weight"), self.weight, label("Damping"), self.damping))
        column.addLayout(row(_name(""), self.turns, None))
        column.addLayout(row(self.pinned, self.pin, None))
        for field in (self.weight, self.damping):
            field.setFixedWidth(64)
        self.motion.edited.connect(lambda v: self._change(motion=v))
        self.turns.edited.connect(lambda on: self._change(turns=on))
        self.weight.edited.connect(lambda v: self._change(weight=float(v[0])))
        self.damping.edited.connect(lambda v: self._change(damping=float(v[0])))
        self.pinned.edited.connect(lambda on: self._change(pin=(0.0, 0.0) if on else None))
        self.pin.edited.connect(lambda v: self._change(pin=(float(v[0]), float(v[1]))))
        for number in (self.weight, self.damping, self.pin):
            self.session.document.follow(number)
        self.setVisible(False)

    def refresh(self, thing: Thing | None) -> None:
        self.setVisible(thing is not None)
        if thing is None:
            return
        pushed = thing.motion == "pushed"
        self.motion.show_value(thing.motion)
        self.turns.show_value(thing.turns)
        self.weight.show_value(thing.weight)
        self.damping.show_value(thing.damping)
        self.pinned.show_value(thing.pin is not None)
        self.pin.show_value(thing.pin or (0, 0))
        for part in (self.turns, self.weight, self.damping, self.pinned):
            part.setEnabled(pushed)
        self.pin.setEnabled(pushed and thing.pin is not None)

    def _change(self, **fields: object) -> None:
        thing = self.stage.active.thing
        if thing is not None:
            made = replace(thing, **fields)
            self.session.document.edit(
                "Set a thing",
                partial(change_thing, level_id=self.session.selection.level_id, thing=made),
                ("thing", thing.id, tuple(fields)),
            )


def _name(text: str) -> QWidget:
    made = label(text)
    made.setFixedWidth(64)
    return made
