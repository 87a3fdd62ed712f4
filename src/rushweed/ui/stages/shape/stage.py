"""Shape: where tiles are solid, one-way or felt; one move for many tiles."""

from __future__ import annotations

from typing import Literal, get_args

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QStackedWidget

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Polygon, Role, Shape, Side
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.shape.drag import grips
from rushweed.core.shape.edit import (
    clear_shapes,
    copy_shapes,
    give_common,
    rearrange,
    remove_shape,
    set_role,
    set_shapes,
)
from rushweed.core.shape.primitives import Snap, bounds, corners, crossings, snapped
from rushweed.core.tune.units import plain
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.marks import Coverage, paint_waste
from rushweed.ui.desk.rulers import Band, inside_cell
from rushweed.ui.desk.shape_marks import ShapeMarks, diamond
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.choices import ChoiceRow, PickBox
from rushweed.ui.kit.controls import Check, label, tag
from rushweed.ui.kit.text import many
from rushweed.ui.stages.shape.auto import AutoCard
from rushweed.ui.stages.shape.card import ShapeCard
from rushweed.ui.stages.shape.tools.brushes import Erase, GiveRole, GiveShape
from rushweed.ui.stages.shape.tools.forms import DrawBox, DrawCircle
from rushweed.ui.stages.shape.tools.joins import JoinBrush
from rushweed.ui.stages.shape.tools.point import PointShapes
from rushweed.ui.stages.shape.tools.ring import DrawRing
from rushweed.ui.stages.shape.tools.tool import ShapeTool
from rushweed.ui.stages.shape.tools.traits import TraitBrush
from rushweed.ui.stages.shape.traits import TraitCard
from rushweed.ui.stages.shape.vertices import edge_middles, paint_crossings
from rushweed.ui.stages.sheet_stage import SheetStage

UNSHAPED = 0.68


