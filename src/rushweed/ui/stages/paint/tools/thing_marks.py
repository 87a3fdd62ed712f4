"""What is drawn of things that are selected: corners, where edges meet, paths and their grips."""

from __future__ import annotations

from itertools import starmap

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.document.model.animation import Path
from rushweed.core.document.model.level import Thing
from rushweed.core.level.many_things import Meeting
from rushweed.core.level.things import PlacedThings, placed_things
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.state import PaintState

MOST_MARKED = 600  # things that get marks of their own; more get a wash


class ThingMarks:
    """Draws them over the level."""

    def __init__(self, state: PaintState) -> None:
        self._state, self._session = state, state.session
        # Boxes in sight, after what they were made of and where that was seen.
        self._known: tuple[tuple[object, ...], tuple[float, ...], list[QRectF]] | None = None

    def path_of(self, thing: Thing) -> Path | None:
        """Its own, or that of the animation it shows."""
        if thing.path is not None:
            return thing.path
        animation = next((a for a in self._session.project.animations if a.id == thing.shows), None)
        return animation.path if animation else None

    def end_of(self, thing: Thing) -> QPointF:
        """Where the grip of its path is, screen px: at its end, or a little above if it stands still."""
        path, view = self.path_of(thing), self._state.desk.view
        if path is None:
            return view.to_screen(*thing.at) + QPointF(0, 14)
        return view.to_screen(thing.at[0] + path.offset[0], thing.at[1] + path.offset[1])

    def paint(
        self, painter: QPainter, things: dict[str, Thing], frame: QRectF | None, meeting: Meeting | None
    ) -> None:
        """Those that are selected, by their ids, a frame dragged around some, and where edges meet."""
        look, view = self._state.look, self._state.desk.view
        boxes = self._boxes_in_sight(things)
        if len(boxes) > MOST_MARKED:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("art_rust", 0.4))
            painter.drawRects(boxes)  # type: ignore[call-overload]
            painter.setBrush(Qt.BrushStyle.NoBrush)
        else:
            for box in boxes:
                marked = box.adjusted(-2, -2, 2, 2)
                paint_corners(painter, marked, 12, look.colour("art_rust"), look.colour("art_paper"))
        if meeting is not None:
            self._paint_lines(painter, meeting)
        if frame is not None:
            painter.setPen(QPen(look.colour("art_rust"), 1.5, Qt.PenStyle.DashLine))
            painter.drawRect(view.rect(*frame.getRect()))
        if len(things) == 1:
            self._paint_path(painter, *things.values())

    def _boxes_in_sight(self, things: dict[str, Thing]) -> list[QRectF]:
        """What some things cover, screen px."""
        view, room, level = self._state.desk.view, self._state.desk.room, self._session.selection.level
        if level is None or not things:
            return []
        placed = placed_things(self._session.project, level)
        a, b = view.to_content(room.topLeft()), view.to_content(room.bottomRight())
        area = (a.x(), a.y(), b.x() - a.x(), b.y() - a.y())
        made_of, at = (placed, things), (*area, view.zoom)
        known = self._known  # where the level is drawn in several turns, all have the same
        if known is None or any(p is not q for p, q in zip(made_of, known[0], strict=True)) or known[1] != at:
            mine = [n for n in placed.within(area) if placed.things[n].id in things]
            known = self._known = made_of, at, self._boxes(placed, mine)
        return known[2]

    def _boxes(self, placed: PlacedThings, mine: list[int]) -> list[QRectF]:
        view = self._state.desk.view
        moves = placed.moves[mine]
        (left, top, right, bottom), zoom = placed.boxes[mine][~moves].T, view.zoom
        x, y = (left + 1) * zoom + view.offset.x(), (top + 1) * zoom + view.offset.y()
        wide, high = (right - left - 2) * zoom, (bottom - top - 2) * zoom
        boxes = list(starmap(QRectF, np.stack((x, y, wide, high), axis=1).tolist()))
        moving = (placed.shown(n) for n in np.array(mine, int)[moves].tolist())
        return boxes + [view.rect(*one.box()) for one in moving if one is not None]

    def _paint_lines(self, painter: QPainter, meeting: Meeting) -> None:
        """Where edges meet, and how far the nearer ends are from each other."""
        view, look = self._state.desk.view, self._state.look
        for upright, lines in ((True, meeting.upright), (False, meeting.level)):
            for at, low, high in lines:
                a = view.to_screen(at, low) if upright else view.to_screen(low, at)
                b = view.to_screen(at, high) if upright else view.to_screen(high, at)
                for colour, wide in (("art_casing", 3.0), ("art_straw", 1.5)):
                    painter.setPen(QPen(look.colour(colour), wide))
                    painter.drawLine(QLineF(a, b))
                tag(painter, look, b.x() + 6, b.y() + 2, f"{high - low:g} px")

    def _paint_path(self, painter: QPainter, thing: Thing) -> None:
        look, view = self._state.look, self._state.desk.view
        end, path = self.end_of(thing), self.path_of(thing)
        if path is not None:
            for colour, wide in ((look.colour("art_paper", 0.8), 4), (look.colour("art_rust"), 2)):
                style = Qt.PenStyle.DashLine if wide == 2 else Qt.PenStyle.SolidLine
                painter.setPen(QPen(colour, wide, style))
                painter.drawLine(view.to_screen(*thing.at), end)
            words = f"{path.offset[0]:+g}, {path.offset[1]:+g} px in {path.ms} ms"
            tag(painter, look, end.x() + 10, end.y() + 4, words, rust=True)
        painter.setPen(QPen(look.colour("art_paper"), 1.5))
        painter.setBrush(look.colour("art_rust"))
        painter.drawPolygon(QPolygonF([end + QPointF(*p) for p in ((-6, 0), (0, -6), (6, 0), (0, 6))]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
