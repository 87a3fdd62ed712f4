"""Paint: levels from tiles, layer by layer."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from rushweed.core.document.edit import cells_by_id, rename
from rushweed.core.document.model import CHUNK, Level, Project, TileLayer
from rushweed.core.level.brush import Spots, line, rectangle
from rushweed.core.level.chunks import changed_chunks, chunk_at, region
from rushweed.core.level.edit import (
    add_backdrop,
    add_level,
    change_layer,
    covering_layer,
    erase,
    fill_spots,
    move_region,
    paint,
    paint_pattern,
    rearrange_region,
    remove_layer,
    resize,
    set_start,
    take,
)
from rushweed.core.level.stamp import Stamp, from_level
from rushweed.ui.actions import Command
from rushweed.ui.controls import Check, IconButton, NumbersField, TextField, button, label, row, tag
from rushweed.ui.desk import rulers
from rushweed.ui.desk.canvas import DeskEvent
from rushweed.ui.desk.marks import paint_corners, paint_crosses
from rushweed.ui.desk.rulers import Band, Scale
from rushweed.ui.desk.shape_marks import Placed, ShapeMarks
from rushweed.ui.layers import LayerList
from rushweed.ui.proof import picture_area
from rushweed.ui.stages.base import Card, Stage, Tool

SHAPES_FROM = 1.0  # zoom below which shapes would only be a blur
PICTURE = (256, 144)
BRUSHES = ("brush", "line", "box", "fill", "swap")


class PaintStage(Stage):
    key, title = "paint", "Paint"
    ruler_unit, strip = "u", "tray"
    tools = (
        Tool(
            "point", "Select an area", "selection", "V", "Drag an area; drag inside it to move, Ctrl copies"
        ),
        Tool("brush", "Brush", "paint-brush", "B", "Paint the stamp; Alt takes what is under the pointer", 1),
        Tool("line", "Line", "line-segment", "L", "Drag a line of the stamp", 1),
        Tool("box", "Rectangle", "rectangle", "R", "Drag a rectangle; Shift paints only its outline", 1),
        Tool("fill", "Fill", "paint-bucket", "F", "Fill joined cells that hold the same", 1),
        Tool("swap", "Replace", "swap", "X", "Replace all cells of the layer that hold the same", 1),
        Tool("erase", "Erase", "eraser", "E", "Erase cells; the right button erases with any brush", 1),
        Tool("take", "Take a stamp", "eyedropper", "K", "Drag over the level to make a stamp of it", 2),
        Tool("start", "Start", "flag", "T", "Press where the player starts", 2),
    )

    def __init__(self, *parts: object) -> None:
        super().__init__(*parts)  # type: ignore[arg-type]
        self.tool = "brush"
        self.marks = ShapeMarks(self.look)
        self._from: tuple[int, int] | None = None  # cell where the press began
        self._last: tuple[int, int] = (0, 0)
        self._at: tuple[int, int] | None = None  # cell under the pointer
        self._erasing = False
        self._seed = 0
        self.area: tuple[int, int, int, int] | None = None  # selected, in cells
        self._moving = False
        self._warned: str | None = None
        self._hover_boxes: list[QRectF] = []

    def build(self) -> None:
        self._stamp_words = label("", "value")
        buttons = []
        for glyph, tip, call in (
            ("arrows-left-right", "Mirror the stamp or the area  (M)", lambda: self.rearrange("mirror")),
            ("arrows-down-up", "Exchange top and bottom  (Shift+M)", lambda: self.rearrange("flip")),
            ("arrow-clockwise", "Turn a quarter  (U)", lambda: self.rearrange("turn")),
        ):
            made = IconButton(self.look, self.icons, glyph, tip, framed=True)
            made.pressed.connect(call)
            buttons.append(made)
        self.scatter = Check(self.look, self.icons, "Scatter")
        self.scatter.setToolTip(
            "Rectangle and fill draw tiles of the stamp by chance; a tile twice in it comes twice as often"
        )
        self.shapes = Check(self.look, self.icons, "Shapes")
        self.edge = Check(self.look, self.icons, "Picture edge")
        self.grid = Check(self.look, self.icons, "Cells")
        self.shapes.show_value(True)
        self.edge.show_value(True)
        for check in (self.shapes, self.edge, self.grid):
            check.edited.connect(lambda _v: self.desk.update())
        self.option_line.setLayout(
            row(
                label("Stamp"),
                self._stamp_words,
                *buttons,
                4,
                self.scatter,
                self.shapes,
                self.edge,
                self.grid,
                None,
            )
        )
        self._build_card()

    def _build_card(self) -> None:
        self.layer_list = LayerList(self.look, self.icons, self.session, self.desk.images)
        self._layer_card = Card(self.look, "Card")
        card = self._layer_card
        self._name = TextField("name")
        self._name.edited.connect(self._rename_layer)
        self._opacity = NumbersField(1, "%", 0, 100, look=self.look)
        self._opacity.edited.connect(lambda v: self._fade(v[0]))
        self._opacity.settled.connect(self.session.seal)
        card.field("Layer", self._name)
        remove = IconButton(self.look, self.icons, "trash", "Remove the layer", framed=True, px=15)
        remove.pressed.connect(self.remove_layer)
        card.field("Opacity", self._opacity, remove)
        self._level_name = TextField("name")
        self._level_name.edited.connect(self._rename_level)
        self._sides = NumbersField(2, "cells", 1, 8192, look=self.look)
        self._sides.edited.connect(lambda v: self._resize(v))
        self._sides.settled.connect(self.session.seal)
        self._origin = NumbersField(2, "", -8192, 8192, look=self.look)
        self._origin.setToolTip("The first column and row: lower them to grow at the left and the top")
        self._origin.edited.connect(lambda v: self._reorigin(v))
        self._origin.settled.connect(self.session.seal)
        card.field("Level", self._level_name)
        card.field("Size", self._sides)
        card.field("First", self._origin)
        self._facts = label("", "mono")
        card.add(self._facts)
        card.end()
        self.card = QWidget()
        box = QVBoxLayout(self.card)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.layer_list, 3)
        box.addWidget(card, 0)
        self._new = button("New level")

    # -- showing ---------------------------------------------------------------------------------------

    def refresh(self) -> None:
        level, stamp = self.session.level, self.session.stamp
        self.option_line.setEnabled(level is not None)
        self.card.setEnabled(level is not None)
        self._stamp_words.setText(self._stamp_name(stamp))
        self.layer_list.refresh()
        if level is None:
            return
        layer = next((x for x in level.layers if x.id == self.session.layer_id), None)
        self._layer_card.what.setText(f"layer {layer.name}" if layer else "")
        self._name.show_value(layer.name if layer else "")
        self._opacity.show_value(layer.opacity_percent if layer else 100)
        self._level_name.show_value(level.name)
        self._sides.show_value(level.bounds[2:])
        self._origin.show_value(level.bounds[:2])
        w, h = level.bounds[2] * level.cell[0], level.bounds[3] * level.cell[1]
        ppu = self._ppu(level)
        self._facts.setText(f"{w} × {h} px   {w / ppu:g} × {h / ppu:g} u   cells {level.cell[0]} px")

    def _stamp_name(self, stamp: Stamp | None) -> str:
        if stamp is None or not stamp.cells:
            return "none: press a tile below"
        known = cells_by_id(self.session.project)
        first = known.get(stamp.cells[0])
        name = first[1].name if first else "gone"
        columns, rows = stamp.size
        return name if (columns, rows) == (1, 1) else f"{name} …  {columns} × {rows}"

    def _ppu(self, level: Level) -> float:
        ids = set(level.table)
        for sheet in self.session.project.sheets:
            if any(c.id in ids for c in sheet.cells):
                return sheet.tune.ppu
        return level.cell[0]

    def view_key(self) -> str:
        return self.session.level_id if self.session.level else ""

    def content(self) -> QRectF:
        level = self.session.level
        if level is None:
            return super().content()
        x, y, columns, rows = level.bounds
        cw, ch = level.cell
        return QRectF(x * cw, y * ch, columns * cw, rows * ch)

    def empty_words(self) -> tuple[str, str]:
        return (
            "No level yet",
            "Press the map on the Shelf, or Ctrl+L: a level takes its cell size from the sheet shown.",
        )

    def describe(self, at: DeskEvent) -> str:
        level = self.session.level
        if level is None:
            return ""
        column, line_ = self._cell(at)
        ppu = self._ppu(level)
        text = f"column {column}, row {line_}   {int(at.x // 1)}, {int(at.y // 1)} px   {at.x / ppu:.2f}, {at.y / ppu:.2f} u"
        layer = self.session.layer
        value = int(region(layer.tiles, column, line_, 1, 1)[0, 0]) if layer else 0
        if value and (value >> 3) <= len(level.table):
            found = cells_by_id(self.session.project).get(level.table[(value >> 3) - 1])
            text += f"   {found[1].name if found else 'gone'}"
        return text

    def ruler(self, band: Band) -> None:
        level = self.session.level
        if level is None:
            return
        chosen = None
        if self._at is not None:
            side = level.cell[band.axis]
            chosen = (self._at[band.axis] * side, (self._at[band.axis] + 1) * side)
        rulers.even(band, Scale(self._ppu(level), "u"), chosen)

    # -- painting --------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, room: QRectF) -> None:
        level, project, view = self.session.level, self.session.project, self.desk.view
        if level is None:
            return
        ground = view.rect(*self.content().getRect())
        painter.save()
        painter.setClipRect(ground.intersected(room), Qt.ClipOperation.IntersectClip)
        painter.setBrushOrigin(ground.topLeft())
        painter.fillRect(ground.intersected(room), self.desk.sheet_painter._checker)
        self.desk.level_painter.paint(painter, view, self.desk.room, project, level)
        painter.restore()
        if self.grid.on:
            self._cells(painter, room, level)
        if self.shapes.on and view.zoom >= SHAPES_FROM:
            self.marks.paint(painter, view, self._placed(project, level, room))
        self._edges(painter, ground, level)
        if self.area is not None:
            self._area(painter, level)
        self._pointer(painter, level)

    def _cells(self, painter: QPainter, room: QRectF, level: Level) -> None:
        """Crosses where cells meet, as on a sheet."""
        view, (cw, ch) = self.desk.view, level.cell
        if min(cw, ch) * view.zoom < 12:
            return
        x, y, columns, rows = level.bounds
        xs, ys = np.meshgrid(np.arange(x, x + columns + 1) * cw, np.arange(y, y + rows + 1) * ch)
        points = np.stack((xs.ravel(), ys.ravel()), axis=1)
        paint_crosses(painter, view, room, points, self.look.colour("art_paper", 0.55))

    def _placed(self, project: Project, level: Level, room: QRectF) -> list[Placed]:
        """The shapes of the tiles in sight, turned as the tiles are."""
        from rushweed.core.shape.primitives import mirrored, turned

        view, (cw, ch) = self.desk.view, level.cell
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        x0, y0 = int(a.x() // cw), int(a.y() // ch)
        columns, rows = int(b.x() // cw) - x0 + 1, int(b.y() // ch) - y0 + 1
        known = cells_by_id(project)
        shapes = [known[c][1].shapes if c in known else () for c in level.table]
        found: list[Placed] = []
        for layer in level.layers:
            if not isinstance(layer, TileLayer) or not layer.shown:
                continue
            cells = region(layer.tiles, x0, y0, columns, rows)
            for j, i in zip(*np.nonzero(cells), strict=True):
                value = int(cells[j, i])
                index = (value >> 3) - 1
                if index >= len(shapes) or not shapes[index]:
                    continue
                for shape in shapes[index]:
                    if value & 4:
                        shape = mirrored(shape, cw)
                    for _ in range(value & 3):
                        shape = turned(shape, (cw, ch))
                    found.append((shape, (x0 + int(i)) * cw, (y0 + int(j)) * ch))
        return found

    def _edges(self, painter: QPainter, ground: QRectF, level: Level) -> None:
        paint_corners(painter, ground, 21, self.look.colour("art_ink"), self.look.colour("art_paper", 0.7))
        if not self.edge.on:
            return
        view = self.desk.view
        left, top, width, height = picture_area(level.start, PICTURE)
        box = view.rect(left, top, width, height)
        paint_corners(painter, box, 27, self.look.colour("art_paper"), self.look.colour("art_casing", 0.7))
        tag(painter, self.look, box.left() + 6, box.top() + 6, f"picture {width} × {height}")
        flag = view.to_screen(*level.start)
        from rushweed.ui.desk.marks import paint_plumb

        paint_plumb(painter, flag, flag.y() - 30, self.look, self.tool == "start")

    def _area(self, painter: QPainter, level: Level) -> None:
        assert self.area is not None
        cw, ch = level.cell
        x, y, columns, rows = self.area
        box = self.desk.view.rect(x * cw, y * ch, columns * cw, rows * ch)
        paint_corners(painter, box, 16, self.look.colour("art_rust"), self.look.colour("art_paper"))
        painter.setPen(QPen(self.look.colour("art_paper", 0.8), 1, Qt.PenStyle.DashLine))
        painter.drawRect(box)
        tag(painter, self.look, box.left(), box.top() - 20, f"{columns} × {rows} cells")

    def _pointer(self, painter: QPainter, level: Level) -> None:
        """Where the stamp would land, and on which layer."""
        if self._at is None or self.tool in ("point", "start") and self._from is None:
            self._hover_boxes = self._hover_boxes[-1:]
            return
        view, (cw, ch) = self.desk.view, level.cell
        x, y, columns, rows = self._reach()
        box = view.rect(x * cw, y * ch, columns * cw, rows * ch)
        stamp = self.session.stamp
        if stamp is not None and self.tool == "brush" and self._from is None and not self._erasing:
            self._ghost(painter, level, stamp, box)
        paint_corners(
            painter,
            box,
            min(14, box.width() * 0.3),
            self.look.colour("art_rust"),
            self.look.colour("art_paper"),
        )
        layer = self.session.layer
        words = f"{layer.name} {self._at[0]}, {self._at[1]}" if layer else "a backdrop"
        if self._from is not None and self.tool in ("line", "box", "take", "point"):
            words = f"{columns} × {rows} cells"
        elif self._warned:
            words = f"{words}, behind {self._warned}"
        made = tag(painter, self.look, box.left(), box.top() - 22, words, rust=True)
        self._hover_boxes = [*self._hover_boxes[-1:], box.united(made).adjusted(-8, -8, 8, 8)]

    def _ghost(self, painter: QPainter, level: Level, stamp: Stamp, box: QRectF) -> None:
        known = cells_by_id(self.session.project)
        painter.setOpacity(0.7)
        cw, ch = level.cell
        for j in range(stamp.size[1]):
            for i in range(stamp.size[0]):
                slot = int(stamp.slots[j, i])
                found = known.get(stamp.cells[slot - 1]) if slot else None
                if found is None:
                    continue
                sheet, cell = found
                target = QRectF(
                    box.left() + i * cw * self.desk.view.zoom,
                    box.top() + j * ch * self.desk.view.zoom,
                    cw * self.desk.view.zoom,
                    ch * self.desk.view.zoom,
                )
                turns = int(stamp.turns[j, i])
                painter.save()
                painter.translate(target.center())
                painter.rotate((turns & 3) * 90)
                if turns & 4:
                    painter.scale(-1, 1)
                half = target.width() / 2
                painter.drawImage(
                    QRectF(-half, -half, target.width(), target.height()),
                    self.desk.images.image(sheet),
                    QRectF(*cell.rect),
                )
                painter.restore()
        painter.setOpacity(1)

    def _reach(self) -> tuple[int, int, int, int]:
        """The cells that the gesture or the stamp covers: left, top, columns, rows."""
        assert self._at is not None
        if self._from is not None and self.tool in ("line", "box", "take", "point"):
            (x0, y0), (x1, y1) = self._from, self._at
            return min(x0, x1), min(y0, y1), abs(x1 - x0) + 1, abs(y1 - y0) + 1
        if self.tool == "brush" and self.session.stamp is not None:
            return (*self._at, *self.session.stamp.size)
        return (*self._at, 1, 1)

    def dirty(self, old: object, new: object) -> QRectF | None:
        """Only the cells that differ, where nothing but tiles of this level changed."""
        assert isinstance(old, Project) and isinstance(new, Project)
        if old.sheets is not new.sheets or len(old.levels) != len(new.levels) or self.area is not None:
            return None
        pair = next(((a, b) for a, b in zip(old.levels, new.levels, strict=True) if a is not b), None)
        if pair is None or pair[1].id != self.session.level_id:
            return None
        a, b = pair
        if a.bounds != b.bounds or a.start != b.start or len(a.layers) != len(b.layers):
            return None
        boxes = QRect()
        for one, two in zip(a.layers, b.layers, strict=True):
            if one is two:
                continue
            if not (isinstance(one, TileLayer) and isinstance(two, TileLayer)):
                return None
            if (one.id, one.shown, one.opacity_percent) != (two.id, two.shown, two.opacity_percent):
                return None
            for cx, cy in changed_chunks(one.tiles, two.tiles):
                boxes = boxes.united(self._changed_box(one, two, cx, cy))
        if boxes.isNull():
            return QRectF()
        cw, ch = b.cell
        box = self.desk.view.rect(boxes.x() * cw, boxes.y() * ch, boxes.width() * cw, boxes.height() * ch)
        return box.adjusted(-10, -10, 10, 10)

    @staticmethod
    def _changed_box(one: TileLayer, two: TileLayer, cx: int, cy: int) -> QRect:
        p, q = chunk_at(one.tiles, cx, cy), chunk_at(two.tiles, cx, cy)
        empty = np.zeros((CHUNK, CHUNK), np.uint32)
        ys, xs = np.nonzero((p.cells if p else empty) != (q.cells if q else empty))
        if not xs.size:
            return QRect()
        left, top = int(xs.min()), int(ys.min())
        return QRect(cx * CHUNK + left, cy * CHUNK + top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)

    def hover_region(self) -> QRectF | None:
        """The marks of the pointer before and after the move, and the rulers."""
        if self._from is not None and self.tool in ("line", "box", "take", "point") or not self._hover_boxes:
            return None
        level = self.session.level
        if level is None or self._at is None:
            return None
        cw, ch = level.cell
        x, y, columns, rows = self._reach()
        now = self.desk.view.rect(x * cw, y * ch, columns * cw, rows * ch).adjusted(-10, -32, 180, 10)
        self.desk.update(0, 0, self.desk.width(), rulers.THICK)
        self.desk.update(0, 0, rulers.THICK, self.desk.height())
        for box in self._hover_boxes:
            now = now.united(box)
        return now

    # -- pointer ---------------------------------------------------------------------------------------

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.CrossCursor

    def _cell(self, at: DeskEvent) -> tuple[int, int]:
        level = self.session.level
        assert level is not None
        return int(at.x // level.cell[0]), int(at.y // level.cell[1])

    def hover(self, at: DeskEvent) -> None:
        self._at = self._cell(at)
        level = self.session.level
        self._warned = (
            covering_layer(level, self.session.layer_id, *self._at)
            if level is not None and self.tool in BRUSHES and self.session.layer is not None else None
        )  # fmt: skip

    def leave(self) -> None:
        self._at = None

    def press(self, at: DeskEvent) -> None:
        cell = self._cell(at)
        self._from = self._last = self._at = cell
        self._erasing = self.tool == "erase" or (at.right and self.tool in BRUSHES)
        self._seed = int(time.monotonic() * 1000) & 0xFFFF
        if self.tool == "start":
            self._place_start(at)
        elif self.tool == "point":
            self._moving = self.area is not None and _inside(self.area, cell)
            if not self._moving:
                self.area = None
        elif self.tool in BRUSHES and at.alt and not at.right:
            self._take(cell, cell)
            self._from = None
        elif self._erasing or self.tool == "brush":
            self._stroke(cell)
        elif self.tool in ("fill", "swap"):
            self._fill(cell, self.tool == "swap")
            self._from = None

    def drag(self, at: DeskEvent) -> None:
        cell = self._cell(at)
        self._at = cell
        if self._from is None:
            return
        if self.tool == "start":
            self._place_start(at)
        elif self.tool == "point" and self._moving and self.area is not None:
            dx, dy = cell[0] - self._from[0], cell[1] - self._from[1]
            area, ids = self.area, self._ids()
            self.session.preview(lambda p: move_region(p, *ids, area, dx, dy, at.ctrl))
        elif (self.tool == "brush" or self._erasing) and cell != self._last:
            self._stroke(cell)

    def release(self, at: DeskEvent) -> None:
        start, cell = self._from, self._cell(at)
        self._from = None
        if start is None:
            return
        if self.tool == "point":
            self._end_area(start, cell, at.ctrl)
        elif self.tool == "start":
            shown = self.session.project
            self.session.edit("Move the start", lambda _p: shown)
        elif self.tool == "take":
            self._take(start, cell)
        elif self._erasing or self.tool == "brush":
            shown = self.session.project
            words = "Erase" if self._erasing else "Paint"
            self.session.edit(f"{words} on {self._layer_name()}", lambda _p: shown)
        elif self.tool == "line":
            self._draw_line(start, cell)
        elif self.tool == "box":
            self._draw_box(start, cell, at.shift)
        self._erasing = False

    def cancel(self) -> None:
        self._from, self._moving, self.area = None, False, None
        super().cancel()

    def key_pressed(self, event: QKeyEvent) -> bool:
        steps = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
        }  # fmt: skip
        step = steps.get(Qt.Key(event.key()))
        level = self.session.level
        if step is None or level is None:
            return False
        if self.area is not None:
            area, ids = self.area, self._ids()
            if self.session.edit("Move an area", lambda p: move_region(p, *ids, area, *step)):
                self.area = (area[0] + step[0], area[1] + step[1], area[2], area[3])
        else:
            self.desk.view.pan(
                -step[0] * level.cell[0] * self.desk.view.zoom, -step[1] * level.cell[1] * self.desk.view.zoom
            )
        self.desk.update()
        return True

    # -- editing ---------------------------------------------------------------------------------------

    def _ids(self) -> tuple[str, str]:
        return self.session.level_id, self.session.layer_id

    def _layer_name(self) -> str:
        return self.session.layer.name if self.session.layer else "the layer"

    def _ready(self) -> Stamp | None:
        stamp = self.session.stamp
        if stamp is None or not stamp.cells:
            self.session.tell("fault", "There is no stamp to paint with.", "Press a tile in the Tray below.")
            return None
        return stamp

    def _stroke(self, cell: tuple[int, int]) -> None:
        """Carry the stroke on to a cell: only the new cells are painted, onto the stroke so far."""
        shown, spots = self.session.project, line(*self._last, *cell)
        self._last = cell
        if self._erasing:
            self.session.preview(lambda _p: erase(shown, *self._ids(), spots))
            return
        stamp = self._ready()
        if stamp is None or self._from is None:
            return
        spots = self._on_pattern(spots, stamp)
        self.session.preview(lambda _p: paint(shown, *self._ids(), stamp, spots))

    def _on_pattern(self, spots: Spots, stamp: Stamp) -> Spots:
        """Spots of a large stamp, so that its repeats along a stroke do not overlap."""
        assert self._from is not None
        columns, rows = stamp.size
        if columns == rows == 1:
            return spots
        xs = self._from[0] + (spots[0] - self._from[0]) // columns * columns
        ys = self._from[1] + (spots[1] - self._from[1]) // rows * rows
        pairs = np.unique(np.stack((xs, ys)), axis=1)
        return pairs[0], pairs[1]

    def _draw_line(self, start: tuple[int, int], end: tuple[int, int]) -> None:
        stamp = self._ready()
        if stamp is not None:
            self._from = start
            spots = self._on_pattern(line(*start, *end), stamp)
            self._from = None
            self.session.edit(
                f"Draw a line on {self._layer_name()}", lambda p: paint(p, *self._ids(), stamp, spots)
            )

    def _draw_box(self, start: tuple[int, int], end: tuple[int, int], outline: bool) -> None:
        stamp = self._ready()
        if stamp is not None:
            spots = rectangle(*start, *end, outline)
            self.session.edit(
                f"Draw a rectangle on {self._layer_name()}",
                lambda p: paint_pattern(p, *self._ids(), stamp, spots, self._chance()),
            )

    def _fill(self, cell: tuple[int, int], everywhere: bool) -> None:
        erasing = self._erasing
        stamp = None if erasing else self._ready()
        if stamp is None and not erasing:
            return

        def change(project: Project) -> Project:
            spots = fill_spots(project, *self._ids(), *cell, everywhere)
            if stamp is None:
                return erase(project, *self._ids(), spots)
            return paint_pattern(project, *self._ids(), stamp, spots, self._chance())

        words = "Replace" if everywhere else "Fill"
        self.session.edit(f"{words} on {self._layer_name()}", change)
        self._erasing = False

    def _chance(self) -> int | None:
        return self._seed if self.scatter.on else None

    def _take(self, start: tuple[int, int], end: tuple[int, int]) -> None:
        level = self.session.level
        if level is None:
            return
        left, top = min(start[0], end[0]), min(start[1], end[1])
        size = (abs(end[0] - start[0]) + 1, abs(end[1] - start[1]) + 1)
        stamp = from_level(level.table, take(self.session.project, *self._ids(), left, top, *size))
        if not stamp.cells:
            self.session.tell(
                "told", f"There is nothing on {self._layer_name()} there.", "Choose another layer or place."
            )
            return
        self.session.choose_stamp(stamp)
        if self.tool == "take":
            self.use("brush")

    def _end_area(self, start: tuple[int, int], end: tuple[int, int], copy: bool) -> None:
        if self._moving and self.area is not None:
            self._moving = False
            dx, dy, area, ids = end[0] - start[0], end[1] - start[1], self.area, self._ids()
            if dx or dy:
                words = "Copy an area" if copy else "Move an area"
                self.session.edit(words, lambda p: move_region(p, *ids, area, dx, dy, copy))
                self.area = (area[0] + dx, area[1] + dy, area[2], area[3])
            return
        x, y = min(start[0], end[0]), min(start[1], end[1])
        self.area = (x, y, abs(end[0] - start[0]) + 1, abs(end[1] - start[1]) + 1)

    def _place_start(self, at: DeskEvent) -> None:
        level = self.session.level
        if level is not None:
            x = round(at.x)
            y = round(at.y / level.cell[1]) * level.cell[1] if level.view == "side" else round(at.y)
            self.session.preview(lambda p: set_start(p, level.id, x, y))

    def rearrange(self, how: str) -> None:
        """Mirror or turn the selected area, or the stamp if no area is selected."""
        if self.area is not None:
            area, ids, made = self.area, self._ids(), self.area

            def change(project: Project) -> Project:
                nonlocal made
                project, made = rearrange_region(project, *ids, area, how)  # type: ignore[arg-type]
                return project

            if self.session.edit(f"{how.capitalize()} an area", change):
                self.area = made
                self.desk.update()
        elif self.session.stamp is not None:
            stamp = self.session.stamp
            made_stamp = {"mirror": stamp.mirrored, "flip": stamp.flipped, "turn": stamp.turned}[how]()
            self.session.choose_stamp(made_stamp)

    def erase_area(self) -> None:
        if self.area is not None:
            x, y, columns, rows = self.area
            spots = rectangle(x, y, x + columns - 1, y + rows - 1)
            self.session.edit(
                f"Erase an area of {self._layer_name()}", lambda p: erase(p, *self._ids(), spots)
            )

    def _rename_layer(self, text: str) -> None:
        ids = self._ids()
        self.session.edit("Rename a layer", lambda p: change_layer(p, *ids, name=text.strip()))

    def _rename_level(self, text: str) -> None:
        level_id = self.session.level_id
        self.session.edit("Rename a level", lambda p: rename(p, level_id, text))

    def _fade(self, percent: float) -> None:
        ids = self._ids()
        self.session.edit(
            "Fade a layer", lambda p: change_layer(p, *ids, opacity_percent=percent), ("fade", ids)
        )

    def remove_layer(self) -> None:
        ids = self._ids()
        self.session.edit(f"Remove layer {self._layer_name()}", lambda p: remove_layer(p, *ids))

    def _resize(self, size: tuple[float, ...]) -> None:
        level = self.session.level
        if level is not None:
            right, bottom = int(size[0]) - level.bounds[2], int(size[1]) - level.bounds[3]
            self.session.edit(
                f"Resize {level.name}", lambda p: resize(p, level.id, 0, 0, right, bottom), "resize"
            )

    def _reorigin(self, first: tuple[float, ...]) -> None:
        level = self.session.level
        if level is not None:
            left, top = level.bounds[0] - int(first[0]), level.bounds[1] - int(first[1])
            self.session.edit(
                f"Resize {level.name}", lambda p: resize(p, level.id, left, top, 0, 0), "resize first"
            )

    def new_level(self) -> None:
        """A level with the cell size of the sheet shown, or of the first one that is cut."""
        sheets = [s for s in (self.session.sheet, *self.session.project.sheets) if s and s.cells]
        if not sheets:
            self.session.tell(
                "fault",
                "A level takes its cell size from its tiles, and no sheet is cut yet.",
                "Cut one first.",
            )
            return
        size = (sheets[0].cells[0].rect[2], sheets[0].cells[0].rect[3])
        made = ""

        def change(project: Project) -> Project:
            nonlocal made
            project, made = add_level(project, "level", size)
            return project

        if self.session.edit("Make a level", change):
            self.session.choose_level(made)
            self.session.go("paint")

    def backdrop(self) -> None:
        """Put the sheet shown behind the level."""
        level, sheet = self.session.level, self.session.sheet
        if level is None or sheet is None:
            return
        top = float(level.bounds[1] * level.cell[1])
        self.session.edit(
            f"Put {sheet.name} behind {level.name}", lambda p: add_backdrop(p, level.id, sheet.id, 0.1, top)
        )

    def commands(self) -> list[Command]:
        def level() -> str:
            return "" if self.session.level else "There is no level yet."

        def area() -> str:
            return "" if self.area else "No area is selected."

        here = ("paint",)
        return [
            Command("paint.new", "New level", ("Ctrl+L",), "With the cell size of the sheet shown.", self.new_level, group="Paint"),
            Command("paint.mirror", "Mirror the stamp or area", ("M",), "Left and right.", lambda: self.rearrange("mirror"), level, here, "Paint"),
            Command("paint.flip", "Exchange top and bottom", ("Shift+M",), "Of the stamp or area.", lambda: self.rearrange("flip"), level, here, "Paint"),
            Command("paint.turn", "Turn the stamp or area", ("U",), "A quarter clockwise.", lambda: self.rearrange("turn"), level, here, "Paint"),
            Command("paint.clear", "Erase the selected area", ("Delete",), "On the layer in use.", self.erase_area, area, here, "Paint"),
            Command("paint.scatter", "Scatter on or off", ("D",), "Draw tiles of the stamp by chance.", self.scatter.toggle, level, here, "Paint"),
            Command("paint.cells", "Show or hide the cells", ("C",), "Crosses where cells meet.", self.grid.toggle, level, here, "Paint"),
            Command("paint.shapes", "Show or hide the shapes", ("H",), "Of every tile in the level.", self.shapes.toggle, level, here, "Paint"),
            Command("paint.nearer", "Move the layer nearer", ("PgUp",), "One place.", lambda: self.layer_list.move_layer(1), level, here, "Paint"),
            Command("paint.farther", "Move the layer farther", ("PgDown",), "One place.", lambda: self.layer_list.move_layer(-1), level, here, "Paint"),
            Command("paint.layer", "Add a layer", (), "Nearest of all.", self.layer_list.add, level, here, "Paint"),
            Command("paint.backdrop", "Use the sheet as a backdrop", (), "Behind the level, repeated across.", self.backdrop, level, (), "Paint"),
        ]  # fmt: skip


def _inside(area: tuple[int, int, int, int], cell: tuple[int, int]) -> bool:
    x, y, columns, rows = area
    return x <= cell[0] < x + columns and y <= cell[1] < y + rows
