"""Rooms: drawn, moved, resized by their edges."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.model.level import Level, Room
from rushweed.core.document.model.project import Project
from rushweed.core.level.rooms import add_room, change_room, remove_room, room_at, snapped
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.tools.tool import PaintTool, Place

Area = tuple[int, int, int, int]
NEAR = 7  # screen px within which an edge is caught


class Rooms(PaintTool):
    id, words, icon, key, group = "room", "Rooms", "frame-corners", "Q", 2
    help = "Drag a new room, or a room or its edge; Shift lets rooms lie over each other"
    marks_cell, of_rooms = False, True

    def __init__(self, state: PaintState) -> None:
        super().__init__(state)
        self._edges: tuple[int, int] = (0, 0)  # which are dragged: -1 left or upper, 1 right or lower
        self._before: Room | None = None
        self._drawn: Area | None = None

    @property
    def room(self) -> Room | None:
        level = self.session.selection.level
        return next((r for r in level.rooms if r.id == self.state.room_id), None) if level else None

    @property
    def selects(self) -> bool:
        return self.room is not None

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        level = self.session.selection.level
        assert level is not None
        self._before, self._edges, self._drawn = self.room, (0, 0), None
        if self._before is not None:
            self._edges = self._edges_at(at, level, self._before)
        if self._edges == (0, 0):
            self._before = room_at(level, at.x, at.y)
        self.state.choose_room(self._before.id if self._before else "")

    def _edges_at(self, at: DeskEvent, level: Level, room: Room) -> tuple[int, int]:
        (cw, ch), (x, y, columns, rows) = level.cell, room.area
        box = self.state.desk.view.rect(x * cw, y * ch, columns * cw, rows * ch)
        spot = at.screen
        if not box.adjusted(-NEAR, -NEAR, NEAR, NEAR).contains(spot):
            return 0, 0
        across = -1 if abs(spot.x() - box.left()) <= NEAR else 1 if abs(spot.x() - box.right()) <= NEAR else 0
        down = -1 if abs(spot.y() - box.top()) <= NEAR else 1 if abs(spot.y() - box.bottom()) <= NEAR else 0
        return across, down

    def _area(self, end: Place) -> Area:
        """What the drag makes of the room, or the new one, snapped to others and the level."""
        level, start = self.session.selection.level, self.began
        assert level is not None and start is not None
        if self._before is None:
            x, y = min(start[0], end[0]), min(start[1], end[1])
            return snapped(level, (x, y, abs(end[0] - start[0]) + 1, abs(end[1] - start[1]) + 1))
        dx, dy = end[0] - start[0], end[1] - start[1]
        x, y, columns, rows = self._before.area
        if self._edges == (0, 0):
            return x + dx, y + dy, columns, rows
        left, right = (x + dx if self._edges[0] < 0 else x), (x + columns + (dx if self._edges[0] > 0 else 0))
        top, bottom = (y + dy if self._edges[1] < 0 else y), (y + rows + (dy if self._edges[1] > 0 else 0))
        area = (left, top, max(right - left, 1), max(bottom - top, 1))
        return snapped(level, area, self._before.id)

    def drag(self, at: DeskEvent) -> None:
        if self.began is not None:
            self._drawn = self._area(self.state.cell(at))
            self.state.desk.update()

    def dragged(self, start: Place, end: Place, at: DeskEvent) -> None:
        self.began = start
        area, before, level_id, self._drawn = self._area(end), self._before, self.ids[0], None
        self.began = None
        if before is not None:
            if area != before.area:
                words = "Move a room" if self._edges == (0, 0) else "Resize a room"
                self.session.document.edit(
                    words, lambda p: change_room(p, level_id, before.id, at.shift, area=area)
                )
            return
        if start == end:
            return
        made = ""

        def change(project: Project) -> Project:
            nonlocal made
            project, made = add_room(project, level_id, area, overlap=at.shift)
            return project

        if self.session.document.edit("Draw a room", change):
            self.state.choose_room(made)

    def cancel(self) -> None:
        super().cancel()
        self._drawn = None

    def remove(self) -> None:
        room, level_id = self.room, self.ids[0]
        if room is not None:
            self.session.document.edit(f"Remove {room.name}", lambda p: remove_room(p, level_id, room.id))

    def paint(self, painter: QPainter, room: QRectF) -> None:
        level = self.session.selection.level
        if level is None:
            return
        chosen = self.room
        if chosen is not None:
            paint_room(painter, self.state, level, chosen.area, chosen.name, True)
        if self._drawn is not None:
            words = f"{self._drawn[2]} × {self._drawn[3]} cells"
            paint_room(painter, self.state, level, self._drawn, words, True)


def paint_room(
    painter: QPainter, state: PaintState, level: Level, area: Area, words: str, strong: bool = False
) -> None:
    """The frame of a room, with its name at the upper left inside it."""
    look, (cw, ch), (x, y, columns, rows) = state.look, level.cell, area
    box = state.desk.view.rect(x * cw, y * ch, columns * cw, rows * ch)
    pens = (("art_casing", 3.0, 0.7), ("art_rust" if strong else "art_straw", 1.5, 1.0))
    for colour, wide, share in pens:
        pen = QPen(look.colour(colour, share), wide)
        if wide < 2 and not strong:
            pen.setDashPattern([6, 4])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(1, 1, -1, -1))
    if strong:
        paint_corners(painter, box, 18, look.colour("art_rust"), look.colour("art_paper"))
    if box.width() > 60 and box.height() > 30:
        room = state.desk.room
        left = max(box.left() + 5, min(room.left() + 4, box.right() - 60))
        top = max(box.top() + 5, min(room.top() + 4, box.bottom() - 24))
        tag(painter, look, left, top, words, rust=strong)