class ShapeStage(SheetStage):
    key, title = "shape", "Shape"
    dims_waste = False
    TOOLS = (
        PointShapes, DrawBox, DrawCircle, DrawRing, GiveShape, GiveRole, Erase, TraitBrush, JoinBrush,
    )  # fmt: skip

    def __init__(self, *parts: object) -> None:
        super().__init__(*parts)  # type: ignore[arg-type]
        self.marks = ShapeMarks(self.look)
        self._shaped = Coverage()

    @property
    def active(self) -> ShapeTool:
        tool = super().active
        assert isinstance(tool, ShapeTool)
        return tool

    def build(self) -> None:
        roles = [("solid", "Solid"), ("one-way", "One-way"), ("sensor", "Sensor")]
        self.role = ChoiceRow(self.look, roles, self.marks.sample)
        self.role.edited.connect(self._role_chosen)
        self._stops = PickBox(self.look, get_args(Side))
        self._stops.setToolTip("The side of a one-way shape that stops; the comb hangs where things pass")
        self._stops.picked.connect(lambda _s: self._role_chosen("one-way"))
        self._stops_name = label("Blocks from")
        snaps = [("px", "px"), ("half", "½ px"), ("quarter", "¼ cell"), ("free", "free")]
        self._snap = ChoiceRow(self.look, snaps)
        self._dim = Check(self.look, self.icons, "Dim tiles without")
        self._dim.show_value(True)
        self._dim.edited.connect(lambda _v: self.desk.update())
        self.option_line.fill(
            self.role, self._stops_name, self._stops, 4, label("Snap"), self._snap, 4, self._dim, None
        )
        self._build_card()

    def _build_card(self) -> None:
        self.main = ShapeCard(self)
        self.board, self.pixels = self.main.board, self.main.pixels
        self.traits, self.auto = TraitCard(self), AutoCard(self)
        self._pages = QStackedWidget()
        for page in (self.main, self.traits, self.auto):
            self._pages.addWidget(scrolled(page))
        self.card = self._pages

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        sheet, cells, cell = (
            self.session.selection.sheet,
            self.session.selection.cells,
            self.session.selection.cell,
        )
        self.option_line.setEnabled(sheet is not None)
        self.active.refresh_page()
        shapes = [s for c in cells for s in c.shapes]
        if self.session.selection.shape_index is not None and cell is not None:
            shapes = [cell.shapes[self.session.selection.shape_index]]
        roles = {s.role for s in shapes}
        if len(roles) == 1:
            self.role.show_value(roles.pop())
            self._stops.setCurrentText(shapes[0].stops)
        elif roles:
            self.role.show_value(None)
        one_way = self.role.value == "one-way"
        self._stops.setVisible(one_way)
        self._stops_name.setVisible(one_way)
        self.main.refresh(shapes)

    def shape(self) -> Shape | None:
        """The one shape that is selected."""
        cell, index = self.session.selection.cell, self.session.selection.shape_index
        if cell is None or len(self.session.selection.cells) != 1 or not cell.shapes:
            return None
        return cell.shapes[index or 0] if (index or 0) < len(cell.shapes) else None

    def paint_art_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        view = self.desk.view
        if self._dim.on and sheet.cells and self.active.dims:
            shaped = replace(sheet, cells=tuple(c for c in sheet.cells if c.shapes))
            key = self._shaped_key
            if key is None or key[0] is not sheet.cells:
                self._shaped_key = (sheet.cells, self._shaped.mask(shaped) if shaped.cells else None)
            mask = self._shaped_key[1] if self._shaped_key else None
            if mask is not None:
                paint_waste(
                    painter, view, room, sheet.source.size, lambda ys, xs: mask[ys][:, xs],
                    self.look.colour("desk", UNSHAPED),
                )  # fmt: skip
        if self.active.shows_shapes:
            self.marks.paint_cells(painter, view, self._seen(sheet, room))

    _shaped_key: tuple | None = None

    def _seen(self, sheet: Sheet, room: QRectF) -> list[Cell]:
        """The cells with shapes that are in the room."""
        view = self.desk.view
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        left, top, right, bottom = a.x(), a.y(), b.x(), b.y()
        key = (sheet.cells, left, top, right, bottom)
        if self._seen_key is None or self._seen_key[0] is not key[0] or self._seen_key[1:] != key[1:]:
            self._seen_key, found = key, []
            for cell in sheet.cells:
                if cell.shapes:
                    x, y, w, h = cell.rect
                    if x < right and y < bottom and x + w > left and y + h > top:
                        found.append(cell)
            self._seen_cells = found
        return self._seen_cells

    _seen_key: tuple | None = None
    _seen_cells: list[Cell] = []

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        tool = self.active
        if tool.page:
            tool.paint(painter, room)
            return
        self.pixels.paint(painter, room, sheet)
        tool.paint_over(painter)
        cells = self.session.selection.cells
        if len(cells) == 1 and not cells[0].shapes and tool.ghost is None:
            (x, y, w, h), view = cells[0].rect, self.desk.view
            corner = view.to_screen(x, y + h)
            if w * view.zoom > 60:
                tag(painter, self.look, corner.x() + 4, corner.y() - 20, "no shape")

    def paint_edited(self, painter: QPainter, cell: Cell, shape: Shape) -> None:
        """The outline in rust with its corners as diamonds, and the size told in px and units."""
        view, look = self.desk.view, self.look
        x, y = cell.rect[0], cell.rect[1]
        ring = QPolygonF([view.to_screen(x + px, y + py) for px, py in corners(shape)])
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.colour("art_paper"), 4))
        painter.drawPolygon(ring)
        crossed = isinstance(shape, Polygon) and bool(crossings(shape.points))
        painter.setPen(QPen(look.colour("art_fault" if crossed else "art_rust"), 2))
        painter.drawPolygon(ring)
        for _edge, px, py in edge_middles(shape) if self.active.reshapes else ():
            middle = view.to_screen(x + px, y + py)
            diamond(painter, middle, 4, look.colour("art_paper"), look.colour("art_rust"), 1)
        if isinstance(shape, Polygon):
            paint_crossings(painter, self, cell, shape.points)
        for _name, at in self.grips(cell, shape):
            diamond(painter, at, 6, look.colour("art_paper"), look.colour("art_ink"), 1.5)
        painter.restore()
        left, top, right, bottom = bounds(shape)
        sheet = self.session.selection.sheet
        ppu = sheet.tune.ppu if sheet else 1
        w, h = right - left, bottom - top
        text = f"{plain(w, 2)} × {plain(h, 2)} px  {w / ppu:.2f} × {h / ppu:.2f} u"
        at = view.to_screen(x + left, y + top)
        tag(painter, look, at.x(), max(at.y() - 24, self.desk.room.top() + 2), text, rust=self.active.grabs)

    def ruler(self, band: Band) -> None:
        super().ruler(band)
        cell = self.session.selection.cell
        if (
            cell is not None
            and len(self.session.selection.cells) == 1
            and cell.rect[2] * self.desk.view.zoom > 60
        ):
            band.painter.fillRect(
                band.box(band.at(cell.rect[band.axis]), cell.rect[band.axis + 2] * self.desk.view.zoom),
                self.look.colour("paper"),
            )
            inside_cell(band, cell.rect)

    def describe(self, at: DeskEvent) -> str:
        cell = self.cell_under(at)
        text = super().describe(at)
        if cell is None:
            return text
        x, y = at.x - cell.rect[0], at.y - cell.rect[1]
        return f"in the cell {int(x)}, {int(y)} px   {text.split('   ', 2)[-1]}"

    # -- pointer ---------------------------------------------------------------------------------------

    def grips(self, cell: Cell, shape: Shape) -> list[tuple[str, QPointF]]:
        """The grips of a shape on screen, by name."""
        x, y = cell.rect[:2]
        return [(name, self.desk.view.to_screen(x + px, y + py)) for name, (px, py) in grips(shape).items()]

    def use(self, tool: str) -> None:
        super().use(tool)
        self._pages.setCurrentIndex(self.active.page)
        self.refresh()

    def role_now(self) -> tuple[Role, Side]:
        role, side = self.role.value or "solid", self._stops.currentText()
        return role, side  # type: ignore[return-value]

    def snap_now(self) -> Snap:
        return self._snap.value or "px"  # type: ignore[return-value]

    def snapped_in(self, cell: Cell, at: DeskEvent) -> tuple[float, float]:
        snap = self.snap_now()
        x, y = at.x - cell.rect[0], at.y - cell.rect[1]
        x, y = snapped(x, snap, cell.rect[2]), snapped(y, snap, cell.rect[3])
        return min(max(x, 0), cell.rect[2]), min(max(y, 0), cell.rect[3])

    def copy_out(self) -> None:
        """Keep the shapes of the cell selected last, to be pasted."""
        cell = self.session.selection.cell
        if cell is not None:
            self.copied = cell.shapes
            self.session.tell(
                "told", f"The shapes of {cell.name} are copied; Ctrl+Shift+V gives them to others."
            )

    def paste(self) -> None:
        ids, shapes = self.session.selection.cell_ids, self.copied
        if shapes is not None:
            self.session.document.edit(
                f"Paste shapes to {many(len(ids), 'cell')}", lambda p: set_shapes(p, ids, shapes)
            )

    copied: tuple[Shape, ...] | None = None

    # -- editing ---------------------------------------------------------------------------------------

    def _role_chosen(self, role: str) -> None:
        ids, (_role, side) = self.session.selection.cell_ids, self.role_now()
        if any(c.shapes for c in self.session.selection.cells):
            self.session.document.edit(
                f"Make {many(len(ids), 'cell')} {role}",
                lambda p: set_role(p, ids, role, side),  # type: ignore[arg-type]
            )
        self.refresh()

    def give(self, name: str) -> None:
        """Give the selected cells a common shape; without a selection it is only made ready to brush."""
        self.board.chosen = name
        self.board.update()
        ids, (role, side) = self.session.selection.cell_ids, self.role_now()
        if ids:
            self.session.document.edit(
                f"Give {name} to {many(len(ids), 'cell')}", lambda p: give_common(p, ids, name, role, side)
            )
        elif self.active.reshapes:
            self.use(GiveShape.id)

    def copy(self) -> None:
        cell, ids = self.session.selection.cell, self.session.selection.cell_ids
        if cell is not None:
            self.session.document.edit(
                f"Copy the shape of {cell.name} to {many(len(ids) - 1, 'cell')}",
                lambda p: copy_shapes(p, cell.id, ids),
            )

    def rearrange(self, how: Literal["mirror", "flip", "turn"]) -> None:
        ids = self.session.selection.cell_ids
        self.session.document.edit(
            f"{how.capitalize()} the shapes of {many(len(ids), 'cell')}", lambda p: rearrange(p, ids, how)
        )

    def remove(self) -> None:
        cell, index, ids = (
            self.session.selection.cell,
            self.session.selection.shape_index,
            self.session.selection.cell_ids,
        )

        def change(project: Project) -> Project:
            if len(ids) == 1 and index is not None and cell is not None:
                return remove_shape(project, cell.id, index)
            return clear_shapes(project, ids)

        self.session.document.edit(f"Take shapes away from {many(len(ids), 'cell')}", change)
