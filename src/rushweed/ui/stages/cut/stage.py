"""Cut: a sheet into cells by grid, guides, pieces or hand, live while its numbers change."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QWidget

from rushweed.core.cut.edit import cut_sheet
from rushweed.core.document.edit import put_sheet, sheet_of
from rushweed.core.document.model.cut import CountCut, Cut, GridCut, GuidesCut, HandCut, PiecesCut
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Sheet
from rushweed.ui.desk.context import Context
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import ChoiceRow
from rushweed.ui.kit.controls import Check, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import many
from rushweed.ui.stages.cut.by_hand import ByHand
from rushweed.ui.stages.cut.card import CutCard
from rushweed.ui.stages.cut.making import CutMaking
from rushweed.ui.stages.cut.proposals import CutProposals
from rushweed.ui.stages.cut.tools.boxes import DrawCells
from rushweed.ui.stages.cut.tools.guides import MoveGuides
from rushweed.ui.stages.cut.tools.leave_out import LeaveOut
from rushweed.ui.stages.cut.tools.split import SplitCells
from rushweed.ui.stages.cut.tools.tool import CutHands, CutTool
from rushweed.ui.stages.sheet_pointer import Point
from rushweed.ui.stages.sheet_stage import SheetStage

METHODS = [("size", "Grid"), ("count", "Count"), ("guides", "Guides"), ("pieces", "Pieces"), ("hand", "Hand")]


class CutStage(SheetStage):
    key, title = "cut", "Cut"
    rules_ink = True

    def __init__(self, context: Context) -> None:
        super().__init__(context)
        self.making = CutMaking(context)
        self.making.made.connect(self._offer_alike)
        self.making.let_be.connect(self.refresh)
        self.by_hand = ByHand(context, self.making)
        self.proposals = CutProposals(context, self.making)
        self.proposal_line = self.proposals.line
        hands = CutHands(self.pointer, self.making, self.by_hand)
        self.guides = MoveGuides(hands, self.proposals)
        self.tools = [Point(self.pointer), DrawCells(hands), SplitCells(hands), self.guides, LeaveOut(hands)]
        self.tool = Point.id
        self._make_options()
        self.numbers = CutCard(context, self.by_hand, self.proposals)
        self.card = scrolled(self.numbers)
        self.desk.sheet_painter.trial = None

    def _make_options(self) -> None:
        self.method = ChoiceRow(self.look, METHODS)
        self.cell = NumbersField(2, rule=Numbers(1, 16384), look=self.look)
        self.counts = NumbersField(2, "", Numbers(1, 4096), self.look)
        self.margin = NumbersField(2, rule=Numbers(most=4096), look=self.look)
        self._spacing = NumbersField(2, rule=Numbers(most=4096), look=self.look)
        self.join = NumbersField(1, rule=Numbers(0, 256), look=self.look)
        self._least = NumbersField(1, rule=Numbers(1, 4096), look=self.look)
        self.fit = ChoiceRow(self.look, [("tight", "Tight"), ("centre", "Centred"), ("feet", "On its feet")])
        self.fit.setToolTip("Tight boxes, or equal cells so that pivots do not wander")
        self.fit.edited.connect(lambda _v: self._apply())
        self.join.setToolTip("Parts at most this far apart are one piece")
        self._least.setToolTip("Pieces of fewer px are dropped")
        self.join.show_value(0)
        self._least.show_value(1)
        for field in (self.join, self._least):
            field.setFixedWidth(64)
            field.edited.connect(lambda _v: self._try())
            field.settled.connect(self._apply)
            field.escaped.connect(self._take_typed_back)
        self._empty = Check(self.look, self.icons, "Skip empty")
        for field, wide in ((self.cell, 88), (self.counts, 72), (self.margin, 70), (self._spacing, 70)):
            field.setFixedWidth(wide)
            field.edited.connect(lambda _v: self._try())
            field.settled.connect(self._apply)
            field.escaped.connect(self._take_typed_back)
        self.cell.setToolTip("Size of a cell: width × height")
        self.counts.setToolTip("Columns × rows; the cell size comes out by division")
        self.margin.setToolTip("Px before the first cell: left × top")
        self._spacing.setToolTip("Px between cells: across × down")
        self._parts = self._option_parts()
        self.method.edited.connect(self._method_chosen)
        self._empty.edited.connect(lambda _v: self._apply())
        self.option_line.fill(self.method, *self._parts.values(), None)

    def _option_parts(self) -> dict[str, QWidget]:
        """The fields of the option line, in groups that are shown for some methods."""
        follow = button("Follow the art")
        follow.setToolTip("Each guide moves to the nearest gap  (Shift+G)")
        follow.clicked.connect(self.by_hand.follow_art)
        self._split_into = NumbersField(2, "", Numbers(1, 64), self.look)
        self._split_into.show_value((2, 1))
        self._split_into.setFixedWidth(64)
        self._split_into.setToolTip("Columns × rows each selected cell is split into")
        acts = []
        for words, tip, call in (
            ("Trim", "Shrink the selected cells to what they hold  (T)", self.by_hand.trim),
            ("Join", "The selected cells become one  (J)", self.by_hand.join),
            ("Duplicate", "A copy beside each selected cell  (Ctrl+D)", self.by_hand.double),
            ("Split into", "Split the selected cells evenly; by a line with K", self._split_evenly),
        ):
            act = button(words)
            act.setToolTip(tip)
            act.clicked.connect(call)
            acts.append(act)
        layouts = {
            "size": row(label("Cell"), self.cell),
            "count": row(label("Columns, rows"), self.counts),
            "guides": row(follow),
            "margin": row(label("Margin"), self.margin),
            "spacing": row(label("Spacing"), self._spacing),
            "empty": row(self._empty),
            "pieces": row(
                label("Join within"), self.join, label("Drop under"), self._least, label("As"), self.fit
            ),
            "hand": row(*acts, self._split_into),
        }
        parts = {}
        for name, layout in layouts.items():
            parts[name] = QWidget()
            parts[name].setLayout(layout)
        return parts

    # -- showing ---------------------------------------------------------------------------------------

    def entered(self) -> None:
        self.proposals.looked_at = True
        self.proposals.refresh()

    def left(self) -> None:
        self.proposals.leave()

    def refresh(self) -> None:
        sheet = self.session.selection.sheet
        self.pointer.hovered = None
        cut = sheet.cut if sheet else None
        tool = self.active
        if isinstance(tool, CutTool) and not tool.fits(cut):
            self.use(Point.id)
        self.option_line.setEnabled(sheet is not None)
        if isinstance(cut, PiecesCut):
            self.method.show_value("pieces")
            self.join.show_value(cut.join)
            self._least.show_value(cut.least)
            self.fit.show_value(cut.fit)
        elif isinstance(cut, GuidesCut):
            self.method.show_value("guides")
            self._spacing.show_value(cut.spacing)
            self._empty.show_value(cut.leave_out_empty)
        elif isinstance(cut, (GridCut, CountCut)):
            self.method.show_value("count" if isinstance(cut, CountCut) else "size")
            self.margin.show_value(cut.margin)
            self._spacing.show_value(cut.spacing)
            self._empty.show_value(cut.leave_out_empty)
        elif isinstance(cut, HandCut):
            self.method.show_value("hand")
        else:
            if cut is None and self.method.value in ("hand", "guides"):
                self.method.show_value("size")
            self._empty.show_value(True)
            self.margin.show_value((0, 0))
            self._spacing.show_value((0, 0))
        self._show_method()
        if sheet is not None:
            grid = self.desk.sheet_painter.grid(sheet)
            self.cell.show_value(grid.cell if grid else (16, 16))
            self.counts.show_value((grid.columns, grid.rows) if grid else (1, 1))
        self.proposals.refresh()
        self.numbers.show_sheet(sheet)

    def _show_method(self) -> None:
        method = self.method.value
        shown = {
            "size": ("size", "margin", "spacing", "empty"), "count": ("count", "margin", "spacing", "empty"),
            "guides": ("guides", "spacing", "empty"), "pieces": ("pieces",), "hand": ("hand",),
        }[method or "size"]  # fmt: skip
        for name, part in self._parts.items():
            part.setVisible(name in shown)

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        self.guides.paint_guides(painter, self.active is self.guides)
        self.active.paint(painter, room)
        self.proposals.paint(painter, room, sheet)

    def paint_art_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        self.desk.sheet_painter.grid_faults(painter, self.desk.view, room, sheet)

    # -- editing ---------------------------------------------------------------------------------------

    def _method_chosen(self, key: str) -> None:
        self._show_method()
        sheet = self.session.selection.sheet
        found = self.proposals.of(sheet)
        if key == "pieces" and found is not None and not isinstance(self.making.cut_before(), PiecesCut):
            self.join.show_value(found.choices.join)
        if sheet is None:
            return
        if key == "guides":
            self.use(MoveGuides.id)
        elif key == "hand":
            self.session.document.edit(f"Cut {sheet.name} by hand", partial(_to_hand, sheet_id=sheet.id))
            self.use(DrawCells.id)
        elif sheet.cut is not None or key == "pieces":
            tool = self.active
            if isinstance(tool, CutTool) and tool.gives_way:
                self.use(Point.id)
            self._apply()

    def _split_evenly(self) -> None:
        columns, rows = (int(v) for v in self._split_into.values)
        self.by_hand.split(columns, rows)

    def _typed(self) -> Cut | None:
        def two(field: NumbersField) -> tuple[int, int]:
            return int(field.values[0]), int(field.values[1])

        sheet = self.session.selection.sheet
        if sheet is None:
            return None
        if self.method.value == "pieces":
            join, least = int(self.join.values[0]), int(self._least.values[0])
            large_too = isinstance(sheet.cut, PiecesCut) and sheet.cut.any_size
            fit = self.fit.value or "tight"
            return PiecesCut(join, least, any_size=large_too, fit=fit)  # type: ignore[arg-type]
        old = self.making.cut_before()
        if self.method.value == "hand":
            return HandCut()
        if self.method.value == "guides":
            if not isinstance(old, GuidesCut):
                return None
            return replace(old, spacing=two(self._spacing), leave_out_empty=self._empty.on)
        places = {
            "margin": two(self.margin), "spacing": two(self._spacing), "leave_out_empty": self._empty.on,
        }  # fmt: skip
        if self.method.value == "count":
            columns, rows = two(self.counts)
            cut: Cut = CountCut(columns, rows, **places)  # type: ignore[arg-type]
            same = isinstance(old, CountCut) and (old.columns, old.rows) == (columns, rows)
        else:
            cut = GridCut(two(self.cell), **places)  # type: ignore[arg-type]
            same = isinstance(old, GridCut) and old.cell == cut.cell
        if same and isinstance(old, (GridCut, CountCut)):
            cut = replace(cut, left_out=old.left_out, kept=old.kept)
        return cut

    def _try(self) -> None:
        """Show the cut of the numbers as they stand; it is made when the field is left, so that a number
        half typed loses no cell."""
        cut = self._typed()
        if cut is not None:
            self.making.try_cut(cut)

    def _apply(self) -> None:
        cut, sheet = self._typed(), self.session.selection.sheet
        if cut is not None and sheet is not None and cut != self.making.cut_before():
            self.making.take(cut)
        elif self.desk.sheet_painter.trial is not None:
            self.making.end_trial()

    def _take_typed_back(self) -> None:
        self.making.end_trial()
        self.session.document.preview(None)
        self.refresh()

    def _offer_alike(self, sheet: Sheet, cut: GridCut) -> None:
        """After a cut that was not the first proposal: offer it to the uncut sheets of the same size."""
        project = self.session.document.history.project
        alike = [s.id for s in project.sheets
                 if s.id != sheet.id and s.cut is None and s.source.size == sheet.source.size]  # fmt: skip
        if not alike or self.proposals.best() == cut:
            return

        def all_alike(project: Project) -> Project:
            for sheet_id in alike:
                pixels = self.session.stock.pixels(sheet_of(project, sheet_id))
                project = cut_sheet(project, sheet_id, replace(cut, left_out=(), kept=()), pixels)
            return project

        words = "has" if len(alike) == 1 else "have"
        self.session.ask(
            f"{many(len(alike), 'other sheet')} {words} the same size as {sheet.name} and no cut yet.",
            [
                (
                    "Cut alike",
                    lambda: self.session.document.edit(f"Cut {many(len(alike), 'sheet')} alike", all_alike),
                )
            ],
            lambda: None,
        )

    # -- pointer and keys --------------------------------------------------------------------------

    def key_pressed(self, event: QKeyEvent) -> bool:
        """Enter takes the cut that is shown."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.proposals.take_shown():
            return True
        return super().key_pressed(event)


def _to_hand(project: Project, sheet_id: str) -> Project:
    """The cells stay as they are, by hand from now on."""
    sheet = sheet_of(project, sheet_id)
    return put_sheet(project, replace(sheet, cut=HandCut()))
