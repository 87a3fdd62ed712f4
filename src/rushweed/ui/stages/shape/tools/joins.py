"""Which neighbours an auto-tile joins, pressed on the tiles themselves."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape import autotile
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.session.gesture import Gesture
from rushweed.ui.stages.shape.auto import AutoCard
from rushweed.ui.stages.shape.tools.tool import ShapeHands, ShapeTool

BITS = {(0, 0): 128, (1, 0): 1, (2, 0): 2, (0, 1): 64, (2, 1): 4, (0, 2): 32, (1, 2): 16, (2, 2): 8}


class JoinBrush(ShapeTool):
    """Press a side or corner of a tile to let it join there; drag to do so along many."""

    id, words, icon, key = "auto", "Auto-tile", "puzzle-piece", "A"
    help = "Press a side or corner of a tile that joins"
    group, page, dims, shows_shapes = 2, 2, False, False

    def __init__(self, hands: ShapeHands, card: AutoCard) -> None:
        super().__init__(hands)
        self._card = card
        self._done: set[tuple[str, int]] = set()
        self._gesture: Gesture | None = None
        self._on: bool | None = None

    def _zone(self, at: DeskEvent) -> tuple[Cell, int] | None:
        """The tile under the pointer and the neighbour its third is towards; 0 for its middle."""
        cell = self.pointer.cell_under(at)
        if cell is None:
            return None
        x, y, w, h = cell.rect
        column, line = min(int((at.x - x) * 3 / w), 2), min(int((at.y - y) * 3 / h), 2)
        return cell, BITS.get((column, line), 0)

    def press(self, at: DeskEvent) -> None:
        found, autoset = self._zone(at), self._card.autoset
        self._done, self._on = set(), None
        if found is None:
            return
        self.session.selection.choose_cells((found[0].id,))
        if autoset is None:
            self.session.tell("told", "There is no auto-tile set yet.", "Press + on the card.")
            return
        now = next((p.joins for p in autoset.tiles if p.cell == found[0].id), None)
        self._on = not (now is not None and now & found[1]) if found[1] else now is None
        if at.right:
            self._on = False
        self.drag(at)

    def drag(self, at: DeskEvent) -> None:
        found, autoset = self._zone(at), self._card.autoset
        if found is None or autoset is None or self._on is None or (found[0].id, found[1]) in self._done:
            return
        cell, bit = found
        self._done.add((cell.id, bit))
        now = next((p.joins for p in autoset.tiles if p.cell == cell.id), None)
        if bit and autoset.by == "edges" and bit not in autotile.SIDES:
            return
        if bit and autoset.by == "corners" and bit not in autotile.CORNERS:
            return
        joins: int | None
        if not bit:
            joins = (now or 0) if self._on else None
        elif self._on:
            joins = (now or 0) | bit | sum(autotile.BESIDE.get(bit, ()) if autoset.by == "both" else ())
        else:
            joins = (now or 0) & ~bit
        set_id = autoset.id
        self._gesture = self._gesture or self.session.document.gesture("Joins of a tile")
        self._gesture.update(lambda p: autotile.set_joins(p, set_id, cell.id, joins))

    def release(self, at: DeskEvent) -> None:
        if self._gesture is not None:
            self._gesture.commit()
        self.cancel()

    def cancel(self) -> None:
        self._done, self._on, self._gesture = set(), None, None

    def refresh_page(self) -> None:
        self._card.refresh()

    def paint(self, painter: QPainter, room: QRectF) -> None:
        sheet, autoset = self.session.selection.sheet, self._card.autoset
        view, look = self.desk.view, self.look
        if sheet is None or autoset is None:
            return
        joins = {p.cell: p for p in autoset.tiles}
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for cell in sheet.cells:
            box = view.rect(*cell.rect)
            if cell.id not in joins or not box.intersects(room):
                continue
            self._joins(painter, box, joins[cell.id].joins)
            if joins[cell.id].weight != 1 and box.width() > 40:
                tag(painter, look, box.left() + 3, box.top() + 3, f"×{joins[cell.id].weight:g}")
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _joins(self, painter: QPainter, box: QRectF, mask: int) -> None:
        """A spoke from the middle towards each neighbour that joins, and a knot where it stands."""
        look, middle = self.look, box.center()
        reach = box.width() * 0.38
        wide = max(min(box.width() / 12, 5), 2)
        for colour, extra in (("art_casing", 2.0), ("art_straw", 0.0)):
            painter.setPen(QPen(look.colour(colour), wide + extra, cap=Qt.PenCapStyle.RoundCap))
            for bit, (dx, dy) in autotile.STEPS.items():
                if mask & bit:
                    painter.drawLine(middle, middle + QPointF(dx * reach, dy * reach))
        knot = max(wide, 3)
        painter.setPen(QPen(look.colour("art_casing"), 1))
        painter.setBrush(look.colour("art_straw"))
        painter.drawPolygon(
            QPolygonF([middle + QPointF(*p) for p in ((0, -knot), (knot, 0), (0, knot), (-knot, 0))])
        )
