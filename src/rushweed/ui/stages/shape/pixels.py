"""Shapes from the pixels on the card of Shape: outlines live while the tolerance changes, and the rest of the
sheet filled from twins and pixels, shown before it is taken."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen
from PyQt6.QtWidgets import QSlider, QVBoxLayout, QWidget

from rushweed.core.document.errors import EditError
from rushweed.core.document.limits import check_project
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.shape.budget import trace_vertices
from rushweed.core.shape.edit import give_each, set_shapes
from rushweed.core.shape.propose import SOLID, Proposed, propose_shapes, shapes_of
from rushweed.core.shape.trace import Traced, trace_masks
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.many_shapes import ManyShapes
from rushweed.ui.kit.controls import Check, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField
from rushweed.ui.kit.text import many
from rushweed.ui.session.beside import worked_out
from rushweed.ui.session.jobs import Job
from rushweed.ui.session.later import later
from rushweed.ui.stages.shape.role_line import RoleLine

AT_ONCE = 64  # cells that are outlined without leaving the window's thread
STEPS = 4  # of the slider to a px
MOST = 6  # px
MOST_DASHED, MOST_CORNERS = 1500, 10_000  # proposals, and corners of them, that are drawn dashed and wide


class Outlined(NamedTuple):
    """What outlining cells makes: the edit that gives them their shapes, worked out already for the project
    as it was; how far they are off the border at most in px, and their vertices."""

    change: Callable[[Project], Project]
    error: float
    vertices: int
    refused: int = 0  # cells whose parts need more vertices than are allowed


def _within(alpha: np.ndarray, vertices: int, threshold: int, each: bool) -> Traced | None:
    """The outline within a number of vertices; empty where nothing is solid, None where it is refused."""
    if not (alpha >= threshold).any():
        return Traced((), 0.0)
    try:
        return trace_vertices(alpha, vertices, threshold, each)
    except EditError:
        return None


class FromPixels(QWidget):
    """The rows of the card; it keeps what is proposed until it is taken or left."""

    def __init__(self, context: Context, roles: RoleLine) -> None:
        super().__init__()
        self.context, self.session, self.roles = context, context.session, roles
        self.proposed: dict[str, Proposed] = {}
        self._cells: list[Cell] = []  # as they would be with what is proposed
        self._tracing: Job | None = None
        self._drawn: tuple[object, list[Cell]] = (None, [])  # the cells with what is proposed for them
        self._paths, self._more = ManyShapes(), later(context.desk, 0, self._make_more)
        self._traced: tuple[str, ...] = ()  # the cells last traced, which follow the tolerance
        self._sheet_id = ""
        self._make_fields()
        self._make_buttons()
        lines = QVBoxLayout(self)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(6)
        for line in (
            row(label("Outline"), self.slider, self.tolerance, spacing=6),
            row(label("Vertices"), self.vertices, self.each, None, label("Alpha"), self.threshold, spacing=6),
            row(self.convex, None, self.go, spacing=6),
            row(self.rest, self.take, self.leave, None, spacing=6),
        ):
            lines.addLayout(line)
        lines.addWidget(self.words)
        self.show_state()

    def _make_fields(self) -> None:
        look, icons = self.context.look, self.context.icons
        self.tolerance = NumbersField(1, rule=Numbers(0, 64, False, 0.25, 2), look=look)
        self.tolerance.setFixedWidth(72)
        self.tolerance.show_value(1)
        self.tolerance.setToolTip("How far the outline may be from the border of the pixels")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, MOST * STEPS)
        self.slider.setValue(STEPS)
        self.slider.valueChanged.connect(self._slid)
        self.slider.sliderReleased.connect(self.settle)
        self.tolerance.edited.connect(lambda v: self._typed(v[0]))
        self.tolerance.settled.connect(self.settle)
        self.tolerance.escaped.connect(self._take_typed_back)
        self.convex = Check(look, icons, "Convex")
        self.convex.setToolTip("In convex parts, on the outline's own vertices")
        self.convex.edited.connect(lambda _on: self._again())
        self.threshold = NumbersField(1, "", Numbers(1, 255), look)
        self.threshold.setFixedWidth(48)
        self.threshold.show_value(SOLID)
        self.threshold.setToolTip("Alpha from which a px is solid")
        self.vertices = NumbersField(1, "", Numbers(0, 4096), look)
        self.vertices.setFixedWidth(48)
        self.vertices.show_value(0)
        self.vertices.setToolTip(
            "So many vertices at most, as near to the border as they allow; 0 is any number"
        )
        self.each = Check(look, icons, "each")
        self.each.setToolTip("The number holds for each part by itself, not for all parts of a cell together")
        for field in (self.threshold, self.vertices):
            field.edited.connect(lambda _v: self._preview())
            field.settled.connect(self.settle)
            field.escaped.connect(self._take_typed_back)
        self.each.edited.connect(lambda _on: self._again())

    def _make_buttons(self) -> None:
        self.go = button("Trace")
        self.go.setToolTip("Outline the selected cells from their pixels  (O)")
        self.go.clicked.connect(self.trace)
        self.rest = button("Fill the rest ...")
        self.rest.setToolTip("Propose shapes for all cells without one: from twins, else from the pixels")
        self.rest.clicked.connect(self.propose)
        self.take, self.leave = button("Take all", fix=True), button("Discard")
        self.take.clicked.connect(self.take_all)
        self.leave.clicked.connect(self.drop)
        self.words = label("", "caption")
        self.words.setWordWrap(True)

    def follow(self, sheet_id: str) -> None:
        """What was proposed or traced on another sheet is dropped when this one is shown."""
        if sheet_id != self._sheet_id:
            self._sheet_id, self._traced = sheet_id, ()
            self.drop()

    # -- outlines ----------------------------------------------------------------------------------

    def _slid(self, value: int) -> None:
        self.tolerance.show_value(value / STEPS)
        self._preview()

    def _typed(self, value: float) -> None:
        self.slider.blockSignals(True)
        self.slider.setValue(round(min(value, MOST) * STEPS))
        self.slider.blockSignals(False)
        self._preview()

    def _take_typed_back(self) -> None:
        self._typed(self.tolerance.values[0])  # also takes the preview of the other fields back
        self.session.document.preview(None)

    def _traced_now(self, sheet: Sheet, ids: tuple[str, ...]) -> Callable[[Job | None], Outlined | None]:
        """What outlines some cells with the tolerance as it is; it may run beside the window."""
        rgba = self.session.stock.pixels_or_blank(sheet)
        wanted, base = set(ids), self.session.document.history.project
        cells = [c for c in sheet.cells if c.id in wanted]
        tolerance, convex, (role, side) = self.tolerance.values[0], self.convex.on, self.roles.role_now()
        threshold, budget, each = int(self.threshold.values[0]), int(self.vertices.values[0]), self.each.on

        def work(_job: Job | None) -> Outlined | None:
            alphas = [rgba[y : y + h, x : x + w, 3] for x, y, w, h in (c.rect for c in cells)]
            if budget:
                found = [_within(alpha, budget, threshold, each) for alpha in alphas]
            else:
                found = list(trace_masks([alpha >= threshold for alpha in alphas], tolerance))
            known = [(c, t) for c, t in zip(cells, found, strict=True) if t is not None and t.outlines]
            if not known:
                return None
            given = {c.id: shapes_of(t, convex, role, side) for c, t in known}
            made = give_each(base, given)
            check_project(base, made)
            vertices = sum(t.vertices for _c, t in known)
            return Outlined(
                lambda project: made if project is base else give_each(project, given),
                max(t.error for _c, t in known), vertices, found.count(None),
            )  # fmt: skip

        return work

    def _outline(self, ids: tuple[str, ...], then: Callable[[Outlined | None], object]) -> None:
        """Outline some cells, many of them in the background; what is asked later comes instead."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        work = self._traced_now(sheet, ids)
        if self._tracing is not None:
            self._tracing.cancel()
            self._tracing = None
        if len(ids) <= AT_ONCE:
            then(work(None))
            return
        stale = lambda: self.session.selection.cell_ids != ids  # noqa: E731
        self._tracing = self.session.jobs.start("Outlining", work, then, stale=stale)

    def trace(self) -> None:
        """Outline the selected cells; they follow the slider until others are selected."""
        ids = self.session.selection.cell_ids
        if not ids:
            self.session.tell("told", "No cell is selected.", "Select cells to outline.")
            return

        def give(found: Outlined | None) -> None:
            if found is None:
                self.session.tell(
                    "told", "Nothing in these cells is solid, or their parts need more vertices.",
                    "Lower the alpha, allow more, or draw a shape instead.",
                )  # fmt: skip
                return
            if self.session.document.edit(f"Outline {many(len(ids), 'cell')}", found.change, ("trace", ids)):
                self._traced = ids
                self.session.selection.choose_cells(ids, 0)
                self._told(found)

        self._outline(ids, give)

    def _told(self, found: Outlined) -> None:
        words = f"{found.vertices} vertices, at most {found.error:.2f} px off the border"
        if found.refused:
            words += f"; {many(found.refused, 'cell')} with more parts than that left as they are"
        self.words.setText(words)

    def _preview(self) -> None:
        """Follow the slider: show the outlines of the cells last traced."""

        def show(found: Outlined | None) -> None:
            if found is None:
                self.words.setText("Nothing is solid, or the parts need more vertices.")
            else:
                self.session.document.preview(found.change)
                self._told(found)

        if self._traced and self._traced == self.session.selection.cell_ids:
            self._outline(self._traced, show)

    def settle(self) -> None:
        pending = self._tracing is not None and self._tracing in self.session.jobs.running
        if (
            self._traced
            and self._traced == self.session.selection.cell_ids
            and (self.session.document.gesturing or pending)
        ):
            self.trace()

    def _again(self) -> None:
        if self._traced and self._traced == self.session.selection.cell_ids:
            self.trace()

    # -- the rest ----------------------------------------------------------------------------------

    def propose(self) -> None:
        """Work out shapes for the cells without one; the selected ones if several are selected."""
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        only = self.session.selection.cell_ids if len(self.session.selection.cell_ids) > 1 else ()
        rgba, tolerance = self.session.stock.pixels_or_blank(sheet), self.tolerance.values[0]

        def work(job: Job) -> tuple[list[Proposed], list[Cell]]:
            made = propose_shapes(sheet.cells, rgba, only, tolerance)
            cells = {cell.id: cell for cell in sheet.cells}
            return made, [replace(cells[one.cell], shapes=one.shapes) for one in made]

        def stale() -> bool:
            now = self.session.selection.sheet
            return now is None or now.cells is not sheet.cells

        self.session.jobs.start("Proposing shapes", work, self._found, stale=stale)

    def _found(self, found: tuple[list[Proposed], list[Cell]]) -> None:
        made, self._cells = found
        self._drawn = (None, [])
        self.proposed = {p.cell: p for p in made}
        twins = sum(p.from_twin for p in made)
        if not made:
            self.words.setText("Every cell that holds art has a shape.")
        else:
            pixels = len(made) - twins
            self.words.setText(f"{twins} from twins, {pixels} from the pixels. Press one to take it alone.")
        self.show_state()
        self.context.desk.update()

    def show_state(self) -> None:
        for widget in (self.take, self.leave):
            widget.setVisible(bool(self.proposed))

    def take_all(self) -> None:
        """Give every proposal that is still open, as one edit."""
        given = {one.cell: one.shapes for one in self._open()}
        if given:
            words = f"Give shapes to {many(len(given), 'cell')}"
            make = partial(self.session.document.edit, words)
            worked_out(self.session, words, partial(give_each, shapes=given), make, len(given) > AT_ONCE)
        self.drop()

    def take_one(self, cell: Cell) -> bool:
        """Give the proposal of one cell; returns whether it had one."""
        one = self.proposed.get(cell.id)
        if one is None or cell.shapes:
            return False
        self.session.document.edit(
            f"Give {cell.name} a shape", partial(set_shapes, cell_ids=[cell.id], shapes=one.shapes)
        )
        del self.proposed[cell.id]
        self.session.selection.choose_cells((cell.id,), 0)
        self.show_state()
        return True

    def drop(self) -> None:
        self.proposed = {}
        self.words.setText("")
        self.show_state()
        self.context.desk.update()

    def _open(self) -> list[Proposed]:
        """The proposals whose cells are there and still have no shape."""
        bare = {c.id for s in self.session.project.sheets for c in s.cells if not c.shapes}
        return [p for p in self.proposed.values() if p.cell in bare]

    def paint(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        """The proposals as dashed outlines in straw."""
        if not self.proposed:
            return
        view, look = self.context.desk.view, self.context.look
        cells = self._shown(sheet)
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        groups = self._paths.groups(cells, QRectF(a, b))
        if not self._paths.complete:
            self._more.start()
        one = QPainterPath()
        for path in (path for group in groups for path in group.paths.values()):
            one.addPath(path)
        painter.save()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.translate(view.offset)
        painter.scale(view.zoom, view.zoom)
        crowded = len(cells) > MOST_DASHED or one.elementCount() > MOST_CORNERS
        casing, pen = (
            QPen(look.colour("art_casing", 0.7), 4),
            QPen(look.colour("art_straw"), 1 if crowded else 2),
        )
        if not crowded:
            pen.setDashPattern([3, 2])
        for each in (pen,) if crowded else (casing, pen):
            each.setCosmetic(True)
            painter.setPen(each)
            painter.drawPath(one)
        painter.restore()

    def _shown(self, sheet: Sheet) -> list[Cell]:
        """The cells that have an open proposal, with what is proposed as their shapes."""
        if self._drawn[0] is not sheet.cells:
            bare = {cell.id for cell in sheet.cells if not cell.shapes and cell.id in self.proposed}
            self._drawn = (sheet.cells, [cell for cell in self._cells if cell.id in bare])
        return self._drawn[1]

    def _make_more(self) -> None:
        """More of the paths of what is proposed, a few in each turn of the event loop."""
        self._paths.make()
        self.context.desk.update()
