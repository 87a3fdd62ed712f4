"""Nine-slice in Tune: its Card, and the four guides that are dragged on the Desk."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QWidget

from rushweed.core.document.model.sheet import Cell, Fill, NineSlice
from rushweed.core.tune.nine import FILLS, MARGINS, clear, proposed, set_fill, set_margins, start
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Rule, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import cell_title, many, shared

GRAB = 6  # px of the screen within which a guide is taken
OPPOSITE = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}


class NineCard(Card):
    label_width = 72

    def __init__(self, context: Context) -> None:
        super().__init__(context.look, "Nine-slice")
        self.session = context.session
        self._teach = label(
            "The corners keep their size; sides and centre fill the rest. Drag the guides on the Desk, with "
            "Shift both at once, and the corner in the Proof.",
            "quiet",
        )
        self._teach.setWordWrap(True)
        self.add(self._teach)
        self.margins: dict[str, NumbersField] = {}
        for name in MARGINS:
            field = NumbersField(1, "px", Numbers(0, 16384), self.look)
            field.edited.connect(lambda v, name=name: self.set(**{name: int(v[0])}))
            self.session.document.follow(field)
            field.setAccessibleName(f"{name.capitalize()} margin")
            self.margins[name] = field
        for words, pair in (("Left, right", ("left", "right")), ("Top, bottom", ("top", "bottom"))):
            self.field(words, *(self.margins[name] for name in pair))
        self.add(Rule(self.look))
        self.fills: dict[str, ChoiceRow] = {}
        for which in FILLS:
            choice = ChoiceRow(self.look, [("stretch", "Stretches"), ("repeat", "Repeats")])
            choice.edited.connect(partial(self._fill, which))
            self.fills[which] = choice
            self.field(which.removesuffix("_fill").capitalize(), choice)
        self.add(Rule(self.look))
        self.propose = button("From the pixels")
        self.propose.setToolTip("Where the most rows and columns are alike")
        self.propose.clicked.connect(self.from_pixels)
        self.remove = button("Remove nine-slice")
        self.remove.setToolTip("These cells are drawn whole again")
        self.remove.clicked.connect(self._clear)
        holder = QWidget()
        holder.setLayout(row(self.propose, self.remove, None))
        self.add(holder)
        self.end()

    def refresh(self) -> None:
        cells = self.cells()
        self.setEnabled(bool(cells))
        what, where = cell_title(self.session.selection.sheet, cells)
        self.what.setText(what)
        self.where.setText(where)
        made = [c.stretch for c in cells]
        some = [s for s in made if s is not None]
        for name, field in self.margins.items():
            values = [float(getattr(s, name)) if s else 0.0 for s in made]
            field.show_value(shared(values) if values else 0)
        for which, choice in self.fills.items():
            fills = {getattr(s, which) for s in some}
            choice.show_value(fills.pop() if len(fills) == 1 else None if fills else "stretch")
        self.remove.setEnabled(bool(some))

    def cells(self) -> list[Cell]:
        """The selected cells, or the only one there is."""
        sheet = self.session.selection.sheet
        if self.session.selection.cells:
            return self.session.selection.cells
        return list(sheet.cells) if sheet is not None and len(sheet.cells) == 1 else []

    def set(self, **margins: int) -> None:
        ids = [c.id for c in self.cells()]
        self.session.document.edit(
            f"Nine-slice of {many(len(ids), 'cell')}",
            lambda p: set_margins(p, ids, **margins),
            ("nine", tuple(margins), tuple(ids)),
        )

    def _fill(self, which: str, fill: Fill) -> None:
        ids = [c.id for c in self.cells()]
        self.session.document.edit(
            f"Fill of {many(len(ids), 'cell')}", lambda p: set_fill(p, ids, which, fill)
        )

    def from_pixels(self) -> None:
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        rgba = self.session.stock.pixels_or_blank(sheet)
        found: dict[str, NineSlice] = {}
        for cell in self.cells():
            x, y, w, h = cell.rect
            made = proposed(rgba[y : y + h, x : x + w])
            if made is not None:
                found[cell.id] = made
        ids = [c.id for c in self.cells()]
        self.session.document.edit(f"Nine-slice of {many(len(ids), 'cell')}", lambda p: start(p, ids, found))
        if len(found) < len(ids):
            self.session.tell(
                "told", "No run of equal rows and columns was found: the guides stand at thirds."
            )

    def _clear(self) -> None:
        ids = [c.id for c in self.cells()]
        self.session.document.edit(f"No nine-slice for {many(len(ids), 'cell')}", lambda p: clear(p, ids))
