"""Brushing the chosen trait over tiles, and what tiles say of themselves, drawn on them."""

from __future__ import annotations

from collections.abc import Collection

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from rushweed.core.document.model.project import Project
from rushweed.core.document.model.shape import Trait
from rushweed.core.document.model.sheet import Cell
from rushweed.core.shape import traits
from rushweed.ui.desk.event import DeskEvent
from rushweed.ui.kit.controls import tag
from rushweed.ui.stages.shape.tools.brushes import TileBrush
from rushweed.ui.stages.shape.tools.tool import ShapeHands
from rushweed.ui.stages.shape.traits import TraitCard

LEAST_TAG = 30  # screen px of a cell from which its tags are written out


class TraitBrush(TileBrush):
    """The right button, or Alt, takes the trait back."""

    id, words, icon, key = "trait", "Traits", "tag", "T"
    help = "Brush the chosen trait; the right button takes it back"
    group, page, dims = 2, 1, False

    def __init__(self, hands: ShapeHands, card: TraitCard) -> None:
        super().__init__(hands)
        self._card = card
        self._away = False

    def begun(self, at: DeskEvent) -> str:
        self._away = at.right or at.alt
        return self.told()

    def changed(self, project: Project, ids: Collection[str]) -> Project:
        value = None if self._away else self._card.value()
        return traits.tell(project, ids, self._card.trait().id, value)

    def told(self) -> str:
        return self._card.trait().name

    def refresh_page(self) -> None:
        self._card.refresh()

    def paint(self, painter: QPainter, room: QRectF) -> None:
        sheet, view = self.session.selection.sheet, self.desk.view
        known = {t.id: t for t in traits.traits_of(self.session.project)}
        for cell in sheet.cells if sheet is not None else ():
            if not cell.traits:
                continue
            box = view.rect(*cell.rect)
            if box.intersects(room):
                self._marks(painter, box, cell, known)

    def _marks(self, painter: QPainter, box: QRectF, cell: Cell, known: dict[str, Trait]) -> None:
        look, zoom = self.look, self.desk.view.zoom
        y = box.bottom() - 20
        for told in cell.traits:
            trait = known.get(told.trait)
            if trait is None:
                continue
            if trait.kind == "sides":
                for side in str(told.value).split():
                    self._entry(painter, box, side)
                continue
            if trait.id == traits.OVER.id:
                line = box.bottom() - float(told.value) * zoom
                painter.setPen(QPen(look.colour("art_paper", 0.7), 3))
                painter.drawLine(QPointF(box.left(), line), QPointF(box.right(), line))
                painter.setPen(QPen(look.colour("art_ink"), 1, Qt.PenStyle.CustomDashLine))
                pen = painter.pen()
                pen.setDashPattern([4, 4])
                painter.setPen(pen)
                painter.drawLine(QPointF(box.left(), line), QPointF(box.right(), line))
            text = traits.short_value(trait, told.value)
            wide = LEAST_TAG + 6 * len(text) * 0.6 if trait.id == self._card.chosen else 80
            if box.width() >= wide and box.height() >= LEAST_TAG:
                tag(painter, look, box.left() + 4, y, text, rust=trait.id == self._card.chosen)
                y -= 18
            else:  # too small for words: a mark in the corner
                mark = QRectF(box.left() + 2, box.bottom() - 7, 5, 5)
                painter.fillRect(mark.adjusted(-1, -1, 1, 1), look.colour("art_ink"))
                chosen = trait.id == self._card.chosen
                painter.fillRect(mark, look.colour("art_rust" if chosen else "art_paper"))

    def _entry(self, painter: QPainter, box: QRectF, side: str) -> None:
        """A triangle at the side that lets one in, pointing in; smaller on small tiles."""
        look = self.look
        half, deep = (6.0, 8.0) if box.width() >= LEAST_TAG else (3.0, 4.0)
        middle = box.center()
        ends = {
            "top": (QPointF(middle.x(), box.top() + 2), (1, 0), (0, 1)),
            "bottom": (QPointF(middle.x(), box.bottom() - 2), (1, 0), (0, -1)),
            "left": (QPointF(box.left() + 2, middle.y()), (0, 1), (1, 0)),
            "right": (QPointF(box.right() - 2, middle.y()), (0, 1), (-1, 0)),
        }
        at, along, inward = ends[side]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(look.colour("art_ink"), 1))
        painter.setBrush(look.colour("art_sensor"))
        painter.drawPolygon(
            at + QPointF(along[0] * half, along[1] * half), at - QPointF(along[0] * half, along[1] * half),
            at + QPointF(inward[0] * deep, inward[1] * deep),
        )  # fmt: skip
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
