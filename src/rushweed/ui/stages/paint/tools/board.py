"""All levels on one board, where they touch: the others stand around the one in use and are dragged."""

from __future__ import annotations

from functools import cached_property

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.model.level import Level
from rushweed.core.level.levels import board_places, change_level
from rushweed.core.level.many_things import meeting
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.paint.small_levels import SmallLevels
from rushweed.ui.stages.paint.state import PaintState
from rushweed.ui.stages.paint.tools.tool import PaintTool

MOST = (512, 512)  # px of a level's picture


class LevelBoard(PaintTool):
    id, words, icon, key, group = "board", "Levels beside each other", "squares-four", "Z", 2
    help = "Drag another level to where it touches; a press on it goes there"
    marks_cell = False

    def __init__(self, state: PaintState) -> None:
        super().__init__(state)
        self._dragged: Level | None = None
        self._start = self._step = (0.0, 0.0)

    @cached_property
    def _pictures(self) -> SmallLevels:
        """They go with the Desk, which is there when the tool is first used."""
        desk = self.state.desk
        made = SmallLevels(self.session, MOST, desk)
        made.made.connect(desk.update)
        return made

    def boxes(self) -> dict[str, QRectF]:
        """Where each other level lies beside this one, level px of this one."""
        level, project = self.session.selection.level, self.session.project
        if level is None:
            return {}
        places = board_places(project)
        here, made = places[level.id], {}
        for other in project.levels:
            if other.id != level.id:
                (left, top, columns, rows), (cw, ch) = other.bounds, other.cell
                x, y = places[other.id]
                box = QRectF(x - here[0] + left * cw, y - here[1] + top * ch, columns * cw, rows * ch)
                if self._dragged is not None and self._dragged.id == other.id:
                    box.translate(*self._step)
                made[other.id] = box
        return made

    def press(self, at: DeskEvent) -> None:
        super().press(at)
        self._step, self._start = (0.0, 0.0), (at.x, at.y)
        spot = QPointF(at.x, at.y)
        found = next((i for i, box in self.boxes().items() if box.contains(spot)), "")
        self._dragged = next((v for v in self.session.project.levels if v.id == found), None)

    def drag(self, at: DeskEvent) -> None:
        if self._dragged is None:
            return
        self._step = (0.0, 0.0)
        boxes = self.boxes()
        mine = boxes.pop(self._dragged.id).translated(at.x - self._start[0], at.y - self._start[1])
        others = [*boxes.values(), self.state.content()]
        near = 12 / self.state.desk.view.zoom
        found = meeting(_corners(mine), [_corners(box) for box in others], near)
        self._step = (
            round(at.x - self._start[0] + found.dx), round(at.y - self._start[1] + found.dy),
        )  # fmt: skip
        self.state.desk.update()

    def release(self, at: DeskEvent) -> None:
        super().release(at)
        level, dragged, step = self.session.selection.level, self._dragged, self._step
        self._dragged, self._step = None, (0.0, 0.0)
        if level is None or dragged is None:
            return
        if step == (0, 0):
            self.session.selection.choose_level(dragged.id)
            return
        places = board_places(self.session.project)
        x, y = places[dragged.id]
        here, place = places[level.id], (int(x + step[0]), int(y + step[1]))
        self.session.document.edit(
            f"Put {dragged.name} beside {level.name}",
            lambda p: change_level(change_level(p, level.id, board=here), dragged.id, board=place),
        )

    def cancel(self) -> None:
        super().cancel()
        self._dragged, self._step = None, (0.0, 0.0)

    def paint(self, painter: QPainter, room: QRectF) -> None:
        look, view = self.state.look, self.state.desk.view
        by_id = {v.id: v for v in self.session.project.levels}
        for level_id, box in self.boxes().items():
            place = view.rect(*box.getRect())
            if not place.intersects(room):
                continue
            painter.fillRect(place, look.colour("art_casing", 0.35))
            if (image := self._pictures.of(by_id[level_id])) is not None:
                painter.drawImage(place, image)
            dragged = self._dragged is not None and self._dragged.id == level_id
            painter.setPen(QPen(look.colour("art_rust" if dragged else "art_straw"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(place)
            tag(painter, look, place.left() + 5, place.top() + 5, by_id[level_id].name, rust=dragged)


def _corners(box: QRectF) -> tuple[float, float, float, float]:
    return box.left(), box.top(), box.right(), box.bottom()
