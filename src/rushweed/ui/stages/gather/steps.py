"""The list of a sheet's preparation steps: each can be switched off, changed, moved and taken away."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.model.base import Colour
from rushweed.core.document.model.steps import (
    Enlarge,
    Fit,
    KeyColour,
    Mirror,
    Recolour,
    Reduce,
    ReplaceColour,
    Step,
    Turn,
)
from rushweed.core.pixels.fringe import cleans_by_itself
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import HIGH, Check, IconButton, Pressable, emptied, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.theme import Look

if TYPE_CHECKING:
    from rushweed.ui.kit.icons import Icons

TITLES: dict[type, str] = {
    KeyColour: "Key colour", Reduce: "True size", Enlarge: "Enlarge", Fit: "Fit to", Turn: "Turn",
    Mirror: "Mirror", Recolour: "Recolour", ReplaceColour: "Replace colour",
}  # fmt: skip
FRESH: dict[str, Step] = {
    "Key colour": KeyColour((255, 0, 255)), "True size": Reduce(2), "Enlarge": Enlarge(2),
    "Fit to": Fit((64, 64)), "Turn": Turn(1), "Mirror": Mirror("across"), "Recolour": Recolour(),
    "Replace colour": ReplaceColour(),
}  # fmt: skip

Lines = list[list[QWidget | int | None]]


class Swatch(Pressable):
    """A colour to see, and to press when another is to be picked."""

    def __init__(self, look: Look, colour: Colour, tip: str) -> None:
        super().__init__()
        self.look, self.colour = look, colour
        self.setFixedSize(HIGH, HIGH)
        self.setToolTip(tip)
        self.setAccessibleName(tip)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(self.look.colour("reed" if self.hasFocus() else "rule_deep"))
        painter.setBrush(QColor(*self.colour))
        painter.drawRect(QRectF(3.5, 3.5, HIGH - 8, HIGH - 8))


class StepList(QWidget):
    """`edited` brings the whole new list and the words of the edit; `settled` ends a run of small ones;
    `picking` asks for a colour off the Desk for the step of that number."""

    edited = pyqtSignal(tuple, str)
    begun = pyqtSignal()
    settled = pyqtSignal()
    escaped = pyqtSignal()
    picking = pyqtSignal(int)

    def __init__(self, look: Look, icons: Icons) -> None:
        super().__init__()
        self.look, self.icons = look, icons
        self.steps: tuple[Step, ...] = ()
        self._kinds: tuple[object, ...] = ()
        self.fields: list[dict[str, Any]] = []
        self.picked: int | None = None
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(4)

    def show_value(self, steps: tuple[Step, ...], picked: int | None = None) -> None:
        """Show steps silently; rows are made anew only when their kinds change."""
        kinds = (tuple((type(s), len(getattr(s, "pairs", ()))) for s in steps), picked)
        self.steps, self.picked = steps, picked
        if kinds != self._kinds:
            self._kinds = kinds
            emptied(self._rows)
            self.fields = [self._row(n, step) for n, step in enumerate(steps)]
            if not steps:
                none = label("None: the picture is used as it is. Steps are never burned in.", "quiet")
                none.setWordWrap(True)
                self._rows.addWidget(none)
        for fields, step in zip(self.fields, steps, strict=True):
            fields["on"].show_value(step.on)
            self._fill(fields, step)

    def _row(self, n: int, step: Step) -> dict[str, Any]:
        on = Check(self.look, self.icons, TITLES[type(step)])
        on.edited.connect(lambda value: self._change(n, "Switch a step", on=value))
        up = IconButton(self.look, self.icons, "caret-up", "Earlier", px=13)
        down = IconButton(self.look, self.icons, "caret-down", "Later", px=13)
        away = IconButton(self.look, self.icons, "x", "Take the step away", px=13)
        up.pressed.connect(partial(self._move, n, -1))
        down.pressed.connect(partial(self._move, n, 1))
        away.pressed.connect(partial(self._remove, n))
        up.setEnabled(n > 0)
        down.setEnabled(n < len(self.steps) - 1)
        head = QWidget()
        head.setFixedHeight(HIGH)
        head.setLayout(row(on, None, up, down, away, spacing=2))
        self._rows.addWidget(head)
        fields: dict[str, Any] = {"on": on, "up": up, "down": down, "away": away}
        parts = self._parts(n, step, fields)
        for line in parts:
            under = QWidget()
            under.setFixedHeight(HIGH)
            layout = row(*line, None)
            layout.setContentsMargins(20, 0, 0, 0)
            under.setLayout(layout)
            self._rows.addWidget(under)
        return fields

    def _parts(self, n: int, step: Step, fields: dict[str, Any]) -> Lines:
        """The fields of one step, line by line."""
        if isinstance(step, KeyColour):
            return self._key_parts(n, step, fields)
        if isinstance(step, (Reduce, Enlarge)):
            fields["factor"] = self._number(n, "factor", 1, 64, "px" if isinstance(step, Reduce) else "")
            words = "One px is" if isinstance(step, Reduce) else "Times"
            return [[label(words), fields["factor"]]]
        if isinstance(step, Fit):
            fields["size"] = NumbersField(2, rule=Numbers(1, 16_384), look=self.look)
            fields["size"].setFixedWidth(104)
            fields["size"].edited.connect(lambda v: self._change(n, "Fit", size=(int(v[0]), int(v[1]))))
            self._relay(fields["size"])
            return [[label("Size"), fields["size"]]]
        if isinstance(step, Turn):
            fields["quarters"] = ChoiceRow(self.look, [("1", "90°"), ("2", "180°"), ("3", "270°")])
            fields["quarters"].edited.connect(lambda v: self._change(n, "Turn", quarters=int(v)))
            return [[fields["quarters"]]]
        if isinstance(step, Mirror):
            fields["way"] = ChoiceRow(self.look, [("across", "Left and right"), ("down", "Up and down")])
            fields["way"].edited.connect(lambda v: self._change(n, "Mirror", way=v))
            return [[fields["way"]]]
        if isinstance(step, Recolour):
            return self._recolour_parts(n, fields)
        assert isinstance(step, ReplaceColour)
        return self._exchange_parts(n, step, fields)

    def _key_parts(self, n: int, step: KeyColour, fields: dict[str, Any]) -> Lines:
        fields["colour"] = Swatch(self.look, step.colour, "Press, then pick the colour on the Desk")
        fields["colour"].pressed.connect(lambda: self.picking.emit(n))
        fields["name"] = TextField("#rrggbb", mono=True)
        fields["name"].setFixedWidth(72)
        fields["name"].edited.connect(lambda text: self._named_colour(n, text))
        fields["tolerance"] = self._number(n, "tolerance", 0, 255, "")
        fields["tolerance"].setToolTip("How far a colour may be from the key, of 255")
        fields["fringe"] = Check(self.look, self.icons, "Clean soft edges")
        fields["fringe"].setToolTip(
            "Take the key's tint out of soft edges. By itself only where edges are seen to be soft, "
            "and never on black or white; press it to have all edges done."
        )
        fields["fringe"].edited.connect(lambda value: self._change(n, "Key colour", fringe=value))
        first = [fields["colour"], fields["name"], label("within"), fields["tolerance"]]
        pick = label("now press the colour on the Desk" if self.picked == n else "", "caption")
        return [first, [fields["fringe"], pick]]

    def _recolour_parts(self, n: int, fields: dict[str, Any]) -> Lines:
        lines: Lines = []
        for name, words, low, high, unit in (
            ("hue", "Hue", -180, 180, "°"), ("saturation", "Saturation", -100, 100, "%"),
            ("lightness", "Lightness", -100, 100, "%"),
        ):  # fmt: skip
            fields[name] = self._number(n, name, low, high, unit)
            text = label(words)
            text.setFixedWidth(64)
            lines.append([text, fields[name]])
        return lines

    def _exchange_parts(self, n: int, step: ReplaceColour, fields: dict[str, Any]) -> Lines:
        lines: Lines = []
        fields["pairs"] = []
        for at, (old, new) in enumerate(step.pairs):
            becomes = TextField("#rrggbb", mono=True)
            becomes.setFixedWidth(72)
            becomes.edited.connect(lambda text, at=at: self._exchange(n, at, text))
            gone = IconButton(self.look, self.icons, "x", "Leave this colour as it is", px=12)
            gone.pressed.connect(partial(self._exchange, n, at, None))
            was = Swatch(self.look, old, "The colour in the art")
            shown = Swatch(self.look, new, "What it becomes")
            fields["pairs"].append((was, becomes, shown))
            lines.append([was, label("to"), shown, becomes, gone])
        pipette = IconButton(self.look, self.icons, "eyedropper", "Pick on the Desk", framed=True, px=14)
        pipette.pressed.connect(lambda: self.picking.emit(n))
        words = "now press it on the Desk" if self.picked == n else "pick another"
        lines.append([pipette, label(words, "caption")])
        return lines

    def _number(self, n: int, name: str, least: float, most: float, unit: str) -> NumbersField:
        field = NumbersField(1, unit, Numbers(least, most), self.look)
        field.setFixedWidth(64)
        field.edited.connect(lambda v: self._change(n, TITLES[type(self.steps[n])], **{name: int(v[0])}))
        self._relay(field)
        return field

    def _relay(self, field: NumbersField) -> None:
        field.begun.connect(self.begun)
        field.settled.connect(self.settled)
        field.escaped.connect(self.escaped)

    def _fill(self, fields: dict[str, Any], step: Step) -> None:
        for name in ("factor", "tolerance", "hue", "saturation", "lightness"):
            if name in fields:
                fields[name].show_value(getattr(step, name))
        if isinstance(step, KeyColour):
            fields["colour"].colour = step.colour
            fields["colour"].update()
            fields["name"].show_value(hex_of(step.colour))
            on = cleans_by_itself(step.colour) if step.fringe is None else step.fringe
            fields["fringe"].show_value(on)
        elif isinstance(step, Fit):
            fields["size"].show_value(step.size)
        elif isinstance(step, Turn):
            fields["quarters"].show_value(str(step.quarters % 4))
        elif isinstance(step, Mirror):
            fields["way"].show_value(step.way)
        elif isinstance(step, ReplaceColour):
            for (old, name, new), pair in zip(fields["pairs"], step.pairs, strict=True):
                old.colour, new.colour = pair
                name.show_value(hex_of(pair[1]))
                old.update()
                new.update()

    # -- editing -----------------------------------------------------------------------------------

    def _change(self, n: int, words: str, **values: object) -> None:
        step: Step = replace(self.steps[n], **values)
        self.edited.emit((*self.steps[:n], step, *self.steps[n + 1 :]), words)

    def _move(self, n: int, by: int) -> None:
        steps = list(self.steps)
        steps.insert(n + by, steps.pop(n))
        self.edited.emit(tuple(steps), "Move a step")

    def _remove(self, n: int) -> None:
        words = f"Take {TITLES[type(self.steps[n])].lower()} away"
        self.edited.emit((*self.steps[:n], *self.steps[n + 1 :]), words)

    def _named_colour(self, n: int, text: str) -> None:
        colour = colour_of(text)
        if colour is not None:
            self._change(n, "Key colour", colour=colour)
        else:
            self.show_value(self.steps, self.picked)

    def _exchange(self, n: int, at: int, text: str | None) -> None:
        step = self.steps[n]
        assert isinstance(step, ReplaceColour)
        pairs = list(step.pairs)
        if text is None:
            del pairs[at]
        else:
            colour = colour_of(text)
            if colour is None:
                self.show_value(self.steps, self.picked)
                return
            pairs[at] = (pairs[at][0], colour)
        self._change(n, "Replace colours", pairs=tuple(pairs))


def hex_of(colour: Colour) -> str:
    r, g, b = colour
    return f"#{r:02x}{g:02x}{b:02x}"


def colour_of(text: str) -> Colour | None:
    """A colour written as #rrggbb, with or without its mark."""
    code = text.strip().removeprefix("#")
    if len(code) != 6:
        return None
    try:
        number = int(code, 16)
    except ValueError:
        return None
    return number >> 16, number >> 8 & 255, number & 255
