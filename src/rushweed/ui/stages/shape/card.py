"""The Card of Shape: common shapes, the shapes of a cell in numbers, what they are made of, outlines."""

from __future__ import annotations

from typing import get_args

from msgspec.structs import replace
from PyQt6.QtWidgets import QWidget

from rushweed.core.document.model.shape import Box, Circle, Polygon, Role, Shape
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.shape.edit import put_shape, role_counts, shaped_counts
from rushweed.core.shape.primitives import area, bounds, corners
from rushweed.core.tune.units import plain
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.kit.card import Card
from rushweed.ui.kit.controls import IconButton, Rule, button, label, row
from rushweed.ui.kit.fields import Numbers, NumbersField, TextField
from rushweed.ui.kit.text import cell_title, many, unbroken
from rushweed.ui.stages.shape.board import CommonBoard, ShapeList
from rushweed.ui.stages.shape.editing import ShapeEditing
from rushweed.ui.stages.shape.material import Material
from rushweed.ui.stages.shape.pixels import FromPixels


class ShapeCard(Card):
    def __init__(self, context: Context, editing: ShapeEditing, marks: ShapeMarks) -> None:
        super().__init__(context.look, "Card")
        self.session, self.editing = context.session, editing
        self._shapes: list[Shape] = []  # those shown
        self._counted: object = None  # the cells that were counted last
        self.board = CommonBoard(self.look)
        self.board.edited.connect(editing.give)
        self.add(self.board)
        tools = QWidget()
        buttons = []
        for glyph, tip, call in (
            ("arrows-left-right", "Mirror left and right  (M)", lambda: editing.rearrange("mirror")),
            ("arrows-down-up", "Flip vertically  (Shift+M)", lambda: editing.rearrange("flip")),
            ("arrow-clockwise", "Turn a quarter  (U)", lambda: editing.rearrange("turn")),
            ("trash", "Take the shapes away  (Delete)", editing.remove),
        ):
            made = IconButton(self.look, context.icons, glyph, tip, framed=True)
            made.pressed.connect(call)
            buttons.append(made)
        self._copy = button("Copy to the selected")
        self._copy.setToolTip("Give the shapes of the cell selected last to all selected cells")
        self._copy.clicked.connect(editing.copy)
        tools.setLayout(row(*buttons, self._copy, None, spacing=4))
        self.add(tools)
        self.add(Rule(self.look))
        self._list = ShapeList(self.look, marks)
        self._list.chosen.connect(
            lambda i: self.session.selection.choose_cells(self.session.selection.cell_ids, i)
        )
        self.add(self._list)
        self.place = NumbersField(2, "px", Numbers(-4096, 4096, False), self.look, between=", ")
        self.extent = NumbersField(2, "px", Numbers(0.001, 4096, False), self.look)
        for field in (self.place, self.extent):
            field.edited.connect(lambda _v: self._typed())
            self.session.document.follow(field)
        self._numbers = [self.field("Position", self.place), self.field("Size", self.extent)]
        self.points = TextField("x,y x,y x,y", mono=True)
        self.points.setToolTip("The vertices of a polygon in px of the cell, one after another")
        self.points.edited.connect(self._points_typed)
        self._points_line = self.field("Vertices", self.points)
        self._facts = label("", "mono")
        self._facts.setWordWrap(True)
        self.add(self._facts)
        self.material = Material(context)
        self.add(self.material)
        self.add(Rule(self.look))
        self.pixels = FromPixels(context, editing.roles)
        self.add(self.pixels)
        self.add(Rule(self.look))
        self.counts = label("", "quiet")
        self.counts.setWordWrap(True)
        self.add(self.counts)
        self.end()

    def refresh(self, shapes: list[Shape]) -> None:
        """Show the selected cells and these shapes of theirs."""
        self._shapes = shapes
        sheet, cells, cell = (
            self.session.selection.sheet,
            self.session.selection.cells,
            self.session.selection.cell,
        )
        self.setEnabled(sheet is not None)
        self.pixels.follow(sheet.id if sheet else "")
        what, where = cell_title(sheet, cells)
        self.what.setText(what)
        self.where.setText(where)
        self.material.refresh(shapes)
        self._copy.setEnabled(len(cells) > 1)
        self._list.show_cell(cell if len(cells) == 1 else None, self.session.selection.shape_index)
        shape = self.editing.shape()
        for holder in (*self._numbers, self._facts):
            holder.setVisible(shape is not None)
        if sheet is None:
            return
        self._points_line.setVisible(isinstance(shape, Polygon))
        if isinstance(shape, Polygon):
            self.points.show_value(" ".join(f"{plain(x, 3)},{plain(y, 3)}" for x, y in shape.points))
        if shape is not None:
            left, top, right, bottom = bounds(shape)
            self.place.show_value((left, top))
            self.extent.show_value((right - left, bottom - top))
            size, ppu = area(shape), sheet.tune.ppu
            facts = f"{plain(size, 1)} px²", f"{plain(size / ppu**2, 2)} u²"
            self._facts.setText(unbroken(*facts, many(len(corners(shape)), "corner")))
        if sheet.cells is not self._counted:
            self._counted = sheet.cells
            self.counts.setText(self._count(sheet))

    def _count(self, sheet: Sheet) -> str:
        """How many of its cells have a shape, and of which roles."""
        shaped, bare = shaped_counts(self.session.project, sheet.id)
        if not shaped:
            return f"None of {many(len(sheet.cells), 'cell')} has a shape."
        counts = role_counts(sheet)
        words = ", ".join(f"{counts[role]} {role}" for role in get_args(Role) if counts[role])
        return f"{shaped} of {many(len(sheet.cells), 'cell')} have a shape ({words}), {bare} have none."

    def _points_typed(self, text: str) -> None:
        """Vertices as typed: pairs of numbers, each pair after a blank."""
        cell, shape, index = (
            self.session.selection.cell,
            self.editing.shape(),
            self.session.selection.shape_index or 0,
        )
        if cell is None or not isinstance(shape, Polygon):
            return
        try:
            points = tuple((float(x), float(y)) for x, y in (pair.split(",") for pair in text.split()))
        except ValueError:
            self.session.tell("fault", f"{text!r} is no list of vertices.", "Write them as 0,16 16,0 16,16.")
            self.refresh(self._shapes)
            return
        new = replace(shape, points=points)
        if not self.session.document.edit(
            f"Set the vertices of {cell.name}", lambda p: put_shape(p, cell.id, index, new)
        ):
            self.refresh(self._shapes)

    def _typed(self) -> None:
        cell, shape, index = (
            self.session.selection.cell,
            self.editing.shape(),
            self.session.selection.shape_index or 0,
        )
        if cell is None or shape is None:
            return
        (x, y), (w, h) = self.place.values, self.extent.values
        left, top, right, bottom = bounds(shape)
        if isinstance(shape, Box):
            new: Shape = replace(shape, x=x, y=y, w=w, h=h)
        elif isinstance(shape, Circle):
            radius = (w if w != right - left else h) / 2
            new = replace(shape, x=x + radius, y=y + radius, radius=radius)
        else:
            sx, sy = w / (right - left), h / (bottom - top)
            new = replace(
                shape, points=tuple((x + (a - left) * sx, y + (b - top) * sy) for a, b in shape.points)
            )
        self.session.document.edit(
            f"Set a shape of {cell.name}",
            lambda p: put_shape(p, cell.id, index, new),
            ("shape", cell.id, index),
        )
