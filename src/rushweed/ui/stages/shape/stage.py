"""Shape: where tiles are solid, one-way or felt; one move for many tiles."""

from __future__ import annotations

from typing import Literal, get_args

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QStackedWidget

from rushweed.core.document.model import Box, Cell, Polygon, Project, Role, Shape, Sheet, Side
from rushweed.core.shape.drag import dragged, grips
from rushweed.core.shape.edit import (
    add_shape,
    clear_shapes,
    copy_shapes,
    give_common,
    put_shape,
    rearrange,
    remove_shape,
    set_role,
    set_shapes,
)
from rushweed.core.shape.primitives import Snap, bounds, contains, corners, crossings, snapped
from rushweed.core.tune.units import plain
from rushweed.ui.commands.command import Command
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import Coverage, paint_waste
from rushweed.ui.desk.rulers import Band, inside_cell
from rushweed.ui.desk.shape_marks import ShapeMarks, diamond
from rushweed.ui.desk.tool import Tool
from rushweed.ui.kit.card import scrolled
from rushweed.ui.kit.controls import Check, label, tag
from rushweed.ui.kit.fields import ChoiceRow, PickBox
from rushweed.ui.kit.text import many
from rushweed.ui.session.gesture import Gesture
from rushweed.ui.stages.shape.auto import AutoCard, JoinBrush
from rushweed.ui.stages.shape.card import ShapeCard
from rushweed.ui.stages.shape.commands import commands
from rushweed.ui.stages.shape.draw import (
    Drawing,
    circle_of,
    edge_middles,
    insert_vertex,
    paint_crossings,
    remove_vertex,
)
from rushweed.ui.stages.shape.traits import TraitBrush, TraitCard
from rushweed.ui.stages.sheet_stage import POINT, SheetStage

UNSHAPED = 0.68
GRAB = 8  # screen px within which a handle is caught


