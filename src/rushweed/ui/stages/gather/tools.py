"""The tools of Gather: select, compare with the file, pick a colour."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.document.model.base import Colour
from rushweed.core.document.model.sheet import Sheet
from rushweed.core.document.model.steps import KeyColour, ReplaceColour
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.desk.images import image_of
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.sheet_pointer import SheetPointer, SheetTool


class Wipe(SheetTool):
    """The picture as it is in its file, left of a line that is dragged."""

    id, words, icon, key = "wipe", "Before and after", "circle-half", "W"
    help = "Drag the line; left of it is the file"
    group = 1
    _share = 0.5  # of the picture's width at which the line stands
    _before: tuple[object, object] = (None, None)

    def press(self, at: DeskEvent) -> None:
        self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None:
            self._share = min(max(at.x / sheet.source.size[0], 0.0), 1.0)

    def release(self, at: DeskEvent) -> None:
        """The line stays where it is."""

    def cursor(self) -> Qt.CursorShape:
        return Qt.CursorShape.SplitHCursor

    def paint(self, painter: QPainter, room: QRectF) -> None:
        sheet = self.session.selection.sheet
        if sheet is None:
            return
        view, look = self.desk.view, self.look
        box = view.rect(0, 0, *sheet.source.size)
        line = round(box.left() + self._share * box.width())
        left = QRectF(box.left(), box.top(), line - box.left(), box.height()).intersected(room)
        if self._before[0] != sheet.source.sha256:
            self._before = (sheet.source.sha256, image_of(self._raw(sheet)))
        image = self._before[1]
        painter.save()
        painter.setClipRect(left, Qt.ClipOperation.IntersectClip)
        painter.fillRect(left, look.colour("desk"))
        painter.drawImage(box, image)  # type: ignore[call-overload]
        painter.restore()
        painter.setPen(QPen(look.colour("art_casing", 0.8), 4))
        painter.drawLine(QLineF(line, box.top() - 8, line, box.bottom() + 8))
        painter.setPen(QPen(look.colour("art_paper"), 2))
        painter.drawLine(QLineF(line, box.top() - 8, line, box.bottom() + 8))
        painter.setBrush(look.colour("art_rust"))
        painter.setPen(QPen(look.colour("art_paper"), 1.5))
        middle = box.center().y()
        grip = [(line - 7, middle), (line, middle - 7), (line + 7, middle), (line, middle + 7)]
        painter.drawPolygon(QPolygonF([QPointF(*p) for p in grip]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        tag(painter, look, max(box.left(), room.left()) + 4, box.top() + 4, "file")
        tag(painter, look, min(box.right(), room.right()) - 62, box.top() + 4, "prepared")

    def _raw(self, sheet: Sheet) -> np.ndarray:
        bare = replace(
            sheet, source=replace(sheet.source, steps=(), size=sheet.source.raw or sheet.source.size)
        )
        return self.session.stock.pixels_or_blank(bare)


class PickColour(SheetTool):
    """A colour of the art, for the step that waits for one."""

    id, words, icon, key = "pick", "Pick a colour", "eyedropper", "P"
    help = "The key colour, or one to exchange"
    group = 1

    def __init__(self, pointer: SheetPointer, took: Callable[[Colour, int | None], object]) -> None:
        super().__init__(pointer)
        self.for_step: int | None = None  # the number of the step that is to be given the colour
        self._took = took  # who is given it

    def press(self, at: DeskEvent) -> None:
        sheet = self.session.selection.sheet
        if sheet is not None and 0 <= at.x < sheet.source.size[0] and 0 <= at.y < sheet.source.size[1]:
            r, g, b, alpha = self._pickable(sheet)[int(at.y), int(at.x)].tolist()
            if alpha:
                self._took((r, g, b), self.for_step)
            else:
                self.session.tell("told", "That place is clear.", "Press a colour of the art.")

    def drag(self, at: DeskEvent) -> None:
        """One press picks."""

    def release(self, at: DeskEvent) -> None:
        """One press picks."""

    def cancel(self) -> None:
        self.for_step = None

    def _pickable(self, sheet: Sheet) -> np.ndarray:
        """The picture that colours are picked from: as the step to be filled finds it."""
        steps = sheet.source.steps
        colours = (n for n, s in enumerate(steps) if isinstance(s, (KeyColour, ReplaceColour)))
        last = self.for_step if self.for_step is not None else next(colours, len(steps))
        without = tuple(
            replace(s, on=False) if n >= last and isinstance(s, (KeyColour, ReplaceColour)) else s
            for n, s in enumerate(steps)
        )
        bare = replace(sheet, source=replace(sheet.source, steps=without))
        return self.session.stock.pixels_or_blank(bare)
