"""The game on the Desk: its picture enlarged by whole numbers, or the window's px, with marks over it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QImage, QPainter, QPen

from rushweed.core.document.model.level import Level
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape.traits import short_value, trait_of, value_of
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.laid_shapes import placed_shapes
from rushweed.ui.desk.level_paint import Onto
from rushweed.ui.desk.marks import paint_corners
from rushweed.ui.desk.rulers import THICK
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.desk.view import View
from rushweed.ui.desk.walk_marks import jump_near, paint_path, paint_reach, tag_jump
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.walk.figure import Figure
from rushweed.ui.stages.walk.keys import WalkKeys, name_of
from rushweed.ui.stages.walk.play import Play
from rushweed.ui.stages.walk.reach_job import ReachJob
from rushweed.ui.stages.walk.time_line import HIGH, TimeLine
from rushweed.ui.stages.walk.walk_line import WalkLine

if TYPE_CHECKING:
    from rushweed.core.walk.record import Walk

MARGIN = 3  # px of the Desk around the picture
FOOT = HIGH + 30  # px below it, for the time line and what the keys do
GRIP = 8  # px beside the wipe at which it can be taken


class WalkParts(NamedTuple):
    """What the game is drawn from."""

    play: Play
    line: WalkLine
    keys: WalkKeys
    reach: ReachJob


class Game:
    """Draws it; the Desk's view follows the camera, so that places on screen are level px."""

    def __init__(self, context: Context, parts: WalkParts) -> None:
        self.session, self.look, self.desk = context.session, context.look, context.desk
        self.play, self.shown, self.keys, self.reach = parts
        self.figure, self.line = Figure(context), TimeLine(self.look, self.play)
        self.marks = ShapeMarks(self.look)
        self.box = QRectF()  # the picture on screen
        self.wipe = 0.5  # share of the picture's width
        self._at: QPointF | None = None
        self._low = QImage()

    @property
    def mode(self) -> str:
        return self.shown.mode.value or "picture"

    # -- places ----------------------------------------------------------------------------------------

    def fit(self) -> None:
        """How large the picture is shown: the largest whole multiple that fits, or the whole window."""
        if self.session.selection.level is None or self.session.stage != "walk":
            return
        room, view = self.desk.room, self.desk.view
        wide, high = (int(v) for v in self.shown.size.values)
        most = min((room.width() - 2 * MARGIN) / wide, (room.height() - MARGIN - FOOT) / high)
        view.zoom, view.fitted = max(int(most * view.ratio), 1) / view.ratio, True
        self._place()
        self.desk.zoomed.emit(view.words())

    def _place(self) -> None:
        room, view = self.desk.room, self.desk.view
        zoom = view.zoom = max(int(view.zoom * view.ratio + 0.01), 1) / view.ratio
        if self.mode == "window":
            box = QRectF(room.left(), room.top(), room.width(), room.height() - FOOT)
            self.play.picture = (box.width() / zoom, box.height() / zoom)
        else:
            wide, high = (int(v) for v in self.shown.size.values)
            left = room.left() + (room.width() - wide * zoom) / 2
            top = room.top() + max((room.height() - FOOT - high * zoom) / 2, 0)
            box = QRectF(round(left), round(top), wide * zoom, high * zoom)
            self.play.picture = (wide, high)
        self.box = box
        x, y = self.play.camera.corner(self.play.picture, self.shown.snap.on or self.mode != "window")
        view.offset = QPointF(box.left() - x * zoom, box.top() - y * zoom)

    def repaint(self) -> None:
        """Only the picture and what is below it."""
        part = self.box.united(self.line.box).adjusted(-30, -30, 30, 30)
        self.desk.repaint_part(part.intersected(self.desk.room).toAlignedRect())
        self.desk.update(0, 0, self.desk.width(), int(THICK))
        self.desk.update(0, 0, int(THICK), self.desk.height())

    def pointed(self, at: QPointF | None) -> None:
        self._at = at

    def on_wipe(self, at: QPointF) -> bool:
        return self.mode == "both" and self.box.contains(at) and abs(at.x() - self._wipe_x()) <= GRIP

    def _wipe_x(self) -> float:
        return round(self.box.left() + self.box.width() * self.wipe)

    def set_wipe(self, at: QPointF) -> None:
        self.wipe = min(max((at.x() - self.box.left()) / max(self.box.width(), 1), 0.0), 1.0)
        self.desk.update()

    # -- drawing ---------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, room: QRectF) -> None:
        level, walk = self.session.selection.level, self.play.walk
        if level is None:
            return
        self._place()
        box = self.box.intersected(self.desk.room)
        if walk is None or walk.world.level.id != level.id:
            words = "getting ready …"
            if self.play.fault is not None:
                words = self.play.fault.problem
                self._without_him(painter, box, level)
            tag(painter, self.look, box.left() + 12, box.top() + 12, words)
            return
        painter.save()
        painter.setClipRect(box, Qt.ClipOperation.IntersectClip)
        if self.mode == "window":
            self._draw(painter, self.desk.view, self.box, level, walk, self.shown.snap.on)
        else:
            self._low_picture(painter, level, walk)
            if self.mode == "both":
                right = QRectF(self.box)
                right.setLeft(self._wipe_x())
                painter.save()
                painter.setClipRect(right, Qt.ClipOperation.IntersectClip)
                self._draw(painter, self.desk.view, self.box, level, walk, False)
                painter.restore()
        self._over(painter, level, walk)
        painter.restore()
        if self.mode != "window":
            paint_corners(
                painter, self.box, 27, self.look.colour("art_paper"), self.look.colour("art_casing", 0.7)
            )
        if self.mode == "both":
            self._paint_wipe(painter)
        self._below(painter)
        if self.desk.level_painter.unfinished:
            QTimer.singleShot(0, self.desk.update)

    def _draw(
        self, painter: QPainter, view: View, box: QRectF, level: Level, walk: Walk, snaps: bool
    ) -> None:
        """The level and him at a view."""
        pen = self.desk.level_painter
        pen.ms, pen.snaps, pen.alone = walk.ms + 1, snaps, ""
        wide, high = self.play.picture
        pen.picture = (round(wide), round(high))
        pen.pushed = {
            shown.thing.id: (place.x, place.y, math.degrees(place.turn))
            for (shown, _shapes), place in zip(walk.bodies.things, walk.bodies.at(walk.step), strict=True)
        }
        pen.walker = self.figure.drawn(walk, self.play.feet())
        painter.fillRect(box, self.look.colour("art_casing"))
        pen.paint(Onto(painter, view, box), self.session.project, level)

    def _without_him(self, painter: QPainter, box: QRectF, level: Level) -> None:
        """The level as it is, where nobody can walk in it."""
        pen, look = self.desk.level_painter, self.look
        pen.ms, pen.snaps, pen.alone, pen.pushed, pen.walker = 0.0, True, "", {}, None
        painter.save()
        painter.setClipRect(box, Qt.ClipOperation.IntersectClip)
        painter.fillRect(box, look.colour("art_casing"))
        pen.paint(Onto(painter, self.desk.view, box), self.session.project, level)
        painter.restore()

    def _low_picture(self, painter: QPainter, level: Level, walk: Walk) -> None:
        """The game's own px, then each as large as it is shown."""
        wide, high = (round(v) for v in self.play.picture)
        if (self._low.width(), self._low.height()) != (wide, high):
            self._low = QImage(wide, high, QImage.Format.Format_RGB32)
        x, y = self.play.camera.corner((wide, high))
        view = View()
        view.zoom, view.offset = 1.0, QPointF(-x, -y)
        inner = QPainter(self._low)
        self._draw(inner, view, QRectF(0, 0, wide, high), level, walk, self.shown.snap.on)
        inner.end()
        painter.drawImage(self.box, self._low)

    def _over(self, painter: QPainter, level: Level, walk: Walk) -> None:
        """Reach, shapes, what he touches, and the path."""
        view, look = self.desk.view, self.look
        found = self.reach.found
        if self.shown.reached.on and found is not None and found.level == level.id:
            paint_reach(painter, look, view, self.box, found, level.view != "side")
        a, b = view.to_content(self.box.topLeft()), view.to_content(self.box.bottomRight())
        if self.shown.shapes.on:
            placed = placed_shapes(level, self.session.cells_by_id, (a.x(), a.y(), b.x(), b.y()))
            self.marks.paint_merged(painter, view, placed)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("art_rust"), 1.5))
            painter.drawRect(self._body_box(walk))
        if self.shown.touched.on:
            self._paint_touched(painter, level, walk)
        if self.shown.path.on:
            walked = self.play.log.walked(walk)
            paint_path(painter, look, view, self.box, walked)
            jump = jump_near(view, walked, self._at) if self._at is not None else None
            last = walked.jumps[-1] if walked.jumps else None
            shown = jump or (last if last and len(walked.path) - last.last < 240 else None)
            if shown is not None:
                tag_jump(painter, look, view, self.box, walked, shown)

    def _body_box(self, walk: Walk) -> QRectF:
        x, y = self.play.feet()
        wide, high = walk.body[2:]
        return self.desk.view.rect(x - wide / 2, y - high, wide, high)

    def _paint_touched(self, painter: QPainter, level: Level, walk: Walk) -> None:
        view, look, (cw, ch) = self.desk.view, self.look, level.cell
        touched = walk.world.touched(walk.box)
        for _cell, (column, line) in touched:
            box = view.rect(column * cw, line * ch, cw, ch)
            painter.fillRect(box, look.colour("art_straw", 0.43))
            painter.setPen(QPen(look.colour("art_straw"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
        under = [one for one in touched if one[1][1] * ch >= walk.feet[1] - ch]
        if under:
            cell, (column, line) = max(
                under, key=lambda one: (one[1][1], -abs((one[1][0] + 0.5) * cw - walk.feet[0]))
            )
            box = view.rect(column * cw, line * ch, cw, ch)
            tag(painter, look, box.left(), box.bottom() + 6, self.words_of(cell))

    def words_of(self, cell: Cell) -> str:
        """A tile's name, what its traits say, and its group."""
        project = self.session.project
        words = [cell.name]
        for told in cell.traits:
            trait, value = trait_of(project, told.trait), value_of(cell, told.trait)
            if value is not None:
                words.append(short_value(trait, value))
        groups = {g.id: g.name for g in project.groups}
        words += [groups[i] for i in dict.fromkeys(s.group for s in cell.shapes) if i in groups]
        words += [r for r in dict.fromkeys(s.role for s in cell.shapes) if r == "one-way"]
        return "  ".join(words)

    def _paint_wipe(self, painter: QPainter) -> None:
        x, look = self._wipe_x(), self.look
        for colour, wide in (("art_ink", 3), ("art_paper", 1)):
            painter.setPen(QPen(look.colour(colour), wide))
            painter.drawLine(QPointF(x, self.box.top()), QPointF(x, self.box.bottom()))
        painter.setPen(look.colour("art_ink"))
        painter.setBrush(look.colour("art_paper"))
        painter.drawRect(QRectF(x - 4, self.box.center().y() - 10, 8, 20))
        tag(painter, look, x - 90, self.box.bottom() - 22, "game picture")
        tag(painter, look, x + 8, self.box.bottom() - 22, "window")

    def _below(self, painter: QPainter) -> None:
        """The time line, and what the keys do."""
        room = self.desk.room
        top = min(self.box.bottom() + 8, room.bottom() - FOOT + 4)
        left, wide = self.box.left(), self.box.width()
        if wide < 420:
            left, wide = room.center().x() - 210, 420
        self.line.paint(painter, QRectF(left, top, wide, HIGH))
        keys = self.keys.keys
        words = [f"hold {name_of(int(keys['back'][0]))}: back in time", "Shift-press: stand here",
                 "P: back to Paint, here"]  # fmt: skip
        if self.play.paused:
            words.insert(0, "time stands: X")
        elif self.play.replaying:
            words.insert(0, "a run is shown")
        painter.setFont(self.look.font(11))
        painter.setPen(self.look.colour("art_paper"))
        painter.drawText(
            QRectF(left, top + HIGH + 2, wide, 18), Qt.AlignmentFlag.AlignVCenter, "     ".join(words)
        )

    # -- words -----------------------------------------------------------------------------------------

    def describe(self, at: DeskEvent, level: Level) -> str:
        """What is under the pointer: the place, a jump, or the tiles he touches."""
        walk = self.play.walk
        assert walk is not None
        text = f"{at.x / walk.ppu:.2f}, {at.y / walk.ppu:.2f} u"
        jump = jump_near(self.desk.view, self.play.log.walked(walk), at.screen)
        if jump is not None:
            return f"{text}   jump: {jump.text}"
        touched = walk.world.touched(walk.box)
        if touched:
            text += "   touches " + ", ".join(self.words_of(cell) for cell, _spot in touched[:3])
        return text
