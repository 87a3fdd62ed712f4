"""The path that was walked: a thin line with a dot each quarter of a second, and what its jumps were."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.ui.desk.marks import draw_lines
from rushweed.ui.desk.view import View
from rushweed.ui.kit.controls import tag
from rushweed.ui.kit.theme import Look
from rushweed.ui.session.walked import Jump, Walked

if TYPE_CHECKING:
    from rushweed.core.walk.reached import Reach

REACH_ROLES = {"reached": "art_reed", "one way": "art_straw", "never": "art_fault"}
WASH = 6  # px high
EVERY = 3  # steps from point to point of the line
QUARTER = 30  # steps
ASIDE = 120  # px outside the room that are still drawn
FAR = 64.0  # px between two steps that are no way: he was put somewhere else


def paint_path(painter: QPainter, look: Look, view: View, room: QRectF, walked: Walked) -> None:
    """Draw what of a path lies in the room, screen px."""
    path = walked.path
    if len(path) < 2:
        return
    kept = np.unique(np.append(np.arange(0, len(path), EVERY), len(path) - 1))
    points = path[kept] * view.zoom + np.array([view.offset.x(), view.offset.y()])
    x, y = points.T
    near = (x > room.left() - ASIDE) & (x < room.right() + ASIDE)
    near &= (y > room.top() - ASIDE) & (y < room.bottom() + ASIDE)
    cuts = np.abs(np.diff(path[kept], axis=0)).max(1) > FAR
    lines = []
    for part in np.split(np.flatnonzero(near), np.flatnonzero(_parted(near, cuts)) + 1):
        if len(part) > 1:
            lines.append(QPolygonF([QPointF(*point) for point in points[part].tolist()]))
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, wide in (("art_casing", 4.0), ("art_rust", 2.0)):
        painter.setPen(QPen(look.colour(colour), wide))
        for line in lines:
            painter.drawPolyline(line)
    painter.setPen(QPen(look.colour("art_casing"), 1))
    painter.setBrush(look.colour("art_paper"))
    dots = path[::QUARTER] * view.zoom + np.array([view.offset.x(), view.offset.y()])
    for x, y in dots.tolist():
        if room.contains(x, y):
            painter.drawEllipse(QPointF(x, y), 3, 3)
    painter.restore()


def _parted(near: np.ndarray, cuts: np.ndarray) -> np.ndarray:
    """Between which of the near points the line is cut: where others lie between, or it leaps."""
    places = np.flatnonzero(near)
    after = places[:-1]
    return (np.diff(places) > 1) | cuts[after] if len(places) > 1 else np.zeros(0, bool)


def jump_near(view: View, walked: Walked, at: QPointF, reach: float = 14) -> Jump | None:
    """The jump whose way passes a place on screen."""
    best, found = reach, None
    for jump in walked.jumps:
        way = walked.path[jump.first : jump.last + 1]
        if len(way):
            away = np.hypot(
                way[:, 0] * view.zoom + view.offset.x() - at.x(),
                way[:, 1] * view.zoom + view.offset.y() - at.y(),
            ).min()
            if away < best:
                best, found = float(away), jump
    return found


def tag_jump(painter: QPainter, look: Look, view: View, room: QRectF, walked: Walked, jump: Jump) -> None:
    """What a jump was, above its highest point."""
    way = walked.path[jump.first : jump.last + 1]
    if not len(way):
        return
    x, y = way[int(way[:, 1].argmin())]
    at = view.to_screen(float(x), float(y))
    left = min(max(at.x() - 80, room.left() + 4), room.right() - 190)
    tag(painter, look, left, max(at.y() - 26, room.top() + 4), jump.text, rust=True)


def paint_reach(painter: QPainter, look: Look, view: View, room: QRectF, found: Reach, top: bool) -> None:
    """A wash above all that one can stand on, or, from above, over all squares: reached, reached without a
    way back, never reached."""
    wide = found.side * view.zoom
    kinds: dict[str, list[tuple[float, float]]] = {"reached": [], "one way": [], "never": list(found.never)}
    for place in found.places:
        if not place.climbs:
            kinds["reached" if place.back else "one way"].append((place.x, place.y))
    painter.save()
    for kind, spots in kinds.items():
        if not spots:
            continue
        colour = look.colour(REACH_ROLES[kind], (0.1 if kind == "reached" else 0.3) if top else 0.75)
        places = np.array(spots)
        left = np.floor(places[:, 0] / found.side) * wide + view.offset.x()
        foot, high = places[:, 1] * view.zoom + view.offset.y(), float(WASH)
        if top:
            foot = (np.floor((places[:, 1] - 1 / 256) / found.side) + 1) * wide + view.offset.y()
            high = wide
        seen = (left + wide > room.left()) & (left < room.right()) & (foot > room.top())
        seen &= foot - high < room.bottom()
        pairs = zip(left[seen].tolist(), foot[seen].tolist(), strict=True)
        boxes = [QRectF(x, y - high, wide, high) for x, y in pairs]
        if kind == "never":
            painter.setPen(QPen(look.colour(REACH_ROLES[kind], 0.75), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            lines = [
                QLineF(box.left() + n, box.bottom(), box.left() + n + 4, box.bottom() - WASH)
                for box in boxes for n in range(0, max(int(wide) - 3, 1), 5)
            ]  # fmt: skip
            draw_lines(painter, lines)
            continue
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawRects(boxes)  # type: ignore[call-overload]
    painter.restore()
