"""What Paint draws on the Desk: the level, its shapes, the picture's edge, the stamp at the pointer."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen

from rushweed.core.document.model.level import KeptStamp, Level, TileLayer
from rushweed.core.document.model.project import Project
from rushweed.core.level.autopaint import unjoined
from rushweed.core.level.stamp import Stamp, from_level
from rushweed.core.level.things import shown_at
from rushweed.core.tune.figure import figure_of
from rushweed.ui.desk import rulers
from rushweed.ui.desk.draw_cell import draw_cell
from rushweed.ui.desk.images import image_of
from rushweed.ui.desk.kept_picture import Turns
from rushweed.ui.desk.level_paint import DrawnFigure
from rushweed.ui.desk.marks import paint_corners, paint_crosses, paint_plumb
from rushweed.ui.desk.walk_marks import paint_path
from rushweed.ui.kit.controls import tag
from rushweed.ui.panels.proof import picture_area
from rushweed.ui.stages.paint.edges import LevelEdges
from rushweed.ui.stages.paint.kept_layers import LevelLayer, ShapeLayer, changed_cells, drawn_alike
from rushweed.ui.stages.paint.outline_marks import OutlineMarks
from rushweed.ui.stages.paint.since_commit import SinceCommit
from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.tools.rooms import paint_room
from rushweed.ui.stages.paint.tools.start import Start
from rushweed.ui.stages.paint.tools.toolbox import Toolbox

MOST_RINGS = 500  # on cells that cannot be joined
SHAPES_FROM = 1.0  # zoom below which shapes would only be a blur


class PaintOverlay:
    """Draws it; `boxes` are the last places of the pointer's marks, screen px."""

    def __init__(self, state: PaintState, tools: Toolbox, changes: SinceCommit, edges: LevelEdges) -> None:
        self.state, self.tools, self._changes, self._level_edges = state, tools, changes, edges
        self.boxes: list[QRectF] = []
        turns = Turns(state.desk)
        self.level, self.shapes, self.outline = (
            LevelLayer(state, turns),
            ShapeLayer(state, turns),
            OutlineMarks(state),
        )
        self._figure: tuple[tuple[object, object], QImage] | None = None  # what it was found in, the picture
        self._ruled: tuple[int, int] | None = None  # the cell last marked on the rulers

    def paint(self, painter: QPainter, room: QRectF) -> None:
        level, view = self.state.session.selection.level, self.state.desk.view
        if level is None:
            return
        ground = view.rect(*self.state.content().getRect())
        desk = self.state.desk
        stands = self.tools.the(Start).looks_at or level.start
        figure = self._figure_image()
        origin = (figure.width() / 2, figure.height())
        desk.level_painter.walker = DrawnFigure(figure, stands, origin) if self.state.shown.edge.on else None
        desk.level_painter.picture = self.state.session.picture_size
        self.level.paint(painter, room, level)
        self.state.desk.sheet_painter.pixel_grid(painter, view, room, self.state.content())
        if self.state.shown.grid.on:
            self._cells(painter, room, level)
        if self._shows_shapes:
            self.shapes.paint(painter, room, level, waits=self.level.is_left)
        if self.state.shown.rooms.on or self.tools.active.of_rooms:
            for one in level.rooms:
                if not (self.tools.active.of_rooms and one.id == self.state.room_id):
                    paint_room(painter, self.state, level, one.area, one.name)
        self._unjoined(painter, room, level)
        if self.state.shown.merged.on:
            self.outline.paint(painter, room, level)
        self._changes.paint(painter, level)
        walked = self.state.session.walked
        if self.state.shown.walked.on and walked is not None and walked.level == level.id:
            paint_path(painter, self.state.look, view, room, walked)
        self._edges(painter, ground, level)
        if self.tools.active.chooses:
            self._level_edges.paint(painter, level)
        self.tools.active.paint(painter, room)
        self._pointer(painter, level)

    @property
    def _shows_shapes(self) -> bool:
        return self.state.shown.shapes.on and self.state.desk.view.zoom >= SHAPES_FROM

    @property
    def unfinished(self) -> bool:
        """Whether some of the level in sight, or of its shapes, is left to be drawn."""
        drawn_on = self.state.desk.level_painter.unfinished or self.level.is_left
        return drawn_on or self._shows_shapes and self.shapes.is_left

    def _cells(self, painter: QPainter, room: QRectF, level: Level) -> None:
        """Crosses where cells meet, as on a sheet."""
        view, (cw, ch) = self.state.desk.view, level.cell
        if min(cw, ch) * view.zoom * self.state.every < 12:
            return
        (x, y, columns, rows), every = level.bounds, self.state.every
        xs, ys = np.meshgrid(
            np.arange(-(-x // every), (x + columns) // every + 1) * cw * every,
            np.arange(-(-y // every), (y + rows) // every + 1) * ch * every,
        )
        points = np.stack((xs.ravel(), ys.ravel()), axis=1)
        paint_crosses(painter, view, room, points, self.state.look.colour("art_paper", 0.55))

    def _unjoined(self, painter: QPainter, room: QRectF, level: Level) -> None:
        """Rings on cells in view that the auto-tile set in hand has no tile for."""
        state, layer, tool = self.state, self.state.session.selection.layer, self.tools.active
        auto = tool.auto_set() if tool.paints else None
        if auto is None or layer is None:
            return
        (cw, ch), view = level.cell, state.desk.view
        a, b = view.to_content(state.desk.room.topLeft()), view.to_content(state.desk.room.bottomRight())
        x, y = int(a.x() // cw), int(a.y() // ch)
        area = (x, y, int(b.x() // cw) - x + 1, int(b.y() // ch) - y + 1)
        painter.setPen(QPen(state.look.colour("art_fault"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for column, row in unjoined(level, layer, auto, area)[:MOST_RINGS].tolist():
            middle = view.to_screen((column + 0.5) * cw, (row + 0.5) * ch)
            painter.drawEllipse(middle, 7, 7)

    def _edges(self, painter: QPainter, ground: QRectF, level: Level) -> None:
        paint_corners(
            painter, ground, 21, self.state.look.colour("art_ink"), self.state.look.colour("art_paper", 0.7)
        )
        if not self.state.shown.edge.on:
            return
        view = self.state.desk.view
        left, top, width, height = picture_area(level.start, self.state.session.picture_size)
        box = view.rect(left, top, width, height)
        paint_corners(
            painter, box, 27, self.state.look.colour("art_paper"), self.state.look.colour("art_casing", 0.7)
        )
        room = self.state.desk.room  # whose edge must not cut the words
        left_edge = max(box.left() + 6, min(room.left() + 4, box.right() - 120))
        foot = min(box.bottom() - 22, max(room.bottom() - 20, box.top() + 6))  # rooms are named at the top
        tag(painter, self.state.look, left_edge, foot, f"picture {width} × {height}")
        flag = view.to_screen(*level.start)
        paint_plumb(painter, flag, flag.y() - 30, self.state.look, self.tools.active.moves_start)

    def _figure_image(self) -> QImage:
        """The reference figure, or the project's own character, who stands where the player starts."""
        session = self.state.session
        parts = session.project.sheets, session.project.animations
        if self._figure is None or any(a is not b for a, b in zip(self._figure[0], parts, strict=True)):
            self._figure = parts, image_of(figure_of(session.project, session.stock.pixels_or_blank))
        return self._figure[1]

    def _pointer(self, painter: QPainter, level: Level) -> None:
        """Where the stamp would land, and on which layer."""
        held, tool = self.tools.held, self.tools.active
        if self.state.at is None or held is None and not tool.marks_cell:
            self.boxes = self.boxes[-1:]
            return
        view, (cw, ch) = self.state.desk.view, level.cell
        x, y, columns, rows = self.tools.covered()
        box = view.rect(x * cw, y * ch, columns * cw, rows * ch)
        selection = self.state.session.selection
        if tool.shows_stamp and held is None:
            if selection.whole_stamp is not None:
                self._ghost_whole(painter, level, selection.whole_stamp, box)
            elif selection.stamp is not None:
                self._ghosts(painter, level, selection.stamp, (x, y))
        paint_corners(
            painter,
            box,
            min(14, box.width() * 0.3),
            self.state.look.colour("art_rust"),
            self.state.look.colour("art_paper"),
        )
        layer = self.state.session.selection.layer
        words = f"{layer.name} {self.state.at[0]}, {self.state.at[1]}" if layer else "a backdrop"
        if held is not None and held.spans:
            words = f"{columns} × {rows} cells"
        elif self.state.warned:
            words = f"{words}, {self.state.warned.short}"
        made = tag(painter, self.state.look, box.left(), box.top() - 22, words, rust=True)
        self.boxes = [*self.boxes[-1:], box.united(made).adjusted(-8, -8, 8, 8)]

    def _ghosts(self, painter: QPainter, level: Level, stamp: Stamp, at: tuple[int, int]) -> None:
        """The stamp under the pointer, and where symmetry puts it too."""
        cw, ch = level.cell
        spots = np.array([at[0]]), np.array([at[1]])
        for one, (xs, ys) in self.tools.active.mirrored(stamp, spots):
            columns, rows = one.size
            box = self.state.desk.view.rect(int(xs[0]) * cw, int(ys[0]) * ch, columns * cw, rows * ch)
            self._ghost(painter, level, one, box)

    def _ghost_whole(self, painter: QPainter, level: Level, kept: KeptStamp, box: QRectF) -> None:
        """All parts of a stamp over several layers, then its things."""
        for part in kept.parts:
            rows = np.array(part.rows, np.uint32)
            self._ghost(painter, level, from_level(kept.table, rows), box)
        known, zoom = self.state.session.cells_by_id, self.state.desk.view.zoom
        painter.setOpacity(0.7)
        for thing in kept.things:
            shown = shown_at(thing, known, self.state.session.project)
            if shown is not None:
                x, y, w, h = shown.box()
                place = QRectF(box.left() + x * zoom, box.top() + y * zoom, w * zoom, h * zoom)
                painter.drawImage(place, self.state.desk.images.image(shown.sheet), QRectF(*shown.cell.rect))
        painter.setOpacity(1)

    def _ghost(self, painter: QPainter, level: Level, stamp: Stamp, box: QRectF) -> None:
        known = self.state.session.cells_by_id
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
                    box.left() + i * cw * self.state.desk.view.zoom,
                    box.top() + j * ch * self.state.desk.view.zoom,
                    cw * self.state.desk.view.zoom,
                    ch * self.state.desk.view.zoom,
                )
                turns = int(stamp.turns[j, i])
                painter.save()
                painter.translate(target.center())
                painter.rotate((turns & 3) * 90)
                if turns & 4:
                    painter.scale(-1, 1)
                half = target.width() / 2
                place = QRectF(-half, -half, target.width(), target.height())
                draw_cell(painter, place, self.state.desk.images.image(sheet), cell)
                painter.restore()
        painter.setOpacity(1)

    def changed_region(self, old: Project, new: Project) -> QRectF | None:
        """Only the cells that differ, where nothing but tiles of this level changed."""
        if old.sheets is not new.sheets or len(old.levels) != len(new.levels):
            return None
        pair = next(((a, b) for a, b in zip(old.levels, new.levels, strict=True) if a is not b), None)
        if pair is None or pair[1].id != self.state.session.selection.level_id:
            return None
        a, b = pair
        whole = (a.bounds, a.start, a.things, a.rooms, a.order) != (
            b.bounds,
            b.start,
            b.things,
            b.rooms,
            b.order,
        )
        if whole or len(a.layers) != len(b.layers) or self.state.shown.merged.on or self.state.shown.since.on:
            return None
        for one, two in zip(a.layers, b.layers, strict=True):
            if one is two:
                continue
            if not (isinstance(one, TileLayer) and isinstance(two, TileLayer)):
                return None
            if not drawn_alike(one, two) or two.keeps_up != (1, 1) or two.offset != (0, 0):
                return None
        boxes = changed_cells(a, b)
        if boxes.isNull():
            return QRectF()
        cw, ch = b.cell
        box = self.state.desk.view.rect(
            boxes.x() * cw, boxes.y() * ch, boxes.width() * cw, boxes.height() * ch
        )
        return box.adjusted(-10, -10, 10, 10)

    def pointer_region(self) -> QRectF | None:
        """The marks of the pointer before and after the move, and the rulers."""
        held = self.tools.held
        if held is not None and held.spans or not self.boxes:
            return None
        level = self.state.session.selection.level
        if level is None or self.state.at is None:
            return None
        cw, ch = level.cell
        x, y, columns, rows = self.tools.covered()
        now = self.state.desk.view.rect(x * cw, y * ch, columns * cw, rows * ch).adjusted(-10, -32, 180, 10)
        for place in {self._ruled, self.state.at}:
            if place is not None:
                cell = self.state.desk.view.rect(place[0] * cw, place[1] * ch, cw, ch).toAlignedRect()
                self.state.desk.repaint_part(QRect(cell.x() - 1, 0, cell.width() + 2, rulers.THICK))
                self.state.desk.repaint_part(QRect(0, cell.y() - 1, rulers.THICK, cell.height() + 2))
        self._ruled = self.state.at
        for box in self.boxes:
            now = now.united(box)
        return now
