"""Nine-slice in Tune: its Card, and the four guides that are dragged on the Desk."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from rushweed.core.document.model import Cell, Fill, Sheet, Stretch
from rushweed.core.tune.nine import FILLS, MARGINS, clear, proposed, set_fill, set_margins, start, thirds
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.controls import Rule, button, label, row, tag
from rushweed.ui.kit.fields import ChoiceRow, NumbersField
from rushweed.ui.kit.text import cell_title, many, shared

if TYPE_CHECKING:
    from rushweed.ui.stages.tune.stage import TuneStage

GRAB = 6  # px of the screen within which a guide is taken
OPPOSITE = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}


class NineCard(Card):
    label_width = 72

    def __init__(self, stage: TuneStage) -> None:
        super().__init__(stage.look, "Nine-slice")
        self.stage, self.session = stage, stage.session
        self._teach = label(
            "The corners keep their size; sides and centre fill the rest. Drag the guides on the Desk, with "
            "Shift both at once, and the corner in the Proof.",
            "quiet",
        )
        self._teach.setWordWrap(True)
        self.add(self._teach)
        self.margins: dict[str, NumbersField] = {}
        for name in MARGINS:
            field = NumbersField(1, "px", 0, 16384, look=self.look)
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
        found: dict[str, Stretch] = {}
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


class NineGuides:
    """The guides on the Desk: four lines through each chosen cell."""

    def __init__(self, stage: TuneStage, card: NineCard) -> None:
        self.stage, self.card = stage, card
        self.held: tuple[Cell, str] | None = None
        self._wanted: dict[str, int] | None = None

    def at(self, event: DeskEvent) -> tuple[Cell, str] | None:
        """The guide under the pointer: its cell and margin."""
        best: tuple[float, Cell, str] | None = None
        for cell in self.card.cells():
            box = self.stage.desk.view.rect(*cell.rect)
            if not box.adjusted(-12, -12, 12, 12).contains(event.screen):
                continue
            for name, line in self._lines(cell).items():
                upright = name in ("left", "right")
                gap = abs(event.screen.x() - line.x1() if upright else event.screen.y() - line.y1())
                if gap <= GRAB and (best is None or gap < best[0]):
                    best = gap, cell, name
        return (best[1], best[2]) if best else None

    def press(self, event: DeskEvent) -> bool:
        self.held = self.at(event)
        return self.held is not None

    def drag(self, event: DeskEvent) -> None:
        assert self.held is not None
        cell, name = self.held
        x, y, w, h = cell.rect
        place = {"left": event.x - x, "right": x + w - event.x, "top": event.y - y, "bottom": y + h - event.y}
        stretch = cell.stretch or thirds(cell)
        side = w if name in ("left", "right") else h
        both = event.shift
        most = side // 2 if both else side - getattr(stretch, OPPOSITE[name])
        value = min(max(round(place[name]), 0), most)
        wanted = {name: value, OPPOSITE[name]: value} if both else {name: value}
        self._wanted = {m: wanted.get(m, getattr(stretch, m)) for m in MARGINS}
        self.stage.session.document.preview(self._change())

    def release(self) -> None:
        if self._wanted is not None:
            ids = self._ids()
            self.stage.session.document.edit(f"Nine-slice of {many(len(ids), 'cell')}", self._change())
        self.held = self._wanted = None

    def cancel(self) -> None:
        self.held = self._wanted = None

    def _ids(self) -> list[str]:
        return [c.id for c in self.card.cells()]

    def _change(self):  # type: ignore[no-untyped-def]
        ids, wanted = self._ids(), dict(self._wanted or {})
        return lambda p: set_margins(p, ids, **wanted)

    def _lines(self, cell: Cell) -> dict[str, QLineF]:
        view, stretch = self.stage.desk.view, cell.stretch or thirds(cell)
        x, y, w, h = cell.rect
        a, b = view.to_screen(x, y), view.to_screen(x + w, y + h)
        left, right = (view.to_screen(v, 0).x() for v in (x + stretch.left, x + w - stretch.right))
        top, bottom = (view.to_screen(0, v).y() for v in (y + stretch.top, y + h - stretch.bottom))
        return {
            "left": QLineF(left, a.y() - 10, left, b.y() + 10), "right": QLineF(right, a.y() - 10, right,
            b.y() + 10),
            "top": QLineF(a.x() - 10, top, b.x() + 10, top), "bottom": QLineF(a.x() - 10, bottom, b.x() + 10,
            bottom),
        }  # fmt: skip

    def paint(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        look = self.stage.look
        for cell in self.card.cells():
            if not self.stage.desk.view.rect(*cell.rect).intersects(room):
                continue
            set_ = cell.stretch is not None
            for name, line in self._lines(cell).items():
                mine = self.held is not None and self.held[1] == name
                painter.setPen(QPen(look.colour("art_casing", 0.7), 3))
                painter.drawLine(line)
                style = Qt.PenStyle.SolidLine if set_ else Qt.PenStyle.DashLine
                painter.setPen(QPen(look.colour("art_rust" if mine else "art_straw"), 1, style))
                painter.drawLine(line)
                if mine or len(self.card.cells()) == 1:
                    stretch = cell.stretch or thirds(cell)
                    at = self._tag_at(name, line)
                    tag(painter, look, at.x(), at.y(), f"{getattr(stretch, name)} px", rust=mine)

    @staticmethod
    def _tag_at(name: str, line: QLineF) -> QPointF:
        if name == "left":
            return QPointF(line.x1() - 46, line.y1() - 8)
        if name == "right":
            return QPointF(line.x1() + 6, line.y1() - 8)
        return QPointF(line.x2() + 4, line.y2() - 8)
