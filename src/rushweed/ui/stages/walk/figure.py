"""What of the walker is seen: the frame of the moment, or his body where there is none."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QTransform

from rushweed.core.animate.play import frame_at
from rushweed.core.document.model.animation import Animation
from rushweed.core.document.model.project import Project
from rushweed.core.document.model.sheet import Cell, Sheet
from rushweed.core.walk.terms import AIR, CLIMB, FACING, LANDED, MODE, STEPS, VX, VY
from rushweed.core.walk.walkers import LANDING_MS, shown_when
from rushweed.ui.desk.context import Context
from rushweed.ui.desk.level_paint import DrawnFigure

if TYPE_CHECKING:
    from rushweed.core.walk.record import Walk

MOST_KEPT = 256  # images of frames
SLOW = 2000  # 1/65536 px a step, below which he stands
INSTEAD = {  # what is shown where a moment has no animation
    "landing": ("standing",), "rising": ("falling", "running", "standing"),
    "falling": ("rising", "running", "standing"), "climbing": ("rising", "standing"),
    "running": ("standing",), "standing": ("running",),
}  # fmt: skip


class Figure:
    """Keeps the images of frames, and since when which moment is shown."""

    def __init__(self, context: Context) -> None:
        self.session, self.look, self.desk = context.session, context.look, context.desk
        self._images: dict[tuple[object, ...], QImage] = {}
        self._shown: tuple[tuple[object, ...], dict[str, Animation]] = ((), {})
        self._since = ("", 0)

    def animations(self, project: Project, walk: Walk) -> dict[str, Animation]:
        key = (project.animations, walk.walker)
        if self._shown[0] != key:
            self._shown = (key, shown_when(project, walk.walker))
        return self._shown[1]

    def moment(self, walk: Walk) -> str:
        """What he is doing."""
        state = walk.state
        if state[MODE] == CLIMB:
            return "climbing"
        top = walk.world.level.view != "side"
        if state[MODE] == AIR and not top:
            return "rising" if state[VY] < 0 else "falling"
        moves = abs(int(state[VX])) > SLOW or top and abs(int(state[VY])) > SLOW
        if moves:
            return "running"
        just_landed = int(state[LANDED]) * 1000 < LANDING_MS * STEPS
        return "landing" if just_landed and not top else "standing"

    def drawn(self, walk: Walk, feet: tuple[float, float]) -> DrawnFigure:
        """Him as he is to be drawn now, with his feet at a place."""
        project = self.session.project
        shown, moment = self.animations(project, walk), self.moment(walk)
        if moment == "landing" and moment not in shown:
            moment = "standing"
        if moment != self._since[0] or walk.step < self._since[1]:
            self._since = (moment, walk.step)
        name = next((n for n in (moment, *INSTEAD[moment]) if n in shown), None)
        if name is None or not shown[name].frames:
            return self._box(walk, feet)
        animation = shown[name]
        ms = (walk.step - self._since[1]) * 1000 / STEPS
        if moment == "climbing":  # by the way he makes, a frame each few px
            ms = abs(feet[1]) * 12
        found = self.session.cells_by_id.get(animation.frames[frame_at(animation, ms)].cell)
        if found is None:
            return self._box(walk, feet)
        return self._frame(*found, walk, feet)

    def _frame(self, sheet: Sheet, cell: Cell, walk: Walk, feet: tuple[float, float]) -> DrawnFigure:
        image = self.desk.images.image(sheet)
        left = int(walk.state[FACING]) < 0
        key = (cell.id, cell.rect, left, image.cacheKey())
        if key not in self._images:
            if len(self._images) > MOST_KEPT:
                self._images.clear()
            part = image.copy(QRect(*cell.rect))
            self._images[key] = part.transformed(QTransform(-1, 0, 0, 1, 0, 0)) if left else part
        x, y, wide, high = walk.body
        across = cell.pivot[0] - cell.shift[0] + x + wide / 2
        if left:
            across = cell.rect[2] - (cell.pivot[0] - cell.shift[0]) + x + wide / 2
        return DrawnFigure(self._images[key], feet, (across, cell.pivot[1] - cell.shift[1] + y + high))

    def _box(self, walk: Walk, feet: tuple[float, float]) -> DrawnFigure:
        """His body, with a mark to the side he looks to."""
        wide, high = walk.body[2:]
        left = int(walk.state[FACING]) < 0
        key = ("box", wide, high, left, self.look.theme)
        if key not in self._images:
            image = QImage(wide, high, QImage.Format.Format_ARGB32_Premultiplied)
            image.fill(self.look.colour("art_rust"))
            painter = QPainter(image)
            painter.setPen(self.look.colour("art_ink"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0, 0, wide - 1, high - 1))
            eye = QRectF(1 if left else wide - 3, min(3, high / 4), 2, 2)
            painter.fillRect(eye, self.look.colour("art_paper"))
            painter.end()
            self._images[key] = image
        return DrawnFigure(self._images[key], feet, (wide / 2, high))