class ShapeStage(SheetStage):
    key, title = "shape", "Shape"
    dims_waste = False
    tools = (
        Tool(POINT.id, POINT.words, POINT.icon, POINT.key,
             "Select cells and shapes; drag a shape or its corners, Alt keeps the centre"),
        Tool("box", "Box", "rectangle", "B", "Drag a box in a cell; Shift makes it square", 1),
        Tool("circle", "Circle", "circle", "C", "Drag from its middle outwards", 1),
        Tool("ring", "Polygon", "polygon", "N",
             "Press point by point; Enter or the first point closes, Backspace takes one back", 1),
        Tool("give", "Give a common shape", "paint-brush-broad", "G", "Brush the chosen one over tiles", 1),
        Tool("role", "Give a role", "swatches", "R", "Brush the chosen role over tiles that have shapes", 1),
        Tool("erase", "Take shapes away", "eraser", "E", "Brush over tiles to clear them", 1),
        Tool("trait", "Traits", "tag", "T", "Brush the chosen trait; the right button takes it back", 2),
        Tool("auto", "Auto-tile", "puzzle-piece", "A", "Press a side or corner of a tile that joins", 2),
    )  # fmt: skip

    def __init__(self, *parts: object) -> None:
        super().__init__(*parts)  # type: ignore[arg-type]
        self.marks = ShapeMarks(self.look)
        self._shaped = Coverage()
        self._drawing: tuple[Cell, float, float] | None = None
        self._grab: tuple[Cell, int, str] | None = None  # cell, shape, handle name
        self._start = (0.0, 0.0)
        self._ghost: Shape | None = None
        self._brushed: set[str] = set()
        self._stroke: Gesture | None = None
        self.ring = Drawing(self)

    def build(self) -> None:
        roles = [("solid", "Solid"), ("one-way", "One-way"), ("sensor", "Sensor")]
        self._role = ChoiceRow(self.look, roles, self.marks.sample)
        self._role.edited.connect(self._role_chosen)
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
            self._role, self._stops_name, self._stops, 4, label("Snap"), self._snap, 4, self._dim, None
        )
        self._build_card()

    def _build_card(self) -> None:
        self.main = ShapeCard(self)
        self.board, self.pixels = self.main.board, self.main.pixels
        self.traits, self.auto = TraitCard(self), AutoCard(self)
        self.brushes: dict[str, TraitBrush | JoinBrush] = {
            "trait": TraitBrush(self, self.traits), "auto": JoinBrush(self, self.auto),
        }  # fmt: skip
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
        if self.tool == "trait":
            self.traits.refresh()
        elif self.tool == "auto":
            self.auto.refresh()
        shapes = [s for c in cells for s in c.shapes]
        if self.session.selection.shape_index is not None and cell is not None:
            shapes = [cell.shapes[self.session.selection.shape_index]]
        roles = {s.role for s in shapes}
        if len(roles) == 1:
            self._role.show_value(roles.pop())
            self._stops.setCurrentText(shapes[0].stops)
        elif roles:
            self._role.show_value(None)
        one_way = self._role.value == "one-way"
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
        if self._dim.on and sheet.cells and self.tool not in self.brushes:
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
        if self.tool != "auto":
            self.marks.paint_cells(painter, view, self._seen(sheet, room))

    _shaped_key: tuple | None = None  # type: ignore[type-arg]

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

    _seen_key: tuple | None = None  # type: ignore[type-arg]
    _seen_cells: list[Cell] = []

    def paint_marks(self, painter: QPainter, room: QRectF, sheet: Sheet) -> None:
        view = self.desk.view
        if self.tool in self.brushes:
            self.brushes[self.tool].paint(painter, room, sheet)
            return
        self.pixels.paint(painter, room, sheet)
        if self.tool == "ring":
            self.ring.paint(painter)
        if self._drawing is not None and self._ghost is not None:
            cell = self._drawing[0]
            self._edited(painter, cell, self._ghost)
            return
        last, shape = self.session.selection.cell, self.shape()
        if last is not None and shape is not None and self.tool == "point":
            self._edited(painter, last, shape)
        elif last is not None and not last.shapes and len(self.session.selection.cells) == 1:
            corner = view.to_screen(last.rect[0], last.rect[1] + last.rect[3])
            if last.rect[2] * view.zoom > 60:
                tag(painter, self.look, corner.x() + 4, corner.y() - 20, "no shape")

    def _edited(self, painter: QPainter, cell: Cell, shape: Shape) -> None:
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
        for _edge, px, py in edge_middles(shape) if self.tool == "point" else ():
            middle = view.to_screen(x + px, y + py)
            diamond(painter, middle, 4, look.colour("art_paper"), look.colour("art_rust"), 1)
        if isinstance(shape, Polygon):
            paint_crossings(painter, self, cell, shape.points)
        for _name, at in self._grips(cell, shape):
            diamond(painter, at, 6, look.colour("art_paper"), look.colour("art_ink"), 1.5)
        painter.restore()
        left, top, right, bottom = bounds(shape)
        sheet = self.session.selection.sheet
        ppu = sheet.tune.ppu if sheet else 1
        w, h = right - left, bottom - top
        text = f"{plain(w, 2)} × {plain(h, 2)} px  {w / ppu:.2f} × {h / ppu:.2f} u"
        at = view.to_screen(x + left, y + top)
        tag(
            painter,
            look,
            at.x(),
            max(at.y() - 24, self.desk.room.top() + 2),
            text,
            rust=self._grab is not None,
        )

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

    def _grips(self, cell: Cell, shape: Shape) -> list[tuple[str, QPointF]]:
        """The grips of a shape on screen, by name."""
        x, y = cell.rect[:2]
        return [(name, self.desk.view.to_screen(x + px, y + py)) for name, (px, py) in grips(shape).items()]

    def _caught(self, at: DeskEvent) -> tuple[Cell, int, str] | None:
        """The handle or body of a shape under the pointer; the selected shape goes first."""
        cell, shape = self.session.selection.cell, self.shape()
        if cell is not None and shape is not None:
            for name, spot in self._grips(cell, shape):
                if abs(spot.x() - at.screen.x()) <= GRAB and abs(spot.y() - at.screen.y()) <= GRAB:
                    return cell, self.session.selection.shape_index or 0, name
        under = self.cell_under(at)
        if under is not None:
            x, y = at.x - under.rect[0], at.y - under.rect[1]
            for index in reversed(range(len(under.shapes))):
                if contains(under.shapes[index], x, y):
                    return under, index, "body"
        return None

    def press(self, at: DeskEvent) -> None:
        cell = self.cell_under(at)
        self._start = (at.x, at.y)
        if self.tool in self.brushes:
            self.brushes[self.tool].press(at)
            return
        if self.tool == "point" and self._press_vertex(at):
            return
        if self.tool == "ring":
            self.ring.press(at)
        elif self.tool == "point":
            if cell is not None and self.pixels.take_one(cell):
                return
            caught = None if at.ctrl or at.shift else self._caught(at)
            if caught is None:
                super().press(at)
                return
            already = self.session.selection.cell_ids == (caught[0].id,)
            self.session.selection.choose_cells((caught[0].id,), caught[1])
            self._anchor = caught[0].id if caught[2] == "body" and not already else None
            self._grab = caught if already else None
        elif self.tool in ("box", "circle") and cell is not None:
            self.session.selection.choose_cells((cell.id,))
            self._drawing = (cell, *self.snapped_in(cell, at))
            self._ghost = None
        elif self.tool in ("give", "role", "erase"):
            self._brushed = set()
            self._stroke = self.session.document.gesture("Brush shapes")
            self._brush(at)

    def _press_vertex(self, at: DeskEvent) -> bool:
        """On the selected polygon: a press mid edge adds a vertex, Ctrl and a press on one removes it."""
        cell, shape = self.session.selection.cell, self.shape()
        if cell is None or not isinstance(shape, Polygon):
            return False
        index, (x, y) = self.session.selection.shape_index or 0, cell.rect[:2]
        for name, spot in self._grips(cell, shape):
            if self._near(spot, at):
                if at.ctrl:
                    remove_vertex(self, cell, index, int(name))
                return at.ctrl
        for edge, px, py in edge_middles(shape):
            if self._near(self.desk.view.to_screen(x + px, y + py), at):
                insert_vertex(self, cell, index, edge, (px, py))
                now = self.session.selection.cell
                self._grab = (now, index, str(edge + 1)) if now is not None else None
                return True
        return False

    @staticmethod
    def _near(spot: QPointF, at: DeskEvent) -> bool:
        return abs(spot.x() - at.screen.x()) <= GRAB and abs(spot.y() - at.screen.y()) <= GRAB

    def role_now(self) -> tuple[Role, Side]:
        return self._now(), self._side()

    def snap_now(self) -> Snap:
        return self._snap.value or "px"  # type: ignore[return-value]

    def hover(self, at: DeskEvent) -> None:
        super().hover(at)
        if self.tool == "ring":
            self.ring.hover(at)

    def key_pressed(self, event: QKeyEvent) -> bool:
        if self.tool == "ring" and self.ring.key_pressed(event):
            return True
        return super().key_pressed(event)

    def snapped_in(self, cell: Cell, at: DeskEvent) -> tuple[float, float]:
        snap: Snap = self._snap.value or "px"  # type: ignore[assignment]
        x, y = at.x - cell.rect[0], at.y - cell.rect[1]
        x, y = snapped(x, snap, cell.rect[2]), snapped(y, snap, cell.rect[3])
        return min(max(x, 0), cell.rect[2]), min(max(y, 0), cell.rect[3])

    def drag(self, at: DeskEvent) -> None:
        if self.tool in self.brushes:
            self.brushes[self.tool].drag(at)
        elif self._drawing is not None:
            cell, x0, y0 = self._drawing
            x1, y1 = self.snapped_in(cell, at)
            if self.tool == "circle":
                self._ghost = circle_of((x0, y0), (x1, y1), self)
                return
            if at.shift:
                side = max(abs(x1 - x0), abs(y1 - y0))
                x1, y1 = x0 + side * (1 if x1 >= x0 else -1), y0 + side * (1 if y1 >= y0 else -1)
            if x1 != x0 and y1 != y0:
                self._ghost = Box(
                    min(x0, x1), min(y0, y1), abs(x1 - x0), abs(y1 - y0), self._now(), self._side()
                )
            else:
                self._ghost = None
        elif self._grab is not None:
            cell, index, handle = self._grab
            shape = self._dragged(cell, index, handle, at)
            self.session.document.preview(lambda p: put_shape(p, cell.id, index, shape))
        elif self.tool in ("give", "role", "erase"):
            self._brush(at)
        else:
            super().drag(at)

    def _dragged(self, cell: Cell, index: int, grip: str, at: DeskEvent) -> Shape:
        snap: Snap = self._snap.value or "px"  # type: ignore[assignment]
        x, y, w, h = cell.rect
        start, to = (self._start[0] - x, self._start[1] - y), (at.x - x, at.y - y)
        return dragged(cell.shapes[index], grip, start, to, (w, h), snap, at.alt)

    def _brush(self, at: DeskEvent) -> None:
        found = {c.id for c in self.cells_along(self._start if self._brushed else None, at)} - self._brushed
        self._start = (at.x, at.y)
        if not found or self._stroke is None:
            return
        self._brushed |= found
        ids, role, side, name = tuple(found), self._now(), self._side(), self.board.chosen
        if self.tool == "erase":
            self._stroke.update(lambda p: clear_shapes(p, ids))
        elif self.tool == "role":
            self._stroke.update(lambda p: set_role(p, ids, role, side))
        else:
            self._stroke.update(lambda p: give_common(p, ids, name, role, side))

    def release(self, at: DeskEvent) -> None:
        if self.tool in self.brushes:
            self.brushes[self.tool].release(at)
        elif self._drawing is not None:
            cell, ghost = self._drawing[0], self._ghost
            self._drawing, self._ghost = None, None
            if ghost is not None:
                number = len(cell.shapes)
                form = type(ghost).__name__.lower()
                if self.session.document.edit(
                    f"Draw a {form} in {cell.name}", lambda p: add_shape(p, [cell.id], ghost)
                ):
                    self.session.selection.choose_cells((cell.id,), number)
        elif self._grab is not None:
            cell, index, handle = self._grab
            self._grab = None
            if (at.x, at.y) != self._start:
                shape = self._dragged(cell, index, handle, at)
                words = "Move" if handle == "body" else "Reshape"
                self.session.document.edit(
                    f"{words} a shape of {cell.name}", lambda p: put_shape(p, cell.id, index, shape)
                )
            else:
                self.session.document.preview(None)
        elif self._stroke is not None:
            words = {"erase": "Clear", "role": f"Make {self._now()}"}.get(
                self.tool, f"Give {self.board.chosen} to"
            )
            self._stroke.commit(f"{words} {many(len(self._brushed), 'cell')}")
            self._brushed, self._stroke = set(), None
        else:
            super().release(at)

    def cancel(self) -> None:
        self._drawing, self._ghost, self._grab = None, None, None
        self._brushed, self._stroke = set(), None
        self.ring.leave()
        for brush in self.brushes.values():
            brush.cancel()
        super().cancel()

    def use(self, tool: str) -> None:
        super().use(tool)
        self._pages.setCurrentIndex({"trait": 1, "auto": 2}.get(self.tool, 0))
        self.refresh()

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

    def _now(self) -> Role:
        return self._role.value or "solid"  # type: ignore[return-value]

    def _side(self) -> Side:
        return self._stops.currentText()  # type: ignore[return-value]

    def _role_chosen(self, role: str) -> None:
        ids, side = self.session.selection.cell_ids, self._side()
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
        ids, role, side = self.session.selection.cell_ids, self._now(), self._side()
        if ids:
            self.session.document.edit(
                f"Give {name} to {many(len(ids), 'cell')}", lambda p: give_common(p, ids, name, role, side)
            )
        elif self.tool == "point":
            self.use("give")

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
        )  # type: ignore[arg-type]

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

    def commands(self) -> list[Command]:
        return commands(self)
