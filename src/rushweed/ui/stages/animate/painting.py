"""What the Desk shows of an animation: the frame, those around it, its ground, its body and its path."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.animate.play import place_on
from rushweed.core.document.model.animation import Animation, Path
from rushweed.core.document.model.shape import Box
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.images import checker
from rushweed.ui.desk.marks import paint_plumb
from rushweed.ui.desk.shape_marks import ShapeMarks
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.animate.animating import Animating

Point = tuple[float, float]


class AnimationPainter:
    """Paints them, px from the pivot."""

    def __init__(self, context: Context, animating: Animating) -> None:
        self._look, self._desk, self._shown = context.look, context.desk, animating
        self._marks = ShapeMarks(self._look)

    def paint(self, painter: QPainter, room: QRectF, animation: Animation, onion: float) -> None:
        """All of it; the frames before and after show through with a strength of 0 to 1."""
        shown, player = self._shown, self._shown.player
        view, look = self._desk.view, self._look
        box = view.rect(*(shown.room().getRect()))
        painter.setBrushOrigin(box.topLeft())
        painter.fillRect(box.intersected(room), checker(look))
        moves = animation.path is not None and player.running
        moved = place_on(animation.path, player.elapsed_ms()) if animation.path and moves else (0.0, 0.0)
        if onion and not player.running:
            self._around(painter, animation, onion)
        self._frame(painter, player.place, moved)
        if animation.body is not None:
            self._body(painter, animation.body, moved)
        ground = view.to_screen(0, 0)
        for colour, wide in ((look.colour("art_paper", 0.7), 3), (look.colour("art_ink"), 1)):
            painter.setPen(QPen(colour, wide))
            painter.drawLine(QLineF(box.left() - 12, ground.y(), box.right() + 12, ground.y()))
        paint_plumb(painter, ground, ground.y() - 26, look)
        if animation.path is not None:
            self._path(painter, animation.path)
        found = shown.cell_at(player.place)
        if found is not None and found[1].shift != (0, 0):
            x, y = found[1].shift
            tag(painter, look, box.left() + 4, box.top() + 4, f"shift {x:+d}, {y:+d} px")

    def _around(self, painter: QPainter, animation: Animation, onion: float) -> None:
        count = len(animation.frames)
        for by in (-2, -1, 1, 2) if count > 1 else ():
            place = self._shown.player.place + by
            if animation.play == "loop":
                place %= count
            if 0 <= place < count and (count > abs(by) * 2 or abs(by) == 1):
                painter.setOpacity(onion / abs(by))
                self._frame(painter, place, (0.0, 0.0))
        painter.setOpacity(1)

    def _frame(self, painter: QPainter, place: int, moved: Point) -> None:
        found = self._shown.cell_at(place)
        if found is None:
            return
        sheet, cell = found
        x = cell.shift[0] - cell.pivot[0] + moved[0]
        y = cell.shift[1] - cell.pivot[1] + moved[1]
        target = self._desk.view.rect(x, y, cell.rect[2], cell.rect[3])
        painter.drawImage(target, self._desk.images.image(sheet), QRectF(*cell.rect))

    def _body(self, painter: QPainter, body: tuple[int, int, int, int], moved: Point) -> None:
        """The one body of all frames, hatched as what is solid."""
        x, y, w, h = body
        view = self._desk.view
        self._marks.paint(painter, view, [(Box(x, y, w, h), moved[0], moved[1])])
        at = view.to_screen(x + w + moved[0], y + moved[1])
        tag(painter, self._look, at.x() + 6, at.y(), f"body {w} × {h} px")

    def _path(self, painter: QPainter, path: Path) -> None:
        view, look = self._desk.view, self._look
        a, b = view.to_screen(0, 0), view.to_screen(*path.offset)
        for colour, wide in ((look.colour("art_paper", 0.8), 4), (look.colour("art_rust"), 2)):
            painter.setPen(QPen(colour, wide, Qt.PenStyle.DashLine if wide == 2 else Qt.PenStyle.SolidLine))
            painter.drawLine(a, b)
        painter.setPen(QPen(look.colour("art_paper"), 1.5))
        painter.setBrush(look.colour("art_rust"))
        painter.drawPolygon(QPolygonF([b + QPointF(*p) for p in ((-7, 0), (0, -7), (7, 0), (0, 7))]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        x, y = path.offset
        tag(painter, look, b.x() + 10, b.y() + 4, f"{x:+g}, {y:+g} px in {path.ms} ms", rust=True)
